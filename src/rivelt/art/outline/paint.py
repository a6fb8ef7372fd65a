"""Fills and strokes: colours and gradients, in the coordinates of the whole drawing."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TypeAlias

from rivelt.art.outline.css import Rule, computed
from rivelt.art.outline.model import LinearGradient, Matrix, Paint, RadialGradient, Spread, Stop
from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.patterns import regex
from rivelt.units import Point

Box: TypeAlias = tuple[float, float, float, float]
_URL = regex(r"url\(\s*[\"']?#([^\"')]+)[\"']?\s*\)\s*(.*)")
_TRANSFORM = regex(r"(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")
_NUMBER = regex(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")
_XLINK = "http://www.w3.org/1999/xlink"
_MAX_LINKS = 20


class NotSupported(Exception):
    """Something that outlines cannot hold; the message says what."""


def share(text: str | None, default: float = 1.0) -> float:
    """Return an opacity or an offset: a number or a percentage, brought into 0 to 1."""
    try:
        value = float(text.strip().rstrip("%")) / (100 if text.strip().endswith("%") else 1) if text else default
    except ValueError:
        return default
    return min(max(value, 0.0), 1.0)


def parse_transform(text: str | None) -> Matrix:
    """Return a `transform` attribute as one matrix."""
    import math

    result = Matrix()
    for name, arguments in reversed(_TRANSFORM.findall(text or "")):
        n = [float(value) for value in _NUMBER.findall(arguments)]
        if not n or (name == "matrix" and len(n) != 6):
            continue
        match name:
            case "matrix":
                step = Matrix(*n)
            case "translate":
                step = Matrix(e=n[0], f=n[1] if len(n) > 1 else 0)
            case "scale":
                step = Matrix(a=n[0], d=n[1] if len(n) > 1 else n[0])
            case "skewX":
                step = Matrix(c=math.tan(math.radians(n[0])))
            case "skewY":
                step = Matrix(b=math.tan(math.radians(n[0])))
            case _:
                angle = math.radians(n[0])
                turn = Matrix(math.cos(angle), math.sin(angle), -math.sin(angle), math.cos(angle))
                x, y = (n[1], n[2]) if len(n) > 2 else (0.0, 0.0)
                step = Matrix(e=-x, f=-y).then(turn).then(Matrix(e=x, f=y))
        result = result.then(step)
    return result


def link_of(node: Node) -> str | None:
    """Return the id that an element's `href` names."""
    target = node.get("href") or node.get("href", _XLINK) or ""
    return target[1:] if target.startswith("#") else None


