"""The edits of a person's files, each known by its owner: taken back to plan anew, and put again where nothing about them has changed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterable, Mapping, Sequence

from msgspec import Struct

from rivelt.errors import Refused
from rivelt.plan.model import EditFile, Plan
from rivelt.plan.owner import Owner
from rivelt.project.project import Project
from rivelt.scene.site import Site
from rivelt.workspace.lockfile import Lock
from rivelt.workspace.record import Record, records_of, taken_back

NOT_NEEDED = "what Rivelt edited here is not needed any more"


def standing_alone(lock: Lock, owners: Iterable[Owner]) -> dict[str, tuple[Record, ...]]:
    """Return the edits of some owners that nobody else needs, by path.

    Several owners may have made the same edit; it stands in the file as often as the one who needs it most often has it.
    """
    mine, others = set(owners), set(lock.edits)
    kept: dict[str, list[Record]] = {}
    needed = _standing(lock, others - mine)
    for identity, records in _standing(lock, mine & others).items():
        kept.setdefault(records[0].path, []).extend(records[len(needed.get(identity, ())) :])
    return {path: tuple(records) for path, records in kept.items() if records}


def _standing(lock: Lock, owners: Iterable[Owner]) -> dict[Hashable, list[Record]]:
    """The edits of some owners by what they do, each as often as the one has it who has it most often."""
    found: dict[Hashable, list[Record]] = {}
    for owner in sorted(owners):
        its: dict[Hashable, list[Record]] = {}
        for record in lock.edits[owner]:
            its.setdefault(record.identity, []).append(record)
        for identity, records in its.items():
            if len(records) > len(found.get(identity, ())):
                found[identity] = records
    return found


def without_edits(project: Project, lock: Lock, owners: Iterable[Owner]) -> Project:
    """Return the project without the edits of some owners that nobody else needs; where a person changed one since, it stays."""
    changed: dict[str, bytes] = {}
    for path, records in standing_alone(lock, owners).items():
        if path in project:
            before = project.read(path)
            after, _ = taken_back(before, records)
            if after != before:
                changed[path] = after
    return project.overlay(changed)


class Edited(Struct, frozen=True):
    """What becomes of a person's files: their contents, by path, with the reasons; and the edits of each owner, for the lock file."""

    contents: Mapping[str, bytes]
    reasons: Mapping[str, str]
    records: Mapping[Owner, tuple[Record, ...]]


def edited(
    project: Project,
    base: Project,
    plans: Mapping[Site, Plan],
    lock: Lock,
    owners: frozenset[Owner],
    *,
    settled: frozenset[str] = frozenset(),
    prune: bool = False,
) -> Edited:
    """Return what becomes of the files that plans edit, and that their owners edited before.

    Args:
        project: the files as they are.
        base: the same without what `owners` edited: what the plans were made for.
        plans: the plans, in the order in which each continues from the one before.
        lock: what was done before.
        owners: those who are planned for, and those who are gone.
        settled: those of `moved` in which what was put is as good where a person has moved it.
        prune: take out what names launch images that nothing uses any more, too.
    """
    contents: dict[str, bytes] = {}
    reasons: dict[str, str] = {}
    for plan in plans.values():
        for edit in plan.edits:
            contents[edit.path] = edit.after
            reasons[edit.path] = edit.summary or reasons.get(
                edit.path, ""
            )  # one that another site needs too has none of its own
        for edit in plan.prune_edits if prune else ():
            contents[edit.path], reasons[edit.path] = edit.after, edit.summary
    for path in standing_alone(lock, owners):
        if path in project and path not in contents:
            contents[path], reasons[path] = base.read(path), NOT_NEEDED
    new = _put(project, plans, lock, owners)
    kept = set() if prune else set(settled)
    kept |= {path for path, content in contents.items() if path in project and project.read(path) == content}
    contents = {
        path: content
        for path, content in contents.items()
        if path not in kept and not (path in project and project.read(path) == content)
    }
    kept &= settled
    records = {owner: tuple(_recorded(owner, its, kept, lock)) for owner, its in new.items()}
    return Edited(contents, reasons, {owner: found for owner, found in records.items() if found})


