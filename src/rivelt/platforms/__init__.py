"""The platforms: what Rivelt asks of each (`Platform`), and the one place that knows their names.

A platform is a package here whose `__init__` holds its `Platform` as `PLATFORM`. The usual modules in it: `site` (its kind of site),
`options` (its table in the brief), `survey`, `native/` (what the files say), `make/` (the planner), `reader/` (the scenes), `rules/`,
`facts.toml`, `templates/`. Adding a platform means adding such a folder and its name in `TARGETS`.
"""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from rivelt.scene.site import Site

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rivelt.brief.model import Brief, PlatformOptions
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Plate
    from rivelt.project.project import Project
    from rivelt.rules.rulebook import Rulebook, Subject
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look

TARGETS: tuple[str, ...] = ("android", "ios", "windows", "dotnet", "web", "uploads")
"""Every target, in the order in which reports name them."""

S = TypeVar("S", bound=Site)


class Platform(Protocol[S]):
    """What Rivelt asks of a platform. Every part is loaded when it is first used, so that no command pays for another's.

    `title`: its name for people. `unit`: what its screens are measured in: "dp", "pt", "px". `sign`: the file by which its projects are
    known, in words; None where only a brief can ask for it. `files`: patterns of the names of such files. `is_on_request`: whether only a brief can ask for it, because nothing on
    disk shows it. `noun`: what one of its sites is called. `takes_all`: whether a brief that names no site means all there are.
    """

    @property
    def noun(self) -> str:
        """What one of its sites is called."""

    @property
    def takes_all(self) -> bool:
        """Whether a brief that names no site means all there are."""

    @property
    def title(self) -> str:
        """The platform's name for people."""

    @property
    def unit(self) -> str:
        """The unit in which its screens are measured."""

    @property
    def sign(self) -> str | None:
        """The file by which its projects are known, in words."""

    @property
    def files(self) -> Sequence[str]:
        """Patterns of file names (see `Project.find`): a project without any such file has no site of it. Empty: only a look inside tells."""

    @property
    def is_on_request(self) -> bool:
        """Whether only a brief can ask for it."""

    @property
    def options(self) -> type[PlatformOptions]:
        """The platform's own table in the brief."""

    @property
    def rules(self) -> Rulebook[Subject[S]]:
        """The platform's rules."""

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """Return the diameters, in dp or pt, of the circles that this platform cuts marks with: those on a disc, or all others."""

    def screens(self) -> Sequence[Screen]:
        """Return the screens that a proof shows."""

    def every_screen(self) -> Sequence[Screen]:
        """Return all screens that are known, for what must hold on each of them."""

    def survey(self, project: Project, brief: Brief | None = None) -> Sequence[S]:
        """Return the sites of this platform in a project, as a brief would have them; `blocked` says why one cannot be handled."""

    def views(self, project: Project, site: S, beside: Sequence[S]) -> Sequence[S]:
        """Return a site as each of the app's variants sees it, those that show the same as one.

        Args:
            project: the project.
            site: the site.
            beside: all sites of this platform that are planned for, this one too: a variant is shown for the one that decides on it.
        """

    def proposals(self, project: Project, sites: Sequence[S]) -> Mapping[str, Mapping[str, str]]:
        """Return the editions that the sites of a project suggest, by name: the keys that would choose each, such as "ios.target"."""

    def moving_art(self, context: PlanContext) -> Sequence[Art]:
        """Return what moves on the launch screens, as still pictures: at first, in the middle, and at last."""

    def motions(self, context: PlanContext) -> Sequence[MotionReport]:
        """Return what moves on the launch screens, measured over its whole length."""

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """Return the images alone, at paths relative to the folder in which the platform keeps its images."""

    def plan(self, context: PlanContext, project: Project, site: S) -> Plan:
        """Return all that would be done to a site that is not blocked.

        Raises:
            BadInput: it cannot be done; the site is then left untouched.
        """

    def scene(self, project: Project, site: S, screen: Screen, look: Look) -> Scene:
        """Return what a screen shows at launch, from the native files alone."""

    def waiting(self, project: Project, site: S, screen: Screen, look: Look) -> Scene | None:
        """Return what the generated waiting screen shows, from the native files alone; None where there is none."""

    def after_launch(self, project: Project, site: S, screen: Screen, look: Look) -> Sequence[Ground]:
        """Return what fills the screen after the launch screen and before the app's own first screen, from the native files alone."""


@cache
def platform(target: str) -> Platform[Any]:
    """Return the platform of a target, one of `TARGETS`."""
    found: Platform[Any] = import_module(f"rivelt.platforms.{target}").PLATFORM
    return found


def survey_of(target: str, project: Project, brief: Brief | None = None) -> Sequence[Site]:
    """Return the sites of a platform in a project, as a brief would have them; see `Platform.survey`.

    Where there can be none, because no brief asks for it or no such file is there, nothing more of the platform is loaded.
    """
    its = platform(target)
    if its.is_on_request and brief is None:
        return ()
    if its.files and not any(project.find(pattern) for pattern in its.files):
        return ()
    return its.survey(project, brief)


def views_of(project: Project, sites: Sequence[Site], beside: Sequence[Site] = ()) -> tuple[Site, ...]:
    """Return sites as each variant of the app sees them; those that show the same are one.

    Args:
        project: their project.
        sites: the sites.
        beside: all sites that are planned for, where those are more; see `Platform.views`.
    """
    found: list[Site] = []
    for site in sites:
        its = [one for one in beside or sites if one.target == site.target]
        found += platform(site.target).views(project, site, its) if site.blocked is None else (site,)
    return tuple(found)


def screens_of(site: Site, *, is_all: bool = False) -> Sequence[Screen]:
    """Return the screens that a proof of a site shows, or all that are known for it: its own, else those of its platform."""
    found: Sequence[Screen]
    if is_all:
        found = site.every_screen or site.screens or platform(site.target).every_screen()
    else:
        found = site.screens or platform(site.target).screens()
    return found


def signs(targets: Sequence[str] = TARGETS) -> str:
    """Return the files by which projects of some targets are known, in words: "an AndroidManifest.xml or an .xcodeproj"."""
    known = [sign for target in targets if (sign := platform(target).sign)]
    return " or ".join([", ".join(known[:-1]), known[-1]] if len(known) > 1 else known)


def platform_tables() -> dict[str, type[PlatformOptions]]:
    """Return the table of each platform in the brief, by target."""
    return {target: platform(target).options for target in TARGETS}
