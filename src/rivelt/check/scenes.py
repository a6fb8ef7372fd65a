"""The rules on what screens show, whatever platform they are of: its pictures can be seen, are sharp, and stay where they are."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

from rivelt.art.source import read_picture
from rivelt.check.report import Verdict
from rivelt.check.run import judge
from rivelt.colour import Colour
from rivelt.errors import Place, RiveltError
from rivelt.findings import Severity
from rivelt.pixels.header import bitmap_size
from rivelt.platforms import platform
from rivelt.platforms.rules import Fault, Said, Untold
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot
from rivelt.scene.model import Fill, Picture, Scene
from rivelt.units import Circle, Look, Rect

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

JUMP = 1.0
"""How far a picture may move from screen to screen, in dp or points."""

BLURRED = 1.5
"""From how much enlargement on a bitmap looks blurred at arm's length."""

HALF = 0.5
"""A picture of which less than this share of the outline reaches 3:1 cannot be told from its ground at a glance."""

_SEEN = 12  # of 255: a box that differs by less from its ground is not noticed
_HAIR = 0.5  # dp or points


def check_pictures(
    scenes: Sequence[tuple[Site, Scene]], wanted: frozenset[str], severities: Mapping[str, Severity]
) -> Iterator[Verdict]:
    """The verdicts on the pictures of launch screens, by site and rule."""
    by_site: dict[Site, list[Scene]] = {}
    for site, scene in scenes:
        if site.exists:
            by_site.setdefault(site, []).append(scene)
    for site, its in by_site.items():
        shown = sorted((one for scene in its for one in shown_pictures(scene)), key=lambda one: one.enlarged)
        unknown = [Untold(reason) for scene in its for reason in scene.unknowns]
        unknown += [Untold(f"{one.picture.source} cannot be read") for one in shown if one.pixels is None]
        for code, rule in PICTURE_RULES.items():
            if code in wanted:
                # Each picture is told of once in a look, whatever file of it a screen takes: where it is largest.
                faults = {(one.name, one.look): fault for one in shown for fault in rule(one)}
                yield judge(code, f"{site.target} {site.name}", dict.fromkeys((*faults.values(), *unknown)), severities)


@dataclass(frozen=True)
class ShownPicture:
    """A picture on a launch screen. `behind`: the flat colour it lies on; None where that is another picture, or a picture lies on it.

    `enlarged`: how many device pixels one of its own is spread over, along a side; 0 for a vector.
    """

    picture: Picture
    look: Look
    behind: Colour | None
    enlarged: float
    where: str

    @property
    def name(self) -> str:
        """The file's name."""
        return self.picture.source.rpartition("/")[2]

    @property
    def place(self) -> Place:
        """The file."""
        return Place(self.picture.source)

    @property
    def pixels(self) -> NDArray[np.uint8] | None:
        """The picture drawn small; None when it cannot be read."""
        return _drawn(self.picture.data)


@lru_cache(maxsize=16)
def _drawn(data: bytes) -> NDArray[np.uint8] | None:
    from rivelt.pixels.sample import sampled

    try:
        return sampled(read_picture(data, "picture"))[0]
    except RiveltError:
        return None


def _is_vector(data: bytes) -> bool:
    return data[:64].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<")


def shown_pictures(scene: Scene) -> Iterator[ShownPicture]:
    """The pictures of a scene; those that fill the screen hold their own ground."""
    frame = scene.screen.frame
    for index, layer in enumerate(scene.layers):
        if isinstance(layer, Picture):
            size = None if _is_vector(layer.data) else bitmap_size(layer.data)
            enlarged = layer.rect.width * scene.screen.scale / size.width if size else 0.0
            behind = None if _covers(layer.rect, frame) else _behind(scene, index)
            yield ShownPicture(layer, scene.look, behind, enlarged, scene.screen.system)


def _behind(scene: Scene, index: int) -> Colour | None:
    """The flat colour that a layer lies on, if it lies on one, and no other picture on it."""
    layer = scene.layers[index]
    seen = seen_part(layer.rect, getattr(layer, "clip", None))
    others = [other for other in scene.layers if isinstance(other, Picture) and other is not layer]
    if any(_touch(seen, seen_part(other.rect, other.clip)) for other in others):
        return None
    fills = [one for one in scene.layers[:index] if isinstance(one, Fill) and _covers(one.rect, seen)]
    return fills[-1].colour if fills and fills[-1].colour.is_opaque else None


