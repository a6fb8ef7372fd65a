"""Everything that is printed: text for people, plain text in a pipe, JSON for machines. The one place that prints.

Foreign text is shown, never obeyed: see `rivelt.shown`. Printing never fails: where nobody can be reached, nothing more is printed there, and the
work continues.
"""

from __future__ import annotations

import os
import shlex
import shutil
import sys
import textwrap
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from rivelt.cli import layout
from rivelt.errors import BadInput, Place, Refused, RiveltError
from rivelt.shown import harmless, in_json, shown

if TYPE_CHECKING:
    from rich.console import Console

    from rivelt.documents.base import Document
    from rivelt.findings import Finding
    from rivelt.progress import Progress

ACCENT = "dark_orange3"
_LINE = 96
_LONGEST = 1000  # of a message: longer ones quote what nobody reads


@dataclass
class Settings:
    """How the running command was asked to speak; set by the shared options. `root`: the project that paths are relative to."""

    is_quiet: bool = False
    is_json: bool = False
    is_debug: bool = False
    is_verbose: bool = False
    root: Path | None = None


settings = Settings()


class Stream:
    """Where text goes: standard output or error, as long as anybody can be reached there."""

    def __init__(self, name: Literal["stdout", "stderr"]) -> None:
        self._name = name
        self.lost: str | None = None

    def write(self, text: str) -> int:
        """Write text; what cannot be written is dropped."""
        if (stream := getattr(sys, self._name)) is not None and self.lost is None:
            try:
                stream.write(text)
            except UnicodeEncodeError:
                encoding = stream.encoding or "ascii"
                self.write(text.encode(encoding, "backslashreplace").decode(encoding))
            except (OSError, ValueError) as error:
                self._lose(error)
        return len(text)

    def write_bytes(self, data: bytes) -> None:
        """Write bytes as they are; what cannot be written is dropped."""
        if (stream := getattr(sys, self._name)) is not None and self.lost is None:
            try:
                stream.flush()
                stream.buffer.write(data)
                stream.buffer.flush()
            except (OSError, ValueError) as error:
                self._lose(error)

    def flush(self) -> None:
        """Let a reader see what has been written."""
        if (stream := getattr(sys, self._name)) is not None and self.lost is None:
            try:
                stream.flush()
            except (OSError, ValueError) as error:
                self._lose(error)

    def isatty(self) -> bool:
        """Return whether a person reads it on a terminal."""
        stream = getattr(sys, self._name)
        try:
            return stream is not None and stream.isatty()
        except (OSError, ValueError):
            return False

    @property
    def width(self) -> int | None:
        """How many characters a line of the terminal has; None where it is none."""
        return max(shutil.get_terminal_size().columns, 20) if self.isatty() else None

    @property
    def is_coloured(self) -> bool:
        """Whether text is styled: on a terminal, or where FORCE_COLOR asks for it; see force-color.org. NO_COLOR takes the colours away."""
        return self.isatty() or bool(os.environ.get("FORCE_COLOR"))

    @property
    def encoding(self) -> str:
        """The encoding in which text goes out."""
        return getattr(getattr(sys, self._name), "encoding", None) or "utf-8"

    def fileno(self) -> int:
        """Return the descriptor."""
        return int(getattr(sys, self._name).fileno())

    def _lose(self, error: Exception) -> None:
        """Nobody can be reached any more; the interpreter's own last attempt to write must not fail either."""
        self.lost = "" if isinstance(error, BrokenPipeError) else getattr(error, "strerror", None) or str(error)
        try:
            os.dup2(os.open(os.devnull, os.O_WRONLY), getattr(sys, self._name).fileno())
        except (OSError, ValueError):  # it has no descriptor, or none is to be had
            setattr(sys, self._name, None)


STDOUT, STDERR = Stream("stdout"), Stream("stderr")


def begin() -> None:
    """Forget how an earlier command of this process was asked to speak."""
    settings.is_quiet = settings.is_json = settings.is_debug = settings.is_verbose = False
    settings.root = None
    STDOUT.lost = STDERR.lost = None


def end() -> None:
    """Let everything out; where that fails for another reason than a reader who has had enough, say so where it still can be said."""
    STDOUT.flush()
    if STDOUT.lost:
        error(RiveltError(f"what was to be printed could not be written: {STDOUT.lost}"))
    STDERR.flush()


def at(root: Path) -> None:
    """Take paths that are printed from now on as relative to a project's folder."""
    settings.root = root


def path(name: str) -> str:
    """Return a path of the project as it is from the current folder; one that is not in the project stays as it is."""
    root, here = settings.root, Path.cwd()
    if root is None or root == here or Path(name).is_absolute() or not os.path.lexists(root / name):
        return name
    is_here = os.path.lexists(here / name) and name.endswith(".toml")  # a brief is named as it is from here
    return name if is_here else Path(os.path.relpath(root / name, here)).as_posix()


