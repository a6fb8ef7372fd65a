"""Windows' numbers as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ScreenFacts, load_facts
from rivelt.scene.model import Screen
from rivelt.units import Size


class ContrastFacts(Struct, frozen=True):
    """A high-contrast theme: the colours of a mark and of what it stands on."""

    ink: str
    ground: str


class Kind(Struct, frozen=True):
    """What a schema of the launch element stands for: the size of the image in effective px, its scales in percent.

    `sharp`: the scale from which on current screens show it sharp. `version`: that of its screens.
    """

    name: str
    schemas: tuple[str, ...]
    version: int
    width: int
    height: int
    scales: tuple[int, ...]
    sharp: int

    @property
    def size(self) -> Size:
        """The size of the image at 100 %."""
        return Size(self.width, self.height)


class WindowsFacts(Struct, frozen=True):
    """All of `facts.toml`."""

    most_bytes: int
    disc: float
    margin: float
    folder: str
    plain_names: tuple[str, ...]
    schemas: dict[str, str]
    kinds: tuple[Kind, ...]
    contrasts: dict[str, ContrastFacts]
    screens: tuple[ScreenFacts, ...]


@cache
def windows_facts() -> WindowsFacts:
    """Return the facts, read once."""
    return load_facts(__package__, WindowsFacts)


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """Return the diameters of the circles that the system cuts marks with: it cuts none; a mark on a disc must stay on it."""
    return (windows_facts().disc,) if has_disc else ()


def kind_of(schema: str) -> Kind:
    """Return what a namespace of the launch element stands for: for one that is not known, the current Windows."""
    kinds = windows_facts().kinds
    return next((kind for kind in kinds if schema in kind.schemas), kinds[0])


def screens(kind: Kind | None = None) -> tuple[Screen, ...]:
    """Return the screens that a proof can show, those of the current Windows or of another kind."""
    return tuple(screen.for_target("windows") for screen in _of(kind) if screen.proved)


def every_screen(kind: Kind | None = None) -> tuple[Screen, ...]:
    """Return all screens that are known, those of the current Windows or of another kind."""
    return tuple(screen.for_target("windows") for screen in _of(kind))


def _of(kind: Kind | None) -> list[ScreenFacts]:
    version = (kind or windows_facts().kinds[0]).version
    return [screen for screen in windows_facts().screens if screen.version == version]
