"""What `measure` shows of each piece of art, and what the rules on art judge."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from msgspec import Struct, field

from rivelt.art.extent import Extent
from rivelt.art.measure import MeasuredArt
from rivelt.art.outline.prove import SAME
from rivelt.brief.model import LookBrief, Role
from rivelt.colour import Colour
from rivelt.documents import art as documents
from rivelt.documents.base import Box, Circle
from rivelt.documents.base import Dimensions as SizeItem
from rivelt.documents.base import Point as PointItem
from rivelt.errors import Place
from rivelt.layout.context import PlanContext
from rivelt.layout.coverage import Coverage, coverage, window_on
from rivelt.layout.fit import circle_scale
from rivelt.layout.sharpness import Sharpness
from rivelt.picture import Art
from rivelt.pixels.canvas import draw
from rivelt.units import LOOKS, Look, PixelSize, Point, Rect, Size
from rivelt.values import replace

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.art.contrast import OutlineContrast


_DIGITS = 9  # what is left of the tenth digit is rounding


class Fit(Struct, frozen=True):
    """How large the visible part may be under a circular mask: the mask's diameter and the size that fits, in dp."""

    mask: float
    width: float
    height: float


class OutlineReport(Struct, frozen=True):
    """Whether a vector can be held as plain outlines.

    `shapes`: how many there are. `difference`: the mean difference (of 255) to the source when they are drawn back. `unsupported`: what
    outlines cannot hold; with anything in it they are not used.
    """

    shapes: int
    difference: float
    unsupported: tuple[str, ...]

    @property
    def is_faithful(self) -> bool:
        """Whether outlines show the same picture."""
        return not self.unsupported and self.difference < SAME


class ArtReport(Struct, frozen=True):
    """What is known of one piece of art. `role` is None when it was given on its own; `looks` are those that show it.

    `mass` is the centre of mass of its paint, in art units. `contrast` holds the looks whose ground is known, `behind` says what it was
    measured against. `too_small`: sentences on masks that make the mark smaller than the brief asks for. `place`: the line of the brief
    that names it. `grounds`: the flat colour that it stands on in each look. `thinnest`: the width of its thinnest stroke in art units, and as shown in dp or points; None where it has none.
    """

    art: Art
    extent: Extent
    mass: Point
    is_baked: bool
    role: Role | None = None
    looks: tuple[Look, ...] = ()
    contrast: Mapping[Look, OutlineContrast] = field(default_factory=dict)
    behind: Mapping[Look, str] = field(default_factory=dict)
    fits: tuple[Fit, ...] = ()
    too_small: tuple[str, ...] = ()
    sharpness: Sharpness | None = None
    outline: OutlineReport | None = None
    place: Place | None = None
    thinnest: float | None = None
    thinnest_shown: float | None = None
    grounds: Mapping[Look, Colour] = field(default_factory=dict)

    @property
    def item(self) -> documents.ArtItem:
        """What is known of it, for a document."""
        art, extent, sharpness, outline = self.art, self.extent, self.sharpness, self.outline
        return documents.ArtItem(
            file=art.name,
            role=self.role,
            looks=list(self.looks),
            kind=art.kind,
            width=art.size.width,
            height=art.size.height,
            frames=art.frames,
            bounds=Box.of(extent.bounds, _DIGITS),
            hull=[PointItem(x=x, y=y) for x, y in extent.hull],
            circle=Circle.of(extent.circle, _DIGITS),
            mass=PointItem(x=self.mass.x, y=self.mass.y),
            thinnest=documents.Stroke(width=self.thinnest, shown=self.thinnest_shown),
            fits=[documents.MaskFit(mask=fit.mask, width=fit.width, height=fit.height) for fit in self.fits],
            contrast={
                look: documents.ContrastItem(
                    share=found.share,
                    least=found.least,
                    tenth=found.tenth,
                    median=found.median,
                    weakest=Box.of(found.weakest, _DIGITS),
                    weakest_ratio=found.weakest_ratio,
                )
                for look, found in self.contrast.items()
            },
            sharpness=None
            if sharpness is None
            else documents.SharpnessItem(
                largest=sharpness.largest,
                sharp=list(sharpness.sharp),
                enlarged=dict(sharpness.enlarged),
                wanted=SizeItem(width=sharpness.wanted.width, height=sharpness.wanted.height),
            ),
            outline=None
            if outline is None
            else documents.OutlineItem(
                faithful=outline.is_faithful,
                shapes=outline.shapes,
                difference=outline.difference,
                unsupported=list(outline.unsupported),
            ),
        )


