"""Path data and basic shapes as absolute lines and cubic curves (SVG 2, chapters 9 and 10)."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

from rivelt.art.outline.model import Matrix, Path, Segment
from rivelt.units import Point

_TOKEN = re.compile(r"([MmZzLlHhVvCcSsQqTtAa])|([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)")
_FLAG = re.compile("[01]")
_LARGEST = (
    1e9  # a number beyond this is an error in the data: nothing that large is drawn, and its squares must stay numbers
)
_SMALLEST_RADIUS = 1e-9
_COUNTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
_CIRCLE = 0.5522847498307936  # the handle of a cubic quarter circle, in radii


def parse_path(data: str) -> Path:
    """Path data as absolute segments. An error ends the path where it stands, as the standard asks for."""
    return tuple(_Pen().draw(data))


def transformed(path: Path, matrix: Matrix) -> Path:
    """A path put through a transform."""
    return tuple(Segment(command, tuple(matrix.apply(*point) for point in points)) for command, points in path)


def path_data(path: Path, digits: int = 3) -> str:
    """A path as text, with so many decimals."""

    def number(value: float) -> str:
        shown = f"{value:.{digits}f}".rstrip("0").rstrip(".")
        return "0" if shown in {"-0", ""} else shown

    return "".join(command + " ".join(f"{number(x)},{number(y)}" for x, y in points) for command, points in path)


class _Pen:
    def __init__(self) -> None:
        self.at = Point(0, 0)
        self.start = Point(0, 0)
        self.handle: Point | None = None  # the last control point, mirrored by S and T
        self.curve = ""  # what kind of curve that was

    def draw(self, data: str) -> Iterator[Segment]:
        for command, numbers in _commands(data):
            yield from self._segment(command.upper(), command.islower(), numbers)

    def _point(self, x: float, y: float, *, relative: bool) -> Point:
        return Point(self.at.x + x, self.at.y + y) if relative else Point(x, y)

    def _segment(self, command: str, relative: bool, n: list[float]) -> Iterator[Segment]:  # noqa: FBT001
        curve = ""
        handle = None
        match command:
            case "M":
                self.at = self.start = self._point(n[0], n[1], relative=relative)
                yield Segment("M", (self.at,))
            case "Z":
                self.at = self.start
                yield Segment("Z", ())
            case "L" | "H" | "V":
                x = n[0] if command != "V" else (0 if relative else self.at.x)
                y = n[-1] if command != "H" else (0 if relative else self.at.y)
                self.at = self._point(x, y, relative=relative)
                yield Segment("L", (self.at,))
            case "A":
                end = self._point(n[5], n[6], relative=relative)
                yield from _arc(self.at, end, abs(n[0]), abs(n[1]), n[2], large=n[3] != 0, sweep=n[4] != 0)
                self.at = end
            case _:
                points = [self._point(n[i], n[i + 1], relative=relative) for i in range(0, len(n), 2)]
                curve = "C" if command in "CS" else "Q"
                if command in "ST":
                    points.insert(0, self._mirrored(curve))
                handle = points[-2]
                if curve == "Q":
                    middle, end = points
                    points = [_towards(self.at, middle), _towards(end, middle), end]
                self.at = points[-1]
                yield Segment("C", tuple(points))
        self.handle, self.curve = handle, curve

    def _mirrored(self, curve: str) -> Point:
        if self.handle is None or self.curve != curve:
            return self.at
        return Point(2 * self.at.x - self.handle.x, 2 * self.at.y - self.handle.y)


def _towards(point: Point, middle: Point) -> Point:
    """A cubic's handle for one side of a quadratic curve."""
    return Point(point.x + (middle.x - point.x) * 2 / 3, point.y + (middle.y - point.y) * 2 / 3)


def _commands(data: str) -> Iterator[tuple[str, list[float]]]:
    """Commands with just their own numbers; repeated ones are written out, flags of arcs may stand without a space."""
    position, command = 0, ""
    while True:
        position = _after_space(data, position)
        if position >= len(data):
            return
        found = _TOKEN.match(data, position)
        if found and found[1]:
            command, position = found[1], found.end()
            if command in "Zz":
                yield command, []
                continue
        elif not found or not command or command in "Zz":
            return
        numbers: list[float] = []
        for index in range(_COUNTS[command.upper()]):
            position = _after_space(data, position)
            is_flag = command in "Aa" and index in {3, 4}
            found = _FLAG.match(data, position) if is_flag else _TOKEN.match(data, position)
            if not found or not (is_flag or found[2]) or abs(float(found[0])) > _LARGEST:
                return
            numbers.append(float(found[0]))
            position = found.end()
        yield command, numbers
        command = {"M": "L", "m": "l"}.get(command, command)


def _after_space(data: str, position: int) -> int:
    while position < len(data) and data[position] in " \t\r\n\f,":
        position += 1
    return position


