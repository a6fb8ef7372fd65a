"""A recorded launch screen held against the scene of the same screen, as it is worked out from the project's files."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.errors import BadInput
from rivelt.platforms import platform
from rivelt.proof.collect import ScreenChoice
from rivelt.proof.drawn import drawn_scene
from rivelt.recordings.recording import shrunk
from rivelt.recordings.seen import seen
from rivelt.scene.launch import Against
from rivelt.scene.model import Picture, Scene, Screen
from rivelt.units import LOOKS, Look, PixelSize, Point, Rect
from rivelt.values import replace

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.colour import Colour
    from rivelt.job import Job
    from rivelt.scene.site import Site

_SAME_RATIO = 0.012
_SMALL = 270  # px wide: enough to tell which screen it is
_LATER = 4.0  # an app is recorded more often than a page that was put on the home screen
_NOTICED = 28  # of 255: less is noise of the codec
_DEVICES = ("android", "ios", "dotnet", "web")


class Match(NamedTuple):
    """The scene that a recording is of, and how they differ. `drawn`: the scene as large as the recording."""

    site: Site
    scene: Scene
    against: Against
    drawn: NDArray[np.uint8]


class Wanted(NamedTuple):
    """What the person said of the recording: words of the screen, and the look; None: to be recognised."""

    screen: str | None = None
    look: Look | None = None


def matched(job: Job, still: NDArray[np.uint8], wanted: Wanted) -> Match | str:
    """Return the scene that a still of a launch screen is of, or why none is known.

    Args:
        job: the project.
        still: the recorded screen: height x width x 3.
        wanted: the screen and the look, as far as the person said them.

    Raises:
        BadInput: no screen is called so.
    """
    height, width = still.shape[:2]
    size = PixelSize(width, height)
    found = list(_candidates(job, size, wanted))
    if not found:
        return f"no screen that is known has {width} x {height} px: give one with --screen"
    small = shrunk(still, PixelSize(_SMALL, max(1, round(_SMALL * height / width))))
    ground = seen(small).ground
    held: dict[int, tuple[float, Match, dict[Look, Scene]]] = {}
    for site, screen in found:
        scenes = {look: job.now.scene(site, screen, look) for look in LOOKS if look in screen.looks}
        for look, scene in scenes.items():
            if wanted.look is None or look == wanted.look or len(scenes) == 1:
                match = _held(job, site, scene, scenes, small, ground)
                distance = _distance(match.against) + (_LATER if site.target == "web" else 0.0)
                held[len(held)] = distance, match, scenes
    _, best, scenes = min(held.values(), key=lambda one: one[0])
    return _held(job, best.site, best.scene, scenes, still, seen(still).ground)


def _candidates(job: Job, size: PixelSize, wanted: Wanted) -> Iterator[tuple[Site, Screen]]:
    """The screens of the sites that have these pixels, or their proportions; by name, where one is given."""
    sites = [site for site in job.now.sites if site.target in _DEVICES and site.exists and site.blocked is None]
    words = (wanted.screen,) if wanted.screen else ()
    every = [(site, screen) for site in sites for screen in ScreenChoice(words, is_all=True).of(site)]
    if wanted.screen and not every:
        hint = "`rivelt proof --all` names them all."
        raise BadInput(f"no screen is called {wanted.screen}", hint=hint)
    exact = [(site, screen) for site, screen in every if _pixels(screen) == size]
    ratio = size.width / size.height
    near = [one for one in every if abs(one[1].width / one[1].height / ratio - 1) < _SAME_RATIO]
    yield from exact or near or (every if wanted.screen else ())


def _pixels(screen: Screen) -> PixelSize:
    return PixelSize(round(screen.width * screen.scale), round(screen.height * screen.scale))


def _distance(against: Against) -> float:
    """How unlike a recording and a scene are, to choose the most likely one."""
    moved = math.hypot(*against.moved) if against.moved is not None else 0.0
    grown = abs(math.log(against.wide * against.high)) * 40 if against.wide and against.high else 0.0
    return (against.ground if against.ground is not None else 10.0) + moved + grown + 30 * against.share


def _held(
    job: Job, site: Site, scene: Scene, scenes: dict[Look, Scene], still: NDArray[np.uint8], recorded: Colour
) -> Match:
    """A still held against a scene; `recorded`: the ground of the still."""
    screen = scene.screen
    height, width = still.shape[:2]
    scale = width / screen.width
    square = replace(scene, screen=replace(screen, corner=0.0))  # recordings have no round corners
    drawn = _fitted(drawn_scene(square, scale, job.now.pictures)[..., :3], height, width)
    ground = scene.ground
    mark, imprint = _pictures(scene)
    there = _box(drawn, ground, _area(mark, scale)) if ground is not None and mark is not None else None
    here = _box(still, recorded, _wide(_area(mark, scale), still)) if mark is not None else None
    foot = _box(still, recorded, _area(imprint, scale)) if imprint is not None else None
    other = next((one.ground for look, one in scenes.items() if look != scene.look), None)
    moved = wide = high = None
    if there is not None and here is not None:
        moved = Point((here.centre.x - there.centre.x) / scale, (here.centre.y - there.centre.y) / scale)
        wide, high = here.width / there.width, here.height / there.height
    apart = np.abs(still.astype(np.int16) - drawn).max(axis=-1) > _NOTICED
    against = Against(
        screen.system,
        scene.look,
        platform(site.target).unit,
        ground=None if ground is None else round(ground.difference(recorded), 2),
        moved=moved,
        wide=wide,
        high=high,
        is_missing=there is not None and here is None,
        is_imprint_missing=imprint is not None and ground is not None and foot is None,
        share=float(apart.mean()),
        other_look=None if other is None else round(other.difference(recorded), 2),
    )
    return Match(site, scene, against, drawn)


def _fitted(pixels: NDArray[np.uint8], height: int, width: int) -> NDArray[np.uint8]:
    """A picture cut or filled to a size that differs by a few rows from its own."""
    found: NDArray[np.uint8] = np.empty((height, width, 3), np.uint8)
    found[:] = pixels[-1, width // 2 if width // 2 < pixels.shape[1] else 0]
    rows, columns = min(height, pixels.shape[0]), min(width, pixels.shape[1])
    found[:rows, :columns] = pixels[:rows, :columns]
    return found


def _pictures(scene: Scene) -> tuple[Picture | None, Picture | None]:
    """The mark and the imprint: the largest picture round the middle, and one at the foot."""
    frame = scene.screen.frame
    own = [layer for layer in scene.pictures if not layer.rect.covers(frame)]
    middle = [one for one in own if abs(one.seen.centre.y - frame.centre.y) < 0.2 * frame.height]
    mark = max(middle, key=lambda one: one.seen.width * one.seen.height, default=None)
    foot = [one for one in own if one is not mark and one.seen.centre.y > 0.7 * frame.height]
    return mark, max(foot, key=lambda one: one.seen.width, default=None)


def _area(picture: Picture, scale: float) -> Rect:
    return picture.seen.scaled(scale)


def _wide(area: Rect, still: NDArray[np.uint8]) -> Rect:
    """An area with room for a mark that is elsewhere, or larger."""
    height, width = still.shape[:2]
    across, down = max(area.width * 0.35, width * 0.1), max(area.height * 0.35, height * 0.06)
    wider = Rect(area.x - across, area.y - down, area.width + 2 * across, area.height + 2 * down)
    return wider.intersection(Rect(0, height * 0.06, width, height * 0.76))


def _box(pixels: NDArray[np.uint8], ground: Colour, area: Rect) -> Rect | None:
    """What stands out of a ground in an area, in px; None where nothing does. A few pixels are noise."""
    left, top = max(0, math.floor(area.x)), max(0, math.floor(area.y))
    part = pixels[top : math.ceil(area.bottom), left : math.ceil(area.right)].astype(np.int16)
    if part.size == 0:
        return None
    apart = np.abs(part - np.array(ground[:3], np.int16)).max(axis=-1) > _NOTICED
    rows, columns = (np.flatnonzero(apart.sum(axis=axis) > 1) for axis in (1, 0))
    if not len(rows) or not len(columns):
        return None
    return Rect(
        left + int(columns[0]), top + int(rows[0]), int(columns[-1] - columns[0]) + 1, int(rows[-1] - rows[0]) + 1
    )