class BackdropReport(Struct, frozen=True):
    """What is known of a backdrop: how it covers every screen of the targets, and the ground that was taken from it, if any."""

    art: Art
    looks: tuple[Look, ...]
    coverage: Coverage
    chosen_ground: Colour | None
    place: Place | None = None

    @property
    def item(self) -> documents.BackdropItem:
        """What is known of it, for a document."""
        found = self.coverage
        return documents.BackdropItem(
            file=self.art.name,
            looks=list(self.looks),
            width=self.art.size.width,
            height=self.art.size.height,
            common=Box.of(found.common, _DIGITS),
            focus=PointItem(x=found.focus.x, y=found.focus.y),
            screens=found.screens,
            cut=list(found.cut),
            enlarged=found.enlarged,
            ground=self.chosen_ground.hex if self.chosen_ground else None,
        )


def report_art(found: MeasuredArt, role: Role = "mark") -> ArtReport:
    """Return what is known of a piece of art that no brief names; strokes are measured of a mark alone."""
    from rivelt.art.contrast import baked_background

    is_baked = baked_background(found.sample[0]) is not None
    outline = _outlined(found) if found.art.svg is not None else None
    return ArtReport(
        found.art,
        found.extent,
        found.mass,
        is_baked,
        outline=outline,
        thinnest=found.thinnest if role == "mark" else None,
    )


def report_brief(context: PlanContext, sharpness: Mapping[Art, Sharpness]) -> list[ArtReport]:
    """Return what is known of the art of a brief, each file once, on the grounds and plates that the brief asks for."""
    shown: dict[tuple[Art, Role], tuple[MeasuredArt, list[Look]]] = {}
    for (look, role), found in context.art.items():
        shown.setdefault((found.art, role), (found, []))[1].append(look)
    return [
        _placed(context, found, role, tuple(looks), sharpness.get(art)) for (art, role), (found, looks) in shown.items()
    ]


def _placed(
    context: PlanContext, found: MeasuredArt, role: Role, looks: tuple[Look, ...], sharpness: Sharpness | None
) -> ArtReport:
    from rivelt.art.contrast import outline_contrast

    pixels, unit = found.sample
    contrasts: dict[Look, OutlineContrast] = {}
    behind: dict[Look, str] = {}
    grounds: dict[Look, Colour] = {}
    for look in looks:
        shown = context.brief.looks[look]
        under = _under_mark(context, look, found, unit, pixels.shape) if role == "mark" else None
        ground = grounds[look] = _behind(shown, role)
        contrast = outline_contrast(pixels, ground, unit, under)
        if contrast is not None:
            contrasts[look] = contrast
            behind[look] = ground.hex if under is None else "its backdrop"
    return replace(
        report_art(found, role),
        role=role,
        looks=looks,
        contrast=contrasts,
        behind=behind,
        grounds=grounds,
        fits=tuple(_fits(context, found, looks)) if role == "mark" else (),
        too_small=tuple(_too_small(context, looks)) if role == "mark" else (),
        sharpness=sharpness,
        thinnest_shown=_shown_width(context, found, looks) if role == "mark" else None,
        place=context.brief.place(f"{looks[0]}.{role}"),
    )


