"""Android's numbers as a value."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from rivelt.platforms.facts import ScreenFacts, load_facts
from rivelt.scene.model import Screen


@dataclass(frozen=True)
class IconFacts:
    """The icon of the system launch screen: side of the drawable and diameter of the mask, in dp."""

    side: float
    mask: float


@dataclass(frozen=True)
class ImprintFacts:
    """The image at the foot of the system launch screen, and its distance from the foot, in dp."""

    width: float
    height: float
    foot: float


@dataclass(frozen=True)
class Levels:
    """API levels."""

    system_launch_screen: int


@dataclass(frozen=True)
class AndroidFacts:
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


def screens() -> tuple[Screen, ...]:
    """The screens that a proof can show."""
    return tuple(screen.for_target("android") for screen in android_facts().screens)
