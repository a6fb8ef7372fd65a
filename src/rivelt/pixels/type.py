"""Text as outlines, in typefaces that are part of the package: the same shapes on every machine, whatever fonts it has."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from io import BytesIO
from threading import RLock
from typing import TYPE_CHECKING, Literal, TypeAlias

from rivelt.packaged import packaged

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont

_READING = RLock()
"""fontTools reads a font's tables when they are first needed, which is not safe in several threads at once."""

Face: TypeAlias = Literal["serif", "sans", "bold", "mono"]
Anchor: TypeAlias = Literal["start", "middle", "end"]

_FILES: dict[Face, str] = {
    "serif": "STIXGeneral.ttf",
    "sans": "DejaVuSans.ttf",
    "bold": "DejaVuSans-Bold.ttf",
    "mono": "DejaVuSansMono.ttf",
}


@cache
def _font(face: Face) -> TTFont:
    from fontTools.ttLib import TTFont

    with _READING:
        data = packaged("rivelt.pixels", f"typefaces/{_FILES[face]}")
        font = TTFont(BytesIO(data), lazy=True)
        # Glyphs by their numbers: to read the names of thousands of them takes as long as to draw the text.
        font.setGlyphOrder([str(number) for number in range(font["maxp"].numGlyphs)])
        return font


@cache
def _units_per_em(face: Face) -> int:
    with _READING:
        return int(_font(face)["head"].unitsPerEm)


@cache
def _names(face: Face) -> Mapping[int, str]:
    """The names of a face's glyphs, which are numbers, by their code points."""
    with _READING:
        return dict(_font(face).getBestCmap())


def _number_of(face: Face, character: str) -> int:
    """The number of a character's glyph; 0 is the one for what a face does not have."""
    return int(_names(face).get(ord(character), "0"))


@cache
def _advance(face: Face, character: str) -> int:
    """A character's advance in font units."""
    with _READING:
        # All others have the last one's (OpenType 1.9.1, "hmtx").
        number = min(_number_of(face, character), _font(face)["hhea"].numberOfHMetrics - 1)
        return int.from_bytes(_font(face).reader["hmtx"][4 * number : 4 * number + 2])


def _left(face: Face, number: int) -> int:
    """How far right of its origin a glyph begins, in font units."""
    metrics, count = _font(face).reader["hmtx"], _font(face)["hhea"].numberOfHMetrics
    at = 4 * number + 2 if number < count else 4 * count + 2 * (number - count)
    return int.from_bytes(metrics[at : at + 2], signed=True)


@cache
def _outline(face: Face, character: str) -> tuple[tuple[float, str], ...]:
    """A character's contours in font units (y up): where each begins, across, and what follows that in a path."""
    from rivelt.pixels.contours import ContourPen, number

    with _READING:
        place = _number_of(face, character)
        glyphs = _font(face)["glyf"]
        glyph = glyphs[str(place)]
        pen = ContourPen()
        glyph.draw(pen, glyphs, _left(face, place) - getattr(glyph, "xMin", 0))
        return tuple((left, f" {number(top)}{commands}") for left, top, commands in pen.contours)


def text_width(text: str, size: float, face: Face = "sans") -> float:
    """Return the advance of a line of text at a font size, in the unit of that size."""
    return sum(_advance(face, character) for character in text) * size / _units_per_em(face)


def text_svg(
    text: str, x: float, y: float, size: float, colour: str, face: Face = "sans", anchor: Anchor = "start"
) -> str:
    """Return a line of text as SVG, one path: its baseline at `y`, its start, middle or end at `x`."""
    from rivelt.pixels.contours import number

    scale = size / _units_per_em(face)
    share = {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor]
    shift = share * text_width(text, size, face) if share else 0.0
    parts = []
    position = 0
    for character in text:
        parts += [f"M{number(position + left)}{rest}" for left, rest in _outline(face, character)]
        position += _advance(face, character)
    transform = f"translate({x - shift:.3f} {y:.3f}) scale({scale:.6f} {-scale:.6f})"
    return f'<path fill="{colour}" transform="{transform}" d="{"".join(parts)}"/>'


def shortened(text: str, width: float, size: float, face: Face = "sans") -> str:
    """Return `text`, or as much of its beginning as fits in `width`, with an ellipsis."""
    if text_width(text, size, face) <= width:
        return text
    while text and text_width(text + "…", size, face) > width:
        text = text[:-1]
    return text.rstrip() + "…"
