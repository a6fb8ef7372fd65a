"""App targets of Xcode projects."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from rivelt.platforms import Platform
from rivelt.platforms.ios.site import IosSite

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rivelt.brief.model import Brief
    from rivelt.layout.context import PlanContext
    from rivelt.layout.motion import MotionReport
    from rivelt.picture import Art
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.ios.options import IosTable
    from rivelt.project.project import Project
    from rivelt.rules.rulebook import Rulebook, Subject
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look


class Ios:
    """iOS and iPadOS: what Rivelt asks of them."""

    title = "iOS and iPadOS"
    unit = "pt"
    sign: str | None = "an .xcodeproj"
    files: Sequence[str] = (
        "*.xcodeproj/project.pbxproj",
        "*project.yml",
        "*Project.swift",
        "*Package.swift",
        "*BUILD",
        "*BUILD.bazel",
    )
    is_on_request = False
    noun = "app target"
    takes_all = False

    @property
    def options(self) -> type[IosTable]:
        """The table [ios] of the brief."""
        from rivelt.platforms.ios.options import IosTable

        return IosTable

    @property
    def rules(self) -> Rulebook[Subject[IosSite]]:
        """The rules of iOS and iPadOS."""
        from rivelt.platforms.ios.rules import BOOK

        return BOOK

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """Return the diameters of the circles that must hold a mark on a disc; without a disc nothing is cut."""
        from rivelt.platforms.ios.facts import masks

        return masks(has_disc=has_disc)

    def screens(self) -> Sequence[Screen]:
        """Return the screens that a proof shows."""
        from rivelt.platforms.ios.facts import screens

        return screens()

    def every_screen(self) -> Sequence[Screen]:
        """Return all screens that are known."""
        from rivelt.platforms.ios.facts import every_screen

        return every_screen()

    def survey(self, project: Project, brief: Brief | None = None) -> Sequence[IosSite]:
        """Return the app targets of a project."""
        from rivelt.platforms.ios.survey import survey

        return survey(project, brief)

    def views(self, project: Project, site: IosSite, beside: Sequence[IosSite]) -> Sequence[IosSite]:
        """Return an app target as each of its configurations has it."""
        from rivelt.platforms.ios.views import views

        return views(project, site, beside)

    def proposals(self, _project: Project, sites: Sequence[IosSite]) -> Mapping[str, Mapping[str, str]]:
        """Return an edition for each app target but that of the shortest name, called by what its own name has more."""
        from rivelt.platforms.choose import best_names

        names = sorted(best_names(sites), key=len)
        return {
            re.sub(r"\W+", "", name.removeprefix(names[0])).lower() or "second": {"ios.target": name}
            for name in names[1:]
        }

    def moving_art(self, _context: PlanContext) -> Sequence[Art]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def motions(self, _context: PlanContext) -> Sequence[MotionReport]:
        """Return nothing: nothing moves on its launch screens."""
        return ()

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """Return the images alone, at paths relative to the asset catalog."""
        from rivelt.platforms.ios.make.plates import plates

        return plates(context)

    def plan(self, context: PlanContext, project: Project, site: IosSite) -> Plan:
        """Return all that would be done to a site."""
        from rivelt.platforms.ios.make.planner import plan

        return plan(context, project, site)

    def scene(self, project: Project, site: IosSite, screen: Screen, look: Look) -> Scene:
        """Return what a screen shows at launch."""
        from rivelt.platforms.ios.reader.scene import scene

        return scene(project, site, screen, look)

    def waiting(self, project: Project, site: IosSite, screen: Screen, look: Look) -> Scene | None:
        """Return what the generated waiting screen shows; None without one."""
        from rivelt.platforms.ios.reader.scene import waiting

        return waiting(project, site, screen, look)

    def after_launch(self, project: Project, site: IosSite, screen: Screen, look: Look) -> Sequence[Ground]:
        """Return the ground of a waiting screen and of the app's first screen, as far as the sources say."""
        from rivelt.platforms.ios.reader.handoff import after_launch

        return tuple(after_launch(project, site, screen, look))


PLATFORM: Platform[IosSite] = Ios()
