"""The art of a brief, read from disk, measured, derived where the brief says so, and judged."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.art.extent import Extent, box_extent, extent_of
from rivelt.art.source import Art, read_art
from rivelt.brief.model import DERIVE, ROLES, Brief, Role
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.findings import Finding
from rivelt.pixels.canvas import draw
from rivelt.pixels.prove import SAME, difference
from rivelt.pixels.sample import recoloured_bitmap, sampled
from rivelt.pixels.visible import visible_outline
from rivelt.plan.context import MeasuredArt, PlanContext
from rivelt.platforms import platform
from rivelt.units import LOOKS, Look, PixelSize, Point, Rect, Size

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.art.backdrop import Coverage
    from rivelt.art.contrast import OutlineContrast
    from rivelt.colour import Colour

SHARP = 1.0
BLURRED = 2.0
"""Up to which enlargement a bitmap is sharp, and from which on it is visibly blurred (plate pixels per source pixel)."""

ORDINARY_SCREEN = Size(393, 852)
"""The phone, in points, on which a mark is looked at in front of its backdrop."""

READABLE_SHARE = 0.9
"""The share of the outline that must reach 3:1 for a mark to count as readable on its ground."""


# Reading


def gather(brief: Brief, masks: Sequence[float]) -> PlanContext:
    """Read and measure the art of a brief, each file once, on all cores; derive what the brief leaves to Rivelt.

    Args:
        brief: the brief.
        masks: the diameters, in dp, of the circles that platforms cut marks with.

    Raises:
        BadInput: a file cannot be used, with the place in the brief that names it; `Problems` for several.
    """
    wanted = {(look, role): path for look in LOOKS for role in ROLES if (path := brief.looks[look].art(role))}
    files = {key: path for key, path in wanted.items() if path != DERIVE}
    with ThreadPoolExecutor() as pool:
        futures = {path: pool.submit(_brief_art, brief, path) for path in dict.fromkeys(files.values())}
    found = _collected(files, futures, lambda look, role: brief.place(f"{look}.{role}"))
    for look, role in wanted.keys() - files.keys():
        found[look, role] = _derived(found["light", role], brief, look)
    return PlanContext(brief, found, tuple(masks))


def _collected(
    files: Mapping[tuple[Look, Role], str],
    futures: Mapping[str, Future[MeasuredArt]],
    place_of: Callable[[Look, Role], Place | None],
) -> dict[tuple[Look, Role], MeasuredArt]:
    problems: dict[str, RiveltError] = {}
    found: dict[tuple[Look, Role], MeasuredArt] = {}
    for (look, role), path in files.items():
        error = futures[path].exception()
        if error is None:
            found[look, role] = futures[path].result()
        elif isinstance(error, RiveltError):
            problems.setdefault(path, _blamed(error, place_of(look, role)))
        else:
            raise error
    raise_all(list(problems.values()))
    return found


def _blamed(error: RiveltError, place: Place | None) -> RiveltError:
    """The error with the line of the brief that led to it; a place inside the art goes into the message."""
    if error.place is None or place is None:
        return error.at(place)
    return type(error)(f"{error.place}: {error.message}", place=place, hint=error.hint)


def _brief_art(brief: Brief, name: str) -> MeasuredArt:
    path = (brief.folder / name).resolve()
    homes = (brief.folder.resolve(), brief.project)
    if not any(path.is_relative_to(home) for home in homes):
        hint = "Copy it next to the brief: the project must build on every machine."
        raise BadInput(f"{name} lies outside the project", hint=hint)
    found = measured(read_art_file(path, name), trim=brief.layout.trim)
    return replace(found, mass=_mass(*sampled(found.art))) if brief.layout.centre == "mass" else found


def read_art_file(path: Path, name: str) -> Art:
    """Read a source file; `name` is what messages call it.

    Raises:
        BadInput: it cannot be read, or is no art that can be used.
    """
    try:
        data = path.read_bytes()
    except FileNotFoundError as error:
        raise BadInput(f"{name} does not exist", hint="Mend the path.") from error
    except OSError as error:
        raise BadInput(
            f"{name} cannot be read: {error.strerror}", hint="Give an image file that can be read."
        ) from error
    return read_art(data, name)


def measured(art: Art, *, trim: bool = True) -> MeasuredArt:
    """Measure where the visible part of the art lies; without `trim` the whole file counts as visible.

    Raises:
        BadInput: nothing of it is visible, or it turns out to be broken when it is drawn.
    """
    extent = extent_of(visible_outline(art))
    if extent is None:
        raise BadInput(
            f"{art.name} shows nothing: every pixel is transparent", hint="Export it again with its drawing."
        )
    return MeasuredArt(art, extent if trim else box_extent(art.size))


def _derived(light: MeasuredArt, brief: Brief, look: Look) -> MeasuredArt:
    """The light art recoloured for the ground of another look; itself where it stands out already."""
    from rivelt.art.contrast import outline_palette
    from rivelt.art.derive import curve_for, recoloured_svg

    palette = outline_palette(sampled(light.art)[0])
    if len(palette) == 0:
        return light
    curve = curve_for(palette, brief.looks[look].ground)
    if curve.is_identity:
        return light
    if light.art.svg is not None:
        return replace(light, art=recoloured_svg(light.art, curve))
    data = recoloured_bitmap(light.art, curve)
    return replace(light, art=Art(f"{light.art.name} (derived)", "PNG", data, light.art.size))


def with_grounds(brief: Brief) -> Brief:
    """The brief with the grounds that it leaves to its backdrops: the colour of each picture's border.

    Raises:
        BadInput: a backdrop cannot be used.
    """
    from rivelt.art.backdrop import border_colour

    missing = [look for look in LOOKS if not brief.looks[look].is_ground_given]
    looks = dict(brief.looks)
    for look in missing:
        pixels, _ = sampled(_backdrop(brief, look))
        looks[look] = replace(looks[look], ground=border_colour(pixels))
    return replace(brief, looks=looks) if missing else brief


def _backdrop(brief: Brief, look: Look) -> Art:
    path = brief.looks[look].backdrop
    assert path is not None
    try:
        return _brief_art(brief, path).art
    except RiveltError as error:
        raise _blamed(error, brief.place(f"{look}.backdrop")) from None


# Judging


@dataclass(frozen=True)
class Fit:
    """How large the visible part may be under a circular mask: the mask's diameter and the size that fits, in dp."""

    mask: float
    width: float
    height: float