def mark_contrast(context: PlanContext, look: Look) -> OutlineContrast | None:
    """Return how well the mark stands out from what is behind it in a look; None where it has no outline."""
    from rivelt.art.contrast import outline_contrast

    found, shown = context.art[look, "mark"], context.brief.looks[look]
    pixels, unit = found.sample
    return outline_contrast(pixels, shown.behind_mark, unit, _under_mark(context, look, found, unit, pixels.shape))


def _shown_width(context: PlanContext, found: MeasuredArt, looks: Iterable[Look]) -> float | None:
    """The thinnest stroke of the mark where it is shown smallest, in dp or points."""
    if found.thinnest is None:
        return None
    scales = [
        context.for_target(target).mark_scale(look, min(masks[look], default=None))
        for target, masks in context.masks_of.items()
        for look in looks
    ]
    return found.thinnest * min(scales, default=context.mark_scale(next(iter(looks))))


def _fits(context: PlanContext, found: MeasuredArt, looks: Iterable[Look]) -> Iterable[Fit]:
    layout, bounds = context.brief.layout, found.extent.bounds
    for mask in sorted({mask for look in looks for mask in context.masks[look]}):
        scale = circle_scale(found.reach(layout.centre or "circle"), mask, layout.clearance)
        yield Fit(mask, bounds.width * scale, bounds.height * scale)


def _too_small(context: PlanContext, looks: Iterable[Look]) -> Iterable[str]:
    for look in looks:
        if look in context.brief.shown_looks:
            for target, masks in context.masks_of.items():
                notes = (context.for_target(target).mark_note(look, mask) for mask in masks[look])
                yield from (f"{note} on {target}" for note in notes if note)


def _behind(shown: LookBrief, role: Role) -> Colour:
    """The flat colour that a piece of art stands on."""
    return shown.behind_mark if role == "mark" else shown.ground


def _under_mark(
    context: PlanContext, look: Look, found: MeasuredArt, unit: float, shape: tuple[int, ...]
) -> NDArray[np.uint8] | None:
    """What of the backdrop is behind the mark on an ordinary phone, pixel by pixel of the sampled mark; None without a backdrop.

    `unit`: art units per pixel; `shape`: rows and columns.
    """
    picture = context.backdrops.get(look)
    if picture is None or context.brief.looks[look].disc is not None:
        return None
    per_point = 1 / (unit * context.mark_scale(look))  # sampled pixels for each point of the screen
    screen = context.ordinary_screen
    window = window_on(picture.size, screen)
    scale = screen.width / window.width * per_point
    anchor = found.anchor(context.brief.layout.centre or "box")
    x, y = anchor.x / unit - picture.size.width / 2 * scale, anchor.y / unit - picture.size.height / 2 * scale
    box = Rect(x, y, picture.size.width * scale, picture.size.height * scale)
    pixels: NDArray[np.uint8] = draw(picture, PixelSize(shape[1], shape[0]), box).numpy()
    return pixels


def _outlined(found: MeasuredArt) -> OutlineReport:
    unsupported = tuple(f"<{part.element}>: {part.reason}" for part in found.outline.unsupported)
    return OutlineReport(len(found.outline.shapes), found.outline_difference, unsupported)


def report_backdrops(context: PlanContext, screens: Iterable[tuple[str, Size]]) -> list[BackdropReport]:
    """Return what is known of the backdrops of a brief.

    Args:
        context: the brief and its art.
        screens: the name and the size in px of each screen, in each orientation.
    """
    brief = context.brief
    known = list(screens)
    paths: dict[str, list[Look]] = {}
    for look in LOOKS:
        path = brief.looks[look].backdrop
        if path:
            paths.setdefault(path, []).append(look)
    reports = []
    for looks in paths.values():
        art, shown = context.backdrops[looks[0]], brief.looks[looks[0]]
        found = coverage(art.size, brief.layout.focus, known)
        chosen = None if shown.is_ground_given else shown.ground
        reports.append(BackdropReport(art, tuple(looks), found, chosen, brief.place(f"{looks[0]}.backdrop")))
    return reports
