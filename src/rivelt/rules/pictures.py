"""The rules on what screens show, whatever platform they are of: pictures can be seen, are sharp, and show something."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.errors import Place
from rivelt.rules.books import SITES
from rivelt.rules.rulebook import Evidence, Said, Subject, broken, once, unknown
from rivelt.scene.model import Fill, Picture, Scene
from rivelt.scene.site import Site
from rivelt.units import Circle, Look, Rect

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

BLURRED = 1.5
"""From how much enlargement on a bitmap looks blurred at arm's length."""

HALF = 0.5
"""A picture of which less than this share of the outline reaches 3:1 does not stand out from its ground at a glance."""

_LAID_OVER = 0.8  # of the smaller one: pictures that share more are meant to be on each other
_FAINT = 32  # of 255
_SEEN = 12  # of 255: a box that differs by less from its ground is not noticed
_TOLERANCE = 0.5  # dp or points


class ShownPicture(Struct, frozen=True, eq=False):
    """A picture on a launch screen. `behind`: the flat colour it is on; None where that is another picture, or a picture is on it.

    `enlarged`: how many device pixels one of its own is spread over, along a side; 0 for a vector. `shows`: whether anything of it is
    visible; None when it cannot be read.
    """

    picture: Picture
    look: Look
    behind: Colour | None
    enlarged: float
    where: str
    shows: bool | None
    evidence: Evidence

    @property
    def name(self) -> str:
        """The file's name."""
        return self.picture.source.rpartition("/")[2]

    @property
    def place(self) -> Place:
        """The file."""
        return Place(self.picture.source)


def _hard_to_see(one: ShownPicture) -> Iterator[Said]:
    if one.behind is None or one.evidence.found(one.picture.image, _is_box):
        return
    contrast = one.evidence.contrast(one.picture.image, one.behind)
    if contrast is not None and contrast.share < HALF:
        message = (
            f"this image is hard to tell from {one.behind.hex} ({one.look}): "
            f"{contrast.share:.0%} of its outline reaches 3:1, the median is {contrast.median:.1f}:1"
        )
        yield broken(message, "Give another ground in that look, or another image.", one.place, look=one.look)


def _is_box(pixels: NDArray[np.uint8]) -> bool:
    """Whether the visible part of an image is a full, opaque rectangle."""
    from rivelt.art.contrast import opaque_box

    return opaque_box(pixels) is not None


def _boxed(one: ShownPicture) -> Iterator[Said]:
    from rivelt.art.contrast import baked_background

    box = one.evidence.found(one.picture.image, baked_background) if one.behind is not None else None
    if box is None or one.behind is None or isinstance(one.picture.clip, Circle):
        return
    if max(abs(mine - its) for mine, its in zip(box, one.behind, strict=True)) > _SEEN:
        message = f"this image stands in a box of {box.hex} on {one.behind.hex} ({one.look})"
        yield broken(message, "Export it again with a transparent background.", one.place, look=one.look)


def _blurred(one: ShownPicture) -> Iterator[Said]:
    if one.enlarged >= BLURRED:
        message = f"this image is shown {one.enlarged:.1f} times as large as its pixels allow, on {one.where}"
        yield broken(message, "Give a larger one, or every scale and density.", one.place)


def _empty(one: ShownPicture) -> Iterator[Said]:
    if one.shows is False:
        yield broken(
            f"this image shows nothing ({one.look})", "Export it again with its drawing.", one.place, look=one.look
        )


@SITES.rule("SCN01")
def pictures_stand_out(subject: Subject[Site]) -> Iterator[Said]:
    """A picture stands out from its ground."""
    return _of_each(subject, _hard_to_see)


@SITES.rule("SCN02")
def pictures_have_no_box(subject: Subject[Site]) -> Iterator[Said]:
    """A picture does not stand in a box of another colour."""
    return _of_each(subject, _boxed)


@SITES.rule("SCN03")
def pictures_are_sharp(subject: Subject[Site]) -> Iterator[Said]:
    """A bitmap is not shown much larger than it is."""
    return _of_each(subject, _blurred)


@SITES.rule("SCN04")
def pictures_show_something(subject: Subject[Site]) -> Iterator[Said]:
    """A picture is not all transparent."""
    return _of_each(subject, _empty)


