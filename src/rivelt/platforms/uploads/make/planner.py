"""What would be done for uploads: the images, as files or in one archive."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.layout.context import PlanContext
from rivelt.plan.model import Bundle, Plan, Plate
from rivelt.platforms.uploads.make.plates import plates, safe_rect
from rivelt.platforms.uploads.options import UploadsTable
from rivelt.platforms.uploads.site import Upload, UploadsSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.units import Rect
from rivelt.values import replace


def plan(context: PlanContext, _project: Project, site: UploadsSite) -> Plan:
    """Return all that would be done for uploads.

    Raises:
        BadInput: the brief asks for what cannot be made.
    """
    made = plates(context)
    notes = tuple(_notes(context, site, made))
    if site.is_archive:
        return Plan("uploads", site.name, bundles=(Bundle(site.out, made),), notes=notes)
    placed = tuple(replace(plate, path=join(site.out, plate.path)) for plate in made)
    return Plan("uploads", site.name, plates=placed, notes=notes)


def _notes(context: PlanContext, site: UploadsSite, made: tuple[Plate, ...]) -> Iterator[str]:
    options = context.brief.table("uploads", UploadsTable)
    if site.out != join(options.out.replace("\\", "/")):
        yield f"`uploads.out`: {options.out!r} is written as {site.out!r}, which every file system takes"
    asked = [(_as_asked(options.name, upload), upload.path) for upload in site.uploads]
    changed = next(((name, path) for name, path in asked if name != path), None)
    if changed and changed[1] == f"{changed[0]}.png":
        yield f"`uploads.name`: {changed[0]!r} is written as {changed[1]!r}, because uploads are PNG files"
    elif changed:
        yield f"`uploads.name`: {changed[0]!r} is written as {changed[1]!r}, because Windows or the web would refuse it"
    outside = [
        plate.path
        for plate, upload in zip(made, site.uploads, strict=True)
        if not _shows_focus(context, plate, safe_rect(context, upload))
    ]
    if outside:
        yield (
            f"the focus of the backdrop cannot be kept inside the safe margin in {len(outside)} of {len(made)} uploads, "
            f"{outside[0]} among them: it is too near to the picture's edge"
        )


def _as_asked(name: str, upload: Upload) -> str:
    """The name that the brief asks for."""
    for key in ("target", "width", "height", "look"):
        name = name.replace(f"{{{key}}}", str(getattr(upload, key)))
    return name


def _shows_focus(context: PlanContext, plate: Plate, safe: Rect) -> bool:
    picture = context.backdrops.get(plate.look)
    if picture is None:
        return True
    box = plate.recipe.placed[0].box
    x, y = (
        start + share * side for start, share, side in zip(box[:2], context.brief.layout.focus, box.size, strict=True)
    )
    return safe.x - 1 <= x <= safe.right + 1 and safe.y - 1 <= y <= safe.bottom + 1
