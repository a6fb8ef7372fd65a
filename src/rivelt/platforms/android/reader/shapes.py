"""`<shape>` drawables as SVG.

Rules: frameworks/base, android.graphics.drawable.GradientDrawable.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.picture import ImageFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.reader.geometry import Natural, Sides
from rivelt.platforms.android.reader.gradients import stops_svg, sweep_svg
from rivelt.platforms.android.reader.values import Values
from rivelt.scene.model import Fill, Layer, Picture, Unknown
from rivelt.units import Point, Rect

_CORNERS = ("topLeftRadius", "topRightRadius", "bottomRightRadius", "bottomLeftRadius")
_RING_THICKNESS, _RING_RADIUS = 9.0, 3.0
"""The shares of a ring's width where it names no lengths (GradientDrawable.GradientState)."""


def natural_shape(values: Values, root: Node) -> Natural:
    """Return the size that a shape asks for."""
    sides = (values.side(attribute(root.first("size"), name)) for name in ("width", "height"))
    return Natural(*(side or None for side in sides))


def padding_of_shape(values: Values, root: Node) -> Sides:
    """Return the padding that a shape gives the layers above it."""
    given = root.first("padding")
    return Sides(*(values.length(attribute(given, name)) or 0.0 for name in ("left", "top", "right", "bottom")))


def shape(values: Values, root: Node, frame: Rect, source: str) -> list[Layer]:
    """Return a shape that fills a frame."""
    kind = attribute(root, "shape") or "rectangle"
    drawn = _Shape(values, root, Rect(0, 0, *frame.size))
    try:
        flat = drawn.flat(kind)
        if flat is not None:
            return [Fill(frame, flat, source)] if flat.alpha else []
        content = "".join(drawn.parts(kind))
    except _Unclear as problem:
        return [Unknown(frame, f"{problem} in {source} is unknown", is_round=kind == "oval")]
    if not content:
        return []
    x, y, width, height = shown = drawn.extent
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{width!r}" height="{height!r}" viewBox="{x!r} {y!r} {width!r} {height!r}">'
    image = ImageFile(f"{head}<defs>{''.join(drawn.definitions)}</defs>{content}</svg>".encode())
    rect = Rect(frame.x + x, frame.y + y, width, height)
    return [Picture(rect, image, source, clip=rect if shown == frame else None)]


class _Unclear(Exception):
    """What of a shape is unknown."""


