"""One command's work on a project: what `import rivelt` offers, and the only door that the command line goes through.

`open` gives a `Job`: lazily the brief, the project, its sites, the art and the proposal, each worked out once. The use cases are its
methods. They return values and print nothing.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rivelt.brief.find import brief_file, find_brief, narrowed, refuse_unknown, shown_path
from rivelt.disk.tree import read_file, resolved
from rivelt.errors import BadInput, Place, Refused, RiveltError
from rivelt.platforms import TARGETS, platform, platform_tables
from rivelt.progress import Progress, no_progress
from rivelt.project.project import Project

if TYPE_CHECKING:
    from rivelt.art.read import ArtFiles, BriefArt
    from rivelt.brief.model import Brief
    from rivelt.brief.starter import Starter
    from rivelt.evidence import Evidence
    from rivelt.findings import Finding
    from rivelt.layout.context import PlanContext
    from rivelt.layout.report import ArtReport, BackdropReport
    from rivelt.proof.model import Proof
    from rivelt.proposal import Proposal
    from rivelt.rules.measured import Measured
    from rivelt.rules.report import Report
    from rivelt.rules.runner import Choice
    from rivelt.scene.site import Site
    from rivelt.workspace.compare import Changes

_LARGEST_BRIEF = 1_000_000


def open(source: Path | None = None, *, only: Sequence[str] = ()) -> Job:  # noqa: A001
    """Return a job on a brief or a project.

    Args:
        source: a brief, or a folder in which or above which one lies; a project's folder without a brief. None: the current folder.
        only: the targets that are wanted; all when empty.

    Raises:
        BadInput: there is nothing there, the brief has problems, or there is no such target.
    """
    refuse_unknown(only, TARGETS)
    if source is not None and not os.path.lexists(source):
        raise BadInput(f"there is no {source}", hint="Give a brief, or the folder of a project.")
    folder = source or Path()
    if folder.is_dir() and find_brief(folder) is None:
        return Job(resolved(folder), None, tuple(only))
    return open_brief(source, only=only)


def open_brief(source: Path | None = None, *, only: Sequence[str] = ()) -> Job:
    """Return a job on a brief.

    Args:
        source: a brief, or a folder in which or above which one lies. None: the current folder.
        only: the targets that are wanted; all of the brief's when empty.

    Raises:
        BadInput: there is no brief, it has problems, or it does not want such a target.
    """
    from rivelt.art.read import ArtFiles, with_grounds

    refuse_unknown(only, TARGETS)
    file = brief_file(source)
    brief = _read(file, _bytes_of(file))
    files = ArtFiles(brief.folder, brief.project)
    brief = narrowed(with_grounds(brief, files), only, TARGETS)
    return Job(brief.project, brief, tuple(only), files)


def open_folder(folder: Path, *, only: Sequence[str] = ()) -> Job:
    """Return a job on the project in a folder, whether or not there is a brief.

    Raises:
        BadInput: there is no such target.
    """
    refuse_unknown(only, TARGETS)
    return Job(resolved(folder), None, tuple(only))


def _read(file: Path, data: bytes) -> Brief:
    from rivelt.brief.load import read_brief

    return read_brief(data, resolved(file), shown_path=shown_path(file), platform_tables=platform_tables())


def _bytes_of(file: Path) -> bytes:
    try:
        return read_file(file, _LARGEST_BRIEF)
    except OSError as error:
        at = Place(shown_path(file))
        raise BadInput(f"the brief cannot be read: {error.strerror}", place=at) from error


class Job:
    """A project, and the brief that it is worked on with, if there is one. Nothing is worked out twice.

    `root`: the folder of the project. `only`: the targets that were asked for.
    """

    def __init__(
        self, root: Path, brief: Brief | None, only: tuple[str, ...] = (), files: ArtFiles | None = None
    ) -> None:
        self.root = root
        self.only = only
        self._brief = brief
        self._files = files

    # What is there

    @property
    def has_brief(self) -> bool:
        """Whether there is a brief."""
        return self._brief is not None

    @property
    def brief(self) -> Brief:
        """The brief.

        Raises:
            BadInput: the project has no brief.
        """
        if self._brief is None:
            raise BadInput(
                "what apply would make cannot be judged without a brief",
                hint="Write one with: rivelt brief --mark FILE",
            )
        return self._brief

    @cached_property
    def project(self) -> Project:
        """The project's files and what they say.

        Raises:
            BadInput: its folder cannot be listed, or holds far too many files.
        """
        return Project.of_folder(self.root)

    @cached_property
    def sites(self) -> tuple[Site, ...]:
        """The sites of the project, by target in the order of `TARGETS`; with a brief those that it chooses."""
        wanted = self._brief.targets if self._brief is not None else self.only or None
        return self._sites_in(self.project, wanted)

    def _sites_in(self, project: Project, targets: Sequence[str] | None) -> tuple[Site, ...]:
        chosen = TARGETS if targets is None else targets
        found = (
            site for target in TARGETS if target in chosen for site in platform(target).survey(project, self._brief)
        )
        # What is missing where not all could be read may well be there: that is said first.
        return tuple(replace(site, blocked=project.unknown_in(site.homes) or site.blocked) for site in found)

    @cached_property
    def targets(self) -> tuple[str, ...]:
        """The targets that the brief is for: those it names, else those found in its project, else all that a project can have."""
        if self.brief.targets is not None:
            return self.brief.targets
        try:
            found = tuple(dict.fromkeys(site.target for site in self.sites))
        except RiveltError:  # a site that the brief names is not there: then all that are there
            found = tuple(target for target in TARGETS if platform(target).survey(self.project))
        return found or tuple(target for target in TARGETS if not platform(target).is_on_request)

    # The art

    @cached_property
    def _art(self) -> BriefArt:
        from rivelt.art.read import ArtFiles, read_brief_art

        return read_brief_art(self.brief, self._files or ArtFiles(self.brief.folder, self.root))

    @cached_property
    def context(self) -> PlanContext:
        """The brief with its art measured: what every planner is given.

        Raises:
            BadInput: a file cannot be used, with the place in the brief that names it; `Problems` for several.
        """
        from rivelt.layout.context import PlanContext
        from rivelt.platforms.facts import ordinary_screen

        art = self._art
        masks = {
            look: tuple(
                sorted(
                    {one for target in self.targets for one in platform(target).masks(has_disc=shown.disc is not None)}
                )
            )
            for look, shown in self.brief.looks.items()
        }
        return PlanContext(self.brief, art.art, masks, ordinary_screen(), art.backdrops, art.files)

    @cached_property
    def art(self) -> tuple[ArtReport, ...]:
        """What is known of each piece of art, on the grounds and plates that the brief asks for."""
        from rivelt.layout.report import report_brief
        from rivelt.layout.sharpness import sharpness_of
        from rivelt.proposal import plates_of

        return tuple(report_brief(self.context, sharpness_of(plates_of(self.context, self.targets))))

    @cached_property
    def backdrops(self) -> tuple[BackdropReport, ...]:
        """What is known of each backdrop, on every screen of the brief's targets, in each orientation."""
        from rivelt.layout.report import report_backdrops
        from rivelt.units import Size

        screens = (
            (f"{screen.system}{side}", Size(*sides).scaled(screen.scale))
            for target in self.targets
            for screen in platform(target).every_screen()
            for side, sides in (("", (screen.width, screen.height)), (", landscape", (screen.height, screen.width)))
        )
        return tuple(report_backdrops(self.context, screens))

    def _judged_art(self, choice: Choice) -> Iterable[Finding]:
        from rivelt.rules.measured import judged, unusable

        brief = self.brief
        try:
            return judged(self.art, self.backdrops, choice, brief)
        except RiveltError as error:
            return unusable(error, choice, brief)

    def measure(self) -> Measured:
        """Measure the art of the brief, each file once, and judge it by the rules that the brief leaves on.

        Raises:
            BadInput: a file cannot be used; `Problems` for several.
        """
        from rivelt.rules.measured import measured

        return measured(self.art, self.backdrops, self.choice(), self.brief)

    def plates(self, out: Path, on_progress: Progress = no_progress) -> dict[str, int]:
        """Write the images alone to `out`, a folder or (named .zip) a ZIP file: one folder for each target, laid out as the platform keeps them.

        Returns:
            The bytes of each image, by its path in `out`.

        Raises:
            BadInput: the art cannot be used, or `out` cannot be written.
        """
        from rivelt.proposal import plates_of
        from rivelt.workspace.output import write_plates

        made = plates_of(self.context, self.targets)
        return write_plates(made, out, is_small=self.brief.app.small_files, on_progress=on_progress)

    # Applying

    @cached_property
    def proposal(self) -> Proposal:
        """What apply would do, as planned.

        Raises:
            BadInput: no site is there, or none can be handled, or the art cannot be used.
        """
        from rivelt.proposal import no_site, propose

        if not self.sites:
            raise no_site(self.brief)
        return propose(self.context, self.project, self.sites, self._art.inputs)

    @cached_property
    def vetted(self) -> Proposal:
        """What apply would do: the proposal without sites that it would leave with an error that was not there before.

        Raises:
            Refused: no site is left.
        """
        from rivelt.proposal import vetted

        return vetted(self.proposal, self.now, self.context, self.choice())

    def changes(
        self,
        *,
        force: bool = False,
        prune: bool = False,
        targets: Iterable[str] | None = None,
        on_progress: Progress = no_progress,
    ) -> Changes:
        """Return what apply would make different on disk, on all sites or those of some targets; see `rivelt.proposal.Proposal.changes`.

        Raises:
            Refused: generated files were edited by a person, an apply was stopped halfway, or every site would be left broken.
        """
        proposal = self.vetted if targets is None else self.vetted.narrowed(targets)
        return proposal.changes(force=force, prune=prune, on_progress=on_progress)

    def after(self, changes: Changes) -> Job:
        """Return a job on the project as some changes leave it, once they are written; what was read and measured is kept."""
        job = Job(self.root, self._brief, self.only, self._files)
        job.project = self.project.overlay({change.path: change.after for change in changes.files})
        job.context, job._art = self.context, self._art
        return job

    # Showing

    @cached_property
    def now(self) -> Evidence:
        """The project as it is."""
        from rivelt.evidence import Evidence
        from rivelt.proposal import drift_of

        def drift() -> Any:
            try:
                proposal: Proposal | RiveltError = self.vetted
            except RiveltError as error:
                proposal = error
            return drift_of(self.project, proposal, self._on_progress)

        return Evidence(self.project, self.sites, self._brief, drift)

    _on_progress: Progress = staticmethod(no_progress)

    @cached_property
    def planned(self) -> Evidence:
        """The project as apply would leave it, with the sites as they would be found then."""
        from rivelt.evidence import Evidence

        after = self.proposal.after
        return Evidence(after, self._sites_in(after, self.brief.targets), self.brief)

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
        if self._brief is None or now:
            return prove(self.now, self.choice(), choice, name=self.name)
        proposal = self.proposal
        return prove(
            self.planned,
            self.choice(),
            choice,
            name=self.name,
            blocked=proposal.blocked,
            before=self.now if with_before else None,
        )

    @property
    def name(self) -> str:
        """The app's name: the brief's, else that of the project's folder."""
        return self._brief.name if self._brief is not None else self.root.name

    # Judging

    def choice(self, select: Sequence[str] = (), ignore: Sequence[str] = ()) -> Choice:
        """Return the rules that are wanted: those that the brief leaves on, narrowed by some words.

        Args:
            select: codes of rules, or what they begin with; all when empty.
            ignore: those that are left out.

        Raises:
            BadInput: a word fits no rule.
        """
        from rivelt.platforms.rulebooks import choose

        return choose(self._brief.check if self._brief is not None else None, select, ignore)

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
        from rivelt.platforms.rulebooks import catalogue
        from rivelt.rules.books import ART, DRIFT
        from rivelt.rules.report import Report
        from rivelt.rules.rulebook import BriefSubject
        from rivelt.rules.runner import judge

        evidence = self.planned if planned else self.now
        choice = self.choice(select, ignore)
        self._on_progress = on_progress
        results: list[Finding] = []
        if self._brief is not None and any(choice.wants(code) for code in ART.rules):
            results += self._judged_art(choice)
        if self._brief is not None and not planned:
            results += judge(DRIFT, BriefSubject(evidence), choice, path=self._brief.path.name)
        if not evidence.sites and not results:
            raise BadInput("no native project was found", hint="Give the folder of the native projects.")
        results += evidence.judge(choice)
        rules = {code: rule for code, rule in catalogue().items() if choice.wants(code)}
        ignored = self._brief.check.ignore if self._brief is not None else {}
        return Report(tuple(results), rules, ignored, is_planned=planned, root=self.root)


def write_brief(path: Path, starter: Starter) -> Brief:
    """Write a starter brief, once it is known to be a good one; never over an existing file.

    Raises:
        Refused: the file exists.
        BadInput: what it would say has problems, or the art cannot be used.
    """
    from rivelt.art.read import ArtFiles, read_brief_art
    from rivelt.brief.starter import starter_text
    from rivelt.workspace.output import write_files

    if os.path.lexists(path):
        raise Refused(f"{shown_path(path)} exists already", hint="Edit it, or give another file with --out.")
    text = starter_text(starter, platform_tables())
    brief = _read(path, text.encode())
    read_brief_art(brief, ArtFiles(brief.folder, brief.project))
    write_files(path, {"": text.encode()}, is_new=True)
    return brief
