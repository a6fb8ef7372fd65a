"""The applies of a project that can be taken back."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from rivelt.errors import BadInput
from rivelt.workspace import commit
from rivelt.workspace import journal as journals


@dataclass(frozen=True)
class Applied:
    """One apply that can be taken back. `when`: seconds since 1970. `is_done`: False for one that was stopped halfway."""

    number: int
    when: float
    created: int
    edited: int
    removed: int
    is_done: bool


def applied_project(start: Path) -> Path:
    """Return the nearest folder, from `start` upwards, in which Rivelt has applied something; `start` itself when there is none.

    Raises:
        BadInput: `start` does not exist.
    """
    if not start.exists():
        raise BadInput(f"there is no folder {start}", hint="Give a number of applies, or the project's folder.")
    folder = start.resolve()
    return next((above for above in (folder, *folder.parents) if (above / journals.FOLDER).is_dir()), folder)


def unfinished(project: Path) -> bool:
    """Return whether an apply was stopped halfway in a project, or in a folder above it, and not taken back yet."""
    root = applied_project(project if project.is_dir() else project.parent)
    found = journals.numbers(root)
    return bool(found) and not journals.read(root, found[-1]).is_done


def applies(project: Path) -> list[Applied]:
    """Return the applies of a project that can be taken back, the last one first."""
    root = project.resolve()
    found = []
    for number in reversed(journals.numbers(root)):
        journal = journals.read(root, number)
        created = sum(entry.before is None for entry in journal.entries)
        removed = sum(entry.after is None for entry in journal.entries)
        when = (journals.journal_folder(root, number)).stat().st_mtime
        edited = len(journal.entries) - created - removed
        found.append(Applied(number, when, created, edited, removed, journal.is_done))
    return found


def undo(project: Path, *, times: int = 1, force: bool = False) -> list[str]:
    """Take the last applies back, to the byte.

    Returns:
        The paths that were restored or removed.

    Raises:
        BadInput: there are not so many.
        Refused: files were changed since, and `force` is not given; those of the apply in question are not touched.
    """
    root = project.resolve()
    known = len(applies(root))
    if known < times and known:
        there = "is only 1 apply" if known == 1 else f"are only {known} applies"
        raise BadInput(f"there {there} to take back", hint="See them with: rivelt undo --list")
    return list(dict.fromkeys(path for _ in range(times) for path in commit.undo(root, force=force)))
