"""From frames to moments: home screen, opening animation, launch screen, flash, second launch screen, waiting screen, first screen.

Frames are compared small, without the rows of the system's bars. What stays the same is a rest; rests are told apart by what they show and
by their order. What cannot be classified is unknown.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rivelt.recordings.seen import BOTTOM, TOP, Seen, changed, inner, seen
from rivelt.scene.launch import Kind, Moment
from rivelt.units import Rect
from rivelt.values import replace

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.recordings.recording import Frame

_SAME = 0.010  # of the pixels: less is a rest that goes on
_RESTS_MS = 90.0  # a rest as long as that is one, whatever is round it
_CUT = 0.25  # of the pixels that change at once: a cut
_STRICT = 0.005
_DRIFT = 1.2  # of 255, on average
_FLASH_MS = 1000.0  # a blank screen that is shown longer is no flash, but a screen that waits
_SAME_GROUND = 6.0  # CIEDE2000
_SAME_PLACE = 0.03  # of the frame
_SAME_SIZE = (0.75, 1.34)
_BAR = 0.03  # of the height
_BLOCK, _BLURRED = 9, 9.0  # px, and of 255
_MUCH, _JUMP = 40, 0.006  # of 255, and of the pixels
_MOVES, _MOVED = 24, 3  # of 255, and pixels of a small frame: as little as a thin ring that turns


class Film:
    """The small frames of a recording; those that are equal are held once."""

    def __init__(self, frames: Iterable[Frame]) -> None:
        self.times: list[float] = []
        self._kept: list[NDArray[np.uint8]] = []
        self._which: list[int] = []
        for frame in frames:
            pixels = inner(frame.pixels)
            if not self._kept or changed(self._kept[-1], pixels)[1] > 0.0:
                self._kept.append(np.ascontiguousarray(pixels))
            self._which.append(len(self._kept) - 1)
            self.times.append(frame.time)

    def __len__(self) -> int:
        return len(self.times)

    def __getitem__(self, number: int) -> NDArray[np.uint8]:
        return self._kept[self._which[number]]

    def apart(self, one: int, other: int) -> tuple[float, float]:
        """Return how two frames differ; see `rivelt.recordings.seen.changed`."""
        if self._which[one] == self._which[other]:
            return 0.0, 0.0
        return changed(self[one], self[other])

    def blurred_apart(self, one: int, other: int) -> float:
        """Return by how much (of 255) two frames differ on average, all that is fine in them left out."""
        return float(np.abs(_blurred(self[one]) - _blurred(self[other])).mean())

    def jumped(self, one: int, other: int) -> float:
        """Return the share of pixels that differ much between two frames, more than a codec ever makes them."""
        return float((np.abs(self[one].astype(np.int16) - self[other]).max(axis=-1) > _MUCH).mean())


def _blurred(pixels: NDArray[np.uint8]) -> NDArray[np.float32]:
    height, width = (side // _BLOCK * _BLOCK for side in pixels.shape[:2])
    blocks = pixels[:height, :width].reshape(height // _BLOCK, _BLOCK, width // _BLOCK, _BLOCK, 3)
    found: NDArray[np.float32] = blocks.mean(axis=(1, 3), dtype=np.float32)
    return found


class _Rest(Struct):
    """Frames, the last one excluded, that show the same."""

    start: int
    end: int
    seen: Seen
    middle: int

    @property
    def count(self) -> int:
        return self.end - self.start


def moments(film: Film, end: float) -> tuple[Moment, ...]:
    """Return the moments of a recording, in order and without gaps.

    Args:
        film: its frames.
        end: when the last one ends, in ms.
    """
    rests = _rests(film, end)
    rests = [part for rest in rests for part in _split(film, rest)]
    kinds = _kinds(rests, film, end)
    return _timeline(rests, kinds, film, end)


# Rests


def _rests(film: Film, end: float) -> list[_Rest]:
    found: list[_Rest] = []
    count = len(film)
    start = 0
    while start < count:
        stop = start + 1
        while stop < count and film.apart(start, stop)[0] < _SAME:
            stop += 1
        if _is_rest(film, start, stop, end):
            found.append(_settled(film, start, stop))
        start = stop
    return _joined(film, found)


def _is_rest(film: Film, start: int, stop: int, end: float) -> bool:
    """Whether equal frames are a rest: they last, or a cut leads to them or away from them."""
    until = film.times[stop] if stop < len(film) else end
    if until - film.times[start] >= _RESTS_MS:
        return True
    is_cut_before = start == 0 or film.apart(start - 1, start)[0] > _CUT
    is_cut_after = stop == len(film) or film.apart(stop - 1, stop)[0] > _CUT
    return stop - start >= 2 and (is_cut_before or is_cut_after)


def _settled(film: Film, start: int, stop: int) -> _Rest:
    """A rest with its borders where the frames are as its middle is, but for noise and what moves in it."""
    middle = (start + stop) // 2
    inside = [film.apart(middle, index) for index in range(start + (stop - start) // 4, stop - (stop - start) // 4)]
    share = max(_STRICT, 0.002 + 1.5 * float(np.percentile([one[0] for one in inside] or [0.0], 95)))
    drift = max(_DRIFT, 0.3 + 1.5 * float(np.percentile([one[1] for one in inside] or [0.0], 95)))

    def is_as_middle(index: int) -> bool:
        apart = film.apart(middle, index)
        return apart[0] <= share and apart[1] <= drift

    first = middle
    while first > start and is_as_middle(first - 1):
        first -= 1
    last = middle + 1
    while last < len(film) and is_as_middle(last):
        last += 1
    return _Rest(first, max(last, first + 1), seen_of(film, middle), middle)


def seen_of(film: Film, number: int) -> Seen:
    """Return what a frame shows; its bars are gone already, so that boxes are put back into the whole frame."""
    pixels = film[number]
    height = pixels.shape[0] / (1 - TOP - BOTTOM)
    padded = np.concatenate(
        [
            np.repeat(pixels[:1], round(height * TOP), axis=0),
            pixels,
            np.repeat(pixels[-1:], round(height * BOTTOM), axis=0),
        ]
    )
    return seen(padded)


def _joined(film: Film, rests: list[_Rest]) -> list[_Rest]:
    """Rests that show the same, as one where nothing but noise, or a mark that moves in its place, is between them."""
    found: list[_Rest] = []
    for rest in rests:
        last = found[-1] if found else None
        if last is not None and rest.start <= last.end and film.apart(last.middle, rest.middle)[0] < _SAME:
            last.end = max(last.end, rest.end)
        elif last is not None and _is_motion(film, last, rest):
            last.end = rest.end
        elif last is not None and rest.start < last.end:
            rest.start = last.end
            if rest.count > 0:
                found.append(rest)
        else:
            found.append(rest)
    return found


def _is_motion(film: Film, before: _Rest, after: _Rest) -> bool:
    """Whether a mark only moved in its place on one ground."""
    if not (before.seen.is_quiet and after.seen.is_quiet):
        return False
    if before.seen.ground.difference(after.seen.ground) > 2.0 or after.start - before.end < 3:
        return False
    if not _is_same_mark(before.seen.mark, after.seen.mark):
        return False
    between = [seen_of(film, index) for index in range(before.end, after.start)]
    return all(one.cover > 0.5 and one.ground.difference(before.seen.ground) < 2.0 for one in between)


def _is_same_mark(one: Rect | None, other: Rect | None) -> bool:
    if one is None or other is None:
        return one is other
    near = abs(one.centre.x - other.centre.x) < _SAME_PLACE and abs(one.centre.y - other.centre.y) < _SAME_PLACE
    grown = (other.width / one.width, other.height / one.height)
    return near and all(_SAME_SIZE[0] < side < _SAME_SIZE[1] for side in grown)


def _split(film: Film, rest: _Rest) -> list[_Rest]:
    """A launch screen, and from where on something moves on it, outside of its mark: it waits then."""
    if not rest.seen.is_quiet or rest.count < 6:
        return [rest]
    base = film[rest.start + 1].astype(np.int16)
    counts = [int((np.abs(film[index] - base).max(axis=-1) > _MOVES).sum()) for index in range(rest.start, rest.end)]
    if np.median(counts[-max(3, rest.count // 10) :]) < _MOVED:
        return [rest]
    moves = np.array(counts) >= _MOVED
    tail = np.cumsum(moves[::-1])[::-1] / np.arange(len(moves), 0, -1)
    at = next((index for index in range(len(moves)) if moves[index] and tail[index] > 0.8), len(moves))
    if at < 2 or at > rest.count - 2 or _is_in_mark(film, rest, base, at):
        return [rest]
    middle = rest.start + at // 2, rest.start + (at + rest.count) // 2
    return [
        _Rest(rest.start, rest.start + at, seen_of(film, middle[0]), middle[0]),
        _Rest(rest.start + at, rest.end, replace(rest.seen, boxes=seen_of(film, middle[1]).boxes), middle[1]),
    ]


def _is_in_mark(film: Film, rest: _Rest, base: NDArray[np.int16], at: int) -> bool:
    """Whether all that moves from a frame on is the mark itself."""
    mark = rest.seen.mark
    if mark is None:
        return False
    moved: NDArray[np.bool_] = np.zeros(base.shape[:2], np.bool_)
    for index in range(rest.start + at, rest.end):
        moved |= np.abs(film[index] - base).max(axis=-1) > _MOVES
    height, width = base.shape[0], base.shape[1]
    top = TOP * height / (1 - TOP - BOTTOM)
    whole = height / (1 - TOP - BOTTOM)
    rows, columns = np.nonzero(moved)
    inside = (
        ((rows + top) / whole >= mark.y - _SAME_PLACE)
        & ((rows + top) / whole <= mark.bottom + _SAME_PLACE)
        & (columns / width >= mark.x - _SAME_PLACE)
        & (columns / width <= mark.right + _SAME_PLACE)
    )
    return bool(inside.mean() > 0.9)


# Kinds


def _kinds(rests: Sequence[_Rest], film: Film, end: float) -> list[Kind]:
    """What each rest is, by what it shows and by its place among the others."""
    if not rests:
        return []
    kinds: list[Kind] = ["unknown"] * len(rests)
    starts_at_home = not (rests[0].seen.is_quiet or rests[0].seen.is_blank)
    at = 0
    if starts_at_home:
        kinds[0] = "home"
        at = 1
        while at < len(rests) and _is_still_home(film, rests[0], rests[at]):
            kinds[at] = "home"
            at += 1
        _stay_at_home(film, rests[at - 1 :])
    if at >= len(rests):
        return kinds if starts_at_home and len(rests) > 1 else ["unknown"] * len(rests)
    first = _first_screen(film, rests, at)
    launch = next((index for index in range(at, first) if rests[index].seen.is_quiet), None)
    if launch is None and first > at and starts_at_home:
        launch = at  # what follows the opening is the launch screen, however it looks
    if launch is None and first == at and rests[at].seen.is_quiet:
        launch, first = at, len(rests)  # the recording ends before the first screen comes
    for index in range(at, len(rests)):
        if index >= first:
            kinds[index] = "first"
        elif launch is None or index < launch:
            kinds[index] = _before_launch(rests, index, launch, has_home=starts_at_home)
        elif index == launch:
            kinds[index] = "launch"
        else:
            kinds[index] = _between(rests[launch], rests[index], film, end)
    return kinds


def _stay_at_home(film: Film, rests: Sequence[_Rest]) -> None:
    """Let the home screen last until something large changes: neither a codec that sharpens its picture nor a touch is the opening."""
    home = rests[0]
    until = rests[1].start if len(rests) > 1 else len(film)
    while home.end < until and film.jumped(home.end - 1, home.end) < _JUMP:
        home.end += 1


def _before_launch(rests: Sequence[_Rest], index: int, launch: int | None, *, has_home: bool) -> Kind:
    """What comes between home screen and launch screen: its own ground, before its mark is there; a flash; or who knows."""
    if launch is None or not rests[index].seen.is_blank:
        return "unknown"
    if rests[index].seen.ground.difference(rests[launch].seen.ground) < 2.0:
        return "launch"
    return "flash" if has_home else "unknown"


def _is_still_home(film: Film, home: _Rest, rest: _Rest) -> bool:
    """Whether the home screen only changed a little: a touch, a badge, a page that moved."""
    is_like = film.apart(home.middle, rest.middle)[0] < 0.12 or film.blurred_apart(home.middle, rest.middle) < _BLURRED
    return is_like and not rest.seen.is_quiet and not rest.seen.is_blank


def _first_screen(film: Film, rests: Sequence[_Rest], at: int) -> int:
    """The rest with which the app's first screen begins: the first that is no launch screen and not blank, else the last one."""
    for index in range(at + 1, len(rests)):
        if not (rests[index].seen.is_quiet or rests[index].seen.is_blank):
            return index - 1 if index > at + 1 and _has_its_bar(film, rests[index - 1], rests[index]) else index
    if not (rests[at].seen.is_quiet or rests[at].seen.is_blank) and len(rests) == at + 1:
        return at
    return len(rests) - 1 if len(rests) > at + 1 else at


