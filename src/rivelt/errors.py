"""What can go wrong, as values: a message, its place, the next step, and the exit code it leads to.

This module imports nothing of Rivelt. Nothing here prints; `rivelt.cli.main` is the one place that catches.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum


class ExitCode(IntEnum):
    """How a `rivelt` command ends, for shells and CI."""

    OK = 0
    """Done, and clean."""
    FINDINGS = 1
    """Done, with findings or differences."""
    BAD_INPUT = 2
    """Bad input or usage; nothing was changed."""
    REFUSED = 3
    """Refused, because going on would lose somebody's work or break the app."""
    INTERNAL = 70
    """A bug of Rivelt's."""
    INTERRUPTED = 130
    """Stopped by the person (Ctrl-C)."""


def column(data: bytes, start: int, offset: int) -> int:
    """Return the 1-based column of a byte offset in the line that begins at another: in characters, without a byte order mark."""
    return len(data[start:offset].decode("utf-8", "surrogateescape").removeprefix("\ufeff")) + 1


@dataclass(frozen=True, order=True)
class Place:
    """A spot in a file: `path`, and 1-based `line` and `column` (in characters) when they are known."""

    path: str
    line: int | None = None
    column: int | None = None

    @classmethod
    def at(cls, path: str, data: bytes, offset: int) -> Place:
        """Return the place of a byte offset in the content of a file; bytes that are not UTF-8 count as characters."""
        return cls(path, data.count(b"\n", 0, offset) + 1, column(data, data.rfind(b"\n", 0, offset) + 1, offset))

    def __str__(self) -> str:
        return ":".join(str(part) for part in (self.path, self.line, self.column) if part is not None)


class RiveltError(Exception):
    """An error a person can act on.

    Args:
        message: what is wrong, one sentence without a full stop at its end being required.
        place: where, or None when no file is to blame.
        hint: what to do next.
        trail: what led here, outermost first (brief key, target, native file).
    """

    exit_code = ExitCode.BAD_INPUT

    def __init__(
        self, message: str, *, place: Place | None = None, hint: str | None = None, trail: tuple[str, ...] = ()
    ) -> None:
        super().__init__(message)
        self.message = message
        self.place = place
        self.hint = hint
        self.trail = trail

    def at(self, place: Place | None) -> RiveltError:
        """Give the error a place, unless it has one already; returns itself, to be raised."""
        self.place = self.place or place
        return self

    @property
    def parts(self) -> tuple[RiveltError, ...]:
        """The single errors this one is made of: itself, or its problems."""
        return (self,)

    def to_dict(self) -> dict[str, object]:
        """Return the error as plain data: message, place, hint and trail; `errors` holds its parts where there are several."""
        place = self.place or Place("")
        found: dict[str, object] = {
            "message": self.message,
            "path": place.path or None,
            "line": place.line,
            "column": place.column,
            "hint": self.hint,
            "trail": list(self.trail),
            "details": getattr(self, "details", ""),
        }
        return {**found, "errors": [part.to_dict() for part in self.parts]} if len(self.parts) > 1 else found


class BadInput(RiveltError):
    """Something given to Rivelt (an option, the brief, the art, a project file) cannot be used."""


class Refused(RiveltError):
    """Going on would lose somebody's work, or break the app.

    `details` holds longer evidence, such as a diff, to be shown after the message.
    """

    exit_code = ExitCode.REFUSED

    def __init__(self, message: str, *, place: Place | None = None, hint: str | None = None, details: str = "") -> None:
        super().__init__(message, place=place, hint=hint)
        self.details = details


class Stopped(RiveltError):
    """The person stopped it (Ctrl-C), and what is done stays."""

    exit_code = ExitCode.INTERRUPTED


class Problems(BadInput):
    """Several problems of one input, reported together so that they can be fixed together."""

    def __init__(self, problems: tuple[RiveltError, ...]) -> None:
        super().__init__("; ".join(problem.message for problem in problems))
        self.problems = problems

    @property
    def parts(self) -> tuple[RiveltError, ...]:
        """The single problems, in the order they were found."""
        return tuple(part for problem in self.problems for part in problem.parts)


def raise_all(problems: list[RiveltError]) -> None:
    """Raise nothing for no problem, the problem itself for one, `Problems` for several."""
    if len(problems) == 1:
        raise problems[0]
    if problems:
        raise Problems(tuple(problems))
