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

GLANCE_PIXELS = 512
"""The longer side at which the whole of a vector is first looked at, in px, to find the part that is drawn on."""

VECTOR_PIXELS = 2048
"""The longer side at which that part is then measured, in px: on the largest plates this is finer than half a pixel."""


def visible_rows(art: Art) -> list[RowSpan]:
    """The outermost visible pixels of each row, in art units.

    A bitmap is taken as it is. A vector is drawn twice: small, to find where it is drawn on at all, then that part large, so that
    a wide transparent margin costs no precision.
    """
    whole = Rect(0, 0, *art.size)
    if art.svg is None:
        return _rows(art, whole, 1.0)
    glance = GLANCE_PIXELS / art.size.longer
    rows = _rows(art, whole, glance)
    if not rows:
        return _rows(art, whole, VECTOR_PIXELS / art.size.longer)  # hairlines may be too faint at a glance
    margin = 1 / glance
    left, right = min(row.left for row in rows) - margin, max(row.right for row in rows) + margin
    top, bottom = rows[0].top - margin, rows[-1].bottom + margin
    window = Rect(left, top, right - left, bottom - top)
    return _rows(art, window, VECTOR_PIXELS / window.size.longer)


def _rows(art: Art, window: Rect, scale: float) -> list[RowSpan]:
    """The visible rows of a window of the art (art units), drawn at `scale` px per art unit."""
    raster = PixelSize(*(max(1, math.ceil(side * scale - 1e-6)) for side in window.size))
    box = Rect(-window.x * scale, -window.y * scale, art.size.width * scale, art.size.height * scale)
    mask = draw(art, raster, box)[3] >= VISIBLE_ALPHA
    _, from_left = mask.profile()
    _, from_right = mask.fliphor().profile()
    pairs = zip(_column(from_left), _column(from_right), strict=True)
    return [
        RowSpan(
            window.y + y / scale,
            min(window.y + (y + 1) / scale, art.size.height),
            window.x + left / scale,
            min(window.x + (raster.width - right) / scale, art.size.width),
        )
        for y, (left, right) in enumerate(pairs)
        if left < raster.width
    ]


def _column(image: pyvips.Image) -> list[int]:
    """The values of an image one pixel wide, top to bottom."""
    values = array("i")
    values.frombytes(image.cast("int").write_to_memory())
    return values.tolist()
