"""Rectangles with unknown edges, and the attributes by which constraints name them."""

from __future__ import annotations

import kiwisolver

from rivelt.platforms.ios.reader.tiers import Linear
from rivelt.units import Rect

SIZES = frozenset({"width", "height"})


class Box:
    """The four unknowns of a rectangle, in points from the screen's top left."""

    def __init__(self) -> None:
        self.x, self.y, self.width, self.height = (kiwisolver.Variable() for _ in range(4))

    @property
    def variables(self) -> tuple[kiwisolver.Variable, ...]:
        """All four."""
        return self.x, self.y, self.width, self.height

    @property
    def rect(self) -> Rect:
        """The rectangle, as the solver left it."""
        return Rect(*(variable.value() for variable in self.variables))

    def expression(self, attribute: str) -> Linear | None:
        """Return an attribute of NSLayoutConstraint as an expression (text runs from left to right); None for one that is not known."""
        match attribute:
            case "leading" | "left":
                return 1 * self.x
            case "trailing" | "right":
                return self.x + self.width
            case "top":
                return 1 * self.y
            case "bottom":
                return self.y + self.height
            case "width":
                return 1 * self.width
            case "height":
                return 1 * self.height
            case "centerX":
                return self.x + 0.5 * self.width
            case "centerY":
                return self.y + 0.5 * self.height
            case _:
                return None


def inset(box: Box, outer: Box, insets: tuple[float, float, float, float]) -> list[Linear]:
    """Return what must be 0 where `box` is `outer` less its insets: top, left, bottom, right."""
    top, left, bottom, right = insets
    return [
        box.x - outer.x - left,
        box.y - outer.y - top,
        box.x + box.width - outer.x - outer.width + right,
        box.y + box.height - outer.y - outer.height + bottom,
    ]
