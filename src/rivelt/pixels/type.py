"""Text as outlines, in typefaces that are part of the package: the same shapes on every machine, whatever fonts it has."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from io import BytesIO
from threading import RLock
from typing import TYPE_CHECKING, Literal, TypeAlias

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
        data = files("rivelt.pixels").joinpath("typefaces", _FILES[face]).read_bytes()
        return TTFont(BytesIO(data), lazy=True)


@cache
def _units_per_em(face: Face) -> int:
    with _READING:
        return int(_font(face)["head"].unitsPerEm)


@cache
def _glyph(face: Face, character: str) -> tuple[str, int]:
    """A character's outline as SVG path data in font units (y up), and its advance."""
    from fontTools.pens.svgPathPen import SVGPathPen

    with _READING:
        font = _font(face)
        name = font.getBestCmap().get(ord(character), ".notdef")
        glyphs = font.getGlyphSet()
        pen = SVGPathPen(glyphs)
        glyphs[name].draw(pen)
        return pen.getCommands(), glyphs[name].width


def text_width(text: str, size: float, face: Face = "sans") -> float:
    """Return the advance of a line of text at a font size, in the unit of that size."""
    return sum(_glyph(face, character)[1] for character in text) * size / _units_per_em(face)


def text_svg(
    text: str, x: float, y: float, size: float, colour: str, face: Face = "sans", anchor: Anchor = "start"
) -> str:
    """Return a line of text as SVG: its baseline at `y`, its start, middle or end at `x`."""
    scale = size / _units_per_em(face)
    shift = {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor] * text_width(text, size, face)
    parts = []
    position = 0
    for character in text:
        outline, advance = _glyph(face, character)
        if outline:
            parts.append(f'<path transform="translate({position} 0)" d="{outline}"/>')
        position += advance
    transform = f"translate({x - shift:.3f} {y:.3f}) scale({scale:.6f} {-scale:.6f})"
    return f'<g fill="{colour}" transform="{transform}">{"".join(parts)}</g>'


def shortened(text: str, width: float, size: float, face: Face = "sans") -> str:
    """Return `text`, or as much of its beginning as fits in `width`, with an ellipsis."""
    if text_width(text, size, face) <= width:
        return text
    while text and text_width(text + "…", size, face) > width:
        text = text[:-1]
    return text.rstrip() + "…"
