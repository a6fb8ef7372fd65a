"""What a journal says, put back: each file by itself, so that one that cannot be put back stops no other."""

from __future__ import annotations

import stat
from contextlib import ExitStack, suppress

from msgspec import Struct, field

from rivelt.disk.folder import Folder
from rivelt.disk.tree import Spot, Tree
from rivelt.workspace import journal as journals
from rivelt.workspace.change import sha256
from rivelt.workspace.journal import GONE, OLD, Journal, JournalEntry


class Restored(Struct):
    """What came of putting back: paths that were, those with a later edit that was left alone, and those that could not be, with the reason."""

    paths: list[str] = field(default_factory=list)
    edited: list[str] = field(default_factory=list)
    problems: dict[str, str] = field(default_factory=dict)


class Standing(Struct, frozen=True):
    """How a file of a journal stands: the SHA-256 of what is at its path, and of what the journal keeps of it.

    None: there is nothing; "": there is something that is not a file, or is behind a link or a file that appeared on the way.
    """

    now: str | None
    kept: str | None

    def is_known(self, entry: JournalEntry, *, is_done: bool) -> bool:
        """Return whether nobody but Rivelt has touched the file; where its work was stopped, there may be none at all."""
        return self.now in {entry.before, entry.after} or (self.now is None and self.kept is not None and not is_done)


def standing(tree: Tree, journal: Journal) -> dict[str, Standing]:
    """Return how each file of a journal stands.

    Raises:
        OSError: the journal cannot be opened.
    """
    with journals.opened(tree, journal.number) as folder, journals.room(folder, OLD) as old:
        return {
            entry.path: Standing(_hash_at(tree, entry), _hash(old, f"{index:04d}"))
            for index, entry in enumerate(journal.record.entries)
        }


def put_back(tree: Tree, journal: Journal, *, force: bool = False) -> Restored:
    """Restore what a journal says, and remove the folders that it made if they are empty. The journal itself stays.

    A file that somebody has changed since is left alone, and named.

    Args:
        tree: the project.
        journal: what was done.
        force: put back what was there before over such changes as well.

    Raises:
        OSError: the journal cannot be opened.
    """
    done = Restored()
    with ExitStack() as stack:
        folder = stack.enter_context(journals.opened(tree, journal.number))
        old, gone = (stack.enter_context(journals.room(folder, name)) for name in (OLD, GONE))
        for index, entry in enumerate(journal.record.entries):
            try:
                _put_back(tree, entry, f"{index:04d}", old, gone, done, force=force)
            except (OSError, ValueError) as error:
                done.problems[entry.path] = getattr(error, "strerror", None) or str(error)
    for made in reversed(journal.record.made_folders):
        with suppress(OSError, ValueError), tree.exact(made) as spot:
            spot.folder.remove_folder(spot.name)
    return done


def _put_back(
    tree: Tree,
    entry: JournalEntry,
    kept: str,
    old: Folder,
    gone: Folder,
    done: Restored,
    *,
    force: bool,
) -> None:
    has_old = old.status(kept) is not None
    if entry.before is not None and not has_old:
        return  # it was never touched, or it is back already
    if not has_old and _is_absent(tree, entry.path) and gone.status(kept) is None:
        return  # not made yet, or gone already
    with tree.exact(entry.path, make=True) as spot:
        if gone.status(kept) is not None:  # an earlier undo was stopped right here
            _settle(spot, gone, kept, entry)
        now = _hash(spot.folder, spot.name)
        if now == entry.before and now is not None:
            old.remove_file(kept)
            return
        if now is not None:
            if now != entry.after and not force:
                done.edited.append(entry.path)
                return
            spot.folder.move(spot.name, gone, kept)
            if _hash(gone, kept) != entry.after and not force:
                gone.give(kept, spot.folder, spot.name)  # an edit was saved in this very moment
                done.edited.append(entry.path)
                return
        if has_old:
            old.give(kept, spot.folder, spot.name)
        spot.folder.sync()
    done.paths.append(entry.path)


def _settle(spot: Spot, gone: Folder, kept: str, entry: JournalEntry) -> None:
    """Drop what an earlier undo moved away, or give it back where it was somebody's edit."""
    if _hash(gone, kept) != entry.after and spot.status is None:
        gone.give(kept, spot.folder, spot.name)
    elif _hash(gone, kept) == entry.after:
        gone.remove_file(kept)


def _is_absent(tree: Tree, path: str) -> bool:
    """Whether nothing is at a path; what is behind a link that appeared on the way was never made there."""
    try:
        with tree.exact(path) as spot:
            return spot.status is None
    except (FileNotFoundError, NotADirectoryError):
        return True


def _hash_at(tree: Tree, entry: JournalEntry) -> str | None:
    try:
        if entry.before is None and _is_absent(tree, entry.path):
            return None
        with tree.exact(entry.path) as spot:
            return _hash(spot.folder, spot.name)
    except FileNotFoundError:
        return None
    except NotADirectoryError:
        return ""


def _hash(folder: Folder, name: str) -> str | None:
    """The SHA-256 of a file; None where nothing is, "" for what is not a file that can be read."""
    status = folder.status(name)
    if status is None:
        return None
    return sha256(folder.read(name, most=max(status.st_size, 1))) if stat.S_ISREG(status.st_mode) else ""
