"""Android app modules."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rivelt.platforms import Platform
from rivelt.platforms.android.site import AndroidSite

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.android.options import AndroidTable
    from rivelt.project.project import Project
    from rivelt.rules.rulebook import Rulebook, Subject
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look


class Android:
    """Android: what Rivelt asks of it."""

    title = "Android"
    unit = "dp"
    sign: str | None = "an AndroidManifest.xml"
    files: Sequence[str] = ("*AndroidManifest.xml", "*build.gradle", "*build.gradle.kts")
    is_on_request = False
    noun = "app module"
    takes_all = False

    @property
    def options(self) -> type[AndroidTable]:
        """The table [android] of the brief."""
        from rivelt.platforms.android.options import AndroidTable

        return AndroidTable

    @property
    def rules(self) -> Rulebook[Subject[AndroidSite]]:
        """The rules of Android."""
        from rivelt.platforms.android.rules import BOOK

        return BOOK

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """Return the diameters of the circles that the system cuts icons with."""
        from rivelt.platforms.android.facts import masks

        return masks(has_disc=has_disc)

    def screens(self) -> Sequence[Screen]:
        """Return the screens that a proof shows."""
        from rivelt.platforms.android.facts import screens

        return screens()

    def every_screen(self) -> Sequence[Screen]:
        """Return all screens that are known."""
        from rivelt.platforms.android.facts import every_screen

        return every_screen()

    def survey(self, project: Project, brief: Brief | None = None) -> Sequence[AndroidSite]:
        """Return the app modules of a project."""
        from rivelt.platforms.android.survey import survey

        return survey(project, brief)

    def views(self, project: Project, site: AndroidSite, beside: Sequence[AndroidSite]) -> Sequence[AndroidSite]:
        """Return an app module as each of its variants sees it."""
        from rivelt.platforms.android.views import views

        return views(project, site, beside)

    def proposals(self, project: Project, sites: Sequence[AndroidSite]) -> Mapping[str, Mapping[str, str]]:
        """Return an edition for each flavour of the app module."""
        from rivelt.platforms.android.native.effective import variants_of_site

        return {
            flavour: {"android.source_set": flavour}
            for site in sites[:1]
            for variant in variants_of_site(project, site).every
            for flavour in variant.flavours
        }

    def moving_art(self, context: PlanContext) -> Sequence[Art]:
        """Return the moving icon as it is at first, in the middle, and at last, in each look that has one."""
        from rivelt.platforms.android.moving import moving_art

        return moving_art(context)

    def motions(self, context: PlanContext) -> Sequence[MotionReport]:
        """Return the moving icon of each look that has one, measured at every frame."""
        from rivelt.platforms.android.moving import motions

        return motions(context)

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """Return the images alone, at paths relative to the `res` folder."""
        from rivelt.platforms.android.make.plates import plates

        return plates(context)

    def plan(self, context: PlanContext, project: Project, site: AndroidSite) -> Plan:
        """Return all that would be done to a site."""
        from rivelt.platforms.android.make.planner import plan

        return plan(context, project, site)

    def scene(self, project: Project, site: AndroidSite, screen: Screen, look: Look) -> Scene:
        """Return what a screen shows at launch."""
        from rivelt.platforms.android.reader.scene import scene

        return scene(project, site, screen, look)

    def waiting(self, project: Project, site: AndroidSite, screen: Screen, look: Look) -> Scene | None:
        """Return what the generated waiting screen shows; None without one."""
        from rivelt.platforms.android.reader.scene import waiting

        return waiting(project, site, screen, look)

    def after_launch(self, project: Project, site: AndroidSite, screen: Screen, look: Look) -> Sequence[Ground]:
        """Return the window of the theme after launch."""
        from rivelt.platforms.android.reader.scene import after_launch

        return after_launch(project, site, screen, look)


PLATFORM: Platform[AndroidSite] = Android()
