"""A still mark set in motion: an animated vector made from its own outlines.

https://developer.android.com/reference/android/graphics/drawable/AnimatedVectorDrawable. The vector in it is the still mark, so that it is
right where nothing moves; each property that moves ends where the vector has it. Properties have no delay, but keyframes that wait: before
its delay is over, the system shows what the vector says, which here is the finished mark.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import groupby
from typing import NamedTuple

from msgspec import Struct

from rivelt.art.outline.model import LinearGradient, Matrix, Outline, Paint, Path, RadialGradient, Shape
from rivelt.art.outline.path import bounds_of, path_data, transformed
from rivelt.colour import Colour
from rivelt.platforms.android.make.vector_drawable import VectorPath, clip_data, paths_of
from rivelt.platforms.android.options import Manner
from rivelt.templating import Templates
from rivelt.units import Point, Rect

LENGTH_MS = 800
"""How long it moves where the brief does not say."""

_EACH = 0.5  # of the whole time that one part takes, where there are several
_MOST_PARTS = 24  # that begin one after the other; of more, several begin together
_RISE = 18.0  # dp, where the circle leaves room
_LARGER = 1.12  # times, where the circle leaves room
_SMALLER = 0.92  # where it leaves none
_ROOM = 1.03
_LINE = 1.5  # dp: the width of a line that is drawn round a filled part
_LEAST_LINE = 0.5
_LEAST_PART = 3.0  # dp: no line is drawn round what is smaller
_MOST_LINES = 150
_DIGITS = 2
_SAFE = 1e-6
_MOMENT = 0.001
"""When the second of three keyframes is: of only two, the render thread takes the values, but not the easing between them
(frameworks/base, android.animation.PropertyValuesHolder.getPropertyValues)."""

_ENTER, _DRAW, _EVEN = "linear_out_slow_in", "fast_out_slow_in", "linear"

_TEMPLATES = Templates("rivelt.platforms.android")


class Key(NamedTuple):
    """A keyframe: a share of the time, a value, and the platform's name of the way to it."""

    share: str
    value: str
    easing: str


class Moves(Struct, frozen=True):
    """A property of a named part, and its keyframes."""

    name: str
    keys: tuple[Key, ...]


class Line(Struct, frozen=True):
    """A line that is drawn along a part, and is not seen once it is finished."""

    name: str
    attributes: dict[str, str]


class Part(Struct, frozen=True):
    """One shape of the mark: its paths, in a group of that name where the group moves, and the lines drawn along it."""

    name: str
    paths: tuple[tuple[str, VectorPath], ...]
    lines: tuple[Line, ...]
    has_group: bool


class Mask(NamedTuple):
    """The circle that the system cuts, in dp: its centre on both axes, and its radius. `reach`: how far from there the still mark reaches."""

    centre: float
    radius: float
    reach: float

    @property
    def room(self) -> float:
        """What is free all round the still mark."""
        return self.radius - self.reach


def moving_vector(
    outline: Outline, side: float, box: Rect, mask: Mask, manner: Manner, length_ms: int, name: str
) -> str:
    """Return a square animated vector of `side` dp in which a mark moves, and which ends as the still mark.

    Args:
        outline: the mark; nothing of it is unsupported.
        side: width and height of the drawable, in dp.
        box: where the outline's own canvas is, in dp.
        mask: the circle that the system cuts: no moment leaves it.
        manner: how it moves.
        length_ms: for how long.
        name: what the file is, for its comment.

    Raises:
        NotDrawable: it holds something that a vector drawable cannot show.
    """
    return _Maker(outline, side, box, mask, manner).text(length_ms, name)


