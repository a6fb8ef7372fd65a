"""The box round the fill of an element whose style has been resolved (SVG 2, section 8.10), for transforms that are relative to it."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET

from rivelt.art.outline.model import Matrix, Path
from rivelt.art.outline.paint import parse_transform
from rivelt.art.outline.path import bounds_of, ellipse, parse_path, rectangle, transformed
from rivelt.art.styled.refusal import Unresolved
from rivelt.patterns import regex
from rivelt.units import Rect

_NUMBER = regex(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?", re.IGNORECASE)
_UNSEEN = frozenset(
    {"defs", "title", "desc", "metadata", "style", "clipPath", "mask", "linearGradient", "radialGradient"}
)


def fill_box(element: ET.Element) -> Rect:
    """Return the box round an element's fill, in its own user space.

    Raises:
        Unresolved: it holds something whose box is not known before it is drawn.
    """
    found = bounds_of(_outline(element, Matrix()))
    if found is None:
        return Rect(0, 0, 0, 0)
    left, top, right, bottom = found
    return Rect(left, top, right - left, bottom - top)


def _outline(element: ET.Element, matrix: Matrix) -> Path:
    tag = element.tag.rpartition("}")[2]
    if tag in _UNSEEN or element.get("display") == "none":
        return ()
    if tag in {"g", "a", "switch"}:
        return tuple(segment for child in element for segment in _outline(child, _moved(child).then(matrix)))
    return transformed(_shape(element, tag), matrix)


def _moved(child: ET.Element) -> Matrix:
    found = parse_transform(child.get("transform"))
    if abs(found.b) + abs(found.c) > 1e-9 * (abs(found.a) + abs(found.d)):
        # Browsers do not agree on the box: some turn the box of the part, some take the box round the turned part.
        raise Unresolved("a transform is relative to the box round parts that are turned")
    return found


def _shape(element: ET.Element, tag: str) -> Path:
    def number(name: str) -> float:
        text = element.get(name, "0").strip().removesuffix("px")
        if not _NUMBER.fullmatch(text):
            raise Unresolved(f"a transform is relative to the box of <{tag} {name}='{text[:20]}'>")
        return float(text)

    match tag:
        case "path":
            return parse_path(element.get("d", ""))
        case "rect" | "image":
            return rectangle(number("x"), number("y"), number("width"), number("height"), 0, 0)
        case "circle":
            return ellipse(number("cx"), number("cy"), number("r"), number("r"))
        case "ellipse":
            return ellipse(number("cx"), number("cy"), number("rx"), number("ry"))
        case "line":
            return parse_path(f"M{number('x1')} {number('y1')}L{number('x2')} {number('y2')}")
        case "polygon" | "polyline":
            numbers = _NUMBER.findall(element.get("points", ""))
            return parse_path("M" + " ".join(numbers[: len(numbers) // 2 * 2])) if len(numbers) > 1 else ()
        case _:
            raise Unresolved(f"a transform is relative to the box round a <{tag}>")
