"""The picture of the item: one SVG of plain outlines, or a bitmap at four pixels per dp, in the light look."""

from __future__ import annotations

import math

from rivelt.art.outline.draw import placed_svg
from rivelt.art.outline.prove import SAME
from rivelt.layout.context import PlanContext
from rivelt.plan.model import Plate, WriteFile
from rivelt.platforms.dotnet.facts import dotnet_facts
from rivelt.platforms.dotnet.options import DotnetTable
from rivelt.units import Look, Size

_DENSITY = 4
_LOOK: Look = "light"


def picture_size(context: PlanContext) -> Size:
    """Return the size of the picture in whole dp: the mark as large as the layout asks for."""
    frame = context.frame(_LOOK, "mark", context.mark_scale(_LOOK))
    # A small tolerance is subtracted before rounding up, so that 200.0000001 does not become 201.
    return Size(*(math.ceil(side - 1e-6) for side in frame))


def picture(context: PlanContext, folder: str) -> WriteFile | Plate:
    """Return the picture below a folder: an SVG where the art's outlines show the same, else a PNG."""
    options = context.brief.table("dotnet", DotnetTable)
    size, found = picture_size(context), context.art[_LOOK, "mark"]
    scale = context.mark_scale(_LOOK)
    path = f"{folder}/{options.picture}"
    outline = found.outline if found.art.svg is not None else None
    if outline is not None and not outline.unsupported and found.outline_difference < SAME:
        (placement,) = context.fitted(_LOOK, "mark", size, scale, 1).placed
        return WriteFile(f"{path}.svg", placed_svg(outline, size, placement.box).encode(), "the mark as a vector")
    return Plate(f"{path}.png", _LOOK, context.fitted(_LOOK, "mark", size, scale, _DENSITY))


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """Return the bitmap, where the picture is one."""
    made = picture(context, dotnet_facts().folder) if context.has("mark") else None
    return (made,) if isinstance(made, Plate) else ()