class _Maker:
    """One mark that is set in motion."""

    def __init__(self, outline: Outline, side: float, box: Rect, mask: Mask, manner: Manner) -> None:
        scale = box.width / outline.size.width
        self._to_dp = Matrix(scale, 0, 0, scale, box.x, box.y)
        self._shapes = outline.shapes
        self._side = side
        self._mask = mask
        self._manner = manner
        self._targets: dict[str, list[Moves]] = {}
        self._lines = 0

    def _ink(self, shape: Shape) -> Iterator[tuple[Point, float]]:
        """The corners of what holds a shape (dp), each with how far a line reaches round it."""
        stroke = shape.stroke
        reach = 0.0
        if stroke is not None:
            reach = stroke.width * self._to_dp.scale / 2 * (stroke.miter if stroke.join == "miter" else math.sqrt(2))
        for segment in transformed(shape.path, self._to_dp):
            yield from ((point, reach) for point in segment.points)

    def text(self, length_ms: int, name: str) -> str:
        """Return the file."""
        times = self._times()
        drawn = [(clip_data(shape, self._to_dp), index, shape) for index, shape in enumerate(self._shapes)]
        layers = [
            (clips, [self._part(index, shape, times[index]) for _, index, shape in its])
            for clips, its in groupby(drawn, key=lambda item: item[0])
        ]
        if self._manner == "settle":
            self._settle()
        return _TEMPLATES.render(
            "motion.xml.j2",
            side=f"{self._side:g}",
            layers=layers,
            name=name,
            has_whole=self._manner == "settle",
            pivot=f"{self._mask.centre:g}",
            length=length_ms,
            targets=self._targets,
        )

    # When

    def _times(self) -> dict[int, tuple[float, float]]:
        """From when to when each shape moves, as shares of the whole time: in the order in which one reads."""
        if self._manner == "settle" or len(self._shapes) <= 1:
            return dict.fromkeys(range(len(self._shapes)), (0.0, 1.0))
        beats = min(len(self._shapes), _MOST_PARTS)
        found: dict[int, tuple[float, float]] = {}
        for place, index in enumerate(_in_reading_order([self._bounds(shape) for shape in self._shapes])):
            beat = place * (beats - 1) / (len(self._shapes) - 1)
            start = (1 - _EACH) * round(beat) / (beats - 1)
            found[index] = (start, start + _EACH)
        return found

    def _bounds(self, shape: Shape) -> Rect:
        left, top, right, bottom = bounds_of(transformed(shape.path, self._to_dp)) or (0.0, 0.0, 0.0, 0.0)
        return Rect(left, top, right - left, bottom - top)

    # What

    def _part(self, index: int, shape: Shape, time: tuple[float, float]) -> Part:
        name = f"part{index}"
        paths = tuple((f"{name}_{number}", path) for number, path in enumerate(paths_of(shape, self._to_dp)))
        lines: tuple[Line, ...] = ()
        has_group = False
        match self._manner:
            case "draw":
                lines = self._draw(name, shape, paths, time)
            case "rise":
                has_group = self._rise(name, shape, time)
                self._fade(paths, time)
            case "fade":
                self._fade(paths, time)
        return Part(name, paths, lines, has_group)

    def _fade(self, paths: Sequence[tuple[str, VectorPath]], time: tuple[float, float]) -> None:
        for name, path in paths:
            for alpha in _alphas(path):
                self._move(name, alpha, [(0.0, 0.0), (time[0], 0.0), (time[1], 1.0)], _EVEN)

    def _rise(self, name: str, shape: Shape, time: tuple[float, float]) -> bool:
        """Let a part come from below, as far as it stays in the circle; return whether it does."""
        way = min((_way_down(point, reach, self._mask) for point, reach in self._ink(shape)), default=0.0)
        way = min(_RISE, max(way, self._mask.room - _SAFE))
        if way < _LEAST_LINE:
            return False
        self._move(name, "translateY", [(0.0, way), (time[0], way), (time[1], 0.0)], _ENTER)
        return True

    def _settle(self) -> None:
        """Let the whole come a little larger, or smaller where the circle leaves no room, and fade in."""
        room = self._mask.radius / self._mask.reach
        scale = min(_LARGER, room * (1 - _SAFE)) if room > _ROOM else _SMALLER
        for axis in ("scaleX", "scaleY"):
            self._move("whole", axis, [(0.0, scale), (1.0, 1.0)], _ENTER)
        self._move("mark", "alpha", [(0.0, 0.0), (0.5, 1.0), (1.0, 1.0)], _EVEN)

    def _draw(
        self, name: str, shape: Shape, paths: Sequence[tuple[str, VectorPath]], time: tuple[float, float]
    ) -> tuple[Line, ...]:
        """Draw a line along its path; along each piece of what has several, as the system trims only the first, and round what is filled."""
        start, end = time
        contours = _contours(transformed(shape.path, self._to_dp))
        if shape.fill is None and len(contours) == 1 and len(paths) == 1:
            self._move(paths[0][0], "trimPathEnd", [(0.0, 0.0), (start, 0.0), (end, 1.0)], _DRAW)
            return ()
        lines = tuple(self._along(name, shape, contours))
        middle = start + (end - start) * (0.65 if lines else 0.0)
        for path_name, path in paths:
            for alpha in _alphas(path):
                self._move(path_name, alpha, [(0.0, 0.0), (middle, 0.0), (end, 1.0)], _EVEN)
        for line in lines:
            self._move(line.name, "trimPathEnd", [(0.0, 0.0), (start, 0.0), (middle, 1.0), (1.0, 1.0)], _DRAW)
            hidden = min(1.0, end + (end - start) * 0.2)
            self._move(
                line.name, "strokeAlpha", [(0.0, 1.0), (end if hidden > end else middle, 1.0), (hidden, 0.0)], _EVEN
            )
        return lines

    def _along(self, name: str, shape: Shape, contours: Sequence[Path]) -> Iterator[Line]:
        stroke = shape.stroke
        colour = _solid(stroke.paint if stroke is not None else shape.fill)
        width = (
            stroke.width * self._to_dp.scale if stroke is not None else min(_LINE, 2 * self._mask.room / math.sqrt(2))
        )
        if colour is None or width < _LEAST_LINE:
            return
        cap, join = ("round", "round") if stroke is None else (stroke.cap, stroke.join)
        for contour in contours:
            box = bounds_of(contour)
            if box is None or max(box[2] - box[0], box[3] - box[1]) < _LEAST_PART or self._lines >= _MOST_LINES:
                continue
            self._lines += 1
            attributes = {
                "pathData": path_data(contour, _DIGITS),
                "strokeColor": colour.android if colour.alpha < 255 else colour.hex,
                "strokeWidth": f"{width:.4g}",
                "strokeAlpha": "0",
            }
            attributes |= {"strokeLineCap": cap} if cap != "butt" else {}
            attributes |= {"strokeLineJoin": join} if join != "miter" else {}
            yield Line(f"{name}_line{self._lines}", attributes)

    def _move(self, target: str, name: str, keys: Sequence[tuple[float, float]], easing: str) -> None:
        """Add a property's keyframes. Between two that are equal it waits; the last is at the end."""
        found: list[tuple[float, float]] = []
        for share, value in keys:
            if found and share <= found[-1][0]:
                found[-1] = (found[-1][0], value) if share == found[-1][0] and len(found) > 1 else found[-1]
                continue
            found.append((share, value))
        if found[-1][0] < 1:
            found.append((1.0, found[-1][1]))
        if len(found) == 2 and easing != _EVEN:
            found.insert(1, (_MOMENT, found[0][1]))
        told = tuple(
            Key(f"{share:.4g}", f"{value:.4g}", easing if index and value != found[index - 1][1] else _EVEN)
            for index, (share, value) in enumerate(found)
        )
        self._targets.setdefault(target, []).append(Moves(name, told))


