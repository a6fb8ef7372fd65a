"""Android's numbers as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import ScreenFacts, load_facts
from rivelt.scene.model import Screen

BASE_DPI = 160
"""Dots per inch at which a px is a dp (https://developer.android.com/training/multiscreen/screendensities)."""


class IconFacts(Struct, frozen=True):
    """The icon of the system launch screen: side of the drawable and diameter of the mask, in dp."""

    side: float
    mask: float


class ImprintFacts(Struct, frozen=True):
    """The image at the foot of the system launch screen, and its distance from the foot, in dp.

    `low`: how much of its height, from below, is free on a phone in landscape.
    """

    width: float
    height: float
    foot: float
    low: float


class Levels(Struct, frozen=True):
    """API levels."""

    webp: int
    lowest: int
    sized_layers: int
    scale_level: int
    vector_gradients: int
    themed_gradients: int
    system_launch_screen: int


class LibraryFacts(Struct, frozen=True):
    """The compatibility library, and the API levels that it asks for."""

    group: str
    name: str
    version: str
    min_sdk: int
    compile_sdk: int

    @property
    def module(self) -> str:
        """Its coordinates without the version."""
        return f"{self.group}:{self.name}"


class MotionFacts(Struct, frozen=True):
    """Times in milliseconds; `largest`: the bytes of an animated vector that is still played quickly."""

    longest_ms: int
    largest: int
    default_ms: int
    named_ms: dict[str, int]


class VectorFacts(Struct, frozen=True):
    """The largest file, in bytes, that is still drawn quickly."""

    largest: int


class ScreenClass(Struct, frozen=True):
    """A class of screens by size, and the shortest sides that it asks for, in dp."""

    name: str
    longer: int
    shorter: int


class BackdropFacts(Struct, frozen=True):
    """A canvas for a class of screens (dp), the finest density made for it (dpi), and the smallest screen of the class (dp)."""

    qualifiers: str
    width: float
    height: float
    finest: int
    smallest_width: float
    smallest_height: float


class DeviceFacts(Struct, frozen=True):
    """A kind of device that is not a phone or tablet: the feature that its apps ask for, and the diameter of a mark on it, None as elsewhere."""

    feature: str
    mark: float | None = None


class AndroidFacts(Struct, frozen=True):
    """All of `facts.toml`.

    `densities` maps a qualifier to dots per inch; 160 dpi is 1 px per dp. `attributes` maps an `android:` attribute to the API level
    that brought it.
    """

    qualifiers: dict[str, str]
    screen_classes: tuple[ScreenClass, ...]
    densities: dict[str, int]
    named_densities: dict[str, int]
    optional_densities: dict[str, int]
    icon: IconFacts
    icon_on_disc: IconFacts
    imprint: ImprintFacts
    devices: dict[str, DeviceFacts]
    levels: Levels
    attributes: dict[str, int]
    library: LibraryFacts
    motion: MotionFacts
    vector: VectorFacts
    backdrops: tuple[BackdropFacts, ...]
    screens: tuple[ScreenFacts, ...]

    def geometry(self, *, has_disc: bool, device: str = "") -> IconFacts:
        """Return the icon with a disc behind it, or without, and the circle that its mark has on a kind of device ("": phones and tablets)."""
        icon = self.icon_on_disc if has_disc else self.icon
        most = self.devices[device].mark if device else None
        return icon if most is None else IconFacts(icon.side, min(icon.mask, most))


@cache
def android_facts() -> AndroidFacts:
    """Return the facts, read once."""
    return load_facts(__package__, AndroidFacts)


def masks(*, has_disc: bool) -> tuple[float, ...]:
    """Return the diameters of the circles that the system cuts icons with, with a disc behind them or without."""
    return (android_facts().geometry(has_disc=has_disc).mask,)


def screens() -> tuple[Screen, ...]:
    """Return the screens of phones and tablets that a proof shows."""
    return tuple(screen.for_target("android") for screen in android_facts().screens if screen.proved)


def every_screen(device: str = "") -> tuple[Screen, ...]:
    """Return all screens of a kind of device that are known ("": phones and tablets)."""
    known = (screen.for_target("android") for screen in android_facts().screens)
    return tuple(screen for screen in known if device_of(screen) == device)


def device_of(screen: Screen) -> str:
    """Return the kind of device that a screen belongs to; "" for phones and tablets."""
    return screen.variant.partition(" ")[0]
