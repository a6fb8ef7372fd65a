"""Taking out what Rivelt made: generated files that are as they were written, and edits that still stand; in a fresh clone too."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from rivelt.documents.work import LeftItem, MadeBy, RemoveDocument, RemoveSummary
from rivelt.errors import BadInput, Place, Refused
from rivelt.evidence import Evidence
from rivelt.findings import Finding
from rivelt.plan.owner import Owner
from rivelt.platforms import TARGETS, platform, survey_of
from rivelt.platforms.rulebooks import catalogue, choose
from rivelt.project.project import Project
from rivelt.rules.books import SITES
from rivelt.rules.runner import Choice
from rivelt.scene.site import Site
from rivelt.workspace.change import Change, Changes, item_of
from rivelt.workspace.compare import is_as_written, lock_change, refuse_unproven
from rivelt.workspace.edits import standing_alone
from rivelt.workspace.lockfile import LOCK_NAME, Lock, lock_of
from rivelt.workspace.record import taken_back


class Left(Struct, frozen=True):
    """What stays because a person has changed it since: a generated file, or an edit in a file of the person's."""

    path: str
    what: str


class Removal(Struct, frozen=True):
    """What taking out changes. `owners`: who made it. `left`: what stays, and why. `shared`: paths that other owners still need."""

    changes: Changes
    owners: tuple[Owner, ...]
    left: tuple[Left, ...]
    shared: tuple[str, ...]

    def document(self, *, is_done: bool = False) -> RemoveDocument:
        """Return it as `rivelt remove --json` prints it; `is_done`: it has been taken out."""
        actions = [change.action for change in self.changes.files]
        return RemoveDocument(
            root=str(self.changes.root),
            summary=RemoveSummary(edited=actions.count("edit"), removed=actions.count("delete"), left=len(self.left)),
            removed=is_done,
            owners=[MadeBy(brief=one.brief, edition=one.edition, site=one.site) for one in self.owners],
            changes=list(map(item_of, self.changes.files)),
            left=[LeftItem(path=one.path, reason=one.what) for one in self.left],
            shared=list(self.shared),
        )

    def to_dict(self, *, is_done: bool = False) -> dict[str, Any]:
        """Return it as plain data, as `rivelt remove --json` prints it."""
        return self.document(is_done=is_done).to_dict()


def removal(
    root: Path,
    project: Project,
    is_chosen: Callable[[Owner], bool],
    *,
    words: Sequence[str] = (),
    force: bool = False,
) -> Removal:
    """Return what taking out all that some owners made would change.

    Args:
        root: the project's folder.
        project: its files.
        is_chosen: whether what an owner made is to go.
        words: what names of generated files begin with.
        force: continue even where an app would be left broken, or a file is not known to be Rivelt's.

    Raises:
        BadInput: nothing was made by such an owner.
        Refused: it would break an app, or a file is not known to be Rivelt's; and `force` is not given.
    """
    lock = lock_of(project)
    owners = frozenset(filter(is_chosen, lock.owners))
    if not owners:
        hint = f"There are: {'; '.join(map(str, sorted(lock.owners)))}." if lock.owners else None
        raise BadInput(f"{LOCK_NAME} names nothing that would be taken out", hint=hint)
    generated, left = _files(project, lock, owners)
    edits, lost = _edits(project, lock, owners)
    others = {path for path, holders in lock.paths.items() if holders.keys() & owners and not holders.keys() <= owners}
    shared = sorted(others | _shared_edits(lock, owners))
    if not force:
        refuse_unproven(root, generated, words)
        _refuse_broken(project, [*generated, *edits], lock, owners)
    files = (*generated, *edits, *lock_change(project, lock.without(owners)))
    return Removal(Changes(root, files), tuple(sorted(owners)), tuple(left + lost), tuple(shared))


def _files(project: Project, lock: Lock, owners: frozenset[Owner]) -> tuple[list[Change], list[Left]]:
    """The generated files that go, and those that a person has edited."""
    going: list[Change] = []
    left: list[Left] = []
    for path, holders in sorted(lock.paths.items()):
        if path in project and holders.keys() <= owners:
            if is_as_written(path, content := project.read(path), lock):
                going.append(Change(path, content, None, "made by Rivelt"))
            else:
                left.append(Left(path, "this generated file was edited since"))
    return going, left


def _edits(project: Project, lock: Lock, owners: frozenset[Owner]) -> tuple[list[Change], list[Left]]:
    """The files without the edits that go, and the edits that do not stand any more as they were made."""
    changes: list[Change] = []
    left: list[Left] = []
    for path, records in sorted(standing_alone(lock, owners).items()):
        if path not in project:
            continue
        before = project.read(path)
        after, lost = taken_back(before, records)
        if after != before:
            changes.append(Change(path, before, after, "without what Rivelt edited"))
        for record in lost:
            shown = (record.put.text or record.put.head).strip().split("\n")[0]
            left.append(
                Left(
                    path,
                    f"this edit was changed since: {shown}" if shown else "what was taken out here cannot be put back",
                )
            )
    return changes, left


def _shared_edits(lock: Lock, owners: frozenset[Owner]) -> set[str]:
    """The files with edits of these owners that others need too."""
    mine = {record.identity: record.path for owner in owners for record in lock.edits.get(owner, ())}
    theirs = {record.identity for owner, records in lock.edits.items() if owner not in owners for record in records}
    return {path for identity, path in mine.items() if identity in theirs}


def _refuse_broken(project: Project, changes: Sequence[Change], lock: Lock, owners: frozenset[Owner]) -> None:
    """Refuse to leave an app with an error that it does not have now.

    Raises:
        Refused: with the first such error.
    """
    targets = {owner.target for owner in owners} & set(TARGETS)
    choice = _errors()
    before = _judged(project, targets, choice)
    known = {(found.code, found.site.partition(" (")[0]) for found in before}
    after = project.overlay({change.path: change.after for change in changes})
    new = next(
        (
            found
            for found in _judged(after, targets, choice)
            if (found.code, found.site.partition(" (")[0]) not in known
        ),
        None,
    )
    if new is None:
        return
    rest = sorted({str(owner) for owner in lock.owners - owners})
    message = f"without it, {new.site} would be broken: {new.message} ({new.code})"
    hint = "Take out what the others made as well" + (f": {'; '.join(rest)}." if rest else ".")
    if any(not owner.brief for owner in owners):
        hint = (
            "Its edits were made by an older Rivelt, which did not note them: undo them by hand first; or use --force."
        )
    raise Refused(message, place=new.place or Place(LOCK_NAME), hint=hint)


def _errors() -> Choice:
    choice = choose(None)
    on_sites = {code for book in (SITES, *(platform(target).rules for target in TARGETS)) for code in book.rules}
    return Choice(
        frozenset(
            code for code, rule in catalogue().items() if code in on_sites and choice.severity_of(rule) == "error"
        )
    )


def _judged(project: Project, targets: set[str], choice: Choice) -> list[Finding]:
    """The errors of all sites of some platforms, in every variant."""
    sites: list[Site] = [site for target in TARGETS if target in targets for site in survey_of(target, project)]
    evidence = Evidence(project, sites)
    return [found for found in evidence.judge(evidence.sites, choice) if found.verdict == "broken"]
