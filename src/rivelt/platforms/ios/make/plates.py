"""The image sets of an iOS launch screen: for each idiom, scale, height class and look that differs, one plate."""

from __future__ import annotations

import math
from collections.abc import Iterator

from msgspec import Struct

from rivelt.brief.model import Role
from rivelt.layout.context import PlanContext
from rivelt.layout.disc import disc_art
from rivelt.plan.model import Placement, Plate, Recipe
from rivelt.platforms.ios.facts import BackdropFacts, ios_facts
from rivelt.platforms.ios.make.ground import GroundForm
from rivelt.platforms.ios.options import IosTable
from rivelt.platforms.ios.site import Held, Idiom, Names, Orientation, Part
from rivelt.units import LOOKS, Look, PixelSize, Rect, Size
from rivelt.values import replace

_BYTES_PER_PIXEL = 4
_PAD_SCALES = (1, 2)
_ROLES: tuple[tuple[Part, Role], ...] = (("Mark", "mark"), ("Imprint", "imprint"))


class SetImage(Struct, frozen=True):
    """One entry of an image set."""

    look: Look
    scale: int
    file: str
    recipe: Recipe
    idiom: str = "universal"
    height_class: str | None = None


class ImageSet(Struct, frozen=True):
    """An image set: its name, its part ("Mark", ...), the size in points at which a storyboard shows it, and its images."""

    name: str
    part: Part
    size: Size
    images: tuple[SetImage, ...]


def plates(context: PlanContext) -> tuple[Plate, ...]:
    """Return the images alone, at paths relative to the asset catalog."""
    options = context.brief.table("ios", IosTable)
    names = Names.safe(options.prefix)
    found = image_sets(context, options, names, GroundForm(names.of("Ground"), is_named=True, has_image=False))
    return tuple(
        Plate(f"{image_set.name}.imageset/{image.file}", image.look, image.recipe)
        for image_set in found
        for image in image_set.images
    )


def image_sets(
    context: PlanContext, options: IosTable, names: Names, ground: GroundForm, held: Held = ()
) -> tuple[ImageSet, ...]:
    """Return all image sets that the brief, the kind of screen and the way to show the ground ask for."""
    sizes = frames(context)
    is_plist = options.screen == "plist"
    sets: list[ImageSet] = []
    for part, role in _ROLES:
        if role in sizes and not (is_plist and role == "imprint"):
            images = _of_role(context, options, part, role, sizes[role], with_disc=is_plist)
            sets.append(ImageSet(names.of(part), part, sizes[role], tuple(images)))
    if has_disc(context) and not is_plist:
        diameter = ios_facts().disc
        disc = tuple(_of_disc(context, options))
        sets.insert(0, ImageSet(names.of("Disc"), "Disc", Size(diameter, diameter), disc))
    if context.backdrops and not is_plist:
        backdrop = tuple(_of_backdrop(context, sets, held))
        sets.insert(0, ImageSet(names.of("Backdrop"), "Backdrop", _phone_canvas(), backdrop))
    if ground.has_image and not is_plist:
        pixel = tuple(
            SetImage(look, 1, "", Recipe(PixelSize(1, 1), (), context.brief.looks[look].ground)) for look in LOOKS
        )
        sets.insert(0, ImageSet(ground.name, "Ground", Size(1, 1), pixel))
    return tuple(replace(found, images=tuple(_renamed(found, image) for image in found.images)) for found in sets)


def _phone_canvas() -> Size:
    """The size in points that a storyboard notes for the backdrop."""
    first = ios_facts().backdrops[0]
    return Size(first.width, first.height)


def _renamed(image_set: ImageSet, image: SetImage) -> SetImage:
    """The image with its file's name: look, idiom and height class where they are not the plain ones, and scale."""
    dark = "-dark" if image.look == "dark" else ""
    idiom = "" if image.idiom == "universal" else f"~{image.idiom}"
    height = "-landscape" if image.height_class else ""
    kind = "jpg" if image.recipe.form == "jpeg" else "png"
    return replace(image, file=f"{image_set.name}{dark}{height}{idiom}@{image.scale}x.{kind}")


def has_disc(context: PlanContext) -> bool:
    """Whether any look has a disc."""
    return any(context.brief.looks[look].disc for look in context.brief.shown_looks)


def _variants(options: IosTable, part: Part) -> Iterator[tuple[str, int, float]]:
    """Idiom, scale, and how many times larger than on a phone."""
    yield from (("universal", scale, 1.0) for scale in ios_facts().scales)
    if options.pad_scale != 1 and part in {"Mark", "Disc"}:
        yield from (("ipad", scale, options.pad_scale) for scale in _PAD_SCALES)


def _of_role(
    context: PlanContext, options: IosTable, part: Part, role: Role, size: Size, *, with_disc: bool
) -> Iterator[SetImage]:
    looks = context.brief.shown_looks if with_disc and has_disc(context) else context.looks(role)
    for look in looks:
        for idiom, scale, times in _variants(options, part):
            recipe = context.fitted(look, role, size, role_scale(context, look, role), scale * times)
            if with_disc and role == "mark":
                recipe = replace(
                    recipe, placed=(*_disc_under(context, look, recipe.canvas, scale * times), *recipe.placed)
                )
            yield SetImage(look, scale, "", recipe, idiom)


