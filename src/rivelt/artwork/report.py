"""What is known of each piece of art, and what should be mended."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.art.extent import Extent
from rivelt.art.source import Art
from rivelt.artwork.gather import centre_of_mass, measured, read_art_file
from rivelt.artwork.sharpness import Sharpness, blur_finding, enlargements
from rivelt.brief.model import LookBrief, Role
from rivelt.colour import Colour
from rivelt.errors import Place, RiveltError, raise_all
from rivelt.findings import Finding
from rivelt.pixels.canvas import draw
from rivelt.pixels.prove import SAME, difference
from rivelt.pixels.sample import sampled
from rivelt.plan.context import MeasuredArt, PlanContext
from rivelt.units import Look, PixelSize, Point, Rect, Size

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.art.contrast import OutlineContrast

ORDINARY_SCREEN = Size(393, 852)
"""The phone, in points, on which a mark is looked at in front of its backdrop."""

READABLE_SHARE = 0.9
"""The share of the outline that must reach 3:1 for a mark to count as readable on its ground."""


@dataclass(frozen=True)
class Fit:
    """How large the visible part may be under a circular mask: the mask's diameter and the size that fits, in dp."""

    mask: float
    width: float
    height: float


@dataclass(frozen=True)
class OutlineReport:
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


@dataclass(frozen=True)
class ArtReport:
    """What is known of one piece of art. `role` is None when it was given on its own; `looks` are those that show it.

    `mass` is the centre of mass of its paint, in art units. `contrast` holds the looks whose ground is known.
    """

    art: Art
    extent: Extent
    mass: Point
    role: Role | None = None
    looks: tuple[Look, ...] = ()
    contrast: Mapping[Look, OutlineContrast] = field(default_factory=dict)
    fits: tuple[Fit, ...] = ()
    sharpness: Sharpness | None = None
    outline: OutlineReport | None = None
    findings: tuple[Finding, ...] = ()


def report_brief(context: PlanContext, targets: Iterable[str]) -> list[ArtReport]:
    """Judge the art of a brief, each file once, on the grounds and plates that the brief asks for."""
    shown: dict[tuple[Art, Role], tuple[MeasuredArt, list[Look]]] = {}
    for (look, role), found in context.art.items():
        shown.setdefault((found.art, role), (found, []))[1].append(look)
    sharpness = enlargements(context, targets)
    brief = context.brief
    return [
        _report(found, role, tuple(looks), context, sharpness.get(art), brief.place(f"{looks[0]}.{role}"))
        for (art, role), (found, looks) in shown.items()
    ]


def report_files(paths: Iterable[Path]) -> list[ArtReport]:
    """Judge art that no brief names.

    Raises:
        BadInput: a file cannot be used; `Problems` for several.
    """
    problems: list[RiveltError] = []
    reports = []
    for path in paths:
        try:
            reports.append(_report(measured(read_art_file(path, str(path))), None, (), None, None, None))
        except RiveltError as error:
            problems.append(error)
    raise_all(problems)
    return reports


def _report(
    found: MeasuredArt,
    role: Role | None,
    looks: tuple[Look, ...],
    context: PlanContext | None,
    sharpness: Sharpness | None,
    place: Place | None,
) -> ArtReport:
    from rivelt.art.contrast import baked_background, outline_contrast
    from rivelt.art.fit import circle_scale

    pixels, unit = sampled(found.art)
    contrasts: dict[Look, OutlineContrast] = {}
    fits: list[Fit] = []
    if context is not None:
        for look in looks:
            under = _under_mark(context, look, found, unit, pixels.shape) if role == "mark" else None
            contrast = outline_contrast(pixels, _behind(context.brief.looks[look], role), unit, under)
            if contrast is not None:
                contrasts[look] = contrast
        bounds = found.extent.bounds
        for mask in sorted({mask for look in looks for mask in context.masks[look]}) if role == "mark" else ():
            scale = circle_scale(
                found.reach(context.brief.layout.centre or "circle"), mask, context.brief.layout.clearance
            )
            fits.append(Fit(mask, bounds.width * scale, bounds.height * scale))
    is_baked = baked_background(pixels) is not None
    outline = _outlined(found.art) if found.art.svg is not None else None
    mass = centre_of_mass(pixels, unit)
    report = ArtReport(found.art, found.extent, mass, role, looks, contrasts, tuple(fits), sharpness, outline)
    return replace(report, findings=tuple(_findings(report, context, place, is_baked=is_baked)))


