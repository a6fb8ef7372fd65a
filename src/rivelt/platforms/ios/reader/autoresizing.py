"""Views without constraints: they keep the frame of the design, moved and stretched by their autoresizing mask.

https://developer.apple.com/documentation/uikit/uiview/autoresizingmask
"""

from __future__ import annotations

from rivelt.edit.xml import Node
from rivelt.platforms.ios.reader.boxes import Box
from rivelt.platforms.ios.reader.constraints import number
from rivelt.platforms.ios.reader.tiers import Linear
from rivelt.platforms.ios.reader.views import View
from rivelt.units import Rect

_ACROSS = ("flexibleMinX", "widthSizable", "flexibleMaxX")
_DOWN = ("flexibleMinY", "heightSizable", "flexibleMaxY")


def is_autoresized(view: View) -> bool:
    """Return whether a view has its place by its autoresizing mask, not by constraints."""
    node = view.node
    return node.get("translatesAutoresizingMaskIntoConstraints") != "NO" or node.get("fixedFrame") == "YES"


def autoresized(view: View, box: Box, outer: Box) -> list[Linear] | None:
    """Return what must be 0 for a view to be in its superview's box as its mask says; None without frames of the design.

    The frame is linear in the superview's size: of what that gains, each flexible part takes its share.
    """
    design, frame = _design_frame(view.parent), _design_frame(view)
    if design is None or frame is None:
        return None
    flexible = _flexible(view.node)
    x, width = _shares(frame.x, frame.width, design.width, [name in flexible for name in _ACROSS])
    y, height = _shares(frame.y, frame.height, design.height, [name in flexible for name in _DOWN])
    return [
        box.x - outer.x - frame.x - (outer.width - design.width) * x,
        box.width - frame.width - (outer.width - design.width) * width,
        box.y - outer.y - frame.y - (outer.height - design.height) * y,
        box.height - frame.height - (outer.height - design.height) * height,
    ]


def _flexible(node: Node) -> set[str]:
    mask = next((child for child in node.children if child.local == "autoresizingMask"), None)
    return {name for name, value in (mask.attributes if mask is not None else {}).items() if value == "YES"}


def _shares(start: float, length: float, whole: float, is_flexible: list[bool]) -> tuple[float, float]:
    """The shares of a gain that go to what is before a view, and to the view: in proportion to the sizes of the flexible parts."""
    parts = [start, length, whole - start - length]
    total = sum(part for part, is_free in zip(parts, is_flexible, strict=True) if is_free)
    count = sum(is_flexible)
    if not count:
        return 0.0, 0.0
    shares = [
        (part / total if total > 0 else 1 / count) if is_free else 0.0
        for part, is_free in zip(parts, is_flexible, strict=True)
    ]
    return shares[0], shares[1]


def _design_frame(view: View | None) -> Rect | None:
    if view is None:
        return None
    frame = next((child for child in view.node.all("rect") if child.get("key") in {"frame", None}), None)
    if frame is None:
        return None
    try:
        return Rect(*(number(frame.get(name), 0) for name in ("x", "y", "width", "height")))
    except ValueError:
        return None
