"""Numbers about platforms, read from the `facts.toml` beside each platform's modules into frozen values."""

from __future__ import annotations

import tomllib
from importlib.resources import files
from typing import TypeVar

import msgspec

from rivelt.scene.model import Screen

T = TypeVar("T")


class ScreenFacts(msgspec.Struct, frozen=True):
    """A screen worth proving, as facts files list it; see `rivelt.scene.model.Screen`. `proved`: a proof shows it."""

    name: str
    system: str
    width: float
    height: float
    scale: float
    version: int
    top: float
    bottom: float
    corner: float
    proved: bool = False

    def for_target(self, target: str) -> Screen:
        """The screen as a value of the core."""
        fields = msgspec.structs.asdict(self)
        del fields["proved"]
        return Screen(target=target, **fields)


def load_facts(package: str, kind: type[T]) -> T:
    """The `facts.toml` of a package as a value of `kind`, checked."""
    text = files(package).joinpath("facts.toml").read_text(encoding="utf-8")
    return msgspec.convert(tomllib.loads(text), type=kind)
