"""Nine-patch bitmaps: which parts of them stretch, and what they look like in a frame.

https://developer.android.com/develop/ui/views/graphics/drawables#nine-patch: a border of one pixel, in which black marks, on the left
and at the top, the rows and columns that stretch.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby
from typing import TYPE_CHECKING

from rivelt.art.source import read_art
from rivelt.pixels.slices import Band, sliced_svg
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.picture import Art

_BLACK = (0, 0, 0, 255)


def nine_patch_svg(data: bytes, frame: Rect, pixels_per_dp: float) -> str | None:
    """Return an SVG of the frame's size (dp) that shows the bitmap stretched over it; None when nothing marks what stretches.

    Args:
        data: the bitmap with its border.
        frame: where it is drawn.
        pixels_per_dp: the density that the bitmap is made for.

    Raises:
        BadInput: the bitmap is broken, or too large.
    """
    art = read_art(data, "nine-patch.png")
    width, height = (round(side) for side in art.size)
    if min(width, height) < 3:
        return None
    pixels = _pixels(art)
    columns = _bands([tuple(int(channel) for channel in pixels[0, x]) == _BLACK for x in range(1, width - 1)])
    rows = _bands([tuple(int(channel) for channel in pixels[y, 0]) == _BLACK for y in range(1, height - 1)])
    if not any(band.stretches for band in columns) or not any(band.stretches for band in rows):
        return None
    return sliced_svg(data, art.size, columns, rows, frame.size, pixels_per_dp)


def _pixels(art: Art) -> NDArray[np.uint8]:
    """The bitmap's pixels, height x width x 4."""
    from rivelt.pixels.canvas import draw

    width, height = (round(side) for side in art.size)
    pixels: NDArray[np.uint8] = draw(art, PixelSize(width, height), Rect(0, 0, width, height)).numpy()
    return pixels


def nine_patch_padding(data: bytes) -> tuple[int, int, int, int]:
    """Return what the marks on the right and at the bottom leave free on the left, top, right and bottom, in pixels of the bitmap.

    Where nothing is marked there, what stretches counts.

    Raises:
        BadInput: the bitmap is broken, or too large.
    """
    art = read_art(data, "nine-patch.png")
    width, height = (round(side) for side in art.size)
    pixels = _pixels(art)

    def free(marks: list[bool]) -> tuple[int, int] | None:
        return (marks.index(True), marks[::-1].index(True)) if any(marks) else None

    def is_black(x: int, y: int) -> bool:
        return tuple(int(channel) for channel in pixels[y, x]) == _BLACK

    across = free([is_black(x, height - 1) for x in range(1, width - 1)]) or free(
        [is_black(x, 0) for x in range(1, width - 1)]
    )
    down = free([is_black(width - 1, y) for y in range(1, height - 1)]) or free(
        [is_black(0, y) for y in range(1, height - 1)]
    )
    (left, right), (top, bottom) = across or (0, 0), down or (0, 0)
    return left, top, right, bottom


def _bands(marks: Sequence[bool]) -> list[Band]:
    found: list[Band] = []
    at = 1
    for stretches, group in groupby(marks):
        length = len(list(group))
        found.append(Band(at, length, stretches))
        at += length
    return found
