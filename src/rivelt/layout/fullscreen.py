"""Whole screens as one image: ground, backdrop, disc, mark and imprint laid out as the platforms lay them out themselves."""

from __future__ import annotations

from msgspec import Struct

from rivelt.layout.context import PlanContext
from rivelt.layout.disc import disc_art
from rivelt.plan.model import Placement, Recipe
from rivelt.units import Look, PixelSize, Point, Rect, Size
from rivelt.values import replace

_FOCUS_RING = 1e-6


class Foot(Struct, frozen=True):
    """The box the imprint fits in, and its distance from the bottom of the safe area; and the disc's diameter. All in dp or points."""

    imprint: Size
    distance: float
    disc: float


class Canvas(Struct, frozen=True):
    """A whole screen in px, its px per dp or point, and the part of it (px) in which mark, imprint and focus must stay."""

    size: PixelSize
    density: float
    safe: Rect


def full_screen(context: PlanContext, look: Look, canvas: Canvas, foot: Foot) -> Recipe:
    """Return the screen of a look. Where it is too small for mark and imprint, both get smaller by the same factor; nothing is distorted.

    The mark stands in the middle of the whole screen, the imprint above the lower edge of the safe area.
    """
    middle = Point(canvas.size.width / 2, canvas.size.height / 2)
    mark_scale = context.mark_scale(look) if context.has("mark") else 0.0
    disc = context.brief.looks[look].disc
    mark = context.frame(look, "mark", mark_scale) if mark_scale else Size(0, 0)
    mark = Size(max(mark.width, foot.disc), max(mark.height, foot.disc)) if disc is not None else mark
    imprint_scale = context.imprint_scale(look, foot.imprint) if context.has("imprint") else 0.0
    imprint = context.frame(look, "imprint", imprint_scale) if imprint_scale else Size(0, 0)
    density = canvas.density * _shrink(canvas, mark, imprint, foot.distance)
    placed: list[Placement] = []
    if disc is not None:
        side = foot.disc * density
        placed.append(Placement(disc_art(disc, foot.disc), Rect(middle.x - side / 2, middle.y - side / 2, side, side)))
    if mark_scale:
        placed.append(context.placed(look, "mark", mark_scale * density, middle))
    if imprint_scale:
        y = canvas.safe.bottom - (foot.distance + imprint.height / 2) * density
        placed.append(context.placed(look, "imprint", imprint_scale * density, Point(middle.x, y)))
    if look in context.backdrops:
        shares = Size(
            _middle_share(canvas.safe.x, canvas.safe.right, canvas.size.width),
            _middle_share(canvas.safe.y, canvas.safe.bottom, canvas.size.height),
        )
        behind = context.covering(look, canvas.size, shares)
        return replace(behind, placed=(*behind.placed, *placed))
    return Recipe(canvas.size, tuple(placed), context.brief.looks[look].ground)


def _middle_share(start: float, end: float, side: float) -> float:
    """The share of a side, round its middle, that is inside the safe area."""
    return max(_FOCUS_RING, 2 * min(side / 2 - start, end - side / 2) / side)


def _shrink(canvas: Canvas, mark: Size, imprint: Size, distance: float) -> float:
    """The factor, at most 1, by which mark (round the middle) and imprint (at the foot) fit into the safe area without meeting."""
    safe = canvas.safe.scaled(1 / canvas.density)
    middle = Point(canvas.size.width / 2 / canvas.density, canvas.size.height / 2 / canvas.density)
    wide = 2 * min(middle.x - safe.x, safe.right - middle.x)
    above, below = middle.y - safe.y, safe.bottom - middle.y
    under = mark.height / 2 + (2 * distance + imprint.height if imprint.height else 0)
    pairs = [(wide, max(mark.width, imprint.width)), (above, mark.height / 2), (below, under)]
    return max(0.0, min([1.0, *(room / needed for room, needed in pairs if needed)]))
