"""What a recording of a real launch showed: its moments, and how its launch screen differs from the one that was worked out."""

from __future__ import annotations

from typing import Literal, TypeAlias

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.units import Look, Point, Rect

Kind: TypeAlias = Literal["home", "opening", "launch", "flash", "second", "waiting", "first", "unknown"]
"""Home screen, opening animation, launch screen, a flash, a second launch screen, a screen that waits, the app's first screen."""


class Moment(Struct, frozen=True):
    """One moment. `start`, `end`: in ms. `frames`: how many. `clearest`: the number of the frame that shows it best.

    `ground`: the colour that fills most of it, None while it moves. `mark`: what stands in the middle, in px of the recording.
    """

    kind: Kind
    start: float
    end: float
    frames: int
    clearest: int
    ground: Colour | None = None
    mark: Rect | None = None

    @property
    def length(self) -> float:
        """How long it is, in ms."""
        return self.end - self.start


class Against(Struct, frozen=True):
    """A recorded launch screen held against the scene of the same screen. Lengths in dp or pt.

    `ground`: the colour difference of the grounds (CIEDE2000), None where one is no flat colour. `moved`: how far the mark is from where it
    should be (right, down); `wide`, `high`: how many times it is as wide and as high; None where one of them has none. `is_missing`:
    the scene has a mark, the recording has none. `is_imprint_missing`: the same of the imprint. `share`: of the pixels that differ.
    `other_look`: the difference of the grounds in the other look.
    """

    screen: str
    look: Look
    unit: str
    ground: float | None = None
    moved: Point | None = None
    wide: float | None = None
    high: float | None = None
    is_missing: bool = False
    is_imprint_missing: bool = False
    share: float = 0.0
    other_look: float | None = None


class Launch(Struct, frozen=True):
    """What a recording showed. `against`: None where it is held against nothing, for the reason `why`; `wanted_look`: the one that was asked for."""

    moments: tuple[Moment, ...]
    against: Against | None = None
    why: str = ""
    wanted_look: Look | None = None

    def of(self, *kinds: Kind) -> tuple[Moment, ...]:
        """Return the moments of some kinds."""
        return tuple(moment for moment in self.moments if moment.kind in kinds)
