"""Vector drawables read as Android reads them, and drawn as SVG.

https://developer.android.com/reference/android/graphics/drawable/VectorDrawable, and frameworks/base, libs/hwui/VectorDrawable.cpp.
"""

from __future__ import annotations

import math
import re
from itertools import islice, pairwise
from typing import NamedTuple

from rivelt.art.outline.path import parse_path
from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.reader.gradients import stops_svg, sweep_svg
from rivelt.platforms.android.reader.values import Values
from rivelt.units import Point, Size
from rivelt.xmltext import escaped

_MOST_ELEMENTS = 50_000
_MOST_OUTLINE = 1_000_000  # characters of path data
_SPREADS = {"clamp": "pad", "mirror": "reflect", "repeat": "repeat"}
_CAPS = {"butt", "round", "square"}
_JOINS = {"miter", "round", "bevel"}
_REACH = 2.0  # viewports that a gradient round a point is drawn for: groups may shrink it
_STEPS = 32  # straight pieces of a curve that is trimmed
_TINTS = {"src_in": "in", "src_atop": "atop", "src_over": "over"}
_CLEAR = Colour(0, 0, 0, 0)


class VectorPicture(NamedTuple):
    """A vector drawable: its own size in dp, and an SVG of the size that it is shown at, stretched as Android does."""

    size: Size
    svg: str


def read_vector(root: Node, values: Values, path: str, frame: Size | None = None) -> VectorPicture:
    """Return a `<vector>` as a picture.

    Args:
        root: the element.
        values: what its attributes come to on a device; before API 24 `fillType` and gradients are not known.
        path: what messages call the file.
        frame: the size that it is stretched to, in dp; its own where None.

    Raises:
        BadInput: it holds what the project does not define, or is broken.
    """
    if next(islice(root.walk(), _MOST_ELEMENTS, None), None) is not None:
        raise BadInput(f"{path} takes too long to draw: it holds more than {_MOST_ELEMENTS:,} elements")
    if sum(len(attribute(node, "pathData") or "") for node in root.walk()) > _MOST_OUTLINE:
        raise BadInput(f"{path} takes too long to draw: its paths hold more than {_MOST_OUTLINE // 1_000_000} MB")
    width, height = (values.number(attribute(root, name) or "", 0.0) for name in ("viewportWidth", "viewportHeight"))
    if width is None or height is None:
        raise BadInput(f"the viewport of {path} is not a usable number")
    reader = _VectorReader(values, path, _REACH * max(width, height))
    size = Size(*(values.side(attribute(root, name)) or 0.0 for name in ("width", "height")))
    if min(width, height, *size) <= 0:
        raise BadInput(f"{path} has no size")
    content = reader.children(root)
    if tint := attribute(root, "tint"):
        content = f'<g filter="url(#tint)">{content}</g>'
        mode = attribute(root, "tintMode") or "src_in"
        reader.definitions.append(_tint(reader.colour(tint), mode, Size(width, height), path))
    if (alpha := reader.number(root, "alpha", 1.0)) < 1:
        content = f'<g opacity="{max(0.0, alpha):g}">{content}</g>'
    shown = frame or size
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{shown.width!r}" height="{shown.height!r}"'
    view = f'viewBox="0 0 {width:g} {height:g}" preserveAspectRatio="none"'
    return VectorPicture(size, f"{head} {view}><defs>{''.join(reader.definitions)}</defs>{content}</svg>")


def _tint(colour: Colour, mode: str, viewport: Size, path: str) -> str:
    operator = _TINTS.get(mode)
    if operator is None:
        raise BadInput(f"the tint of {path} mixes colours ({mode}), which is not drawn")
    flood = f'flood-color="{colour.hex[:7]}" flood-opacity="{colour.alpha / 255:g}"'
    shown = f'<feFlood {flood} result="tint"/><feComposite in="tint" in2="SourceGraphic" operator="{operator}"/>'
    region = f'filterUnits="userSpaceOnUse" x="0" y="0" width="{viewport.width:g}" height="{viewport.height:g}"'
    return f'<filter id="tint" {region} color-interpolation-filters="sRGB">{shown}</filter>'


