"""Changes onto disk, all or none; and the last ones taken back.

Guarantees: every new content is complete on disk before the first file changes; what is replaced or removed is moved into the journal,
never copied, so that an edit saved in that very moment is kept; nothing is put where something else is; what went wrong on the way is taken
back at once; what a crash leaves is taken back by `undo`, to the byte. No path is followed out of the project.
Not guaranteed: that another program which reads the project in that moment sees all files of one state.
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path

from rivelt.disk.folder import Folder, Moved, NotRegular
from rivelt.disk.tree import Tree, undo_command
from rivelt.errors import BadInput, Place, Refused, RiveltError
from rivelt.workspace import journal as journals
from rivelt.workspace.change import Change, Changes
from rivelt.workspace.journal import NEW, OLD, Journal
from rivelt.workspace.lock import exclusive
from rivelt.workspace.notes import FOLDER
from rivelt.workspace.restore import Restored, put_back, standing
from rivelt.workspace.vet import vetted


def apply(changes: Changes) -> None:
    """Write changes into their project: all of them, or none; see `commit`.

    Raises:
        Refused: a file is not what it was when the plan was made.
        BadInput: a file cannot be written.
    """
    commit(changes.root, changes.files)


def rehearse(changes: Changes) -> None:
    """Raise what `apply` would raise before it changes anything, and write nothing."""
    with project_tree(changes.root) as tree:
        vetted(tree, changes.files)


@contextmanager
def project_tree(root: Path) -> Iterator[Tree]:
    """Open a project's folder.

    Raises:
        BadInput: that cannot be done.
    """
    with _system_errors("the project cannot be read or written"), Tree.opened(root) as tree:
        yield tree


@contextmanager
def _system_errors(what: str) -> Iterator[None]:
    """Turn what the system refuses into an error that a person can act on."""
    try:
        yield
    except OSError as error:
        at = Place(str(error.filename)) if error.filename else None
        hint = "Fix its permissions, or free some disk space; then run the command again."
        raise BadInput(f"{what}: {error.strerror or error}", place=at, hint=hint) from error


def commit(root: Path, changes: Sequence[Change]) -> None:
    """Make the changes in the project below `root`.

    Raises:
        Refused: a file is not what it was when the plan was made, or an earlier apply was stopped halfway.
        BadInput: a file cannot be written. In both cases the project is as it was.
    """
    if changes:
        with _system_errors("the project cannot be written"), exclusive(root), project_tree(root) as tree:
            _commit(tree, changes)


def _commit(tree: Tree, changes: Sequence[Change]) -> None:
    _refuse_unfinished(tree)
    checked = vetted(tree, changes)
    try:
        journal = journals.begin(tree, checked.changes, checked.made_folders)
    except OSError as error:
        journals.discard_begun(tree)
        raise BadInput(f"cannot write to the project: {error.strerror}", place=Place(FOLDER)) from error
    except BaseException:
        journals.discard_begun(tree)
        raise
    try:
        _change(tree, journal, checked.changes)
        journals.become(tree, journal, "applied")
    except BaseException as error:
        problem = _taken_back(tree, journal, error)
        if problem is error:
            raise
        raise problem from error


def _change(tree: Tree, journal: Journal, changes: Sequence[Change]) -> None:
    with (
        journals.opened(tree, journal.number) as folder,
        journals.room(folder, OLD) as old,
        journals.room(folder, NEW) as new,
    ):
        staged = {change.path: _staged(tree, new, change) for change in changes if change.after is not None}
        new.sync()
        for made in journal.record.made_folders:
            with tree.exact(made) as spot:
                if spot.status is None:
                    spot.folder.make_folder(spot.name)
        for index, change in enumerate(changes):
            _swap(tree, change, old, f"{index:04d}", new, staged)
        for path in {change.path.rpartition("/")[0]: change.path for change in changes}.values():
            with tree.exact(path) as spot:
                spot.folder.sync()
        _remove_emptied(tree, changes)
        for index, change in enumerate(changes):
            if change.before is not None and old.read(f"{index:04d}") != change.before:
                raise _changed(change.path)


def _staged(tree: Tree, new: Folder, change: Change) -> str:
    """Write a new content under a random name into the journal, and return that name."""
    name = os.urandom(8).hex()
    new.create(name, change.after or b"", like=tree.status(change.path))
    return name


def _swap(tree: Tree, change: Change, old: Folder, kept: str, new: Folder, staged: Mapping[str, str]) -> None:
    """Move what is there into the journal, look at what it really was, and put the new content where nothing is."""
    with tree.exact(change.path) as spot:
        if change.before is not None:
            try:
                spot.folder.move(spot.name, old, kept)
            except FileNotFoundError:
                raise _changed(change.path) from None
            if not _holds(old, kept, change.before):
                raise _changed(change.path)
        if change.after is not None:
            try:
                new.give(staged[change.path], spot.folder, spot.name)
            except FileExistsError:
                raise _changed(change.path) from None


def _holds(folder: Folder, name: str, content: bytes) -> bool:
    try:
        return folder.read(name) == content
    except (NotRegular, Moved):
        return False


def _changed(path: str) -> Refused:
    message = f"{path} was changed while apply ran; that change is kept, and nothing else was touched"
    return Refused(message, hint="Run the command again.")


def _remove_emptied(tree: Tree, changes: Sequence[Change]) -> None:
    """Remove the folders whose last file has gone; where that fails, an empty folder stays."""
    for change in changes:
        folder = change.path.rpartition("/")[0]
        with suppress(OSError):
            while change.after is None and folder:
                with tree.exact(folder) as spot:
                    spot.folder.remove_folder(spot.name)
                folder = folder.rpartition("/")[0]


def _taken_back(tree: Tree, journal: Journal, error: BaseException) -> BaseException:
    """Take back what was done until an error, and return the error for the person."""
    try:
        done = put_back(tree, journal)  # an edit that stopped apply stands: it is newer than what was there before
        if not done.problems:
            journals.remove(tree, journal)
    except OSError as problem:
        done = Restored(problems={journal.folder: problem.strerror or str(problem)})
    if done.problems:
        path, reason = next(iter(done.problems.items()))
        why = error.message if isinstance(error, RiveltError) else getattr(error, "strerror", None) or str(error)
        message = f"apply was stopped ({why}), and not all of it could be taken back yet: {reason}"
        return BadInput(
            message,
            place=Place(path),
            hint=f"Free some disk space or fix its permissions; then: {undo_command(tree.root)}",
        )
    if isinstance(error, OSError):
        at = Place(str(error.filename)) if error.filename else None
        hint = "Nothing was changed. Fix its permissions, or free some disk space."
        return BadInput(f"cannot be written: {error.strerror}", place=at, hint=hint)
    return error


def refuse_unfinished(root: Path) -> None:
    """Refuse to continue after an apply, or an undo, that was stopped halfway.

    Raises:
        Refused: there is one.
    """
    with project_tree(root) as tree:
        _refuse_unfinished(tree)


def _refuse_unfinished(tree: Tree) -> None:
    last = last_journal(tree)
    if last is not None and not last.is_done:
        what = "apply" if last.state == "applying" else "undo"
        raise Refused(f"an earlier {what} was stopped halfway", hint=f"Take it back first: {undo_command(tree.root)}")


def last_journal(tree: Tree) -> Journal | None:
    """Return the journal of the last apply, or None if nothing has been applied.

    Raises:
        BadInput: it is damaged.
    """
    found = journals.numbers(tree)
    return journals.read(tree, found[-1]) if found else None


def undo(root: Path, *, force: bool = False) -> list[str]:
    """Take the last apply back, to the byte.

    Returns:
        The paths that were restored or removed.

    Raises:
        BadInput: there is nothing to undo, or something cannot be put back: then all else is, and undo can be run again.
        Refused: files were changed since by somebody else, or the journal came from elsewhere, and `force` is not given; nothing was
            touched. Or another process is at it.
    """
    with _system_errors("the last apply cannot be taken back"), exclusive(root), project_tree(root) as tree:
        journal = last_journal(tree)
        if journal is None:
            raise BadInput(
                "there is no apply to take back here", hint="Go to the folder of the project that was applied."
            )
        if not force:
            _refuse_what_is_not_ours(tree, journal)
        journal = journals.become(tree, journal, "undoing")
        done = put_back(tree, journal, force=force)
        _refuse_what_is_left(tree, journal, done)
        journals.remove(tree, journal)
        return done.paths


def _refuse_what_is_not_ours(tree: Tree, journal: Journal) -> None:
    if not journal.is_local:
        message = f"the journal in {journal.folder} was not written on this machine, or was changed since"
        command = undo_command(tree.root, "--force")
        hint = f"Look at what it names, then: {command}. If you did not expect it, remove that folder."
        raise Refused(message, hint=hint)
    found = standing(tree, journal)
    entries = journal.record.entries
    if journal.is_done:
        damaged = [one.path for one in entries if one.before is not None and found[one.path].kept != one.before]
        if damaged:
            message = f"what was kept of {', '.join(damaged)} is damaged, or was changed since"
            raise Refused(message, hint=f"`{undo_command(tree.root, '--force')}` puts back what is left of it.")
    changed = sorted(one.path for one in entries if not found[one.path].is_known(one, is_done=journal.is_done))
    if changed:
        command = undo_command(tree.root, "--force")
        hint = f"Save your changes elsewhere; `{command}` puts back what was there before apply."
        raise Refused(f"changed since they were applied: {', '.join(changed)}", hint=hint)


def _refuse_what_is_left(tree: Tree, journal: Journal, done: Restored) -> None:
    if done.problems:
        path, reason = next(iter(done.problems.items()))
        more = f" (and {len(done.problems) - 1} more)" if len(done.problems) > 1 else ""
        again = undo_command(tree.root)
        hint = f"All else is as it was. Fix that, then: {again}. What was there before is kept in {journal.folder}/old."
        raise BadInput(f"cannot be put back{more}: {reason}", place=Place(path), hint=hint)
    if done.edited:
        hint = f"All else is as it was. Save your changes elsewhere, then: {undo_command(tree.root, '--force')}"
        raise Refused(f"changed while undo ran: {', '.join(sorted(done.edited))}", hint=hint)
