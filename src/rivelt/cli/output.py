"""Everything that is printed: text for people, plain text in a pipe, JSON for machines. The one place that prints."""

from __future__ import annotations

import json
import sys
import textwrap
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, TextIO

from rivelt.errors import Refused, RiveltError
from rivelt.findings import Finding

if TYPE_CHECKING:
    from rich.console import Console

    from rivelt.progress import Progress

ACCENT = "dark_orange3"
_LINE = 96
_LONGEST = 1000  # of a message: longer ones quote what nobody reads


@dataclass
class Settings:
    """How the running command was asked to speak; set by the shared options."""

    is_quiet: bool = False
    is_json: bool = False
    is_debug: bool = False


settings = Settings()


def begin() -> None:
    """Forget how an earlier command of this process was asked to speak."""
    settings.is_quiet = settings.is_json = settings.is_debug = False


@contextmanager
def only_for_people() -> Iterator[None]:
    """Within it nothing is printed for machines; under --json, nothing at all. For commands made of other commands."""
    was_quiet, was_json = settings.is_quiet, settings.is_json
    settings.is_quiet, settings.is_json = was_quiet or was_json, False
    try:
        yield
    finally:
        settings.is_quiet, settings.is_json = was_quiet, was_json


def say(text: str = "", style: str | None = None) -> None:
    """A line for people; nothing under --quiet and --json."""
    if not (settings.is_quiet or settings.is_json):
        _write(sys.stdout, _clipped(text), style)


def weight_in_words(size: int) -> str:
    """Bytes for people: "12.3 kB", "4.1 MB"."""
    return f"{size / 1e6:.1f} MB" if size >= 1e6 else f"{size / 1e3:.1f} kB"


def flush() -> None:
    """Let a reader see what has been printed, before a long wait."""
    sys.stdout.flush()


def heading(text: str) -> None:
    """A line that begins a part of the report."""
    say(text, "bold")


def hint(text: str) -> None:
    """The next sensible command, as the last line."""
    say(text, ACCENT)


def table(headers: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
    """Rows under headers: a quiet table on a terminal, aligned columns in a pipe."""
    if settings.is_quiet or settings.is_json:
        return
    rows = [[_clipped(cell) for cell in row] for row in rows]
    if sys.stdout.isatty():
        from rich.box import SIMPLE_HEAD
        from rich.table import Table

        shown = Table(box=SIMPLE_HEAD, header_style="dim", pad_edge=False, show_edge=False)
        for header in headers:
            shown.add_column(header, overflow="fold")
        for row in rows:
            shown.add_row(*row)
        _console(sys.stdout).print(shown)
        return
    widths = [max(len(row[column]) for row in (headers, *rows)) for column in range(len(headers))]
    for row in (headers, *rows):
        _write(sys.stdout, "  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def pairs(values: Sequence[tuple[str, str]]) -> None:
    """Names and values, one to a line; a value of several lines stays in its column."""
    width = max((len(name) for name, _ in values), default=0)
    for name, value in values:
        for index, line in enumerate(value.split("\n")):
            say(f"  {'' if index else name:<{width}}  {line}")


def diff(text: str) -> None:
    """A unified diff, coloured on a terminal."""
    styles = {"+": "green", "-": "red", "@": "cyan"}
    for line in text.splitlines() if not (settings.is_quiet or settings.is_json) else ():
        _write(sys.stdout, line, styles.get(line[:1]) if not line.startswith(("+++", "---")) else "bold")


def machine(value: Any) -> None:
    """The result as JSON, under --json; the only thing then printed on stdout."""
    if settings.is_json:
        _write(sys.stdout, json.dumps(value, indent=2, ensure_ascii=False))


def document(value: Any) -> None:
    """A result that was asked for in a format of machines: JSON on stdout, whatever else is said."""
    _write(sys.stdout, json.dumps(value, indent=2, ensure_ascii=False))


def plain(text: str) -> None:
    """A result that was asked for in another format of machines."""
    _write(sys.stdout, text)


def paragraph(text: str) -> None:
    """A paragraph, broken into lines."""
    for line in textwrap.wrap(text, _LINE):
        say(f"  {line}")


def error(problem: RiveltError) -> None:
    """A problem on stderr, in at most three lines: what is wrong, where, what next."""
    for part in problem.parts:
        place = f"{part.place}: " if part.place else ""
        _write(sys.stderr, _clipped(f"{place}{part.message}"), "bold red", head="error: ")
        for step in part.trail:
            _write(sys.stderr, f"  in {step}")
        if part.hint:
            _write(sys.stderr, _clipped(f"  {part.hint}"))
        if isinstance(part, Refused) and part.details and not settings.is_quiet:
            for line in part.details.splitlines():
                _write(sys.stderr, _clipped(line))


def finding(found: Finding, excerpt: Sequence[str] = ()) -> None:
    """A finding for people: one line, the line of the file that it is about, and how to fix it."""
    styles = {"error": "bold red", "warning": "yellow", "note": None}
    place = f"{found.place}: " if found.place else ""
    if not (settings.is_quiet or settings.is_json):
        head = f"{found.severity} {found.code}: "
        _write(sys.stdout, _clipped(f"{place}{found.message}"), styles[found.severity], head=head)
    for line in excerpt:
        say(f"    {line}", "dim")
    if found.fix:
        say(f"  {found.fix}")


def findings(found: Sequence[Finding]) -> None:
    """Findings for people."""
    for one in found:
        finding(one)
    if found:
        say()


def warn(text: str) -> None:
    """A note on stderr that something needs a look."""
    if not settings.is_quiet:
        _write(sys.stderr, "\n".join(map(_clipped, text.split("\n"))), "yellow")


@contextmanager
def progress(label: str) -> Iterator[Progress]:
    """A progress bar on stderr while long work goes on; nothing where nobody watches."""
    if not sys.stderr.isatty() or settings.is_quiet or settings.is_json:
        yield lambda _done, _total: None
        return
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

    columns = (TextColumn(label), BarColumn(complete_style=ACCENT, finished_style=ACCENT), MofNCompleteColumn())
    with Progress(*columns, console=_console(sys.stderr), transient=True) as bar:
        task = bar.add_task(label, total=None)
        yield lambda done, total: bar.update(task, completed=done, total=total)


def _clipped(line: str) -> str:
    """A line without the middle of what a stranger's file made far too long."""
    return line if len(line) <= _LONGEST else f"{line[: _LONGEST - 100]} ... {line[-90:]}"


def _console(stream: TextIO) -> Console:
    from rich.console import Console

    return Console(file=stream, highlight=False, markup=False, emoji=False)


def _write(stream: TextIO, text: str, style: str | None = None, *, head: str = "") -> None:
    """Write a line; the style is that of its head, or without one of all of it."""
    if style is not None and stream.isatty():
        from rich.text import Text

        line = Text(head + text)
        line.stylize(style, 0, len(head) or None)
        _console(stream).print(line, soft_wrap=True)
    else:
        stream.write(f"{head}{text}\n")
