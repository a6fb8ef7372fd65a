"""Auto Layout of a launch storyboard: the constraints of its views, solved for one screen.

The solver is the Cassowary algorithm, as in UIKit. Attributes, priorities and multipliers follow Apple's NSLayoutConstraint.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TypeAlias

import kiwisolver

from rivelt.edit.xml import Node
from rivelt.platforms.ios.facts import ios_facts, size_classes
from rivelt.scene.model import Screen
from rivelt.units import Rect, Size

_ENDLESS = 1e6
_Linear: TypeAlias = "kiwisolver.Expression | kiwisolver.Term"
VIEW_TAGS = frozenset({"view", "imageView", "label", "activityIndicatorView"})


@dataclass(frozen=True)
class Layout:
    """Frames by view id, in points from the screen's top left; and why some of them are unknown."""

    frames: Mapping[str, Rect]
    unknown: Mapping[str, str]


class _Box:
    """The four unknowns of a rectangle and the expressions that constraints name."""

    def __init__(self, name: str) -> None:
        self.x, self.y, self.width, self.height = (
            kiwisolver.Variable(f"{name}.{side}") for side in ("x", "y", "width", "height")
        )

    def expression(self, attribute: str) -> _Linear | None:
        """The attribute of NSLayoutConstraint as an expression; None for one that is not known."""
        match attribute:
            case "leading" | "left":
                return 1 * self.x
            case "trailing" | "right":
                return self.x + self.width
            case "top":
                return 1 * self.y
            case "bottom":
                return self.y + self.height
            case "width":
                return 1 * self.width
            case "height":
                return 1 * self.height
            case "centerX":
                return self.x + 0.5 * self.width
            case "centerY":
                return self.y + 0.5 * self.height
            case _:
                return None

    @property
    def rect(self) -> Rect:
        return Rect(self.x.value(), self.y.value(), self.width.value(), self.height.value())


def solve(root: Node, screen: Screen, intrinsic: Mapping[str, Size]) -> Layout:
    """Work out where the views below `root` (the view controller's view) lie on a screen.

    Args:
        root: the element of the view controller's (or nib's) view.
        screen: the screen; `root` fills it, its safe area leaves the screen's insets free.
        intrinsic: the sizes, by view id, of views that have a content of their own (images, labels).
    """
    solver = kiwisolver.Solver()
    unknown: dict[str, str] = {}
    boxes = {_id(node): _Box(_id(node)) for node in root.walk() if node.local in VIEW_TAGS}
    boxes |= {_id(node): _Box(_id(node)) for node in root.walk() if node.local == "viewLayoutGuide"}
    guides = _old_guides(root, screen)
    boxes |= {guide: _Box(guide) for guide in guides}
    for guide, rect in guides.items():
        _fix(solver, boxes[guide], rect)
    _fix(solver, boxes[_id(root)], screen.frame)
    for node in root.walk():
        if node.local == "viewLayoutGuide":
            _fix(solver, boxes[_id(node)], screen.safe_area)
        elif node.local in VIEW_TAGS and node is not root:
            if node.get("translatesAutoresizingMaskIntoConstraints") != "NO":
                placed = _autoresized(node, root, screen)
                if placed is None:
                    unknown[_id(node)] = "it is placed by its autoresizing mask in a view of unknown size"
                else:
                    _fix(solver, boxes[_id(node)], placed)
                continue
            try:
                _prefer(solver, boxes[_id(node)], intrinsic.get(_id(node)), node)
            except ValueError:
                unknown[_id(node)] = "how it resists growing and shrinking is not a number"
    for node in root.walk():
        if node.local == "constraint" and node.parent is not None and node.parent.local == "constraints":
            reason = _add(solver, boxes, node, screen)
            if reason:
                owner = node.get("firstItem") or _id(node.parent.parent)
                unknown.setdefault(owner, reason)
    solver.updateVariables()
    return Layout({key: box.rect for key, box in boxes.items()}, unknown)


def _old_guides(root: Node, screen: Screen) -> dict[str, Rect]:
    """The top and bottom layout guides that old storyboards have in place of the safe area, by their ids."""
    safe = screen.safe_area
    rects = {
        "top": Rect(0, 0, screen.width, safe.y),
        "bottom": Rect(0, safe.bottom, screen.width, screen.height - safe.bottom),
    }
    guides = root.parent.walk() if root.parent is not None else ()
    return {
        _id(node): rects[kind]
        for node in guides
        if node.local == "viewControllerLayoutGuide" and (kind := node.get("type") or "") in rects
    }


def _autoresized(node: Node, root: Node, screen: Screen) -> Rect | None:
    """Where a view lies that keeps its frame of the design, moved and stretched by its autoresizing mask (UIView.autoresizingMask).

    Only directly in `root`, whose size in the design is known.
    """
    holder = node.parent.parent if node.parent is not None else None
    design, frame = _design_frame(root), _design_frame(node)
    if holder is not root or design is None or frame is None:
        return None
    mask = next((child for child in node.children if child.local == "autoresizingMask"), None)
    flexible = {name for name, value in (mask.attributes if mask is not None else {}).items() if value == "YES"}
    x, width = _stretched(
        frame.x, frame.width, design.width, screen.width, flexible, ("flexibleMinX", "widthSizable", "flexibleMaxX")
    )
    y, height = _stretched(
        frame.y, frame.height, design.height, screen.height, flexible, ("flexibleMinY", "heightSizable", "flexibleMaxY")
    )
    return Rect(x, y, width, height)


