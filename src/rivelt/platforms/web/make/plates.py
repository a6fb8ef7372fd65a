"""The images of a web app: icons for the manifest, and a startup image for every iPhone and iPad, way of holding it, and look."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from rivelt.layout.context import PlanContext
from rivelt.layout.disc import disc_art
from rivelt.layout.fullscreen import Canvas, Foot, full_screen
from rivelt.plan.model import Placement, Plate, Recipe
from rivelt.plan.names import FILE, safe_name
from rivelt.platforms.web.facts import both_ways, wanted_screens, web_facts
from rivelt.platforms.web.options import WebTable
from rivelt.scene.model import Screen
from rivelt.units import Look, PixelSize, Point, Rect, Size


class Icon(Struct, frozen=True):
    """An icon of the manifest: its side in px, its purpose, and its plate."""

    side: int
    purpose: str
    plate: Plate


class Startup(Struct, frozen=True):
    """A startup image: the screen it is for, as it is held, whether one look needs it alone, and its plate."""

    screen: Screen
    look: Look
    is_for_one_look: bool
    plate: Plate

    @property
    def media(self) -> str:
        """The media query that only this screen, held this way, in this look, fits."""
        short, long = sorted((self.screen.width, self.screen.height))
        way = "landscape" if self.screen.width > self.screen.height else "portrait"
        parts = [f"(device-width: {short:g}px)", f"(device-height: {long:g}px)"]
        parts += [f"(-webkit-device-pixel-ratio: {self.screen.scale:g})", f"(orientation: {way})"]
        parts += [f"(prefers-color-scheme: {self.look})"] if self.is_for_one_look else []
        return " and ".join(parts)


def folder_of(options: WebTable) -> str:
    """Return the folder of the images, next to the manifest."""
    return safe_name(options.folder, FILE)


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """Return the images alone, at paths relative to the folder of the manifest."""
    return (*(icon.plate for icon in icons(context)), *(found.plate for found in startups(context)))


def icons(context: PlanContext) -> tuple[Icon, ...]:
    """Return the icons, if they are wanted and there is a mark."""
    options = context.brief.table("web", WebTable)
    return tuple(_icons(context, options)) if options.icons is not False and context.has("mark") else ()


def _icons(context: PlanContext, options: WebTable) -> Iterator[Icon]:
    folder, look = folder_of(options), options.look
    for side in web_facts().icons:
        yield Icon(side, "any", Plate(f"{folder}/icon-{side}.png", look, _plain_icon(context, look, side)))
        masked = _masked_icon(context, look, side)
        yield Icon(side, "maskable", Plate(f"{folder}/icon-maskable-{side}.png", look, masked))


def _plain_icon(context: PlanContext, look: Look, side: int) -> Recipe:
    """The mark as large as the clearance allows, on nothing; on its disc if it has one."""
    canvas = PixelSize(side, side)
    disc = context.brief.looks[look].disc
    if disc is not None:
        placed = Placement(disc_art(disc, side), Rect(0, 0, side, side))
        return Recipe(canvas, (placed, context.placed_in_circle(look, side, canvas)))
    frame = context.frame(look, "mark", 1.0)
    scale = side * (1 - 2 * context.brief.layout.clearance) / frame.longer
    return Recipe(canvas, (context.placed(look, "mark", scale, Point(side / 2, side / 2)),))


def _masked_icon(context: PlanContext, look: Look, side: int) -> Recipe:
    """The mark inside the circle that no mask cuts, on a ground that fills the whole square."""
    canvas = PixelSize(side, side)
    mark = context.placed_in_circle(look, side * web_facts().maskable, canvas)
    return Recipe(canvas, (mark,), context.brief.looks[look].behind_mark)


def startups(context: PlanContext) -> tuple[Startup, ...]:
    """Return the startup images of the screens that the brief wants; screens of one size in one resolution share theirs.

    Raises:
        BadInput: the brief asks for a screen that does not exist.
    """
    return tuple(_startups(context, context.brief.table("web", WebTable)))


def _startups(context: PlanContext, options: WebTable) -> Iterator[Startup]:
    looks = context.brief.shown_looks
    folder = folder_of(options)
    alike: dict[tuple[float, float, float], list[Screen]] = {}
    for facts in wanted_screens(options.screens, context.brief.place("web.screens")):
        for screen in both_ways(facts):
            alike.setdefault((screen.width, screen.height, screen.scale), []).append(screen)
    for screens in alike.values():
        for look in looks:
            recipe = _startup(context, look, screens)
            dark = "-dark" if look == "dark" else ""
            kind = "jpg" if recipe.form == "jpeg" else "png"
            # The resolution belongs to the name: two screens may have as many pixels and not as many points.
            name = f"start-{recipe.canvas.width}x{recipe.canvas.height}@{screens[0].scale:g}x{dark}.{kind}"
            yield Startup(screens[0], look, len(looks) > 1, Plate(f"{folder}/{name}", look, recipe))


def _startup(context: PlanContext, look: Look, screens: list[Screen]) -> Recipe:
    """The whole screen; of several with the same pixels, what is safe on each of them."""
    facts = web_facts()
    first = screens[0]
    top, bottom, side = (max(getattr(screen, name) for screen in screens) for name in ("top", "bottom", "side"))
    safe = Rect(side, top, first.width - 2 * side, first.height - top - bottom).scaled(first.scale)
    foot = Foot(Size(facts.imprint.width, facts.imprint.height), facts.imprint.foot, facts.disc)
    return full_screen(context, look, Canvas(first.frame.size.pixels(first.scale), first.scale, safe), foot)
