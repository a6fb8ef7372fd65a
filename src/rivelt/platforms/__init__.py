"""The platforms: what each of them can do, and the one place that knows their names.

A platform is a package that fits the `Platform` protocol. Adding one means adding a folder and a line in `_PACKAGES`.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Protocol, cast

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.plan.context import PlanContext
    from rivelt.plan.model import Plan, Plate
    from rivelt.platforms.site import Site
    from rivelt.project.snapshot import Snapshot
    from rivelt.scene.model import Scene, Screen
    from rivelt.units import Look

_PACKAGES = {"android": "rivelt.platforms.android", "ios": "rivelt.platforms.ios"}

TARGETS: tuple[str, ...] = tuple(_PACKAGES)
"""Every target, in the order in which reports name them."""


class Platform(Protocol):
    """What Rivelt asks of a platform. All of it is pure: values in, values out."""

    TITLE: str
    """The platform's name for people."""
    MASKS: tuple[float, ...]
    """The diameters, in dp or pt, of the circles that this platform cuts marks with."""

    def survey(self, snapshot: Snapshot) -> Sequence[Site]:
        """The sites of this platform in a project; one that cannot be handled says why in `blocked`."""

    def plates(self, context: PlanContext) -> Sequence[Plate]:
        """The images alone, at paths relative to the folder in which the platform keeps its images."""

    def plan(self, context: PlanContext, snapshot: Snapshot, site: Site) -> Plan:
        """All that would be done to a site that is not blocked."""

    def screens(self) -> Sequence[Screen]:
        """The screens that a proof can show."""

    def scene(self, snapshot: Snapshot, site: Site, screen: Screen, look: Look) -> Scene:
        """What a screen shows at launch, from the native files alone."""


def platform(target: str) -> Platform:
    """The platform of a target, loaded when it is first asked for."""
    return cast("Platform", import_module(_PACKAGES[target]))
