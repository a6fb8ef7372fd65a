"""Briefs and their editions at work on a project: which sites each has, and its art measured."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from rivelt.brief.find import shown_path
from rivelt.brief.model import FILE_NAME, THE_BRIEF, Brief
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.findings import Finding
from rivelt.platforms import TARGETS, platform, survey_of
from rivelt.platforms.choose import chosen
from rivelt.project.ignore import spec_of
from rivelt.project.project import Project
from rivelt.project.single import FED, single_homes
from rivelt.scene.site import Site
from rivelt.values import replace

if TYPE_CHECKING:
    from rivelt.art.files import ArtFiles
    from rivelt.art.read import BriefArt
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.layout.report import ArtReport, BackdropReport
    from rivelt.plan.model import Recipe
    from rivelt.rules.runner import Choice


class Opened(NamedTuple):
    """A brief with its editions, narrowed to the targets that are wanted; and the files that they name."""

    brief: Brief
    files: ArtFiles


class Edition:
    """A brief without its editions, or one of them, on a project. Nothing is worked out twice.

    `key`: the brief's path relative to the project, and the edition's name.
    """

    def __init__(
        self,
        brief: Brief,
        files: ArtFiles,
        root: Path,
        sites: Callable[[tuple[str, str]], tuple[Site, ...]],
        found: Callable[[], tuple[str, ...]],
    ) -> None:
        """Take a brief.

        Args:
            brief: what is decided, narrowed to the targets that are wanted.
            files: the files that it names.
            root: the project's folder.
            sites: gives the sites of an edition by its key.
            found: gives the targets of all sites that the project has.
        """
        self.brief = brief
        self.root = root
        self.key = (brief_key(brief, root), brief.edition)
        self._sites = sites
        self._found = found
        self.files = files

    @property
    def name(self) -> str:
        """What `--edition` calls it."""
        return self.brief.edition or THE_BRIEF

    @cached_property
    def targets(self) -> tuple[str, ...]:
        """The targets that it is for: those that the brief names, else those of its sites, else all that a project can have."""
        if self.brief.targets is not None:
            return self.brief.targets
        try:
            found = tuple(dict.fromkeys(site.target for site in self.sites))
        except RiveltError:  # a site that the brief names is not there: then all that are there
            found = self._found()
        return found or tuple(target for target in TARGETS if not platform(target).is_on_request)

    @cached_property
    def sites(self) -> tuple[Site, ...]:
        """Its sites.

        Raises:
            BadInput: it names one that is not there.
        """
        return self._sites(self.key)

    def take_measures(self, other: Edition) -> None:
        """Take over the art that the same edition has measured for another state of the project, if it is the same art."""
        if "_art" not in vars(other) or self.brief != other.brief or not self.files.hold_the_same_as(other.files):
            return
        self._art = other._art
        if "context" in vars(other) and self.brief.places == other.brief.places:
            self.context = other.context

    @cached_property
    def _art(self) -> BriefArt:
        from rivelt.art.read import read_brief_art

        return read_brief_art(self.brief, self.files)

    @property
    def inputs(self) -> Mapping[str, str]:
        """The SHA-256 of each file that the brief names, by its path in it."""
        return self._art.inputs

    @cached_property
    def context(self) -> PlanContext:
        """The brief with its art measured: what every planner is given.

        Raises:
            BadInput: a file cannot be used, with the place in the brief that names it; `Problems` for several.
        """
        from rivelt.layout.context import PlanContext
        from rivelt.platforms.facts import ordinary_screen

        art = self._art
        looks = self.brief.looks.items()
        masks_of = {
            target: {look: tuple(platform(target).masks(has_disc=shown.disc is not None)) for look, shown in looks}
            for target in self.targets
        }
        masks = {look: tuple(sorted({one for its in masks_of.values() for one in its[look]})) for look, _ in looks}
        found = PlanContext(self.brief, art.art, masks, ordinary_screen(), art.backdrops, art.files)
        return replace(found, masks_of=masks_of)

    @cached_property
    def art(self) -> tuple[ArtReport, ...]:
        """What is known of each piece of art, on the grounds and plates that the brief asks for."""
        from rivelt.art.measure import measured
        from rivelt.layout.report import report_art, report_brief
        from rivelt.layout.sharpness import sharpness_of

        reports = report_brief(self.context, sharpness_of(plates_of(self.context, self.targets)))
        moving = (art for target in self.targets for art in platform(target).moving_art(self.context))
        return (*reports, *(report_art(measured(art)) for art in moving))

    @cached_property
    def backdrops(self) -> tuple[BackdropReport, ...]:
        """What is known of each backdrop, on every screen of the brief's targets, in each orientation."""
        from rivelt.layout.report import report_backdrops
        from rivelt.units import Size

        # One that is known in landscape may be another, turned.
        screens = {
            (target, screen.system, Size(*sides).scaled(screen.scale)): f"{screen.system}{side}"
            for target in self.targets
            for screen in platform(target).every_screen()
            for side, sides in (("", (screen.width, screen.height)), (", landscape", (screen.height, screen.width)))
        }
        return tuple(report_backdrops(self.context, ((name, size) for (*_, size), name in screens.items())))

    @cached_property
    def motions(self) -> tuple[MotionReport, ...]:
        """What moves on its launch screens, measured at every frame."""
        return tuple(found for target in self.targets for found in platform(target).motions(self.context))

    def judged_art(self, choice: Choice) -> Iterable[Finding]:
        """Return what the wanted rules say of the art."""
        from rivelt.rules.measured import judged, unusable

        try:
            return judged(self.art, self.backdrops, choice, self.brief)
        except RiveltError as error:
            return unusable(error, choice, self.brief)


