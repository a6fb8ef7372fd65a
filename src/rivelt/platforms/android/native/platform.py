"""What the platform itself brings: its themes and colours, as its own framework gives them at each API level."""

from __future__ import annotations

from functools import cache
from typing import TypeAlias

from msgspec import Struct

from rivelt.platforms.facts import load_facts

Changes: TypeAlias = tuple[tuple[int, str | bool], ...]
"""From which levels on a value is what."""


class PlatformTable(Struct, frozen=True):
    """All of `platform.json`: how it was made, the items of themes by their names, and colours."""

    about: str
    themes: dict[str, dict[str, Changes]]
    colours: dict[str, Changes]


@cache
def platform_table() -> PlatformTable:
    """Return the table, read once."""
    return load_facts("rivelt.platforms.android", PlatformTable, "platform.json")


def platform_theme(name: str, level: int) -> dict[str, str]:
    """Return the items of a platform theme at an API level ("android:windowBackground" -> "#FFFAFAFA").

    Empty for a theme that is not the platform's, or whose look each device maker decides. An item whose value is not a plain colour is
    left out.
    """
    items = platform_table().themes.get(name.removeprefix("android:"), {})
    found = {f"android:{item}": _at(changes, level) for item, changes in items.items()}
    return {
        item: str(value).lower() if isinstance(value, bool) else value for item, value in found.items() if value != ""
    }


def platform_colour(name: str, level: int) -> str | None:
    """Return `@android:color/NAME` at an API level as "#AARRGGBB"; None where it has no fixed value."""
    value = _at(platform_table().colours.get(name, ()), level)
    return value if isinstance(value, str) and value else None


def _at(changes: Changes, level: int) -> str | bool:
    """The value at a level; below the lowest that is known, that of the lowest."""
    value: str | bool = changes[0][1] if changes else ""
    for since, changed in changes:
        if since <= level:
            value = changed
    return value