def _way_down(point: Point, reach: float, mask: Mask) -> float:
    """How far a point, with what is round it, may be moved down inside the circle, in dp."""
    radius = mask.radius - reach
    across = abs(point.x - mask.centre)
    return math.sqrt(radius * radius - across * across) - (point.y - mask.centre) - _SAFE if across < radius else 0.0


def _alphas(path: VectorPath) -> Iterator[str]:
    for kind in ("fill", "stroke"):
        if f"{kind}Color" in path.attributes or f"{kind}Color" in path.gradients:
            yield f"{kind}Alpha"


def _solid(paint: Paint | None) -> Colour | None:
    """A colour for a line: the paint itself, or the middle one of a gradient."""
    if isinstance(paint, LinearGradient | RadialGradient):
        return paint.stops[len(paint.stops) // 2].colour
    return paint


def _contours(path: Path) -> list[Path]:
    """The pieces of a path, each of which begins with a move."""
    found: list[list[object]] = []
    for segment in path:
        if segment.command == "M" or not found:
            found.append([])
        found[-1].append(segment)
    return [tuple(piece) for piece in found if len(piece) > 1]  # type: ignore[arg-type]


def _in_reading_order(boxes: Sequence[Rect]) -> list[int]:
    """The places of boxes in the order in which one reads: lines from above, and in each from the left."""
    rows: list[list[int]] = []
    depths: list[float] = []
    for index in sorted(range(len(boxes)), key=lambda one: (boxes[one].y + boxes[one].height / 2, boxes[one].x)):
        middle = boxes[index].y + boxes[index].height / 2
        if rows and middle <= depths[-1]:
            rows[-1].append(index)
        else:
            rows.append([index])
            depths.append(boxes[index].y + boxes[index].height)
    return [index for row in rows for index in sorted(row, key=lambda one: (boxes[one].x, one))]
