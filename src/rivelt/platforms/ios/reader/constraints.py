"""The constraints of a storyboard as expressions over boxes. Attributes and multipliers follow Apple's NSLayoutConstraint."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from msgspec import Struct

from rivelt.edit.xml import Node
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.reader.boxes import SIZES, Box
from rivelt.platforms.ios.reader.tiers import Linear, Relation
from rivelt.platforms.ios.reader.traits import Traits
from rivelt.platforms.ios.reader.views import View

_ENDLESS = 1e6
_MARGINS = {
    "leftMargin": "left",
    "rightMargin": "right",
    "leadingMargin": "leading",
    "trailingMargin": "trailing",
    "topMargin": "top",
    "bottomMargin": "bottom",
    "centerXWithinMargins": "centerX",
    "centerYWithinMargins": "centerY",
}
_BASELINES = frozenset({"baseline", "lastBaseline", "firstBaseline"})
_RELATIONS = {"greaterThanOrEqual": Relation.AT_LEAST, "lessThanOrEqual": Relation.AT_MOST}


class NotUnderstood(Exception):
    """A constraint uses something that is not worked out; the message says what."""


class Item(Struct, frozen=True):
    """What a constraint can name: a box, and the view that it belongs to (None: the system's)."""

    box: Box
    view: View | None


class Items(Struct, frozen=True):
    """Everything that constraints can name, by id; the margin boxes of views, and the content boxes of scroll views."""

    named: Mapping[str, Item]
    margins: Mapping[str, Box]
    contents: Mapping[str, Box]


class Constraint(Struct, frozen=True):
    """A constraint as an expression compared with 0, its priority, and the views that it ties together."""

    expression: Linear
    relation: Relation
    priority: float
    views: tuple[View, ...]


def installed(root: View, traits: Traits) -> Iterator[tuple[View, Node]]:
    """Yield the constraints of a tree that take part on a screen, each with the view that holds it."""
    for view in root.walk():
        left_out = traits.excluded(view.node, "constraints")
        for holder in view.node.all("constraints"):
            for node in holder.all("constraint"):
                # Interface Builder takes placeholders away when it builds.
                if node.get("id") not in left_out and node.get("placeholder") != "YES":
                    yield view, node


def views_of(node: Node, owner: View, items: Items) -> tuple[View, ...]:
    """Return the views that a constraint names, whether it is understood or not."""
    ids = (node.get("firstItem") or owner.id, node.get("secondItem") or owner.id)
    return tuple(item.view for name in ids if (item := items.named.get(name)) is not None and item.view is not None)


def read_constraint(node: Node, owner: View, items: Items, traits: Traits) -> Constraint:
    """Return a constraint.

    Raises:
        NotUnderstood: it names something that is not worked out, or holds a value that is not a number.
    """
    name = f"constraint {node.get('id')}"
    first = _item(node.get("firstItem") or owner.id, items, name)
    second_name = node.get("secondAttribute")
    second = _item(node.get("secondItem") or owner.id, items, name) if second_name else None
    left = _side(first, node.get("firstAttribute") or "", second, items, name)
    right: Linear | float = _side(second, second_name, first, items, name) if second and second_name else 0.0
    constant = traits.attribute(node, "constant")
    if constant is None and node.get("symbolic") == "YES":
        raise NotUnderstood(f"{name} is the standard spacing, which the system chooses")
    try:
        right = right * multiplier(node.get("multiplier")) + number(constant, 0)
        priority = number(traits.attribute(node, "priority"), ios_facts().priorities.required)
    except (ValueError, ZeroDivisionError):
        raise NotUnderstood(f"{name} has a value that is not a number") from None
    relation = _RELATIONS.get(node.get("relation") or "", Relation.EQUAL)
    tied = tuple(item.view for item in (first, second) if item is not None and item.view is not None)
    return Constraint(left - right, relation, priority, tied)


def _item(name: str, items: Items, constraint: str) -> Item:
    if name not in items.named:
        raise NotUnderstood(f"{constraint} names {name}, which is not in the view")
    return items.named[name]


def _side(item: Item, attribute: str, other: Item | None, items: Items, constraint: str) -> Linear:
    box, view = item.box, item.view
    if view is not None and view.id in items.contents and _is_inside(other, view) and attribute not in SIZES:
        box = items.contents[view.id]
    if attribute in _MARGINS and view is not None and view.id in items.margins:
        box, attribute = items.margins[view.id], _MARGINS[attribute]
    elif attribute in _BASELINES and view is not None and view.kind == "imageView":
        attribute = "bottom"  # UIView: without text the baseline is the lower edge
    found = box.expression(attribute)
    if found is None:
        raise NotUnderstood(f"{constraint} uses {attribute or 'no attribute'}, which is not worked out")
    return found


def _is_inside(other: Item | None, view: View) -> bool:
    return other is not None and other.view is not None and other.view.is_below(view)


def number(text: str | None, default: float) -> float:
    """Return an attribute's number.

    Raises:
        ValueError: it is not a number, or not one that a screen can have.
    """
    value = float(text) if text else default
    if not abs(value) < _ENDLESS:
        raise ValueError(text)
    return value


def multiplier(text: str | None) -> float:
    """Return a multiplier such as "0.5", or a ratio such as "3:4" or "3/4"; Interface Builder writes all of them."""
    numerator, _, denominator = (text or "1").replace("/", ":").partition(":")
    return number(numerator, 1) / number(denominator, 1)
