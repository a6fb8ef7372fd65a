"""What rules of every platform are made of: the subject they look at, and what they say of it.

A rule's words (its title, severity and explanation) stand in `rivelt/check/catalogue`; here it is only a code and a function.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import TypeAlias

from rivelt.brief.model import Brief
from rivelt.errors import Place
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot


@dataclass(frozen=True)
class Subject:
    """What a rule looks at: one site of a project, as it is or as it would be; and the brief, if there is one."""

    snapshot: Snapshot
    site: Site
    brief: Brief | None = None


@dataclass(frozen=True)
class Fault:
    """Something that breaks a rule: what is wrong, how to mend it, where."""

    message: str
    hint: str = ""
    place: Place | None = None


@dataclass(frozen=True)
class Untold:
    """Why it cannot be told whether a rule holds."""

    reason: str


Said: TypeAlias = Fault | Untold
Check: TypeAlias = Callable[[Subject], Iterable[Said]]


@dataclass
class Rulebook:
    """The checks of one module or platform, by code. A check that says nothing holds."""

    checks: dict[str, Check] = field(default_factory=dict)

    def rule(self, code: str) -> Callable[[Check], Check]:
        """Register a check."""

        def register(check: Check) -> Check:
            self.checks[code] = check
            return check

        return register

    def including(self, *others: Rulebook) -> Mapping[str, Check]:
        """The checks of this book and of others, sorted by code."""
        books = (self, *others)
        return dict(sorted((code, check) for book in books for code, check in book.checks.items()))


def line_of(data: bytes, position: int) -> int:
    """The line, from 1, of a position in a file."""
    return data.count(b"\n", 0, position) + 1


def place_at(path: str, data: bytes, position: int) -> Place:
    """The place of a position in a file."""
    return Place(path, line_of(data, position), position - (data.rfind(b"\n", 0, position) + 1) + 1)


def once(said: Iterable[Said]) -> Iterator[Said]:
    """The same thing only once: several screens often say the same."""
    yield from dict.fromkeys(said)
