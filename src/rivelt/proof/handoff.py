"""The handoff: launch screen, window of the app's theme, first screen; and the steps between their colours."""

from __future__ import annotations

import itertools
from collections.abc import Mapping

from rivelt.colour import Colour
from rivelt.platforms import platform
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot
from rivelt.proof.model import Handoff, Step
from rivelt.scene.model import Ground, Scene
from rivelt.units import Look


def handoffs(
    snapshot: Snapshot, scenes: tuple[tuple[Site, Scene], ...], first_grounds: Mapping[Look, Colour]
) -> tuple[Handoff, ...]:
    """The handoff of each site in each look, on the last of its screens, where more than the launch screen is known of it.

    Args:
        snapshot: the project's files.
        scenes: the scenes of the proof.
        first_grounds: the ground of the app's first screen, where the brief says it.
    """
    last = {(site, scene.look): scene for site, scene in scenes}
    found = (_handoff(snapshot, site, scene, first_grounds) for (site, _), scene in last.items())
    return tuple(handoff for handoff in found if len(handoff.steps) > 1)


def _handoff(snapshot: Snapshot, site: Site, scene: Scene, first_grounds: Mapping[Look, Colour]) -> Handoff:
    grounds = [Ground("launch screen", scene.ground, scene.title)]
    grounds += platform(site.target).after_launch(snapshot, site, scene.screen, scene.look)
    first = first_grounds.get(scene.look)
    grounds += [Ground("first screen", first, "the brief")] if first else []
    steps = [Step(grounds[0])]
    for before, ground in itertools.pairwise(grounds):
        steps.append(Step(ground, _difference(before.colour, ground.colour)))
    return Handoff(site, scene.look, tuple(steps))


def _difference(a: Colour | None, b: Colour | None) -> float | None:
    """CIEDE2000 (CIE 142-2001) between two opaque colours; None when one is not known."""
    if a is None or b is None:
        return None
    from coloraide import Color

    return float(Color(a.hex[:7]).delta_e(Color(b.hex[:7]), method="2000"))
