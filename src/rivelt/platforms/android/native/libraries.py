"""What the themes of Google's libraries set of a launch screen: `libraries.toml` as values."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

from msgspec import Struct

from rivelt.patterns import regex
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.facts import load_facts

_BASE = regex(r"^(?:Base|Platform)\.(?:V\d+\.)?(?:Theme\.)?")
_OTHER_WINDOW = regex(r"\.(?:Dialog|BottomSheetDialog|Bridge)\b")
_VERSION = regex(r"\d+")
_LONGEST_CHAIN = 10


class Style(Struct, frozen=True):
    """A style of the compatibility library. `since`: the API level from which it counts."""

    name: str
    since: int
    parent: str
    items: dict[str, str]


class Family(Struct, frozen=True):
    """Themes of one library with one window colour in each look, "#AARRGGBB" or "" for unknown. `before`: a version of the library."""

    name: str
    library: str
    light: str
    dark: str
    before: str = ""


class LibraryTable(Struct, frozen=True):
    """All of `libraries.toml`."""

    styles: tuple[Style, ...]
    families: tuple[Family, ...]


@cache
def library_table() -> LibraryTable:
    """Return the table, read once."""
    return load_facts("rivelt.platforms.android", LibraryTable, "libraries.toml")


def compatibility_style(name: str, level: int) -> tuple[dict[str, str], str] | None:
    """Return the items of a style of the compatibility library at an API level, and what its parents lead to; None for any other."""
    items: dict[str, str] = {}
    wanted = name
    for _ in range(_LONGEST_CHAIN):
        named = [style for style in library_table().styles if style.name == wanted and style.since <= level]
        best = max(named, key=lambda style: style.since, default=None)
        if best is None:
            break
        items = {**best.items, **items}
        wanted = best.parent
    return (items, wanted) if items else None


def family_items(theme: str, device: Device, versions: Mapping[str, str]) -> dict[str, str] | None:
    """Return what a theme of a known library sets of a launch screen on a device; None for a theme of no known library.

    Empty where its window is not known: its library's version decides and the project does not say it, or the window is a dialog's.

    Args:
        theme: its name, such as `Theme.AppCompat.Light.NoActionBar`.
        device: the device.
        versions: the versions of the project's libraries, by "group:name".
    """
    named = _families(theme)
    if not named:
        return None
    longest = max(len(one.name) for one in named)
    fitting = [one for one in named if len(one.name) == longest]
    grounds = {one.dark if device.is_night else one.light for one in fitting if _is_of(one, fitting, versions)}
    if len(grounds) != 1 or "" in grounds or _OTHER_WINDOW.search(theme):
        return {}
    ground = grounds.pop()
    return {"android:colorBackground": ground, "android:windowBackground": ground}


def is_of_family(theme: str) -> bool:
    """Return whether a theme is one of a known library's by its name."""
    return bool(_families(theme)) or any(style.name == theme for style in library_table().styles)


def _families(theme: str) -> list[Family]:
    plain = _BASE.sub("Theme.", theme)
    return [one for one in library_table().families if plain == one.name or plain.startswith(f"{one.name}.")]


def _is_of(family: Family, siblings: list[Family], versions: Mapping[str, str]) -> bool:
    """Whether a family is that of the library's version, as far as that is known."""
    version = versions.get(family.library)
    if version is None:
        return True
    if family.before:
        return _numbers(version) < _numbers(family.before)
    return not any(one.before and _numbers(version) < _numbers(one.before) for one in siblings)


def _numbers(version: str) -> tuple[int, ...]:
    return tuple(int(number) for number in _VERSION.findall(version.partition("-")[0]))
