"""Drawables as layers of a scene: what Android draws when one fills a frame.

Rules: frameworks/base, android.graphics.drawable; each function names the class that it follows.
"""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.art.source import read_picture
from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.motion import Animators, vector_at
from rivelt.platforms.android.reader.bitmaps import bitmap, bitmap_node
from rivelt.platforms.android.reader.closed import unread
from rivelt.platforms.android.reader.geometry import Sides, by_gravity, gravity_words, says
from rivelt.platforms.android.reader.measures import CHOSEN, DEEPEST, GROWN, LAYERED, WRAPPERS, Found, Measures
from rivelt.platforms.android.reader.shapes import shape
from rivelt.platforms.android.reader.vector import VectorPicture, read_vector
from rivelt.scene.model import Fill, Layer, Picture, Unknown
from rivelt.units import Circle, Rect, Size
from rivelt.values import replace

_BLACK = Colour(0, 0, 0)
_MOST_LEVEL = 10_000  # Drawable.setLevel


class Drawables(Measures, frozen=True):
    """The drawables of an app on one device, as they are drawn."""

    def layers(self, value: str, frame: Rect, source: str, depth: int = 0) -> list[Layer]:
        """Return what a drawable or colour reference shows when it fills a frame."""
        return self._drawn(self._found(value, source, depth), frame, depth)

    def is_adaptive(self, value: str) -> bool:
        """Return whether a reference leads to an adaptive icon."""
        found = self._found(value, value, 0)
        return found.node is not None and found.node.local == "adaptive-icon"

    def layers_of_adaptive(self, value: str, frame: Rect) -> tuple[list[Layer], list[Layer]]:
        """Return the background and the foreground of an adaptive icon, each uncut in a frame that is as large as they are."""
        found = self._found(value, value, 0)
        if found.node is None:
            return [], []
        parts = (self._part(found.node, name, found.source, 0) for name in ("background", "foreground"))
        background, foreground = (self._drawn(part, frame, 1) for part in parts)
        return background, foreground

    def read_vector(self, root: Node, source: str, frame: Size | None = None) -> VectorPicture:
        """Return a `<vector>` with the app's colours, stretched to a frame.

        Raises:
            BadInput: it is unknown.
        """
        return read_vector(root, self.values, source, frame)

    # Drawing

    def _drawn(self, found: Found | None, frame: Rect, depth: int) -> list[Layer]:
        """What it shows; only a bitmap with a gravity, in layers or alone, shows something where there is no room."""
        if found is None:
            return []
        self._drawn_so_far.append(found.source)
        kind = found.node.local if found.node is not None else ""
        if min(frame.size) <= 0 and not (kind == "bitmap" or kind in LAYERED | CHOSEN | WRAPPERS):
            return []
        if found.reason:
            return [Unknown(frame, found.reason)]
        if found.colour is not None:
            return [Fill(frame, found.colour, found.source)]
        if found.entry is not None:
            return bitmap(self.values, found.entry, frame)
        assert found.node is not None
        part = unread(found.node)
        if part is not None:
            return [Unknown(frame, f"{part} in {found.source} is not understood")]
        return self._element(found.node, frame, found.source, depth)

    def _element(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        if depth > DEEPEST:
            return [Unknown(frame, f"{source} holds too many drawables, one in the other")]
        kind = root.local
        if kind in LAYERED:
            return list(self._layered(root, frame, source, depth))
        if kind in CHOSEN:
            chosen = self._chosen(root, source, depth)
            if chosen is not None and self.device.is_right_to_left and _is_mirrored(chosen.node):
                return [
                    Unknown(frame, f"what of {source} is turned round for a language from right to left is unknown")
                ]
            return [] if _is_at_no_level(chosen) else self._drawn(chosen, frame, depth + 1)
        if kind in WRAPPERS:
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
            case "animated-vector":
                return self._drawn(self._at_moment(root, self._animated(root, source, depth)), frame, depth + 1)
            case "adaptive-icon":  # drawn on black, which shows where the layers let it through
                black = cut(Fill(frame, _BLACK, source), Circle(frame.centre, min(frame.size) / 2))
                return [black, *self._adaptive(root, frame, source, depth)]
            case other:
                return [Unknown(frame, f"<{other}> in {source} is not drawn")]

    def _adaptive(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        """AdaptiveIconDrawable: layers larger than the frame, seen through the device maker's mask. Of those a circle shows the least."""
        width, height = frame.width * GROWN, frame.height * GROWN
        grown = Rect(frame.centre.x - width / 2, frame.centre.y - height / 2, width, height)
        mask = Circle(frame.centre, min(frame.size) / 2)
        layers: list[Layer] = []
        for name in ("background", "foreground"):
            part = self._part(root, name, source, depth)
            layers += [cut(layer, mask) for layer in self._drawn(part, grown, depth + 1)]
        return layers

    def _at_moment(self, root: Node, vector: Found) -> Found:
        """The vector of an `<animated-vector>` as it is when some of its motion has passed."""
        if not self.moment or vector.node is None:
            return vector
        try:
            tracks = Animators(vector.source, self.project, self.resources).tracks(root)
        except BadInput as problem:
            return replace(vector, node=None, reason=problem.message)
        length = max((track.end for track in tracks), default=0.0)
        return replace(vector, node=vector_at(vector.node, tracks, self.moment * length))

    def _vector(self, root: Node, frame: Rect, source: str) -> list[Layer]:
        if not root.children:  # a vector that is empty on purpose, such as an icon that shows nothing
            return []
        try:
            svg = self.read_vector(root, source, frame.size).svg.encode()
            # One that takes too long to draw is not drawn.
            self.project.derived("drawable", (svg, source), lambda its: read_picture(*its))
        except BadInput as problem:
            return [Unknown(frame, problem.message)]
        is_mirrored = self.device.is_right_to_left and attribute(root, "autoMirrored") == "true"
        return [Picture(frame, ImageFile(svg), source, clip=frame, is_mirrored=is_mirrored)]

    # Wrappers

    def _wrapped(self, root: Node, frame: Rect, source: str, depth: int) -> list[Layer]:
        found = self._inside(root, source, depth)
        if found is None:
            return [Unknown(frame, f"<{root.local}> in {source} is empty")]
        if _is_at_no_level(found):
            return []
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

    def _scaled(self, root: Node, found: Found, frame: Rect, depth: int) -> list[Layer]:
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
        self, item: Node, found: Found, room: Rect, given: tuple[float | None, float | None], depth: int
    ) -> Rect:
        """Where a layer is in its room (LayerDrawable.resolveGravity)."""
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
                if axis == "horizontal" and self.device.is_right_to_left and _is_relative(item):
                    return Rect(
                        *room[:2], 0.0, room.height
                    )  # Gravity.getAbsoluteGravity takes one of the two sides away
        width, height = (side if side is not None else own or 0.0 for side, own in zip(given, natural, strict=True))
        return by_gravity(width, height, room, words, self.values.trimmed)


def _is_relative(item: Node) -> bool:
    """Whether a gravity names a side by the direction of the language."""
    return bool({"start", "end"} & {word.strip() for word in (attribute(item, "gravity") or "").split("|")})


def _is_mirrored(node: Node | None) -> bool:
    """Whether something in an element is turned round for languages from right to left."""
    return node is not None and any(attribute(one, "autoMirrored") == "true" for one in (node, *node.walk()))


def _is_at_no_level(held: Found | None) -> bool:
    """Whether what another drawable holds takes its level, which is 0 at rest, and shows nothing at that."""
    return held is not None and held.node is not None and held.node.local in {"scale", "clip"}


def cut(layer: Layer, mask: Circle) -> Layer:
    """Return a layer with all that is outside a circle cut away."""
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
