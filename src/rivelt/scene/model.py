"""Screens and scenes as plain data, in the screen's own unit: dp on Android, points on Apple systems."""

from __future__ import annotations

from collections.abc import Iterator
from enum import Enum, auto
from typing import ClassVar, Literal, TypeAlias

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.errors import Place
from rivelt.picture import ImageFile
from rivelt.units import LOOKS, Circle, Look, Rect, Size
from rivelt.values import Keyed


class Screen(Keyed, frozen=True):
    """A device screen in its current orientation. `scale`: px per dp or pt. `version`: the API level, or the system's major version.

    `top`, `bottom` and `side`: the insets that system bars, rounded corners or margins take (the safe area). `corner`: the radius to
    draw. `variant`: what else the reader of its platform must know of it, such as a high-contrast setting. `looks`: those it has.
    `models`: the marketed names of the devices that have it. `is_device`: False for an image, such as one for a store. `moment_ms`: how long something has been moving on it, where it shows a moment of a motion and its length is known. `shows_safe_area`: whether a proof draws the safe area even when no guides are asked for.
    """

    target: str
    name: str
    system: str
    width: float
    height: float
    scale: float
    version: int
    top: float = 0.0
    bottom: float = 0.0
    corner: float = 0.0
    side: float = 0.0
    variant: str = ""
    looks: tuple[Look, ...] = LOOKS
    shows_safe_area: bool = False
    models: tuple[str, ...] = ()
    is_device: bool = True
    moment_ms: float | None = None
    not_in_key: ClassVar[frozenset[str]] = frozenset({"models", "moment_ms"})

    @property
    def frame(self) -> Rect:
        """The whole screen."""
        return Rect(0, 0, self.width, self.height)

    @property
    def safe_area(self) -> Rect:
        """The screen without its insets."""
        return Rect(self.side, self.top, self.width - 2 * self.side, self.height - self.top - self.bottom)


class Fill(Struct, frozen=True):
    """A flat colour, in a rectangle or (`is_round`) the ellipse inside it."""

    rect: Rect
    colour: Colour
    source: str
    is_round: bool = False


TileMode: TypeAlias = Literal["clamp", "repeat", "mirror"]
"""How an image continues beyond its edge: with the pixels of the edge, from its beginning again, or turned round."""


class Tile(Struct, frozen=True):
    """One of the images that fill a rectangle, side by side from the corner of the screen on."""

    size: Size
    across: TileMode
    down: TileMode


class Picture(Struct, frozen=True):
    """An image, stretched to `rect`; what is outside `clip` (a circle, or a rectangle) is not shown.

    A vector has no ties to other files. `source`: the file that it comes from. `tile`: it is not stretched but repeated. `tint`: the
    one colour that it is painted in, as far as its own alpha covers. `opacity`: 0 to 1. `is_mirrored`: left and right are changed.
    """

    rect: Rect
    image: ImageFile
    source: str
    clip: Circle | Rect | None = None
    tile: Tile | None = None
    tint: Colour | None = None
    opacity: float = 1.0
    is_mirrored: bool = False

    @property
    def seen(self) -> Rect:
        """The part of its rectangle that the clip leaves."""
        if self.clip is None:
            return self.rect
        return self.rect.intersection(self.clip.box if isinstance(self.clip, Circle) else self.clip)


class TextBox(Struct, frozen=True):
    """A label: its text is shown in a font of our own, which is why its frame is drawn too."""

    rect: Rect
    text: str
    font_size: float
    colour: Colour
    source: str


class Cause(Enum):
    """Why a part of a screen is unknown."""

    UNREAD = auto()
    """A file is missing, is not readable, or holds what Rivelt does not understand."""
    UNDECIDED = auto()
    """The native files themselves leave it open, such as a layout without enough constraints."""


class Unknown(Struct, frozen=True):
    """A part that cannot be known from the project's files, and why. Never guessed."""

    rect: Rect
    reason: str
    is_round: bool = False
    cause: Cause = Cause.UNREAD


FIRST_SCREEN = "first screen"
"""The last moment of the start: what the app shows of its own."""


class Ground(Struct, frozen=True):
    """What fills the screen in one moment of the start: the colour, or (None) why it is unknown (`source`).

    `place`: where it is written. `fix`: the exact edit that gives it the ground of the launch screen, a sentence.
    """

    moment: str
    colour: Colour | None
    source: str
    place: Place | None = None
    fix: str = ""


Layer: TypeAlias = Fill | Picture | TextBox | Unknown


class Scene(Struct, frozen=True):
    """What one screen shows at launch in one look: layers from the back to the front, and what it was worked out from.

    Without layers nothing is shown: what was there before the launch stays until the app draws.
    """

    screen: Screen
    look: Look
    layers: tuple[Layer, ...]
    title: str
    mask: Circle | None = None

    @classmethod
    def unknown(cls, screen: Screen, look: Look, reason: str) -> Scene:
        """Return the scene of a screen of which nothing can be known, for a reason."""
        return cls(screen, look, (Unknown(screen.frame, reason),), f"unknown: {reason}")

    @property
    def pictures(self) -> Iterator[Picture]:
        """The pictures among its layers."""
        return (layer for layer in self.layers if isinstance(layer, Picture))

    @property
    def unknowns(self) -> tuple[str, ...]:
        """Why parts of it are unknown; empty when all is known."""
        return tuple(layer.reason for layer in self.layers if isinstance(layer, Unknown))

    @property
    def ground_in_words(self) -> str:
        """The ground's value; "a picture" where one covers it, "nothing" or "unknown" where that is so."""
        if self.ground is not None:
            return self.ground.hex
        return "unknown" if self.unknowns else "a picture" if self.layers else "nothing"

    @property
    def ground(self) -> Colour | None:
        """The colour that fills the whole screen behind everything else, if it is known."""
        fills = [layer for layer in self.layers if isinstance(layer, Fill) and layer.rect == self.screen.frame]
        return fills[-1].colour if fills else None