def moved(project: Project, plans: Mapping[Site, Plan], lock: Lock, owners: frozenset[Owner]) -> frozenset[str]:
    """Return the files that already contain all edits of the plans, unchanged since they were made, but at another place.

    The arguments are those of `edited`.
    """
    after = {edit.path: edit.after for plan in plans.values() for edit in plan.edits}
    before = {record.path for site in plans for record in lock.edits.get(site.owner, ())}
    different = {path for path in before & after.keys() if path in project and project.read(path) != after[path]}
    if not different:
        return frozenset()
    new, alone = _put(project, plans, lock, owners), standing_alone(lock, owners)
    return frozenset(path for path in different if _is_as_before(project, path, new, alone, lock, owners))


def _put(
    project: Project, plans: Mapping[Site, Plan], lock: Lock, owners: frozenset[Owner]
) -> Mapping[Owner, Mapping[str, Sequence[Record]]]:
    """The records of what each owner puts into each file.

    Raises:
        Refused: it would undo what another owner put there.
    """
    new: dict[Owner, dict[str, list[Record]]] = {owner: {} for owner in owners}
    for site, plan in plans.items():
        mine = new.setdefault(site.owner, {})
        for edit in plan.edits:
            if edit.is_shared and edit.before != edit.after:
                _refuse_undoing(edit, site.owner, new, lock, owners)
            mine[edit.path] = [
                *project.derived("records", (edit.path, edit.before, edit.after), lambda its: records_of(*its)),
                *_adopted(edit, site.owner, new, lock, owners),
            ]
    return new


def _adopted(
    edit: EditFile,
    owner: Owner,
    new: Mapping[Owner, Mapping[str, Sequence[Record]]],
    lock: Lock,
    owners: frozenset[Owner],
) -> list[Record]:
    """The edits of others that this owner needs too: those of a file that it shares with them."""
    if not edit.is_shared:
        return []
    found: dict[Hashable, Record] = {}
    theirs = [
        records for other, its in new.items() if other != owner for path, records in its.items() if path == edit.path
    ]
    theirs += [records for other, records in lock.edits.items() if other not in owners]
    for records in theirs:
        standing = [record for record in records if record.path == edit.path]
        _, lost = taken_back(edit.before, standing)
        found |= {record.identity: record for record in standing if record not in lost}
    return list(found.values())


def _refuse_undoing(
    edit: EditFile,
    owner: Owner,
    new: Mapping[Owner, Mapping[str, Sequence[Record]]],
    lock: Lock,
    owners: frozenset[Owner],
) -> None:
    """Refuse an edit that undoes what another owner put into a file that both need.

    Raises:
        Refused: with both their names.
    """
    others = {other: its.get(edit.path, ()) for other, its in new.items() if other != owner}
    others |= {
        other: [record for record in records if record.path == edit.path]
        for other, records in lock.edits.items()
        if other not in owners
    }
    for other, records in others.items():
        _, lost_before = taken_back(edit.before, records)
        standing = [record for record in records if record not in lost_before]
        if taken_back(edit.after, standing)[1]:
            message = f"{edit.path} would be edited differently by two: {other}, and {owner}"
            raise Refused(message, hint="Give both the same options, or one of them a source of its own.")


def _is_as_before(
    project: Project,
    path: str,
    new: Mapping[Owner, Mapping[str, Sequence[Record]]],
    alone: Mapping[str, tuple[Record, ...]],
    lock: Lock,
    owners: frozenset[Owner],
) -> bool:
    """Whether all that would be put into a file stands there already, wherever a person has moved it to."""
    if path not in project or not any(record.path == path for owner in owners for record in lock.edits.get(owner, ())):
        return False
    for owner in {*owners, *new}:
        before = Counter(record.identity for record in lock.edits.get(owner, ()) if record.path == path)
        if before != Counter(record.identity for record in new.get(owner, {}).get(path, ())):
            return False
    _, lost = taken_back(project.read(path), alone.get(path, ()))
    return not lost


def _recorded(owner: Owner, its: Mapping[str, Sequence[Record]], kept: set[str], lock: Lock) -> list[Record]:
    """The edits of an owner as the lock file gets them: as they are there for files that stay as they are."""
    found = [record for record in lock.edits.get(owner, ()) if record.path in kept]
    return found + [record for path, records in its.items() if path not in kept for record in records]
