"""Colours, lengths and angles as CSS writes them today, in the notations that every renderer reads (CSS Color 4, CSS Values 4)."""

from __future__ import annotations

import math
import operator
import re
from collections.abc import Sequence
from typing import Any

import tinycss2
from msgspec import Struct

from rivelt.art.styled.refusal import Unresolved
from rivelt.patterns import regex
from rivelt.units import CSS_LENGTHS, Size

PAINTS = frozenset({"fill", "stroke", "stop-color", "flood-color", "lighting-color", "color", "background-color"})
_KEPT = frozenset(
    {"none", "currentcolor", "inherit", "initial", "unset", "revert", "revert-layer", "context-fill", "context-stroke"}
)
_UNDECIDED = frozenset({"color-mix", "device-cmyk", "contrast-color", "alpha", "palette-mix"})
_SYSTEM = frozenset(
    [
        "accentcolor",
        "accentcolortext",
        "activetext",
        "buttonborder",
        "buttonface",
        "buttontext",
        "canvas",
        "canvastext",
        "field",
        "fieldtext",
        "graytext",
        "highlight",
        "highlighttext",
        "linktext",
        "mark",
        "marktext",
        "selecteditem",
        "selecteditemtext",
        "visitedtext",
    ]
)
_ANGLES = {"deg": 1.0, "grad": 0.9, "rad": 180 / math.pi, "turn": 360.0}
_VIEW = {"vw": "width", "vh": "height", "vi": "width", "vb": "height"}
_SIZES = {
    "xx-small": 9.0,
    "x-small": 10.0,
    "small": 13.0,
    "medium": 16.0,
    "large": 18.0,
    "x-large": 24.0,
    "xx-large": 32.0,
}
_STEPS = {"smaller": 1 / 1.2, "larger": 1.2}
_MATHS = frozenset({"calc", "min", "max", "clamp"})
_LENGTH = regex(
    r"([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(r?em|v(?:w|h|i|b|min|max)|q|ex|ch|r?lh|cap|ic)\b", re.IGNORECASE
)
_SIGNS = {"*": operator.mul, "/": operator.truediv, "+": operator.add, "-": operator.sub}


def is_valid(name: str, tokens: Sequence[Any]) -> bool:
    """Return whether a declaration counts at all: a colour that no browser reads does not."""
    if name not in PAINTS:
        return True
    words = [token for token in tokens if token.type not in {"whitespace", "comment"}]
    if any(token.type in {"url", "function"} for token in words):
        return True  # what cannot be read in a function is refused, never dropped
    text = tinycss2.serialize(words).lower()
    return text in _KEPT or text in _SYSTEM or _srgb(text) is not None


def paint(text: str) -> str:
    """Return a paint with its colour in sRGB; what sRGB lacks is clipped to it, as browsers do.

    Raises:
        Unresolved: the paint is not understood.
    """
    word = text.strip().lower()
    if word in _KEPT:
        return text
    if word.startswith("url("):
        end = text.find(")") + 1
        rest = text[end:].strip()
        return f"{text[:end]} {paint(rest)}" if rest else text
    if word in _SYSTEM:
        raise Unresolved(f"the colour {text} is the device's own")
    token = _one(text)
    if token.type == "function" and token.lower_name == "light-dark":
        return paint(tinycss2.serialize(_parts(token.arguments)[0]).strip())
    if token.type == "function" and (token.lower_name in _UNDECIDED or " from " in f" {word[word.find('(') + 1 :]}"):
        raise Unresolved(f"the colour {text[:60]} is mixed from others")
    found = _srgb(text)
    if found is None:
        raise Unresolved(f"the colour {text[:60]} is not understood")
    return found


def with_plain_colours(text: str) -> str:
    """Return a list of functions with every colour among their arguments in sRGB.

    Raises:
        Unresolved: a colour is not understood.
    """
    parts = []
    for token in tinycss2.parse_component_value_list(text, skip_comments=True):
        if token.type != "function":
            parts.append(token.serialize())
            continue
        inner = [
            paint(one.serialize())
            if one.type in {"function", "hash", "ident"} and one.serialize().lower()[:4] != "calc"
            else one.serialize()
            for one in token.arguments
        ]
        parts.append(f"{token.name}({''.join(inner)})")
    return "".join(parts)


def _srgb(text: str) -> str | None:
    from coloraide import Color

    try:
        colour = Color(text.strip()).convert("srgb").clip()
    except (ValueError, AttributeError):
        return None
    red, green, blue = (round(255 * value) for value in colour.coords(nans=False))
    alpha = colour.alpha(nans=False)
    return f"#{red:02x}{green:02x}{blue:02x}" if alpha >= 1 else f"rgba({red},{green},{blue},{alpha:.5g})"


