"""Transforms as one matrix: functions with units, origins, reference boxes, and the separate properties (CSS Transforms 1 and 2)."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any

import tinycss2

from rivelt.art.outline.model import Matrix
from rivelt.art.styled.refusal import Unresolved
from rivelt.art.styled.values import Lengths, angle
from rivelt.units import Point, Rect

PROPERTIES = frozenset({"transform", "transform-origin", "transform-box", "translate", "rotate", "scale"})
_PLACES = {"left": 0.0, "top": 0.0, "center": 0.5, "right": 1.0, "bottom": 1.0}
_HORIZONTAL, _VERTICAL = frozenset({"left", "right"}), frozenset({"top", "bottom"})
_VIEW_BOXES = frozenset({"view-box", "border-box"})


def matrix_of(properties: Mapping[str, str], lengths: Lengths, view: Rect, box: Callable[[], Rect]) -> Matrix | None:
    """Return what an element's properties do to it; None where they do nothing.

    Args:
        properties: those of `PROPERTIES` that it has, as text.
        lengths: what relative lengths are relative to.
        view: the reference box that counts unless another is asked for.
        box: returns the box round its fill; called only where it counts.

    Raises:
        Unresolved: a transform in space, or one that cannot be worked out.
    """
    asked = {name: text for name, text in properties.items() if text.strip().lower() != "none"}
    if PROPERTIES.isdisjoint(asked) or not {"transform", "translate", "rotate", "scale"} & set(asked):
        return None
    kind = properties.get("transform-box", "view-box").strip().lower()
    if kind == "stroke-box":
        raise Unresolved("a transform is relative to the box round a stroke")
    reference = view if kind in _VIEW_BOXES else box()
    # An attribute's rotate(a, x, y) is not CSS: the renderer reads it, and so do we.
    found = Matrix()
    for text in (asked.get("transform", ""), *_separate(asked)):
        found = found.then(_functions(text, lengths, reference))
    origin = _origin(properties.get("transform-origin"), lengths, reference, is_view=kind in _VIEW_BOXES)
    return Matrix(e=-origin.x, f=-origin.y).then(found).then(Matrix(e=origin.x, f=origin.y))


def _separate(asked: Mapping[str, str]) -> list[str]:
    """The separate properties as functions, the innermost first."""
    scale = asked.get("scale", "").split()
    if len(scale) > 2 or len(asked.get("rotate", "").split()) > 1 or len(asked.get("translate", "").split()) > 2:
        raise Unresolved("a transform is in 3D")
    result = [f"scale({','.join(scale)})"] if scale else []
    result += [f"rotate({asked['rotate']})"] if "rotate" in asked else []
    return result + ([f"translate({','.join(asked['translate'].split())})"] if "translate" in asked else [])


def _origin(text: str | None, lengths: Lengths, reference: Rect, *, is_view: bool) -> Point:
    """The point that stays where it is: by default the corner of the user space, whatever the box."""
    corner = Point(0.0, 0.0) if is_view else Point(reference.x, reference.y)
    if text is None or text.strip().lower() == "initial":
        return Point(0.0, 0.0) if is_view else Point(reference.x, reference.y)
    tokens = [one for one in tinycss2.parse_component_value_list(text, skip_comments=True) if one.type != "whitespace"]
    if len(tokens) > 3 or not tokens:
        raise Unresolved(f"transform-origin: {text[:40]} is not understood")
    words = [getattr(token, "lower_value", "") if token.type == "ident" else "" for token in tokens[:2]]
    first, second = tokens[0], tokens[1] if len(tokens) > 1 else None
    if words[0] in _VERTICAL or (len(words) > 1 and words[1] in _HORIZONTAL):
        first, second = second, first
    x = _place(first, lengths, reference.width)
    y = _place(second, lengths, reference.height)
    return Point(corner.x + x, corner.y + y)


def _place(token: Any | None, lengths: Lengths, whole: float) -> float:
    if token is None:
        return whole / 2
    if token.type == "ident" and token.lower_value in _PLACES:
        return _PLACES[token.lower_value] * whole
    return lengths.calculated(token, whole)


def _functions(text: str, lengths: Lengths, reference: Rect) -> Matrix:
    """A list of functions: the last is done first."""
    result = Matrix()
    for token in tinycss2.parse_component_value_list(text, skip_comments=True):
        if token.type == "whitespace" or token == ",":
            continue
        if token.type != "function":
            raise Unresolved(f"the transform {text[:40]} is not understood")
        result = _function(token, lengths, reference).then(result)
    return result


def _function(token: Any, lengths: Lengths, reference: Rect) -> Matrix:
    n = [one for one in token.arguments if one.type != "whitespace" and one != ","]
    name = token.lower_name

    def length(index: int, whole: float) -> float:
        return lengths.calculated(n[index], whole) if index < len(n) else 0.0

    if not n:
        raise Unresolved(f"the transform {token.serialize()[:40]} is not understood")
    match name:
        case "matrix" if len(n) == 6:
            return Matrix(*_numbers(n))
        case "translate" if len(n) <= 2:
            return Matrix(e=length(0, reference.width), f=length(1, reference.height))
        case "translatex" | "translatey" if len(n) == 1:
            return (
                Matrix(e=length(0, reference.width)) if name == "translatex" else Matrix(f=length(0, reference.height))
            )
        case "scale" if len(n) <= 2:
            factors = _numbers(n)
            return Matrix(a=factors[0], d=factors[-1])
        case "scalex" | "scaley" if len(n) == 1:
            return Matrix(a=_numbers(n)[0]) if name == "scalex" else Matrix(d=_numbers(n)[0])
        case "rotate" | "rotatez" if len(n) in {1, 3}:
            return _turn(math.radians(angle(n[0])), Point(length(1, 0), length(2, 0)))
        case "skew" | "skewx" | "skewy" if len(n) <= 2:
            angles = [math.tan(math.radians(angle(one))) for one in n]
            return Matrix(b=angles[0]) if name == "skewy" else Matrix(c=angles[0], b=angles[1] if len(n) > 1 else 0.0)
        case _:
            raise Unresolved(f"the transform {token.serialize()[:40]} is in 3D, or is not understood")


def _turn(radians: float, round_: Point) -> Matrix:
    cosine, sine = math.cos(radians), math.sin(radians)
    there = Matrix(cosine, sine, -sine, cosine).then(Matrix(e=round_.x, f=round_.y))
    return Matrix(e=-round_.x, f=-round_.y).then(there)


def _numbers(tokens: Sequence[Any]) -> list[float]:
    if any(token.type not in {"number", "percentage"} for token in tokens):
        raise Unresolved("a transform has a length where a number belongs")
    return [float(token.value) / (100 if token.type == "percentage" else 1) for token in tokens]
