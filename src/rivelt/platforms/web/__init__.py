"""Installed web apps."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rivelt.platforms import Platform
from rivelt.platforms.web.site import WebSite

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.web.options import WebTable
    from rivelt.project.project import Project
    from rivelt.rules.rulebook import Rulebook, Subject
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look


class Web:
    """Web apps: what Rivelt asks of them."""

    title = "Web"
    unit = "px"
    sign: str | None = "a web app manifest"
    files: Sequence[str] = ()
    is_on_request = False
    noun = "web app manifest"
    takes_all = True

    @property
    def options(self) -> type[WebTable]:
        """The table [web] of the brief."""
        from rivelt.platforms.web.options import WebTable

        return WebTable

    @property
    def rules(self) -> Rulebook[Subject[WebSite]]:
        """The rules of Web."""
        from rivelt.platforms.web.rules import BOOK

        return BOOK

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """Return the diameters of the circles that must hold a mark on a disc; without a disc no circle is in dp."""
        from rivelt.platforms.web.facts import masks

        return masks(has_disc=has_disc)

    def screens(self) -> Sequence[Screen]:
        """Return the screens that a proof shows."""
        from rivelt.platforms.web.facts import screens

        return screens()

    def every_screen(self) -> Sequence[Screen]:
        """Return all screens that are known."""
        from rivelt.platforms.web.facts import every_screen

        return every_screen()

    def survey(self, project: Project, brief: Brief | None = None) -> Sequence[WebSite]:
        """Return the web apps of a project."""
        from rivelt.platforms.web.survey import survey

        return survey(project, brief)

    def views(self, _project: Project, site: WebSite, _beside: Sequence[WebSite]) -> Sequence[WebSite]:
        """Return the site: it has no variants."""
        return (site,)

    def proposals(self, _project: Project, _sites: Sequence[WebSite]) -> Mapping[str, Mapping[str, str]]:
        """Return nothing: its sites suggest no editions."""
        return {}

    def moving_art(self, _context: PlanContext) -> Sequence[Art]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def motions(self, _context: PlanContext) -> Sequence[MotionReport]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """Return the images alone, at paths relative to the folder of the manifest."""
        from rivelt.platforms.web.make.plates import plates

        return plates(context)

    def plan(self, context: PlanContext, project: Project, site: WebSite) -> Plan:
        """Return all that would be done to a site."""
        from rivelt.platforms.web.make.planner import plan

        return plan(context, project, site)

    def scene(self, project: Project, site: WebSite, screen: Screen, look: Look) -> Scene:
        """Return what a screen shows at launch."""
        from rivelt.platforms.web.reader.scene import scene

        return scene(project, site, screen, look)

    def waiting(self, _project: Project, _site: WebSite, _screen: Screen, _look: Look) -> Scene | None:
        """Return nothing: no waiting screen is generated."""
        return None

    def after_launch(self, _project: Project, _site: WebSite, _screen: Screen, _look: Look) -> Sequence[Ground]:
        """Return nothing: the launch screen gives way to the app's first page at once."""
        return ()


PLATFORM: Platform[WebSite] = Web()
