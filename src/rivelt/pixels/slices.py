"""Bitmaps of which only parts stretch: rows and columns that keep their size, and others that share what is left."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from typing import NamedTuple

from rivelt.units import Size


class Band(NamedTuple):
    """Rows or columns that belong together: the first pixel, how many there are, and whether they stretch."""

    start: float
    length: float
    stretches: bool


def sliced_svg(
    data: bytes, bitmap: Size, columns: Sequence[Band], rows: Sequence[Band], size: Size, pixels_per_unit: float
) -> str:
    """Return an SVG of `size` (dp or points) that shows a PNG stretched over it.

    Args:
        data: the PNG.
        bitmap: its size in pixels.
        columns: the parts that are shown, from the left; each is resampled without a smooth transition to the next.
        rows: the same from the top.
        size: the size to be filled, in dp or points.
        pixels_per_unit: the density that the bitmap is made for.
    """
    source = f'href="data:image/png;base64,{base64.b64encode(data).decode()}" width="{bitmap.width:g}" height="{bitmap.height:g}"'
    cells = [
        f'<svg x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}" preserveAspectRatio="none" '
        f'viewBox="{column.start:g} {row.start:g} {column.length:g} {row.length:g}"><image {source} image-rendering="optimizeSpeed"/></svg>'
        for row, y, height in _laid_out(rows, size.height, pixels_per_unit)
        for column, x, width in _laid_out(columns, size.width, pixels_per_unit)
        if width > 0 and height > 0
    ]
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="{size.width:g}" height="{size.height:g}">{"".join(cells)}</svg>'


def _laid_out(bands: Sequence[Band], side: float, pixels_per_unit: float) -> list[tuple[Band, float, float]]:
    """Each band with where it begins and how long it is: what does not stretch keeps its size, the others share the rest."""
    fixed = sum(band.length for band in bands if not band.stretches) / pixels_per_unit
    stretching = sum(band.length for band in bands if band.stretches)
    rest = max(0.0, side - fixed)
    placed = []
    at = 0.0
    for band in bands:
        length = rest * band.length / stretching if band.stretches else band.length / pixels_per_unit
        placed.append((band, at, length))
        at += length
    return placed
