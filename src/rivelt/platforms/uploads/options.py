"""What a brief may say to uploads alone."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from msgspec import Meta

from rivelt.brief.model import Brief, PlatformOptions
from rivelt.errors import RiveltError

_Size = Annotated[str, Meta(min_length=1, extra_json_schema={"pattern": r"^\s*\d+\s*[xX\u00d7]\s*\d+\s*$"})]


class UploadsTable(PlatformOptions, frozen=True, kw_only=True):
    """[uploads]: finished full-screen images at fixed sizes."""

    sets: Annotated[
        list[Literal["android", "ios"]],
        Meta(description='the lists of usual sizes, ["android", "ios"], either or none'),
    ] = []  # noqa: RUF012  # msgspec copies it
    sizes: Annotated[list[_Size], Meta(description='more sizes in px, a list such as ["1080x1920", "1920x1080"]')] = []  # noqa: RUF012
    name: Annotated[
        str,
        Meta(
            description='the files\' names, text such as "{target}-{width}x{height}-{look}.png"',
            min_length=1,
            max_length=120,
        ),
    ] = "{target}-{width}x{height}-{look}.png"
    safe_margin: Annotated[
        float,
        Meta(description="the share of each side that devices may cut off, a number from 0 to 0.4", ge=0, le=0.4),
    ] = 0.08
    looks: Annotated[Literal["both", "light", "dark"], Meta(description='"both", "light" or "dark"')] = "both"
    out: Annotated[
        str,
        Meta(description='a folder, or a file that ends in .zip, in the project, such as "uploads"', min_length=1),
    ] = "uploads"

    def problems(self, brief: Brief) -> Iterable[RiveltError]:
        """Yield which sizes are none, and why a name cannot be made."""
        from rivelt.platforms.uploads.native.images import uploads

        try:
            if self.sizes or self.sets:
                uploads(brief)
        except RiveltError as error:
            yield from error.parts
