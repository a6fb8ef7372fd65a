"""The platforms: what each of them can do, and the one place that knows their names.

A platform is a package with these rooms, all of them pure (values in, values out):

- `facts`: `TITLE`, its name for people; `MASKS`, the diameters (dp or pt) of the circles it cuts marks with; `screens()`, `every_screen()`
- `survey`: `survey(snapshot)`
- `plates`: `plates(context)`
- `planner`: `plan(context, snapshot, site)`
- `reader`: `scene(snapshot, site, screen, look)`

Adding a platform means adding such a folder and its name in `TARGETS`.
"""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.plan.context import PlanContext
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.site import Site
    from rivelt.project.snapshot import Snapshot
    from rivelt.scene.model import Scene, Screen
    from rivelt.units import Look

TARGETS: tuple[str, ...] = ("android", "ios")
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
    def masks(self) -> Sequence[float]:
        """The diameters, in dp or pt, of the circles that this platform cuts marks with."""
        masks: Sequence[float] = self._room("facts").MASKS
        return masks

    def screens(self) -> Sequence[Screen]:
        """The screens that a proof can show."""
        screens: Sequence[Screen] = self._room("facts").screens()
        return screens

    def every_screen(self) -> Sequence[Screen]:
        """All screens that are known, for what must hold on each of them."""
        screens: Sequence[Screen] = self._room("facts").every_screen()
        return screens

    def survey(self, snapshot: Snapshot) -> Sequence[Site]:
        """The sites of this platform in a project; one that cannot be handled says why in `blocked`."""
        sites: Sequence[Site] = self._room("survey").survey(snapshot)
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

    def scene(self, snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
        """What a screen shows at launch, from the native files alone."""
        scene: Scene = self._room("reader").scene(snapshot, site, screen, look)
        return scene


@cache
def platform(target: str) -> Platform:
    """The platform of a target, one of `TARGETS`."""
    return Platform(target)
