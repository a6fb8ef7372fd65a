"""Changes onto disk, all or none; and the last ones taken back.

Guarantees: every new content is complete on disk beside its target before the first target changes; each file changes by one
rename; what went wrong on the way is taken back at once; what a crash leaves is taken back by `undo`, to the byte.
Not guaranteed: that another program which reads the project in that moment sees all files of one state.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from rivelt.errors import BadInput, Place, Refused
from rivelt.workspace import journal as journals
from rivelt.workspace.change import Change, sha256
from rivelt.workspace.compare import Changes
from rivelt.workspace.lock import exclusive

_WRITABLE = 0o222
_STAGED_SUFFIX = ".rivelt-new"


def apply(changes: Changes) -> None:
    """Write changes into their project: all of them, or none; see `commit`.

    Raises:
        Refused: a file is not what it was when the plan was made.
        BadInput: a file cannot be written.
    """
    commit(changes.root, changes.files)


def commit(root: Path, changes: Sequence[Change]) -> None:
    """Make the changes in the project below `root`.

    Raises:
        Refused: a file is not what it was when the plan was made, or an earlier apply was stopped halfway.
        BadInput: a file cannot be written. In both cases the project is as it was.
    """
    if changes:
        with exclusive(root):
            _commit(root, changes)


def _commit(root: Path, changes: Sequence[Change]) -> None:
    refuse_unfinished(root)
    for change in changes:
        _vet(root, change)
    made_folders = _missing_folders(root, changes)
    try:
        journal = journals.begin(root, changes, made_folders)
    except OSError as error:
        raise BadInput(f"cannot write to the project: {error.strerror}", place=Place(journals.FOLDER)) from error
    try:
        for folder in made_folders:
            (root / folder).mkdir()
        modes = {entry.path: entry.mode for entry in journal.entries}
        _swap(root, {change.path: change.after for change in changes}, modes)
        _remove_emptied(root, changes)
        journals.finish(root, journal)
    except BaseException as error:
        take_back(root, journal)
        if isinstance(error, OSError):
            at = Place(str(error.filename).removesuffix(_STAGED_SUFFIX)) if error.filename else None
            hint = "Nothing was changed. Fix its permissions, or free some disk space."
            raise BadInput(f"cannot be written: {error.strerror}", place=at, hint=hint) from error
        raise


def refuse_unfinished(root: Path) -> None:
    """Refuse to go on after an apply that was stopped halfway.

    Raises:
        Refused: there is one.
    """
    found = journals.numbers(root)
    if found and not journals.read(root, found[-1]).is_done:
        raise Refused("an earlier apply was stopped halfway", hint="Take it back first: rivelt undo")


def undo(root: Path, *, force: bool = False) -> list[str]:
    """Take the last apply back, to the byte.

    Returns:
        The paths that were restored or removed.

    Raises:
        BadInput: there is nothing to undo.
        Refused: files were changed since by somebody else, and `force` is not given; nothing was touched. Or another process is at it.
    """
    with exclusive(root):
        return _undo(root, force=force)


def _undo(root: Path, *, force: bool) -> list[str]:
    found = journals.numbers(root)
    if not found:
        raise BadInput("there is no apply to take back here", hint="Go to the folder of the project that was applied.")
    journal = journals.read(root, found[-1])
    changed = [entry.path for entry in journal.entries if _hash(root, entry.path) not in {entry.before, entry.after}]
    if changed and not force:
        hint = "Save your changes elsewhere; `rivelt undo --force` puts back what was there before apply."
        raise Refused(f"changed since they were applied: {', '.join(sorted(changed))}", hint=hint)
    return take_back(root, journal)


def take_back(root: Path, journal: journals.Journal) -> list[str]:
    """Restore what a journal says, remove the folders it made if they are empty, and forget the journal."""
    for entry in journal.entries:
        (root / (entry.path + _STAGED_SUFFIX)).unlink(missing_ok=True)
    different = [entry for entry in journal.entries if _hash(root, entry.path) != entry.before]
    contents = {entry.path: journals.backup_of(root, journal, entry) for entry in different}
    _swap(root, contents, {entry.path: entry.mode for entry in different})
    for folder in reversed(journal.made_folders):
        path = root / folder
        if path.is_dir() and not any(path.iterdir()):
            path.rmdir()
    journals.remove(root, journal.number)
    return [entry.path for entry in different]


def _vet(root: Path, change: Change) -> None:
    """Refuse a target outside the project, or one that is no longer what the plan saw."""
    target = root / change.path
    if not journals.is_confined(root, change.path) or target.is_dir():
        raise BadInput("Rivelt writes only to files inside the project", place=Place(change.path))
    if target.is_symlink() and change.before is None:
        raise BadInput("a broken link is in the way", place=Place(change.path), hint="Remove the link.")
    if _hash(root, change.path) != (None if change.before is None else sha256(change.before)):
        raise Refused(f"{change.path} was changed while the plan was made", hint="Run the command again.")
    if change.before is not None:
        refuse_read_only(root, change.path)


def refuse_read_only(root: Path, path: str) -> None:
    """Refuse a file that its owner has protected against writing, even from a user who may write anything.

    Raises:
        BadInput: it is read-only.
    """
    target = root / path
    if target.exists() and not (os.access(target, os.W_OK) and target.stat().st_mode & _WRITABLE):
        raise BadInput("the file is read-only", place=Place(path), hint="Make it writable; nothing was changed.")


def _missing_folders(root: Path, changes: Sequence[Change]) -> list[str]:
    missing: dict[str, None] = {}
    for change in changes:
        if change.after is not None:
            parents = [parent for parent in Path(change.path).parents if parent != Path()]
            missing |= {parent.as_posix(): None for parent in reversed(parents) if not (root / parent).exists()}
    return list(missing)


def _swap(root: Path, contents: dict[str, bytes | None], modes: dict[str, int | None]) -> None:
    """Give each file its content (None: remove it): first all beside their targets, then one rename each."""
    staged: list[tuple[Path, Path]] = []
    for path, content in contents.items():
        target = (root / path).resolve() if (root / path).is_symlink() else root / path
        if content is None:
            continue
        target.parent.mkdir(parents=True, exist_ok=True)
        beside = root / (path + _STAGED_SUFFIX)
        journals.write_synced(beside, content)
        mode = modes.get(path)
        if mode is not None:
            beside.chmod(mode)
            _keep_owner(target, beside)
        staged.append((beside, target))
    for beside, target in staged:
        beside.replace(target)
    for path, content in contents.items():
        if content is None:
            (root / path).unlink(missing_ok=True)
    for folder in dict.fromkeys((root / path).parent for path in contents):
        if folder.is_dir():
            journals.sync_folder(folder)


def _keep_owner(old: Path, new: Path) -> None:
    """Give a file the owner of the one that it replaces, as far as the system lets us."""
    if hasattr(os, "chown") and old.exists():
        known = old.stat()
        if (known.st_uid, known.st_gid) != (new.stat().st_uid, new.stat().st_gid):
            with suppress(OSError):
                os.chown(new, known.st_uid, known.st_gid)


def _remove_emptied(root: Path, changes: Sequence[Change]) -> None:
    """Remove the folders whose last file has gone; where that fails, an empty folder stays."""
    for change in changes:
        folder = (root / change.path).parent
        while change.after is None and folder != root and folder.is_dir() and not any(folder.iterdir()):
            with suppress(OSError):
                folder.rmdir()
            folder = folder.parent


def _hash(root: Path, path: str) -> str | None:
    target = root / path
    return sha256(target.read_bytes()) if target.is_file() else None