def _disc_under(context: PlanContext, look: Look, canvas: PixelSize, density: float) -> tuple[Placement, ...]:
    colour = context.brief.looks[look].disc
    if colour is None:
        return ()
    side = ios_facts().disc * density
    box = Rect((canvas.width - side) / 2, (canvas.height - side) / 2, side, side)
    return (Placement(disc_art(colour, ios_facts().disc), box),)


def _of_disc(context: PlanContext, options: IosTable) -> Iterator[SetImage]:
    """The disc; where a look has none, an image that shows nothing."""
    discs = {look: context.brief.looks[look].disc for look in context.brief.shown_looks}
    looks = tuple(discs) if len(set(discs.values())) > 1 else ("light",)
    diameter = ios_facts().disc
    for look in looks:
        for idiom, scale, times in _variants(options, "Disc"):
            canvas = Size(diameter, diameter).pixels(scale * times)
            yield SetImage(look, scale, "", Recipe(canvas, _disc_under(context, look, canvas, scale * times)), idiom)


def _of_backdrop(context: PlanContext, others: list[ImageSet], held: Held) -> Iterator[SetImage]:
    """The backdrop, as large as the memory for launch images allows beside the other images, for the ways in which devices are held."""
    kinds = [kind for kind in ios_facts().backdrops if not held or any(_is_shown(kind, *way) for way in held)]
    for look in context.backdrop_looks():
        for kind in kinds:
            points = _points(kind, others)
            for scale in kind.scales:
                canvas = PixelSize(points.width * scale, points.height * scale)
                shares = _smallest_shares(kind)
                yield SetImage(look, scale, "", context.covering(look, canvas, shares), kind.idiom, kind.height_class)


def _is_shown(kind: BackdropFacts, idiom: Idiom, orientation: Orientation) -> bool:
    """Whether a canvas is shown on a kind of device that is held in one way; an iPad's is for both."""
    return kind.idiom == idiom and (idiom == "ipad" or (kind.height_class == "compact") == (orientation == "landscape"))


def _decoded(sets: list[ImageSet], idiom: str, scale: int) -> int:
    """The bytes that the images of some sets take on a device, decoded: of each set the one that the device is given."""
    total = 0
    for found in sets:
        fitting = [image for image in found.images if image.idiom == idiom] or [
            i for i in found.images if i.idiom == "universal"
        ]
        sides = [image.recipe.canvas for image in fitting if image.scale == scale]
        total += max((side.width * side.height * _BYTES_PER_PIXEL for side in sides), default=0)
    return total


def _points(kind: BackdropFacts, others: list[ImageSet]) -> PixelSize:
    """The canvas in points: as large as the memory allows at the scale that has least room, so that all scales are of one size."""
    sides = [(_canvas(kind, scale, _decoded(others, kind.idiom, scale)), scale) for scale in kind.scales]
    return PixelSize(*(min(side[axis] // scale for side, scale in sides) for axis in (0, 1)))


def _canvas(kind: BackdropFacts, scale: int, others: int) -> PixelSize:
    """The largest canvas at one scale, in px."""
    size = Size(kind.width, kind.height).scaled(scale)
    room = (ios_facts().most_decoded - others) * 0.98 / _BYTES_PER_PIXEL
    shrink = min(1.0, math.sqrt(max(1.0, room) / (size.width * size.height)))
    return PixelSize(math.floor(size.width * shrink), math.floor(size.height * shrink))


def _smallest_shares(kind: BackdropFacts) -> Size:
    """The share of the canvas that the screen showing least of it shows, on either side of its middle."""
    scale = max(kind.smallest_width / kind.width, kind.smallest_height / kind.height)
    shares = Size(kind.smallest_width / kind.width / scale, kind.smallest_height / kind.height / scale)
    # A square is shown upright and on its side.
    return Size(min(shares), min(shares)) if kind.width == kind.height else shares


def role_scale(context: PlanContext, look: Look, role: Role) -> float:
    """Return points per art unit."""
    if role == "mark":
        return context.mark_scale(look)
    facts = ios_facts().imprint
    return context.imprint_scale(look, Size(facts.width, facts.height))


def frames(context: PlanContext) -> dict[Role, Size]:
    """Return the size in whole points of the image of each role: large enough for every look, so that looks never jump."""
    sizes: dict[Role, Size] = {}
    for _, role in _ROLES:
        if context.has(role):
            shown = [context.frame(look, role, role_scale(context, look, role)) for look in context.looks(role)]
            # A small tolerance is subtracted before rounding up, so that 200.0000001 does not become 201.
            width, height = (max(math.ceil(side - 1e-6) for side in sides) for sides in zip(*shown, strict=True))
            sizes[role] = Size(width, height)
    if has_disc(context):
        diameter, mark = ios_facts().disc, sizes["mark"]
        sizes["mark"] = Size(max(mark.width, diameter), max(mark.height, diameter))
    return sizes
