"""Outlines as data, in the art's own units (CSS pixels from its top left corner)."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple, TypeAlias

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.units import Point, Size

Spread: TypeAlias = Literal["pad", "reflect", "repeat"]


class Matrix(NamedTuple):
    """An affine transform as SVG writes it: x' = a x + c y + e, y' = b x + d y + f."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    def then(self, outer: Matrix) -> Matrix:
        """Return the transform that does this one first, then `outer`."""
        a, b, c, d, e, f = self
        return Matrix(
            outer.a * a + outer.c * b,
            outer.b * a + outer.d * b,
            outer.a * c + outer.c * d,
            outer.b * c + outer.d * d,
            outer.a * e + outer.c * f + outer.e,
            outer.b * e + outer.d * f + outer.f,
        )

    def apply(self, x: float, y: float) -> Point:
        """Return where a point goes."""
        return Point(self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f)

    @property
    def determinant(self) -> float:
        """By how much areas grow; negative for a mirrored picture, 0 for one that collapses."""
        return self.a * self.d - self.b * self.c

    @property
    def scale(self) -> float:
        """The mean factor for lengths."""
        return math.sqrt(abs(self.determinant))

    @property
    def is_similarity(self) -> bool:
        """Whether circles stay circles (moved, turned, mirrored and scaled alike in all directions)."""
        along, across = self.a * self.c + self.b * self.d, (self.a**2 + self.b**2) - (self.c**2 + self.d**2)
        tolerance = 1e-4 * (self.a**2 + self.b**2 + self.c**2 + self.d**2)
        return abs(along) <= tolerance and abs(across) <= tolerance


class Segment(NamedTuple):
    """A piece of a path: `M`, `L`, `C` or `Z` with its absolute points."""

    command: Literal["M", "L", "C", "Z"]
    points: tuple[Point, ...]


Path: TypeAlias = tuple[Segment, ...]


class Stop(NamedTuple):
    """A colour at a place (0 to 1) of a gradient."""

    offset: float
    colour: Colour


class LinearGradient(Struct, frozen=True):
    """Colours along a line."""

    start: Point
    end: Point
    stops: tuple[Stop, ...]
    spread: Spread


class RadialGradient(Struct, frozen=True):
    """Colours round a centre: `matrix` takes the unit circle, at whose rim the last stop is, to the drawing (an ellipse, if need be)."""

    matrix: Matrix
    stops: tuple[Stop, ...]
    spread: Spread


Paint: TypeAlias = Colour | LinearGradient | RadialGradient


class Stroke(Struct, frozen=True):
    """A line along a path: its paint, its width, and how it ends and turns."""

    paint: Paint
    width: float
    cap: str
    join: str
    miter: float


class Shape(Struct, frozen=True):
    """One path with its fill and its stroke, each with its opacity in its colours; clipped by all of `clips` (nonzero)."""

    path: Path
    fill: Paint | None
    is_even_odd: bool
    stroke: Stroke | None
    clips: tuple[Path, ...] = ()


class Unsupported(NamedTuple):
    """An element that outlines cannot hold, and why."""

    element: str
    reason: str


class Outline(Struct, frozen=True):
    """A drawing as shapes from the back to the front. With anything in `unsupported` it is not the whole picture."""

    size: Size
    shapes: tuple[Shape, ...]
    unsupported: tuple[Unsupported, ...]
