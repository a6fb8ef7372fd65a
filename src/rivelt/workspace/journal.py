"""The journal of one apply: what each file was, and what it became. Kept until it is undone.

A journal is a numbered folder in `.rivelt/`. One file in it says what was done, and by its name how far that got: `applying.json`, then
`applied.json`, then `undoing.json`. It is written whole before the first change; each step from then on is a rename, for which even a full
disk has room. `old/` holds the files that were there before: the very files, moved, and whatever somebody saved into them meanwhile.
`new/` and `gone/` are rooms to work in.

Journals may come from strangers, with a clone. Each is signed for the machine and the user that it was written by.
"""

from __future__ import annotations

import hmac
import stat
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from typing import Annotated, Literal, TypeAlias, get_args

import msgspec

from rivelt.disk.folder import Folder, NotRegular, TooLarge, identity, is_link
from rivelt.disk.tree import Tree, in_tool_folder, wipe
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.workspace.change import Change
from rivelt.workspace.notes import FOLDER, home_of, make_home, signed

JOURNAL_FORMAT = 2
OLD, NEW, GONE = "old", "new", "gone"

State: TypeAlias = Literal["applying", "applied", "undoing"]
_STATES: tuple[State, ...] = get_args(State)
_EARLIER = "journal.json"  # what a journal of the first format is called
_MOST_BYTES = 64 * 1024 * 1024
_NUMBER = regex(r"[0-9]{4,9}")

_Digest = Annotated[str, msgspec.Meta(pattern="^[0-9a-f]{64}\\Z")]
_Path = Annotated[str, msgspec.Meta(min_length=1, max_length=4096, pattern=r"^[^\x00-\x1f\x7f]*\Z")]


