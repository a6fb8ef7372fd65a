"""Drawables as layers of a scene: what Android draws when one fills a frame.

Rules: frameworks/base, android.graphics.drawable (BitmapDrawable, LayerDrawable, GradientDrawable, VectorDrawable).
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from rivelt.art.source import read_picture
from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.platforms.android.facts import BASE_DPI, android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.resources import Device, Entry, Resources, split_reference
from rivelt.platforms.android.reader.nine_patch import nine_patch_svg
from rivelt.platforms.android.reader.vector import VectorPicture, read_vector
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Layer, Picture, Unknown
from rivelt.units import Rect, Size, centred

_ENDLESS = 1e6  # dp: no screen is larger
_BITMAPS = (".png", ".webp", ".jpg", ".jpeg")
_DEEPEST = 12
_MOST_TILES = 400
_MOST_DRAWABLES = 200  # in one scene: files that name each other twice would else double without end
_THEME_ATTRIBUTE = re.compile(r"\?(android:)?(?:attr/)?(\w+)")


@dataclass(frozen=True)
class Drawables:
    """The drawables of an app on one device. `theme`: the items that `?` references lead to, each with its file."""

    project: Project
    resources: Resources
    device: Device
    theme: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    _visited: list[str] = field(default_factory=list)

    def resolved(self, value: str) -> str:
        """A value with its theme attributes (`?attr/colorPrimary`, `?android:colorBackground`) looked up as far as the app sets them."""
        for _ in range(_DEEPEST):
            found = _THEME_ATTRIBUTE.fullmatch(value.strip())
            item = self.theme.get(f"{found[1] or ''}{found[2]}") if found else None
            if item is None:
                return value
            value = item[0]
        return value

    def colour(self, value: str) -> tuple[Colour, str] | None:
        """A colour value, reference or theme attribute as a colour and the file it comes from; None when it is unknown."""
        return self.resources.colour(self.resolved(value), self.device)

    def layers(self, value: str, frame: Rect, source: str, depth: int = 0) -> list[Layer]:
        """A drawable or colour reference, drawn to fill a frame."""
        self._visited.append(value)
        if min(frame.size) <= 0 or len(self._visited) > _MOST_DRAWABLES + 1:
            return []
        if depth > _DEEPEST or len(self._visited) > _MOST_DRAWABLES:
            return [Unknown(frame, f"{value} refers to itself, or to too many others")]
        value = self.resolved(value)
        colour = self.colour(value)
        if colour is not None:
            return [Fill(frame, colour[0], colour[1] or source)]
        entry = self._entry(value)
        if entry is None or entry.node is not None:
            what = "is set by a theme that is not in the project" if value.startswith("?") else "is not in the project"
            return [Unknown(frame, f"{value} {what}")]
        if entry.path.endswith(".9.png"):
            return self._nine_patch(entry, frame)
        if entry.path.endswith(_BITMAPS):
            return self._bitmap(entry, frame, "fill")
        if not entry.path.endswith(".xml"):
            return [Unknown(frame, f"{entry.path} is no drawable")]
        return self._element(self.project.xml(entry.path).root, frame, entry.path, depth)

    def _entry(self, value: str) -> Entry | None:
        reference = split_reference(self.resolved(value))
        return self.resources.best(*reference, self.device) if reference else None

    def _element(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        if min(frame.size) <= 0:
            return []
        match root.local:
            case "layer-list":
                return [layer for item in root.all("item") for layer in self._item(item, frame, source, depth)]
            case "bitmap":
                return self._bitmap_node(root, frame, source)
            case "shape":
                return self._shape(root, frame, source)
            case "color":
                return self.layers(attribute(root, "color") or "", frame, source, depth + 1)
            case "vector" | "animated-vector":
                return self._vector(root, frame, source, depth)
            case "inset":
                return self._item(root, frame, source, depth, prefix="inset")
            case "selector" | "animation-list":
                return self._first_state(root, frame, source, depth)
            case "adaptive-icon":
                return [
                    layer
                    for part in ("background", "foreground")
                    for layer in self._part(root, part, frame, source, depth)
                ]
            case other:
                return [Unknown(frame, f"<{other}> in {source} is not drawn")]

    def _nine_patch(self, entry: Entry, frame: Rect) -> list[Layer]:
        data = self.project.read(entry.path)
        try:
            svg = nine_patch_svg(data, frame, (entry.density or self.device.density) / BASE_DPI)
        except BadInput as problem:
            return [Unknown(frame, f"{entry.path}: {problem.message}")]
        if svg is None:
            return [Unknown(frame, f"{entry.path} is no nine-patch: nothing marks what stretches")]
        return [Picture(frame, ImageFile(svg.encode()), entry.path, clip=frame)]

    def is_adaptive(self, value: str) -> bool:
        """Whether a reference leads to an adaptive icon."""
        entry = self._entry(value)
        if entry is None or not entry.path.endswith(".xml") or entry.node is not None:
            return False
        return self.project.xml(entry.path).root.local == "adaptive-icon"

    def _first_state(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        """What a selector shows in no state at all: the first item that asks for none. Of an animation the first frame."""
        items = root.all("item")
        plain = [item for item in items if not any("state_" in name for name in item.attributes)]
        chosen = next(iter(plain or items), None)
        return self._item(chosen, frame, source, depth) if chosen is not None else []

    def _part(self, root: Node, name: str, frame: Rect, source: str, depth: int) -> list[Layer]:
        part = root.first(name)
        return self._item(part, frame, source, depth) if part is not None else []

    # Vectors

    def _vector(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        if root.local == "animated-vector":  # its first moment
            inline = next(
                (
                    node.children[0]
                    for node in root.all("attr")
                    if node.get("name") == "android:drawable" and node.children
                ),
                None,
            )
            if inline is None:
                return self.layers(attribute(root, "drawable") or "", frame, source, depth + 1)
            root = inline
        try:
            svg = self.read_vector(root, source).svg.encode()
            # One that takes too long to draw is not drawn.
            self.project.remember(("drawable", svg), lambda: read_picture(svg, source))
        except BadInput as problem:
            return [Unknown(frame, problem.message)]
        return [Picture(frame, ImageFile(svg), source, clip=frame)]

    def read_vector(self, root: Node, source: str) -> VectorPicture:
        """A `<vector>` with the app's colours.

        Raises:
            BadInput: it is unknown.
        """

        def colour_of(value: str) -> Colour | None:
            found = self.colour(value)
            return found[0] if found else None

        return read_vector(root, colour_of, self.device.version, source)

    # Layers

    def _item(self, item: Node, frame: Rect, source: str, depth: int, prefix: str = "") -> list[Layer]:
        sides = ("left", "top", "right", "bottom")
        names = [f"{prefix}{side.capitalize()}" if prefix else side for side in sides]
        insets = [self.length(attribute(item, name) or (attribute(item, prefix) if prefix else None)) for name in names]
        if None in insets:
            return [Unknown(frame, f"a length in {source} is unknown")]
        left, top, right, bottom = (inset or 0.0 for inset in insets)
        inner = Rect(frame.x + left, frame.y + top, frame.width - left - right, frame.height - top - bottom)
        child = next((node for node in item.children if node.local != "attr"), None)
        value = attribute(item, "drawable")
        if not prefix:
            inner = self._sized(item, inner, value, child)
        if value:
            return self.layers(value, inner, source, depth + 1)
        if child is not None:
            return self._element(child, inner, source, depth + 1)
        return [Unknown(inner, f"a layer in {source} is empty")]

    def _sized(self, item: Node, frame: Rect, value: str | None, child: Node | None) -> Rect:
        """Where a layer with a size or gravity of its own lies (LayerDrawable.resolveGravity)."""
        if self.device.version < android_facts().levels.sized_layers:
            return frame
        given = [self.length(attribute(item, name)) if attribute(item, name) else None for name in ("width", "height")]
        gravity = set((attribute(item, "gravity") or "").split("|")) - {""}
        if given == [None, None] and not gravity:
            return frame
        natural = self.natural_size(value, child)
        width = given[0] if given[0] is not None else natural.width if natural else None
        height = given[1] if given[1] is not None else natural.height if natural else None
        if not gravity & {"left", "right", "start", "end", "center", "center_horizontal", "fill", "fill_horizontal"}:
            gravity.add("left" if given[0] is not None else "fill_horizontal")
        if not gravity & {"top", "bottom", "center", "center_vertical", "fill", "fill_vertical"}:
            gravity.add("top" if given[1] is not None else "fill_vertical")
        gravity |= {"fill_horizontal"} if width is None else set()
        gravity |= {"fill_vertical"} if height is None else set()
        return by_gravity(Size(width or 0.0, height or 0.0), frame, gravity)

    def natural_size(self, value: str | None, child: Node | None = None) -> Size | None:
        """The size that a drawable has by itself; None for colours and shapes without one."""
        if child is not None and child.local == "bitmap":
            value = attribute(child, "src")
        entry = self._entry(value or "")
        if entry is None or entry.node is not None:
            return None
        if entry.path.endswith(_BITMAPS):
            return self._bitmap_size(entry)
        root = self.project.xml(entry.path).root
        try:
            return self.read_vector(root, entry.path).size if root.local == "vector" else None
        except BadInput:
            return None

    # Shapes and bitmaps

    def _shape(self, root: Node, frame: Rect, source: str) -> list[Layer]:
        kind = attribute(root, "shape") or "rectangle"
        corners, solid, stroke = root.first("corners"), root.first("solid"), root.first("stroke")
        radius = self.length(attribute(corners, "radius"))
        if kind not in {"rectangle", "oval"} or radius is None or (corners is not None and len(corners.attributes) > 1):
            return [Unknown(frame, f"a shape in {source} is not drawn", is_round=kind == "oval")]
        definitions, paint = self._shape_paint(root, solid, frame)
        line, width = self._shape_line(stroke)
        if paint is None or line is None:
            return [Unknown(frame, f"a colour of a shape in {source} is unknown", is_round=kind == "oval")]
        plain = self.colour(attribute(solid, "color") or "") if solid is not None and not definitions else None
        if kind == "rectangle" and radius <= 0 and plain is not None and not width:
            return [Fill(frame, plain[0], source)]
        inner = Size(frame.width - width, frame.height - width)
        rx, ry = (inner.width / 2, inner.height / 2) if kind == "oval" else (radius, radius)
        head = (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{frame.width:g}" height="{frame.height:g}">{definitions}'
        )
        box = f'x="{width / 2:g}" y="{width / 2:g}" width="{inner.width:g}" height="{inner.height:g}" rx="{rx:g}" ry="{ry:g}"'
        image = ImageFile(f"{head}<rect {box} {paint} {line}/></svg>".encode())
        return [Picture(frame, image, source, clip=frame)]

    def _shape_paint(self, root: Node, solid: Node | None, frame: Rect) -> tuple[str, str | None]:
        """Definitions and the fill of a shape; None when a colour is unknown."""
        gradient = root.first("gradient")
        if gradient is None:
            if solid is None:
                return "", 'fill="none"'
            colour = self.colour(attribute(solid, "color") or "")
            return "", f'fill="{colour[0].hex[:7]}" fill-opacity="{colour[0].alpha / 255:g}"' if colour else None
        named = [attribute(gradient, name) for name in ("startColor", "centerColor", "endColor")]
        colours = [self.colour(value) for value in named if value]
        if None in colours or not colours:
            return "", None
        stops = "".join(
            f'<stop offset="{index / max(1, len(colours) - 1):g}" stop-color="{found[0].hex[:7]}" stop-opacity="{found[0].alpha / 255:g}"/>'
            for index, found in enumerate(colours)
            if found
        )
        kind = attribute(gradient, "type") or "linear"
        if kind == "linear":
            angle = _share(attribute(gradient, "angle") or "0")
            if angle is None:
                return "", None
            ends = _gradient_ends(angle, frame.size)
            return (
                f'<defs><linearGradient id="g" gradientUnits="userSpaceOnUse" {ends}>{stops}</linearGradient></defs>',
                'fill="url(#g)"',
            )
        radius = self.length(attribute(gradient, "gradientRadius"))
        x, y = (_share(attribute(gradient, name) or "0.5") for name in ("centerX", "centerY"))
        if kind != "radial" or not radius or x is None or y is None:
            return "", None
        at = f'cx="{x * frame.width:g}" cy="{y * frame.height:g}" r="{radius:g}"'
        return (
            f'<defs><radialGradient id="g" gradientUnits="userSpaceOnUse" {at}>{stops}</radialGradient></defs>',
            'fill="url(#g)"',
        )

    def _shape_line(self, stroke: Node | None) -> tuple[str | None, float]:
        width = self.length(attribute(stroke, "width")) or 0.0
        if stroke is None or width <= 0:
            return "", 0.0
        colour = self.colour(attribute(stroke, "color") or "")
        return (
            f'stroke="{colour[0].hex[:7]}" stroke-opacity="{colour[0].alpha / 255:g}" stroke-width="{width:g}"'
            if colour
            else None
        ), width

    def _bitmap_node(self, node: Node, frame: Rect, source: str) -> list[Layer]:
        entry = self._entry(attribute(node, "src") or "")
        if entry is None or not entry.path.endswith(_BITMAPS):
            what = "is no bitmap, which crashes the app" if entry is not None else "is not in the project"
            return [Unknown(frame, f"the bitmap of {source} {what}")]
        mode = attribute(node, "tileMode")
        if mode not in {None, "disabled"}:
            return self._tiled(entry, frame, mode == "repeat")
        return self._bitmap(entry, frame, attribute(node, "gravity") or "fill")

    def _tiled(self, entry: Entry, frame: Rect, is_repeated: bool) -> list[Layer]:  # noqa: FBT001
        size = self._bitmap_size(entry)
        if (
            size is None
            or not is_repeated
            or min(size) <= 0
            or frame.width * frame.height > _MOST_TILES * size.width * size.height
        ):
            return [Unknown(frame, f"the tiles of {entry.path} are not drawn")]
        image = self.project.image(entry.path)
        columns, rows = math.ceil(frame.width / size.width), math.ceil(frame.height / size.height)
        corners = (
            (frame.x + column * size.width, frame.y + row * size.height)
            for row in range(rows)
            for column in range(columns)
        )
        return [Picture(Rect(x, y, *size), image, entry.path, clip=frame) for x, y in corners]

    def _bitmap(self, entry: Entry, frame: Rect, gravity: str) -> list[Layer]:
        size = self._bitmap_size(entry)
        if size is None:
            return [Unknown(frame, f"{entry.path} is no readable bitmap")]
        rect = by_gravity(size, frame, set(gravity.split("|")))
        return [Picture(rect, self.project.image(entry.path), entry.path, clip=frame)]

    def _bitmap_size(self, entry: Entry) -> Size | None:
        pixels = self.project.image(entry.path).size
        if pixels is None:
            return None
        density = entry.density or self.device.density
        return Size(pixels.width * BASE_DPI / density, pixels.height * BASE_DPI / density)

    def length(self, value: str | None) -> float | None:
        """A dimension in dp: 0 when absent, None when it is unknown."""
        if value is None:
            return 0.0
        if value.startswith("@dimen/"):
            entry = self.resources.best("dimen", value.removeprefix("@dimen/"), self.device)
            value = entry.node.text.strip() if entry and entry.node else value
        number = value.removesuffix("dip").removesuffix("dp")
        try:
            length = (
                float(number) if number != value else float(value.removesuffix("px")) * BASE_DPI / self.device.density
            )
        except ValueError:
            return None
        return length if abs(length) < _ENDLESS else None


def _share(text: str) -> float | None:
    """A number, or a share such as "50%"; None for anything else."""
    try:
        number = float(text.removesuffix("%")) / (100 if text.endswith("%") else 1)
    except ValueError:
        return None
    return number if abs(number) < _ENDLESS else None


def _gradient_ends(angle: float, size: Size) -> str:
    """Where a linear gradient of a shape begins and ends: angles are counter-clockwise multiples of 45 (GradientDrawable)."""
    degrees = angle % 360
    width, height = size
    ends = {
        0: (0, 0, width, 0),
        45: (0, height, width, 0),
        90: (0, height, 0, 0),
        135: (width, height, 0, 0),
        180: (width, 0, 0, 0),
        225: (width, 0, 0, height),
        270: (0, 0, 0, height),
        315: (0, 0, width, height),
    }
    x1, y1, x2, y2 = ends[round(degrees / 45) % 8 * 45]
    return f'x1="{x1:g}" y1="{y1:g}" x2="{x2:g}" y2="{y2:g}"'


def by_gravity(size: Size, frame: Rect, words: set[str]) -> Rect:
    """Where something of `size` lies in a frame (https://developer.android.com/reference/android/view/Gravity)."""
    if "fill" in words:
        return frame
    x, y, width, height = centred(size, frame)
    if words & {"left", "start"}:
        x = frame.x
    if words & {"right", "end"}:
        x = frame.right - size.width
    if "top" in words:
        y = frame.y
    if "bottom" in words:
        y = frame.bottom - size.height
    if "fill_horizontal" in words:
        x, width = frame.x, frame.width
    if "fill_vertical" in words:
        y, height = frame.y, frame.height
    return Rect(x, y, width, height)
