"""Where the visible pixels of a piece of art are."""

from __future__ import annotations

import math
from array import array

import pyvips

from rivelt.art.extent import RowSpan
from rivelt.art.source import Art
from rivelt.pixels.canvas import draw
from rivelt.units import PixelSize, Rect

VISIBLE_ALPHA = 4
"""The least alpha (0 to 255) that counts as visible: below it the faint tail of a shadow would make the mark look small."""

VECTOR_PIXELS = 2048
"""The longer side at which a vector is looked at, in px: on the largest plates this is finer than half a pixel."""


def visible_rows(art: Art) -> list[RowSpan]:
    """The outermost visible pixels of each row, in art units.

    A vector is drawn with its longer side at `VECTOR_PIXELS`, a bitmap is taken as it is.
    """
    scale = VECTOR_PIXELS / art.size.longer if art.svg else 1.0
    raster = PixelSize(*(max(1, math.ceil(side * scale - 1e-6)) for side in art.size))
    alpha = draw(art, raster, Rect(0, 0, art.size.width * scale, art.size.height * scale))[3]
    mask = alpha >= VISIBLE_ALPHA
    _, from_left = mask.profile()
    _, from_right = mask.fliphor().profile()
    pairs = zip(_column(from_left), _column(from_right), strict=True)
    return [
        RowSpan(
            y / scale,
            min((y + 1) / scale, art.size.height),
            left / scale,
            min((raster.width - right) / scale, art.size.width),
        )
        for y, (left, right) in enumerate(pairs)
        if left < raster.width
    ]


def _column(image: pyvips.Image) -> list[int]:
    """The values of an image one pixel wide, top to bottom."""
    values = array("i")
    values.frombytes(image.cast("int").write_to_memory())
    return values.tolist()
