"""What values lead to, and what drawables say of themselves: the size that they have, and the padding that they give.

Rules: frameworks/base, android.graphics.drawable; each function names the class or method that it follows.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

from msgspec import Struct, field

from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.platforms.android.facts import BASE_DPI
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Entry, Resources
from rivelt.platforms.android.reader.bitmaps import ENDINGS, natural_bitmap
from rivelt.platforms.android.reader.geometry import Natural, Sides
from rivelt.platforms.android.reader.nine_patch import nine_patch_padding
from rivelt.platforms.android.reader.shapes import natural_shape, padding_of_shape
from rivelt.platforms.android.reader.values import Values, at_rest
from rivelt.project.project import Project
from rivelt.units import Size

DEEPEST = 12
_MOST_DRAWABLES = 200  # in one scene: files that name each other twice would else double without end
_MOST_MEASURED = 4000  # the same for what is looked at to learn sizes and padding
LAYERED = {"layer-list", "transition", "ripple"}
CHOSEN = {"selector", "animated-selector", "level-list", "animation-list"}
WRAPPERS = {"inset", "rotate", "animated-rotate", "scale", "clip"}
GROWN = 1.5  # AdaptiveIconDrawable: its layers are 108/72 as large as what is seen of them


class Found(Struct, frozen=True):
    """What a value leads to: a colour, an element, a file that is not XML, or nothing, for a reason."""

    source: str
    colour: Colour | None = None
    node: Node | None = None
    entry: Entry | None = None
    reason: str = ""


class Measures(Struct, frozen=True, dict=True):
    """What the drawables of an app are on one device, before they are drawn. `theme`: the items that `?` references lead to, each with its file.

    `moment`: how much of their motion has passed, from 0 to 1.
    """

    project: Project
    resources: Resources
    device: Device
    theme: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    moment: float = 0.0
    _drawn_so_far: list[str] = field(default_factory=list)
    _measured_so_far: list[str] = field(default_factory=list)

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

    def natural(self, value: str) -> Natural:
        """Return the size that a drawable has by itself, side by side."""
        return self._natural(self._found(value, "", 0), 0)

    def natural_size(self, value: str | None) -> Size | None:
        """Return the size that a drawable has by itself, in dp; None when it has none on one of its sides."""
        natural = self.natural(value or "")
        return Size(natural.width, natural.height) if natural.width is not None and natural.height is not None else None

    # What a value leads to

    def _found(self, value: str, source: str, depth: int) -> Found:
        self._measured_so_far.append(value)
        if depth > DEEPEST or len(self._measured_so_far) > _MOST_MEASURED or len(self._drawn_so_far) > _MOST_DRAWABLES:
            return Found(source, reason=f"{value} refers to itself, or to too many others")
        value = self.values.resolved(value)
        colour = self.colour(value)
        if colour is not None:
            return Found(colour[1] or source, colour=colour[0])
        entry = self.values.entry(value)
        if entry is None:
            what = "is set by a theme that is not in the project" if value.startswith("?") else "is not in the project"
            return Found(source, reason=f"{value} {what}")
        if entry.path.rpartition("/")[0].rpartition("/")[2].startswith("color"):
            return Found(entry.path, reason=f"the colour {value} is unknown")
        if entry.path.endswith(ENDINGS):
            return Found(entry.path, entry=entry)
        if not entry.path.endswith(".xml"):
            return Found(entry.path, reason=f"{entry.path} is not a drawable")
        return Found(entry.path, node=self.project.xml(entry.path).root)

    def _inside(self, node: Node, source: str, depth: int) -> Found | None:
        """What a layer, an item or a wrapper holds: the drawable that it names, else the element in it; None when it is empty."""
        value = attribute(node, "drawable")
        if value is not None:
            return self._found(value, source, depth + 1)
        child = next((child for child in node.children if child.local not in {"attr", "item"}), None)
        return Found(source, node=child) if child is not None else None

    def _chosen(self, root: Node, source: str, depth: int) -> Found | None:
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

    def _natural(self, found: Found | None, depth: int) -> Natural:
        """The size that a drawable has by itself (getIntrinsicWidth, getIntrinsicHeight)."""
        if found is None or found.node is None or depth > DEEPEST:
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
        if kind in CHOSEN:
            return self._natural(self._chosen(node, found.source, depth), depth + 1)
        if kind in LAYERED:
            return self._natural_of_layers(node, found.source, depth)
        if kind == "adaptive-icon":
            parts = (self._part(node, name, found.source, depth) for name in ("background", "foreground"))
            sizes = [self._natural(part, depth + 1) for part in parts]
            return Natural(*(self._seen_of(side) for side in zip(*sizes, strict=True)))
        if kind in WRAPPERS:
            natural = self._natural(self._inside(node, found.source, depth), depth + 1)
            return self._with_insets(node, natural) if kind == "inset" else natural
        return Natural()

    def _seen_of(self, sides: tuple[float | None, ...]) -> float:
        """AdaptiveIconDrawable.getIntrinsicWidth: layers without a size of their own make it nothing."""
        return self.values.trimmed(max((side for side in sides if side is not None), default=0.0) / GROWN)

    def _natural_of_layers(self, root: Node, source: str, depth: int) -> Natural:
        """LayerDrawable.getIntrinsicWidth: the largest layer, with what is round it."""
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
        """The inset of a side; one of nothing gives way to that for all sides, as in the platform."""
        value = attribute(node, f"inset{side}")
        return attribute(node, "inset") if value is None or self.values.length(value) == 0 else value

    # Padding

    def _padding_if_nested(self, root: Node, found: Found | None, depth: int) -> Sides:
        is_nested = attribute(root, "paddingMode") != "stack"
        return self._padding(found, depth + 1) if is_nested else Sides()

    def _padding(self, found: Found | None, depth: int) -> Sides:
        """The padding that a drawable gives the layers above it (getPadding)."""
        if found is None or depth > DEEPEST:
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
        if kind in CHOSEN:
            if attribute(node, "variablePadding") == "true":
                return self._padding(self._chosen(node, found.source, depth), depth + 1)
            every = [self._padding(self._inside(item, found.source, depth), depth + 1) for item in node.all("item")]
            return Sides(*(max(side) for side in zip(*every, strict=True))) if every else Sides()
        if kind in LAYERED:
            padding = Sides()
            for item in node.all("item"):
                padding = padding.plus(self._padding(self._inside(item, found.source, depth), depth + 1))
            return padding
        if kind in WRAPPERS:
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

    def _part(self, root: Node, name: str, source: str, depth: int) -> Found | None:
        part = root.first(name)
        return self._inside(part, source, depth) if part is not None else None

    def _animated(self, root: Node, source: str, depth: int) -> Found:
        """The vector of an `<animated-vector>`: a file, or inline."""
        inline = next(
            (node for node in root.all("attr") if node.get("name") == "android:drawable" and node.children), None
        )
        if inline is not None:
            return Found(source, node=inline.children[0])
        return self._found(attribute(root, "drawable") or "", source, depth + 1)

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
