"""Edits that an older Rivelt did not note in its lock file, worked out from the journals of this machine."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from pathlib import Path

from rivelt.disk.folder import NotRegular, TooLarge
from rivelt.disk.tree import Tree
from rivelt.errors import RiveltError
from rivelt.plan.owner import Owner
from rivelt.project.project import Project
from rivelt.workspace import journal as journals
from rivelt.workspace.change import sha256
from rivelt.workspace.commit import project_tree
from rivelt.workspace.journal import OLD
from rivelt.workspace.lockfile import Lock
from rivelt.workspace.record import Record, records_of


def recovered(lock: Lock, root: Path, project: Project, is_touched: Mapping[Owner, Callable[[str], bool]]) -> Lock:
    """Return a lock with the edits of owners that have none, as far as the journals know what stood there before.

    Only files that nobody has changed since: of others it is unknown which change is whose.

    Args:
        lock: the lock file.
        root: the project's folder.
        project: its files.
        is_touched: the owners in question, and whether each edits a file.
    """
    known = dict(_originals(root, project))
    found: dict[Owner, tuple[Record, ...]] = dict(lock.edits)  # type: ignore[arg-type]
    for owner, touches in is_touched.items():
        records = [
            record for path in known if touches(path) for record in records_of(path, known[path], project.read(path))
        ]
        if owner not in found and records:
            found[owner] = tuple(records)
    return Lock(lock.files, lock.inputs, found)


def _originals(root: Path, project: Project) -> Iterator[tuple[str, bytes]]:
    """The files that only Rivelt has changed, each as it was before the first apply that the journals know."""
    first: dict[str, bytes] = {}
    last: dict[str, str | None] = {}
    with suppress(RiveltError), project_tree(root) as tree:
        for number in journals.numbers(tree):
            journal = journals.read(tree, number)
            if not (journal.is_local and journal.is_done):
                continue
            for index, entry in enumerate(journal.record.entries):
                if entry.path in last and last[entry.path] != entry.before:
                    first.pop(entry.path, None)  # somebody else changed it in between
                elif entry.path not in last and entry.before is not None:
                    kept = _kept(tree, number, index)
                    if kept is not None and sha256(kept) == entry.before:
                        first[entry.path] = kept
                last[entry.path] = entry.after
    for path, content in first.items():
        if path in project and sha256(project.read(path)) == last[path]:
            yield path, content


def _kept(tree: Tree, number: int, index: int) -> bytes | None:
    try:
        with journals.opened(tree, number) as folder, folder.child(OLD) as old:
            return old.read(f"{index:04d}")
    except (OSError, NotRegular, TooLarge):
        return None
