"""What a brief may say to Windows alone."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.brief.model import PlatformOptions


class WindowsTable(PlatformOptions, frozen=True, kw_only=True):
    """[windows]: what only Windows packages have."""

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
