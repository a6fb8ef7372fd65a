"""A launch storyboard or nib on one screen in one look: its views laid out, and what each shows, from the back to the front."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterator, Mapping
from functools import partial

from rivelt.colour import Colour
from rivelt.edit.xml import Document
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.reader.content import Contents, Resources, wrapped
from rivelt.platforms.ios.reader.layout import Layout, solve
from rivelt.platforms.ios.reader.traits import Traits
from rivelt.platforms.ios.reader.views import INDICATOR, Bar, Tree, View, read_tree
from rivelt.scene.model import Cause, Fill, Layer, Picture, Scene, Screen, TextBox, Unknown
from rivelt.units import Rect, Size
from rivelt.values import replace

_BLACK = Colour(0, 0, 0)
_GUESSES = ((0.5, Size(64, 32)), (0.65, Size(128, 48)))
"""Two guesses of what is unknown: how wide a letter is, in font sizes, and how large a view is that is not drawn, in points.

A view that both place alike does not depend on them.
"""
_ALIKE = 1.0  # points


def read_storyboard(document: Document, resources: Resources, *, is_running: bool = False) -> Scene:
    """Return what a storyboard or nib shows.

    Args:
        document: the file.
        resources: the app's images and colours.
        is_running: whether the app runs by then: an activity indicator turns, and is left out.
    """
    screen, look = resources.screen, resources.look
    name = document.path.rpartition("/")[2]
    traits = Traits.of(screen)
    tree = resources.project.remember(("views", document.path, traits.held), lambda: read_tree(document, traits))
    if isinstance(tree, str):
        return Scene.unknown(screen, look, f"{name}: {tree}")
    left_out = {INDICATOR} if is_running else set()
    layers = _Drawing(tree, Contents(document, resources, traits), left_out).layers()
    return Scene(screen, look, tuple(layers), f"{'nib' if name.endswith('.xib') else 'storyboard'} {name}")


class _Drawing:
    """The views of one document on one screen."""

    def __init__(self, tree: Tree, contents: Contents, left_out: Collection[str]) -> None:
        self._tree = tree
        self._contents = contents
        self._screen: Screen = contents.resources.screen
        self._left_out = left_out
        self._layout = self._laid_out(*_GUESSES[0])
        self._depends: dict[str, str] = {}
        guessed = [view for view in tree.root.walk() if self._is_guessed(view)]
        if guessed:
            other = self._laid_out(*_GUESSES[1])
            what = ", ".join(dict.fromkeys(view.kind for view in guessed))
            reason = f"its place depends on the size of what is not drawn ({what})"
            self._depends = {
                key: reason for key, frame in self._layout.frames.items() if not _is_alike(frame, other.frames[key])
            }

    def _is_guessed(self, view: View) -> bool:
        return view.kind == "label" or (view.unread is not None and view.kind not in {"view", "visualEffectView"})

    def _laid_out(self, advance: float, other: Size) -> Layout:
        natural: dict[str, Size] = {}
        for view in self._tree.root.walk():
            size = other if self._is_guessed(view) and view.kind != "label" else self._contents.natural(view, advance)
            if size is not None:
                natural[view.id] = size
        layout = self._solved(natural)
        labels = {
            view.id: wrapped(view, natural[view.id], layout.frames[view.id].width)
            for view in self._tree.root.walk()
            if view.kind == "label"
        }
        if any(size != natural[key] for key, size in labels.items()):
            layout = self._solved({**natural, **labels})
        return layout

    def _solved(self, sizes: Mapping[str, Size]) -> Layout:
        """The layout for some sizes: the looks of a screen that show images of the same sizes share it."""
        contents = self._contents
        key = ("layout", contents.document.path, self._screen, tuple(sorted(sizes.items())))
        make = partial(solve, self._tree, self._screen, sizes, contents.traits)
        return contents.resources.project.remember(key, make)

    def layers(self) -> Iterator[Layer]:
        """Yield what is shown, from the back to the front."""
        yield from self._of(self._tree.root, 1.0, None)
        frame, area, heights = self._screen.frame, self._screen.safe_area, ios_facts().bars
        if Bar.TOP in self._tree.bars:
            yield Unknown(Rect(0, 0, frame.width, area.y + heights.navigation), "a navigation bar, which is not drawn")
        if Bar.BOTTOM in self._tree.bars:
            top = area.bottom - heights.tab
            yield Unknown(Rect(0, top, frame.width, frame.height - top), "a tab bar, which is not drawn")

    def _of(self, view: View, opacity: float, clip: Rect | None) -> Iterator[Layer]:
        """The layers of a view and of all in it; `clip`: the part of the screen that the views around it leave."""
        opacity *= view.opacity
        if view.is_hidden or opacity <= 0 or view.kind in self._left_out:
            return
        frame = self._frame(view)
        own = [
            shown for layer in self._own(view, frame) if (shown := _faded(_clipped(layer, clip), opacity)) is not None
        ]
        inner = clip
        if view.node.get("clipsSubviews") == "YES":
            inner = frame if clip is None else frame.intersection(clip)
        inside = [layer for child in view.children for layer in self._of(child, opacity, inner)]
        if view.opacity < 1 and any(a.rect.overlaps(b.rect) for a, b in itertools.combinations([*own, *inside], 2)):
            yield Unknown(frame, "a translucent view with views in it that overlap is not drawn")
        else:
            yield from (*own, *inside)

    def _frame(self, view: View) -> Rect:
        if view is self._tree.root:
            return self._screen.frame
        return Rect(*(round(value, 3) for value in self._layout.frames[view.id]))

    def _own(self, view: View, frame: Rect) -> Iterator[Layer]:
        """What a view shows itself."""
        background = self._contents.background(view)
        shows = background is not None or view.unread is not None or view.kind in {"imageView", "label"}
        if view is not self._tree.root and shows and (reason := self._unplaced(view)):
            yield Unknown(self._screen.safe_area, f"<{view.kind}> {view.id}: {reason[0]}", cause=reason[1])
            return
        if view.unread is not None:
            yield Unknown(frame, view.unread)
            return
        if background is not None:
            yield self._contents.fill(background, frame)
        elif view is self._tree.root:
            # A view without a background shows the window behind it: black.
            yield Fill(frame, _BLACK, self._contents.document.path)
        if frame.width <= 0 or frame.height <= 0:
            return
        if view.kind == "imageView" and (image := self._contents.image(view, frame)) is not None:
            yield image
        elif view.kind == "label":
            yield self._contents.label(view, frame)

    def _unplaced(self, view: View) -> tuple[str, Cause] | None:
        """Why it is not known where a view is."""
        for reasons, cause in (
            (self._layout.unknown, Cause.UNDECIDED),
            (self._layout.open, Cause.UNDECIDED),
            (self._depends if view.kind != "label" else {}, Cause.UNREAD),
        ):
            if (reason := _reason(reasons, view)) is not None:
                return reason, cause
        return None


def _reason(reasons: Mapping[str, str], view: View) -> str | None:
    return reasons.get(view.id)


def _is_alike(one: Rect, other: Rect) -> bool:
    return all(abs(a - b) <= _ALIKE for a, b in zip(one, other, strict=True))


def _clipped(layer: Layer, clip: Rect | None) -> Layer | None:
    """A layer as far as a clip leaves it; None where that is nothing."""
    if clip is None or isinstance(layer, TextBox):
        return layer
    if isinstance(layer, Picture):
        assert layer.clip is None or isinstance(layer.clip, Rect)
        whole = clip if layer.clip is None else clip.intersection(layer.clip)
        return replace(layer, clip=whole) if whole.width > 0 and whole.height > 0 else None
    rect = layer.rect.intersection(clip)
    return replace(layer, rect=rect) if rect.width > 0 and rect.height > 0 else None


def _faded(layer: Layer | None, opacity: float) -> Layer | None:
    """A layer as transparent as the views that it is in."""
    if layer is None or opacity >= 1:
        return layer
    if isinstance(layer, Picture):
        return replace(layer, opacity=layer.opacity * opacity)
    if isinstance(layer, Fill | TextBox):
        return replace(layer, colour=layer.colour._replace(alpha=round(layer.colour.alpha * opacity)))
    return layer