@dataclass(frozen=True)
class Sharpness:
    """How far a bitmap goes.

    `largest`: the most plate pixels there are for one of its own. `sharp`: the plates that do not enlarge it, `enlarged`: those that
    do, each with its factor. `wanted`: the size that would be sharp everywhere, in px.
    """

    largest: float
    sharp: tuple[str, ...]
    enlarged: Mapping[str, float]
    wanted: PixelSize


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


@dataclass(frozen=True)
class BackdropReport:
    """What is known of a backdrop: how it covers every screen of the targets, and the ground that was taken from it, if any."""

    art: Art
    looks: tuple[Look, ...]
    coverage: Coverage
    chosen_ground: Colour | None
    findings: tuple[Finding, ...]


def report_backdrops(brief: Brief, targets: Iterable[str]) -> list[BackdropReport]:
    """Judge the backdrops of a brief on every screen of some targets, upright and on its side."""
    from rivelt.art.backdrop import coverage

    screens = [
        (f"{screen.system}{side}", Size(*sides).scaled(screen.scale))
        for target in targets
        for screen in platform(target).every_screen()
        for side, sides in (("", (screen.width, screen.height)), (", landscape", (screen.height, screen.width)))
    ]
    paths: dict[str, list[Look]] = {}
    for look in LOOKS:
        path = brief.looks[look].backdrop
        if path:
            paths.setdefault(path, []).append(look)
    reports = []
    for looks in paths.values():
        art = _backdrop(brief, looks[0])
        found = coverage(art.size, brief.layout.focus, screens)
        shown = brief.looks[looks[0]]
        place = brief.place(f"{looks[0]}.backdrop")
        findings = tuple(_backdrop_findings(art, found, place))
        reports.append(
            BackdropReport(art, tuple(looks), found, None if shown.is_ground_given else shown.ground, findings)
        )
    return reports


def _backdrop_findings(art: Art, found: Coverage, place: Place | None) -> Iterable[Finding]:
    if found.cut:
        message = f"the focus of {art.name} is cut off on {len(found.cut)} of {found.screens} screens, {found.cut[0]} among them"
        box = found.common
        hint = (
            f"Every screen shows only {box.width:.0f} x {box.height:.0f} of its pixels, from {box.x:.0f}, {box.y:.0f}: "
            "place what matters there."
        )
        yield Finding("ART06", "warning", message, hint, place)
    if art.svg is None and found.enlarged > SHARP * 1.01:
        message = f"{art.name} has too few pixels: on the largest screen it is enlarged {found.enlarged:.1f} times"
        hint = f"Ask for {found.wanted.width:.0f} x {found.wanted.height:.0f} pixels."
        yield Finding("ART02", "warning", message, hint, place)


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
    from rivelt.art.contrast import has_baked_background, outline_contrast
    from rivelt.art.fit import circle_scale

    pixels, unit = sampled(found.art)
    contrasts: dict[Look, OutlineContrast] = {}
    fits: list[Fit] = []
    if context is not None:
        for look in looks:
            under = _under_mark(context, look, found, unit, pixels.shape) if role == "mark" else None
            contrast = outline_contrast(pixels, context.brief.looks[look].ground, unit, under)
            if contrast is not None:
                contrasts[look] = contrast
        bounds = found.extent.bounds
        for mask in context.masks if role == "mark" else ():
            scale = circle_scale(
                found.reach(context.brief.layout.centre or "circle"), mask, context.brief.layout.clearance
            )
            fits.append(Fit(mask, bounds.width * scale, bounds.height * scale))
    is_baked = has_baked_background(pixels)
    outline = _outlined(found.art) if found.art.svg is not None else None
    mass = _mass(pixels, unit)
    report = ArtReport(found.art, found.extent, mass, role, looks, contrasts, tuple(fits), sharpness, outline)
    return replace(report, findings=tuple(_findings(report, context, place, is_baked=is_baked)))


