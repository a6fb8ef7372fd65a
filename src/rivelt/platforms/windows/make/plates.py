"""The launch images of a package: one for each scale, and for each high-contrast theme if they are wanted."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.colour import Colour
from rivelt.layout.context import PlanContext
from rivelt.layout.disc import disc_art
from rivelt.plan.model import Ink, Placement, Plate, Recipe
from rivelt.plan.names import FILE, safe_name
from rivelt.platforms.windows.facts import Kind, windows_facts
from rivelt.platforms.windows.options import WindowsTable
from rivelt.units import PixelSize, Point, Rect, Size
from rivelt.values import replace

_PERCENT = 100


def image_name(options: WindowsTable) -> str:
    """Return the name of the launch image without qualifiers, as the manifest gives it."""
    return f"{safe_name(options.prefix, FILE)}Launch.png"


def plates(context: PlanContext, kind: Kind | None = None) -> tuple[Plate, ...]:
    """Return the images of a kind of Windows, else of the current one, at paths relative to the folder of the package's images."""
    if not context.has("mark"):
        return ()
    options = context.brief.table("windows", WindowsTable)
    stem = image_name(options).removesuffix(".png")
    return tuple(_scales(context, options, stem, kind or windows_facts().kinds[0]))


def _scales(context: PlanContext, options: WindowsTable, stem: str, kind: Kind) -> Iterator[Plate]:
    facts = windows_facts()
    for scale in kind.scales:
        recipe = _recipe(context, options, kind, scale / _PERCENT)
        yield Plate(f"{stem}.scale-{scale}.png", options.look, recipe)
        if options.high_contrast:
            paper = context.brief.looks[options.look].behind_mark
            for theme, colours in facts.contrasts.items():
                ink = Ink(Colour.parse(colours.ink), paper)
                solid = replace(recipe, placed=recipe.placed[-1:], ground=Colour.parse(colours.ground), ink=ink)
                yield Plate(f"{stem}.scale-{scale}_contrast-{theme}.png", options.look, solid)


def _recipe(context: PlanContext, options: WindowsTable, kind: Kind, density: float) -> Recipe:
    """The mark, on its disc if it has one, in the middle of the image."""
    facts = windows_facts()
    look = options.look
    canvas = kind.size.pixels(density)
    scale = context.mark_scale(look)
    frame = context.frame(look, "mark", scale)
    room = Size(kind.width - 2 * facts.margin, kind.height - 2 * facts.margin)
    scale *= min(1.0, room.width / frame.width, room.height / frame.height)
    middle = Point(canvas.width / 2, canvas.height / 2)
    mark = context.placed(look, "mark", scale * density, middle)
    return Recipe(canvas, (*_disc(context, options, canvas, density), mark), most_bytes=facts.most_bytes)


def _disc(context: PlanContext, options: WindowsTable, canvas: PixelSize, density: float) -> tuple[Placement, ...]:
    colour = context.brief.looks[options.look].disc
    if colour is None:
        return ()
    facts = windows_facts()
    side = facts.disc * density
    box = Rect((canvas.width - side) / 2, (canvas.height - side) / 2, side, side)
    return (Placement(disc_art(colour, facts.disc), box),)