def seen_part(rect: Rect, clip: Circle | Rect | None) -> Rect:
    """What is seen of a rectangle through its clip."""
    if clip is None:
        return rect
    if isinstance(clip, Circle):
        clip = Rect(clip.centre.x - clip.radius, clip.centre.y - clip.radius, 2 * clip.radius, 2 * clip.radius)
    left, top = max(rect.x, clip.x), max(rect.y, clip.y)
    return Rect(left, top, min(rect.right, clip.right) - left, min(rect.bottom, clip.bottom) - top)


def _covers(rect: Rect, other: Rect) -> bool:
    return (
        rect.x <= other.x + _HAIR
        and rect.y <= other.y + _HAIR
        and rect.right >= other.right - _HAIR
        and rect.bottom >= other.bottom - _HAIR
    )


def _touch(a: Rect, b: Rect) -> bool:
    return a.x < b.right and b.x < a.right and a.y < b.bottom and b.y < a.bottom


def _hard_to_see(one: ShownPicture) -> Iterator[Said]:
    from rivelt.art.contrast import opaque_box, outline_contrast

    if one.behind is None or one.pixels is None or opaque_box(one.pixels) is not None:
        return
    contrast = outline_contrast(one.pixels, one.behind, 1.0)
    if contrast is not None and contrast.share < HALF:
        message = (
            f"this image can hardly be told from {one.behind.hex} ({one.look}): "
            f"{contrast.share:.0%} of its outline reaches 3:1, the median is {contrast.median:.1f}:1"
        )
        yield Fault(message, "Give another ground in that look, or another image.", one.place)


def _boxed(one: ShownPicture) -> Iterator[Said]:
    from rivelt.art.contrast import baked_background

    box = baked_background(one.pixels) if one.behind is not None and one.pixels is not None else None
    if box is None or one.behind is None or isinstance(one.picture.clip, Circle):
        return
    if max(abs(mine - its) for mine, its in zip(box, one.behind, strict=True)) > _SEEN:
        message = f"this image stands in a box of {box.hex} on {one.behind.hex} ({one.look})"
        yield Fault(message, "Export it again with a transparent background.", one.place)


def _blurred(one: ShownPicture) -> Iterator[Said]:
    if one.enlarged >= BLURRED:
        message = f"this image is shown {one.enlarged:.1f} times as large as its pixels allow, on {one.where}"
        yield Fault(message, "Give a larger one, or every scale and density.", one.place)


def _empty(one: ShownPicture) -> Iterator[Said]:
    if one.pixels is not None and not one.pixels[..., 3].any():
        yield Fault(f"this image shows nothing ({one.look})", "Export it again with its drawing.", one.place)


PICTURE_RULES: Mapping[str, Callable[[ShownPicture], Iterable[Said]]] = {
    "SCN01": _hard_to_see,
    "SCN02": _boxed,
    "SCN03": _blurred,
    "SCN04": _empty,
}
"""What can be wrong with a picture on a launch screen, by the code of the rule."""


def check_waiting(
    snapshot: Snapshot, scenes: Sequence[tuple[Site, Scene]], severities: Mapping[str, Severity]
) -> Iterator[Verdict]:
    """The verdicts on waiting screens: their pictures stand where the launch screen has them."""
    said: dict[str, list[Said]] = {}
    for site, scene in scenes:
        waiting = platform(site.target).waiting(snapshot, site, scene.screen, scene.look)
        if waiting is not None:
            said.setdefault(f"{site.target} {site.name}", []).extend(_jumps(scene, waiting, platform(site.target).unit))
    for about, what in said.items():
        yield judge("HND02", about, dict.fromkeys(what), severities)


def _jumps(launch: Scene, waiting: Scene, unit: str) -> Iterator[Said]:
    if launch.unknowns or waiting.unknowns:
        yield Untold(next(iter((*launch.unknowns, *waiting.unknowns))))
        return
    before = {layer.source: layer.rect for layer in launch.layers if isinstance(layer, Picture)}
    for layer in waiting.layers:
        if isinstance(layer, Picture) and layer.source in before:
            old, new = before[layer.source], layer.rect
            moved = max(abs(a - b) for a, b in zip(old, new, strict=True))
            if moved > JUMP:
                name = layer.source.rpartition("/")[2]
                message = f"{name} jumps by {moved:.0f} {unit} when the waiting screen appears, on {launch.screen.name}"
                yield Fault(message, "Run `rivelt apply`, which lays both out in one way.")