@SITES.rule("SCN05")
def pictures_keep_apart(subject: Subject[Site]) -> Iterator[Said]:
    """The mark and what stands at the foot do not run into each other, on a low screen neither."""
    if not subject.site.exists:
        return
    if all(sum(1 for _ in scene.pictures) < 2 for scene in subject.scenes):  # no other screen shows more of them
        return
    found: dict[tuple[str, ...], Said] = {}
    for scene in subject.every_scene:
        frame = scene.screen.frame
        pictures = [one for one in scene.pictures if one.tile is None and not one.rect.covers(frame, _TOLERANCE)]
        for one, other in itertools.combinations(pictures, 2):
            if not one.seen.overlaps(other.seen):
                continue
            a, b = (_visible(subject, picture) for picture in (one, other))
            shared = a.intersection(b) if a is not None and b is not None else None
            if a is None or b is None or shared is None or min(shared.size) <= _TOLERANCE:
                continue
            if shared.width * shared.height > _LAID_OVER * min(a.width * a.height, b.width * b.height):
                continue
            names = tuple(picture.source.rpartition("/")[2] for picture in (one, other))
            message = f"{names[0]} and {names[1]} overlap by {min(shared.size):.0f} {subject.unit} on {scene.screen.name}, {scene.screen.system}"
            fix = "Make one of them smaller, or give that screen an image of its own."
            said = broken(message, fix, Place(other.source), screen=scene.screen.name, look=scene.look)
            found.setdefault((*names, scene.look), said)
    yield from found.values()


def _visible(subject: Subject[Site], picture: Picture) -> Rect | None:
    """Where something of a picture is seen; None for one that is not readable, or shows nothing."""
    seen = subject.evidence.found(picture.image, _seen_part)
    if seen is None:
        return None
    rect = picture.rect
    box = Rect(
        rect.x + seen.x * rect.width,
        rect.y + seen.y * rect.height,
        seen.width * rect.width,
        seen.height * rect.height,
    )
    return box.intersection(picture.seen)


def _seen_part(pixels: NDArray[np.uint8]) -> Rect | None:
    """The part of an image that something is seen in, as shares of its sides."""
    import numpy as np

    visible = pixels[..., 3] > _FAINT
    rows, columns = np.flatnonzero(visible.any(axis=1)), np.flatnonzero(visible.any(axis=0))
    if not len(rows):
        return None
    height, width = visible.shape
    left, top = float(columns[0] / width), float(rows[0] / height)
    return Rect(left, top, float((columns[-1] + 1) / width) - left, float((rows[-1] + 1) / height) - top)


def _of_each(subject: Subject[Site], check: Callable[[ShownPicture], Iterable[Said]]) -> Iterator[Said]:
    """Yield findings on the pictures on all screens.

    Each picture is named once in a look, whatever file of it a screen takes: where it is enlarged most.
    """
    if not subject.site.exists:
        return
    shown = subject.evidence.once(("pictures", *map(id, subject.scenes)), lambda: _all_shown(subject))
    yield from {(one.name, one.look): said for one in shown for said in check(one)}.values()
    reasons = [unknown(reason) for scene in subject.scenes for reason in scene.unknowns]
    yield from once(
        [*reasons, *(unknown(f"{one.picture.source} cannot be read") for one in shown if one.shows is None)]
    )


def _all_shown(subject: Subject[Site]) -> Sequence[ShownPicture]:
    """The pictures on all screens, those that are enlarged most last."""
    wanted = {
        layer.image: not layer.rect.covers(scene.screen.frame, _TOLERANCE)
        for scene in subject.scenes
        for layer in scene.pictures
    }
    subject.evidence.look_at(wanted)
    found = (one for scene in subject.scenes for one in _shown(subject, scene))
    return sorted(found, key=lambda one: one.enlarged)


def _shown(subject: Subject[Site], scene: Scene) -> Iterator[ShownPicture]:
    """The pictures of a scene; those that fill the screen hold their own ground."""
    frame = scene.screen.frame
    for index, layer in enumerate(scene.layers):
        if isinstance(layer, Picture):
            size = layer.image.size
            shown = layer.tile.size if layer.tile else layer.rect.size
            enlarged = shown.width * scene.screen.scale / size.width if size else 0.0
            behind = None if layer.rect.covers(frame, _TOLERANCE) else _behind(scene, index, layer)
            shows = subject.evidence.shows(layer.image)
            yield ShownPicture(layer, scene.look, behind, enlarged, scene.screen.system, shows, subject.evidence)


def _behind(scene: Scene, index: int, picture: Picture) -> Colour | None:
    """The flat colour that a picture is on, if it is on one, and no other picture on it."""
    if any(picture.seen.overlaps(other.seen) for other in scene.pictures if other is not picture):
        return None
    below = (layer for layer in scene.layers[:index] if isinstance(layer, Fill))
    fills = [fill for fill in below if fill.rect.covers(picture.seen, _TOLERANCE)]
    return fills[-1].colour if fills and fills[-1].colour.is_opaque else None
