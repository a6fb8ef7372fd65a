"""Android's numbers as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ScreenFacts, load_facts
from rivelt.scene.model import Screen


class IconFacts(Struct, frozen=True):
    """The icon of the system launch screen: side of the drawable and diameter of the mask, in dp."""

    side: float
    mask: float


class ImprintFacts(Struct, frozen=True):
    """The image at the foot of the system launch screen, and its distance from the foot, in dp."""

    width: float
    height: float
    foot: float


class Levels(Struct, frozen=True):
    """API levels."""

    system_launch_screen: int


class AndroidFacts(Struct, frozen=True):
    """All of `facts.toml`. `densities` maps a qualifier to dots per inch; 160 dpi is 1 px per dp."""

    densities: dict[str, int]
    icon: IconFacts
    imprint: ImprintFacts
    levels: Levels
    screens: tuple[ScreenFacts, ...]


@cache
def android_facts() -> AndroidFacts:
    """The facts, read once."""
    return load_facts(__package__, AndroidFacts)


TITLE = "Android"
MASKS = (android_facts().icon.mask,)


def screens() -> tuple[Screen, ...]:
    """The screens that a proof can show."""
    return tuple(screen.for_target("android") for screen in android_facts().screens if screen.proved)


def every_screen() -> tuple[Screen, ...]:
    """All screens that are known."""
    return tuple(screen.for_target("android") for screen in android_facts().screens)
