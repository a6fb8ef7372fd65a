"""Up to where a bitmap is sharp."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from rivelt.art.source import Art
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.findings import Finding
from rivelt.plan.context import PlanContext
from rivelt.platforms import platform
from rivelt.units import PixelSize

if TYPE_CHECKING:
    pass

SHARP = 1.0
BLURRED = 2.0
"""Up to which enlargement a bitmap is sharp, and from which on it is visibly blurred (plate pixels per source pixel)."""


@dataclass(frozen=True)
class Sharpness:
    """How far a bitmap goes.

    `largest`: the most plate pixels there are for one of its own. `sharp`: the plates that do not enlarge it, `enlarged`: those that
    do, each with its factor. `wanted`: the size that would be sharp everywhere, in px.
    """

    largest: float
    sharp: tuple[str, ...]
    enlarged: Mapping[str, float]
    wanted: PixelSize


def blur_finding(art: Art, sharpness: Sharpness, context: PlanContext | None, place: Place | None) -> Finding:
    """The finding for a bitmap that is enlarged: an error above `BLURRED`, unless the brief allows it."""
    may_enlarge = context is not None and context.brief.layout.enlarge
    is_error = sharpness.largest > BLURRED and not may_enlarge
    worst = max(sharpness.enlarged, key=lambda path: sharpness.enlarged[path])
    message = (
        f"{art.name} has too few pixels: it is enlarged {sharpness.largest:.1f} times in {worst}, "
        f"and in {len(sharpness.enlarged) - 1} more plates"
    )
    hint = f"Ask for {sharpness.wanted.width} x {sharpness.wanted.height} pixels, or better an SVG."
    if is_error:
        hint += " To have it all the same: enlarge = true under [layout]."
    return Finding("ART02", "error" if is_error else "warning", message, hint, place)


def enlargements(context: PlanContext, targets: Iterable[str]) -> dict[Art, Sharpness]:
    """How far each bitmap of a brief goes, over all plates of some targets."""
    factors: dict[Art, dict[str, float]] = {}
    for target in targets:
        for plate in platform(target).plates(context):
            for placement in plate.recipe.placed:
                if placement.art.svg is None:
                    factor = placement.box.width / placement.art.size.width
                    factors.setdefault(placement.art, {})[f"{target}/{plate.path}"] = factor
    return {art: _sharpness(art, plates) for art, plates in factors.items()}


def _sharpness(art: Art, plates: Mapping[str, float]) -> Sharpness:
    largest = max(plates.values())
    wanted = PixelSize(*(math.ceil(side * max(1.0, largest) - 1e-6) for side in art.size))
    # A hundredth more is rounding of the size in dp, not blur.
    enlarged = {path: factor for path, factor in plates.items() if factor > SHARP * 1.01}
    return Sharpness(largest, tuple(path for path in plates if path not in enlarged), enlarged, wanted)


def refuse_enlarged(context: PlanContext, targets: Iterable[str]) -> None:
    """Refuse bitmaps that would be blurred to more than twice their size, unless the brief allows it.

    Raises:
        BadInput: there is one; `Problems` for several.
    """
    if context.brief.layout.enlarge or all(found.art.svg is not None for found in context.art.values()):
        return
    problems: dict[Art, RiveltError] = {}
    sharpness = enlargements(context, targets)
    for (look, role), found in context.art.items():
        blurred = sharpness.get(found.art)
        if blurred is not None and blurred.largest > BLURRED:
            finding = blur_finding(found.art, blurred, context, context.brief.place(f"{look}.{role}"))
            problems.setdefault(found.art, BadInput(finding.message, place=finding.place, hint=finding.hint))
    raise_all(list(problems.values()))