class _VectorReader:
    def __init__(self, values: Values, path: str, reach: float) -> None:
        self._values = values
        self._path = path
        self._knows_gradients = values.device.version >= android_facts().levels.vector_gradients
        self._reach = reach
        self.definitions: list[str] = []

    def children(self, node: Node) -> str:
        """Return what a group holds; a clip path clips its later siblings."""
        parts: list[str] = []
        clips = 0
        for child in node.children:
            match child.local:
                case "group":
                    parts.append(f'<g transform="{self._transform(child)}">{self.children(child)}</g>')
                case "path":
                    parts.append(self._drawn(child))
                case "clip-path":
                    name = f"c{len(self.definitions)}"
                    rule = ' clip-rule="evenodd"' if self._is_even_odd(child) else ""
                    self.definitions.append(f'<clipPath id="{name}"><path d="{self._data(child)}"{rule}/></clipPath>')
                    parts.append(f'<g clip-path="url(#{name})">')
                    clips += 1
                case "attr":
                    continue
                case other:
                    raise BadInput(f"<{other}> in {self._path} is not known")
        return "".join(parts) + "</g>" * clips

    def _transform(self, node: Node) -> str:
        px, py, x, y, rotation = (
            self.number(node, name, 0.0) for name in ("pivotX", "pivotY", "translateX", "translateY", "rotation")
        )
        sx, sy = (self.number(node, name, 1.0) for name in ("scaleX", "scaleY"))
        return f"translate({x + px:g} {y + py:g}) rotate({rotation:g}) scale({sx:g} {sy:g}) translate({-px:g} {-py:g})"

    def _is_even_odd(self, node: Node) -> bool:
        return attribute(node, "fillType") == "evenOdd" and self._knows_gradients

    def _data(self, node: Node) -> str:
        data = self._values.text(attribute(node, "pathData") or "", {"string"})
        if data.startswith(("@", "?")):
            raise BadInput(f"the path {data} of {self._path} is not in the project")
        return escaped(data).replace('"', "&quot;")

    def _shown(self, node: Node) -> str:
        """The path of a node: all of it, or what is left of its first part when it is trimmed."""
        start, end, offset = (
            self.number(node, f"trimPath{name}", default)
            for name, default in (("Start", 0.0), ("End", 1.0), ("Offset", 0.0))
        )
        if start == 0 and end == 1:
            return self._data(node)
        return _trimmed(self._data(node), start, end, offset)

    def _drawn(self, node: Node) -> str:
        rule = ' fill-rule="evenodd"' if self._is_even_odd(node) else ""
        parts = [f'<path d="{self._shown(node)}"{rule}', self._paint(node, "fill")]
        width = self.number(node, "strokeWidth", 0.0)
        if width > 0:
            cap, join = attribute(node, "strokeLineCap") or "butt", attribute(node, "strokeLineJoin") or "miter"
            parts.append(self._paint(node, "stroke", filled=parts[1]))
            parts.append(f'stroke-width="{width:g}" stroke-miterlimit="{self.number(node, "strokeMiterLimit", 4.0):g}"')
            parts.append(
                f'stroke-linecap="{cap if cap in _CAPS else "butt"}" stroke-linejoin="{join if join in _JOINS else "miter"}"'
            )
        return " ".join(parts) + "/>"

    def _paint(self, node: Node, kind: str, filled: str = "") -> str:
        """The paint of a fill or a line. A line of one colour on a fill with a gradient is painted with that gradient, as hwui does."""
        alpha = max(0.0, min(1.0, self.number(node, f"{kind}Alpha", 1.0)))
        gradient = self._gradient_of(node, f"{kind}Color")
        if gradient is not None:
            return f'{kind}="url(#{self._gradient(gradient)})" {kind}-opacity="{alpha:g}"'
        value = attribute(node, f"{kind}Color")
        if value is None:
            return f'{kind}="none"'
        colour = self.colour(value)
        found = re.search(r"url\(#\w+\)", filled)
        shown = found[0] if found else colour.hex[:7]
        return f'{kind}="{shown}" {kind}-opacity="{colour.alpha / 255 * alpha:g}"'

    def _gradient_of(self, node: Node, name: str) -> Node | None:
        """The gradient that an attribute holds: inline, or in a file of its own."""
        for inline in node.all("attr"):
            if inline.get("name") == f"android:{name}" and inline.children:
                return inline.children[0]
        entry = self._values.entry(attribute(node, name) or "")
        root = self._values.root(entry) if entry is not None else None
        return root if root is not None and root.local == "gradient" else None

    def _gradient(self, node: Node) -> str:
        if not self._knows_gradients:
            first = android_facts().levels.vector_gradients
            raise BadInput(f"{self._path} has a gradient, which Android shows from API {first}")
        kind = attribute(node, "type") or "linear"
        stops = [
            (self.number(item, "offset", 0.0), self._colour_or_clear(attribute(item, "color")))
            for item in node.all("item")
        ]
        if not stops:
            named = [attribute(node, name) for name in ("startColor", "centerColor", "endColor")]
            colours = [
                self._colour_or_clear(value) for index, value in enumerate(named) if value is not None or index != 1
            ]
            stops = [(index / (len(colours) - 1), colour) for index, colour in enumerate(colours)]
        shown = stops_svg(stops)
        name = f"p{len(self.definitions)}"
        spread = _SPREADS.get(attribute(node, "tileMode") or "clamp", "pad")
        shared = f'id="{name}" gradientUnits="userSpaceOnUse" spreadMethod="{spread}"'
        cx, cy = (self.number(node, key, 0.0) for key in ("centerX", "centerY"))
        if kind == "linear":
            x1, y1, x2, y2 = (self.number(node, key, 0.0) for key in ("startX", "startY", "endX", "endY"))
            self.definitions.append(
                f'<linearGradient {shared} x1="{x1:g}" y1="{y1:g}" x2="{x2:g}" y2="{y2:g}">{shown}</linearGradient>'
            )
        elif kind == "radial":
            radius = self.number(node, "gradientRadius", 0.0)
            if radius <= 0:
                raise BadInput(f"a radial gradient in {self._path} has no radius, which crashes the app")
            self.definitions.append(
                f'<radialGradient {shared} cx="{cx:g}" cy="{cy:g}" r="{radius:g}">{shown}</radialGradient>'
            )
        elif kind == "sweep":
            self.definitions.append(sweep_svg(name, stops, Point(cx, cy), self._reach))
        else:
            raise BadInput(f"a {kind} gradient in {self._path} is not drawn")
        return name

    def _colour_or_clear(self, value: str | None) -> Colour:
        return self.colour(value) if value is not None else _CLEAR

    def colour(self, value: str) -> Colour:
        """Return a colour value as a colour."""
        found = self._values.colour(value)
        if found is None:
            raise BadInput(f"the colour {value} of {self._path} is not in the project")
        return found[0]

    def number(self, node: Node, name: str, default: float | None) -> float:
        """Return a number; `default` when it is left out (None: it must be there)."""
        value = attribute(node, name)
        if value is None and default is not None:
            return default
        number = self._values.number(value or "", 0.0)
        if number is None or math.isnan(number):
            raise BadInput(f"android:{name} in {self._path} is not a usable number: {value}")
        return number


