"""Lengths, shapes and looks: the words every other module shares.

All shapes have their origin at the top left, x to the right, y down. Their unit is that of the value that holds them and is
said there: px (whole image pixels), dp (Android), pt (Apple), or art units (the user units of an SVG, the pixels of a bitmap).
"""

from __future__ import annotations

import math
from typing import Literal, NamedTuple, TypeAlias, get_args

Px: TypeAlias = int
Dp: TypeAlias = float
Pt: TypeAlias = float

Look: TypeAlias = Literal["light", "dark"]
LOOKS: tuple[Look, ...] = get_args(Look)


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
        """Both sides times `factor`."""
        return Size(self.width * factor, self.height * factor)

    def pixels(self, factor: float = 1.0) -> PixelSize:
        """Both sides times `factor`, rounded half up to whole pixels."""
        return PixelSize(round_half_up(self.width * factor), round_half_up(self.height * factor))


class PixelSize(NamedTuple):
    """The size of an image in whole pixels."""

    width: Px
    height: Px


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
        """The rectangle in a unit `factor` times finer."""
        return Rect(*(value * factor for value in self))


class Circle(NamedTuple):
    """A circle: centre and radius."""

    centre: Point
    radius: float


def round_half_up(value: float) -> int:
    """Round to the nearest whole number, halves upwards, as Android does for dp x dpi / 160."""
    return math.floor(value + 0.5)


def centred(size: Size, frame: Rect) -> Rect:
    """`size` laid in the middle of `frame`."""
    return Rect(
        frame.x + (frame.width - size.width) / 2, frame.y + (frame.height - size.height) / 2, size.width, size.height
    )


def contain(size: Size, box: Size) -> Size:
    """`size` scaled, its aspect ratio kept, to the largest that fits in `box` (letterboxed)."""
    return size.scaled(min(box.width / size.width, box.height / size.height))
