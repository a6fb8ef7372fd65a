"""How a project differs from what its briefs make: asked by the rules on drift."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from rivelt.errors import RiveltError
from rivelt.rules.drift import Difference, Drift
from rivelt.workspace.compare import is_as_written
from rivelt.workspace.lockfile import LOCK_NAME, Lock, lock_of

if TYPE_CHECKING:
    from rivelt.last_look import Passed
    from rivelt.project.project import Project
    from rivelt.proposal import Proposal


def drift_of(
    project: Project,
    passed: Callable[[], Passed],
    key: tuple[str, str],
) -> Drift:
    """Return how a project differs from what a brief, or an edition, makes.

    Args:
        project: the project as it is.
        passed: returns what apply would write, or raises the reason why that is unknown.
        key: the brief's path relative to the project, and the edition's name.
    """
    if LOCK_NAME not in project:
        return Drift(problem="nothing has been applied yet")
    try:
        found: Passed | RiveltError = passed()
    except RiveltError as error:
        found = error
    try:
        lock = lock_of(project) if isinstance(found, RiveltError) else found.proposal.work.lock
    except RiveltError as error:
        return Drift(problem=str(error))
    mine = {owner for owner in lock.owners if (owner.brief, owner.edition) == key or not owner.brief}
    own = {path: owners for path, owners in lock.paths.items() if mine & owners.keys()}
    edited = [path for path in own if path in project and not is_as_written(path, project.read(path), lock)]
    if isinstance(found, RiveltError):
        return Drift(edited=edited, problem=str(found))
    if not mine:
        return Drift(problem="nothing has been applied yet")
    proposal = found.proposal
    edition = proposal.work.by_key.get(key)
    if edition is None:
        return Drift(edited=edited)
    changed = {
        site.owner.site: [
            name
            for name, digest in edition.inputs.items()
            if lock.inputs.get(site.owner, {}).get(name, digest) != digest
        ]
        for site in proposal.plans
        if (site.brief, site.edition) == key
    }
    sites = _sites_of_paths(proposal, key, lock)
    different = [
        Difference(site, change.action, change.path, change.why)
        for change in found.changes.files
        for site in sorted(sites.get(change.path, ()))
    ]
    unused = [
        path for site, plan in proposal.plans.items() if (site.brief, site.edition) == key for path in plan.unused
    ]
    return Drift(edited, changed, different, tuple(dict.fromkeys(unused)))


def _sites_of_paths(proposal: Proposal, key: tuple[str, str], lock: Lock) -> Mapping[str, set[str]]:
    """The sites of an edition that each path is generated or edited for, now or before."""
    found: dict[str, set[str]] = {}
    for site, plan in proposal.plans.items():
        if (site.brief, site.edition) == key:
            for path in (*plan.generated_paths(), *(edit.path for edit in plan.edits)):
                found.setdefault(path, set()).add(site.owner.site)
    for owner in lock.owners:
        if (owner.brief, owner.edition) == key:
            for path in (*lock.files.get(owner, {}), *(record.path for record in lock.edits.get(owner, ()))):
                found.setdefault(path, set()).add(owner.site)
    return found