def of_project(name: str) -> str:
    """Return a path that is relative to the project, whether it exists or not, as it is from the current folder."""
    root, here = settings.root, Path.cwd()
    return name if root is None or root == here else Path(os.path.relpath(root / name, here)).as_posix()


def shown_file(file: Path) -> str:
    """Return the path of a file as it is from the current folder, where it is in it; else as it is."""
    here = Path.cwd()
    return file.relative_to(here).as_posix() if file.is_absolute() and file.is_relative_to(here) else str(file)


def place(where: Place | None) -> str:
    """Return a place as it is from the current folder, with a colon; "" for none."""
    return f"{Place(path(where.path), where.line, where.column)}: " if where is not None else ""


def say(text: str = "", style: str | None = None, *, is_verbatim: bool = False) -> None:
    """Print a line for people; nothing under --quiet and --json. `is_verbatim`: it is to be copied, and so not broken into lines."""
    if not (settings.is_quiet or settings.is_json):
        _write(STDOUT, _clipped(text), style, is_verbatim=is_verbatim)


def weight_in_words(size: int) -> str:
    """Return a number of bytes for people: "12.3 kB", "4.1 MB"."""
    return f"{size / 1e6:.1f} MB" if size >= 1e6 else f"{size / 1e3:.1f} kB"


def flush() -> None:
    """Let a reader see what has been printed, before a long wait."""
    STDOUT.flush()


def heading(text: str) -> None:
    """Print a line that begins a part of the report."""
    say(text, "bold")


def hint(text: str) -> None:
    """Print the next sensible command, as the last line."""
    say(text, ACCENT)


def next_step(name: str, *options: str, given: Iterable[Path | None] = ()) -> None:
    """Print the next sensible command, as it works from where the person stands: on what this command was given."""
    words = ["rivelt", name, *(str(path) for path in given if path is not None and path != Path()), *options]
    hint(f"Next: {shlex.join(words)}")


