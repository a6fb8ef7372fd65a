"""What apply would do to a project, as one value: planned, judged before anything is written, and compared with the disk."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING

from rivelt.brief.find import shown_path
from rivelt.errors import BadInput, Place, Refused, RiveltError, raise_all
from rivelt.evidence import Evidence
from rivelt.findings import Finding
from rivelt.layout.sharpness import BLURRED, sharpness_of
from rivelt.platforms import TARGETS, platform, signs
from rivelt.platforms.rulebooks import catalogue
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import parent, upwards
from rivelt.rules.books import SITES
from rivelt.rules.drift import Drift
from rivelt.rules.runner import Choice
from rivelt.scene.site import Site
from rivelt.workspace.change import sha256
from rivelt.workspace.compare import Changes, compare, limited, planned_files
from rivelt.workspace.lockfile import LOCK_NAME, lock_of
from rivelt.workspace.ownership import generated_words

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Recipe
    from rivelt.project.project import Project
    from rivelt.project.snapshot import Content


@dataclass(frozen=True)
class Proposal:
    """What apply would do: the plans of all sites, as values.

    `blocked` are the sites that are left untouched, each with its reason. Nothing is rendered yet but (in `rendered`) the plates whose
    weight decides on the plan. `inputs`: the SHA-256 of each file of art.
    """

    brief: Brief
    project: Project
    plans: Mapping[Site, Plan]
    blocked: Mapping[Site, RiveltError]
    rendered: Mapping[Recipe, bytes] = field(default_factory=dict, repr=False)
    inputs: Mapping[str, str] = field(default_factory=dict, repr=False)

    @property
    def sites(self) -> tuple[Site, ...]:
        """The sites that something would be done to, or nothing is left to do."""
        return tuple(self.plans)

    @cached_property
    def _files(self) -> Mapping[str, Content | None]:
        is_small = self.brief.app.small_files
        return planned_files(self.project, tuple(self.plans.values()), self.rendered, is_small=is_small)

    @cached_property
    def after(self) -> Project:
        """The project as apply would leave it; plates are rendered only when something wants their pixels."""
        return self.project.overlay(self._files)

    @property
    def changes_files(self) -> bool:
        """Whether a file of the project would become different, whatever the lock file says."""
        return any(
            (path in self.project)
            if content is None
            else path not in self.project or content != self.project.read(path)
            for path, content in self._files.items()
        )

    def narrowed(self, targets: Iterable[str]) -> Proposal:
        """Return what would be done to the sites of some targets alone."""
        wanted = set(targets)
        return replace(self, plans={site: plan for site, plan in self.plans.items() if site.target in wanted})

    def changes(self, *, force: bool = False, prune: bool = False, on_progress: Progress = no_progress) -> Changes:
        """Return what would become different on disk; the plates that are not there yet are rendered now.

        Args:
            force: replace generated files even if a person has edited them since.
            prune: remove launch images that nothing uses any more.
            on_progress: called as plates are rendered.

        Raises:
            Refused: generated files were edited by a person (their diffs are in `details`), or an apply was stopped halfway.
        """
        from rivelt.workspace.commit import refuse_unfinished

        refuse_unfinished(self.brief.project)
        return compare(
            self.brief.project,
            self.project,
            tuple(self.plans.values()),
            inputs=self.inputs,
            words=generated_words(self.brief),
            rendered=self.rendered,
            is_small=self.brief.app.small_files,
            force=force,
            prune=prune,
            on_progress=on_progress,
        )


def propose(context: PlanContext, project: Project, sites: Sequence[Site], inputs: Mapping[str, str]) -> Proposal:
    """Plan everything for some sites.

    Raises:
        BadInput: none of them can be handled, or the art cannot be used.
    """
    context = replace(context, generated=frozenset(lock_of(project).files))
    _refuse_enlarged(context, {site.target for site in sites})
    proposal = _planned(context, project, sites, inputs, {})
    rendered = limited(project, tuple(proposal.plans.values()))
    too_large = {
        recipe: len(data)
        for recipe, data in rendered.items()
        if recipe.most_bytes is not None and len(data) > recipe.most_bytes
    }
    if too_large:
        proposal = _planned(replace(context, too_large=too_large), project, sites, inputs, {})
    refuse_nothing(proposal)
    return replace(proposal, rendered=rendered)


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


def _planned(
    context: PlanContext,
    project: Project,
    sites: Iterable[Site],
    inputs: Mapping[str, str],
    stopped: Mapping[Site, RiveltError],
) -> Proposal:
    """The plan of each site, or why it has none. Two sites may share a file: the second plan goes on where the first one ends."""
    from rivelt.workspace.vet import refuse_read_only

    plans: dict[Site, Plan] = {}
    blocked: dict[Site, RiveltError] = dict(stopped)
    current = project
    for site in sites:
        if site in stopped:
            continue
        try:
            if site.blocked is not None:
                raise site.blocked
            plan = platform(site.target).plan(context, current, site)
            _refuse_in_the_way(current, plan)
            for edit in plan.edits:
                refuse_read_only(context.brief.project, edit.path)
            after = current.overlay({edit.path: edit.after for edit in plan.edits})
            for edit in plan.edits:
                after.reread(edit.path)
            plans[site], current = plan, after
        except RiveltError as error:
            blocked[site] = error
    return Proposal(context.brief, project, plans, blocked, inputs=inputs)


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


def plates_of(context: PlanContext, targets: Iterable[str]) -> Iterable[tuple[str, Recipe]]:
    """Yield the plates of some targets, each by "target/path"."""
    for target in targets:
        for plate in platform(target).plates(context):
            yield f"{target}/{plate.path}", plate.recipe


# Apply's last look


def vetted(proposal: Proposal, before: Evidence, context: PlanContext, choice: Choice) -> Proposal:
    """Return the proposal without the sites that apply would leave with an error that was not there before.

    The rules judge the project as it would be. A site with a new error is stopped with the rule and its words; the others go on.

    Args:
        proposal: what would be done.
        before: the project as it is.
        context: what the plans are made from.
        choice: the rules that are wanted, with the severities that the brief gives them.

    Raises:
        Refused: no site is left.
    """
    if not proposal.changes_files:
        return proposal
    errors = Choice(frozenset(_errors(choice)), choice.severities)
    stopped: dict[Site, RiveltError] = {}
    while proposal.plans:
        after = Evidence(proposal.after, sites_after(proposal), proposal.brief)
        new = {site: found for site in proposal.sites if (found := _new_error(site, before, after, errors))}
        if not new:
            break
        stopped |= {site: _stopped_by(found) for site, found in new.items()}
        again = _planned(context, proposal.project, (*proposal.plans, *proposal.blocked), proposal.inputs, stopped)
        proposal = replace(again, rendered=proposal.rendered)
    refuse_nothing(proposal)
    return proposal


def _errors(choice: Choice) -> Iterable[str]:
    """The wanted rules on sites whose breaking is an error."""
    on_sites = {code for book in (SITES, *(platform(target).rules for target in TARGETS)) for code in book.rules}
    for code, rule in catalogue().items():
        if code in on_sites and choice.wants(code) and choice.severity_of(rule) == "error":
            yield code


def sites_after(proposal: Proposal) -> tuple[Site, ...]:
    """Return the sites of a proposal as they would be found once it is carried out."""
    labels = {site.label for site in proposal.plans}
    targets = dict.fromkeys(site.target for site in proposal.plans)
    found = (site for target in targets for site in platform(target).survey(proposal.after, proposal.brief))
    return tuple(site for site in found if site.label in labels)


def _new_error(site: Site, before: Evidence, after: Evidence, errors: Choice) -> Finding | None:
    """The first error of a site that apply would bring; one that it only moves, such as to another line, was there before."""
    later = next((one for one in after.sites if one.label == site.label), None)
    broken = [found for found in after.judge_site(later, errors) if found.verdict == "broken"] if later else []
    if not broken:
        return None
    known = {found.code for found in before.judge_site(site, errors) if found.verdict == "broken"}
    return next((found for found in broken if found.code not in known), None)


def _stopped_by(found: Finding) -> Refused:
    rule = catalogue()[found.code]
    message = f"apply would break it: {found.message} ({found.code}: {rule.words.title})"
    return Refused(message, place=found.place, hint=found.fix or rule.words.fix)


# Drift


def drift_of(project: Project, proposal: Proposal | RiveltError, on_progress: Progress = no_progress) -> Drift:
    """Return how a project differs from what its brief makes.

    Args:
        project: the project as it is.
        proposal: what apply would do, or why that is unknown.
        on_progress: called as plates are rendered.
    """
    if LOCK_NAME not in project:
        return Drift(problem="nothing has been applied yet")
    try:
        lock = lock_of(project)
    except RiveltError as error:
        return Drift(problem=str(error))
    edited = [
        path for path, locked in lock.files.items() if path in project and sha256(project.read(path)) != locked.sha256
    ]
    if isinstance(proposal, RiveltError):
        return Drift(edited=edited, problem=str(proposal))
    changed = [
        name
        for name, digest in proposal.inputs.items()
        if any(inputs.get(name, digest) != digest for inputs in lock.inputs.values())
    ]
    try:
        changes = proposal.changes(force=True, on_progress=on_progress)
    except RiveltError as error:
        return Drift(edited=edited, inputs=changed, problem=str(error))
    different = [(change.action, change.path, change.why) for change in changes.files if change.path != LOCK_NAME]
    return Drift(edited, changed, different, changes.unused)
