"""Auto Layout of a launch screen: where its views are on one screen, and which of them nothing places.

Constraints are solved as in UIKit, tier by tier (`tiers`). A view that could be elsewhere with all constraints kept is underdetermined:
it is reported, never drawn at an arbitrary place.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from msgspec import Struct, field

from rivelt.edit.xml import Node
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.reader.autoresizing import autoresized, is_autoresized
from rivelt.platforms.ios.reader.boxes import Box, inset
from rivelt.platforms.ios.reader.constraints import (
    Item,
    Items,
    NotUnderstood,
    installed,
    number,
    read_constraint,
    views_of,
)
from rivelt.platforms.ios.reader.stacks import arrange
from rivelt.platforms.ios.reader.tiers import Relation, Tiers
from rivelt.platforms.ios.reader.traits import Traits
from rivelt.platforms.ios.reader.views import Bar, Tree, View
from rivelt.scene.model import Screen
from rivelt.units import Rect, Size

_OPEN = 0.5  # points that a view may move before it counts as underdetermined
_ROUNDS = 5  # in which insets that depend on frames come to rest
_STILL = 0.01  # points

_Insets = tuple[float, float, float, float]
"""Top, left, bottom, right."""


class Layout(Struct, frozen=True):
    """Frames by view id, in points from the screen's top left; why some are unknown, and which ones the constraints leave open."""

    frames: Mapping[str, Rect]
    unknown: Mapping[str, str]
    open: Mapping[str, str]


def solve(tree: Tree, screen: Screen, sizes: Mapping[str, Size], traits: Traits) -> Layout:
    """Return where the views of a tree are on a screen.

    Args:
        tree: the root view, which fills the screen, and what is in it.
        screen: the screen.
        sizes: the sizes, by view id, of views that have a content of their own (images, labels).
        traits: the screen's size classes.
    """
    safe: dict[str, _Insets] = {tree.root.id: _safe_insets(tree, screen)}
    frames: dict[str, Rect] = {}
    for _ in range(_ROUNDS):
        solving = _Solving(tree, screen, sizes, traits, safe)
        frames = solving.run()
        after = {tree.root.id: safe[tree.root.id]}
        after |= {
            key: _inside(frame, frames[tree.root.id], safe[tree.root.id])
            for key, frame in frames.items()
            if key != tree.root.id
        }
        if all(
            _is_near(insets, safe.get(key, (0, 0, 0, 0))) for key, insets in after.items() if key in solving.uses_insets
        ):
            return Layout(frames, solving.unknown, solving.open_views())
        safe = after
    reason = "its place depends on the safe area, which depends on its place"
    return Layout(frames, {view.id: reason for view in tree.root.walk() if view is not tree.root}, {})


def _safe_insets(tree: Tree, screen: Screen) -> _Insets:
    """What the system and the bars of container controllers take from the root view."""
    area, frame, bars = screen.safe_area, screen.frame, ios_facts().bars
    return (
        area.y + (bars.navigation if Bar.TOP in tree.bars else 0),
        area.x,
        frame.height - area.bottom + (bars.tab if Bar.BOTTOM in tree.bars else 0),
        frame.width - area.right,
    )


def _inside(frame: Rect, root: Rect, insets: _Insets) -> _Insets:
    """The part of the root's insets that reaches into a frame."""
    top, left, bottom, right = insets
    return (
        max(0.0, top - frame.y),
        max(0.0, left - frame.x),
        max(0.0, frame.bottom - (root.height - bottom)),
        max(0.0, frame.right - (root.width - right)),
    )


def _is_near(one: _Insets, other: _Insets) -> bool:
    return all(abs(a - b) < _STILL for a, b in zip(one, other, strict=True))


