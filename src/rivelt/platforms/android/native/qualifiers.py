"""Qualifiers of resource folders: which ones fit a device, and which of those fits best.

Rules: frameworks/base, libs/androidfw/ResourceTypes.cpp, `ResTable_config::match` and `::isBetterThan`; Configuration.java,
`reduceScreenLayout`. That comparison looks at one kind of qualifier after the other, so that it is the order of tuples.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

from msgspec import Struct

from rivelt.platforms.android.facts import BASE_DPI, android_facts

SIZES = ("small", "normal", "large", "xlarge")
_RIGHT_TO_LEFT = {"ar", "dv", "fa", "ha-arab", "he", "iw", "ks", "ku-arab", "ps", "sd", "ug", "ur", "yi", "ji"}
_OLD_CODES = {"iw": "he", "in": "id", "ji": "yi", "tl": "fil"}
_KEYBOARDS = {"keyssoft": 2, "keysexposed": 1, "keyshidden": 0}
"""A phone's keyboard is on its screen: "keyssoft" says so, "keysexposed" is taken for it, "keyshidden" is another."""


class Device(Struct, frozen=True, dict=True):
    """The configuration that resources are chosen for. Sizes in dp as the device is held; `density` in dpi.

    `locale`: as in "ar-EG"; without one no folder of a language fits. `mode`: "" for phones and tablets, else as in a folder's name.
    """

    version: int
    is_night: bool
    density: int
    width: float
    height: float
    locale: str = ""
    mode: str = ""
    is_round: bool = False

    @cached_property
    def size(self) -> str:
        """The class of the screen's size."""
        longer, shorter = max(self.width, self.height), min(self.width, self.height)
        classes = android_facts().screen_classes
        fitting = [one.name for one in classes if longer >= one.longer and shorter >= one.shorter]
        return fitting[-1]

    @cached_property
    def is_long(self) -> bool:
        """Whether the screen counts as long: more than 5 to 3."""
        longer, shorter = int(max(self.width, self.height)), int(min(self.width, self.height))
        return self.size != "small" and longer * 3 // 5 >= shorter - 1

    @property
    def is_right_to_left(self) -> bool:
        """Whether its language is written from right to left."""
        parts = self.locale.lower().split("-")
        return parts[0] in _RIGHT_TO_LEFT or "-".join(parts[:2]) in _RIGHT_TO_LEFT


class Qualifier(NamedTuple):
    """One qualifier of a folder name: its kind (a key of `qualifiers` in `facts.toml`), and its value."""

    kind: str
    value: str | int


VERSION, NIGHT, DENSITY = "version", "night", "density"
"""The kinds of qualifiers that others ask for."""


def parse_qualifiers(text: str) -> tuple[Qualifier, ...] | None:
    """Return the qualifiers of a folder name after its type ("night-v31"); None when one is unknown or out of order: no build takes that."""
    if not text:
        return ()
    merged = re.sub(r"(?<![a-z])([a-z]{2,3})-r([A-Z]{2}|\d{3})(?=-|$)", r"\1+\2", text)  # a locale is one qualifier
    qualifiers = []
    later = iter(android_facts().qualifiers.items())  # in Android's order: what was passed over does not come again
    for part in merged.split("-"):
        for kind, pattern in later:
            if found := re.fullmatch(pattern, part):
                number = next((group for group in found.groups() if group), None) if found.re.groups else None
                qualifiers.append(Qualifier(kind, int(number) if number else part))
                break
        else:
            return None
    return tuple(qualifiers)


def density_of(qualifiers: Sequence[Qualifier]) -> int | None:
    """Return the dpi that a folder is for: None for nodpi and anydpi, 160 when the folder does not say."""
    value = next((str(value) for kind, value in qualifiers if kind == DENSITY), "mdpi")
    facts = android_facts()
    named = facts.densities | facts.optional_densities | facts.named_densities
    return named.get(value) or (int(value[:-3]) if value[:-3].isdigit() else None)


class Rank(NamedTuple):
    """How well a folder fits a device, by what comes before the density, by the density (dpi), and by what comes after it."""

    before: tuple[float, ...]
    density: int
    after: tuple[float, ...]

    def is_better_than(self, other: Rank, device: Device) -> bool:
        """Return whether a device takes this folder rather than the other one."""
        if self.before != other.before:
            return self.before > other.before
        if self.density != other.density:
            return _is_nearer(self.density, other.density, device.density)
        return self.after > other.after


def _is_nearer(one: int, other: int, wanted: int) -> bool:
    """Whether a device of `wanted` dpi takes a density rather than another one: to scale down is twice as good as to scale up."""
    if _ANY_DENSITY in {one, other}:
        return one == _ANY_DENSITY
    low, high = sorted((one, other))
    takes_low = low >= wanted or (wanted < high and (2 * low - wanted) * high > wanted * wanted)
    return one == (low if takes_low else high)


