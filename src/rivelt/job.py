"""One command's work on a project, as `rivelt.opening` gives it.

Each of its values is worked out once, when first asked for. The use cases are methods: they return values and print nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rivelt.brief.model import THE_BRIEF
from rivelt.disk.tree import AnyPath
from rivelt.editions import Edition, Opened, is_excluded, plates_of, refuse_without_sites, sites_of
from rivelt.errors import BadInput
from rivelt.platforms import TARGETS, survey_of
from rivelt.progress import Progress, no_progress
from rivelt.project.files import DISK, Files
from rivelt.project.project import Project
from rivelt.values import replace

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.evidence import Evidence
    from rivelt.last_look import Passed
    from rivelt.pixels.pictures import Pictures
    from rivelt.plan.owner import Owner
    from rivelt.proof.model import Proof
    from rivelt.proposal import Proposal, Work
    from rivelt.removal import Removal
    from rivelt.rules.drift import Drift
    from rivelt.rules.measured import Measured
    from rivelt.rules.report import Report
    from rivelt.rules.runner import Choice
    from rivelt.scene.site import Site
    from rivelt.workspace.change import Changes


class Job:
    """A project, and the briefs that it is worked on with, if there are any. Nothing is worked out twice.

    `root`: the folder of the project. `only` and `wanted`: the targets and the editions that were asked for. `files`: where all is read from.
    `besides`: the files of sites that are left to others.
    """

    def __init__(
        self,
        root: Path,
        briefs: Sequence[Opened],
        only: tuple[str, ...] = (),
        editions: tuple[str, ...] = (),
        besides: frozenset[Path] = frozenset(),
        recorded: str | None = None,
        words: tuple[str, ...] = (),
        files: Files = DISK,
    ) -> None:
        self.root = root
        self.files = files
        self.only = only
        self.wanted = editions
        self._opened = tuple(briefs)
        self.besides = besides
        self._recorded = recorded
        self._words = words
        self._after: tuple[Changes, Job] | None = None

    # What is there

    @property
    def has_brief(self) -> bool:
        """Whether there is a brief."""
        return bool(self._opened)

    @property
    def briefs(self) -> tuple[Brief, ...]:
        """The briefs, each with its editions."""
        return tuple(one.brief for one in self._opened)

    @property
    def brief(self) -> Brief:
        """The first brief.

        Raises:
            BadInput: the project has no brief.
        """
        if not self._opened:
            raise BadInput(
                "what apply would make cannot be judged without a brief",
                hint="Write one with: rivelt brief --mark FILE",
            )
        return self._opened[0].brief

    @property
    def home(self) -> Path:
        """The folder of the first brief, or of the project if it has no brief: the default place for a proof."""
        return self.briefs[0].folder if self._opened else self.root

    @property
    def is_narrowed(self) -> bool:
        """Whether only some targets or editions were asked for."""
        return bool(self.only or self.wanted)

    @cached_property
    def project(self) -> Project:
        """The project's files and what they say.

        Raises:
            BadInput: its folder cannot be listed, or holds far too many files.
        """
        return Project.of_folder(self.root, files=self.files)

    @cached_property
    def _pictures(self) -> Pictures:
        """What decodes bitmaps, and keeps them for all that this job does."""
        from rivelt.pixels.pictures import Pictures

        return Pictures()

    @cached_property
    def all_sites(self) -> tuple[Site, ...]:
        """The sites of all editions, wanted or not; without a brief those that are there."""
        return self._sites_in(self.project)

    @cached_property
    def sites(self) -> tuple[Site, ...]:
        """The sites that are wanted, by target in the order of `TARGETS`, then by brief and edition."""
        return tuple(site for site in self.all_sites if self._is_wanted(site.edition))

    def _is_wanted(self, edition: str) -> bool:
        return not self.wanted or (edition or THE_BRIEF) in self.wanted

    def _sites_in(self, project: Project) -> tuple[Site, ...]:
        if not self._opened:
            targets = self.only or TARGETS
            found = (site for target in TARGETS if target in targets for site in survey_of(target, project))
            mine = (
                site
                for site in found
                if not is_excluded(project, None, site) and self.root / site.path not in self.besides
            )
            return tuple(replace(site, blocked=project.unknown_in(site.homes) or site.blocked) for site in mine)
        found = (
            site for one in self._opened for sites in sites_of(project, self.root, one.brief).values() for site in sites
        )
        return tuple(sorted(found, key=lambda site: TARGETS.index(site.target)))

    @cached_property
    def editions(self) -> tuple[Edition, ...]:
        """The briefs and editions that are wanted, each with its sites."""
        return tuple(
            Edition(brief, one.files, self.root, self._sites_by_key, self._found)
            for one in self._opened
            for brief in (one.brief, *one.brief.editions)
            if self._is_wanted(brief.edition)
        )

    def _sites_by_key(self, key: tuple[str, str]) -> tuple[Site, ...]:
        return tuple(site for site in self.all_sites if (site.brief, site.edition) == key)

    @property
    def targets(self) -> tuple[str, ...]:
        """The targets of all editions that are wanted."""
        return tuple(target for target in TARGETS if any(target in edition.targets for edition in self.editions))

    def _found(self) -> tuple[str, ...]:
        return tuple(target for target in TARGETS if survey_of(target, self.project))

    def edition_of(self, site: Site) -> Edition | None:
        """Return the edition that a site is of, or None."""
        return self._by_key.get((site.brief, site.edition))

    @cached_property
    def _by_key(self) -> Mapping[tuple[str, str], Edition]:
        return {edition.key: edition for edition in self.editions}

    def measure(self) -> Measured:
        """Measure the art of the briefs, each file once, and judge it by the rules that they leave on.

        Raises:
            BadInput: a file cannot be used; `Problems` for several.
        """
        from rivelt.rules.measured import joined, measured

        return joined(
            replace(measured(one.art, one.backdrops, self.choice(brief=one.brief), one.brief), motions=one.motions)
            for one in self.editions
        )

    def plates(self, out: AnyPath | Callable[[bytes], object], on_progress: Progress = no_progress) -> dict[str, int]:
        """Write the images alone to `out`: a folder, a ZIP file (named .zip), or what takes the bytes of one.

        One folder for each target, laid out as the platform keeps them; those of an edition are in a folder of its name.

        Returns:
            The bytes of each image, by its path in `out`.

        Raises:
            BadInput: the art cannot be used, or `out` cannot be written.
        """
        from rivelt.workspace.output import write_plates

        made = [
            (f"{one.brief.edition}/{path}" if one.brief.edition else path, recipe)
            for one in self.editions
            for path, recipe in plates_of(one.context, one.targets)
        ]
        is_small = any(one.brief.app.small_files for one in self.editions)
        return write_plates(made, out if callable(out) else Path(out), is_small=is_small, on_progress=on_progress)

    # Applying

    @cached_property
    def proposal(self) -> Proposal:
        """What apply would do, as planned.

        Raises:
            BadInput: no site is there, or none can be handled, or the art cannot be used.
        """
        from rivelt.proposal import no_site, propose

        brief = self.brief
        if not self.all_sites:
            raise no_site(brief)
        for edition in self.editions:
            if edition.brief.edition and not edition.sites and not self.only:
                refuse_without_sites(edition.brief)
        if not self.sites:
            raise no_site(brief)
        return propose(self.work)

    @cached_property
    def work(self) -> Work:
        """All that plans are made from."""
        from rivelt.proposal import Work

        def find(project: Project) -> tuple[Site, ...]:
            found = self.all_sites if project is self.project else self._sites_in(project)
            return tuple(site for site in found if self._is_wanted(site.edition))

        return Work(self.root, self.project, self.editions, find, is_whole=not self.is_narrowed, files=self.files)

    @cached_property
    def passed(self) -> Passed:
        """What apply would write: the proposal without sites that it would leave with an error that was not there before.

        Raises:
            Refused: no site is left, or an apply was stopped halfway.
        """
        return self._looked_at(self.proposal, on_progress=self._on_progress)

    def _looked_at(self, proposal: Proposal, *, prune: bool = False, on_progress: Progress = no_progress) -> Passed:
        from rivelt.last_look import last_look
        from rivelt.workspace.commit import refuse_unfinished

        if self.files.is_disk:
            refuse_unfinished(self.root)
        rendered = proposal.rendered(on_progress)
        return last_look(rendered, self.now, lambda changes: self.after(changes).now, self.choice, prune=prune)

    def changes(
        self,
        *,
        force: bool = False,
        prune: bool = False,
        targets: Iterable[str] | None = None,
        on_progress: Progress = no_progress,
    ) -> Changes:
        """Return what apply would make different on disk, on all sites or those of some targets; plates are rendered for it.

        Args:
            force: replace generated files even if a person has edited them since.
            prune: remove launch images that nothing uses any more.
            targets: those that are touched; all when None.
            on_progress: called as plates are rendered.

        Raises:
            Refused: generated files were edited by a person, an apply was stopped halfway, or every site would be left broken.
        """
        if not self.files.is_disk:
            raise BadInput("a commit cannot be changed", hint="Open the working tree.")
        proposal = self.proposal if targets is None else self.proposal.narrowed(targets)
        return self._looked_at(proposal, prune=prune, on_progress=on_progress).to_write(force=force)

    def after(self, changes: Changes) -> Job:
        """Return a job on the project as some changes leave it. It shares what was read and measured here, and the results of the last look."""
        if self._after is None or self._after[0] is not changes:
            job = Job(self.root, self._opened, self.only, self.wanted, self.besides, files=self.files)
            job.project = self.project.overlay({change.path: change.after for change in changes.files})
            job.follow(self)
            self._after = changes, job
        return self._after[1]

    def follow(self, earlier: Job) -> None:
        """Take over what a job on an earlier state of the project, or of the brief, has parsed, decoded and measured of the same content."""
        if (pictures := vars(earlier).get("_pictures")) is not None:
            self._pictures, pictures.keeps_drawn = pictures, True
        if "project" not in vars(self) and self.root == earlier.root:
            self.project = Project.of_folder(self.root, earlier.project, self.files)
        before = {(one.brief.path, one.brief.edition): one for one in earlier.editions}
        for edition in self.editions:
            if (same := before.get((edition.brief.path, edition.brief.edition))) is not None:
                edition.files.follow(same.files)
                edition.take_measures(same)

    # Showing

    @cached_property
    def now(self) -> Evidence:
        """The project as it is."""
        from rivelt.drift import drift_of
        from rivelt.workspace.lockfile import lock_of

        def drift(key: tuple[str, str]) -> Drift:
            return drift_of(self.project, lambda: self.passed, key)

        def made(site: Site) -> Iterable[str]:
            return lock_of(self.project).files.get(site.owner, ())

        return self._evidence(self.project, self.sites, drift=drift, beside=self.all_sites, made=made)

    def _evidence(self, project: Project, sites: Sequence[Site], **named: Any) -> Evidence:
        from rivelt.evidence import Evidence

        return Evidence(project, sites, brief_of=self._brief_of, pictures=lambda: self._pictures, **named)

    def _brief_of(self, site: Site) -> Brief | None:
        edition = self.edition_of(site)
        return edition.brief if edition is not None else None

    _on_progress: Progress = staticmethod(no_progress)

    @cached_property
    def planned(self) -> Evidence:
        """The project as apply would leave it, with the sites as they would be found then."""
        if not self.proposal.changes_files and not self.proposal.blocked:
            return self.now
        sites = self._sites_in(self.proposal.after)
        wanted = tuple(site for site in sites if self._is_wanted(site.edition))
        return self._evidence(self.proposal.after, wanted, beside=sites, made=self.proposal.made_for)

    def prove(
        self,
        *,
        now: bool = False,
        screens: Sequence[str] = (),
        all_screens: bool = False,
        with_before: bool = False,
    ) -> Proof:
        """Return the scenes of the project: with a brief as apply would leave it, without one (or with `now`) as it is.

        Args:
            now: show the project as it is even though there is a brief.
            screens: words that a screen's name, system or family must hold, such as "iPad" or "API 34"; a screen fits that fits any.
            all_screens: every screen that is known, not only the usual ones.
            with_before: work out the project as it is as well, to be put beside what apply would make.

        Raises:
            BadInput: nothing can be shown.
        """
        from rivelt.proof.collect import ScreenChoice, prove

        choice = ScreenChoice(tuple(screens), is_all=all_screens)
        title = (self.name, ", ".join(dict.fromkeys(brief.path.name for brief in self.briefs)) or "no brief")
        if not self.has_brief or now:
            return prove(self.now, self.choice(), choice, title=title, root=self.root)
        proposal = self.proposal
        return prove(
            self.planned,
            self.choice(),
            choice,
            title=title,
            root=self.root,
            blocked=proposal.blocked,
            before=self.now if with_before else None,
        )

    @property
    def name(self) -> str:
        """The app's name: the brief's, else that of the project's folder."""
        return self.briefs[0].name if len(self.briefs) == 1 else self.root.name

    # Judging

    def choice(self, select: Sequence[str] = (), ignore: Sequence[str] = (), *, brief: Brief | None = None) -> Choice:
        """Return the rules that a brief (or else the first one) leaves on, narrowed by codes of rules, or what they begin with.

        Raises:
            BadInput: a word fits no rule.
        """
        from rivelt.platforms.rulebooks import choose

        brief = brief or next(iter(self.briefs), None)
        return choose(brief.check if brief is not None else None, select, ignore)

    def check(
        self,
        *,
        planned: bool = False,
        select: Sequence[str] = (),
        ignore: Sequence[str] = (),
        on_progress: Progress = no_progress,
    ) -> Report:
        """Return what the rules say of the project, touched by Rivelt or not.

        Args:
            planned: judge the project as apply would leave it; this needs a brief.
            select: codes of rules, or what they begin with; all when empty.
            ignore: those that are left out.
            on_progress: called as plates are made to see whether generated files are what they should be.

        Raises:
            BadInput: there is nothing to check, or a word fits no rule.
        """
        from rivelt.checking import check
        from rivelt.platforms.rulebooks import catalogue
        from rivelt.rules.books import LAUNCHES
        from rivelt.rules.report import Report

        def choice_of(brief: Brief | None) -> Choice:
            return self.choice(select, ignore, brief=brief)

        self._on_progress = on_progress
        found = check(self.planned if planned else self.now, self.editions, choice_of, self.root, is_planned=planned)
        wanted = choice_of(None)
        rules = {code: one for code, one in catalogue().items() if wanted.wants(code) and code not in LAUNCHES.rules}
        ignored = {code: why for brief in self.briefs for code, why in brief.check.ignore.items()}
        if select and not rules:
            raise BadInput("these rules judge recordings of launches", hint="Run: rivelt replay RECORDING")
        return Report(found, rules, ignored, is_planned=planned, root=self.root)

    # Taking out

    def removal(self, *, force: bool = False) -> Removal:
        """Return what taking out all that Rivelt made for the wanted editions and targets would change.

        For a job of `rivelt.opening.open_recorded`: all that the lock file names, or what one brief made.

        Raises:
            Refused: it would break an app, or a file is not known to be Rivelt's; and `force` is not given.
            BadInput: there is nothing to take out.
        """
        from rivelt.removal import removal

        def is_chosen(owner: Owner) -> bool:
            is_of_brief = self._recorded is None or owner.brief == self._recorded
            return is_of_brief and self._is_wanted(owner.edition) and (not self.only or owner.target in self.only)

        return removal(self.root, self.project, is_chosen, words=self._words, force=force)
