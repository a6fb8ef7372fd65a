"""Drawables as layers of a scene: what Android draws when one fills a frame.

Rules: frameworks/base, android.graphics.drawable; each function names the class that it follows.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from rivelt.art.source import read_picture
from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.platforms.android.facts import BASE_DPI, android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Entry, Resources
from rivelt.platforms.android.reader.bitmaps import ENDINGS, bitmap, bitmap_node, natural_bitmap
from rivelt.platforms.android.reader.geometry import Natural, Sides, by_gravity, gravity_words, says
from rivelt.platforms.android.reader.nine_patch import nine_patch_padding
from rivelt.platforms.android.reader.shapes import natural_shape, padding_of_shape, shape
from rivelt.platforms.android.reader.values import Values, at_rest
from rivelt.platforms.android.reader.vector import VectorPicture, read_vector
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Layer, Picture, Unknown
from rivelt.units import Circle, Rect, Size

_DEEPEST = 12
_MOST_DRAWABLES = 200  # in one scene: files that name each other twice would else double without end
_LAYERED = {"layer-list", "transition", "ripple"}
_CHOSEN = {"selector", "animated-selector", "level-list", "animation-list"}
_WRAPPERS = {"inset", "rotate", "animated-rotate", "scale", "clip"}
_MOST_LEVEL = 10_000  # Drawable.setLevel
_GROWN = 1.5  # AdaptiveIconDrawable: its layers are 108/72 as large as what is seen of them


@dataclass(frozen=True)
class _Found:
    """What a value leads to: a colour, an element, a file that is no XML, or nothing, for a reason."""

    source: str
    colour: Colour | None = None
    node: Node | None = None
    entry: Entry | None = None
    reason: str = ""


@dataclass(frozen=True)
class Drawables:
    """The drawables of an app on one device. `theme`: the items that `?` references lead to, each with its file."""

    project: Project
    resources: Resources
    device: Device
    theme: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    _visited: list[str] = field(default_factory=list)

    @cached_property
    def values(self) -> Values:
        """What values come to on the device."""
        return Values(self.project, self.resources, self.device, self.theme)

    def colour(self, value: str) -> tuple[Colour, str] | None:
        """Return a colour value, reference or theme attribute as a colour and the file it comes from; None when it is unknown."""
        return self.values.colour(value)

    def length(self, value: str | None) -> float | None:
        """Return a dimension in dp: 0 when it is left out, None when it is unknown."""
        return self.values.length(value)

    def layers(self, value: str, frame: Rect, source: str, depth: int = 0) -> list[Layer]:
        """Return what a drawable or colour reference shows when it fills a frame."""
        if min(frame.size) <= 0:
            return []
        return self._drawn(self._found(value, source, depth), frame, depth)

    def natural_size(self, value: str | None) -> Size | None:
        """Return the size that a drawable has by itself, in dp; None when it has none on one of its sides."""
        natural = self._natural(self._found(value or "", "", 0), 0)
        return Size(natural.width, natural.height) if natural.width is not None and natural.height is not None else None

    def is_adaptive(self, value: str) -> bool:
        """Return whether a reference leads to an adaptive icon."""
        found = self._found(value, value, 0)
        return found.node is not None and found.node.local == "adaptive-icon"

    def read_vector(self, root: Node, source: str) -> VectorPicture:
        """Return a `<vector>` with the app's colours.

        Raises:
            BadInput: it is unknown.
        """
        return read_vector(root, self.values, source)

    # What a value leads to

    def _found(self, value: str, source: str, depth: int) -> _Found:
        self._visited.append(value)
        if depth > _DEEPEST or len(self._visited) > _MOST_DRAWABLES:
            return _Found(source, reason=f"{value} refers to itself, or to too many others")
        value = self.values.resolved(value)
        colour = self.colour(value)
        if colour is not None:
            return _Found(colour[1] or source, colour=colour[0])
        entry = self.values.entry(value)
        if entry is None:
            what = "is set by a theme that is not in the project" if value.startswith("?") else "is not in the project"
            return _Found(source, reason=f"{value} {what}")
        if entry.path.endswith(ENDINGS):
            return _Found(entry.path, entry=entry)
        if not entry.path.endswith(".xml"):
            return _Found(entry.path, reason=f"{entry.path} is no drawable")
        return _Found(entry.path, node=self.project.xml(entry.path).root)

    def _inside(self, node: Node, source: str, depth: int) -> _Found | None:
        """What a layer, an item or a wrapper holds: the drawable that it names, else the element in it; None when it is empty."""
        value = attribute(node, "drawable")
        if value is not None:
            return self._found(value, source, depth + 1)
        child = next((child for child in node.children if child.local not in {"attr", "item"}), None)
        return _Found(source, node=child) if child is not None else None

    def _chosen(self, root: Node, source: str, depth: int) -> _Found | None:
        """What a drawable with several states, levels or frames shows when nothing has happened to it (DrawableContainer)."""
        items = root.all("item")
        match root.local:
            case "selector" | "animated-selector":
                item = at_rest(root)
            case "level-list":
                item = next((item for item in items if self._holds_no_level(item)), None)
            case _:
                item = next(iter(items), None)
        return self._inside(item, source, depth) if item is not None else None

    def _holds_no_level(self, item: Node) -> bool:
        lowest, highest = (self.values.number(attribute(item, name), 0.0) for name in ("minLevel", "maxLevel"))
        return lowest is not None and highest is not None and lowest <= 0 <= highest

    # Sizes

    def _natural(self, found: _Found | None, depth: int) -> Natural:
        """The size that a drawable has by itself (getIntrinsicWidth, getIntrinsicHeight)."""
        if found is None or found.node is None or depth > _DEEPEST:
            return natural_bitmap(self.values, found.entry if found else None)
        node = found.node
        kind = node.local
        if kind == "shape":
            return natural_shape(self.values, node)
        if kind in {"bitmap", "nine-patch"}:
            return natural_bitmap(self.values, self.values.entry(attribute(node, "src") or ""))
        if kind == "vector":
            sides = (self.values.side(attribute(node, name)) for name in ("width", "height"))
            return Natural(*(side or None for side in sides))
        if kind == "animated-vector":
            return self._natural(self._animated(node, found.source, depth), depth + 1)
        if kind in _CHOSEN:
            return self._natural(self._chosen(node, found.source, depth), depth + 1)
        if kind in _LAYERED:
            return self._natural_of_layers(node, found.source, depth)
        if kind == "adaptive-icon":
            parts = (self._part(node, name, found.source, depth) for name in ("background", "foreground"))
            sizes = [self._natural(part, depth + 1) for part in parts]
            return Natural(*(self._seen_of(side) for side in zip(*sizes, strict=True)))
        if kind in _WRAPPERS:
            natural = self._natural(self._inside(node, found.source, depth), depth + 1)
            return self._with_insets(node, natural) if kind == "inset" else natural
        return Natural()

    def _seen_of(self, sides: tuple[float | None, ...]) -> float | None:
        longest = max((side for side in sides if side is not None), default=None)
        return self.values.trimmed(longest / _GROWN) if longest is not None else None

    def _natural_of_layers(self, root: Node, source: str, depth: int) -> Natural:
        """LayerDrawable.getIntrinsicWidth: the largest layer, with what lies round it."""
        longest: list[float | None] = [None, None]
        around = Sides()
        for item in root.all("item"):
            found = self._inside(item, source, depth)
            insets = (self._sides(item) or Sides()).plus(around)
            given = self._given(item) or (None, None)
            natural = self._natural(found, depth + 1)
            for axis, (own, more) in enumerate(
                zip(natural, (insets.left + insets.right, insets.top + insets.bottom), strict=True)
            ):
                side = given[axis] if given[axis] is not None else own
                if side is not None:
                    longest[axis] = max(longest[axis] or 0.0, side + more)
            around = around.plus(self._padding_if_nested(root, found, depth))
        return Natural(*longest)

    def _with_insets(self, node: Node, natural: Natural) -> Natural:
        """InsetDrawable.getIntrinsicWidth."""
        sides = []
        for own, names in ((natural.width, ("Left", "Right")), (natural.height, ("Top", "Bottom"))):
            shares = [self.values.share(self._inset(node, name)) for name in names]
            rest = 1 - sum(share[0] for share in shares if share)
            lengths = [
                0.0 if share else self.values.length(self._inset(node, name)) or 0.0
                for name, share in zip(names, shares, strict=True)
            ]
            sides.append(None if own is None or rest <= 0 else self.values.trimmed(own / rest) + sum(lengths))
        return Natural(*sides)

    def _inset(self, node: Node, side: str) -> str | None:
        return attribute(node, f"inset{side}") or attribute(node, "inset")

    # Padding

    def _padding_if_nested(self, root: Node, found: _Found | None, depth: int) -> Sides:
        is_nested = attribute(root, "paddingMode") != "stack"
        return self._padding(found, depth + 1) if is_nested else Sides()

    def _padding(self, found: _Found | None, depth: int) -> Sides:
        """The padding that a drawable gives the layers above it (getPadding)."""
        if found is None or depth > _DEEPEST:
            return Sides()
        if found.entry is not None and found.entry.path.endswith(".9.png"):
            return self._nine_patch_padding(found.entry)
        node = found.node
        if node is None:
            return Sides()
        kind = node.local
        if kind == "shape":
            return padding_of_shape(self.values, node)
        if kind == "nine-patch":
            entry = self.values.entry(attribute(node, "src") or "")
            return self._nine_patch_padding(entry) if entry is not None else Sides()
        if kind in _CHOSEN:
            if attribute(node, "variablePadding") == "true":
                return self._padding(self._chosen(node, found.source, depth), depth + 1)
            every = [self._padding(self._inside(item, found.source, depth), depth + 1) for item in node.all("item")]
            return Sides(*(max(side) for side in zip(*every, strict=True))) if every else Sides()
        if kind in _LAYERED:
            padding = Sides()
            for item in node.all("item"):
                padding = padding.plus(self._padding(self._inside(item, found.source, depth), depth + 1))
            return padding
        if kind in _WRAPPERS:
            padding = self._padding(self._inside(node, found.source, depth), depth + 1)
            if kind == "inset":
                lengths = (self.values.length(self._inset(node, side)) for side in ("Left", "Top", "Right", "Bottom"))
                padding = padding.plus(Sides(*(length or 0.0 for length in lengths)))
            return padding
        return Sides()

    def _nine_patch_padding(self, entry: Entry) -> Sides:
        try:
            pixels = nine_patch_padding(self.project.read(entry.path))
        except BadInput:
            return Sides()
        density = entry.density or self.device.density
        return Sides(*(self.values.trimmed(side * BASE_DPI / density) for side in pixels))

    # Drawing

    def _drawn(self, found: _Found | None, frame: Rect, depth: int) -> list[Layer]:
        if found is None:
            return []
        if min(frame.size) <= 0:
            return []
        if found.reason:
            return [Unknown(frame, found.reason)]
        if found.colour is not None:
            return [Fill(frame, found.colour, found.source)]
        if found.entry is not None:
            return bitmap(self.values, found.entry, frame)
        assert found.node is not None
        return self._element(found.node, frame, found.source, depth)

    def _element(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        if depth > _DEEPEST:
            return [Unknown(frame, f"{source} holds too many drawables, one in the other")]
        kind = root.local
        if kind in _LAYERED:
            return list(self._layered(root, frame, source, depth))
        if kind in _CHOSEN:
            return self._drawn(self._chosen(root, source, depth), frame, depth + 1)
        if kind in _WRAPPERS:
            return self._wrapped(root, frame, source, depth)
        match kind:
            case "bitmap" | "nine-patch":
                return bitmap_node(self.values, root, frame, source)
            case "shape":
                return shape(self.values, root, frame, source)
            case "color":
                return self.layers(attribute(root, "color") or "", frame, source, depth + 1)
            case "vector":
                return self._vector(root, frame, source)
            case "animated-vector":  # its first moment
                return self._drawn(self._animated(root, source, depth), frame, depth + 1)
            case "adaptive-icon":
                return self._adaptive(root, frame, source, depth)
            case other:
                return [Unknown(frame, f"<{other}> in {source} is not drawn")]

    def _adaptive(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        """AdaptiveIconDrawable: layers larger than the frame, seen through the device maker's mask. Of those a circle shows the least."""
        width, height = frame.width * _GROWN, frame.height * _GROWN
        grown = Rect(frame.centre.x - width / 2, frame.centre.y - height / 2, width, height)
        mask = Circle(frame.centre, min(frame.size) / 2)
        layers: list[Layer] = []
        for name in ("background", "foreground"):
            part = self._part(root, name, source, depth)
            layers += [cut(layer, mask) for layer in self._drawn(part, grown, depth + 1)]
        return layers

    def _part(self, root: Node, name: str, source: str, depth: int) -> _Found | None:
        part = root.first(name)
        return self._inside(part, source, depth) if part is not None else None

    def _animated(self, root: Node, source: str, depth: int) -> _Found:
        """The vector of an `<animated-vector>`: a file, or inline."""
        inline = next(
            (node for node in root.all("attr") if node.get("name") == "android:drawable" and node.children), None
        )
        if inline is not None:
            return _Found(source, node=inline.children[0])
        return self._found(attribute(root, "drawable") or "", source, depth + 1)

    def _vector(self, root: Node, frame: Rect, source: str) -> list[Layer]:
        try:
            svg = self.read_vector(root, source).svg.encode()
            # One that takes too long to draw is not drawn.
            self.project.remember(("drawable", svg), lambda: read_picture(svg, source))
        except BadInput as problem:
            return [Unknown(frame, problem.message)]
        is_mirrored = self.device.is_right_to_left and attribute(root, "autoMirrored") == "true"
        return [Picture(frame, ImageFile(svg), source, clip=frame, is_mirrored=is_mirrored)]

    # Wrappers

    def _wrapped(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        found = self._inside(root, source, depth)
        if found is None:
            return [Unknown(frame, f"<{root.local}> in {source} is empty")]
        match root.local:
            case "inset":
                insets = self._insets(root, frame)
                if insets is None:
                    return [Unknown(frame, f"a length in {source} is unknown")]
                return self._drawn(found, insets.inside(frame), depth + 1)
            case "clip":  # ClipDrawable: nothing of it at level 0, which is where it begins
                return []
            case "scale":
                return self._scaled(root, found, frame, depth)
            case "rotate":
                angle = self.values.number(attribute(root, "fromDegrees"), 0.0)
                if angle is None or angle % 360:
                    return [Unknown(frame, f"<rotate> in {source} is not drawn")]
        return self._drawn(found, frame, depth + 1)

    def _insets(self, root: Node, frame: Rect) -> Sides | None:
        """InsetDrawable.onBoundsChange: a share is one of the frame."""
        sides = []
        for name, whole in (
            ("Left", frame.width),
            ("Top", frame.height),
            ("Right", frame.width),
            ("Bottom", frame.height),
        ):
            share = self.values.share(self._inset(root, name))
            length = self.values.trimmed(share[0] * whole) if share else self.values.length(self._inset(root, name))
            if length is None:
                return None
            sides.append(length)
        return Sides(*sides)

    def _scaled(self, root: Node, found: _Found, frame: Rect, depth: int) -> list[Layer]:
        """ScaleDrawable: nothing at level 0, which is where it begins unless it says otherwise."""
        level = self.values.number(attribute(root, "level"), 0.0)
        if not level or self.device.version < android_facts().levels.scale_level:
            return [Unknown(frame, f"the level of <scale> in {found.source} is unknown")] if level is None else []
        natural = self._natural(found, depth + 1)
        is_least = self.values.flag(attribute(root, "useIntrinsicSizeAsMinimum"), default=False)
        sides = []
        for name, whole, own in (
            ("scaleWidth", frame.width, natural.width),
            ("scaleHeight", frame.height, natural.height),
        ):
            share = self.values.share(attribute(root, name))
            least = own or 0.0 if is_least else 0.0
            factor = share[0] if share else 0.0
            sides.append(whole - self.values.trimmed((whole - least) * (_MOST_LEVEL - level) * factor / _MOST_LEVEL))
        words = gravity_words(attribute(root, "scaleGravity") or "left", is_right_to_left=self.device.is_right_to_left)
        rect = by_gravity(sides[0], sides[1], frame, words, self.values.trimmed)
        return self._drawn(found, rect, depth + 1)

    # Layers

    def _layered(self, root: Node, frame: Rect, source: str, depth: int) -> Iterator[Layer]:
        """LayerDrawable.updateLayerBounds: each layer in the frame, less its insets and the padding of those below it."""
        around = Sides()
        for item in root.all("item"):
            found = self._inside(item, source, depth)
            if root.local == "ripple" and (attribute(item, "id") or "").endswith("/mask"):
                continue
            insets, given = self._sides(item), self._given(item)
            if insets is None or given is None:
                yield Unknown(frame, f"a length in {source} is unknown")
                continue
            if found is None:
                yield Unknown(frame, f"a layer in {source} is empty")
                continue
            room = insets.plus(around).inside(frame)
            yield from self._drawn(found, self._placed(item, found, room, given, depth), depth + 1)
            around = around.plus(self._padding_if_nested(root, found, depth))
            if root.local == "transition":  # its first layer, until something starts it
                return

    def _placed(
        self, item: Node, found: _Found, room: Rect, given: tuple[float | None, float | None], depth: int
    ) -> Rect:
        """Where a layer lies in its room (LayerDrawable.resolveGravity)."""
        if self.device.version < android_facts().levels.sized_layers:
            return room
        words = gravity_words(attribute(item, "gravity") or "", is_right_to_left=self.device.is_right_to_left)
        if not words and given == (None, None):
            return room
        natural = self._natural(found, depth + 1)
        for axis, side, own, first in (
            ("horizontal", given[0], natural.width, "right" if self.device.is_right_to_left else "left"),
            ("vertical", given[1], natural.height, "top"),
        ):
            if not says(words, axis):
                words.add(first if side is not None else f"fill_{axis}")
            if side is None and own is None:
                words.add(f"fill_{axis}")
        width, height = (side if side is not None else own or 0.0 for side, own in zip(given, natural, strict=True))
        return by_gravity(width, height, room, words, self.values.trimmed)

    def _given(self, item: Node) -> tuple[float | None, float | None] | None:
        """The size that a layer is given, None on a side where it is not; None when it is unknown."""
        sides = []
        for name in ("width", "height"):
            value = attribute(item, name)
            side = self.values.side(value)
            if side is None:
                return None
            sides.append(side if value is not None else None)
        return sides[0], sides[1]

    def _sides(self, item: Node) -> Sides | None:
        """The insets of a layer: `start` and `end` come before `left` and `right`; None when one is unknown."""
        start, end = ("right", "left") if self.device.is_right_to_left else ("left", "right")
        relative = {start: "start", end: "end"}
        sides = []
        for side in ("left", "top", "right", "bottom"):
            length = self.values.length(attribute(item, relative.get(side, "")) or attribute(item, side))
            if length is None:
                return None
            sides.append(length)
        return Sides(*sides)


def cut(layer: Layer, mask: Circle) -> Layer:
    """Return a layer with all that lies outside a circle cut away."""
    match layer:
        case Picture():
            return replace(layer, clip=mask)
        case Fill():
            size = f'width="{layer.rect.width:g}" height="{layer.rect.height:g}"'
            paint = f'fill="{layer.colour.hex[:7]}" fill-opacity="{layer.colour.alpha / 255:g}"'
            svg = f'<svg xmlns="http://www.w3.org/2000/svg" {size}><rect {size} {paint}/></svg>'
            return Picture(layer.rect, ImageFile(svg.encode()), layer.source, clip=mask)
        case Unknown():
            return Unknown(mask.box, layer.reason, is_round=True)
        case _:
            return layer
