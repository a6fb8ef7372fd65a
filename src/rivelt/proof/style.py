"""The one visual language of sheets and charts: a press proof on warm paper. Lengths are in sheet units."""

from __future__ import annotations

from collections.abc import Iterable

from rivelt.pixels.type import Anchor, Face, text_svg
from rivelt.units import PixelSize

PIXELS_PER_UNIT = 2
"""Pixels for each sheet unit, so that the PNG stays sharp when zoomed."""

WIDTH = 1600
MARGIN = 64

PAPER = "#FBF7EF"
INK = "#1E2A30"
SOFT_INK = "#6B6A63"
HAIRLINE = "#CFC6B4"
ACCENT = "#C2402B"


def svg_of(size: PixelSize, parts: Iterable[str]) -> str:
    """An SVG of `size` px whose user unit is the sheet unit."""
    view = f"0 0 {size.width / PIXELS_PER_UNIT} {size.height / PIXELS_PER_UNIT}"
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{size.width}" height="{size.height}" viewBox="{view}">'
    return f"{head}{''.join(parts)}</svg>"


def text(
    words: str, x: float, y: float, size: float, colour: str = INK, face: Face = "sans", anchor: Anchor = "start"
) -> str:
    """A line of text with its baseline at `y`."""
    return text_svg(words, x, y, size, colour, face, anchor)


def line(x1: float, y1: float, x2: float, y2: float, colour: str = HAIRLINE, width: float = 0.75) -> str:
    """A straight line."""
    return f'<path d="M{x1:.2f} {y1:.2f}L{x2:.2f} {y2:.2f}" stroke="{colour}" stroke-width="{width}" fill="none"/>'
