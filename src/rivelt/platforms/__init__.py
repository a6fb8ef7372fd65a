"""The platforms: what each of them can do, and the one place that knows their names.

A platform is a package with these rooms, all of them pure (values in, values out):

- `facts`: `TITLE`, its name for people; `UNIT`, what its screens are measured in; `SIGN`, the file by which its projects are known; `masks(has_disc)`, the diameters (dp or pt) of the circles it cuts marks with; `screens()`,
  `every_screen()`; `IS_ON_REQUEST` where only a brief can ask for it
- `options`: `Options`, what the brief may say to this platform alone
- `survey`: `survey(snapshot, brief)`
- `plates`: `plates(context)`
- `planner`: `plan(context, snapshot, site)`
- `reader`: `scene(snapshot, site, screen, look)`, `after_launch(snapshot, site, screen, look)`; where waiting screens are made, `waiting(...)`
- `rules`: `CHECKS`, functions by the code of their rule; the words of the rules stand in `rivelt/check/catalogue`

Adding a platform means adding such a folder and its name in `TARGETS`.
"""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from msgspec import Struct

    from rivelt.brief.model import Brief
    from rivelt.plan.context import PlanContext
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.rules import Check
    from rivelt.platforms.site import Site
    from rivelt.project.snapshot import Snapshot
    from rivelt.scene.model import Ground, Scene, Screen
    from rivelt.units import Look

TARGETS: tuple[str, ...] = ("android", "ios", "windows", "web", "uploads")
"""Every target, in the order in which reports name them."""


class Platform:
    """What Rivelt asks of a platform. Each room is loaded when it is first needed, so that no command pays for another's."""

    def __init__(self, target: str) -> None:
        self.target = target

    def _room(self, name: str) -> Any:
        return import_module(f"rivelt.platforms.{self.target}.{name}")

    @property
    def title(self) -> str:
        """The platform's name for people."""
        title: str = self._room("facts").TITLE
        return title

    @property
    def unit(self) -> str:
        """The unit in which its screens are measured: "dp", "pt", "px"."""
        unit: str = self._room("facts").UNIT
        return unit

    @property
    def sign(self) -> str | None:
        """The file by which its projects are known, in words; None where only a brief can ask for it."""
        found: str | None = getattr(self._room("facts"), "SIGN", None)
        return found

    @property
    def is_on_request(self) -> bool:
        """Whether only a brief can ask for it, because nothing on disk tells of it."""
        on_request: bool = getattr(self._room("facts"), "IS_ON_REQUEST", False)
        return on_request

    @property
    def options(self) -> type[Struct]:
        """The platform's own table in the brief."""
        options: type[Struct] = self._room("options").Options
        return options

    def masks(self, *, has_disc: bool) -> Sequence[float]:
        """The diameters, in dp or pt, of the circles that this platform cuts marks with: those on a disc, or all others."""
        masks: Sequence[float] = self._room("facts").masks(has_disc=has_disc)
        return masks

    def screens(self) -> Sequence[Screen]:
        """The screens that a proof can show."""
        screens: Sequence[Screen] = self._room("facts").screens()
        return screens

    def every_screen(self) -> Sequence[Screen]:
        """All screens that are known, for what must hold on each of them."""
        screens: Sequence[Screen] = self._room("facts").every_screen()
        return screens

    def survey(self, snapshot: Snapshot, brief: Brief | None = None) -> Sequence[Site]:
        """The sites of this platform in a project, or those that a brief chooses; one that cannot be handled says why in `blocked`.

        Raises:
            BadInput: the brief chooses a site that is not there.
        """
        sites: Sequence[Site] = self._room("survey").survey(snapshot, brief)
        return sites

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """The images alone, at paths relative to the folder in which the platform keeps its images."""
        plates: Sequence[Plate] = self._room("plates").plates(context)
        return plates

    def plan(self, context: PlanContext, snapshot: Snapshot, site: Site) -> Plan:
        """All that would be done to a site that is not blocked.

        Raises:
            BadInput: it cannot be done; the site is then left untouched.
        """
        plan: Plan = self._room("planner").plan(context, snapshot, site)
        return plan

    def rules(self) -> Mapping[str, Check]:
        """The platform's checks by the code of their rule."""
        checks: Mapping[str, Check] = self._room("rules").CHECKS
        return checks

    def scene(self, snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
        """What a screen shows at launch, from the native files alone."""
        scene: Scene = self._room("reader").scene(snapshot, site, screen, look)
        return scene

    def waiting(self, snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene | None:
        """What the waiting screen of ours shows, from the native files alone; None where there is none."""
        read = getattr(self._room("reader"), "waiting", None)
        found: Scene | None = read(snapshot, site, screen, look) if read is not None else None
        return found

    def after_launch(self, snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Sequence[Ground]:
        """What fills the screen after the launch screen and before the app's own first screen, from the native files alone."""
        grounds: Sequence[Ground] = self._room("reader").after_launch(snapshot, site, screen, look)
        return grounds


def signs(targets: Sequence[str] = TARGETS) -> str:
    """The files by which projects of some targets are known, in words: "an AndroidManifest.xml or an .xcodeproj"."""
    known = [sign for target in targets if (sign := platform(target).sign)]
    return " or ".join([", ".join(known[:-1]), known[-1]] if len(known) > 1 else known)


def platform_tables() -> dict[str, type[Struct]]:
    """The table of each platform in the brief, by target."""
    return {target: platform(target).options for target in TARGETS}


@cache
def platform(target: str) -> Platform:
    """The platform of a target, one of `TARGETS`."""
    return Platform(target)
