"""What a brief may say to Windows alone."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.brief.model import PlatformOptions

_Name = Annotated[str, Meta(min_length=1)]


class WindowsTable(PlatformOptions, frozen=True, kw_only=True):
    """[windows]: what only Windows packages have."""

    manifest: (
        Annotated[
            str,
            Meta(
                description='the path of a package manifest, such as "windows/Package.appxmanifest", or a list of paths and patterns; if omitted, all',
                min_length=1,
            ),
        ]
        | Annotated[list[_Name], Meta(min_length=1)]
        | None
    ) = None
    look: Annotated[
        Literal["light", "dark"],
        Meta(description='the look that is shown, "light" or "dark": Windows knows one colour for both'),
    ] = "light"
    high_contrast: Annotated[
        bool, Meta(description="true or false: whether images for the high-contrast themes are made")
    ] = False
    prefix: Annotated[
        str, Meta(description="what generated file names begin with, as text", min_length=1, max_length=40)
    ] = "Rivelt"

    @property
    def chosen(self) -> tuple[str, tuple[str, ...]]:
        """The package manifests that are meant."""
        return "manifest", (self.manifest,) if isinstance(self.manifest, str) else tuple(self.manifest or ())
