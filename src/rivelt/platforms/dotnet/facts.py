"""Numbers and names of .NET single projects as a value."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from rivelt.platforms.facts import load_facts


class DotnetFacts(Struct, frozen=True):
    """All of `facts.toml`."""

    item: str
    folder: str
    launch_theme: str
    framework_drawable: str
    framework_colour: str
    lowest_android: int
    compile_sdk: dict[str, int]


@cache
def dotnet_facts() -> DotnetFacts:
    """Return the facts, read once."""
    return load_facts(__package__, DotnetFacts)
