"""Windows' numbers as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ScreenFacts, load_facts
from rivelt.scene.model import Screen


class ContrastFacts(Struct, frozen=True):
    """A high-contrast theme: the colours of a mark and of what it stands on."""

    ink: str
    ground: str


class WindowsFacts(Struct, frozen=True):
    """All of `facts.toml`."""

    width: int
    height: int
    scales: tuple[int, ...]
    most_bytes: int
    disc: float
    margin: float
    folder: str
    plain_names: tuple[str, ...]
    schemas: dict[str, str]
    contrasts: dict[str, ContrastFacts]
    screens: tuple[ScreenFacts, ...]


@cache
def windows_facts() -> WindowsFacts:
    """The facts, read once."""
    return load_facts(__package__, WindowsFacts)


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """The diameters of the circles that the system cuts marks with: it cuts none; a mark on a disc must stay on it."""
    return (windows_facts().disc,) if has_disc else ()


def screens() -> tuple[Screen, ...]:
    """The screens that a proof can show."""
    return tuple(screen.for_target("windows") for screen in windows_facts().screens if screen.proved)


def every_screen() -> tuple[Screen, ...]:
    """All screens that are known."""
    return tuple(screen.for_target("windows") for screen in windows_facts().screens)
