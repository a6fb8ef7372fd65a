"""Path data and basic shapes as absolute lines and cubic curves (SVG 2, chapters 9 and 10)."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.art.outline.model import Matrix, Path, Segment
from rivelt.patterns import regex
from rivelt.units import Point

_TOKEN = regex(r"([MmZzLlHhVvCcSsQqTtAa])|([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)")
_FLAG = regex("[01]")
# A number beyond this is an error in the data: nothing that large is drawn, and its squares must stay numbers.
_LARGEST = 1e9
_SMALLEST_RADIUS = 1e-9
_COUNTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
_CIRCLE = 0.5522847498307936  # the handle of a cubic quarter circle, in radii


def parse_path(data: str) -> Path:
    """Return path data as absolute segments. An error ends the path where it stands, as the standard asks for."""
    return tuple(_Pen().draw(data))


def transformed(path: Path, matrix: Matrix) -> Path:
    """Return a path put through a transform."""
    return tuple(Segment(command, tuple(matrix.apply(*point) for point in points)) for command, points in path)


def path_data(path: Path, digits: int = 3) -> str:
    """Return a path as text, with so many decimals."""

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
    """An elliptical arc as cubic curves, the last of which ends at exactly the point that was asked for."""
    if min(rx, ry) < _SMALLEST_RADIUS:
        if start != end:
            yield Segment("L", (end,))
        return
    from fontTools.pens.recordingPen import RecordingPen
    from fontTools.svgLib.path.arc import EllipticalArc

    pen = RecordingPen()
    EllipticalArc(complex(*start), rx, ry, rotation, large, sweep, complex(*end)).draw(pen)
    for index, (_, points) in enumerate(pen.value, 1):
        curve = [Point(*point) for point in points]
        yield Segment("C", (*curve[:2], end if index == len(pen.value) else curve[2]))


def rectangle(x: float, y: float, width: float, height: float, rx: float, ry: float) -> Path:
    """Return a rectangle; its corners are rounded when both radii are above 0."""
    rx, ry = min(rx, width / 2), min(ry, height / 2)
    if rx <= 0 or ry <= 0:
        return parse_path(f"M{x} {y}H{x + width}V{y + height}H{x}Z")
    arc = f"a{rx} {ry} 0 0 1"
    return parse_path(
        f"M{x + rx} {y}H{x + width - rx}{arc} {rx} {ry}V{y + height - ry}{arc} {-rx} {ry}"
        f"H{x + rx}{arc} {-rx} {-ry}V{y + ry}{arc} {rx} {-ry}Z"
    )


def ellipse(cx: float, cy: float, rx: float, ry: float) -> Path:
    """Return an ellipse as four cubic curves."""
    kx, ky = rx * _CIRCLE, ry * _CIRCLE
    corners = [
        (Point(cx + rx, cy + ky), Point(cx + kx, cy + ry), Point(cx, cy + ry)),
        (Point(cx - kx, cy + ry), Point(cx - rx, cy + ky), Point(cx - rx, cy)),
        (Point(cx - rx, cy - ky), Point(cx - kx, cy - ry), Point(cx, cy - ry)),
        (Point(cx + kx, cy - ry), Point(cx + rx, cy - ky), Point(cx + rx, cy)),
    ]
    return (Segment("M", (Point(cx + rx, cy),)), *(Segment("C", points) for points in corners), Segment("Z", ()))


def bounds_of(path: Path) -> tuple[float, float, float, float] | None:
    """Return left, top, right and bottom of a path, exact for curves; None for an empty one."""
    from fontTools.misc.bezierTools import calcCubicBounds

    boxes: list[tuple[float, float, float, float]] = []
    at = Point(0, 0)
    for command, points in path:
        if command == "C":
            boxes.append(calcCubicBounds(at, *points))
        elif points:
            boxes.append((*points[-1], *points[-1]))
        at = points[-1] if points else at
    if not boxes:
        return None
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)
