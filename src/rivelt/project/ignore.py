"""What git leaves out of a repository: `.gitignore` files, nested and negated, and `.git/info/exclude`."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, Protocol

from rivelt.disk.tree import read_file, resolved

if TYPE_CHECKING:
    from pathspec import GitIgnoreSpec

IGNORE_FILE = ".gitignore"
_LARGEST = 1_000_000  # bytes


class Readable(Protocol):
    """Where files can be read from."""

    def read(self, path: Path, most: int = ...) -> bytes:
        """Return the bytes of a file, or raise OSError."""


class Patterns(NamedTuple):
    """The patterns of one file. `base`: the folder that they are relative to, seen from the top ("" or "apps/"); later ones win."""

    base: str
    spec: GitIgnoreSpec


def repository_top(folder: Path) -> Path | None:
    """Return the top of the git working tree that a folder is in; None outside of one."""
    here = resolved(folder)
    return next((above for above in (here, *here.parents) if os.path.lexists(above / ".git")), None)


def spec_of(lines: Iterable[str]) -> GitIgnoreSpec:
    """Return patterns as `.gitignore` has them; a line that is not a pattern is left out."""
    from pathspec import GitIgnoreSpec

    usable = []
    for line in lines:
        try:
            GitIgnoreSpec.from_lines([line])
            usable.append(line)
        except ValueError:
            continue
    return GitIgnoreSpec.from_lines(usable)


def patterns_in(file: Path, base: str, files: Readable | None = None) -> tuple[Patterns, ...]:
    """Return the patterns of a file as a chain of one; empty when there is no such file, or it cannot be read.

    Args:
        file: the file.
        base: the folder that they are relative to, seen from the top.
        files: where it is; on disk when None.
    """
    read = read_file if files is None else files.read
    try:
        text = read(file, _LARGEST).decode("utf-8", "replace")
    except (OSError, ValueError):
        return ()
    return (Patterns(base, spec_of(text.splitlines())),)


def is_ignored(chain: tuple[Patterns, ...], path: str, *, is_folder: bool) -> bool:
    """Return whether the nearest patterns that say something of a path leave it out.

    Args:
        chain: the patterns that count for the path's folder, the outermost first.
        path: the path seen from the top.
        is_folder: whether it is a folder.
    """
    for base, spec in reversed(chain):
        found = spec.check_file(path.removeprefix(base) + ("/" if is_folder else "")).include
        if found is not None:
            return found
    return False


def patterns_above(root: Path, files: Readable | None = None) -> tuple[str, tuple[Patterns, ...]]:
    """Return where a project's root is in its repository ("apps/tern/", "" for the top), and the patterns from above that count in it.

    Where the repository ignores the root itself, whoever works in it means it: then nothing from above counts.
    """
    top = repository_top(root)
    here = resolved(root)
    if top is None:
        return "", ()
    chain = patterns_in(top / ".git" / "info" / "exclude", "")
    parts = here.relative_to(top).parts
    folder, at = "", top
    for part in parts:
        chain += patterns_in(at / IGNORE_FILE, folder, files)
        folder, at = f"{folder}{part}/", at / part
        if is_ignored(chain, folder.rstrip("/"), is_folder=True):
            return f"{'/'.join(parts)}/", ()
    return folder, chain
