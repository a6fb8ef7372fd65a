"""The web's numbers as a value, and the screens that web apps are installed on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cache

from msgspec import Struct

from rivelt.errors import BadInput, Place
from rivelt.platforms.facts import ImprintFacts, ScreenFacts, apple_screens, load_facts
from rivelt.scene.model import Screen
from rivelt.values import replace


class WebFacts(Struct, frozen=True):
    """All of `facts.toml`."""

    icons: tuple[int, ...]
    maskable: float
    landscape_bottom: float
    smallest_pad: float
    shown_icon: float
    shown_name: float
    disc: float
    imprint: ImprintFacts
    windows: tuple[ScreenFacts, ...]


@cache
def web_facts() -> WebFacts:
    """Return the facts, read once."""
    return load_facts(__package__, WebFacts)


HOME_SCREEN = "home screen"
"""The variant of screens that show startup images."""


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """Return the diameters of the circles that marks are cut with: none is in dp; a mark on a disc must stay on it."""
    return (web_facts().disc,) if has_disc else ()


def both_ways(screen: ScreenFacts) -> Iterator[Screen]:
    """Yield an iPhone or iPad upright and on its side."""
    system, _, model = screen.system.partition(", ")
    upright = replace(screen.for_target("web"), system=f"{system} home screen, {model}", variant=HOME_SCREEN)
    yield upright
    side = (
        upright.top
        if upright.top > upright.bottom > 0 and min(upright.width, upright.height) < web_facts().smallest_pad
        else 0.0
    )
    yield replace(
        upright,
        name=f"{upright.name}, landscape",
        system=f"{upright.system}, landscape",
        width=upright.height,
        height=upright.width,
        top=0.0 if side else upright.top,
        bottom=min(upright.bottom, web_facts().landscape_bottom),
        side=side,
    )


def wanted_screens(wanted: str | Sequence[str], at: Place | None = None) -> tuple[ScreenFacts, ...]:
    """Return the iPhones and iPads that a brief wants startup images for: "all", "current", or those that any of some words fit.

    Raises:
        BadInput: words fit none; `at` is where they stand.
    """
    if isinstance(wanted, str):
        return tuple(facts for facts in apple_screens() if facts.current or wanted == "all")
    found: dict[ScreenFacts, None] = {}
    for words in wanted:
        low = words.strip().lower()
        fitting = [facts for facts in apple_screens() if low in f"{facts.system} {facts.name}".lower()]
        if not fitting:
            hint = 'Give words such as "iPhone 15", "iPad" or "393 x 852".'
            raise BadInput(f"no iPhone or iPad is called {words}", place=at, hint=hint)
        found |= dict.fromkeys(fitting)
    return tuple(found)


def screens() -> tuple[Screen, ...]:
    """Return the screens that a proof can show."""
    apple = [screen for facts in apple_screens() if facts.proved for screen in both_ways(facts)]
    return (*apple[:3], *_windows())


def every_screen() -> tuple[Screen, ...]:
    """Return all screens that are known."""
    return (*(screen for facts in apple_screens() for screen in both_ways(facts)), *_windows())


def _windows() -> tuple[Screen, ...]:
    return tuple(facts.for_target("web") for facts in web_facts().windows)
