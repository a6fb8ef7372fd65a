"""The one visual language of sheets and charts: a press proof on warm paper. Lengths are in sheet units."""

from __future__ import annotations

import math
from collections.abc import Iterable

from rivelt.pixels.compose import Block
from rivelt.pixels.type import Anchor, Face, text_svg
from rivelt.units import PixelSize, Rect

PIXELS_PER_UNIT = 2
"""Pixels for each sheet unit, so that the PNG stays sharp when zoomed."""

WIDTH = 1600
MARGIN = 64

SHEET_WIDTH = 1280
"""How wide a sheet of screens is: as wide as an ordinary window, so that its text can be read there."""

PAPER = "#FBF7EF"
INK = "#1E2A30"
SOFT_INK = "#6B6A63"
HAIRLINE = "#CFC6B4"
ACCENT = "#C2402B"


def block(parts: Iterable[str], area: Rect) -> Block:
    """Return parts as a block; `area`: where all of them are, inside the sheet."""
    x, y = max(0, math.floor(area.x * PIXELS_PER_UNIT)), max(0, math.floor(area.y * PIXELS_PER_UNIT))
    right = math.ceil(min(area.right, WIDTH) * PIXELS_PER_UNIT)
    size = PixelSize(right - x, math.ceil(area.bottom * PIXELS_PER_UNIT) - y)
    view = Rect(*(side / PIXELS_PER_UNIT for side in (x, y, *size)))
    return Block("".join(parts), view, size, x, y)


def text(
    words: str, x: float, y: float, size: float, colour: str = INK, face: Face = "sans", anchor: Anchor = "start"
) -> str:
    """Return a line of text with its baseline at `y`."""
    return text_svg(words, x, y, size, colour, face, anchor)


def line(x1: float, y1: float, x2: float, y2: float, colour: str = HAIRLINE, width: float = 0.75) -> str:
    """Return a straight line."""
    return f'<path d="M{x1:.2f} {y1:.2f}L{x2:.2f} {y2:.2f}" stroke="{colour}" stroke-width="{width}" fill="none"/>'
