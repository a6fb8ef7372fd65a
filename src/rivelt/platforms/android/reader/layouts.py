"""Layouts as layers of a scene: where the pictures of a layout are on the screen.

Frames in frames are worked out, with the children's size, gravity, margins and translation (frameworks/base, android.widget.FrameLayout and
ImageView). Other containers are reported to be unknown, never guessed.
"""

from __future__ import annotations

from msgspec import Struct

from rivelt.edit.xml import Node
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.reader.closed import unread_of_view
from rivelt.platforms.android.reader.drawables import Drawables
from rivelt.platforms.android.reader.geometry import by_gravity, gravity_words
from rivelt.scene.model import Layer, Unknown
from rivelt.units import Rect, Size, centred, contain

_FRAMES = {"FrameLayout", "merge"}
_WHOLE = {"match_parent", "fill_parent"}
_DEEPEST = 40


class Layouts(Struct, frozen=True):
    """The layouts of an app on one device, whose pictures are `drawables`."""

    drawables: Drawables

    def layers(self, path: str, screen: Rect) -> list[Layer]:
        """Return what a layout shows when it fills the screen.

        Text and progress indicators are not pictures: they give no layer.

        Raises:
            BadInput: the file is not XML.
        """
        root = self.drawables.project.xml(path).root
        return self._view(root, screen, path, 0)

    def _view(self, node: Node, rect: Rect, path: str, depth: int) -> list[Layer]:
        part = unread_of_view(node) if node.local == "ImageView" or node.local in _FRAMES else None
        if part is not None:
            return [Unknown(rect, f"{part} in {path} is not understood")]
        background = attribute(node, "background")
        layers = self.drawables.layers(background, rect, path) if background else []
        inner = self._without(node, "padding", rect)
        if inner is None:
            return [*layers, Unknown(rect, f"the padding of <{node.local}> in {path} is unknown")]
        if node.local == "ImageView":
            return layers + self._image(node, inner, path)
        if node.local in _FRAMES and depth < _DEEPEST:
            return layers + [layer for child in node.children for layer in self._child(child, inner, path, depth)]
        if node.children:
            return [*layers, Unknown(rect, f"<{node.local}> in {path} is not worked out")]
        return layers

    def _child(self, node: Node, frame: Rect, path: str, depth: int) -> list[Layer]:
        if attribute(node, "visibility") in {"gone", "invisible"}:
            return []
        rect = self._placed(node, frame)
        if rect is None:
            return [Unknown(frame, f"the place of <{node.local}> in {path} is unknown")]
        return self._view(node, rect, path, depth + 1)

    def _placed(self, node: Node, frame: Rect) -> Rect | None:
        """Where a child is in its frame; None when that is unknown."""
        inner = self._without(node, "layout_margin", frame)
        right, down = (self._length(node, name) for name in ("translationX", "translationY"))
        size = self._size(node, inner) if inner is not None else None
        if inner is None or size is None or right is None or down is None:
            return None
        words = gravity_words(
            attribute(node, "layout_gravity") or "", is_right_to_left=self.drawables.device.is_right_to_left
        )
        words |= set() if words & {"left", "right", "center", "center_horizontal"} else {"left"}
        words |= set() if words & {"top", "bottom", "center", "center_vertical"} else {"top"}
        rect = by_gravity(*size, inner, words, self.drawables.values.trimmed)
        return Rect(rect.x + right, rect.y + down, *rect.size)

    def _size(self, node: Node, frame: Rect) -> Size | None:
        """The size of a child; None when that is unknown. What shows no picture may have any: none is taken."""
        natural = self.drawables.natural_size(attribute(node, "src"))
        own = natural or (None if node.children or attribute(node, "src") else Size(0.0, 0.0))
        sides: list[float] = []
        for name, whole, wrapped in (
            ("layout_width", frame.width, own.width if own else None),
            ("layout_height", frame.height, own.height if own else None),
        ):
            given = attribute(node, name)
            side = whole if given in _WHOLE else wrapped if given == "wrap_content" else self._length(node, name)
            if side is None:
                return None
            sides.append(side)
        return Size(*sides)

    def _image(self, node: Node, rect: Rect, path: str) -> list[Layer]:
        source = attribute(node, "src")
        if source is None or min(rect.size) <= 0:
            return []
        natural = self.drawables.natural_size(source)
        scaling = attribute(node, "scaleType") or "fitCenter"
        if natural is None or scaling == "fitXY":
            return self.drawables.layers(source, rect, path)
        fitted = contain(natural, rect.size)
        sizes = {"fitCenter": fitted, "center": natural, "centerInside": min(fitted, natural)}
        if scaling not in sizes:
            return [Unknown(rect, f'scaleType="{scaling}" in {path} is not worked out')]
        return self.drawables.layers(source, centred(sizes[scaling], rect), path)

    def _without(self, node: Node, name: str, rect: Rect) -> Rect | None:
        """A rectangle without the margin or padding that a view gives on each side; None when that is unknown."""
        around = attribute(node, name)
        sides = []
        for side, other in (("Left", "Start"), ("Top", ""), ("Right", "End"), ("Bottom", "")):
            given = attribute(node, name + side) or (attribute(node, name + other) if other else None)
            sides.append(self.drawables.length(given or around))
        left, top, right, bottom = sides
        if left is None or top is None or right is None or bottom is None:
            return None
        return Rect(rect.x + left, rect.y + top, rect.width - left - right, rect.height - top - bottom)

    def _length(self, node: Node, name: str) -> float | None:
        return self.drawables.length(attribute(node, name))
