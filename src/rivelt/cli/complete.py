"""Values that a shell completes: rules, targets, screens, editions, and how many applies can be taken back.

A completion must never fail or print: what cannot be read offers nothing.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import TypeAlias

_WIDTH = 60  # of an explanation: a longer one would be broken into lines
Offer: TypeAlias = tuple[str, str]
"""A value, and what it means."""


class Value(str):
    """A value that has been chosen already: the library drops those that do not begin, letter for letter, as a person has begun to write."""

    __slots__ = ()

    def startswith(self, *_begun: object) -> bool:
        """Return True."""
        return True


def _safely(find: Callable[[], Iterable[Offer]]) -> Callable[[str], list[Offer]]:
    """What offers those values that begin as a person has begun to write, in capitals or not."""

    def offered(incomplete: str) -> list[Offer]:
        begun = incomplete.lower()
        try:
            return [(Value(_written(value)), _short(text)) for value, text in find() if value.lower().startswith(begun)]
        except Exception:  # noqa: BLE001  # whatever is wrong with the project is reported by the command itself
            return []

    return offered


def _written(value: str) -> str:
    """A value as it is to stand on the command line: bash takes it as it is, the other shells quote it themselves."""
    is_bash = os.environ.get("_RIVELT_COMPLETE") == "complete_bash"
    return re.sub(r"([^\w@%+=:,./-])", r"\\\1", value) if is_bash else value


def _short(text: str) -> str:
    return text if len(text) <= _WIDTH else f"{text[: _WIDTH - 3]}..."


def _codes() -> Iterator[Offer]:
    from rivelt.platforms.rulebooks import catalogue

    yield from ((rule.code, rule.words.title) for rule in catalogue().values())


def _chosen_codes() -> Iterator[Offer]:
    from rivelt.platforms.rulebooks import catalogue

    families = dict.fromkeys(code[:3] for code in catalogue())
    yield from ((family, f"all rules that begin with {family}") for family in families)
    yield from _codes()


def _targets() -> Iterator[Offer]:
    from rivelt.platforms import TARGETS, platform

    yield from ((target, platform(target).title) for target in TARGETS)


def _screens() -> Iterator[Offer]:
    from rivelt.platforms import TARGETS, platform

    yield from (("phones", "all phones"), ("tablets", "all tablets"))
    found: dict[str, str] = {}
    for target in TARGETS:
        for screen in platform(target).every_screen():
            found.setdefault(screen.system, platform(target).title)
            found.update((model, platform(target).title) for model in screen.models)
    yield from found.items()


def _editions() -> Iterator[Offer]:
    from rivelt.brief.find import find_brief
    from rivelt.brief.model import THE_BRIEF
    from rivelt.disk.tree import read_file
    from rivelt.edit.toml import read_toml

    brief = find_brief(Path())
    if brief is None:
        return
    yield THE_BRIEF, "the brief itself"
    yield from ((name, f"an edition of {brief.name}") for name in read_toml(read_file(brief), brief.name)["edition"])


def _applies() -> Iterator[Offer]:
    from rivelt.workspace.history import applied_project, applies

    for index, one in enumerate(applies(applied_project(Path())), start=1):
        yield str(index), f"{one.item.when}: {one.created} created, {one.edited} edited, {one.removed} removed"


CODES, CHOSEN_CODES = _safely(_codes), _safely(_chosen_codes)
TARGETS, SCREENS, EDITIONS, APPLIES = _safely(_targets), _safely(_screens), _safely(_editions), _safely(_applies)


def WISHES(incomplete: str) -> list[Offer]:  # noqa: N802 as the others are called
    """Return what a fleet can make, after what is chosen already."""
    from rivelt.fleet.run import WISHES as KNOWN

    head, comma, _ = incomplete.rpartition(",")
    chosen = head.split(",")
    return _safely(lambda: ((f"{head}{comma}{wish}", "") for wish in KNOWN if wish not in chosen))(incomplete)