def _arc(
    start: Point, end: Point, rx: float, ry: float, rotation: float, *, large: bool, sweep: bool
) -> Iterator[Segment]:
    """An elliptical arc as cubic curves (SVG 2, appendix B.2)."""
    if min(rx, ry) < _SMALLEST_RADIUS or start == end:
        if start != end:
            yield Segment("L", (end,))
        return
    phi = math.radians(rotation)
    turn = Matrix(math.cos(phi), math.sin(phi), -math.sin(phi), math.cos(phi))
    dx, dy = (start.x - end.x) / 2, (start.y - end.y) / 2
    x, y = turn.a * dx + turn.b * dy, turn.c * dx + turn.d * dy
    grow = math.sqrt(max(1.0, (x / rx) ** 2 + (y / ry) ** 2))
    rx, ry = rx * grow, ry * grow
    under = (rx * ry) ** 2 - (rx * y) ** 2 - (ry * x) ** 2
    factor = math.sqrt(max(0.0, under / ((rx * y) ** 2 + (ry * x) ** 2))) * (1 if large != sweep else -1)
    cx, cy = factor * rx * y / ry, -factor * ry * x / rx
    middle = turn.apply(cx, cy)
    centre = Point(middle.x + (start.x + end.x) / 2, middle.y + (start.y + end.y) / 2)
    first = math.atan2((y - cy) / ry, (x - cx) / rx)
    delta = math.atan2((-y - cy) / ry, (-x - cx) / rx) - first
    if sweep and delta < 0:
        delta += 2 * math.pi
    elif not sweep and delta > 0:
        delta -= 2 * math.pi
    steps = max(1, math.ceil(abs(delta) / (math.pi / 2) - 1e-9))
    to_ellipse = Matrix(rx, 0, 0, ry).then(turn).then(Matrix(e=centre.x, f=centre.y))
    for step in range(steps):
        a, b = first + delta * step / steps, first + delta * (step + 1) / steps
        k = 4 / 3 * math.tan((b - a) / 4)
        handles = ((math.cos(a) - k * math.sin(a), math.sin(a) + k * math.cos(a)),
                   (math.cos(b) + k * math.sin(b), math.sin(b) - k * math.cos(b)))  # fmt: skip
        last = end if step == steps - 1 else to_ellipse.apply(math.cos(b), math.sin(b))
        yield Segment("C", (to_ellipse.apply(*handles[0]), to_ellipse.apply(*handles[1]), last))


def rectangle(x: float, y: float, width: float, height: float, rx: float, ry: float) -> Path:
    """A rectangle; its corners are rounded when both radii are above 0."""
    rx, ry = min(rx, width / 2), min(ry, height / 2)
    if rx <= 0 or ry <= 0:
        return parse_path(f"M{x} {y}H{x + width}V{y + height}H{x}Z")
    arc = f"a{rx} {ry} 0 0 1"
    return parse_path(
        f"M{x + rx} {y}H{x + width - rx}{arc} {rx} {ry}V{y + height - ry}{arc} {-rx} {ry}"
        f"H{x + rx}{arc} {-rx} {-ry}V{y + ry}{arc} {rx} {-ry}Z"
    )


def ellipse(cx: float, cy: float, rx: float, ry: float) -> Path:
    """An ellipse as four cubic curves."""
    kx, ky = rx * _CIRCLE, ry * _CIRCLE
    corners = [
        (Point(cx + rx, cy + ky), Point(cx + kx, cy + ry), Point(cx, cy + ry)),
        (Point(cx - kx, cy + ry), Point(cx - rx, cy + ky), Point(cx - rx, cy)),
        (Point(cx - rx, cy - ky), Point(cx - kx, cy - ry), Point(cx, cy - ry)),
        (Point(cx + kx, cy - ry), Point(cx + rx, cy - ky), Point(cx + rx, cy)),
    ]
    return (Segment("M", (Point(cx + rx, cy),)), *(Segment("C", points) for points in corners), Segment("Z", ()))


def bounds_of(path: Path) -> tuple[float, float, float, float] | None:
    """Left, top, right and bottom of a path, exact for curves; None for an empty one."""
    xs: list[float] = []
    ys: list[float] = []
    at = Point(0, 0)
    for command, points in path:
        for axis, values in ((0, xs), (1, ys)):
            values.extend(point[axis] for point in points[-1:])
            if command == "C":
                values.extend(_extremes(at[axis], *(point[axis] for point in points)))
        at = points[-1] if points else at
    return (min(xs), min(ys), max(xs), max(ys)) if xs else None


def _extremes(p0: float, p1: float, p2: float, p3: float) -> Iterator[float]:
    """The values of a cubic where it turns, in one dimension."""
    a, b, c = p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0
    roots: list[float] = []
    if abs(a) < 1e-12:
        roots = [-c / b] if abs(b) > 1e-12 else []
    elif (under := b * b - 4 * a * c) >= 0:
        roots = [(-b + sign * math.sqrt(under)) / (2 * a) for sign in (1, -1)]
    for t in roots:
        if 0 < t < 1:
            u = 1 - t
            yield u**3 * p0 + 3 * u * u * t * p1 + 3 * u * t * t * p2 + t**3 * p3
