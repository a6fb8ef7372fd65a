"""What the header of an image file tells, without decoding its pixels."""

from __future__ import annotations

from rivelt.art.source import MAX_PIXELS
from rivelt.colour import Colour
from rivelt.units import PixelSize


def bitmap_size(data: bytes) -> PixelSize | None:
    """The size of a bitmap in pixels, or None when it is no readable bitmap."""
    import pyvips

    try:
        header = pyvips.Image.new_from_buffer(data, "", access="sequential")
    except pyvips.Error:
        return None
    return PixelSize(header.width, header.height)


def corner_colour(data: bytes) -> Colour | None:
    """The one opaque colour that all four corners of a bitmap have; None when they differ, or it cannot be read."""
    import pyvips

    try:
        image = pyvips.Image.new_from_buffer(data, "")
        if image.width * image.height > MAX_PIXELS:
            return None
        image = image.colourspace("srgb")
        image = (image if image.hasalpha() else image.addalpha()).cast("uchar")
        corners = {tuple(image.getpoint(x, y)) for x in (0, image.width - 1) for y in (0, image.height - 1)}
    except pyvips.Error:
        return None
    colour = Colour(*(int(value) for value in corners.pop()))
    return colour if not corners and colour.is_opaque else None
