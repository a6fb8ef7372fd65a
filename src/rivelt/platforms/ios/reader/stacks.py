"""Stack views: the constraints that UIStackView makes between the views it arranges.

https://developer.apple.com/documentation/uikit/uistackview
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import kiwisolver
from msgspec import Struct

from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.reader.boxes import Box
from rivelt.platforms.ios.reader.tiers import Linear, Relation, Tiers
from rivelt.platforms.ios.reader.traits import Traits
from rivelt.platforms.ios.reader.views import View
from rivelt.units import Size


class _Axis(Struct, frozen=True):
    """The names of one direction: where it begins and ends, its middle, its length."""

    start: str
    end: str
    middle: str
    length: str


_ACROSS = _Axis("leading", "trailing", "centerX", "width")
_DOWN = _Axis("top", "bottom", "centerY", "height")
_STARTS = frozenset({"leading", "top"})
_ENDS = frozenset({"trailing", "bottom"})


def arrange(
    tiers: Tiers, stack: View, boxes: Mapping[str, Box], sizes: Mapping[str, Size], traits: Traits
) -> str | None:
    """Add the constraints of a stack view; return why it cannot be understood, or None.

    Args:
        tiers: what they are added to.
        stack: the stack view; hidden views in it take no part.
        boxes: the boxes of all views.
        sizes: the sizes of those that have a content of their own.
        traits: the screen's size classes.
    """
    along, cross = (_DOWN, _ACROSS) if traits.attribute(stack.node, "axis") == "vertical" else (_ACROSS, _DOWN)
    try:
        spacing = float(traits.attribute(stack.node, "spacing") or 0)
    except ValueError:
        return "its spacing is not a number"
    if stack.node.get("baselineRelativeArrangement") == "YES":
        return "it is spaced by the baselines of text"
    arranged = [view for view in stack.children if not view.is_hidden]
    if not arranged:
        return None
    made = _Stack(tiers, boxes[stack.id], [boxes[view.id] for view in arranged], spacing)
    reason = made.align(traits.attribute(stack.node, "alignment") or "fill", cross)
    own = [sizes.get(view.id) for view in arranged]
    return reason or made.distribute(traits.attribute(stack.node, "distribution") or "fill", along, own)


class _Stack(Struct, frozen=True):
    """A stack view's box, the boxes of the views that it arranges, and the points between them."""

    tiers: Tiers
    box: Box
    arranged: Sequence[Box]
    spacing: float

    def align(self, alignment: str, axis: _Axis) -> str | None:
        """Return how the views are placed across the stack."""
        if alignment not in {"fill", "center", *_STARTS, *_ENDS}:
            return f"its views are aligned by {alignment}"
        for view in self.arranged:
            start = _of(view, axis.start) - _of(self.box, axis.start)
            end = _of(view, axis.end) - _of(self.box, axis.end)
            self.tiers.require(start, Relation.EQUAL if alignment in {"fill", *_STARTS} else Relation.AT_LEAST)
            self.tiers.require(end, Relation.EQUAL if alignment in {"fill", *_ENDS} else Relation.AT_MOST)
            if alignment == "center":
                self.tiers.require(_of(view, axis.middle) - _of(self.box, axis.middle))
        if alignment != "fill":  # the stack is as small as the largest of its views allows
            self.tiers.wish(_of(self.box, axis.length), ios_facts().priorities.spanning_fit)
        return None

    def distribute(self, distribution: str, axis: _Axis, sizes: Sequence[Size | None]) -> str | None:
        """Return how the views are placed along the stack, which they fill from end to end."""
        self.tiers.require(_of(self.arranged[0], axis.start) - _of(self.box, axis.start))
        self.tiers.require(_of(self.arranged[-1], axis.end) - _of(self.box, axis.end))
        pairs = list(zip(self.arranged, self.arranged[1:], strict=False))
        gaps = [_of(after, axis.start) - _of(before, axis.end) - self.spacing for before, after in pairs]
        lengths = [_of(view, axis.length) for view in self.arranged]
        match distribution:
            case "fill":
                self._all(gaps)
            case "fillEqually":
                self._all([*gaps, *(one - lengths[0] for one in lengths[1:])])
            case "fillProportionally":
                own = [getattr(size, axis.length) if size else 0.0 for size in sizes]
                if not all(own):
                    return "it is filled in proportion to sizes that are unknown"
                self._all(gaps)
                for one, size in zip(lengths[1:], own[1:], strict=True):
                    share = one * own[0] - lengths[0] * size
                    self.tiers.wish(share, ios_facts().priorities.proportional)
            case "equalSpacing":
                self._all(gaps, Relation.AT_LEAST)
                self._all([gap - gaps[0] for gap in gaps[1:]])
            case "equalCentering":
                self._all(gaps, Relation.AT_LEAST)
                middles = [_of(after, axis.middle) - _of(before, axis.middle) for before, after in pairs]
                for middle in middles[1:]:
                    self.tiers.wish(middle - middles[0], ios_facts().priorities.centring)
            case other:
                return f"its views are distributed by {other}"
        return None

    def _all(self, expressions: Sequence[Linear], relation: Relation = Relation.EQUAL) -> None:
        for expression in expressions:
            self.tiers.require(expression, relation)


def _of(box: Box, attribute: str) -> kiwisolver.Expression:
    found = box.expression(attribute)
    assert isinstance(found, kiwisolver.Expression | kiwisolver.Term)
    return found + 0.0
