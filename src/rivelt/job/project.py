"""A project: surveyed, planned, applied, taken back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.job.art import context_of
from rivelt.job.briefs import check_targets, shown_path
from rivelt.platforms import TARGETS, platform, signs
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import Content, Snapshot

if TYPE_CHECKING:
    from rivelt.plan.context import PlanContext
    from rivelt.plan.model import Bundle, Plan, Recipe
    from rivelt.platforms.site import Site
    from rivelt.workspace.compare import Changes


@dataclass(frozen=True)
class Survey:
    """The sites of a project, by target in the order of `TARGETS`."""

    root: Path
    sites: tuple[Site, ...]


def survey(project: Path, targets: Sequence[str] | None = None) -> Survey:
    """What native projects there are, of some targets or (None) all.

    Raises:
        BadInput: `project` is not a folder that can be listed, or there is no such target.
    """
    check_targets(targets or ())
    return Survey(project.resolve(), sites_of(Snapshot.of_folder(project.resolve()), targets))


def targets_found(project: Path) -> tuple[str, ...]:
    """The targets of the sites in a project that can be handled."""
    return tuple(dict.fromkeys(site.target for site in survey(project).sites if site.blocked is None))


def sites_of(snapshot: Snapshot, targets: Iterable[str] | None, brief: Brief | None = None) -> tuple[Site, ...]:
    """The sites of a project, by target in the order of `TARGETS`; with a brief those that it chooses."""
    chosen = tuple(targets) if targets is not None else TARGETS
    return tuple(site for target in TARGETS if target in chosen for site in platform(target).survey(snapshot, brief))


@dataclass(frozen=True)
class Proposal:
    """What apply would do: the plans of all sites, as values.

    `blocked` are the sites that are left untouched, each with its reason. Nothing is rendered yet but (in `rendered`) the plates whose
    weight decides on the plan. `inputs`: the SHA-256 of each file of art.
    """

    brief: Brief
    snapshot: Snapshot
    sites: tuple[Site, ...]
    plans: tuple[Plan, ...]
    blocked: Mapping[Site, RiveltError]
    rendered: Mapping[Recipe, bytes] = field(default_factory=dict, repr=False)
    inputs: Mapping[str, str] = field(default_factory=dict, repr=False)

    @property
    def root(self) -> Path:
        """The folder that every path of the plans is relative to."""
        return self.brief.project


def prepare(brief: Brief) -> Proposal:
    """Plan everything for the sites that the brief asks for.

    Raises:
        BadInput: no site is there, or none can be handled, or the art cannot be used.
    """
    from rivelt.artwork.gather import inputs_of
    from rivelt.artwork.sharpness import refuse_enlarged
    from rivelt.workspace.compare import limited
    from rivelt.workspace.lockfile import generated_in

    snapshot = Snapshot.of_folder(brief.project)
    sites = sites_of(snapshot, brief.targets, brief)
    if not sites:
        raise _no_sites(brief)
    context = replace(context_of(brief), generated=generated_in(snapshot))
    refuse_enlarged(context, {site.target for site in sites})
    plans, blocked = _planned(context, snapshot, sites)
    rendered = limited(snapshot, tuple(plans.values()))
    context = replace(context, too_large=_too_large(rendered))
    if context.too_large:
        plans, blocked = _planned(context, snapshot, sites)
    if not plans:
        raise_all([site.blame(error) for site, error in blocked.items()])
    return Proposal(brief, snapshot, tuple(plans), tuple(plans.values()), blocked, rendered, inputs_of(brief))


def _planned(
    context: PlanContext, snapshot: Snapshot, sites: Iterable[Site]
) -> tuple[dict[Site, Plan], dict[Site, RiveltError]]:
    """The plan of each site, or why it has none. Two sites may share a file: the second plan goes on where the first one ends."""
    from rivelt.workspace.commit import refuse_read_only

    plans: dict[Site, Plan] = {}
    blocked: dict[Site, RiveltError] = {}
    for site in sites:
        try:
            if site.blocked is not None:
                raise site.blocked
            plan = platform(site.target).plan(context, snapshot, site)
            for edit in plan.edits:
                refuse_read_only(context.brief.project, edit.path)
            plans[site] = plan
            snapshot = snapshot.overlay({edit.path: edit.after for edit in plan.edits})
        except RiveltError as error:
            blocked[site] = error
    return plans, blocked


def _too_large(rendered: Mapping[Recipe, bytes]) -> dict[Recipe, int]:
    return {
        recipe: len(data)
        for recipe, data in rendered.items()
        if recipe.most_bytes is not None and len(data) > recipe.most_bytes
    }


def _no_sites(brief: Brief) -> BadInput:
    wanted = " or ".join(platform(target).title for target in brief.targets or ())
    what = f"no {wanted} project" if wanted else "no native project"
    at = brief.places.get("app.project") or brief.places.get("app") or Place(shown_path(brief.path))
    hint = f"Mend `app.project`: the folder that holds {signs(brief.targets or TARGETS) or 'them'} somewhere below it."
    return BadInput(f"{what} was found in {shown_path(brief.project) or '.'}", place=at, hint=hint)


def would_be(proposal: Proposal) -> Snapshot:
    """The project as apply would leave it; plates are rendered only when they are looked at."""
    from rivelt.pixels.archive import zipped
    from rivelt.pixels.render import render

    def lazily(recipe: Recipe) -> Content:
        return lambda: proposal.rendered.get(recipe) or render(recipe)

    def packed(bundle: Bundle) -> Content:
        return lambda: zipped({plate.path: render(plate.recipe) for plate in bundle.plates})

    files: dict[str, Content] = {}
    for plan in proposal.plans:
        files |= {plate.path: lazily(plate.recipe) for plate in plan.plates}
        files |= {bundle.path: packed(bundle) for bundle in plan.bundles}
        files |= {file.path: file.content for file in plan.files}
        files |= {edit.path: edit.after for edit in plan.edits}
    return proposal.snapshot.overlay(files)


def changes_of(
    proposal: Proposal, *, force: bool = False, prune: bool = False, on_progress: Progress = no_progress
) -> Changes:
    """What would become different on disk; the plates that are not there yet are rendered now.

    Args:
        proposal: what `prepare` gave.
        force: replace generated files even if a person has edited them since.
        prune: remove launch images that nothing uses any more.
        on_progress: told how far the rendering is.

    Raises:
        Refused: generated files were edited by a person (their diffs are in `details`), or an apply was stopped halfway.
    """
    from rivelt.workspace.commit import refuse_unfinished
    from rivelt.workspace.compare import compare

    refuse_unfinished(proposal.root)
    brief = proposal.brief
    return compare(
        proposal.root,
        proposal.snapshot,
        proposal.plans,
        inputs=proposal.inputs,
        rendered=proposal.rendered,
        is_small=brief.small_files,
        force=force,
        prune=prune,
        on_progress=on_progress,
    )


def apply(changes: Changes) -> None:
    """Write the changes into the project: all of them, or none.

    Raises:
        Refused: a file is not what it was when the plan was made.
        BadInput: a file cannot be written.
    """
    from rivelt.workspace.commit import commit

    commit(changes.root, changes.files)


def unfinished(project: Path) -> bool:
    """Whether an apply was stopped halfway in a project, or in a folder above it, and not taken back yet."""
    found = applies(applied_project(project if project.is_dir() else project.parent))
    return bool(found) and not found[0].is_done


def applied_project(start: Path) -> Path:
    """The nearest folder, from `start` upwards, in which Rivelt has applied something; `start` itself when there is none.

    Raises:
        BadInput: `start` does not exist.
    """
    from rivelt.workspace.journal import FOLDER

    if not start.exists():
        raise BadInput(f"there is no folder {start}", hint="Give a number of applies, or the project's folder.")
    folder = start.resolve()
    return next((above for above in (folder, *folder.parents) if (above / FOLDER).is_dir()), folder)


@dataclass(frozen=True)
class Applied:
    """One apply that can be taken back. `when`: seconds since 1970. `is_done`: False for one that was stopped halfway."""

    number: int
    when: float
    created: int
    edited: int
    removed: int
    is_done: bool


def applies(project: Path) -> list[Applied]:
    """The applies of a project that can be taken back, the last one first."""
    from rivelt.workspace import journal as journals

    root = project.resolve()
    found = []
    for number in reversed(journals.numbers(root)):
        journal = journals.read(root, number)
        created = sum(entry.before is None for entry in journal.entries)
        removed = sum(entry.after is None for entry in journal.entries)
        when = (journals.journal_folder(root, number)).stat().st_mtime
        edited = len(journal.entries) - created - removed
        found.append(Applied(number, when, created, edited, removed, journal.is_done))
    return found


def undo(project: Path, *, times: int = 1, force: bool = False) -> list[str]:
    """Take the last applies back, to the byte; returns the paths that were restored or removed.

    Raises:
        BadInput: there are not so many.
        Refused: files were changed since, and `force` is not given; those of the apply in question are not touched.
    """
    from rivelt.workspace.commit import undo as take_back

    root = project.resolve()
    known = len(applies(root))
    if known < times and known:
        there = "is only 1 apply" if known == 1 else f"are only {known} applies"
        raise BadInput(f"there {there} to take back", hint="See them with: rivelt undo --list")
    return list(dict.fromkeys(path for _ in range(times) for path in take_back(root, force=force)))


def lay_out_demo(folder: Path) -> None:
    """Lay the sample app out in a folder that is new, empty, or an unchanged demo of ours.

    Raises:
        Refused: the folder holds something else.
    """
    from rivelt.demo.layout import lay_out

    lay_out(folder)