def fits(qualifiers: Sequence[Qualifier], device: Device) -> bool:
    """Return whether a device takes a folder where there is no better one."""
    return all(_fits(kind, value, device) for kind, value in qualifiers)


_RANKED_WHEN_ABSENT = frozenset({"width", "height", "size", "density", "language"})
"""Kinds of qualifiers that affect the rank of a folder even when it does not name them."""


def rank(qualifiers: Sequence[Qualifier], device: Device) -> Rank:
    """Return how well a folder that fits a device does."""
    values = dict(qualifiers)
    before: list[float] = []
    ranks = before
    density = BASE_DPI
    for kind in android_facts().qualifiers:
        value = values.get(kind)
        if value is None and kind not in _RANKED_WHEN_ABSENT:
            ranks.append(0)
            continue
        match kind:
            case "width":  # both together: the folder whose sizes come nearest
                ranks.append(_number(value) + _number(values.get("height")))
            case "height":
                continue
            case "size":
                ranks += _size_rank(value, device)
            case "density":
                density = _ANY_DENSITY if value == "anydpi" else density_of(qualifiers) or _NO_DENSITY
                ranks = [
                    float((value is not None) == (device.density >= BASE_DPI))
                ]  # mdpi, where nothing means mdpi too
            case "language":
                ranks.append(_language_rank(value, device))
            case "keyboard":
                ranks.append(_KEYBOARDS[str(value)])
            case _:
                ranks.append(value if isinstance(value, int) else 1)
    language = values.get("language")
    ranks.append(
        0 if language is None else -1 - bool(_locale(language)[2])
    )  # of equals, one that is for no other region
    return Rank(tuple(before), density, tuple(ranks))


def _number(value: str | int | None) -> int:
    return value if isinstance(value, int) else 0


def _fits(kind: str, value: str | int, device: Device) -> bool:
    """Whether a qualifier does not contradict a device: a phone with a touch screen, without keys, operator or gender."""
    match kind:
        case "smallest_width":
            return _number(value) <= min(device.width, device.height)
        case "width":
            return _number(value) <= device.width
        case "height":
            return _number(value) <= device.height
        case "version":
            return _number(value) <= device.version
        case "density":
            return True
        case "language":
            return bool(device.locale) and _locale(value)[:2] == _locale(device.locale)[:2]
        case "size":
            return SIZES.index(str(value)) <= SIZES.index(device.size)
        case "keyboard":
            return value != "keyshidden"
    has = {
        "direction": "ldrtl" if device.is_right_to_left else "ldltr",
        "aspect": "long" if device.is_long else "notlong",
        "shape": "round" if device.is_round else "notround",
        "gamut": "nowidecg",
        "range": "lowdr",
        "orientation": "port" if device.width <= device.height else "land",
        "mode": device.mode,
        "night": "night" if device.is_night else "notnight",
        "touch": "finger",
        "keys": "nokeys",
        "navigation": "navhidden",
        "navigator": "nonav",
    }
    return has.get(kind) == value


def _size_rank(value: str | int | None, device: Device) -> tuple[float, float]:
    """A folder without a size counts as normal, though one that says so is better; on a small screen as nothing."""
    least = SIZES.index("normal") if device.size != "small" else -1
    return (SIZES.index(str(value)) if value else least, float(value is not None))


_NO_DENSITY, _ANY_DENSITY = 0xFFFF, 0xFFFE  # ResTable_config: DENSITY_NONE is compared as the highest of all


def _language_rank(value: str | int | None, device: Device) -> float:
    """The better its region fits, the higher; what names none is for the English of the United States.

    Which regions stand for others (es-MX for es-419) is left out: all but the device's own are alike.
    """
    if value is None or not device.locale:
        return 0
    asked, given = _locale(device.locale), _locale(value)
    if asked[2] == given[2]:
        return 2
    return 0 if given[2] and (asked[0], asked[2]) == ("en", "US") else 1


def _locale(text: str | int) -> tuple[str, str, str]:
    """The language, script and region of "zh-TW", "zh+TW" or "b+zh+Hant+TW"."""
    language, *rest = str(text).removeprefix("b+").replace("-", "+").split("+")
    language = _OLD_CODES.get(language.lower(), language.lower())
    script = next((part.title() for part in rest if len(part) == 4 and part.isalpha()), "")
    region = next((part.upper() for part in rest if len(part) in {2, 3} and part != script), "")
    if language == "zh" and not script:
        script = "Hant" if region in {"TW", "HK", "MO"} else "Hans"
    return language, script, region
