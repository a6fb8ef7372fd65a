"""The applies of a project that can be taken back."""

from __future__ import annotations

import os
import stat
from datetime import UTC, datetime
from pathlib import Path

from msgspec import Struct

from rivelt.disk.tree import AnyPath, resolved, undo_command
from rivelt.documents.work import AppliedItem
from rivelt.errors import BadInput
from rivelt.workspace import commit
from rivelt.workspace import journal as journals
from rivelt.workspace.journal import State
from rivelt.workspace.notes import FOLDER


class Applied(Struct, frozen=True):
    """One apply that can be taken back. `when`: seconds since 1970. `is_done`: False for one that was stopped halfway."""

    number: int
    when: float
    created: int
    edited: int
    removed: int
    is_done: bool

    @property
    def item(self) -> AppliedItem:
        """It, for a document."""
        moment = datetime.fromtimestamp(self.when, UTC)
        return AppliedItem(
            number=self.number,
            when=moment.strftime("%Y-%m-%dT%H:%M:%SZ"),
            created=self.created,
            edited=self.edited,
            removed=self.removed,
            done=self.is_done,
        )


def applied_project(start: Path) -> Path:
    """Return the nearest folder, from `start` upwards, in which Rivelt has applied something; `start` itself when there is none.

    Raises:
        BadInput: `start` does not exist.
    """
    if not start.exists():
        raise BadInput(f"there is no folder {start}", hint="Give a number of applies, or the project's folder.")
    folder = resolved(start)
    return next((above for above in (folder, *folder.parents) if _has_journals(above)), folder)


def _has_journals(folder: Path) -> bool:
    try:
        return stat.S_ISDIR(os.lstat(folder / FOLDER).st_mode)
    except OSError:
        return False


def unfinished(project: Path) -> State | None:
    """Return what was stopped halfway in a project, or in a folder above it, and not taken back yet: "applying" or "undoing".

    Raises:
        BadInput: the journals cannot be read.
    """
    root = applied_project(project if project.is_dir() else project.parent)
    if not _has_journals(root):
        return None
    with commit.project_tree(root) as tree:
        last = commit.last_journal(tree)
    return None if last is None or last.is_done else last.state


def applies(project: AnyPath = ".") -> list[Applied]:
    """Return the applies of a project that can be taken back, the last one first.

    Raises:
        BadInput: a journal cannot be read.
    """
    with commit.project_tree(resolved(Path(project))) as tree:
        return [_applied(journals.read(tree, number)) for number in reversed(journals.numbers(tree))]


def _applied(journal: journals.Journal) -> Applied:
    entries = journal.record.entries
    created = sum(entry.before is None for entry in entries)
    removed = sum(entry.after is None for entry in entries)
    edited = len(entries) - created - removed
    return Applied(journal.number, journal.when, created, edited, removed, journal.is_done)


def undo(project: AnyPath = ".", *, times: int = 1, force: bool = False) -> list[str]:
    """Take the last applies back, to the byte.

    Returns:
        The paths that were restored or removed.

    Raises:
        BadInput: there are not so many.
        Refused: files were changed since, and `force` is not given; those of the apply in question are not touched.
    """
    root = resolved(Path(project))
    with commit.project_tree(root) as tree:
        known = len(journals.numbers(tree))
    if known < times and known:
        there = "is only 1 apply" if known == 1 else f"are only {known} applies"
        raise BadInput(f"there {there} to take back", hint=f"See them with: {undo_command(root, '--list')}")
    return list(dict.fromkeys(path for _ in range(times) for path in commit.undo(root, force=force)))
