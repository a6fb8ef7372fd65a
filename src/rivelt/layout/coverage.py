"""A picture behind everything: which part of it each screen shows."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from rivelt.units import Point, Rect, Size, centred


class Coverage(Struct, frozen=True):
    """How a picture covers many screens, never distorted: scaled until it fills each, centred, the rest cut off.

    `common`: the part of the picture (its own pixels) that every screen shows. `cut`: the screens that do not show the focus.
    `enlarged`: the most screen pixels there are for one of the picture's, and `wanted` the size at which that would be 1.
    """

    common: Rect
    focus: Point
    cut: tuple[str, ...]
    screens: int
    enlarged: float
    wanted: Size


def window_on(picture: Size, screen: Size) -> Rect:
    """Return the part of a picture that a screen shows when the picture covers it, centred."""
    scale = max(screen.width / picture.width, screen.height / picture.height)
    return centred(Size(screen.width / scale, screen.height / scale), Rect(0, 0, *picture))


def coverage(picture: Size, focus: tuple[float, float], screens: Iterable[tuple[str, Size]]) -> Coverage:
    """Return how a picture covers screens.

    Args:
        picture: its size in its own pixels.
        focus: the point that should be seen everywhere, as shares of width and height.
        screens: the name and the size in px of each, in each orientation.
    """
    point = Point(picture.width * focus[0], picture.height * focus[1])
    common = Rect(0, 0, *picture)
    cut: list[str] = []
    enlarged = 0.0
    count = 0
    for name, screen in screens:
        count += 1
        window = window_on(picture, screen)
        common = common.intersection(window)
        enlarged = max(enlarged, screen.width / window.width)
        if not (window.x <= point.x <= window.right and window.y <= point.y <= window.bottom):
            cut.append(name)
    return Coverage(common, point, tuple(cut), count, enlarged, picture.scaled(max(1.0, enlarged)))
