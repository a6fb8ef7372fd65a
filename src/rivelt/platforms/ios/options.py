"""What a brief may say to iOS alone."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from rivelt.brief.model import PlatformOptions
from rivelt.plan.names import ASSET, safe_name

_Name = Annotated[str, Meta(min_length=1)]


class IosTable(PlatformOptions, frozen=True, kw_only=True):
    """[ios]: what only iOS and iPadOS have."""

    target: (
        Annotated[
            str,
            Meta(
                description='the name of an app target, such as "Skerryline" (or "App.xcodeproj: Skerryline"), or a list of names and patterns',
                min_length=1,
            ),
        ]
        | Annotated[list[_Name], Meta(min_length=1)]
        | None
    ) = None

    prefix: Annotated[
        str,
        Meta(
            description='what generated names begin with, such as "Rivelt"; made safe where Xcode would refuse it',
            min_length=1,
            max_length=40,
        ),
    ] = "Rivelt"
    catalog: (
        Annotated[
            str,
            Meta(
                description='the asset catalog for the images, such as "App/Assets.xcassets", where not the one with the app icon is meant',
                pattern=r"\.xcassets/?$",
            ),
        ]
        | None
    ) = None
    screen: Annotated[
        Literal["auto", "storyboard", "plist"],
        Meta(
            description='how the screen is declared: "storyboard", "plist" (the UILaunchScreen dictionary), or "auto": a storyboard, unless the target is also built for a system without them and the dictionary suffices'
        ),
    ] = "auto"
    mark_form: Annotated[
        Literal["bitmaps", "vector"],
        Meta(description='how the mark is kept: "bitmaps" (1x, 2x, 3x) or "vector" (one SVG for each look)'),
    ] = "bitmaps"
    pad_scale: Annotated[
        float, Meta(description="how many times larger the mark is on an iPad, from 1 to 4", ge=1, le=4)
    ] = 1.0
    status_bar: Annotated[
        Literal["auto", "light", "dark", "hidden"],
        Meta(description='the status bar during launch: "auto" (readable on the grounds), "light", "dark" or "hidden"'),
    ] = "auto"
    fresh_names: Annotated[
        bool,
        Meta(
            description="true or false: whether names hold a hash of the content, so that no device shows an old screen"
        ),
    ] = False
    first_ground: Annotated[
        Literal["report", "apply"],
        Meta(
            description='what becomes of an app\'s first screen with another ground: "report", or "apply": its code or storyboard is edited'
        ),
    ] = "report"
    waiting: Annotated[
        bool | Literal["swiftui"],
        Meta(
            description='true, false or "swiftui": whether a screen for the app\'s own first moment is made, equal to the launch screen'
        ),
    ] = False

    @property
    def chosen(self) -> tuple[str, tuple[str, ...]]:
        """The app targets that are meant."""
        return "target", (self.target,) if isinstance(self.target, str) else tuple(self.target or ())

    def for_edition(self, name: str, given: frozenset[str]) -> IosTable:
        """Targets often share a catalog and a folder: what is generated for an edition has names of its own."""
        if "ios.target" not in given or "ios.prefix" in given:
            return self
        return msgspec.structs.replace(self, prefix=f"{self.prefix}{safe_name(name, ASSET)}"[:40])
