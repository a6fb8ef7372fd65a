"""Apple's numbers as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ImprintFacts, apple_screens, load_facts
from rivelt.scene.model import Screen


class BackdropFacts(Struct, frozen=True):
    """A canvas for an idiom and height class in points, its scales, and the screen that shows least of it in points."""

    idiom: str
    width: float
    height: float
    scales: tuple[int, ...]
    smallest_width: float
    smallest_height: float
    height_class: str | None = None


class Priorities(Struct, frozen=True):
    """Priorities of Auto Layout: from which on a constraint must hold, and how a view resists growing and shrinking."""

    required: float
    hugging: float
    compression: float


class IosFacts(Struct, frozen=True):
    """All of `facts.toml`."""

    scales: tuple[int, ...]
    imprint: ImprintFacts
    disc: float
    smallest_pad: float
    wide_phones: tuple[float, ...]
    most_decoded: int
    priorities: Priorities
    backdrops: tuple[BackdropFacts, ...]


@cache
def ios_facts() -> IosFacts:
    """The facts, read once."""
    return load_facts(__package__, IosFacts)


def size_classes(screen: Screen) -> tuple[str, str]:
    """Width and height class of a screen, "compact" or "regular"."""
    facts = ios_facts()
    if min(screen.width, screen.height) >= facts.smallest_pad:
        return "regular", "regular"
    if screen.height >= screen.width:
        return "compact", "regular"
    return ("regular" if screen.width in facts.wide_phones else "compact"), "compact"


def design_screen() -> Screen:
    """Return the screen that a storyboard of Rivelt's opens with in Xcode: the first one that is proved."""
    return screens()[0]


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """The diameters of the circles that the system cuts marks with: it cuts none; a mark on a disc must stay on it."""
    return (ios_facts().disc,) if has_disc else ()


def screens() -> tuple[Screen, ...]:
    """The screens that a proof can show."""
    return tuple(screen.for_target("ios") for screen in apple_screens() if screen.proved)


def every_screen() -> tuple[Screen, ...]:
    """All screens that are known."""
    return tuple(screen.for_target("ios") for screen in apple_screens())