class _Shape:
    def __init__(self, values: Values, root: Node, frame: Rect) -> None:
        self._values = values
        self._root = root
        self.definitions: list[str] = []
        stroke = root.first("stroke")
        self._stroke = stroke
        self._line = self._known(values.side(attribute(stroke, "width")), "a width")
        half = self._line / 2
        self._box = Sides(half, half, half, half).inside(frame)
        self.extent = frame
        """What it covers: its frame, but for a ring, which may be larger."""

    def _known(self, value: float | None, what: str) -> float:
        if value is None:
            raise _Unclear(what)
        return value

    def flat(self, kind: str) -> Colour | None:
        """Return the colour of a shape that is nothing but a filled rectangle; None for any other."""
        solid = self._root.first("solid")
        if kind != "rectangle" or self._root.first("gradient") or self._line or any(self._radii()) or solid is None:
            return None
        return self._tinted(self._colour(attribute(solid, "color")))

    def parts(self, kind: str) -> Iterator[str]:
        """Yield the elements that show it."""
        fill, stroke = self._fill(), self._stroke_paint()
        if min(self._box.size) < 0:
            return
        if kind == "line":
            y = self._box.centre.y
            yield f'<path d="M{self._box.x:g} {y:g}H{self._box.right:g}" fill="none" {stroke}/>' if stroke else ""
        elif kind == "ring":
            yield self._ring(fill, stroke)
        elif kind in {"rectangle", "oval"}:
            yield f'<path d="{self._oval() if kind == "oval" else self._rectangle()}" {fill} {stroke}/>'
        else:
            raise _Unclear(f"the shape {kind}")

    def _colour(self, value: str | None) -> Colour:
        found = self._values.colour(value) if value is not None else (Colour(0, 0, 0, 0), "")
        if found is None:
            raise _Unclear("a colour of a shape")
        return found[0]

    def _tinted(self, colour: Colour) -> Colour:
        tint = attribute(self._root, "tint")
        if tint is None:
            return colour
        if attribute(self._root, "tintMode") not in {None, "src_in"}:
            raise _Unclear("the tint of a shape")
        by = self._colour(tint)
        return Colour(by.red, by.green, by.blue, round(by.alpha * colour.alpha / 255))

    def _radii(self) -> list[float]:
        corners = self._root.first("corners")
        every = attribute(corners, "radius")
        given = (self._values.side(attribute(corners, name) or every) for name in _CORNERS)
        return [self._known(radius, "a radius") for radius in given]

    def _rectangle(self) -> str:
        box, room = self._box, min(self._box.size) / 2
        radii = self._radii()
        if len(set(radii)) == 1:
            radii = [min(radius, room) for radius in radii]
        else:  # scaled down together until they fit, as a rounded rectangle's are
            pairs = (
                (radii[0] + radii[1], box.width),
                (radii[2] + radii[3], box.width),
                (radii[0] + radii[3], box.height),
                (radii[1] + radii[2], box.height),
            )
            factor = min([1.0, *(side / both for both, side in pairs if both > 0)])
            radii = [radius * factor for radius in radii]
        a, b, c, d = radii
        return (
            f"M{box.x + a:g} {box.y:g}H{box.right - b:g}A{b:g} {b:g} 0 0 1 {box.right:g} {box.y + b:g}"
            f"V{box.bottom - c:g}A{c:g} {c:g} 0 0 1 {box.right - c:g} {box.bottom:g}"
            f"H{box.x + d:g}A{d:g} {d:g} 0 0 1 {box.x:g} {box.bottom - d:g}"
            f"V{box.y + a:g}A{a:g} {a:g} 0 0 1 {box.x + a:g} {box.y:g}z"
        )

    def _oval(self) -> str:
        return _ellipse(self._box)

    def _ring(self, fill: str, stroke: str) -> str:
        """A ring is as thick and as wide as it says, whatever its frame."""
        width = self._box.width
        lengths = [
            self._values.side(attribute(self._root, name))
            if attribute(self._root, name) is not None
            else width
            / self._known(self._values.number(attribute(self._root, f"{name}Ratio"), share) or None, "a ring")
            for name, share in (("thickness", _RING_THICKNESS), ("innerRadius", _RING_RADIUS))
        ]
        thickness, radius = (self._known(length, "a ring") for length in lengths)
        x, y = self._box.centre
        outer = radius + thickness
        reach = outer + self._line
        self.extent = self.extent.union(Rect(x - reach, y - reach, 2 * reach, 2 * reach))
        if self._values.flag(attribute(self._root, "useLevel"), default=True) is not False:
            raise _Unclear("a ring that shows its level")
        path = "".join(_ellipse(Rect(x - each, y - each, 2 * each, 2 * each)) for each in (outer, radius))
        return f'<path d="{path}" fill-rule="evenodd" {fill} {stroke}/>'

    def _stroke_paint(self) -> str:
        if self._line <= 0:
            return ""
        colour = self._tinted(self._colour(attribute(self._stroke, "color")))
        dash = self._known(self._values.exact(attribute(self._stroke, "dashWidth")), "a dash")
        gap = self._known(self._values.exact(attribute(self._stroke, "dashGap")), "a dash")
        dashes = f' stroke-dasharray="{dash:g} {gap:g}"' if dash > 0 else ""
        return (
            f'stroke="{colour.hex[:7]}" stroke-opacity="{colour.alpha / 255:g}" stroke-width="{self._line:g}"{dashes}'
        )

    def _fill(self) -> str:
        gradient = self._root.first("gradient")
        solid = self._root.first("solid")
        if solid is not None or gradient is None:
            colour = self._tinted(self._colour(attribute(solid, "color")))
            return f'fill="{colour.hex[:7]}" fill-opacity="{colour.alpha / 255:g}"' if colour.alpha else 'fill="none"'
        if attribute(self._root, "tint") is not None:
            raise _Unclear("the tint of a gradient")
        return self._gradient(gradient)

    def _gradient(self, node: Node) -> str:
        centre = [self._place(attribute(node, name)) for name in ("centerX", "centerY")]
        named = [attribute(node, name) for name in ("startColor", "centerColor", "endColor")]
        # What is left out between two others is not a colour at all; the middle one may be.
        if self._values.device.version < android_facts().levels.themed_gradients and any(
            "?" in (name or "") for name in named
        ):
            raise _Unclear("a gradient with a theme attribute, which Android 9 and earlier mixes up,")
        colours = [self._colour(value) for index, value in enumerate(named) if value is not None or index != 1]
        kind = attribute(node, "type") or "linear"
        middle = (centre[0] if centre[0] != 0.5 else centre[1]) if kind == "linear" else 0.5
        places = [0.0, middle, 1.0] if len(colours) == 3 else [0.0, 1.0]
        stops = stops_svg(list(zip(places, colours, strict=True)))
        box = self._box
        x, y = box.x + centre[0] * box.width, box.y + centre[1] * box.height
        if kind == "linear":
            ends = self._ends(node)
            self.definitions.append(
                f'<linearGradient id="g" gradientUnits="userSpaceOnUse" {ends}>{stops}</linearGradient>'
            )
        elif kind == "radial":
            radius = self._radius(node)
            at = f'cx="{x:g}" cy="{y:g}" r="{radius:g}"'
            self.definitions.append(
                f'<radialGradient id="g" gradientUnits="userSpaceOnUse" {at}>{stops}</radialGradient>'
            )
        elif kind == "sweep":
            self.definitions.append(
                sweep_svg("g", list(zip(places, colours, strict=True)), Point(x, y), math.hypot(*box.size))
            )
        else:
            raise _Unclear(f"a gradient of type {kind}")
        return 'fill="url(#g)"'

    def _place(self, value: str | None) -> float:
        share = self._values.share(value)
        number = share[0] if share else self._values.number(value, 0.5)
        return self._known(number, "a gradient")

    def _radius(self, node: Node) -> float:
        value = attribute(node, "gradientRadius")
        share = self._values.share(value)
        if share is not None:
            size = natural_shape(self._values, self._root)
            whole = self._box.size if share[1] else (size.width or self._box.width, size.height or self._box.height)
            radius: float | None = share[0] * min(whole)
        else:
            number = self._values.number(value, 0.0)  # a plain number is one of pixels
            radius = number * self._values.pixel if number is not None else self._values.exact(value)
        if self._values.flag(attribute(node, "useLevel"), default=False):
            radius = 0.0
        return self._known(radius, "the radius of a gradient") or 0.001

    def _ends(self, node: Node) -> str:
        angle = self._known(self._values.number(attribute(node, "angle"), 0.0), "the angle of a gradient")
        degrees = int(angle) % 360
        if degrees % 45:
            raise _Unclear("the angle of a gradient")
        box = self._box
        left, top, right, bottom = box.x, box.y, box.right, box.bottom
        level = 0.0 if self._values.flag(attribute(node, "useLevel"), default=False) else 1.0
        ends = {
            0: (left, top, left + (right - left) * level, top),
            45: (left, bottom, right * level, top * level),
            90: (left, bottom, left, top * level),
            135: (right, bottom, left * level, top * level),
            180: (right, top, left * level, top),
            225: (right, top, left * level, bottom * level),
            270: (left, top, left, bottom * level),
            315: (left, top, right * level, bottom * level),
        }
        return 'x1="{:g}" y1="{:g}" x2="{:g}" y2="{:g}"'.format(*ends[degrees])


def _ellipse(box: Rect) -> str:
    rx, ry = box.width / 2, box.height / 2
    y = box.centre.y
    arc = f"A{rx:g} {ry:g} 0 0 1"
    return f"M{box.right:g} {y:g}{arc} {box.x:g} {y:g}{arc} {box.right:g} {y:g}z"
