"""Glyph outlines as relocatable SVG path data: only the first point of each contour is absolute."""

from __future__ import annotations

from fontTools.pens.basePen import BasePen

Point = tuple[float, float]


class ContourPen(BasePen):  # type: ignore[misc]  # fontTools has no types
    """Takes a glyph, as fontTools draws it. `contours`: the first point of each, and the commands from there on (SVG 2, 9.3)."""

    def __init__(self) -> None:
        super().__init__(None)
        self.contours: list[tuple[float, float, str]] = []
        self._start: Point = (0, 0)
        self._commands: list[str] = []

    def _moveTo(self, pt: Point) -> None:  # noqa: N802
        self._start = pt
        self._commands = []

    def _lineTo(self, pt: Point) -> None:  # noqa: N802
        self._add("l", pt)

    def _qCurveToOne(self, pt1: Point, pt2: Point) -> None:  # noqa: N802
        self._add("q", pt1, pt2)

    def _curveToOne(self, pt1: Point, pt2: Point, pt3: Point) -> None:  # noqa: N802
        self._add("c", pt1, pt2, pt3)

    def _closePath(self) -> None:  # noqa: N802
        self.contours.append((*self._start, f"{''.join(self._commands)}z"))

    def _add(self, command: str, *points: Point) -> None:
        x, y = self._getCurrentPoint()
        self._commands.append(command + " ".join(f"{number(px - x)} {number(py - y)}" for px, py in points))


def number(value: float) -> str:
    """Return a number of font units, of which glyphs have halves and the like, in as few characters as it takes."""
    return str(round(value)) if value == round(value) else f"{value:.3f}".rstrip("0")
