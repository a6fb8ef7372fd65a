"""Who takes over what an owner made that is not there any more by that name: a renamed brief, or a lock file of an older format."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

from rivelt.plan.owner import Owner
from rivelt.workspace.lockfile import Lock

T = TypeVar("T")


def inherited(lock: Lock, owners: Iterable[Owner], is_there: Callable[[str], bool]) -> Lock:
    """Return a lock in which what was made for a site belongs to the owner who plans for it now, if nobody else does.

    Args:
        lock: the lock file.
        owners: those who are planned for.
        is_there: whether a brief is still there, by its path.
    """
    names: dict[Owner, Owner] = {}
    for owner in owners:
        if owner in lock.owners:
            continue
        heirless = (old for old in sorted(lock.owners) if old not in names and not (old.brief and is_there(old.brief)))
        old = next((old for old in heirless if _is_same_place(lock, old, owner)), None)
        if old is not None:
            names[old] = owner
    if not names:
        return lock
    return Lock(*(_renamed(part, names) for part in (lock.files, lock.inputs, lock.edits)))  # type: ignore[arg-type]


def _is_same_place(lock: Lock, old: Owner, new: Owner) -> bool:
    """Whether both are for one site. Format 1 named an app module alone, whatever source set it wrote to: the paths say which."""
    module, _, source_set = new.site.partition(": ")
    if old.brief or new.target != "android" or not source_set:
        is_other_set = not old.brief and new.target == "android" and _sets_of(lock, old) - {"main", ""}
        return old.site == new.site and (not old.brief or old.edition == new.edition) and not is_other_set
    return old.site == module and source_set in _sets_of(lock, old)


def _sets_of(lock: Lock, owner: Owner) -> set[str]:
    """The source sets that an owner's files are in."""
    return {path.partition("/src/")[2].partition("/")[0] for path in lock.files.get(owner, {})}


def _renamed(part: dict[Owner, T], names: dict[Owner, Owner]) -> dict[Owner, T]:
    return {names.get(owner, owner): its for owner, its in part.items()}
