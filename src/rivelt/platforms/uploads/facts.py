"""The sizes of uploads as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ImprintFacts, load_facts
from rivelt.scene.model import Screen


class UploadFacts(Struct, frozen=True):
    """All of `facts.toml`. `sets`: width and height in px, and px per dp or point."""

    phone: float
    tablet: float
    phone_ratio: float
    smallest: int
    largest: int
    disc: float
    imprint: ImprintFacts
    sets: dict[str, tuple[tuple[int, int, float], ...]]


@cache
def upload_facts() -> UploadFacts:
    """Return the facts, read once."""
    return load_facts(__package__, UploadFacts)


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """Return the diameters of the circles that marks are cut with: none; a mark on a disc must stay on it."""
    return (upload_facts().disc,) if has_disc else ()


def screens() -> tuple[Screen, ...]:
    """Return none of the platform's own: the brief says which sizes there are."""
    return ()


def every_screen() -> tuple[Screen, ...]:
    """Return every size of every set."""
    return tuple(upload_screen(name, *size) for name, sizes in upload_facts().sets.items() for size in sizes)


def upload_screen(name: str, width: int, height: int, density: float, margin: float = 0.0) -> Screen:
    """Return a size in px as a screen in dp or points, the safe margin (a share of each side) as its insets.

    `variant` is the name of the set that the size is of.
    """
    across, down = width / density, height / density
    return Screen(
        "uploads",
        f"{width} x {height}",
        f"{name}, {width} x {height} px",
        across,
        down,
        density,
        0,
        top=down * margin,
        bottom=down * margin,
        side=across * margin,
        variant=name,
        shows_safe_area=True,
        is_device=False,
    )