def _stretched(
    start: float, length: float, before: float, after: float, flexible: set[str], names: tuple[str, str, str]
) -> tuple[float, float]:
    """Start and length on one axis: what the superview gained goes to the flexible parts in proportion to their sizes."""
    parts = [start, length, before - start - length]
    free = [index for index, name in enumerate(names) if name in flexible]
    total = sum(parts[index] for index in free)
    for index in free:
        share = parts[index] / total if total > 0 else 1 / len(free)
        parts[index] += (after - before) * share
    return parts[0], parts[1]


def _design_frame(node: Node) -> Rect | None:
    frame = next((child for child in node.all("rect") if child.get("key") in {"frame", None}), None)
    try:
        return (
            Rect(*(_number(frame.get(name), 0) for name in ("x", "y", "width", "height")))
            if frame is not None
            else None
        )
    except ValueError:
        return None


def _id(node: Node | None) -> str:
    return (node.get("id") or "") if node is not None else ""


def _fix(solver: kiwisolver.Solver, box: _Box, rect: Rect) -> None:
    for variable, value in zip((box.x, box.y, box.width, box.height), rect, strict=True):
        solver.addConstraint(variable == value)


def _prefer(solver: kiwisolver.Solver, box: _Box, size: Size | None, node: Node) -> None:
    """A view's own size: it resists growing (hugging) less than shrinking (compression), unless the view says otherwise.

    Raises:
        ValueError: a priority of the view is not a number.
    """
    solver.addConstraint(box.width >= 0)
    solver.addConstraint(box.height >= 0)
    if size is not None:
        usual = ios_facts().priorities
        for axis, variable, value in (("horizontal", box.width, size.width), ("vertical", box.height, size.height)):
            hugging = _number(node.get(f"{axis}HuggingPriority"), usual.hugging)
            compression = _number(node.get(f"{axis}CompressionResistancePriority"), usual.compression)
            solver.addConstraint((variable <= value) | _strength(hugging))
            solver.addConstraint((variable >= value) | _strength(compression))


def _strength(priority: float) -> float:
    """A priority from 1 to 1000 as a strength of the solver; 1000 is required."""
    return (
        kiwisolver.strength.required
        if priority >= ios_facts().priorities.required
        else kiwisolver.strength.create(0, priority, 0)
    )


def _add(solver: kiwisolver.Solver, boxes: Mapping[str, _Box], node: Node, screen: Screen) -> str | None:
    """Add a constraint; the reason when it cannot be understood or contradicts another required one."""
    owner = _id(node.parent.parent) if node.parent is not None else ""
    first = boxes.get(node.get("firstItem") or owner)
    left = first.expression(node.get("firstAttribute") or "") if first else None
    right: _Linear | float | None = 0.0
    if node.get("secondAttribute"):
        second = boxes.get(node.get("secondItem") or owner)
        right = second.expression(node.get("secondAttribute") or "") if second else None
    if left is None or right is None:
        return f"constraint {node.get('id')} uses something that is not worked out yet"
    try:
        right = right * _multiplier(node.get("multiplier")) + _number(_constant(node, screen), 0)
        strength = _strength(_number(node.get("priority"), ios_facts().priorities.required))
    except (ValueError, ZeroDivisionError):
        return f"constraint {node.get('id')} has a value that is not a number"
    match node.get("relation"):
        case "greaterThanOrEqual":
            constraint = left >= right
        case "lessThanOrEqual":
            constraint = left <= right
        case _:
            constraint = left == right
    try:
        solver.addConstraint(constraint | strength)
    except (kiwisolver.UnsatisfiableConstraint, kiwisolver.DuplicateConstraint):
        return f"constraint {node.get('id')} contradicts another one"
    return None


def _constant(node: Node, screen: Screen) -> str | None:
    """The constant for the screen's size classes: that of the variation naming most of them, else the constraint's own."""
    width, height = size_classes(screen)
    held = {f"widthClass={width}", f"heightClass={height}"}
    fitting = [
        found
        for found in node.all("variation")
        if set((found.get("key") or "").split("-")) <= held and found.get("constant")
    ]
    best = max(fitting, key=lambda found: (found.get("key") or "").count("Class"), default=node)
    return best.get("constant")


def _number(text: str | None, default: float) -> float:
    """An attribute's number.

    Raises:
        ValueError: it is not a number, or not one that a screen can have.
    """
    value = float(text) if text else default
    if not abs(value) < _ENDLESS:
        raise ValueError(text)
    return value


def _multiplier(text: str | None) -> float:
    """A multiplier such as "0.5", or a ratio such as "3:4" or "3/4"; Interface Builder writes all of them."""
    numerator, _, denominator = (text or "1").replace("/", ":").partition(":")
    return _number(numerator, 1) / _number(denominator, 1)
