"""Text as outlines, in typefaces that are part of the package: the same shapes on every machine, whatever fonts it has."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from io import BytesIO
from threading import RLock
from typing import TYPE_CHECKING, Any, Literal, TypeAlias

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont

_READING = RLock()
"""fontTools reads a font's tables when they are first needed, which is not safe in several threads at once."""

Face: TypeAlias = Literal["serif", "sans", "bold", "mono"]
Anchor: TypeAlias = Literal["start", "middle", "end"]

_NOT_DEFINED = "0"

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
        data = files("rivelt.pixels").joinpath("typefaces", _FILES[face]).read_bytes()
        font = TTFont(BytesIO(data), lazy=True)
        # Glyphs by their numbers: to read the names of thousands of them takes as long as to draw the text.
        font.setGlyphOrder([str(number) for number in range(font["maxp"].numGlyphs)])
        return font


@cache
def _units_per_em(face: Face) -> int:
    with _READING:
        return int(_font(face)["head"].unitsPerEm)


@cache
def _glyphs(face: Face) -> tuple[Mapping[int, str], Mapping[str, Any]]:
    """The names of a face's glyphs, which are numbers, by their code points; and the glyphs by their names."""
    with _READING:
        font = _font(face)
        return font.getBestCmap(), font.getGlyphSet()


@cache
def _advance(face: Face, character: str) -> int:
    """A character's advance in font units."""
    names, _ = _glyphs(face)
    with _READING:
        font = _font(face)
        # All others have the last one's (OpenType 1.9.1, "hmtx").
        number = min(int(names.get(ord(character), _NOT_DEFINED)), font["hhea"].numberOfHMetrics - 1)
        return int.from_bytes(font.reader["hmtx"][4 * number : 4 * number + 2])


@cache
def _outline(face: Face, character: str) -> str:
    """A character's outline as SVG path data in font units (y up)."""
    from fontTools.pens.svgPathPen import SVGPathPen

    names, glyphs = _glyphs(face)
    with _READING:
        pen = SVGPathPen(glyphs)
        glyphs[names.get(ord(character), _NOT_DEFINED)].draw(pen)
        return str(pen.getCommands())


def text_width(text: str, size: float, face: Face = "sans") -> float:
    """Return the advance of a line of text at a font size, in the unit of that size."""
    return sum(_advance(face, character) for character in text) * size / _units_per_em(face)


def text_svg(
    text: str, x: float, y: float, size: float, colour: str, face: Face = "sans", anchor: Anchor = "start"
) -> str:
    """Return a line of text as SVG: its baseline at `y`, its start, middle or end at `x`."""
    scale = size / _units_per_em(face)
    shift = {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor] * text_width(text, size, face)
    parts = []
    position = 0
    for character in text:
        if outline := _outline(face, character):
            parts.append(f'<path transform="translate({position} 0)" d="{outline}"/>')
        position += _advance(face, character)
    transform = f"translate({x - shift:.3f} {y:.3f}) scale({scale:.6f} {-scale:.6f})"
    return f'<g fill="{colour}" transform="{transform}">{"".join(parts)}</g>'


def shortened(text: str, width: float, size: float, face: Face = "sans") -> str:
    """Return `text`, or as much of its beginning as fits in `width`, with an ellipsis."""
    if text_width(text, size, face) <= width:
        return text
    while text and text_width(text + "…", size, face) > width:
        text = text[:-1]
    return text.rstrip() + "…"
