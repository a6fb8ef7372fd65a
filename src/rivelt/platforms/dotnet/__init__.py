""".NET single projects: one project file from which a build makes the launch screens of Android, iOS and Windows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rivelt.platforms import Platform, platform
from rivelt.platforms.dotnet.site import FED, DotnetSite

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.dotnet.options import DotnetTable
    from rivelt.project.project import Project
    from rivelt.rules.rulebook import Rulebook, Subject
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look


class Dotnet:
    """.NET single projects: what Rivelt asks of them. What a part is made for, that platform answers."""

    title = ".NET"
    unit = "dp"
    sign: str | None = "a .NET single project"
    files: Sequence[str] = ("*.csproj",)
    is_on_request = False
    noun = "single project"
    takes_all = True

    @property
    def options(self) -> type[DotnetTable]:
        """The table [dotnet] of the brief."""
        from rivelt.platforms.dotnet.options import DotnetTable

        return DotnetTable

    @property
    def rules(self) -> Rulebook[Subject[DotnetSite]]:
        """The rules of .NET single projects."""
        from rivelt.platforms.dotnet.rules import BOOK

        return BOOK

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """Return the diameters of the circles that the narrowest of its systems cuts marks with."""
        return platform("android").masks(has_disc=has_disc)

    def screens(self) -> Sequence[Screen]:
        """Return the screens of the systems that it feeds."""
        return [screen for target in FED for screen in platform(target).screens()]

    def every_screen(self) -> Sequence[Screen]:
        """Return all screens of the systems that it feeds."""
        return [screen for target in FED for screen in platform(target).every_screen()]

    def survey(self, project: Project, brief: Brief | None = None) -> Sequence[DotnetSite]:
        """Return the single projects."""
        from rivelt.platforms.dotnet.survey import survey

        return survey(project, brief)

    def views(self, _project: Project, site: DotnetSite, _beside: Sequence[DotnetSite]) -> Sequence[DotnetSite]:
        """Return a site as it is: all its configurations show the same."""
        return (site,)

    def proposals(self, _project: Project, _sites: Sequence[DotnetSite]) -> Mapping[str, Mapping[str, str]]:
        """Return nothing."""
        return {}

    def moving_art(self, _context: PlanContext) -> Sequence[Art]:
        """Return nothing: what moves is Android's."""
        return ()

    def motions(self, _context: PlanContext) -> Sequence[MotionReport]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """Return the images alone, at paths relative to the project's folder."""
        from rivelt.platforms.dotnet.make.picture import plates

        return plates(context)

    def plan(self, context: PlanContext, project: Project, site: DotnetSite) -> Plan:
        """Return all that would be done to a site."""
        from rivelt.platforms.dotnet.make.planner import plan

        return plan(context, project, site)

    def scene(self, project: Project, site: DotnetSite, screen: Screen, look: Look) -> Scene:
        """Return what a screen shows at launch."""
        from rivelt.platforms.dotnet.reader.scene import scene

        return scene(project, site, screen, look)

    def waiting(self, _project: Project, _site: DotnetSite, _screen: Screen, _look: Look) -> Scene | None:
        """Return nothing: no waiting screen is made."""
        return None

    def after_launch(self, _project: Project, _site: DotnetSite, _screen: Screen, _look: Look) -> Sequence[Ground]:
        """Return nothing: the first page is drawn by the framework."""
        return ()


PLATFORM: Platform[DotnetSite] = Dotnet()
