"""From an SVG to its outline."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping

from rivelt.art.outline.css import Rule, computed, parse_sheet
from rivelt.art.outline.model import Matrix, Outline, Paint, Path, Shape, Stroke, Unsupported
from rivelt.art.outline.paint import NotSupported, Paints, link_of, parse_transform, share
from rivelt.art.outline.path import bounds_of, ellipse, parse_path, rectangle, transformed
from rivelt.art.svg import css_length
from rivelt.edit.xml import Node, parse_xml
from rivelt.patterns import regex
from rivelt.picture import Art
from rivelt.units import Rect, Size
from rivelt.values import replace

_CONTAINERS = frozenset({"g", "a", "svg", "switch"})
_SHAPES = frozenset({"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"})
_SILENT = frozenset(
    [
        "defs",
        "title",
        "desc",
        "metadata",
        "style",
        "linearGradient",
        "radialGradient",
        "clipPath",
        "symbol",
        "namedview",
        "marker",
        "mask",
        "pattern",
        "filter",
        "view",
        "script",
        "cursor",
        "font",
        "font-face",
        "color-profile",
    ]
)
_SVG = "http://www.w3.org/2000/svg"
_MAX_DEPTH = 60
_MAX_ELEMENTS = 5_000  # a vector drawable of more takes longer to draw than the launch lasts
_NUMBER = regex(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")


def outline_of(art: Art) -> Outline:
    """Return the outline of a vector.

    What outlines cannot hold is left out of the shapes and told in `unsupported`: such an outline is not the whole picture.
    """
    assert art.svg is not None
    content = art.svg.content
    if content.count("<") - content.count("</") > _MAX_ELEMENTS:
        return Outline(art.size, (), (Unsupported("svg", f"it holds more than {_MAX_ELEMENTS:,} elements"),))
    root = parse_xml(art.svg.nested().encode(), art.name).root
    return _Converter(root, art.size).convert()


class _Converter:
    def __init__(self, root: Node, size: Size) -> None:
        self._root = root
        self._size = size
        self._viewport = size
        self._ids = {identifier: node for node in root.walk() if (identifier := node.get("id"))}
        self._rules: list[Rule] = []
        self._unsupported: dict[Unsupported, None] = {}
        for sheet in root.walk():
            if sheet.local == "style":
                rules, strange = parse_sheet(sheet.text)
                self._rules += [rule._replace(order=rule.order + len(self._rules)) for rule in rules]
                for selector in strange:
                    self._refuse("style", f"the selector {selector[:40]!r}")
        self._paints = Paints(self._ids, self._rules, self._length)

    def convert(self) -> Outline:
        shapes = tuple(self._element(self._root, Matrix(), {}, (), 0))
        return Outline(self._size, shapes, tuple(self._unsupported))

    def _refuse(self, element: str, reason: str) -> None:
        self._unsupported[Unsupported(element, reason)] = None

    def _length(self, text: str | None, axis: str, default: float) -> float:
        """A length in the viewport's units; percentages are of its width, its height, or its diagonal."""
        value = (text or "").strip()
        if value.endswith("%"):
            width, height = self._viewport
            whole = {"x": width, "y": height}.get(axis, math.hypot(width, height) / math.sqrt(2))
            try:
                return float(value[:-1]) / 100 * whole
            except ValueError:
                return default
        length = css_length(value)
        return default if length is None else length

    # Walking

    def _element(
        self, node: Node, matrix: Matrix, inherited: Mapping[str, str], clips: tuple[Path, ...], depth: int
    ) -> list[Shape]:
        is_foreign = node.tag.startswith("{") and not node.tag.startswith(f"{{{_SVG}}}")
        if is_foreign or node.local in _SILENT or depth > _MAX_DEPTH:
            return []
        properties = computed(node, inherited, self._rules)
        if properties.get("display") == "none":
            return []
        self._report(node, properties)
        matrix = parse_transform(node.get("transform")).then(matrix)
        try:
            if node.local in _SHAPES:
                path = self._path(node)
                clips = self._clipped(properties, clips, matrix, path)
                return self._shape(node, path, matrix, properties, clips)
            if node.local in _CONTAINERS or node.local == "use":
                clips = self._clipped(properties, clips, matrix, None)
                shapes = self._children(node, matrix, properties, clips, depth)
                return self._faded(shapes, share(properties.get("opacity")))
        except NotSupported as reason:
            self._refuse(node.local, str(reason))
            return []
        self._refuse(node.local, "an element that is not an outline")
        return []

    def _report(self, node: Node, properties: Mapping[str, str]) -> None:
        for name in ("filter", "mask"):
            if properties.get(name, "none") != "none":
                self._refuse(node.local, f"a {name}")
        if properties.get("mix-blend-mode", "normal") != "normal":
            self._refuse(node.local, "a blend mode")
        if "transform" in (node.get("style") or "").replace("transform-origin", ""):
            self._refuse(node.local, "a transform in its style")
        for name in ("marker-start", "marker-mid", "marker-end", "marker"):
            if node.get(name, "") not in {None, "none"}:
                self._refuse(node.local, "markers")

    def _children(
        self, node: Node, matrix: Matrix, properties: Mapping[str, str], clips: tuple[Path, ...], depth: int
    ) -> list[Shape]:
        if node.local == "use":
            return self._used(node, matrix, properties, clips, depth)
        if node.local == "svg":
            return self._viewported(node, node, matrix, properties, clips, depth)
        children: Iterable[Node] = node.children
        if node.local == "switch":
            children = [child for child in node.children if child.get("systemLanguage") is None][:1]
        return [shape for child in children for shape in self._element(child, matrix, properties, clips, depth + 1)]

    def _used(
        self, node: Node, matrix: Matrix, properties: Mapping[str, str], clips: tuple[Path, ...], depth: int
    ) -> list[Shape]:
        target = self._ids.get(link_of(node) or "")
        if target is None:
            return []
        move = Matrix(e=self._length(node.get("x"), "x", 0), f=self._length(node.get("y"), "y", 0))
        inner = move.then(matrix)
        if target.local == "symbol":
            own = computed(target, properties, self._rules)
            return self._viewported(target, node, inner, own, clips, depth + 1, is_placed=True)
        return self._element(target, inner, properties, clips, depth + 1)

    def _viewported(
        self,
        node: Node,
        frame: Node,
        matrix: Matrix,
        properties: Mapping[str, str],
        clips: tuple[Path, ...],
        depth: int,
        *,
        is_placed: bool = False,
    ) -> list[Shape]:
        """The children of an `<svg>` or a `<symbol>`, in a viewport that `frame` gives the size of."""
        width = self._length(frame.get("width"), "x", self._viewport.width)
        height = self._length(frame.get("height"), "y", self._viewport.height)
        if width <= 0 or height <= 0:
            return []
        if node is not self._root and not is_placed:
            x, y = self._length(frame.get("x"), "x", 0), self._length(frame.get("y"), "y", 0)
            matrix = Matrix(e=x, f=y).then(matrix)
        if properties.get("overflow", "hidden") != "visible":
            clips = (*clips, transformed(rectangle(0, 0, width, height, 0, 0), matrix))
        fitted, inner = _view_box(node, Size(width, height))
        outer, self._viewport = self._viewport, inner
        shapes = [
            shape
            for child in node.children
            for shape in self._element(child, fitted.then(matrix), properties, clips, depth + 1)
        ]
        self._viewport = outer
        return shapes

    # Shapes

    def _path(self, node: Node) -> Path:
        def length(name: str, axis: str) -> float:
            return self._length(node.get(name), axis, 0.0)

        match node.local:
            case "path":
                return parse_path(node.get("d") or "")
            case "rect":
                corner = node.get("rx") or node.get("ry"), node.get("ry") or node.get("rx")
                radii = self._length(corner[0], "x", 0), self._length(corner[1], "y", 0)
                size = length("width", "x"), length("height", "y")
                return rectangle(length("x", "x"), length("y", "y"), *size, *radii) if min(size) > 0 else ()
            case "circle" | "ellipse":
                radius = length("r", "d")
                rx, ry = (radius, radius) if node.local == "circle" else (length("rx", "x"), length("ry", "y"))
                return ellipse(length("cx", "x"), length("cy", "y"), rx, ry) if min(rx, ry) > 0 else ()
            case "line":
                ends = length("x1", "x"), length("y1", "y"), length("x2", "x"), length("y2", "y")
                return parse_path("M{} {}L{} {}".format(*ends))
            case _:
                numbers = _NUMBER.findall(node.get("points") or "")
                text = "M" + " ".join(numbers[: len(numbers) // 2 * 2])
                return parse_path(text + ("Z" if node.local == "polygon" else "")) if len(numbers) > 1 else ()

    def _shape(
        self, node: Node, path: Path, matrix: Matrix, properties: Mapping[str, str], clips: tuple[Path, ...]
    ) -> list[Shape]:
        bounds = bounds_of(path)
        if bounds is None or properties.get("visibility", "visible") != "visible" or matrix.determinant == 0:
            return []
        opacity = share(properties.get("opacity"))

        def paint(name: str, default: str) -> Paint | None:
            own = opacity * share(properties.get(f"{name}-opacity"))
            found = self._paints.paint(properties.get(name, default), properties, own, bounds, matrix)
            return found if own > 0 else None

        fill = paint("fill", "black") if node.local != "line" else None
        stroke_paint = paint("stroke", "none")
        width = self._length(properties.get("stroke-width"), "d", 1.0)
        stroke = self._stroke(stroke_paint, width, matrix, properties) if stroke_paint and width > 0 else None
        if fill and stroke and opacity < 1:
            raise NotSupported("opacity over a fill and a stroke together")
        if not fill and not stroke:
            return []
        return [Shape(transformed(path, matrix), fill, properties.get("fill-rule") == "evenodd", stroke, clips)]

    def _stroke(self, paint: Paint, width: float, matrix: Matrix, properties: Mapping[str, str]) -> Stroke:
        if not matrix.is_similarity:
            raise NotSupported("a stroke under a transform that is not alike in all directions")
        if properties.get("stroke-dasharray", "none") not in {"none", "0"}:
            raise NotSupported("a dashed stroke")
        is_fixed = properties.get("vector-effect") == "non-scaling-stroke"
        miter = self._length(properties.get("stroke-miterlimit"), "d", 4.0)
        cap, join = properties.get("stroke-linecap", "butt"), properties.get("stroke-linejoin", "miter")
        if join not in {"miter", "round", "bevel"}:
            raise NotSupported(f"the line join {join!r}")
        return Stroke(paint, width * (1 if is_fixed else matrix.scale), cap, join, miter)

    def _clipped(
        self, properties: Mapping[str, str], clips: tuple[Path, ...], matrix: Matrix, path: Path | None
    ) -> tuple[Path, ...]:
        """The clips of an element, its own `clip-path` added."""
        found = re.fullmatch(r"url\(\s*[\"']?#([^\"')]+)[\"']?\s*\)", properties.get("clip-path", "none"))
        if not found:
            if properties.get("clip-path", "none") != "none":
                raise NotSupported("a clip by a basic shape")
            return clips
        clip = self._ids.get(found[1])
        if clip is None or clip.local != "clipPath":
            return clips
        if clip.get("clip-path"):
            raise NotSupported("a clip of a clip")
        if clip.get("clipPathUnits") == "objectBoundingBox":
            bounds = bounds_of(path) if path is not None else None
            if bounds is None:
                raise NotSupported("a clip in units of a group's box")
            left, top, right, bottom = bounds
            matrix = Matrix(right - left, 0, 0, bottom - top, left, top).then(matrix)
        matrix = parse_transform(clip.get("transform")).then(matrix)
        return (*clips, tuple(segment for child in clip.children for segment in self._clip_part(child, matrix)))

    def _clip_part(self, node: Node, matrix: Matrix) -> Path:
        properties = computed(node, {}, self._rules)
        inner = parse_transform(node.get("transform")).then(matrix)
        if node.local == "use":
            target = self._ids.get(link_of(node) or "")
            if target is None or target.local == "use":
                return ()
            move = Matrix(e=self._length(node.get("x"), "x", 0), f=self._length(node.get("y"), "y", 0))
            return self._clip_part(target, move.then(inner))
        if node.local not in _SHAPES or properties.get("display") == "none":
            if node.local in _SILENT:
                return ()
            raise NotSupported(f"a clip by <{node.local}>")
        if properties.get("clip-rule") == "evenodd":
            raise NotSupported("a clip by the even-odd rule")
        return transformed(self._path(node), inner)

    def _faded(self, shapes: list[Shape], opacity: float) -> list[Shape]:
        """A group's opacity worked into its shapes, which gives the same picture only where they do not overlap."""
        if opacity == 1 or not shapes:
            return shapes
        if opacity == 0:
            return []
        boxes = [_painted_box(shape) for shape in shapes]
        overlap = any(_meet(a, b) for index, a in enumerate(boxes) for b in boxes[index + 1 :])
        if overlap or any(shape.fill and shape.stroke for shape in shapes):
            raise NotSupported("opacity over shapes that overlap")
        return [
            replace(
                shape,
                fill=_with_opacity(shape.fill, opacity),
                stroke=shape.stroke
                and replace(shape.stroke, paint=_with_opacity(shape.stroke.paint, opacity) or shape.stroke.paint),
            )
            for shape in shapes
        ]


def _with_opacity(paint: Paint | None, opacity: float) -> Paint | None:
    if paint is None:
        return None
    if isinstance(paint, tuple):
        return paint._replace(alpha=round(paint.alpha * opacity))
    stops = tuple(
        stop._replace(colour=stop.colour._replace(alpha=round(stop.colour.alpha * opacity))) for stop in paint.stops
    )
    return replace(paint, stops=stops)


def _painted_box(shape: Shape) -> Rect:
    left, top, right, bottom = bounds_of(shape.path) or (0, 0, 0, 0)
    grown = (
        shape.stroke.width * max(1.0, shape.stroke.miter if shape.stroke.join == "miter" else 1) / 2
        if shape.stroke
        else 0
    )
    return Rect(left - grown, top - grown, right - left + 2 * grown, bottom - top + 2 * grown)


def _meet(a: Rect, b: Rect) -> bool:
    return a.x < b.right and b.x < a.right and a.y < b.bottom and b.y < a.bottom


def _view_box(node: Node, size: Size) -> tuple[Matrix, Size]:
    """The transform from a viewBox to its viewport, and the size of the user space inside (SVG 2, 8.2)."""
    numbers = [float(value) for value in _NUMBER.findall(node.get("viewBox") or "")]
    if len(numbers) != 4 or numbers[2] <= 0 or numbers[3] <= 0:
        return Matrix(), size
    x, y, width, height = numbers
    words = (node.get("preserveAspectRatio") or "xMidYMid").split()
    sx, sy = size.width / width, size.height / height
    if "none" in words:
        return Matrix(sx, 0, 0, sy, -x * sx, -y * sy), Size(width, height)
    scale = max(sx, sy) if "slice" in words else min(sx, sy)
    shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    align = words[0] if len(words[0]) == 8 else "xMidYMid"
    dx = (size.width - width * scale) * shares.get(align[1:4], 0.5)
    dy = (size.height - height * scale) * shares.get(align[5:8], 0.5)
    return Matrix(scale, 0, 0, scale, dx - x * scale, dy - y * scale), Size(width, height)
