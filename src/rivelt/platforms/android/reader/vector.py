"""Vector drawables read as Android reads them, and drawn as SVG.

https://developer.android.com/reference/android/graphics/drawable/VectorDrawable
"""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import islice
from typing import NamedTuple

from rivelt.art.budget import LIMITS
from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.units import Size
from rivelt.xmltext import escaped

_SPREADS = {"clamp": "pad", "mirror": "reflect", "repeat": "repeat"}
_CAPS = {"butt", "round", "square"}
_JOINS = {"miter", "round", "bevel"}

ColourOf = Callable[[str], Colour | None]


class VectorPicture(NamedTuple):
    """A vector drawable: its size in dp, and an SVG that fills any frame with it, stretched as Android does."""

    size: Size
    svg: str


def read_vector(root: Node, colour_of: ColourOf, version: int, path: str) -> VectorPicture:
    """Read a `<vector>`.

    Args:
        root: the element.
        colour_of: a colour value or reference as a colour, or None.
        version: the API level: before 24 `fillType` is ignored.
        path: what messages call the file.

    Raises:
        BadInput: it holds what the project does not define, or is broken.
    """
    if next(islice(root.walk(), int(LIMITS.elements), None), None) is not None:
        raise BadInput(f"{path} takes too long to draw: it holds more than {LIMITS.elements:,.0f} elements")
    reader = _VectorReader(colour_of, version, path)
    width, height = (reader.number(root, name, None) for name in ("viewportWidth", "viewportHeight"))
    size = Size(*(reader.length(attribute(root, name)) for name in ("width", "height")))
    if min(width, height, *size) <= 0:
        raise BadInput(f"{path} has no size")
    content = reader.children(root)
    if tint := attribute(root, "tint"):
        content = f'<g filter="url(#tint)">{content}</g>'
        reader.definitions.append(_tint(reader.colour(tint)))
    if (alpha := reader.number(root, "alpha", 1.0)) < 1:
        content = f'<g opacity="{alpha:g}">{content}</g>'
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{size.width:g}" height="{size.height:g}"'
    view = f'viewBox="0 0 {width:g} {height:g}" preserveAspectRatio="none"'
    return VectorPicture(size, f"{head} {view}><defs>{''.join(reader.definitions)}</defs>{content}</svg>")


def _tint(colour: Colour) -> str:
    flood = f'flood-color="{colour.hex[:7]}" flood-opacity="{colour.alpha / 255:g}"'
    return f'<filter id="tint"><feFlood {flood}/><feComposite in2="SourceAlpha" operator="in"/></filter>'


class _VectorReader:
    def __init__(self, colour_of: ColourOf, version: int, path: str) -> None:
        self._colour_of = colour_of
        self._version = version
        self._path = path
        self.definitions: list[str] = []

    def children(self, node: Node) -> str:
        """What a group holds; a clip path clips its later siblings."""
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
        return attribute(node, "fillType") == "evenOdd" and self._version >= android_facts().levels.vector_gradients

    def _data(self, node: Node) -> str:
        data = attribute(node, "pathData") or ""
        if data.startswith(("@", "?")):
            raise BadInput(f"the path {data} of {self._path} is not told there")
        return escaped(data).replace('"', "&quot;")

    def _drawn(self, node: Node) -> str:
        if (attribute(node, "trimPathStart") or "0") != "0" or (attribute(node, "trimPathEnd") or "1") not in {
            "1",
            "1.0",
        }:
            raise BadInput(f"a trimmed path in {self._path} is not drawn")
        rule = ' fill-rule="evenodd"' if self._is_even_odd(node) else ""
        parts = [f'<path d="{self._data(node)}"{rule}', self._paint(node, "fill")]
        width = self.number(node, "strokeWidth", 0.0)
        if width > 0:
            cap, join = attribute(node, "strokeLineCap") or "butt", attribute(node, "strokeLineJoin") or "miter"
            parts.append(self._paint(node, "stroke"))
            parts.append(f'stroke-width="{width:g}" stroke-miterlimit="{self.number(node, "strokeMiterLimit", 4.0):g}"')
            parts.append(
                f'stroke-linecap="{cap if cap in _CAPS else "butt"}" stroke-linejoin="{join if join in _JOINS else "miter"}"'
            )
        return " ".join(parts) + "/>"

    def _paint(self, node: Node, kind: str) -> str:
        alpha = self.number(node, f"{kind}Alpha", 1.0)
        for inline in node.all("attr"):
            if inline.get("name") == f"android:{kind}Color" and inline.children:
                return f'{kind}="url(#{self._gradient(inline.children[0])})" {kind}-opacity="{alpha:g}"'
        value = attribute(node, f"{kind}Color")
        if value is None:
            return f'{kind}="none"'
        colour = self.colour(value)
        return f'{kind}="{colour.hex[:7]}" {kind}-opacity="{colour.alpha / 255 * alpha:g}"'

    def _gradient(self, node: Node) -> str:
        first = android_facts().levels.vector_gradients
        if self._version < first:
            raise BadInput(f"{self._path} has a gradient, which Android shows from API {first}")
        kind = attribute(node, "type") or "linear"
        stops = [
            (self.number(item, "offset", 0.0), self.colour(attribute(item, "color") or "")) for item in node.all("item")
        ]
        if not stops:
            named = [attribute(node, name) for name in ("startColor", "centerColor", "endColor")]
            colours = [self.colour(value) for value in named if value]
            stops = [(index / max(1, len(colours) - 1), colour) for index, colour in enumerate(colours)]
        shown = "".join(
            f'<stop offset="{offset:g}" stop-color="{colour.hex[:7]}" stop-opacity="{colour.alpha / 255:g}"/>'
            for offset, colour in stops
        )
        name = f"p{len(self.definitions)}"
        spread = _SPREADS.get(attribute(node, "tileMode") or "clamp", "pad")
        shared = f'id="{name}" gradientUnits="userSpaceOnUse" spreadMethod="{spread}"'
        if kind == "linear":
            x1, y1, x2, y2 = (self.number(node, key, 0.0) for key in ("startX", "startY", "endX", "endY"))
            self.definitions.append(
                f'<linearGradient {shared} x1="{x1:g}" y1="{y1:g}" x2="{x2:g}" y2="{y2:g}">{shown}</linearGradient>'
            )
        elif kind == "radial":
            cx, cy, radius = (self.number(node, key, 0.0) for key in ("centerX", "centerY", "gradientRadius"))
            self.definitions.append(
                f'<radialGradient {shared} cx="{cx:g}" cy="{cy:g}" r="{radius:g}">{shown}</radialGradient>'
            )
        else:
            raise BadInput(f"a {kind} gradient in {self._path} is not drawn")
        return name

    def colour(self, value: str) -> Colour:
        """A colour value."""
        colour = self._colour_of(value)
        if colour is None:
            raise BadInput(f"the colour {value} of {self._path} is not in the project")
        return colour

    def number(self, node: Node, name: str, default: float | None) -> float:
        """A number; `default` when it is left out (None: it must be there)."""
        value = attribute(node, name)
        if value is None and default is not None:
            return default
        try:
            number = float(value or "")
        except ValueError:
            raise BadInput(f"android:{name} in {self._path} is no number: {value}") from None
        if abs(number) > 1e9 or number != number:
            raise BadInput(f"android:{name} in {self._path} is no usable number: {value}")
        return number

    def length(self, value: str | None) -> float:
        """A length in dp."""
        found = re.fullmatch(r"\s*([\d.]+)\s*(?:dp|dip)\s*", value or "")
        try:
            return float(found[1]) if found else 0.0
        except ValueError:
            return 0.0
