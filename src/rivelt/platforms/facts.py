"""Numbers about platforms, read from the `facts.toml` beside each platform's modules into frozen values."""

from __future__ import annotations

import tomllib
from functools import cache
from typing import TypeVar

import msgspec

from rivelt.packaged import packaged
from rivelt.scene.model import Screen
from rivelt.units import LOOKS, Look, Size

T = TypeVar("T")


class ScreenFacts(msgspec.Struct, frozen=True):
    """A screen as facts files list it; see `rivelt.scene.model.Screen`.

    `models`: the marketed names of the devices that have it. `proved`: a proof shows it unless it says otherwise. `current`: models of it still get new systems.
    """

    name: str
    system: str
    width: float
    height: float
    scale: float
    version: int
    top: float
    bottom: float
    corner: float
    side: float = 0.0
    variant: str = ""
    looks: tuple[Look, ...] = LOOKS
    shows_safe_area: bool = False
    proved: bool = False
    current: bool = True
    models: tuple[str, ...] = ()

    def for_target(self, target: str) -> Screen:
        """Return the screen as a value of the core."""
        fields = msgspec.structs.asdict(self)
        del fields["proved"], fields["current"]
        return Screen(target=target, **fields)


class ImprintFacts(msgspec.Struct, frozen=True):
    """The box the imprint fits in, and its distance from the bottom of the safe area, in dp or points."""

    width: float
    height: float
    foot: float


class _AppleScreens(msgspec.Struct, frozen=True):
    screens: tuple[ScreenFacts, ...]


@cache
def apple_screens() -> tuple[ScreenFacts, ...]:
    """Return the screens of iPhones and iPads (`apple.toml`), in points."""
    return load_facts(__package__, _AppleScreens, "apple.toml").screens


def ordinary_screen() -> Size:
    """Return the phone, in points, on which a mark is looked at in front of its backdrop: the first of Apple's that is proved."""
    first = next(facts for facts in apple_screens() if facts.proved)
    return Size(first.width, first.height)


def load_facts(package: str, kind: type[T], name: str = "facts.toml") -> T:
    """Return a facts file of a package as a value of `kind`, checked: TOML, or JSON where a program makes the file."""
    data = packaged(package, name)
    if name.endswith(".json"):
        return msgspec.json.decode(data, type=kind)
    return msgspec.convert(tomllib.loads(data.decode()), type=kind)
