"""The handoff: launch screen, window of the app's theme, first screen; and the changes between their colours."""

from __future__ import annotations

import itertools
from collections.abc import Iterable

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.scene.model import Ground, Scene
from rivelt.scene.site import Site
from rivelt.units import Look

FLASH = 10.0
"""The colour difference (CIEDE2000) from which a change of the whole screen is seen at a glance, as a flash."""


class Step(Struct, frozen=True):
    """One moment of the start: its ground, and the difference of its colour to the moment before (CIEDE2000; None: unknown)."""

    ground: Ground
    difference: float | None = None

    @property
    def is_flash(self) -> bool:
        """Whether the change reads as a flash."""
        return self.difference is not None and self.difference >= FLASH


class Handoff(Struct, frozen=True):
    """What a person sees from the launch screen to the app's first screen, on one site in one look."""

    site: Site
    look: Look
    steps: tuple[Step, ...]


def handoff(site: Site, scene: Scene, after: Iterable[Ground]) -> Handoff:
    """Return the handoff from a launch screen to what comes after it, in order."""
    known = scene.title if scene.ground or not scene.unknowns else scene.unknowns[0]
    first = [Ground("launch screen", scene.ground, known)] if scene.layers else []
    grounds = [*first, *after]
    steps = [Step(ground) for ground in grounds[:1]]
    for before, ground in itertools.pairwise(grounds):
        steps.append(Step(ground, _difference(before.colour, ground.colour)))
    return Handoff(site, scene.look, tuple(steps))


def _difference(a: Colour | None, b: Colour | None) -> float | None:
    """CIEDE2000 between two opaque colours; None when one is not known."""
    return None if a is None or b is None else a.difference(b)