class _Solving(Struct, dict=True):
    """One round: the boxes of all views with the insets that the round before gave."""

    tree: Tree
    screen: Screen
    sizes: Mapping[str, Size]
    traits: Traits
    safe: Mapping[str, _Insets]
    tiers: Tiers = field(default_factory=Tiers)
    unknown: dict[str, str] = field(default_factory=dict)
    uses_insets: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.views = list(self.tree.root.walk())
        self.boxes = {view.id: Box() for view in self.views}
        self._ties = {view.id: {view.id} for view in self.views}
        self._follows: dict[str, str] = {}
        self._given_up: list[tuple[str, tuple[View, ...]]] = []

    def run(self) -> dict[str, Rect]:
        """Solve, and return the frames."""
        self._fix(self.boxes[self.tree.root.id], self.screen.frame)
        items = Items(dict(self._named()), dict(self._margins()), dict(self._contents()))
        for view in self.views[1:]:
            self._place(view)
        for view in self.views:
            if view.kind == "stackView":
                self._tie(view, *view.children)
                if reason := arrange(self.tiers, view, self.boxes, self.sizes, self.traits):
                    self._give_up(f"stack view {view.id}: {reason}", view)
        for owner, node in installed(self.tree.root, self.traits):
            self._add(owner, node, items)
        self.tiers.solve()
        self._spread()
        return {key: box.rect for key, box in self.boxes.items()}

    def open_views(self) -> dict[str, str]:
        """Return the views that could be elsewhere or have another size, with what is open."""
        found: dict[str, str] = {}
        for view in self.views[1:]:
            box = self.boxes[view.id]
            if view.id in self.unknown or view.is_hidden:
                continue
            across = self.tiers.is_open((box.x, box.width), _OPEN)
            down = self.tiers.is_open((box.y, box.height), _OPEN)
            if across or down:
                axes = " and ".join(name for name, is_it in (("horizontally", across), ("vertically", down)) if is_it)
                found[view.id] = f"its constraints leave open where it is {axes}"
        return found

    # What constraints can name

    def _named(self) -> Iterator[tuple[str, Item]]:
        for view in self.views:
            yield view.id, Item(self.boxes[view.id], view)
            for guide in view.node.all("viewLayoutGuide"):
                box = self._guide(guide, view)
                if box is not None:
                    yield guide.get("id") or "", Item(box, view)
        # The top and bottom layout guides that old storyboards have in place of the safe area.
        safe, screen = self.safe[self.tree.root.id], self.screen
        rects = {
            "top": Rect(0, 0, screen.width, safe[0]),
            "bottom": Rect(0, screen.height - safe[2], screen.width, safe[2]),
        }
        for node in self.tree.controller.walk() if self.tree.controller is not None else ():
            if node.local == "viewControllerLayoutGuide" and (kind := node.get("type") or "") in rects:
                box = Box()
                self._fix(box, rects[kind])
                yield node.get("id") or "", Item(box, None)

    def _guide(self, node: Node, view: View) -> Box | None:
        match node.get("key"):
            case "safeArea":
                self.uses_insets.add(view.id)
                return self._inset(view, self.safe.get(view.id, (0, 0, 0, 0)))
            case "frameLayoutGuide":
                return self.boxes[view.id]
            case "contentLayoutGuide":
                return self._content(view)
            case "layoutMargins":
                return self._inset(view, self._margin_insets(view))
            case _:
                return None

    def _margins(self) -> Iterator[tuple[str, Box]]:
        """The margin boxes of the views whose margins a constraint names."""
        wanted = {
            node.get(f"{side}Item") or owner.id
            for owner, node in installed(self.tree.root, self.traits)
            for side in ("first", "second")
            if "Margin" in (node.get(f"{side}Attribute") or "")
        }
        for view in self.views:
            if view.id in wanted and view.node.get("preservesSuperviewLayoutMargins") != "YES":
                yield view.id, self._inset(view, self._margin_insets(view))

    def _contents(self) -> Iterator[tuple[str, Box]]:
        for view in self.views:
            if view.kind == "scrollView":
                guide = next(
                    (one for one in view.node.all("viewLayoutGuide") if one.get("key") == "contentLayoutGuide"), None
                )
                if guide is None:
                    yield view.id, self._content(view)

    def _content(self, scroll: View) -> Box:
        """The content of a scroll view: it begins where the view does, and is as large as its constraints say."""
        box, outer = Box(), self.boxes[scroll.id]
        self.tiers.require(box.x - outer.x)
        self.tiers.require(box.y - outer.y)
        return box

    def _inset(self, view: View, insets: _Insets) -> Box:
        box = Box()
        for expression in inset(box, self.boxes[view.id], insets):
            self.tiers.require(expression)
        return box

    def _margin_insets(self, view: View) -> _Insets:
        """A view's layout margins with the part of the safe area that they are added to (UIView.layoutMargins)."""
        facts, is_root = ios_facts().margins, view is self.tree.root
        wide = facts.wide if self.screen.width >= facts.wide_from else facts.narrow
        usual: _Insets = (0.0, wide, 0.0, wide) if is_root else (facts.plain,) * 4
        own = next(
            (one for one in view.node.children if (one.get("key") or "").lower().endswith("layoutmargins")), None
        )
        if own is not None and own.local.lower().endswith("insets"):
            names = (
                "top",
                "leading" if own.get("leading") else "left",
                "bottom",
                "trailing" if own.get("trailing") else "right",
            )
            try:
                given: _Insets = tuple(number(own.get(name), 0) for name in names)  # type: ignore[assignment]
            except ValueError:
                self._give_up("its margins are not numbers", view)
                given = usual
            # A view controller's margins are never smaller than the system's.
            usual = tuple(max(a, b) for a, b in zip(given, usual, strict=True)) if is_root else given  # type: ignore[assignment]
        if view.node.get("insetsLayoutMarginsFromSafeArea") == "NO":
            safe: _Insets = (0.0, 0.0, 0.0, 0.0)
        else:
            self.uses_insets.add(view.id)
            safe = self.safe.get(view.id, (0.0, 0.0, 0.0, 0.0))
        top, left, bottom, right = (a + b for a, b in zip(usual, safe, strict=True))
        if view.node.get("layoutMarginsFollowReadableWidth") == "YES" and is_root:
            readable = (self.screen.width - facts.readable) / 2
            left, right = max(left, readable), max(right, readable)
        return top, left, bottom, right

    # Views

    def _place(self, view: View) -> None:
        """A view that has a frame of its own, else how it resists growing and shrinking."""
        box, parent = self.boxes[view.id], view.parent
        assert parent is not None
        if parent.kind == "containerView":
            for expression in inset(box, self.boxes[parent.id], (0, 0, 0, 0)):
                self.tiers.require(expression)
            self._follows[view.id] = parent.id
        elif is_autoresized(view) and parent.kind != "stackView":
            places = autoresized(view, box, self.boxes[parent.id])
            self._follows[view.id] = parent.id
            if places is None:
                self._give_up("its autoresizing mask refers to a frame that is not in the file", view)
            for expression in places or ():
                self.tiers.require(expression)
        else:
            try:
                self._prefer(view)
            except ValueError:
                self._give_up("how it resists growing and shrinking is not a number", view)

    def _prefer(self, view: View) -> None:
        box, size, usual = self.boxes[view.id], self.sizes.get(view.id), ios_facts().priorities
        self.tiers.require(1 * box.width, Relation.AT_LEAST)
        self.tiers.require(1 * box.height, Relation.AT_LEAST)
        if size is None:
            return
        for axis, variable, value in (("horizontal", box.width, size.width), ("vertical", box.height, size.height)):
            hugging = number(view.node.get(f"{axis}HuggingPriority"), usual.hugging)
            compression = number(view.node.get(f"{axis}CompressionResistancePriority"), usual.compression)
            for priority, relation in ((hugging, Relation.AT_MOST), (compression, Relation.AT_LEAST)):
                if priority >= usual.required:
                    if not self.tiers.require(variable - value, relation):
                        self._give_up("its own size contradicts a required constraint", view)
                else:
                    self.tiers.wish(variable - value, priority, relation)

    def _add(self, owner: View, node: Node, items: Items) -> None:
        try:
            found = read_constraint(node, owner, items, self.traits)
        except NotUnderstood as error:
            self._give_up(str(error), *views_of(node, owner, items))
            return
        self._tie(*found.views)
        if found.priority < ios_facts().priorities.required:
            self.tiers.wish(found.expression, found.priority, found.relation)
        elif not self.tiers.require(found.expression, found.relation):
            self._give_up(f"constraint {node.get('id')} contradicts another one", *found.views)

    def _fix(self, box: Box, rect: Rect) -> None:
        for variable, value in zip(box.variables, rect, strict=True):
            self.tiers.require(variable - value)

    # What hangs together

    def _tie(self, *views: View) -> None:
        """Note that the frames of some views depend on each other; the root's depends on nothing."""
        joined = set().union(*(self._ties[view.id] for view in views if view is not self.tree.root))
        for key in joined:
            self._ties[key] = joined

    def _give_up(self, reason: str, *views: View) -> None:
        """Note why the frames of some views, and of all that depend on them, are unknown."""
        self._given_up.append((reason, views))

    def _spread(self) -> None:
        """Find all views whose frames are unknown: those given up, those tied to them, and those that follow one of these."""
        root = self.tree.root.id
        waiting = [(view.id, reason) for reason, views in self._given_up for view in views if view.id != root]
        while waiting:
            key, reason = waiting.pop(0)
            for one in self._ties[key] - self.unknown.keys():
                self.unknown[one] = reason
                waiting += [(child, reason) for child, parent in self._follows.items() if parent == one]