def _under_mark(
    context: PlanContext, look: Look, found: MeasuredArt, unit: float, shape: tuple[int, ...]
) -> NDArray[np.uint8] | None:
    """What of the backdrop lies behind the mark on an ordinary phone, pixel by pixel of the sampled mark; None without a backdrop.

    `unit`: art units per pixel; `shape`: rows and columns.
    """
    from rivelt.art.backdrop import window_on

    if context.brief.looks[look].backdrop is None:
        return None
    picture = _backdrop(context.brief, look)
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


def _mass(pixels: NDArray[np.uint8], unit: float) -> Point:
    import numpy as np

    alpha = pixels[..., 3].astype(float)
    total = alpha.sum()
    y, x = np.arange(alpha.shape[0]) + 0.5, np.arange(alpha.shape[1]) + 0.5
    return Point(float(alpha.sum(axis=0) @ x / total * unit), float(alpha.sum(axis=1) @ y / total * unit))


def _findings(
    report: ArtReport, context: PlanContext | None, place: Place | None, *, is_baked: bool
) -> Iterable[Finding]:
    name = report.art.name
    if report.art.svg is not None and "text" in report.art.svg.tags:
        message = f"{name} holds text: fonts differ between machines, and so would the mark"
        yield Finding("ART01", "warning", message, "Convert the text to outlines in the drawing program.", place)
    if report.sharpness is not None and report.sharpness.enlarged:
        yield _blur(report, report.sharpness, context, place)
    for look, contrast in report.contrast.items():
        if context is not None and contrast.share < READABLE_SHARE:
            shown = context.brief.looks[look]
            ground = "its backdrop" if shown.backdrop and report.role == "mark" else shown.ground.hex
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
    if report.art.frames > 1:
        message = f"{name} is a moving picture of {report.art.frames} frames: the first is shown"
        yield Finding("ART05", "note", message, place=place)


def _blur(report: ArtReport, sharpness: Sharpness, context: PlanContext | None, place: Place | None) -> Finding:
    may_enlarge = context is not None and context.brief.layout.enlarge
    is_error = sharpness.largest > BLURRED and not may_enlarge
    worst = max(sharpness.enlarged, key=lambda path: sharpness.enlarged[path])
    message = (
        f"{report.art.name} has too few pixels: it is enlarged {sharpness.largest:.1f} times in {worst}, "
        f"and in {len(sharpness.enlarged) - 1} more plates"
    )
    hint = f"Ask for {sharpness.wanted.width} x {sharpness.wanted.height} pixels, or better an SVG."
    if is_error:
        hint += " To have it all the same: enlarge = true under [layout]."
    return Finding("ART02", "error" if is_error else "warning", message, hint, place)


def enlargements(context: PlanContext, targets: Iterable[str]) -> dict[Art, Sharpness]:
    """How far each bitmap of a brief goes, over all plates of some targets."""
    factors: dict[Art, dict[str, float]] = {}
    for target in targets:
        for plate in platform(target).plates(context):
            for placement in plate.recipe.placed:
                if placement.art.svg is None:
                    factor = placement.box.width / placement.art.size.width
                    factors.setdefault(placement.art, {})[f"{target}/{plate.path}"] = factor
    return {art: _sharpness(art, plates) for art, plates in factors.items()}


def _sharpness(art: Art, plates: Mapping[str, float]) -> Sharpness:
    largest = max(plates.values())
    wanted = PixelSize(*(math.ceil(side * max(1.0, largest) - 1e-6) for side in art.size))
    # A hundredth more is rounding of the size in dp, not blur.
    enlarged = {path: factor for path, factor in plates.items() if factor > SHARP * 1.01}
    return Sharpness(largest, tuple(path for path in plates if path not in enlarged), enlarged, wanted)


def refuse_enlarged(context: PlanContext, targets: Iterable[str]) -> None:
    """Refuse bitmaps that would be blurred to more than twice their size, unless the brief allows it.

    Raises:
        BadInput: there is one; `Problems` for several.
    """
    if context.brief.layout.enlarge or all(found.art.svg is not None for found in context.art.values()):
        return
    problems: dict[Art, RiveltError] = {}
    sharpness = enlargements(context, targets)
    for (look, role), found in context.art.items():
        blurred = sharpness.get(found.art)
        if blurred is not None and blurred.largest > BLURRED:
            report = ArtReport(found.art, found.extent, found.extent.bounds.centre, role, (look,))
            finding = _blur(report, blurred, context, context.brief.place(f"{look}.{role}"))
            problems.setdefault(found.art, BadInput(finding.message, place=finding.place, hint=finding.hint))
    raise_all(list(problems.values()))
