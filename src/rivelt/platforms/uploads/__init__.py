"""Fixed-size uploads: finished full-screen images for services that build the app themselves."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rivelt.platforms import Platform
from rivelt.platforms.uploads.site import UploadsSite

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.uploads.options import UploadsTable
    from rivelt.project.project import Project
    from rivelt.rules.rulebook import Rulebook, Subject
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look


class Uploads:
    """Uploads: what Rivelt asks of them."""

    title = "Uploads"
    unit = "px"
    sign: str | None = None
    files: Sequence[str] = ()
    is_on_request = True
    noun = "set of uploads"
    takes_all = True

    @property
    def options(self) -> type[UploadsTable]:
        """The table [uploads] of the brief."""
        from rivelt.platforms.uploads.options import UploadsTable

        return UploadsTable

    @property
    def rules(self) -> Rulebook[Subject[UploadsSite]]:
        """The rules of Uploads."""
        from rivelt.platforms.uploads.rules import BOOK

        return BOOK

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """Return the diameters of the circles that must hold a mark on a disc; without a disc nothing is cut."""
        from rivelt.platforms.uploads.facts import masks

        return masks(has_disc=has_disc)

    def screens(self) -> Sequence[Screen]:
        """Return the screens that a proof shows."""
        from rivelt.platforms.uploads.facts import screens

        return screens()

    def every_screen(self) -> Sequence[Screen]:
        """Return all screens that are known."""
        from rivelt.platforms.uploads.facts import every_screen

        return every_screen()

    def survey(self, project: Project, brief: Brief | None = None) -> Sequence[UploadsSite]:
        """Return the uploads of a brief, as one site."""
        from rivelt.platforms.uploads.survey import survey

        return survey(project, brief)

    def views(self, _project: Project, site: UploadsSite, _beside: Sequence[UploadsSite]) -> Sequence[UploadsSite]:
        """Return the site: it has no variants."""
        return (site,)

    def proposals(self, _project: Project, _sites: Sequence[UploadsSite]) -> Mapping[str, Mapping[str, str]]:
        """Return nothing: its sites suggest no editions."""
        return {}

    def moving_art(self, _context: PlanContext) -> Sequence[Art]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def motions(self, _context: PlanContext) -> Sequence[MotionReport]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """Return the images alone, at paths relative to the folder or archive that holds them."""
        from rivelt.platforms.uploads.make.plates import plates

        return plates(context)

    def plan(self, context: PlanContext, project: Project, site: UploadsSite) -> Plan:
        """Return all that would be done to a site."""
        from rivelt.platforms.uploads.make.planner import plan

        return plan(context, project, site)

    def scene(self, project: Project, site: UploadsSite, screen: Screen, look: Look) -> Scene:
        """Return what a screen shows at launch."""
        from rivelt.platforms.uploads.reader.scene import scene

        return scene(project, site, screen, look)

    def waiting(self, _project: Project, _site: UploadsSite, _screen: Screen, _look: Look) -> Scene | None:
        """Return nothing: no waiting screen is generated."""
        return None

    def after_launch(self, _project: Project, _site: UploadsSite, _screen: Screen, _look: Look) -> Sequence[Ground]:
        """Return nothing: the service builds the app."""
        return ()


PLATFORM: Platform[UploadsSite] = Uploads()
