"""The images of an Android launch screen: one for each density and each look that differs."""

from __future__ import annotations

from rivelt.plan.context import PlanContext
from rivelt.plan.model import Plate
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.site import PREFIX
from rivelt.units import Look, Size

_BASE_DPI = 160


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """The images alone, at paths relative to the `res` folder: one for each density and each look that differs."""
    facts = android_facts()
    made: list[Plate] = []
    for qualifier, dpi in facts.densities.items():
        density = dpi / _BASE_DPI
        for look in context.looks("mark"):
            recipe = context.mark_in_circle(look, facts.icon.side, facts.icon.mask, density)
            made.append(Plate(_drawable(look, qualifier, "mark"), look, recipe))
        if context.has("imprint"):
            frame = Size(facts.imprint.width, facts.imprint.height)
            for look in context.looks("imprint"):
                recipe = context.fitted(look, "imprint", frame, context.imprint_scale(look, frame), density)
                made.append(Plate(_drawable(look, qualifier, "imprint"), look, recipe))
    return tuple(made)


def _drawable(look: Look, density: str, name: str) -> str:
    night = "night-" if look == "dark" else ""
    return f"drawable-{night}{density}/{PREFIX}{name}.png"
