"""Up to which plate a bitmap is sharp."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from msgspec import Struct

from rivelt.picture import Art
from rivelt.plan.model import Recipe
from rivelt.units import PixelSize

SHARP = 1.01
"""Up to which enlargement a bitmap is sharp (plate pixels per source pixel): a hundredth is rounding of the size in dp, not blur."""

BLURRED = 2.0
"""From which enlargement on it is visibly blurred."""


class Sharpness(Struct, frozen=True):
    """How far a bitmap goes.

    `largest`: the most plate pixels there are for one of its own. `sharp`: the plates that do not enlarge it, `enlarged`: those that
    do, each with its factor. `wanted`: the size that would be sharp everywhere, in px.
    """

    largest: float
    sharp: tuple[str, ...]
    enlarged: Mapping[str, float]
    wanted: PixelSize


def sharpness_of(plates: Iterable[tuple[str, Recipe]]) -> dict[Art, Sharpness]:
    """Return how far each bitmap goes over some plates, each with its name."""
    factors: dict[Art, dict[str, float]] = {}
    for name, recipe in plates:
        for placement in recipe.placed:
            if placement.art.svg is None:
                factor = placement.box.width / placement.art.size.width
                factors.setdefault(placement.art, {})[name] = factor
    return {art: _sharpness(art, of_plates) for art, of_plates in factors.items()}


def _sharpness(art: Art, plates: Mapping[str, float]) -> Sharpness:
    largest = max(plates.values())
    wanted = PixelSize(*(math.ceil(side * max(1.0, largest) - 1e-6) for side in art.size))
    enlarged = {path: factor for path, factor in plates.items() if factor > SHARP}
    return Sharpness(largest, tuple(path for path in plates if path not in enlarged), enlarged, wanted)