def _behind(shown: LookBrief, role: Role | None) -> Colour:
    """The flat colour that a piece of art stands on."""
    return shown.behind_mark if role == "mark" else shown.ground


def _under_mark(
    context: PlanContext, look: Look, found: MeasuredArt, unit: float, shape: tuple[int, ...]
) -> NDArray[np.uint8] | None:
    """What of the backdrop lies behind the mark on an ordinary phone, pixel by pixel of the sampled mark; None without a backdrop.

    `unit`: art units per pixel; `shape`: rows and columns.
    """
    from rivelt.art.backdrop import window_on

    picture = context.backdrops.get(look)
    if picture is None or context.brief.looks[look].disc is not None:
        return None
    per_point = 1 / (unit * context.mark_scale(look))  # sampled pixels for each point of the screen
    window = window_on(picture.size, ORDINARY_SCREEN)
    scale = ORDINARY_SCREEN.width / window.width * per_point
    anchor = found.anchor(context.brief.layout.centre or "box")
    x, y = anchor.x / unit - picture.size.width / 2 * scale, anchor.y / unit - picture.size.height / 2 * scale
    box = Rect(x, y, picture.size.width * scale, picture.size.height * scale)
    pixels: NDArray[np.uint8] = draw(picture, PixelSize(shape[1], shape[0]), box).numpy()
    return pixels


def _outlined(art: Art) -> OutlineReport:
    from rivelt.art.outline.convert import outline_of

    outline = outline_of(art)
    unsupported = tuple(f"<{found.element}>: {found.reason}" for found in outline.unsupported)
    return OutlineReport(len(outline.shapes), difference(outline, art), unsupported)


def _findings(
    report: ArtReport, context: PlanContext | None, place: Place | None, *, is_baked: bool
) -> Iterable[Finding]:
    from rivelt.art.derive import DERIVED

    name = report.art.name
    if report.art.svg is not None and "text" in report.art.svg.tags:
        message = f"{name} holds text: fonts differ between machines, and so would the mark"
        yield Finding("ART01", "warning", message, "Convert the text to outlines in the drawing program.", place)
    if report.sharpness is not None and report.sharpness.enlarged:
        yield blur_finding(report.art, report.sharpness, context, place)
    for look, contrast in report.contrast.items():
        if context is not None and contrast.share < READABLE_SHARE:
            shown = context.brief.looks[look]
            ground = _behind(shown, report.role).hex
            if report.role == "mark" and shown.backdrop and not shown.disc:
                ground = "its backdrop"
            x, y = contrast.weakest.centre
            message = (
                f"{name} is hard to see on {ground} ({look}): {contrast.share:.0%} of its outline reaches 3:1; "
                f"weakest near {x:.0f}, {y:.0f} with {contrast.weakest_ratio:.1f}:1"
            )
            hint = (
                'Set mark = "derive" under [dark], or give another ground.'
                if look == "dark"
                else "Give another ground."
            )
            yield Finding("ART03", "warning", message, hint, place)
    if is_baked:
        message = f"{name} is a full rectangle of one colour with the drawing on it: its background is baked in"
        yield Finding("ART04", "warning", message, "Export it again with a transparent background.", place)
    if report.art.name.endswith(DERIVED) and report.art.svg is not None and "image" in report.art.svg.tags:
        message = f"{name}: a bitmap embedded in the drawing keeps its colours"
        yield Finding("ART07", "warning", message, "Draw it as paths, or give the dark look a file of its own.", place)
    if report.art.frames > 1:
        message = f"{name} is a moving picture of {report.art.frames} frames: the first is shown"
        yield Finding("ART05", "note", message, place=place)
