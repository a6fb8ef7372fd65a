"""The art on a chart: what is visible of it, the circle round it, the mask it must fit, and how it stands out on its ground."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct

from rivelt.art.contrast import BINS, ENOUGH, MOST
from rivelt.colour import Colour
from rivelt.layout.fit import allowed_diameter
from rivelt.layout.report import ArtReport, BackdropReport
from rivelt.pixels.canvas import draw
from rivelt.pixels.compose import Sheet
from rivelt.pixels.type import Anchor, shortened
from rivelt.proof.style import (
    ACCENT,
    HAIRLINE,
    INK,
    MARGIN,
    PAPER,
    PIXELS_PER_UNIT,
    SOFT_INK,
    WIDTH,
    block,
    line,
    text,
)
from rivelt.units import Circle, Look, PixelSize, Point, Rect, Size, centred, contain, round_half_up

BLANK = Colour(255, 255, 255)
"""The ground of art that no brief gives one."""

_PANEL = 346.0
_GAP = 29.333
_TOP = 150.0
_FILL = 0.86  # how much of a panel the mask, or the art without one, takes
_UNDER = 176.0
_COLUMNS = 4


class _Panel(Struct, frozen=True):
    """One piece of art in one look, at `frame` on the sheet; `scale` sheet units per art unit, `box` where the whole art is."""

    report: ArtReport
    look: Look | None
    ground: Colour
    frame: Rect
    scale: float
    box: Rect

    def on_sheet(self, point: Point) -> Point:
        """Return a place in the art as one on the sheet."""
        return Point(self.box.x + point.x * self.scale, self.box.y + point.y * self.scale)


def draw_chart(
    reports: Sequence[ArtReport],
    backdrops: Sequence[BackdropReport],
    name: str,
    source: str,
    clearance: float,
) -> bytes:
    """Return the chart as a PNG. The same reports give the same bytes.

    Args:
        reports: what is known of the art.
        backdrops: what is known of the pictures behind it; they come after it.
        name: the title.
        source: the brief, or how the art was given.
        clearance: the free ring inside a mask, as a share of its diameter.
    """
    panels = _panels(reports, clearance)
    pictures = [(report, _frame(len(panels) + index)) for index, report in enumerate(backdrops)]
    rows = math.ceil((len(panels) + len(pictures)) / _COLUMNS)
    height = _TOP + rows * (_PANEL + _UNDER) + MARGIN
    size = Size(WIDTH, height).pixels(PIXELS_PER_UNIT)
    over = [block(_header(name), Rect(0, 0, WIDTH, _TOP))]
    over += [
        block((*_key_lines(panel, clearance), *_captions(panel)), _around(panel.frame, height)) for panel in panels
    ]
    over += [block(_backdrop(report, frame), _around(frame, height)) for report, frame in pictures]
    over.append(block(_footer(source, height), Rect(0, height - MARGIN, WIDTH, MARGIN)))
    sheet = Sheet(size, Colour.parse(PAPER))
    for panel in panels:
        x, y = round_half_up(panel.frame.x * PIXELS_PER_UNIT), round_half_up(panel.frame.y * PIXELS_PER_UNIT)
        side = round_half_up(_PANEL * PIXELS_PER_UNIT)
        box = panel.box.scaled(PIXELS_PER_UNIT)
        mark = draw(panel.report.art, PixelSize(side, side), box._replace(x=box.x - x, y=box.y - y))
        sheet.lay(np.full((side, side, 4), panel.ground, np.uint8), x, y)
        sheet.lay(mark.numpy(), x, y)
    for report, frame in pictures:
        shown = _shown_in(report, frame).scaled(PIXELS_PER_UNIT)
        canvas = PixelSize(round_half_up(shown.width), round_half_up(shown.height))
        drawn = draw(report.art, canvas, Rect(0, 0, *canvas))
        sheet.lay(drawn.numpy(), round_half_up(shown.x), round_half_up(shown.y))
    sheet.ink(over)
    return sheet.png()


def _around(frame: Rect, height: float) -> Rect:
    """A panel and what stands under it and at its sides, on a sheet of a height."""
    top, left = frame.y - _GAP / 2, frame.x - _GAP / 2
    return Rect(left, top, WIDTH - left, min(height, frame.bottom + _UNDER) - top)


def _frame(index: int) -> Rect:
    """Where the panel with a number stands."""
    row, column = divmod(index, _COLUMNS)
    return Rect(MARGIN + column * (_PANEL + _GAP), _TOP + row * (_PANEL + _UNDER), _PANEL, _PANEL)


def _shown_in(report: BackdropReport, frame: Rect) -> Rect:
    """Where a whole backdrop is drawn in its panel."""
    return centred(contain(report.art.size, frame.size), frame)


def _backdrop(report: BackdropReport, frame: Rect) -> Iterator[str]:
    """Over a backdrop, the part of it that every screen shows, and its focus; under it, its numbers."""
    found, shown = report.coverage, _shown_in(report, frame)
    scale = shown.width / report.art.size.width
    common = found.common.scaled(scale)
    x, y = shown.x + common.x, shown.y + common.y
    yield (
        f'<rect x="{x:.2f}" y="{y:.2f}" width="{common.width:.2f}" height="{common.height:.2f}" fill="none" '
        f'stroke="{ACCENT}" stroke-width="1.2"/>'
    )
    at = Point(shown.x + found.focus.x * scale, shown.y + found.focus.y * scale)
    yield f'<circle cx="{at.x:.2f}" cy="{at.y:.2f}" r="5" fill="none" stroke="{ACCENT}" stroke-width="1.2"/>'
    yield line(at.x - 9, at.y, at.x + 9, at.y, ACCENT) + line(at.x, at.y - 9, at.x, at.y + 9, ACCENT)
    y = frame.bottom + 22
    yield text(f"backdrop, {' and '.join(report.looks)}", frame.x, y, 11.5, face="bold")
    yield text(shortened(report.art.name, frame.width, 10), frame.x, y + 17, 10, SOFT_INK)
    window = f"every one of {found.screens} screens shows {found.common.width:.0f} x {found.common.height:.0f} px of it"
    yield text(window, frame.x, y + 33, 10)
    seen = "the focus is seen on all" if not found.cut else f"the focus is cut off on {len(found.cut)}"
    yield text(seen, frame.x, y + 49, 10, ACCENT if found.cut else INK)
    if report.chosen_ground is not None:
        chosen = report.chosen_ground.hex
        yield f'<rect x="{frame.x}" y="{y + 58}" width="18" height="12" fill="{chosen}" stroke="{HAIRLINE}"/>'
        yield text(f"{chosen}, the ground taken from its border", frame.x + 24, y + 68, 10)


def _panels(reports: Sequence[ArtReport], clearance: float) -> list[_Panel]:
    shown = [(report, look) for report in reports for look in report.looks or (None,)]
    panels = []
    for index, (report, look) in enumerate(shown):
        frame = _frame(index)
        middle, reach = _centre_and_reach(report, clearance)
        scale = _PANEL * _FILL / 2 / reach
        corner = Point(frame.centre.x - middle.x * scale, frame.centre.y - middle.y * scale)
        box = Rect(corner.x, corner.y, report.art.size.width * scale, report.art.size.height * scale)
        panels.append(_Panel(report, look, report.grounds[look] if look else BLANK, frame, scale, box))
    return panels


def _centre_and_reach(report: ArtReport, clearance: float) -> tuple[Point, float]:
    """What stands in the middle of a panel and how far from it the panel must show, in art units."""
    circle = report.extent.circle
    if report.fits:  # the mask that the visible part fills up to the clearance
        return circle.centre, circle.radius / allowed_diameter(1.0, clearance)
    return report.extent.bounds.centre, report.extent.bounds.size.longer / 2


def _header(name: str) -> Iterator[str]:
    yield text(shortened(name, 900, 40, "serif"), MARGIN, 76, 40, face="serif")
    yield text("The art, measured", WIDTH - MARGIN, 70, 13, face="bold", anchor="end")
    yield line(MARGIN, 96, WIDTH - MARGIN, 96, INK, 1)


def _key_lines(panel: _Panel, clearance: float) -> Iterator[str]:
    """Over the art, in one colour that shows on its ground: hull, bounds, circle; and the mask with its clearance."""
    key = "#C2402B" if panel.ground.luminance > 0.18 else "#FF9A7A"
    extent = panel.report.extent
    bounds = extent.bounds
    corner = panel.on_sheet(Point(bounds.x, bounds.y))
    points = " ".join(f"{x:.2f},{y:.2f}" for x, y in map(panel.on_sheet, extent.hull))
    yield f'<polygon points="{points}" fill="none" stroke="{key}" stroke-width="0.6" stroke-opacity="0.8"/>'
    width, height = bounds.width * panel.scale, bounds.height * panel.scale
    yield (
        f'<rect x="{corner.x:.2f}" y="{corner.y:.2f}" width="{width:.2f}" height="{height:.2f}" fill="none" '
        f'stroke="{key}" stroke-width="0.5" stroke-dasharray="1.5 2.5"/>'
    )
    yield _circle(panel, extent.circle, f'stroke="{key}" stroke-width="1"')
    centre = panel.on_sheet(extent.circle.centre)
    yield line(centre.x - 5, centre.y, centre.x + 5, centre.y, key) + line(
        centre.x, centre.y - 5, centre.x, centre.y + 5, key
    )
    if panel.report.fits:
        mask = Circle(extent.circle.centre, extent.circle.radius / allowed_diameter(1.0, clearance))
        yield _circle(panel, mask, f'stroke="{key}" stroke-width="0.8" stroke-dasharray="3 2"')
    yield from _weakest(panel, key)


def _circle(panel: _Panel, circle: Circle, paint: str) -> str:
    x, y = panel.on_sheet(circle.centre)
    return f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{circle.radius * panel.scale:.2f}" fill="none" {paint}/>'


def _weakest(panel: _Panel, key: str) -> Iterator[str]:
    found = panel.report.contrast.get(panel.look) if panel.look else None
    if found is None or found.weakest_ratio >= 1.5 * ENOUGH:
        return
    corner = panel.on_sheet(Point(found.weakest.x, found.weakest.y))
    box = Rect(
        corner.x - 3, corner.y - 3, found.weakest.width * panel.scale + 6, found.weakest.height * panel.scale + 6
    )
    yield (
        f'<rect x="{box.x:.2f}" y="{box.y:.2f}" width="{box.width:.2f}" height="{box.height:.2f}" rx="3" fill="none" '
        f'stroke="{key}" stroke-width="1.4"/>'
    )
    ink = INK if panel.ground.luminance > 0.18 else "#FFFFFF"
    frame = panel.frame
    below = box.bottom + 12 < frame.bottom - 4
    x = min(max(box.centre.x, frame.x + 40), frame.right - 40)
    yield text(
        f"weakest {found.weakest_ratio:.1f}:1", x, box.bottom + 11 if below else box.y - 5, 9, ink, anchor="middle"
    )


def _captions(panel: _Panel) -> Iterator[str]:
    """Under a panel: what it is, its numbers, and the distribution of its contrast."""
    report, frame = panel.report, panel.frame
    x, y = frame.x, frame.bottom + 22
    yield (
        f'<rect x="{frame.x}" y="{frame.y}" width="{frame.width}" height="{frame.height}" '
        f'fill="none" stroke="{HAIRLINE}" stroke-width="0.75"/>'
    )
    title = f"{report.role}, {panel.look}" if report.role else report.art.kind
    yield text(title, x, y, 11.5, face="bold")
    yield text(panel.ground.hex, frame.right, y, 10, SOFT_INK, "mono", "end")
    yield text(shortened(report.art.name, frame.width, 10), x, y + 17, 10, SOFT_INK)
    bounds = report.extent.bounds
    yield text(
        f"visible {bounds.width:.1f} x {bounds.height:.1f}, circle ø {2 * report.extent.circle.radius:.1f}",
        x,
        y + 33,
        10,
    )
    for fit in report.fits:
        words = f"{fit.width:.1f} x {fit.height:.1f} dp in the mask of ø {fit.mask:g} dp"
        yield text(words, x, y + 49, 10)
    found = report.contrast.get(panel.look) if panel.look else None
    if found is not None:
        yield from _distribution(found.histogram, found.share, Rect(x, y + 62, frame.width, 44))


def _distribution(histogram: tuple[float, ...], share: float, frame: Rect) -> Iterator[str]:
    """How much of the outline has which contrast, on a logarithmic axis from 1 to 21; what is below 3:1 in the accent."""
    step = frame.width / BINS
    tallest = max(histogram) or 1.0
    for index, part in enumerate(histogram):
        ratio = MOST ** ((index + 0.5) / BINS)
        height = (frame.height - 14) * part / tallest
        colour = SOFT_INK if ratio >= ENOUGH else ACCENT
        y = frame.bottom - 14 - height
        yield f'<rect x="{frame.x + index * step:.2f}" y="{y:.2f}" width="{step - 1:.2f}" height="{height:.2f}" fill="{colour}"/>'
    base = frame.bottom - 14
    yield line(frame.x, base, frame.right, base)
    for ratio in (1, 3, 7, 21):
        x = frame.x + frame.width * math.log(ratio) / math.log(MOST)
        anchor: Anchor = "start" if ratio == 1 else "end" if ratio == MOST else "middle"
        yield line(x, base, x, base + 3, SOFT_INK) if ratio != ENOUGH else line(x, frame.y - 2, x, base + 3, ACCENT)
        yield text(f"{ratio}:1", x, base + 12, 8, SOFT_INK, anchor=anchor)
    yield text(
        f"{share:.0%} of the outline reaches 3:1", frame.x, frame.bottom + 12, 9, INK if share >= 0.9 else ACCENT
    )


def _footer(source: str, height: float) -> Iterator[str]:
    foot = height - 30
    yield line(MARGIN, foot - 18, WIDTH - MARGIN, foot - 18)
    legend = "line: hull and smallest circle  ·  dots: true bounds  ·  dashes: the mask, the clearance between"
    yield text(f"rivelt  ·  {source}  ·  {legend}", MARGIN, foot, 9, SOFT_INK)
