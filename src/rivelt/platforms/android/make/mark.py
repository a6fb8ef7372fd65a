"""The mark as Android resources: a vector drawable where outlines allow it, bitmaps where they do not or where old systems need them."""

from __future__ import annotations

import math
from typing import NamedTuple

from msgspec import Struct

from rivelt.art.outline.model import Outline
from rivelt.art.outline.prove import SAME
from rivelt.errors import BadInput, Place
from rivelt.layout.context import PlanContext
from rivelt.plan.model import Plate, WriteFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.moving_mark import Mask, moving_vector
from rivelt.platforms.android.make.plates import drawable_folder, mark_plates
from rivelt.platforms.android.make.vector_drawable import NotDrawable, needs_new_features, vector_drawable
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.options import AndroidTable, Manner
from rivelt.templating import Templates
from rivelt.units import Look, Point, Rect

_TEMPLATES = Templates("rivelt.platforms.android")
_BLANK = "an icon that shows nothing, without which Android 12 shows the app's own"


class Marks(Struct, frozen=True):
    """What shows the mark. `has_vector`: whether a look has a vector drawable, which no `<bitmap>` can show."""

    plates: tuple[Plate, ...]
    files: tuple[WriteFile, ...]
    notes: tuple[str, ...]
    has_vector: bool


class _Vector(Struct, frozen=True):
    """A vector drawable, and the API level from which Android draws all of it."""

    text: str
    level: int


def marks(
    context: PlanContext, options: AndroidTable, names: Names, min_sdk: int, *, in_window: bool, device: str
) -> Marks:
    """Return the mark of each look.

    Args:
        context: the brief and its art.
        options: what the brief says to Android.
        names: the names of the resources.
        min_sdk: the lowest API level that the app runs on.
        device: the kind of device that the app is made for.
        in_window: whether the window's background shows the mark up to Android 11: a vector cannot be sized there below API 23.

    Raises:
        BadInput: the brief asks for a vector, and the art is a bitmap, or its outlines do not show the same picture.
    """
    plates: list[Plate] = []
    files: list[WriteFile] = []
    notes: list[str] = []
    facts = android_facts()
    if not context.has("mark"):
        side = f"{facts.icon.side:g}"
        blank = WriteFile(f"drawable/{names.mark}.xml", _TEMPLATES.render("blank.xml.j2", side=side).encode(), _BLANK)
        return Marks((), (blank,), (), has_vector=False)
    for look in context.looks("mark"):
        vector, why_not = _vector(context, options, look, device)
        if vector is None:
            plates += mark_plates(context, options, names, look, device)
            if why_not:
                notes.append(f"the {look} mark is written as bitmaps: {why_not}")
            continue
        level = max(vector.level, facts.levels.sized_layers if in_window else 0)
        is_needed_everywhere = level <= min_sdk
        folder = drawable_folder(look, "anydpi" if is_needed_everywhere else f"anydpi-v{level}")
        files.append(WriteFile(f"{folder}/{names.mark}.xml", vector.text.encode(), f"the {look} mark as outlines"))
        if not is_needed_everywhere:
            plates += mark_plates(context, options, names, look, device)
    return Marks(tuple(plates), tuple(files), tuple(notes), bool(files))


def _vector(context: PlanContext, options: AndroidTable, look: Look, device: str) -> tuple[_Vector | None, str | None]:
    """The mark as a vector drawable, or None and why not; the reason is None when the brief asks for bitmaps."""
    if options.mark_form == "bitmaps":
        return None, None
    found = _drawn(context, look, device)
    if isinstance(found, _Vector):
        return found, None
    if options.mark_form == "vector":
        message = f"the {look} mark cannot be a vector drawable: {found}"
        raise BadInput(
            message,
            place=context.brief.place("android.mark_form"),
            hint='Use mark_form = "auto", or simplify the drawing.',
        )
    return None, found if context.art[look, "mark"].art.svg is not None else None


def _drawn(context: PlanContext, look: Look, device: str) -> _Vector | str:
    found = _outlined(context, look, device)
    if isinstance(found, str):
        return found
    facts = android_facts()
    try:
        text = vector_drawable(found.outline, found.side, found.box, f"the {look} mark")
    except NotDrawable as problem:
        return str(problem)
    if len(text) > facts.vector.largest:
        return f"as a vector it would have {len(text):,} bytes, which are slow to draw"
    levels = facts.levels
    return _Vector(text, levels.vector_gradients if needs_new_features(found.outline) else levels.lowest)


class _Outlined(NamedTuple):
    """The outlines of a mark, and where they are on a square icon (dp) under the system's mask."""

    outline: Outline
    side: float
    box: Rect
    mask: Mask


def _outlined(context: PlanContext, look: Look, device: str) -> _Outlined | str:
    """The outlines of the mark, or why they cannot be used."""
    found = context.art[look, "mark"]
    art = found.art
    if art.svg is None:
        return f"{art.name} is a bitmap"
    outline = found.outline
    if outline.unsupported:
        first = outline.unsupported[0]
        return f"<{first.element}>: {first.reason}"
    if (apart := found.outline_difference) >= SAME:
        return f"its outlines would not show the same picture (mean difference {apart:.1f} of 255)"
    icon = android_facts().geometry(has_disc=context.brief.looks[look].disc is not None, device=device)
    (placement,) = context.mark_in_circle(look, icon.side, icon.mask, 1.0).placed
    scale = placement.box.width / art.size.width
    middle = Point((icon.side / 2 - placement.box.x) / scale, (icon.side / 2 - placement.box.y) / scale)
    reach = max(math.dist(middle, point) for point in found.extent.hull) * scale
    return _Outlined(outline, icon.side, placement.box, Mask(icon.side / 2, icon.mask / 2, reach))


def moving_mark(
    context: PlanContext, look: Look, manner: Manner, device: str, length_ms: int, place: Place | None
) -> bytes:
    """Return the mark of a look as an animated vector drawable.

    Args:
        context: the brief and its art.
        look: the look.
        manner: how it moves.
        device: the kind of device that the app is made for.
        length_ms: for how long.
        place: where the brief asks for it.

    Raises:
        BadInput: there is no mark, or it has no outlines that an Android vector can hold.
    """
    if not context.has("mark"):
        hint = "Give [light] a mark, or leave the motion out."
        raise BadInput("there is no mark that could move", place=place, hint=hint)
    found = _outlined(context, look, device)
    if not isinstance(found, str):
        try:
            text = moving_vector(
                found.outline, found.side, found.box, found.mask, manner, length_ms, f"the {look} mark, which moves"
            )
        except NotDrawable as problem:
            found = str(problem)
        else:
            if len(text) <= android_facts().motion.largest:
                return text.encode()
            found = f"as an animated vector it would have {len(text):,} bytes, which are slow to play"
    hint = "Give an SVG of plain shapes and lines (rivelt measure says what it is), or an animated vector drawable of your own."
    raise BadInput(f"the {look} mark cannot move: {found}", place=place, hint=hint)
