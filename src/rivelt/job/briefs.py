"""Finding, reading and writing a brief."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.brief.load import read_brief
from rivelt.brief.model import Brief
from rivelt.brief.schema import FILE_NAME
from rivelt.errors import BadInput, Place, Refused, RiveltError, raise_all
from rivelt.platforms import TARGETS, platform_tables

if TYPE_CHECKING:
    from rivelt.brief.starter import Starter


def find_brief(start: Path) -> Path | None:
    """The brief in a folder or the nearest one above it."""
    folder = start.resolve()
    return next((path for above in (folder, *folder.parents) if (path := above / FILE_NAME).is_file()), None)


def load_brief(path: Path | None = None) -> Brief:
    """Read a brief: a file, the one in or above a folder, or (None) the one in or above the current folder.

    Raises:
        BadInput: there is none, or it has problems.
    """
    if path is not None and not path.exists():
        raise BadInput(
            "there is no such brief", place=Place(str(path)), hint="Write one with: rivelt brief --mark FILE"
        )
    file = path if path is not None and path.is_file() else find_brief(path or Path.cwd())
    if file is None:
        where = "this folder" if path is None else str(path)
        hint = "Write one with: rivelt brief --mark FILE --ground COLOUR"
        raise BadInput(f"there is no {FILE_NAME} in {where} or above it", hint=hint)
    shown = shown_path(file)
    try:
        data = file.read_bytes()
    except OSError as error:
        raise BadInput(f"the brief cannot be read: {error.strerror}", place=Place(shown)) from error
    brief = read_brief(data, file.resolve(), shown_path=shown, platform_tables=platform_tables())
    if all(look.is_ground_given for look in brief.looks.values()):
        return brief
    from rivelt.artwork.gather import with_grounds

    return with_grounds(brief)


def choose_targets(brief: Brief, only: Sequence[str]) -> Brief:
    """The brief narrowed to some of its targets; all of them when `only` is empty.

    Raises:
        BadInput: there is no such target, or the brief does not want it; `Problems` for several.
    """
    check_targets(only)
    left_out = [target for target in only if brief.targets is not None and target not in brief.targets]
    if left_out:
        at, hint = brief.place("app.targets"), "Add it there, or leave `targets` out: then the survey decides."
        raise BadInput(f"the brief's targets do not hold {left_out[0]}", place=at, hint=hint)
    return replace(brief, targets=tuple(target for target in TARGETS if target in only)) if only else brief


def check_targets(targets: Sequence[str]) -> None:
    """Refuse targets that do not exist.

    Raises:
        BadInput: there is one; `Problems` for several.
    """
    problems: list[RiveltError] = []
    for target in targets:
        if target not in TARGETS:
            near = difflib.get_close_matches(target, TARGETS, n=1)
            hint = f"Did you mean {near[0]}?" if near else f"There are: {', '.join(TARGETS)}."
            problems.append(BadInput(f"there is no target {target}", hint=hint))
    raise_all(problems)


def shown_path(path: Path) -> str:
    """A path as messages show it: relative to the current folder where that is shorter."""
    try:
        return path.resolve().relative_to(Path.cwd()).as_posix()
    except ValueError:
        return str(path)


def write_brief(path: Path, starter: Starter) -> Brief:
    """Write a starter brief, once it is known to be a good one; never over an existing file.

    Raises:
        Refused: the file exists.
        BadInput: what it would say has problems, or the art cannot be used.
    """
    from rivelt.brief.starter import starter_text

    if path.exists():
        raise Refused(f"{shown_path(path)} exists already", hint="Edit it, or give another file with --out.")
    text = starter_text(starter)
    brief = read_brief(text.encode(), path.resolve(), shown_path=shown_path(path), platform_tables=platform_tables())
    from rivelt.job.art import context_of

    context_of(brief)
    try:
        with path.open("x", encoding="utf-8", newline="\n") as file:
            file.write(text)
    except OSError as error:
        raise BadInput(f"the brief cannot be written: {error.strerror}", place=Place(shown_path(path))) from error
    return brief