def plates_of(context: PlanContext, targets: Iterable[str]) -> Iterable[tuple[str, Recipe]]:
    """Yield the plates of some targets, each by "target/path"."""
    for target in targets:
        for plate in platform(target).plates(context.for_target(target)):
            yield f"{target}/{plate.path}", plate.recipe


def brief_key(brief: Brief, root: Path) -> str:
    """Return the path of a brief relative to a project, as the lock file names it."""
    return Path(os.path.relpath(brief.path, root)).as_posix()


# Which sites each edition has


def sites_of(project: Project, root: Path, brief: Brief) -> dict[str, tuple[Site, ...]]:
    """Return the sites of a brief and of its editions, by the edition's name ("" for the brief itself).

    What the brief has is not an edition's, unless that names it as its own; what an edition names is not the brief's.

    Raises:
        BadInput: a brief names a site that is not there; `Problems` for several.
    """
    found: dict[str, tuple[Site, ...]] = {}
    taken: set[tuple[str, str]] = set()
    key = brief_key(brief, root)
    for one in (brief, *brief.editions):
        sites = [
            replace(site, brief=key, edition=one.edition, blocked=project.unknown_in(site.homes) or site.blocked)
            for site in _chosen_sites(project, one)
            if not one.edition or (site.target, site.name) not in taken or _is_named(one, site)
        ]
        found[one.edition] = tuple(sites)
        taken |= {(site.target, site.name) for site in sites}
    every = [site for sites in found.values() for site in sites]
    if "" in found:  # a brand of a fleet is an edition of nothing
        found[""] = tuple(site for site in found[""] if not _is_spare(project, site, every))
    return found


def _is_spare(project: Project, site: Site, every: Sequence[Site]) -> bool:
    """Whether a site of the brief cannot be handled, and need not be: its editions decide on every variant of the app."""
    if site.blocked is None or not site.names:
        return False
    beside = [one for one in every if one.target == site.target and one.names]
    return len(beside) > 1 and not platform(site.target).views(project, site, beside)


def _is_named(edition: Brief, site: Site) -> bool:
    """Whether an edition names a site as its own."""
    key, _ = edition.options[site.target].chosen
    return f"{site.target}.{key}" in edition.given


def _chosen_sites(project: Project, brief: Brief) -> Iterator[Site]:
    for target in TARGETS:
        if brief.targets is None or target in brief.targets:
            its = platform(target)
            there = [site for site in survey_of(target, project, brief) if not is_excluded(project, brief, site)]
            yield from chosen(there, brief, target, noun=its.noun, takes_all=its.takes_all)


def is_excluded(project: Project, brief: Brief | None, site: Site) -> bool:
    """Return whether a site is not looked for: git ignores it, it is other people's code, or the brief excludes it."""
    if not site.path:
        return False
    if site.target in FED and any(site.path.startswith(f"{home}/") or not home for home in single_homes(project)):
        return True
    if brief is not None and any(site.path.startswith(f"{folder}/") for folder in _others_folders(project, brief)):
        return not _is_named_whole(brief, site)
    if brief is not None and brief.app.exclude and spec_of(brief.app.exclude).match_file(site.path):
        return True
    if brief is not None and _is_named_whole(brief, site):
        return False  # who names it means it
    return not project.is_own(site.path)


def _others_folders(project: Project, brief: Brief) -> Iterator[str]:
    """The folders below a project that have a brief of their own: their sites are that one's."""
    for path in project.find(f"*/{FILE_NAME}"):
        if brief.project / path != brief.path and not brief.path.is_relative_to((brief.project / path).parent):
            yield path.rpartition("/")[0]


def _is_named_whole(brief: Brief, site: Site) -> bool:
    _, patterns = brief.options[site.target].chosen if site.target in brief.options else ("", ())
    return bool(set(patterns) & set(site.names))


def refuse_without_sites(edition: Brief) -> None:
    """Refuse an edition that has no site of its own.

    Raises:
        BadInput: always, with the place of the edition.
    """
    hint = f'Name one in [edition.{edition.edition}]: android.source_set = "...", ios.target = "...", or a module of its own.'
    at = edition.places.get("edition") or Place(shown_path(edition.path))
    raise BadInput(f"edition {edition.edition} has no app of its own to change", place=at, hint=hint)
