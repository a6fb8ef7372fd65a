"""Lengths, shapes and looks: the words every other module shares.

All shapes have their origin at the top left, x to the right, y down. Their unit is that of the value that holds them and is
said there: px (whole image pixels), dp (Android), pt (Apple), or art units (the user units of an SVG, the pixels of a bitmap).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal, NamedTuple, TypeAlias, get_args

Look: TypeAlias = Literal["light", "dark"]
LOOKS: tuple[Look, ...] = get_args(Look)

CSS_LENGTHS: Mapping[str, float] = {
    "px": 1.0,
    "in": 96.0,
    "cm": 96 / 2.54,
    "mm": 9.6 / 2.54,
    "q": 96 / 101.6,
    "pt": 4 / 3,
    "pc": 16.0,
}
"""The absolute units of CSS, in CSS pixels (CSS Values 4, section 6.2)."""


class Point(NamedTuple):
    """A position."""

    x: float
    y: float


class Size(NamedTuple):
    """A width and a height, never negative."""

    width: float
    height: float

    @property
    def longer(self) -> float:
        """The longer of the two sides."""
        return max(self.width, self.height)

    def scaled(self, factor: float) -> Size:
        """Return both sides times `factor`."""
        return Size(self.width * factor, self.height * factor)

    def pixels(self, factor: float = 1.0) -> PixelSize:
        """Return both sides times `factor`, rounded half up to whole pixels."""
        return PixelSize(round_half_up(self.width * factor), round_half_up(self.height * factor))


class PixelSize(NamedTuple):
    """The size of an image in whole pixels."""

    width: int
    height: int


class Rect(NamedTuple):
    """An upright rectangle: top left corner, width, height."""

    x: float
    y: float
    width: float
    height: float

    @property
    def size(self) -> Size:
        """Width and height."""
        return Size(self.width, self.height)

    @property
    def centre(self) -> Point:
        """The middle."""
        return Point(self.x + self.width / 2, self.y + self.height / 2)

    @property
    def right(self) -> float:
        """The x of the right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """The y of the lower edge."""
        return self.y + self.height

    def scaled(self, factor: float) -> Rect:
        """Return the rectangle in a unit `factor` times finer."""
        return Rect(*(value * factor for value in self))

    def overlaps(self, other: Rect) -> bool:
        """Return whether the two share more than an edge."""
        return self.x < other.right and other.x < self.right and self.y < other.bottom and other.y < self.bottom

    def covers(self, other: Rect, tolerance: float = 0.0) -> bool:
        """Return whether `other` is inside; each edge may stick out by `tolerance`."""
        return (
            self.x <= other.x + tolerance
            and self.y <= other.y + tolerance
            and self.right >= other.right - tolerance
            and self.bottom >= other.bottom - tolerance
        )

    def intersection(self, other: Rect) -> Rect:
        """Return the part that both share; its width or height is 0 where they do not overlap."""
        x, y = max(self.x, other.x), max(self.y, other.y)
        return Rect(x, y, max(0.0, min(self.right, other.right) - x), max(0.0, min(self.bottom, other.bottom) - y))

    def union(self, other: Rect) -> Rect:
        """Return the smallest rectangle that holds both."""
        x, y = min(self.x, other.x), min(self.y, other.y)
        return Rect(x, y, max(self.right, other.right) - x, max(self.bottom, other.bottom) - y)


class Circle(NamedTuple):
    """A circle: centre and radius."""

    centre: Point
    radius: float

    @property
    def box(self) -> Rect:
        """The square round it."""
        return Rect(self.centre.x - self.radius, self.centre.y - self.radius, 2 * self.radius, 2 * self.radius)


def round_half_up(value: float) -> int:
    """Round to the nearest whole number, halves upwards, as Android does for dp x dpi / 160."""
    return math.floor(value + 0.5)


def centred(size: Size, frame: Rect) -> Rect:
    """Return `size` laid in the middle of `frame`."""
    return Rect(
        frame.x + (frame.width - size.width) / 2, frame.y + (frame.height - size.height) / 2, size.width, size.height
    )


def contain(size: Size, box: Size) -> Size:
    """Return `size` scaled, its aspect ratio kept, to the largest that fits in `box` (letterboxed)."""
    return size.scaled(min(box.width / size.width, box.height / size.height))