class Paints:
    """Resolves the paints of a drawing."""

    def __init__(
        self, ids: Mapping[str, Node], rules: list[Rule], length: Callable[[str | None, str, float], float]
    ) -> None:
        self._ids = ids
        self._rules = rules
        self._length = length

    def paint(self, text: str, properties: Mapping[str, str], opacity: float, box: Box, matrix: Matrix) -> Paint | None:
        """Return what a `fill` or `stroke` value paints with; None for nothing.

        Args:
            text: the value.
            properties: the element's other properties (for `currentColor`).
            opacity: to be worked into the paint's colours.
            box: the element's bounds in its own coordinates.
            matrix: from there to the drawing's.

        Raises:
            NotSupported: outlines cannot hold it.
        """
        if found := _URL.match(text):
            node = self._ids.get(found[1])
            if node is None:
                return self.paint(found[2], properties, opacity, box, matrix) if found[2] else None
            return self._gradient(node, opacity, box, matrix)
        value = properties.get("color", "black") if text.lower() == "currentcolor" else text
        if value.lower() in {"none", "transparent"}:
            return None
        return _faded(_colour(value), opacity)

    def _gradient(self, node: Node, opacity: float, box: Box, matrix: Matrix) -> Paint | None:
        if node.local not in {"linearGradient", "radialGradient"}:
            raise NotSupported(f"a paint of <{node.local}>")
        chain = self._chain(node)
        stops = self._stops(chain, opacity)
        if not stops:
            return None
        attributes = {name: value for link in reversed(chain) for name, value in link.attributes.items()}
        is_boxed = attributes.get("gradientUnits", "objectBoundingBox") != "userSpaceOnUse"
        if is_boxed and (box[2] - box[0] <= 0 or box[3] - box[1] <= 0):
            return None  # a box without area has no such gradient (SVG 2, 14.2.2)
        to_drawing = parse_transform(attributes.get("gradientTransform"))
        if is_boxed:
            to_drawing = to_drawing.then(Matrix(box[2] - box[0], 0, 0, box[3] - box[1], box[0], box[1]))
        to_drawing = to_drawing.then(matrix)
        spread = attributes.get("spreadMethod", "pad")
        shown: Spread = spread if spread in {"reflect", "repeat"} else "pad"  # type: ignore[assignment]

        def place(name: str, default: str, axis: str) -> float:
            text = attributes.get(name, default)
            return _fraction(text) if is_boxed else self._length(text, axis, 0.0)

        if node.local == "linearGradient":
            start = Point(place("x1", "0%", "x"), place("y1", "0%", "y"))
            end = Point(place("x2", "100%", "x"), place("y2", "0%", "y"))
            return _linear(start, end, stops, shown, to_drawing)
        centre = Point(place("cx", "50%", "x"), place("cy", "50%", "y"))
        focus = Point(place("fx", attributes.get("cx", "50%"), "x"), place("fy", attributes.get("cy", "50%"), "y"))
        radius = place("r", "50%", "d")
        if max(abs(focus.x - centre.x), abs(focus.y - centre.y)) > 1e-3 * max(radius, 1e-9):
            raise NotSupported("a gradient with a focal point off its centre")
        if radius <= 0 or to_drawing.determinant == 0:
            return stops[-1].colour
        return RadialGradient(Matrix(radius, 0, 0, radius, *centre).then(to_drawing), stops, shown)

    def _chain(self, node: Node) -> list[Node]:
        chain = [node]
        while (link := link_of(chain[-1])) is not None and (found := self._ids.get(link)) is not None:
            if found in chain or len(chain) > _MAX_LINKS:
                break
            chain.append(found)
        return chain

    def _stops(self, chain: list[Node], opacity: float) -> tuple[Stop, ...]:
        for link in chain:
            nodes = link.all("stop")
            if nodes:
                stops: list[Stop] = []
                for node in nodes:
                    own = computed(node, {}, self._rules)
                    offset = max(share(node.get("offset"), 0.0), stops[-1].offset if stops else 0.0)
                    colour = own.get("stop-color", "black")
                    value = own.get("color", "black") if colour.lower() == "currentcolor" else colour
                    stops.append(Stop(offset, _faded(_colour(value), opacity * share(own.get("stop-opacity")))))
                return tuple(stops)
        return ()


def _fraction(text: str) -> float:
    try:
        return float(text.strip().rstrip("%")) / (100 if text.strip().endswith("%") else 1)
    except ValueError:
        return 0.0


def _linear(start: Point, end: Point, stops: tuple[Stop, ...], spread: Spread, matrix: Matrix) -> Paint:
    """A linear gradient through any affine transform: its lines of one colour stay lines, and it runs square to them."""
    if start == end or matrix.determinant == 0:
        return stops[-1].colour
    first, last = matrix.apply(*start), matrix.apply(*end)
    side = matrix.apply(start.x - (end.y - start.y), start.y + (end.x - start.x))
    along = (-(side.y - first.y), side.x - first.x)  # square to the line of the first colour
    factor = ((last.x - first.x) * along[0] + (last.y - first.y) * along[1]) / (along[0] ** 2 + along[1] ** 2)
    return LinearGradient(first, Point(first.x + along[0] * factor, first.y + along[1] * factor), stops, spread)


def _colour(text: str) -> Colour:
    try:
        return Colour.parse(text)
    except ValueError as error:
        raise NotSupported(f"the paint {text[:40]!r}") from error


def _faded(colour: Colour, opacity: float) -> Colour:
    return colour._replace(alpha=round(colour.alpha * opacity))
