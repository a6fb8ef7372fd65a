"""Apple's numbers as a value."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ImprintFacts, apple_screens, load_facts
from rivelt.platforms.ios.site import Idiom
from rivelt.scene.model import Screen
from rivelt.values import replace


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
    """Priorities of Auto Layout: from which on a constraint must hold, how a view resists growing and shrinking, and those of stack views."""

    required: float
    hugging: float
    compression: float
    proportional: float
    centring: float
    spanning_fit: float


class Bars(Struct, frozen=True):
    """The heights of the bars that container controllers lay over their content, in points."""

    navigation: float
    tab: float


class Margins(Struct, frozen=True):
    """Layout margins in points: of a screen up to and from a width, and of a plain view; the readable width."""

    narrow: float
    wide: float
    wide_from: float
    plain: float
    readable: float


class Levels(Struct, frozen=True):
    """The first major version of the system that knows something."""

    safe_area: int
    named_colours: int
    dark: int
    dictionary: int


class SystemColour(Struct, frozen=True):
    """A colour of UIKit in each look, as hex; `changed`: the first version of the system that has another one."""

    light: str
    dark: str
    changed: int | None = None


class Split(Struct, frozen=True):
    """How wide the parts of an iPad's screen (by its name) can be, in points, upright and on its side."""

    screen: str
    portrait: tuple[float, ...]
    landscape: tuple[float, ...]


class IosFacts(Struct, frozen=True):
    """All of `facts.toml`."""

    scales: tuple[int, ...]
    imprint: ImprintFacts
    disc: float
    smallest_pad: float
    smallest_regular_split: float
    wide_phones: tuple[float, ...]
    most_decoded: int
    levels: Levels
    priorities: Priorities
    bars: Bars
    margins: Margins
    system_colours: dict[str, SystemColour]
    landscape_bottom: float
    splits: tuple[Split, ...]
    backdrops: tuple[BackdropFacts, ...]


SPLIT = "split"
"""The variant of a screen that is a part of an iPad's."""


@cache
def ios_facts() -> IosFacts:
    """Return the facts, read once."""
    return load_facts(__package__, IosFacts)


def idiom_of(screen: Screen) -> Idiom:
    """Return the kind of device that a screen is, or is a part of."""
    return (
        "ipad" if screen.variant == SPLIT or min(screen.width, screen.height) >= ios_facts().smallest_pad else "iphone"
    )


def size_classes(screen: Screen) -> tuple[str, str]:
    """Width and height class of a screen, "compact" or "regular"."""
    facts = ios_facts()
    if screen.variant == SPLIT:
        return ("regular" if screen.width >= facts.smallest_regular_split else "compact"), "regular"
    if min(screen.width, screen.height) >= facts.smallest_pad:
        return "regular", "regular"
    if screen.height >= screen.width:
        return "compact", "regular"
    return ("regular" if screen.width in facts.wide_phones else "compact"), "compact"


def design_screen() -> Screen:
    """Return the screen that a storyboard of Rivelt's opens with in Xcode: the first one that is proved."""
    return screens()[0]


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """Return the diameters of the circles that the system cuts marks with: it cuts none; a mark on a disc must stay on it."""
    return (ios_facts().disc,) if has_disc else ()


def turned(screen: Screen) -> Screen:
    """Return a screen on its side: the notch goes to the sides, and a phone without one hides its status bar."""
    is_phone = idiom_of(screen) == "iphone"
    side = screen.top if is_phone and screen.bottom > 0 else 0.0
    return replace(
        screen,
        name=f"{screen.name}, landscape",
        system=f"{screen.system}, landscape",
        width=screen.height,
        height=screen.width,
        top=0.0 if is_phone else screen.top,
        bottom=min(screen.bottom, ios_facts().landscape_bottom),
        side=side,
    )


def splits(screen: Screen) -> Iterator[Screen]:
    """Yield the parts of an iPad's screen that an app can be launched in beside another one."""
    upright = screen.name.partition(",")[0]
    for found in ios_facts().splits:
        if found.screen == upright:
            widths = found.landscape if screen.width > screen.height else found.portrait
            for width in widths:
                name, system = f"{screen.name}, split {width:g} pt", f"{screen.system}, split {width:g} pt"
                yield replace(screen, name=name, system=system, width=width, corner=0, variant=SPLIT)


def screens() -> tuple[Screen, ...]:
    """Return the screens that a proof can show."""
    return tuple(screen.for_target("ios") for screen in apple_screens() if screen.proved)


def every_screen() -> tuple[Screen, ...]:
    """Return all screens that are known."""
    return tuple(screen.for_target("ios") for screen in apple_screens())