class Lengths(Struct, frozen=True):
    """What relative lengths are relative to: the font sizes of the element and of the root, and the view, in CSS pixels."""

    font: float
    root_font: float
    view: Size

    def factor(self, unit: str) -> float | None:
        """Return the size of a unit in pixels; None if it depends on font metrics or is not a unit of length."""
        unit = unit.lower()
        if unit in _VIEW:
            return float(getattr(self.view, _VIEW[unit])) / 100
        relative = {"em": self.font, "rem": self.root_font, "vmin": min(self.view) / 100, "vmax": max(self.view) / 100}
        return CSS_LENGTHS.get(unit, relative.get(unit))

    def plain(self, text: str) -> str:
        """Return a list of lengths in units that every renderer knows alike.

        Raises:
            Unresolved: one depends on a font, or is calculated from shares.
        """
        if "(" in text:
            tokens = tinycss2.parse_component_value_list(text, skip_comments=True)
            text = "".join(
                _number(self.calculated(token, None))
                if token.type == "function" and token.lower_name in _MATHS
                else token.serialize()
                for token in tokens
            )
        return _LENGTH.sub(self._in_pixels, text)

    def _in_pixels(self, found: re.Match[str]) -> str:
        factor = self.factor(found[2])
        if factor is None:
            raise Unresolved(f"the length {found[0]} depends on font metrics")
        return _number(float(found[1]) * factor)

    def calculated(self, token: Any, whole: float | None) -> float:
        """Return a length, or an expression of lengths, in pixels; `whole`: what 100% is, None where that is not known.

        Raises:
            Unresolved: the value depends on something unknown.
        """
        if token.type == "number":
            return float(token.value)
        if token.type == "percentage" and whole is not None:
            return float(token.value) * whole / 100
        if token.type == "dimension" and (factor := self.factor(token.unit)) is not None:
            return float(token.value) * factor
        if token.type == "() block":
            return self._sum(token.content, whole)
        if token.type == "function" and token.lower_name in _MATHS:
            parts = [self._sum(part, whole) for part in _parts(token.arguments)]
            if token.lower_name == "clamp" and len(parts) == 3:
                return max(parts[0], min(parts[1], parts[2]))
            if token.lower_name in {"min", "max"} and parts:
                return (min if token.lower_name == "min" else max)(parts)
            if len(parts) == 1:
                return parts[0]
        raise Unresolved(f"the length {token.serialize()[:40]} cannot be worked out")

    def _sum(self, tokens: Sequence[Any], whole: float | None) -> float:
        """Terms and factors, from left to right; products first."""
        items = [token for token in tokens if token.type not in {"whitespace", "comment"}]
        if len(items) % 2 == 0:
            raise Unresolved(f"the sum {tinycss2.serialize(tokens)[:40]} is not understood")
        total, sign, product = 0.0, 1.0, self.calculated(items[0], whole)
        for mark, item in zip(items[1::2], items[2::2], strict=True):
            value, how = self.calculated(item, whole), str(getattr(mark, "value", ""))
            if how not in _SIGNS or (how == "/" and value == 0):
                raise Unresolved(f"the sum {tinycss2.serialize(tokens)[:40]} is not understood")
            if how in "*/":
                product = _SIGNS[how](product, value)
            else:
                total, sign, product = total + sign * product, 1.0 if how == "+" else -1.0, value
        return total + sign * product


def font_size(text: str | None, parent: float, root: float, view: Size) -> float:
    """Return an element's font size in pixels, from its property.

    Raises:
        Unresolved: it cannot be worked out.
    """
    word = (text or "inherit").strip().lower()
    if word in {"inherit", "unset"}:
        return parent
    if word == "initial":
        return _SIZES["medium"]
    if word in _SIZES or word in _STEPS:
        return _SIZES[word] if word in _SIZES else parent * _STEPS[word]
    token = _one(word)
    return Lengths(parent, root, view).calculated(token, parent)


def angle(token: Any) -> float:
    """Return an angle in degrees.

    Raises:
        Unresolved: the value is not an angle.
    """
    if token.type == "number":
        return float(token.value)
    if token.type == "dimension" and token.lower_unit in _ANGLES:
        return float(token.value) * _ANGLES[token.lower_unit]
    raise Unresolved(f"the angle {token.serialize()[:40]} cannot be worked out")


def _one(text: str) -> Any:
    """The one token that a text is."""
    token = tinycss2.parse_one_component_value(text, skip_comments=True)
    if token.type == "error":
        raise Unresolved(f"the value {text[:40]} is not understood")
    return token


def _parts(tokens: Sequence[Any]) -> list[list[Any]]:
    parts: list[list[Any]] = [[]]
    for token in tokens:
        if token == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


def _number(value: float) -> str:
    return f"{value:.8g}"
