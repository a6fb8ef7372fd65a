"""The journal of one apply: what each file was, and what it became. Kept until it is undone.

A journal is a folder in `.rivelt/`, numbered. It holds `journal.json` and, for each changed file, the bytes it had before. An
apply that was stopped halfway leaves a journal whose `done` is false; undo takes that back in the same way.
"""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path

from rivelt.edit.jsontext import read_json
from rivelt.errors import BadInput
from rivelt.workspace.change import Change, sha256

FOLDER = ".rivelt"
JOURNAL_FORMAT = 1
_FILE = "journal.json"


@dataclass(frozen=True)
class JournalEntry:
    """One file: hashes of its bytes before and after (None: did not exist), the backup's name, and its mode bits."""

    path: str
    before: str | None
    after: str | None
    backup: str | None
    mode: int | None


@dataclass(frozen=True)
class Journal:
    """One apply. `made_folders` are those that did not exist before, outermost first, relative to the project's root."""

    number: int
    entries: tuple[JournalEntry, ...]
    made_folders: tuple[str, ...]
    is_done: bool


def journal_folder(root: Path, number: int) -> Path:
    """Where a journal lies."""
    return root / FOLDER / f"{number:04d}"


def numbers(root: Path) -> list[int]:
    """The numbers of the journals, the oldest first."""
    folder = root / FOLDER
    found = [int(path.name) for path in folder.iterdir() if path.name.isdigit()] if folder.is_dir() else []
    return sorted(number for number in found if (journal_folder(root, number) / _FILE).is_file())


def begin(root: Path, changes: Sequence[Change], made_folders: Sequence[str]) -> Journal:
    """Write backups and the journal of an apply that is about to begin, to the disk's surface."""
    number = max(numbers(root), default=0) + 1
    folder = journal_folder(root, number)
    if folder.exists():  # left by a run that was stopped before its journal was complete: nothing had been changed yet
        shutil.rmtree(folder)
    folder.mkdir(parents=True)
    ignore = root / FOLDER / ".gitignore"
    if not ignore.exists():
        ignore.write_text("*\n", encoding="utf-8")
    sync_folder(root / FOLDER)
    entries = []
    for index, change in enumerate(changes):
        backup = None
        mode = None
        if change.before is not None:
            backup = f"{index:04d}"
            mode = (root / change.path).stat().st_mode & 0o7777
            write_synced(folder / backup, change.before)
        before, after = (None if content is None else sha256(content) for content in (change.before, change.after))
        entries.append(JournalEntry(change.path, before, after, backup, mode))
    journal = Journal(number, tuple(entries), tuple(made_folders), is_done=False)
    _write(root, journal)
    return journal


def finish(root: Path, journal: Journal) -> None:
    """Mark an apply as complete."""
    _write(root, Journal(journal.number, journal.entries, journal.made_folders, is_done=True))


def remove(root: Path, number: int) -> None:
    """Forget an apply; with the last one the whole folder goes."""
    folder = journal_folder(root, number)
    (folder / _FILE).unlink(missing_ok=True)
    shutil.rmtree(folder, ignore_errors=True)
    if not numbers(root):
        shutil.rmtree(root / FOLDER, ignore_errors=True)


def read(root: Path, number: int) -> Journal:
    """Read a journal.

    Raises:
        BadInput: it is damaged, or of a later format.
    """
    hint = "Take the files back from version control, then remove that folder."
    try:
        table = read_json((journal_folder(root, number) / _FILE).read_bytes(), _FILE)
        is_later = table["format"] > JOURNAL_FORMAT
        entries = () if is_later else tuple(JournalEntry(**entry) for entry in table["entries"])
        journal = Journal(number, entries, tuple(table["made_folders"]), bool(table["is_done"]))
    except (OSError, BadInput, ValueError, KeyError, TypeError) as error:
        raise BadInput(f"the journal in {FOLDER}/{number:04d} is damaged", hint=hint) from error
    if is_later:
        raise BadInput("the journal is of a later version of Rivelt", hint="Update Rivelt.")
    for named in outside(root, (*(entry.path for entry in journal.entries), *journal.made_folders)):
        message = f"the journal in {FOLDER}/{number:04d} names a path outside the project: {named}"
        raise BadInput(message, hint=hint)
    return journal


def backup_of(root: Path, journal: Journal, entry: JournalEntry) -> bytes | None:
    """The bytes a file had before; None when it did not exist.

    Raises:
        BadInput: the backup is missing or damaged.
    """
    if entry.backup is None:
        return None
    path = journal_folder(root, journal.number) / Path(entry.backup).name
    content = path.read_bytes() if path.is_file() else b""
    if sha256(content) != entry.before:
        raise BadInput(f"the backup of {entry.path} is damaged", hint="Take the file back from version control.")
    return content


def outside(root: Path, paths: Iterable[str]) -> Iterator[str]:
    """Yield the relative paths that, links followed, lead out of the project. Journals may come from strangers, too."""
    inside = root.resolve()
    folders: dict[Path, bool] = {}
    for path in paths:
        target = root / path
        if target.parent not in folders:
            folders[target.parent] = target.parent.resolve().is_relative_to(inside)
        is_inside = folders[target.parent] and (not target.is_symlink() or target.resolve().is_relative_to(inside))
        if ".." in Path(path).parts or not is_inside:
            yield path


def is_confined(root: Path, path: str) -> bool:
    """Return whether a relative path, links followed, stays inside the project."""
    return next(outside(root, [path]), None) is None


def write_synced(path: Path, content: bytes) -> None:
    """Write a file and wait until the disk has it."""
    with path.open("wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())


def sync_folder(path: Path) -> None:
    """Wait until the disk knows the names in a folder: a rename is only safe then. Where a system cannot, it is left to it."""
    with suppress(OSError):
        descriptor = os.open(path, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def _write(root: Path, journal: Journal) -> None:
    folder = journal_folder(root, journal.number)
    table = {"format": JOURNAL_FORMAT, **asdict(journal)}
    staged = folder / f"{_FILE}.new"
    write_synced(staged, json.dumps(table, indent=1).encode())
    staged.replace(folder / _FILE)
    sync_folder(folder)
