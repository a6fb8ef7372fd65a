"""The images of an iOS launch screen: one for each scale and each look that differs."""

from __future__ import annotations

import math

from rivelt.brief.model import Role
from rivelt.plan.context import PlanContext
from rivelt.plan.model import Plate
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.site import IMPRINT, MARK
from rivelt.units import Look, Size

NAMES: dict[Role, str] = {"mark": MARK, "imprint": IMPRINT}
"""The image set of each role."""


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """The images alone, at paths relative to the asset catalog: one for each scale and each look that differs."""
    made: list[Plate] = []
    for role, frame in frames(context).items():
        for look in context.looks(role):
            for scale in ios_facts().scales:
                recipe = context.fitted(look, role, frame, _scale(context, look, role), scale)
                made.append(Plate(f"{NAMES[role]}.imageset/{file_name(role, look, scale)}", look, recipe))
    return tuple(made)


def file_name(role: Role, look: Look, scale: int) -> str:
    """The name of a plate's file in its image set."""
    dark = "-dark" if look == "dark" else ""
    return f"{NAMES[role]}{dark}@{scale}x.png"


def _scale(context: PlanContext, look: Look, role: Role) -> float:
    """Points per art unit."""
    if role == "mark":
        return context.mark_scale(look)
    facts = ios_facts().imprint
    return context.imprint_scale(look, Size(facts.width, facts.height))


def frames(context: PlanContext) -> dict[Role, Size]:
    """The size in whole points of the image of each role: large enough for every look, so that looks never jump."""
    sizes: dict[Role, Size] = {}
    for role in NAMES:
        if context.has(role):
            shown = [context.frame(look, role, _scale(context, look, role)) for look in context.looks(role)]
            # A hair is taken off before rounding up, so that 200.0000001 does not become 201.
            width, height = (max(math.ceil(side - 1e-6) for side in sides) for sides in zip(*shown, strict=True))
            sizes[role] = Size(width, height)
    return sizes