def table(headers: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
    """Print rows under headers: a quiet table on a terminal, aligned columns in a pipe."""
    if settings.is_quiet or settings.is_json:
        return
    rows = [[_clipped(shown(cell)) for cell in row] for row in rows]
    if (wide := STDOUT.width) is not None:
        for line, is_header in layout.table(headers, rows, wide):
            _write(STDOUT, line, "dim" if is_header else None, is_verbatim=True)
        return
    widths = [max(len(row[column]) for row in (headers, *rows)) for column in range(len(headers))]
    for row in (headers, *rows):
        _write(STDOUT, "  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def pairs(values: Sequence[tuple[str, str]]) -> None:
    """Print names and values, one to a line; a value of several lines stays in its column."""
    for line in layout.pairs(values, STDOUT.width):
        say(line, is_verbatim=True)


def diff(text: str) -> None:
    """Print a unified diff, coloured on a terminal."""
    styles = {"+": "green", "-": "red", "@": "cyan"}
    for line in text.splitlines() if not (settings.is_quiet or settings.is_json) else ():
        style = styles.get(line[:1]) if not line.startswith(("+++", "---")) else "bold"
        _write(STDOUT, line, style, is_verbatim=True)


def machine(value: Document) -> None:
    """Print the result as JSON, under --json; the only thing then printed on stdout."""
    if settings.is_json:
        document(value.to_dict())


def is_stdout(out: Path) -> bool:
    """Return whether a name of a file stands for standard output; the command then prints nothing else there.

    Raises:
        BadInput: JSON is printed there already.
    """
    if str(out) != "-":
        return False
    if settings.is_json:
        raise BadInput(
            "--json and --out - both print on standard output", hint="Give one of them, or a file for --out."
        )
    settings.is_quiet = True
    return True


def binary(data: bytes) -> None:
    """Print a file on standard output.

    Raises:
        BadInput: that is a terminal, which would show the bytes of a picture as text.
    """
    if STDOUT.isatty():
        raise BadInput("a terminal cannot show this file", hint="Redirect it: rivelt ... --out - > FILE")
    STDOUT.write_bytes(data)


def document(value: Any) -> None:
    """Print a result that was asked for in a format of machines: JSON on stdout, whatever else is printed."""
    import json

    STDOUT.write(in_json(json.dumps(value, indent=2, ensure_ascii=False)) + "\n")


def plain(text: str) -> None:
    """Print a result that was asked for in another format of machines, of one or more lines."""
    for line in text.split("\n"):
        _write(STDOUT, line, is_verbatim=True)


def command(text: str) -> None:
    """Print a line that a CI service is to obey."""
    STDOUT.write(f"{shown(text)}\n")


def paragraph(text: str) -> None:
    """Print a paragraph, broken into lines."""
    for line in textwrap.wrap(text, min(_LINE, STDOUT.width or _LINE) - 2, break_long_words=False):
        say(f"  {line}")


def error(problem: RiveltError) -> None:
    """Print a problem on stderr, in at most three lines: what is wrong, where, what next."""
    for part in problem.parts:
        _write(STDERR, _clipped(f"{place(part.place)}{part.message}"), "bold red", head="error: ")
        for step in part.trail:
            _write(STDERR, f"  in {step}")
        if part.hint:
            _write(STDERR, _clipped(f"  {part.hint}"))
        if isinstance(part, Refused) and part.details and not settings.is_quiet:
            for line in part.details.splitlines():
                _write(STDERR, _clipped(line), is_verbatim=True)


def failure(problem: RiveltError, code: int) -> int:
    """Print a problem that ends the command, on stderr and, under --json, as the document on stdout; return the exit code.

    In the document, paths are those of the text: relative to the current folder.
    """
    error(problem)
    if settings.is_json:
        from rivelt.documents.base import ErrorDocument

        try:
            document(ErrorDocument.of(problem, code, str(Path.cwd()), path).to_dict())
        except FileNotFoundError:  # the current folder is gone
            document(ErrorDocument.of(problem, code, "").to_dict())
    return code


def finding(found: Finding, excerpt: Sequence[str] = ()) -> None:
    """Print a finding for people: one line, the line of the file that it is about, and how to fix it."""
    styles = {"error": "bold red", "warning": "yellow", "note": None}
    if not (settings.is_quiet or settings.is_json):
        head = f"{found.severity} {found.code}: "
        _write(STDOUT, _clipped(f"{place(found.place)}{found.message}"), styles[found.severity], head=head)
    for line in excerpt:
        say(f"    {line}", "dim", is_verbatim=True)
    if found.fix:
        say(f"  {found.fix}")


def findings(found: Sequence[Finding]) -> None:
    """Print findings for people."""
    for one in found:
        finding(one)
    if found:
        say()


def warn(*lines: str) -> None:
    """Print a note on stderr that something needs a look."""
    for line in lines if not settings.is_quiet else ():
        _write(STDERR, _clipped(line), "yellow")


@contextmanager
def progress(label: str, *, is_timed: bool = False) -> Iterator[Progress]:
    """Show a progress bar on stderr while long work continues; nothing in a pipe, in CI, or on a terminal that cannot move its cursor.

    `is_timed`: for very long work, with how much is done in a second and how much time is left.
    """
    is_watched = STDERR.isatty() and not os.environ.get("CI") and os.environ.get("TERM") != "dumb"
    if not is_watched or settings.is_quiet or settings.is_json:
        yield lambda _done, _total: None
        return
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

    bar_column = BarColumn(complete_style=ACCENT, finished_style=ACCENT)
    columns = [TextColumn(label), bar_column, MofNCompleteColumn()]
    if is_timed:
        columns += [TextColumn("{task.fields[speed]}"), TimeRemainingColumn(compact=True), TextColumn("left")]
    # Our streams look up `sys.stdout` and `sys.stderr` whenever they write: redirected ones would write to themselves without end.
    console = _console(STDERR)
    with Progress(*columns, console=console, transient=True, redirect_stdout=False, redirect_stderr=False) as bar:
        task = bar.add_task(label, total=None, speed="")

        def update(done: int, total: int) -> None:
            speed = next(one.speed for one in bar.tasks if one.id == task)
            bar.update(task, completed=done, total=total, speed=f"{speed:.1f} a second" if speed else "")

        yield update


def _clipped(line: str) -> str:
    """A line without the middle of what a stranger's file made far too long."""
    return line if len(line) <= _LONGEST else f"{line[: _LONGEST - 100]} ... {line[-90:]}"


def _console(stream: Stream) -> Console:
    from typing import IO, cast

    from rich.console import Console

    forced = True if stream.is_coloured else None
    return Console(file=cast("IO[str]", stream), force_terminal=forced, highlight=False, markup=False, emoji=False)


def _write(stream: Stream, text: str, style: str | None = None, *, head: str = "", is_verbatim: bool = False) -> None:
    """Write one line, whatever it holds; on a terminal it is broken between words. The style is that of its head, or without one of all."""
    whole = harmless(head + text)
    width = None if is_verbatim else stream.width
    for number, line in enumerate([whole] if width is None else layout.wrapped(whole, width)):
        end = len(head) or None
        if style is not None and stream.is_coloured and not (end and number):
            from rich.text import Text

            styled = Text(line)
            styled.stylize(style, 0, end)
            _console(stream).print(styled, soft_wrap=True)
        else:
            stream.write(f"{line}\n")
