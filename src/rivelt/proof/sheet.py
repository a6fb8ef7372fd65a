"""The proof as a sheet: a press proof of every screen, light and dark side by side.

All lengths here are in sheet units; the PNG has `PIXELS_PER_UNIT` pixels for each, so that it stays sharp when zoomed.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from itertools import groupby

from msgspec import Struct

from rivelt import __version__
from rivelt.colour import Colour
from rivelt.layout.fit import allowed_diameter
from rivelt.pixels.compose import Block, Sheet
from rivelt.pixels.type import shortened, text_width
from rivelt.platforms import platform
from rivelt.progress import Progress, no_progress
from rivelt.proof.drawn import common_windows, drawn
from rivelt.proof.model import Mark, Proof
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
from rivelt.scene.draw import HATCH_INK, HATCH_PAPER
from rivelt.scene.handoff import Step
from rivelt.scene.model import Picture, Scene, Unknown
from rivelt.units import Rect, Size, round_half_up
from rivelt.values import replace

UNITS_PER_POINT = 0.315
"""How large a dp or pt is drawn: one scale for all screens, so that they compare."""

_TOP = 148
_PAIR_GAP = 14
_GROUP_GAP = 44
_CAPTION = 108
_TRIM = 7
_STRIP = 42
_HEADING = 26
_TAG = 8.5


class _Pair(Struct, frozen=True):
    """One screen in its looks, laid on the sheet with its top left corner at `x`, `y`; `row` is where the tallest of its row begins."""

    heading: str
    scenes: tuple[Scene, ...]
    labels: tuple[str, ...]
    x: float = 0.0
    y: float = 0.0
    row: float = 0.0

    @property
    def width(self) -> float:
        """The screens and the gaps between them, but never narrower than its captions need."""
        screens = sum(scene.screen.width * UNITS_PER_POINT for scene in self.scenes)
        return screens + _PAIR_GAP * (len(self.scenes) - 1)

    @property
    def height(self) -> float:
        return self.scenes[0].screen.height * UNITS_PER_POINT

    def frames(self) -> Iterator[tuple[Scene, str, Rect]]:
        """Yield each scene with its label and where its screen is on the sheet."""
        x = self.x
        for scene, label in zip(self.scenes, self.labels, strict=True):
            width = scene.screen.width * UNITS_PER_POINT
            yield scene, label, Rect(x, self.y, width, self.height)
            x += width + _PAIR_GAP


def draw_sheet(proof: Proof, *, guides: bool = False, on_progress: Progress = no_progress) -> bytes:
    """Return the sheet as a PNG, with the guides if they are wanted. The same proof gives the same bytes.

    `on_progress` is called with how many screens are drawn.
    """
    pairs, bottom = _laid_out(_pairs(proof))
    reasons = _reasons(proof)
    strips = bottom + _CAPTION + 24
    after = strips + _strips_height(proof)
    height = after + 18 * len(reasons) + MARGIN
    size = Size(WIDTH, height).pixels(PIXELS_PER_UNIT)
    frames = [(scene, rect) for pair in pairs for scene, _, rect in pair.frames()]
    sheet = Sheet(size, Colour.parse(PAPER))
    images = drawn([scene for scene, _ in frames], UNITS_PER_POINT * PIXELS_PER_UNIT, proof.pictures, on_progress)
    for index, image in images:
        rect = frames[index][1]
        sheet.lay(image, round_half_up(rect.x * PIXELS_PER_UNIT), round_half_up(rect.y * PIXELS_PER_UNIT))
    windows = common_windows([scene for scene, _ in frames]) if guides else None
    sheet.ink([block(_header(proof), Rect(0, 0, WIDTH, _TOP))])
    for pair in pairs:
        sheet.ink(_drawn_over(pair, proof, windows))
    sheet.ink([block(_strips(proof, strips), Rect(0, strips - 20, WIDTH, after - strips + 20))])
    sheet.ink([block(_footer(proof, reasons, after, height), Rect(0, after - 20, WIDTH, height - after + 20))])
    return sheet.png()


def _drawn_over(pair: _Pair, proof: Proof, windows: Mapping[int, Rect] | None) -> Iterator[Block]:
    """What is drawn over a pair and around it. `windows`: where guides are wanted, what every screen shows of the backdrops."""
    if pair.heading:
        words = shortened(pair.heading, WIDTH - MARGIN - pair.x, 11.5, "bold")
        above = Rect(pair.x, pair.row - _HEADING - 14, WIDTH - pair.x, 20)
        yield block([text(words, pair.x, pair.row - _HEADING, 11.5, face="bold")], above)
    bottom = pair.y + pair.height + 12
    yield block(_captions(pair), Rect(pair.x - 2, bottom, pair.width + _GROUP_GAP, _CAPTION))
    for scene, _, rect in pair.frames():
        inside = [part for mark in proof.marks_of(scene) for part in _mark(mark, rect)]
        inside += _guides(scene, rect, proof.clearance, windows.get(id(scene))) if windows is not None else ()
        lines = [*_key_lines(scene, rect), *inside]
        if inside or scene.mask is not None or scene.screen.shows_safe_area:
            yield block(lines, Rect(rect.x - 12, rect.y - 12, rect.width + 24, rect.height + 24))
        else:
            yield from (block(lines, edge) for edge in _edges(rect, scene.screen.corner * UNITS_PER_POINT))


def _edges(rect: Rect, corner: float) -> Iterator[Rect]:
    """The strips along the sides of a screen, its round corners in the upper and the lower one; they do not overlap by a pixel."""
    left, right = _in_pixels(rect.x - 12), _in_pixels(rect.right + 12)
    top, bottom = _in_pixels(rect.y - 12), _in_pixels(rect.bottom + 12)
    middle = _in_pixels(rect.centre.y)
    upper, lower = min(_in_pixels(rect.y + corner + 2), middle), max(_in_pixels(rect.bottom - corner - 2), middle)
    yield Rect(left, top, right - left, upper - top)
    yield Rect(left, lower, right - left, bottom - lower)
    for x in (left, _in_pixels(rect.right - 2)) if upper < lower else ():
        yield Rect(x, upper, 14, lower - upper)


def _in_pixels(length: float) -> float:
    """A length of whole pixels."""
    return round_half_up(length * PIXELS_PER_UNIT) / PIXELS_PER_UNIT


def _pairs(proof: Proof) -> list[_Pair]:
    """The scenes, those of one site and screen together; the first of each site carries its heading."""
    pairs = []
    now = {(site.label, scene.screen, scene.look): scene for site, scene in proof.before}
    for site, of_site in groupby(proof.scenes, key=lambda shown: shown[0]):
        heading = f"{platform(site.target).title}  ·  {site.heading}"
        for _, of_screen in groupby(of_site, key=lambda shown: shown[1].screen):
            shown: list[tuple[Scene, str]] = []
            for _, scene in of_screen:
                before = now.get((site.label, scene.screen, scene.look))
                look = scene.look if len(scene.screen.looks) > 1 else "always"
                shown += [(before, f"{look}, now")] if before is not None else []
                shown.append((scene, look if before is None else f"{look}, after"))
            pairs.append(_Pair(heading, tuple(scene for scene, _ in shown), tuple(label for _, label in shown)))
            heading = ""
    return pairs


def _rows(pairs: list[_Pair]) -> list[list[_Pair]]:
    """The pairs in rows: site after site, and of a site the next one that still fits, so that little of a row stays empty."""
    rows: list[list[_Pair]] = [[]]
    x: float = MARGIN
    sites: list[list[_Pair]] = []
    for pair in pairs:
        if pair.heading:
            sites.append([])
        sites[-1].append(pair)
    for site in sites:
        heading, left = site[0].heading, [replace(pair, heading="") for pair in site]
        while left:
            fitting = next((pair for pair in left if x + pair.width <= WIDTH - MARGIN), None)
            if fitting is None and rows[-1]:
                rows.append([])
                x = MARGIN
                continue
            chosen = fitting or left[0]
            left.remove(chosen)
            rows[-1].append(replace(chosen, heading=heading))
            heading = ""
            x += chosen.width + _GROUP_GAP
    return rows


def _laid_out(pairs: list[_Pair]) -> tuple[list[_Pair], float]:
    """The pairs in rows, standing on one line in each; and where the last row ends."""
    rows = _rows(pairs)
    placed: list[_Pair] = []
    top: float = _TOP
    for index, row in enumerate(rows):
        top += _HEADING if index and any(pair.heading for pair in row) else 0
        tallest = max(pair.height for pair in row)
        spare = WIDTH - 2 * MARGIN - sum(pair.width for pair in row)
        gap = min(_GROUP_GAP * 1.8, spare / max(1, len(row) - 1))
        x: float = MARGIN
        for pair in row:
            placed.append(replace(pair, x=x, y=top + tallest - pair.height, row=top))
            x += pair.width + gap
        top += tallest + _CAPTION + 34
    return placed, top - _CAPTION - 34


def _header(proof: Proof) -> list[str]:
    state = "as apply would leave it" if proof.is_planned else "as the project is now"
    state = "now, and as apply would leave it" if proof.before else state
    return [
        text(shortened(proof.name, 900, 40, "serif"), MARGIN, 76, 40, face="serif"),
        text("Launch screens", WIDTH - MARGIN, 62, 13, face="bold", anchor="end"),
        text(state, WIDTH - MARGIN, 80, 12, ACCENT, anchor="end"),
        line(MARGIN, 96, WIDTH - MARGIN, 96, INK, 1),
    ]


def _captions(pair: _Pair) -> Iterator[str]:
    """Under a pair the screen and the system, under each screen its look, ground and source."""
    bottom = pair.y + pair.height
    screen = pair.scenes[0].screen
    yield text(shortened(screen.system, pair.width, 11.5, "bold"), pair.x, bottom + 30, 11.5, face="bold")
    yield text(shortened(screen.name, pair.width, 10), pair.x, bottom + 45, 10, SOFT_INK)
    for scene, label, rect in pair.frames():
        yield from _look_caption(scene, label, rect, bottom + 56)


def _look_caption(scene: Scene, label: str, rect: Rect, y: float) -> Iterator[str]:
    """The colour bar of a ground with its value, then what is drawn."""
    ground = scene.ground
    fill = ground.hex if ground else HATCH_PAPER
    yield f'<rect x="{rect.x}" y="{y}" width="18" height="12" fill="{fill}" stroke="{HAIRLINE}" stroke-width="0.75"/>'
    value = scene.ground_in_words
    yield text(label, rect.x + 24, y + 9.8, 10, INK)
    after_look = 30 + text_width(label, 10)
    if after_look + text_width(value, 9, "mono") <= rect.width:
        yield text(value, rect.x + after_look, y + 9.8, 9, SOFT_INK, "mono")
    else:
        y += 13
        yield text(shortened(value, rect.width, 9, "mono"), rect.x, y + 11, 9, SOFT_INK, "mono")
    for index, words in enumerate(_source_lines(scene)):
        yield text(shortened(words, rect.width, 8), rect.x, y + 27 + 12 * index, 8, SOFT_INK)


def _source_lines(scene: Scene) -> tuple[str, ...]:
    """What is drawn from which file: the folder and the name of the mark, else what kind of screen it is."""
    pictures = [layer.source for layer in scene.layers if isinstance(layer, Picture)]
    if not pictures:
        return (scene.title,)
    folder, _, name = pictures[0].rpartition("/")
    return (folder.rpartition("/")[2] + "/", name) if folder else (name,)


def _key_lines(scene: Scene, rect: Rect) -> Iterator[str]:
    """The outline of a screen, its trim marks, and the mask as a fine line."""
    corner = scene.screen.corner * UNITS_PER_POINT
    yield (
        f'<rect x="{rect.x}" y="{rect.y}" width="{rect.width}" height="{rect.height}" rx="{corner}" '
        f'fill="none" stroke="{INK}" stroke-opacity="0.55" stroke-width="0.75"/>'
    )
    for x, outward in ((rect.x, -1), (rect.right, 1)):
        for y, down in ((rect.y, -1), (rect.bottom, 1)):
            yield line(x, y + down * 2.5, x, y + down * (2.5 + _TRIM), SOFT_INK, 0.5)
            yield line(x + outward * 2.5, y, x + outward * (2.5 + min(_TRIM, _PAIR_GAP / 2 - 4)), y, SOFT_INK, 0.5)
    if scene.screen.shows_safe_area:
        yield _safe_area(scene, rect)
    if scene.mask is not None:
        x, y = rect.x + scene.mask.centre.x * UNITS_PER_POINT, rect.y + scene.mask.centre.y * UNITS_PER_POINT
        yield (
            f'<circle cx="{x}" cy="{y}" r="{scene.mask.radius * UNITS_PER_POINT}" '
            f'fill="none" stroke="{ACCENT}" stroke-width="0.6" stroke-dasharray="2.4 1.6"/>'
        )


def _mark(mark: Mark, rect: Rect) -> Iterator[str]:
    """A frame round what is wrong, as far as the screen shows it, with the codes on a tag at its upper edge."""
    left, top = (max(0.0, side * UNITS_PER_POINT) for side in mark.rect[:2])
    right = min(rect.width, mark.rect.right * UNITS_PER_POINT)
    bottom = min(rect.height, mark.rect.bottom * UNITS_PER_POINT)
    if right <= left or bottom <= top:
        return
    x, y = rect.x + left, rect.y + top
    yield (
        f'<rect x="{x:.2f}" y="{y:.2f}" width="{right - left:.2f}" height="{bottom - top:.2f}" '
        f'fill="none" stroke="{ACCENT}" stroke-width="1"/>'
    )
    for index, code in enumerate(mark.codes):
        width = text_width(code, _TAG, "mono") + 5
        across = min(max(x, rect.x), rect.right - width)
        down = max(rect.y, y - (len(mark.codes) - index) * (_TAG + 3))
        yield f'<rect x="{across:.2f}" y="{down:.2f}" width="{width:.2f}" height="{_TAG + 3}" fill="{ACCENT}"/>'
        yield text(code, across + 2.5, down + _TAG, _TAG, PAPER, "mono")


def _guides(scene: Scene, rect: Rect, clearance: float, window: Rect | None) -> Iterator[str]:
    """The safe area, inside the mask the circle that its clearance leaves, and what every screen shows of the backdrop."""
    if window is not None:
        shown = window.scaled(UNITS_PER_POINT)
        yield (
            f'<rect x="{rect.x + shown.x:.2f}" y="{rect.y + shown.y:.2f}" width="{shown.width:.2f}" height="{shown.height:.2f}" '
            f'fill="none" stroke="{PAPER}" stroke-width="0.9" stroke-dasharray="5 3"/>'
        )
    if not scene.screen.shows_safe_area:
        yield _safe_area(scene, rect)
    if scene.mask is not None:
        x, y = rect.x + scene.mask.centre.x * UNITS_PER_POINT, rect.y + scene.mask.centre.y * UNITS_PER_POINT
        radius = allowed_diameter(2 * scene.mask.radius, clearance) / 2 * UNITS_PER_POINT
        yield f'<circle cx="{x}" cy="{y}" r="{radius:.2f}" fill="none" stroke="{ACCENT}" stroke-width="0.45"/>'


def _safe_area(scene: Scene, rect: Rect) -> str:
    area = scene.screen.safe_area.scaled(UNITS_PER_POINT)
    return (
        f'<rect x="{rect.x + area.x:.2f}" y="{rect.y + area.y:.2f}" width="{area.width:.2f}" height="{area.height:.2f}" '
        f'fill="none" stroke="{ACCENT}" stroke-width="0.5" stroke-dasharray="1 2"/>'
    )


def _strips_height(proof: Proof) -> float:
    return 46 + _STRIP * math.ceil(len(proof.handoffs) / 2) if proof.handoffs else 0


def _strips(proof: Proof, top: float) -> Iterator[str]:
    """The handoffs: what fills the screen from launch to the first screen, with the difference at each change."""
    if not proof.handoffs:
        return
    yield text("Handoff", MARGIN, top, 11.5, face="bold")
    yield text("from the launch screen to the first screen; ΔE is CIEDE2000", MARGIN + 58, top, 10, SOFT_INK)
    half = (WIDTH - 2 * MARGIN + 40) / 2
    for index, handoff in enumerate(proof.handoffs):
        x, y = MARGIN + index % 2 * half, top + 16 + index // 2 * _STRIP
        edition = f" {handoff.site.edition}" if handoff.site.edition else ""
        name = f"{platform(handoff.site.target).title}{edition}, {handoff.look}"
        yield text(shortened(name, 130, 10), x, y + 18, 10, SOFT_INK)
        step_width = (half - 170) / max(3, len(handoff.steps))
        for place, step in enumerate(handoff.steps):
            yield from _step(step, x + 134 + place * step_width, y, step_width, is_last=place == len(handoff.steps) - 1)


def _step(step: Step, x: float, y: float, width: float, *, is_last: bool) -> Iterator[str]:
    colour = step.ground.colour
    fill = colour.hex[:7] if colour else HATCH_PAPER
    yield f'<rect x="{x}" y="{y + 3}" width="18" height="26" rx="3" fill="{fill}" stroke="{HAIRLINE}" stroke-width="0.75"/>'
    yield text(shortened(step.ground.moment, width - 34 + (60 if is_last else 0), 9), x + 24, y + 14, 9)
    words = colour.hex[:7] if colour else "unknown"
    yield text(words, x + 24, y + 27, 8.5, SOFT_INK, "mono")
    if step.difference is not None:
        change = f"ΔE {step.difference:.0f}" + (", a flash" if step.is_flash else "")
        x += 30 + text_width(words, 8.5, "mono")
        yield text(change, x, y + 27, 8.5, ACCENT if step.is_flash else SOFT_INK, "bold" if step.is_flash else "sans")


def _reasons(proof: Proof) -> list[str]:
    """What is unknown, and why: each reason once."""
    told = {layer.reason: None for _, scene in proof.scenes for layer in scene.layers if isinstance(layer, Unknown)}
    blocked = [f"{site.target} {site.name} is not shown: {error.message}" for site, error in proof.blocked.items()]
    return [*told, *blocked]


def _footer(proof: Proof, reasons: list[str], top: float, height: float) -> Iterator[str]:
    for index, reason in enumerate(reasons):
        y = top + 18 * index
        yield f'<rect x="{MARGIN}" y="{y - 8}" width="18" height="10" fill="{HATCH_PAPER}" stroke="{HATCH_INK}" stroke-width="0.75"/>'
        yield text(shortened(f"unknown: {reason}", WIDTH - 2 * MARGIN - 28, 10), MARGIN + 26, y, 10, INK)
    foot = height - 30
    yield line(MARGIN, foot - 18, WIDTH - MARGIN, foot - 18)
    parts = ("rivelt", proof.name, proof.brief, "looks: light, dark", f"rules of rivelt {__version__}")
    slug = "  ·  ".join((*parts, "all screens at one scale, in dp and pt"))
    yield text(slug, MARGIN, foot, 9, SOFT_INK)
    if any(scene.mask for _, scene in proof.scenes):
        yield line(WIDTH - MARGIN - 196, foot - 3, WIDTH - MARGIN - 172, foot - 3, ACCENT, 0.9)
        yield text("the circle the system masks with", WIDTH - MARGIN, foot, 9, SOFT_INK, anchor="end")
