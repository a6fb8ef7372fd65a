"""The images of an Android launch screen: one for each density and each look that differs."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.layout.context import PlanContext
from rivelt.layout.disc import disc_art
from rivelt.plan.model import Placement, Plate, Recipe
from rivelt.platforms.android.facts import BASE_DPI, android_facts
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.options import AndroidTable
from rivelt.units import Look, Point, Rect, Size
from rivelt.values import replace


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """Return the images alone, at paths relative to the `res` folder: one for each density and each look that differs."""
    options = context.brief.table("android", AndroidTable)
    names = Names.of(options.prefix)
    made = [plate for look in context.looks("mark") for plate in mark_plates(context, options, names, look)]
    return (*made, *imprint_plates(context, options, names), *backdrop_plates(context, options, names))


def mark_plates(
    context: PlanContext, options: AndroidTable, names: Names, look: Look, device: str = ""
) -> Iterator[Plate]:
    """Yield the mark of one look, square, its visible part inside the system's circle, or that of a kind of device."""
    icon = android_facts().geometry(has_disc=context.brief.looks[look].disc is not None, device=device)
    for qualifier, density in densities(options).items():
        recipe = context.mark_in_circle(look, icon.side, icon.mask, density)
        yield _stored(options, f"{drawable_folder(look, qualifier)}/{names.mark}", look, recipe)


def imprint_plates(context: PlanContext, options: AndroidTable, names: Names) -> Iterator[Plate]:
    """Yield the imprint, letterboxed in the system's frame; in landscape at its foot, clear of the mark. Nothing when the brief has none."""
    if not context.has("imprint"):
        return
    facts = android_facts().imprint
    frame = Size(facts.width, facts.height)
    for look in context.looks("imprint"):
        for qualifier, density in densities(options).items():
            scale = context.imprint_scale(look, frame)
            recipe = context.fitted(look, "imprint", frame, scale, density)
            yield _stored(options, f"{drawable_folder(look, qualifier)}/{names.imprint}", look, recipe)
            low = min(scale, context.imprint_scale(look, Size(facts.width, facts.low)))
            canvas = frame.pixels(density)
            height = context.frame(look, "imprint", low).height * density
            foot = Point(canvas.width / 2, canvas.height - height / 2)
            placed = context.placed(look, "imprint", low * density, foot)
            path = f"{drawable_folder(look, qualifier, 'land')}/{names.imprint}"
            yield _stored(options, path, look, Recipe(canvas, (placed,)))


def disc_plates(context: PlanContext, options: AndroidTable, names: Names, look: Look) -> Iterator[Plate]:
    """Yield the disc as bitmaps, for systems whose window backgrounds cannot size a shape."""
    colour = context.brief.looks[look].disc
    assert colour is not None
    diameter = android_facts().icon_on_disc.mask
    art = disc_art(colour, diameter)
    for qualifier, density in densities(options).items():
        canvas = Size(diameter, diameter).pixels(density)
        recipe = Recipe(canvas, (Placement(art, Rect(0, 0, *canvas)),))
        yield _stored(options, f"{drawable_folder(look, qualifier)}/{names.disc}", look, recipe)


def backdrop_plates(context: PlanContext, options: AndroidTable, names: Names) -> Iterator[Plate]:
    """Yield the backdrop, cropped round its focus to each class of screens; in every class both looks, where they differ."""
    for look in context.backdrop_looks():
        for kind in android_facts().backdrops:
            for qualifier, dpi in android_facts().densities.items():
                if dpi > kind.finest:
                    continue
                canvas = Size(kind.width, kind.height).pixels(dpi / BASE_DPI)
                smallest = Size(kind.smallest_width / kind.width, kind.smallest_height / kind.height)
                recipe = context.covering(look, canvas, smallest)
                night = "night" if look == "dark" else ""
                folder = "-".join(part for part in ("drawable", kind.qualifiers, night, qualifier) if part)
                if options.image_form == "lossy-webp":
                    yield _stored(options, f"{folder}/{names.backdrop}", look, recipe)
                else:  # a photograph without loss weighs several times as much
                    yield Plate(f"{folder}/{names.backdrop}.jpg", look, recipe)


def _stored(options: AndroidTable, path: str, look: Look, recipe: Recipe) -> Plate:
    """A plate in the form that the brief asks for; `path`: without its ending."""
    ending = "png" if options.image_form == "png" else "webp"
    return Plate(f"{path}.{ending}", look, replace(recipe, form=options.image_form))


def densities(options: AndroidTable) -> dict[str, float]:
    """Return the densities that bitmaps are made for, as pixels per dp."""
    facts = android_facts()
    wanted = {**(facts.optional_densities if options.ldpi else {}), **facts.densities}
    return {qualifier: dpi / BASE_DPI for qualifier, dpi in wanted.items()}


def drawable_folder(look: Look, qualifier: str = "", orientation: str = "") -> str:
    """Return the drawable folder of an orientation ("" for all), a look and a density, or what else comes after these."""
    parts = ("drawable", orientation, "night" if look == "dark" else "", qualifier)
    return "-".join(part for part in parts if part)
