"""The handoff: launch screen, window of the app's theme, first screen; and the steps between their colours."""

from __future__ import annotations

import itertools

from rivelt.brief.model import Brief
from rivelt.colour import Colour
from rivelt.platforms import platform
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot
from rivelt.proof.model import Handoff, Step
from rivelt.scene.model import Ground, Scene


def handoffs(
    snapshot: Snapshot, scenes: tuple[tuple[Site, Scene], ...], brief: Brief | None = None
) -> tuple[Handoff, ...]:
    """The handoff of each site in each look, on the last of its screens, where more than the launch screen is known of it.

    Args:
        snapshot: the project's files.
        scenes: the scenes of the proof.
        brief: what tells of the first screen, if there is one: its ground, or that it is a waiting screen of ours.
    """
    last = {(site, scene.look): scene for site, scene in scenes}
    found = (_handoff(snapshot, site, scene, brief) for (site, _), scene in last.items())
    return tuple(handoff for handoff in found if len(handoff.steps) > 1)


def _handoff(snapshot: Snapshot, site: Site, scene: Scene, brief: Brief | None) -> Handoff:
    known = scene.title if scene.ground or not scene.unknowns else scene.unknowns[0]
    grounds = [Ground("launch screen", scene.ground, known)]
    grounds += platform(site.target).after_launch(snapshot, site, scene.screen, scene.look)
    if brief is not None:
        if getattr(brief.options.get(site.target), "waiting", False):
            grounds.append(Ground("waiting screen", brief.looks[scene.look].ground, brief.path.name))
        first = brief.first_grounds.get(scene.look)
        grounds += [Ground("first screen", first, brief.path.name)] if first else []
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
