"""What a brief may say to web apps alone."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.brief.model import PlatformOptions

_Words = Annotated[str, Meta(min_length=1)]

_Name = Annotated[str, Meta(min_length=1)]


class WebTable(PlatformOptions, frozen=True, kw_only=True):
    """[web]: what only installed web apps have."""

    manifest: (
        Annotated[
            str,
            Meta(
                description='the path of a web app manifest, such as "web/app.webmanifest", or a list of paths and patterns; if omitted, all',
                min_length=1,
            ),
        ]
        | Annotated[list[_Name], Meta(min_length=1)]
        | None
    ) = None
    look: Annotated[
        Literal["light", "dark"],
        Meta(
            description='the look of the icons and of the manifest\'s colours, "light" or "dark": it has one for both'
        ),
    ] = "light"
    screens: (
        Annotated[
            Literal["all", "current"],
            Meta(
                description='for which iPhones and iPads startup images are made: "all", "current" or a list of words'
            ),
        ]
        | Annotated[list[_Words], Meta(min_length=1)]
    ) = "all"
    icons: (
        Annotated[
            bool,
            Meta(
                description="true or false: whether the manifest's icons of 192 and 512 px are made, and others of these sizes replaced; if omitted, those that are missing are added"
            ),
        ]
        | None
    ) = None
    theme: (
        Annotated[
            bool,
            Meta(
                description="true or false: whether theme_color and the pages' theme colours are set to the grounds; if omitted, only when they are missing"
            ),
        ]
        | None
    ) = None
    startup: (
        Annotated[
            bool,
            Meta(
                description="true or false: whether startup images for the home screens of iPhones and iPads are made; if omitted, where a page links the manifest"
            ),
        ]
        | None
    ) = None
    folder: Annotated[
        str, Meta(description="the folder of the images, next to the manifest, as text", min_length=1, max_length=40)
    ] = "rivelt"

    @property
    def chosen(self) -> tuple[str, tuple[str, ...]]:
        """The web app manifests that are meant."""
        return "manifest", (self.manifest,) if isinstance(self.manifest, str) else tuple(self.manifest or ())
