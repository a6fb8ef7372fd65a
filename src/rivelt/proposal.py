"""What apply would do to a project, as one value: planned, and compared with what is there."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from rivelt.brief.find import shown_path
from rivelt.editions import Edition, plates_of
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.layout.sharpness import BLURRED, sharpness_of
from rivelt.platforms import TARGETS, platform, signs
from rivelt.progress import Progress, no_progress
from rivelt.project.files import DISK, Files
from rivelt.project.snapshot import parent, upwards
from rivelt.scene.site import Site
from rivelt.values import replace
from rivelt.workspace.change import Changes
from rivelt.workspace.compare import (
    Wanted,
    compare,
    limited,
    planned_files,
    refuse_loss,
    refuse_two_makers,
    rendered,
)
from rivelt.workspace.edits import without_edits
from rivelt.workspace.inherit import inherited
from rivelt.workspace.lockfile import Lock, lock_of
from rivelt.workspace.ownership import generated_words

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Recipe
    from rivelt.plan.owner import Owner
    from rivelt.project.project import Project
    from rivelt.project.snapshot import Content


_BUILDS = (".gradle", ".gradle.kts", ".versions.toml")


class Work(Struct, frozen=True, dict=True):
    """All that plans are made from.

    `root`: the project's folder. `project`: its files as they are. `editions`: those that are planned for, with their art. `find`: gives
    their sites in any state of the project. `is_whole`: whether nothing was narrowed, so that what the briefs do not have any more goes.
    `files`: where the project is.
    """

    root: Path
    project: Project
    editions: Sequence[Edition]
    find: Callable[[Project], Sequence[Site]]
    is_whole: bool = True
    files: Files = DISK

    @cached_property
    def by_key(self) -> Mapping[tuple[str, str], Edition]:
        """The editions by what their sites call them."""
        return {edition.key: edition for edition in self.editions}

    def edition_of(self, site: Site) -> Edition:
        """Return the edition that a site is of."""
        return self.by_key[site.brief, site.edition]

    def brief_of(self, site: Site) -> Brief | None:
        """Return the brief, or the edition of it, that a site is of."""
        edition = self.by_key.get((site.brief, site.edition))
        return edition.brief if edition is not None else None

    @cached_property
    def lock(self) -> Lock:
        """What was done before; what a brief of another name, or an older format, did for the same site counts as done for it now."""
        written = lock_of(self.project)
        sites = self.find(self.project)
        lock = inherited(written, [site.owner for site in sites], lambda brief: self.files.is_file(self.root / brief))
        if all(owner.brief for owner in written.owners) or not self.files.is_disk:
            return lock
        from rivelt.workspace.recover import recovered

        heirs = {site.owner: partial(_may_touch, site) for site in sites if site.owner not in written.owners}
        return recovered(lock, self.root, self.project, heirs)

    def is_mine(self, owner: Owner) -> bool:
        """Return whether an owner is, or was, one of these briefs."""
        briefs = {brief for brief, _ in self.by_key}
        if owner.brief not in briefs:
            return False
        if self.is_whole:
            return True
        targets = {target for edition in self.editions for target in edition.brief.targets or (owner.target,)}
        return (owner.brief, owner.edition) in self.by_key and owner.target in targets


def _may_touch(site: Site, path: str) -> bool:
    """Whether apply edits a file for a site, now or before."""
    is_inside = any(home and path.startswith(f"{home}/") for home in site.homes)
    return path in site.touches or is_inside or (site.target == "android" and path.endswith(_BUILDS))


class Proposal(Struct, frozen=True, dict=True):
    """What apply would do: the plans of all sites, as values.

    `blocked` are the sites that are left untouched, each with its reason. Nothing is rendered yet but (in `wanted.rendered`) the plates
    whose weight decides on the plan; `too_large`: those that turned out too heavy, with their bytes.
    """

    work: Work
    wanted: Wanted
    blocked: Mapping[Site, RiveltError]
    too_large: Mapping[Recipe, int] = {}

    @property
    def plans(self) -> Mapping[Site, Plan]:
        """The plan of each site."""
        return self.wanted.plans

    @property
    def sites(self) -> tuple[Site, ...]:
        """The sites that something would be done to, or nothing is left to do."""
        return tuple(self.plans)

    @cached_property
    def _files(self) -> Mapping[str, Content | None]:
        return planned_files(self.wanted)

    @cached_property
    def after(self) -> Project:
        """The project as apply would leave it; plates are rendered only when something wants their pixels."""
        return self.work.project.overlay(self._files)

    def made_for(self, site: Site) -> Iterable[str]:
        """Return the paths of all that would be generated for a site."""
        return [path for one, plan in self.plans.items() if one.owner == site.owner for path in plan.generated_paths()]

    @property
    def changes_files(self) -> bool:
        """Whether a file of the project would become different, whatever the lock file says."""
        project = self.work.project
        return any(
            (path in project) if content is None else path not in project or content != project.read(path)
            for path, content in self._files.items()
        )

    def narrowed(self, targets: Iterable[str]) -> Proposal:
        """Return what would be done to the sites of some targets alone."""
        names = set(targets)
        editions = [edition for edition in self.work.editions if names & set(edition.targets)]
        work = replace(self.work, editions=editions, is_whole=False)
        stopped = {**self.blocked, **{site: _LEFT_OUT for site in self.plans if site.target not in names}}
        found = replace(self, work=work).without(stopped)
        blocked = {site: error for site, error in found.blocked.items() if error is not _LEFT_OUT}
        return replace(found, blocked=blocked)

    def without(self, stopped: Mapping[Site, RiveltError]) -> Proposal:
        """Return what would be done where some sites are left untouched, each with its reason."""
        found = _planned(self.work, self.too_large, stopped)
        return replace(found, wanted=replace(found.wanted, rendered=self.wanted.rendered))

    def rendered(self, on_progress: Progress = no_progress) -> Proposal:
        """Return it with all plates rendered that are not on disk; `on_progress` is called after each."""
        return replace(self, wanted=replace(self.wanted, rendered=rendered(self.wanted, on_progress=on_progress)))

    def changes(self, *, prune: bool = False) -> Changes:
        """Return what would change on disk, without checking whose edits that overwrites; missing plates are rendered.

        `prune`: also remove launch images that nothing uses any more.
        """
        found = compare(
            self.work.root,
            self.wanted,
            inputs={site.owner: self.work.edition_of(site).inputs for site in self.plans},
            prune=prune,
        )
        return replace(found, left_alone=self.blocked)

    def refuse_loss(self, changes: Changes) -> None:
        """Refuse to replace or remove a generated file that a person has edited since, or that nothing shows Rivelt to have made.

        Raises:
            Refused: there is one; the diffs are in `details`.
        """
        words = tuple(dict.fromkeys(word for one in self.work.editions for word in generated_words(one.brief)))
        refuse_loss(self.wanted, changes, words)


_LEFT_OUT = BadInput("left out")


def propose(work: Work) -> Proposal:
    """Plan everything for the sites of some editions.

    Raises:
        BadInput: none of them can be handled, or the art cannot be used.
        Refused: two owners would make one file differently.
    """
    for edition in work.editions:
        _refuse_enlarged(edition.context, {site.target for site in edition.sites})
    proposal = _planned(work, {}, {})
    made = limited(proposal.wanted)
    too_large = {
        recipe: len(data)
        for (recipe, _), data in made.items()
        if recipe.most_bytes is not None and len(data) > recipe.most_bytes
    }
    if too_large:
        proposal = _planned(work, too_large, {})
    refuse_nothing(proposal)
    refuse_two_makers(proposal.wanted)
    return replace(proposal, wanted=replace(proposal.wanted, rendered=made))


def no_site(brief: Brief) -> BadInput:
    """Return the error for a project in which there is no site that a brief wants."""
    wanted = " or ".join(platform(target).title for target in brief.targets or ())
    what = f"no {wanted} project" if wanted else "no native project"
    at = brief.places.get("app.project") or brief.places.get("app") or Place(shown_path(brief.path))
    sign = signs(brief.targets or TARGETS) or "them"
    hint = f"Correct `app.project`: the folder that holds {sign} somewhere below it."
    return BadInput(f"{what} was found in {shown_path(brief.project) or '.'}", place=at, hint=hint)


def refuse_nothing(proposal: Proposal) -> None:
    """Refuse a proposal in which no site can be handled.

    Raises:
        BadInput: with the reasons of all sites; `Refused` among them where going on would break an app.
    """
    if not proposal.plans:
        raise_all([site.blame(error) for site, error in proposal.blocked.items()])


def _planned(work: Work, too_large: Mapping[Recipe, int], stopped: Mapping[Site, RiveltError]) -> Proposal:
    """The plan of each site, or why it has none; made for the project without what these owners edited before.

    Two sites may share a file: the second plan continues where the first ends. What was edited for a site that is blocked stays: all is
    planned once more.
    """
    blocked = {site.owner: error for site, error in stopped.items()}
    while True:
        owners = frozenset(owner for owner in work.lock.owners if work.is_mine(owner) and owner not in blocked)
        base = without_edits(work.project, work.lock, owners)
        sites = work.find(base)
        plans, errors = _plans_of(work, base, sites, too_large, blocked)
        kept = {
            site.owner: error
            for site, error in errors.items()
            if site.owner in owners and work.lock.edits.get(site.owner)
        }
        if not kept:
            break
        blocked |= kept
    gone = _gone(work, owners, sites, errors)
    small = frozenset(site.owner for site in plans if work.edition_of(site).brief.app.small_files)
    wanted = Wanted(work.project, base, plans, work.lock, gone, is_small=small)
    wanted = replace(wanted, settled=_settled(work, wanted, too_large, blocked))
    return Proposal(work, wanted, errors, too_large)


def _settled(
    work: Work,
    wanted: Wanted,
    too_large: Mapping[Recipe, int],
    blocked: Mapping[Owner, RiveltError],
) -> frozenset[str]:
    """The files that plans made for the project as it is would leave as they are, although they were edited before.

    A person may have moved what Rivelt put; it is as good there. Asked only where the plans made without it would put the same elsewhere.
    """
    moved = wanted.moved
    if not moved:
        return frozenset()
    again, _ = _plans_of(work, work.project, work.find(work.project), too_large, blocked)
    changed = {edit.path for plan in again.values() for edit in plan.edits if edit.before != edit.after}
    return moved - changed


def _gone(
    work: Work, owners: frozenset[Owner], sites: Sequence[Site], errors: Mapping[Site, RiveltError]
) -> frozenset[Owner]:
    """The owners that these briefs do not have any more; of a target of which a site is blocked nobody is known to be gone."""
    if not work.is_whole:
        return frozenset()
    there = {site.owner for site in sites}
    unsure = {(site.brief, site.edition, site.target) for site in errors}
    return frozenset(
        owner for owner in owners if owner not in there and (owner.brief, owner.edition, owner.target) not in unsure
    )


def _plans_of(
    work: Work,
    base: Project,
    sites: Sequence[Site],
    too_large: Mapping[Recipe, int],
    stopped: Mapping[Owner, RiveltError],
) -> tuple[dict[Site, Plan], dict[Site, RiveltError]]:
    """The plan of each site, and why others have none."""
    from rivelt.workspace.vet import refuse_read_only

    plans: dict[Site, Plan] = {}
    blocked: dict[Site, RiveltError] = {}
    made: set[str] = set()
    current = base
    for site in sites:
        try:
            if (problem := stopped.get(site.owner) or site.blocked or _in_hidden_folder(site)) is not None:
                raise problem
            context = replace(
                work.edition_of(site).context.for_target(site.target),
                too_large=too_large,
                **_made_before(work, site.owner, made),
            )
            plan = platform(site.target).plan(context, current, site)
            _refuse_in_the_way(current, plan)
            for edit in plan.edits:
                if edit.before != edit.after and work.files.is_disk:
                    refuse_read_only(work.root, edit.path)
            edited = {edit.path: edit.after for edit in plan.edits if edit.before != edit.after}
            after = current.overlay(edited | {file.path: file.content for file in plan.files if not file.is_fallback})
            for edit in plan.edits:
                after.reread(edit.path)
            plans[site], current = plan, after
            made |= set(plan.generated_paths()) - {file.path for file in plan.files if file.is_fallback}
        except RiveltError as error:
            blocked[site] = error
    return plans, blocked


def _in_hidden_folder(site: Site) -> BadInput | None:
    """The refusal to write below a hidden folder, whose content some tool makes; None where the site is not in one."""
    hidden = next((part for part in site.path.split("/")[:-1] if part.startswith(".")), None)
    if hidden is None:
        return None
    message = f"{site.path} is in the hidden folder {hidden}, which a tool makes: nothing is written there"
    return BadInput(message, hint="Change what the tool makes it from; or leave it out with exclude under [app].")


def _made_before(work: Work, owner: Owner, made: set[str]) -> dict[str, Any]:
    """What a planner must know: what is generated, by earlier applies, and what others make, now or by an apply of their own."""
    others = (files for other, files in work.lock.files.items() if other != owner and not work.is_mine(other))
    theirs = {path for files in others for path, locked in files.items() if not locked.is_fallback}
    return {"generated": frozenset(work.lock.paths), "made_by_others": frozenset(theirs | made)}


def _refuse_in_the_way(project: Project, plan: Plan) -> None:
    """Refuse a plan that needs a folder where a file is, or a file where a folder is.

    Raises:
        BadInput: with the place of what is in the way.
    """
    hint = "Move it, or choose another place in the brief."
    for path in plan.generated_paths():
        file = next((folder for folder in upwards(parent(path)) if folder and folder in project), None)
        if file is not None:
            raise BadInput("a file is where a folder is needed", place=Place(file), hint=hint)
        if project.below(path):
            raise BadInput("a folder is where a file is needed", place=Place(path), hint=hint)


def _refuse_enlarged(context: PlanContext, targets: Iterable[str]) -> None:
    """Refuse bitmaps that would be blurred to more than twice their size, unless the brief allows it.

    Raises:
        BadInput: there is one; `Problems` for several.
    """
    if context.brief.layout.enlarge or all(found.art.svg is not None for found in context.art.values()):
        return
    from rivelt.layout.report import report_brief
    from rivelt.rules.art import blurred

    sharpness = sharpness_of(plates_of(context, targets))
    wanted = {art for art, found in sharpness.items() if found.largest > BLURRED}
    if not wanted:
        return
    problems: dict[Art, RiveltError] = {}
    for report in report_brief(context, sharpness):
        if report.art in wanted:
            said = blurred(report, may_enlarge=False)
            problems.setdefault(report.art, BadInput(said.message, place=said.place, hint=said.fix))
    raise_all(list(problems.values()))
