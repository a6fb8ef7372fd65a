"""Where drawables are: gravity, insets and natural sizes, in dp that are whole pixels of the device.

Rules: frameworks/base, android.view.Gravity.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import NamedTuple

from rivelt.units import Rect

_START, _END = "start", "end"
_BEFORE = {"horizontal": {"left", "fill", "fill_horizontal"}, "vertical": {"top", "fill", "fill_vertical"}}
_AFTER = {"horizontal": {"right", "fill", "fill_horizontal"}, "vertical": {"bottom", "fill", "fill_vertical"}}
_CENTRE = {"horizontal": {"center", "center_horizontal"}, "vertical": {"center", "center_vertical"}}


class Sides(NamedTuple):
    """Lengths on the four sides, in dp."""

    left: float = 0.0
    top: float = 0.0
    right: float = 0.0
    bottom: float = 0.0

    def plus(self, other: Sides) -> Sides:
        """Return the sums."""
        return Sides(*(one + two for one, two in zip(self, other, strict=True)))

    def inside(self, frame: Rect) -> Rect:
        """Return what they leave of a frame; it may have no width or height, or less."""
        return Rect(
            frame.x + self.left,
            frame.y + self.top,
            frame.width - self.left - self.right,
            frame.height - self.top - self.bottom,
        )


class Natural(NamedTuple):
    """The size that a drawable has by itself, in dp; None for a side on which it fills what it is given."""

    width: float | None = None
    height: float | None = None


def gravity_words(text: str, *, is_right_to_left: bool) -> set[str]:
    """Return the words of a gravity, with `start` and `end` turned into sides."""
    words = {word.strip() for word in text.split("|")} - {""}
    start, end = ("right", "left") if is_right_to_left else ("left", "right")
    return {start if word == _START else end if word == _END else word for word in words}


def says(words: Collection[str], axis: str) -> bool:
    """Whether a gravity says anything about an axis ("horizontal", "vertical")."""
    return any(word in words for word in _BEFORE[axis] | _AFTER[axis] | _CENTRE[axis])


def by_gravity(
    width: float, height: float, frame: Rect, words: Collection[str], trimmed: Callable[[float], float]
) -> Rect:
    """Return where something is in a frame. `trimmed` cuts half pixels off, as whole numbers do."""
    x, wide = _along("horizontal", width, frame.x, frame.width, words, trimmed)
    y, high = _along("vertical", height, frame.y, frame.height, words, trimmed)
    return Rect(x, y, wide, high)


def _along(
    axis: str, length: float, start: float, room: float, words: Collection[str], trimmed: Callable[[float], float]
) -> tuple[float, float]:
    is_before = any(word in words for word in _BEFORE[axis])
    is_after = any(word in words for word in _AFTER[axis])
    if is_before and is_after:
        return start, room
    if is_before:
        at = start
    elif is_after:
        at = start + room - length
    else:
        at = start + trimmed((room - length) / 2)
    if f"clip_{axis}" in words:
        end = min(at + length, start + room)
        at = max(at, start)
        return at, end - at
    return at, length
