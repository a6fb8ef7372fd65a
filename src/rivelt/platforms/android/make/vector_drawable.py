"""Outlines as Android vector drawables.

https://developer.android.com/reference/android/graphics/drawable/VectorDrawable: paths, groups, clip paths; gradients and `fillType` from
API 24. The viewport is as large as the drawable, so that one unit is one dp.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import groupby, pairwise
from typing import Any, NamedTuple

from msgspec import Struct

from rivelt.art.outline.model import LinearGradient, Matrix, Outline, Paint, Path, RadialGradient, Shape, Stop, Stroke
from rivelt.art.outline.path import bounds_of, path_data, transformed
from rivelt.colour import Colour
from rivelt.templating import Templates
from rivelt.units import Rect

_TEMPLATES = Templates("rivelt.platforms.android")
_DIGITS = 2  # a hundredth of a dp is a twenty-fifth of a pixel on the finest screen
_STEPS = 8  # stops between two colours of different alpha
_THINNEST = 0.01
_TILES = {"pad": "clamp", "reflect": "mirror", "repeat": "repeat"}


class NotDrawable(Exception):
    """Something in an outline that a vector drawable cannot show."""


class Group(NamedTuple):
    """The transform of a `<group>`: scaled, then turned (degrees), then moved."""

    rotation: float
    scale_y: float
    x: float
    y: float


class VectorPath(Struct, frozen=True):
    """One `<path>`: its attributes, its gradients by attribute, and the group round it if it needs one."""

    attributes: dict[str, str]
    gradients: dict[str, dict[str, Any]]
    group: Group | None = None


def needs_new_features(outline: Outline) -> bool:
    """Whether it needs gradients or the even-odd rule, which Android has from API 24."""
    return any(
        shape.is_even_odd or any(isinstance(paint, LinearGradient | RadialGradient) for paint in _paints(shape))
        for shape in outline.shapes
    )


def _paints(shape: Shape) -> tuple[Paint | None, ...]:
    return (shape.fill, shape.stroke.paint if shape.stroke else None)


def vector_drawable(outline: Outline, side: float, box: Rect, name: str) -> str:
    """Return a square vector drawable of `side` dp that shows the whole outline in `box` (dp).

    Args:
        outline: what is drawn; nothing of it is unsupported.
        side: width and height of the drawable, in dp.
        box: where the outline's own canvas is, in dp.
        name: what the file is, for its comment.

    Raises:
        NotDrawable: it holds something that a vector drawable cannot show.
    """
    scale = box.width / outline.size.width
    to_dp = Matrix(scale, 0, 0, scale, box.x, box.y)
    drawn = [(clip_data(shape, to_dp), shape) for shape in outline.shapes]
    layers = [
        (clips, [path for _, shape in group for path in paths_of(shape, to_dp)])
        for clips, group in groupby(drawn, key=lambda pair: pair[0])
    ]
    return _TEMPLATES.render(
        "vector.xml.j2", side=f"{side:g}", layers=layers, name=name, uses_aapt=_has_gradients(layers)
    )


def clip_data(shape: Shape, to_dp: Matrix) -> tuple[str, ...]:
    """Return the path data of the clips that cut something of a shape away."""
    return tuple(path_data(transformed(clip, to_dp), _DIGITS) for clip in shape.clips if not _holds(clip, shape))


def _holds(clip: Path, shape: Shape) -> bool:
    """Whether a clip is an upright rectangle with all of a shape in it, and so cuts nothing away."""
    outer, inner = bounds_of(clip), bounds_of(shape.path)
    if outer is None or inner is None or any(segment.command not in "MLZ" for segment in clip):
        return False
    corners = all(x in outer[::2] and y in outer[1::2] for segment in clip for x, y in segment.points)
    stroke = shape.stroke
    reach = stroke.width / 2 * (stroke.miter if stroke.join == "miter" else math.sqrt(2)) if stroke is not None else 0.0
    lower = all(inner[side] - reach >= outer[side] - _THINNEST for side in (0, 1))
    return corners and lower and all(inner[side] + reach <= outer[side] + _THINNEST for side in (2, 3))


def _has_gradients(layers: list[tuple[tuple[str, ...], list[VectorPath]]]) -> bool:
    return any(path.gradients for _, paths in layers for path in paths)


def paths_of(shape: Shape, to_dp: Matrix) -> list[VectorPath]:
    """Return the paths that show a shape.

    Raises:
        NotDrawable: it holds something that a vector drawable cannot show.
    """
    path = transformed(shape.path, to_dp)
    rule = {"fillType": "evenOdd"} if shape.is_even_odd and shape.fill is not None else {}
    squashed = _squashed(shape.fill, to_dp)
    stroke, gradients = _stroke(shape.stroke, to_dp)
    if squashed is not None:
        assert isinstance(shape.fill, RadialGradient)
        filled = VectorPath(
            {"pathData": _inside(path, squashed), **rule}, {"fillColor": _round(shape.fill, squashed[1])}, squashed[0]
        )
        return [filled, VectorPath({"pathData": path_data(path, _DIGITS), **stroke}, gradients)] if stroke else [filled]
    attributes = {"pathData": path_data(path, _DIGITS), **rule}
    if isinstance(shape.fill, Colour):
        attributes |= _solid("fill", shape.fill)
    elif shape.fill is not None:
        filled = VectorPath(attributes, {"fillColor": _gradient(shape.fill, to_dp)})
        # In one path with it the line would be painted with the gradient of the fill (frameworks/base, libs/hwui/VectorDrawable.cpp).
        return [filled, VectorPath({"pathData": path_data(path, _DIGITS), **stroke}, gradients)] if stroke else [filled]
    return [VectorPath({**attributes, **stroke}, gradients)]


def _solid(name: str, colour: Colour) -> dict[str, str]:
    return {f"{name}Color": colour.android if colour.alpha < 255 else colour.hex}


def _stroke(stroke: Stroke | None, to_dp: Matrix) -> tuple[dict[str, str], dict[str, dict[str, Any]]]:
    if stroke is None:
        return {}, {}
    attributes = {"strokeWidth": f"{stroke.width * to_dp.scale:.4g}"}
    if stroke.cap != "butt":
        attributes["strokeLineCap"] = stroke.cap
    if stroke.join != "miter":
        attributes["strokeLineJoin"] = stroke.join
    elif stroke.miter != 4:
        attributes["strokeMiterLimit"] = f"{stroke.miter:.4g}"
    if isinstance(stroke.paint, Colour):
        return _solid("stroke", stroke.paint) | attributes, {}
    if _squashed(stroke.paint, to_dp) is not None:
        raise NotDrawable("a line painted with an elliptic gradient")
    return attributes, {"strokeColor": _gradient(stroke.paint, to_dp)}


def _gradient(paint: LinearGradient | RadialGradient, to_dp: Matrix) -> dict[str, Any]:
    if isinstance(paint, LinearGradient):
        start, end = to_dp.apply(*paint.start), to_dp.apply(*paint.end)
        ends = {"startX": start.x, "startY": start.y, "endX": end.x, "endY": end.y}
        return {"type": "linear", **_shown(ends), **_shared(paint)}
    matrix = paint.matrix.then(to_dp)
    return {
        "type": "radial",
        **_shown({"centerX": matrix.e, "centerY": matrix.f, "gradientRadius": matrix.scale}),
        **_shared(paint),
    }


def _shown(lengths: dict[str, float]) -> dict[str, str]:
    return {name: f"{value:.3f}".rstrip("0").rstrip(".") for name, value in lengths.items()}


def _shared(paint: LinearGradient | RadialGradient) -> dict[str, Any]:
    stops = [(f"{stop.offset:.4g}", stop.colour.android) for stop in _fine(paint.stops)]
    return {"tileMode": _TILES[paint.spread], "stops": stops}


def _fine(stops: Sequence[Stop]) -> Iterator[Stop]:
    """Stops close enough that it shows nowhere that Android multiplies alpha in before it mixes colours, and SVG does not."""
    for first, last in pairwise(stops):
        yield first
        if first.colour[:3] != last.colour[:3] and first.colour.alpha != last.colour.alpha:
            for step in range(1, _STEPS):
                share = step / _STEPS
                red, green, blue, alpha = (
                    round(one + (two - one) * share) for one, two in zip(first.colour, last.colour, strict=True)
                )
                yield Stop(first.offset + (last.offset - first.offset) * share, Colour(red, green, blue, alpha))
    yield stops[-1]


def _squashed(paint: Paint | None, to_dp: Matrix) -> tuple[Group, float] | None:
    """The group that makes a circle of the gradient's ellipse, with the circle's radius; None for all other paints.

    Any affine image of the unit circle is one of scale, then rotation, then translation: the singular value decomposition
    M = U S V^T, in which V^T only turns the circle in itself.
    """
    if not isinstance(paint, RadialGradient) or paint.matrix.is_similarity:
        return None
    a, b, c, d, e, f = paint.matrix.then(to_dp)
    half = 0.5 * math.atan2(2 * (a * b + c * d), a * a + c * c - b * b - d * d)
    total, spread = a * a + b * b + c * c + d * d, math.hypot(a * a + c * c - b * b - d * d, 2 * (a * b + c * d))
    longer, shorter = math.sqrt((total + spread) / 2), math.sqrt(max(0.0, (total - spread) / 2))
    if shorter < _THINNEST * longer:
        raise NotDrawable("a gradient squashed to a line")
    return Group(math.degrees(half), shorter / longer, e, f), longer


def _inside(path: Path, squashed: tuple[Group, float]) -> str:
    """Path data in the group's own coordinates."""
    group, _ = squashed
    turn = math.radians(-group.rotation)
    inverse = (
        Matrix(e=-group.x, f=-group.y)
        .then(Matrix(math.cos(turn), math.sin(turn), -math.sin(turn), math.cos(turn)))
        .then(Matrix(1, 0, 0, 1 / group.scale_y))
    )
    return path_data(transformed(path, inverse), _DIGITS + 1)


def _round(paint: RadialGradient, radius: float) -> dict[str, Any]:
    return {"type": "radial", **_shown({"centerX": 0, "centerY": 0, "gradientRadius": radius}), **_shared(paint)}
