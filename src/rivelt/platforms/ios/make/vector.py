"""The mark as one SVG for each look, kept as a vector in the asset catalog."""

from __future__ import annotations

from collections.abc import Sequence

from rivelt.art.outline.draw import placed_svg
from rivelt.art.outline.prove import SAME
from rivelt.errors import BadInput
from rivelt.layout.context import PlanContext
from rivelt.plan.model import WriteFile
from rivelt.platforms.ios.make.contents import vector_set
from rivelt.platforms.ios.make.plates import ImageSet, role_scale
from rivelt.project.snapshot import join
from rivelt.units import Look


def vector_mark(context: PlanContext, sets: Sequence[ImageSet], catalog: str) -> tuple[WriteFile, ...]:
    """Return the image set of the mark: plain outlines, which every version of Xcode understands, drawn back and compared first.

    Raises:
        BadInput: the art is not a vector, or its outlines do not show the same picture.
    """
    found = next(found for found in sets if found.part == "Mark")
    files: dict[Look, str] = {}
    made: list[WriteFile] = []
    for look in context.looks("mark"):
        name = f"{found.name}{'-dark' if look == 'dark' else ''}.svg"
        files[look] = name
        path = join(catalog, f"{found.name}.imageset", name)
        made.append(WriteFile(path, _svg(context, look, found).encode(), f"the {look} mark as a vector"))
    contents = join(catalog, f"{found.name}.imageset", "Contents.json")
    return (*made, WriteFile(contents, vector_set(files), "image set of the mark"))


def _svg(context: PlanContext, look: Look, found: ImageSet) -> str:
    measured = context.art[look, "mark"]
    art = measured.art
    outline = measured.outline if art.svg is not None else None
    if outline is None:
        reason = f"{art.name} is a bitmap"
    elif outline.unsupported:
        reason = f"<{outline.unsupported[0].element}>: {outline.unsupported[0].reason}"
    elif (apart := measured.outline_difference) >= SAME:
        reason = f"its outlines would not show the same picture (mean difference {apart:.1f} of 255)"
    else:
        # Placed as the plate of one pixel per point has it.
        (placement,) = context.fitted(look, "mark", found.size, role_scale(context, look, "mark"), 1).placed
        return placed_svg(outline, found.size, placement.box)
    hint = 'Use mark_form = "bitmaps" under [ios], or simplify the drawing.'
    raise BadInput(
        f"the {look} mark cannot be kept as a vector: {reason}", place=context.brief.place("ios.mark_form"), hint=hint
    )
