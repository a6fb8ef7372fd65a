"""Putting a sheet together: drawn parts and finished images into one PNG."""

from __future__ import annotations

from collections.abc import Iterable

import pyvips

from rivelt.pixels.canvas import rasterised
from rivelt.pixels.encode import png
from rivelt.units import PixelSize

Placed = tuple[pyvips.Image, int, int]


def compose_png(size: PixelSize, under: str, images: Iterable[Placed], over: str) -> bytes:
    """An opaque PNG without metadata: the SVG `under`, then images at whole pixels, then the SVG `over`."""
    placed = list(images)
    layers = [image for image, _, _ in placed]
    base = rasterised(under, size)
    if layers:
        xs, ys = [x for _, x, _ in placed], [y for _, _, y in placed]
        base = base.composite(layers, ["over"] * len(layers), x=xs, y=ys)
    sheet = base.composite2(rasterised(over, size), "over").cast("uchar").flatten(background=[255, 255, 255])
    return png(sheet)
