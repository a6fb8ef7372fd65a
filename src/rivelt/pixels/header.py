"""What the header of an image file tells, without decoding its pixels."""

from __future__ import annotations

from rivelt.units import PixelSize


def bitmap_size(data: bytes) -> PixelSize | None:
    """The size of a bitmap in pixels, or None when it is no readable bitmap."""
    import pyvips

    try:
        header = pyvips.Image.new_from_buffer(data, "", access="sequential")
    except pyvips.Error:
        return None
    return PixelSize(header.width, header.height)
