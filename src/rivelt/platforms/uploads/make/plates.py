"""The images of uploads: whole screens, opaque, all that matters inside the safe margin."""

from __future__ import annotations

from rivelt.layout.context import PlanContext
from rivelt.layout.fullscreen import Canvas, Foot, full_screen
from rivelt.plan.model import Plate, Recipe
from rivelt.platforms.uploads.facts import upload_facts
from rivelt.platforms.uploads.native.images import uploads
from rivelt.platforms.uploads.options import UploadsTable
from rivelt.platforms.uploads.site import Upload
from rivelt.units import PixelSize, Rect, Size
from rivelt.values import replace


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """Return the images alone, at paths relative to the folder or archive that holds them."""
    return tuple(Plate(upload.path, upload.look, recipe_of(context, upload)) for upload in uploads(context.brief))


def safe_rect(context: PlanContext, upload: Upload) -> Rect:
    """Return the part of an image, in px, that no device cuts off."""
    margin = context.brief.table("uploads", UploadsTable).safe_margin
    share = 1 - 2 * margin
    return Rect(upload.width * margin, upload.height * margin, upload.width * share, upload.height * share)


def recipe_of(context: PlanContext, upload: Upload) -> Recipe:
    """Return the whole screen; always a PNG without alpha."""
    facts = upload_facts()
    canvas = Canvas(PixelSize(upload.width, upload.height), upload.density, safe_rect(context, upload))
    foot = Foot(Size(facts.imprint.width, facts.imprint.height), facts.imprint.foot, facts.disc)
    return replace(full_screen(context, upload.look, canvas, foot), form="png")