def _trimmed(data: str, start: float, end: float, offset: float) -> str:
    """The first part of a path from one share of its length to another, as straight pieces (hwui's `applyTrim`)."""
    points = _first_part(data)
    lengths = [0.0]
    for one, two in pairwise(points):
        lengths.append(lengths[-1] + math.dist(one, two))
    whole = lengths[-1]
    if start == end or whole <= 0:
        return ""
    first, last = math.fmod(start + offset, 1.0) * whole, math.fmod(end + offset, 1.0) * whole
    if first > last:
        return _between(points, lengths, first, whole) + (_between(points, lengths, 0.0, last) if last > 0 else "")
    return _between(points, lengths, first, last)


def _first_part(data: str) -> list[Point]:
    points: list[Point] = []
    for command, given in parse_path(data):
        if command == "M":
            if len(points) > 1:
                break
            points = [*given]
            continue
        if command == "Z":
            return [*points, points[0]] if points else points
        if command == "C" and points:
            start = points[-1]
            points += [_on_curve((start, *given), step / _STEPS) for step in range(1, _STEPS + 1)]
        else:
            points += given
    return points


def _on_curve(handles: tuple[Point, ...], at: float) -> Point:
    a, b, c, d = handles
    rest = 1 - at
    weights = (rest**3, 3 * rest * rest * at, 3 * rest * at * at, at**3)
    x, y = (sum(weight * point[axis] for weight, point in zip(weights, (a, b, c, d), strict=True)) for axis in (0, 1))
    return Point(x, y)


def _between(points: list[Point], lengths: list[float], first: float, last: float) -> str:
    shown: list[Point] = []
    for (one, two), (before, after) in zip(pairwise(points), pairwise(lengths), strict=True):
        if after <= first or before >= last or after == before:
            continue
        ends = (max(first, before), min(last, after))
        shares = [(end - before) / (after - before) for end in ends]
        pieces = [Point(one.x + (two.x - one.x) * share, one.y + (two.y - one.y) * share) for share in shares]
        shown += pieces if not shown else pieces[1:]
    return "M" + "L".join(f"{point.x:g},{point.y:g}" for point in shown) if shown else ""