def _has_its_bar(film: Film, rest: _Rest, later: _Rest) -> bool:
    """Whether a screen without content has the bar of the one that follows already: then it is that one."""
    if not any(box.height > _BAR and box.centre.y < 0.15 for box in rest.seen.boxes):
        return False
    rows = round(0.1 * film[rest.middle].shape[0])
    share, _ = changed(film[rest.middle][:rows], film[later.middle][:rows])
    return share < 0.25


def _between(launch: _Rest, rest: _Rest, film: Film, end: float) -> Kind:
    """What a rest between launch screen and first screen is."""
    is_same_ground = launch.seen.ground.difference(rest.seen.ground) < _SAME_GROUND
    length = (film.times[rest.end] if rest.end < len(film) else end) - film.times[rest.start]
    if rest.seen.is_blank:
        return "waiting" if is_same_ground or length > _FLASH_MS else "flash"
    if is_same_ground and _is_same_mark(launch.seen.mark, rest.seen.mark):
        return "waiting"
    return "second"


# The timeline


def _timeline(rests: Sequence[_Rest], kinds: Sequence[Kind], film: Film, end: float) -> tuple[Moment, ...]:
    """Moments without gaps: what moves before a launch screen is the opening; a later fade belongs to what it leads to."""
    if not rests:
        return (Moment("unknown", 0.0, end, len(film), len(film) // 2),) if len(film) else ()
    found: list[Moment] = []

    def time(index: int) -> float:
        return film.times[index] if index < len(film) else end

    def add(moment: Moment) -> None:
        last = found[-1] if found else None
        if last is not None and last.kind == moment.kind and moment.kind in {"home", "first", "opening", "unknown"}:
            found[-1] = replace(last, end=moment.end, frames=last.frames + moment.frames)
        elif last is not None and last.kind == moment.kind == "launch":
            found[-1] = replace(moment, start=last.start, frames=last.frames + moment.frames)
        else:
            found.append(moment)

    reached = 0
    for rest, kind in zip(rests, kinds, strict=True):
        start = rest.start
        if start > reached:
            moving: Kind | None = _moving(found, kind)
            if moving is None:
                start = reached
            else:
                add(Moment(moving, time(reached), time(start), start - reached, (reached + start) // 2))
        quiet = rest.seen if kind in {"launch", "flash", "second", "waiting"} else None
        mark = quiet.mark if quiet is not None else None
        add(Moment(kind, time(start), time(rest.end), rest.end - start, rest.middle, rest.seen.ground, mark))
        reached = rest.end
    if reached < len(film):
        last = found[-1]
        kind = "first" if last.kind in {"first", "launch", "flash", "second", "waiting"} else "opening"
        add(Moment(kind, time(reached), end, len(film) - reached, len(film) - 1))
    return tuple(found)


def _moving(found: Sequence[Moment], kind: Kind) -> Kind | None:
    """What moving frames before a rest are; None where they belong to it."""
    if not found:
        return "opening" if kind == "launch" else "unknown" if kind != "home" else None
    if found[-1].kind == "home":
        return "opening" if kind != "home" else None
    return None