class JournalEntry(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One file: its path without links, and the SHA-256 of its bytes before and after (None: it is not there)."""

    path: _Path
    before: _Digest | None
    after: _Digest | None


class Record(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the file of a journal holds. `made_folders` are those that did not exist before, the outermost first."""

    format: Literal[2]
    entries: Annotated[tuple[JournalEntry, ...], msgspec.Meta(max_length=100_000)]
    made_folders: Annotated[tuple[_Path, ...], msgspec.Meta(max_length=100_000)]
    signature: str = ""

    def signed(self) -> Record:
        """Return the record with this machine's signature."""
        return msgspec.structs.replace(self, signature=_signature(self))


class Journal(msgspec.Struct, frozen=True):
    """One apply. `when`: seconds since 1970. `is_local`: whether it was written on this machine, by this user."""

    number: int
    state: State
    record: Record
    when: float
    is_local: bool

    @property
    def folder(self) -> str:
        """Where it is, relative to the project's root."""
        return f"{FOLDER}/{self.number:04d}"

    @property
    def is_done(self) -> bool:
        """Whether nothing of it was left halfway."""
        return self.state == "applied"


def _signature(record: Record) -> str:
    content = msgspec.json.encode(msgspec.structs.replace(record, signature=""))
    return signed(content)


# Where journals are


def numbers(tree: Tree) -> list[int]:
    """Return the numbers of the journals, the oldest first."""
    with home_of(tree) as home:
        names = home.names() if home is not None else ()
        found = (name for name in names if home is not None and _NUMBER.fullmatch(name) and _state(home, name))
        return sorted(int(name) for name in found)


def _state(home: Folder, name: str) -> State | None:
    """The state that a folder's file says; None for a folder that is not a journal, such as one whose making was stopped."""
    status = home.status(name)
    if status is None or not stat.S_ISDIR(status.st_mode) or is_link(status):
        return None
    folder = home.child(name)
    try:
        state = next((state for state in reversed(_STATES) if folder.status(f"{state}.json") is not None), None)
        return "applied" if state is None and folder.status(_EARLIER) is not None else state
    finally:
        folder.close()


@contextmanager
def opened(tree: Tree, number: int) -> Iterator[Folder]:
    """Open the folder of a journal."""
    with home_of(tree) as home:
        if home is None:
            raise FileNotFoundError(FOLDER)
        folder = home.child(f"{number:04d}")
        try:
            yield folder
        finally:
            folder.close()


@contextmanager
def room(folder: Folder, name: str) -> Iterator[Folder]:
    """Open `old`, `new` or `gone` in the folder of a journal; it is made if it is missing."""
    if folder.status(name) is None:
        folder.make_folder(name)
    inner = folder.child(name)
    try:
        yield inner
    finally:
        inner.close()


# Writing


def begin(tree: Tree, changes: Sequence[Change], made_folders: Sequence[str]) -> Journal:
    """Write the journal of an apply that is about to begin, to the disk's surface; paths are without links.

    Raises:
        OSError: it cannot be written; nothing but a useless folder is left then.
        BadInput: something else is in its place.
    """
    make_home(tree)
    with home_of(tree) as home:
        if home is None:
            raise BadInput(
                "it is not a folder of Rivelt's", place=Place(FOLDER), hint="Rename it, or remove it: it may be a link."
            )
        if identity(home.own_status())[0] != identity(tree.folder.own_status())[0]:
            raise BadInput("it is on another disk than the project", place=Place(FOLDER), hint="Remove it.")
        number = max((int(name) for name in home.names() if _NUMBER.fullmatch(name) and _state(home, name)), default=0)
        number += 1
        wipe(
            home, f"{number:04d}"
        )  # left by a run that was stopped before its journal was complete: nothing had changed
        home.make_folder(f"{number:04d}")
        entries = tuple(JournalEntry(change.path, *change.digests) for change in changes)
        record = Record(2, entries, tuple(made_folders)).signed()
        folder = home.child(f"{number:04d}")
        try:
            for name in (OLD, NEW, GONE):
                folder.make_folder(name)
            folder.create("new.json", msgspec.json.format(msgspec.json.encode(record), indent=1))
            folder.move("new.json", folder, "applying.json")
            folder.sync()
            status = folder.status("applying.json")
        finally:
            folder.close()
        home.sync()
    return Journal(number, "applying", record, status.st_mtime if status else 0.0, is_local=True)


def discard_begun(tree: Tree) -> None:
    """Remove what is left of a journal whose making was stopped, as far as that can be done."""
    with suppress(OSError), home_of(tree) as home:
        for name in home.names() if home is not None else ():
            if home is not None and _NUMBER.fullmatch(name) and _state(home, name) is None:
                wipe(home, name)
    with suppress(OSError):
        if not numbers(tree):
            wipe(tree.folder, FOLDER)


def become(tree: Tree, journal: Journal, state: State) -> Journal:
    """Say how far a journal has got, by one rename."""
    if state == journal.state:
        return journal
    with opened(tree, journal.number) as folder:
        folder.move(f"{journal.state}.json", folder, f"{state}.json")
        folder.sync()
    return msgspec.structs.replace(journal, state=state)


def remove(tree: Tree, journal: Journal) -> None:
    """Forget an apply; with the last one the whole folder goes. What cannot be removed stays, and is not a journal any more."""
    with opened(tree, journal.number) as folder:
        for state in _STATES:
            wipe(folder, f"{state}.json")
        folder.sync()
    with suppress(OSError), home_of(tree) as home:
        if home is not None:
            wipe(home, f"{journal.number:04d}")
    with suppress(OSError):
        if not numbers(tree):
            wipe(tree.folder, FOLDER)


# Reading


def read(tree: Tree, number: int) -> Journal:
    """Read a journal.

    Raises:
        BadInput: it is damaged, of another version, or names what no journal of Rivelt's names.
        OSError: it cannot be read.
    """
    where = f"{FOLDER}/{number:04d}"
    hint = "Take the files back from version control, then remove that folder."
    try:
        with opened(tree, number) as folder, home_of(tree) as home:
            state = _state(home, f"{number:04d}") if home is not None else None
            if state is None:
                raise FileNotFoundError(where)
            name = f"{state}.json"
            data = folder.read(name if folder.status(name) is not None else _EARLIER, _MOST_BYTES)
            status = folder.status(name)
        version = msgspec.json.decode(data, type=_Version).format
        if version != JOURNAL_FORMAT:
            word = "a later" if version > JOURNAL_FORMAT else "an earlier"
            raise BadInput(f"the journal in {where} is of {word} version of Rivelt", hint=hint)
        record = msgspec.json.decode(data, type=Record)
    except (TooLarge, NotRegular, msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BadInput(f"the journal in {where} is damaged", hint=hint) from error
    for path in (*(entry.path for entry in record.entries), *record.made_folders):
        if in_tool_folder(path) or path.startswith("/") or ".." in path.split("/"):
            raise BadInput(f"the journal in {where} names what Rivelt never writes to: {path}", hint=hint)
    is_local = hmac.compare_digest(record.signature.encode(), _signature(record).encode())
    return Journal(number, state, record, status.st_mtime if status else 0.0, is_local)


class _Version(msgspec.Struct):
    format: int
