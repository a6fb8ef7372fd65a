"""Recorded launches as a strip: the moments on a true time axis, a still of each, and the launch screen beside the proof's.

All lengths are in sheet units.
"""

from __future__ import annotations

import statistics
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rivelt import __version__
from rivelt.colour import Colour
from rivelt.pixels.compose import Sheet
from rivelt.pixels.type import shortened, text_width
from rivelt.proof.style import ACCENT, HAIRLINE, INK, MARGIN, PAPER, PIXELS_PER_UNIT, SOFT_INK, block, line, text
from rivelt.proof.style import SHEET_WIDTH as WIDTH
from rivelt.recordings.recording import shrunk
from rivelt.review.picture import marked
from rivelt.scene.draw import HATCH_INK, HATCH_PAPER
from rivelt.scene.launch import Kind
from rivelt.units import PixelSize, Rect, Size, round_half_up

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.recordings.model import Replay, Replays
    from rivelt.scene.launch import Moment

_TOP = 106
_BAR = 26
_TALL = 220.0
_GAP = 16
_CAPTION = 46
_BETWEEN = 54
_MOST = 8  # stills in a row


class _Placed(Struct, frozen=True):
    """A picture on the strip, with its caption's lines."""

    rect: Rect
    pixels: object
    lines: tuple[str, ...]
    moment: object = None


def draw_strip(replays: Replays) -> bytes:
    """Return the strip as a PNG. The same recordings give the same bytes."""
    tops: list[float] = []
    y: float = _TOP
    for one in replays.replays:
        tops.append(y)
        y += _height(one) + _BETWEEN
    lengths = replays.lengths
    plot = y
    y += 92 if len(lengths) > 1 else 0
    height = y + 30
    sheet = Sheet(Size(WIDTH, height).pixels(PIXELS_PER_UNIT), Colour.parse(PAPER))
    for one, top in zip(replays.replays, tops, strict=True):
        placed = list(_placed(one, top))
        for item in placed:
            at = (round_half_up(side * PIXELS_PER_UNIT) for side in (item.rect.x, item.rect.y))
            sheet.lay(_scaled(item.pixels, item.rect), *at)  # type: ignore[arg-type]
        area = Rect(0, top - 24, WIDTH, _height(one) + 44)
        sheet.ink([block([*_axis(one, top), *_captions(one, placed, top)], area)])
    if len(lengths) > 1:
        sheet.ink([block(_plot(lengths, plot), Rect(0, plot - 20, WIDTH, 110))])
    sheet.ink(
        [block(_header(replays), Rect(0, 0, WIDTH, _TOP - 20)), block(_footer(height), Rect(0, height - 50, WIDTH, 50))]
    )
    return sheet.png()


def _height(one: Replay) -> float:
    return _BAR + 44 + _still_height(one) + _CAPTION


def _still_height(one: Replay) -> float:
    """As high as all stills in a row can be."""
    shown = len(_shown(one)) + (3 if one.match is not None else 0)
    room = (WIDTH - 2 * MARGIN - _GAP * max(0, shown)) / max(1, shown)
    return min(_TALL, room * one.size.height / one.size.width)


def _shown(one: Replay) -> list[Moment]:
    """The moments of which a still is shown; the opening only where there is room."""
    every = [moment for moment in one.launch.moments if moment.clearest in one.stills]
    return every if len(every) <= _MOST else [moment for moment in every if moment.kind != "opening"][:_MOST]


def _placed(one: Replay, top: float) -> Iterator[_Placed]:
    """The stills of the moments; then recorded, proof and difference."""
    high = _still_height(one)
    wide = high * one.size.width / one.size.height
    y = top + _BAR + 44
    x: float = MARGIN
    for moment in _shown(one):
        ground = moment.ground.hex[:7] if moment.ground is not None else "moving"
        lines = (NAMES[moment.kind], f"{moment.length:.0f} ms, {moment.frames} frames", ground)
        yield _Placed(Rect(x, y, wide, high), one.stills[moment.clearest], lines, moment)
        x += wide + _GAP
    launch = next((moment for moment in one.launch.of("launch") if moment.clearest in one.stills), None)
    if one.match is None or launch is None:
        return
    x = max(x + _GAP, WIDTH - MARGIN - 3 * wide - 2 * 8)
    recorded, proof = one.stills[launch.clearest], one.match.drawn
    against = one.match.against
    told = "" if against.ground is None else f"ΔE {against.ground:.1f}"
    rows: tuple[tuple[NDArray[np.uint8], tuple[str, ...]], ...] = (
        (recorded, ("recorded", f"{against.look}")),
        (proof, ("the proof", one.match.scene.screen.system)),
        (difference(proof, recorded), ("difference", f"{told}  {100 * against.share:.1f} %")),
    )
    for pixels, words in rows:
        yield _Placed(Rect(x, y, wide, high), pixels, words)
        x += wide + 8


NAMES: Mapping[Kind, str] = {
    "home": "home screen",
    "opening": "opening",
    "launch": "launch screen",
    "flash": "a flash",
    "second": "a second launch screen",
    "waiting": "waiting",
    "first": "first screen",
    "unknown": "unknown",
}
"""What people call the kinds of moments."""


def difference(proof: NDArray[np.uint8], recorded: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return what differs clearly between two pictures (height x width x 3), marked; what a codec changes is left as it is."""
    alpha = np.full((*proof.shape[:2], 1), 255, np.uint8)
    near = (np.abs(proof.astype(np.int16) - recorded).max(axis=-1) <= 28)[..., None]
    calm = np.where(near, recorded, proof)
    return marked(np.concatenate([calm, alpha], axis=-1), np.concatenate([recorded, alpha], axis=-1))[..., :3]


def _scaled(pixels: NDArray[np.uint8], rect: Rect) -> NDArray[np.uint8]:
    size = PixelSize(*(max(1, round_half_up(side * PIXELS_PER_UNIT)) for side in rect.size))
    small = shrunk(pixels, size)
    return np.concatenate([small, np.full((*small.shape[:2], 1), 255, np.uint8)], axis=-1)


def _axis(one: Replay, top: float) -> Iterator[str]:
    """The moments, each as long as it was, in the colour of its ground; and the time."""
    room = WIDTH - 2 * MARGIN
    end = max(one.end, 1.0)
    yield text(shortened(one.name, room / 2, 11, "bold"), MARGIN, top - 8, 11, face="bold")
    size = f"{one.size.width} x {one.size.height} px, {end:.0f} ms"
    yield text(size, WIDTH - MARGIN, top - 8, 9.5, SOFT_INK, anchor="end")
    for moment in one.launch.moments:
        x, wide = MARGIN + room * moment.start / end, room * moment.length / end
        fill = moment.ground.hex[:7] if moment.ground is not None else HATCH_PAPER
        stroke = ACCENT if moment.kind in {"flash", "second"} else HAIRLINE if moment.ground is not None else HATCH_INK
        yield (
            f'<rect x="{x:.2f}" y="{top}" width="{max(0.8, wide):.2f}" height="{_BAR}" fill="{fill}" '
            f'stroke="{stroke}" stroke-width="{1.4 if stroke == ACCENT else 0.75}"/>'
        )
        word = NAMES[moment.kind]
        if text_width(word, 9) + 8 < wide:
            dark = moment.ground is not None and moment.ground.luminance < 0.3
            yield text(word, x + 5, top + 16.5, 9, PAPER if dark else INK)
    step = next(
        size
        for size in (50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000, 60_000)
        if end / size <= 14 or size == 60_000
    )
    for tick in range(0, int(end) + 1, step):
        x = MARGIN + room * tick / end
        yield line(x, top + _BAR + 2, x, top + _BAR + 6, SOFT_INK, 0.5)
        yield text(f"{tick}", x, top + _BAR + 16, 8.5, SOFT_INK, "mono", anchor="middle")


def _captions(one: Replay, placed: list[_Placed], top: float) -> Iterator[str]:
    room = WIDTH - 2 * MARGIN
    end = max(one.end, 1.0)
    for item in placed:
        rect = item.rect
        yield f'<rect x="{rect.x}" y="{rect.y}" width="{rect.width}" height="{rect.height}" fill="none" stroke="{INK}" stroke-opacity="0.55" stroke-width="0.75"/>'
        moment = item.moment
        if moment is not None:
            at = MARGIN + room * (moment.start + moment.length / 2) / end  # type: ignore[attr-defined]
            yield f'<path d="M{at:.1f} {top + _BAR + 20}L{rect.centre.x:.1f} {rect.y - 3}" stroke="{HAIRLINE}" stroke-width="0.75" fill="none"/>'
        wrong = moment is not None and moment.kind in {"flash", "second"}  # type: ignore[attr-defined]
        for index, words in enumerate(item.lines):
            colour = ACCENT if wrong and index == 0 else INK if index == 0 else SOFT_INK
            face = "bold" if index == 0 else "mono" if words.startswith("#") else "sans"
            size = 10 if index == 0 else 8.5
            shown = shortened(words, rect.width + 10, size, face)  # type: ignore[arg-type]
            yield text(shown, rect.x, rect.bottom + 14 + 12 * index, size, colour, face)  # type: ignore[arg-type]


def _plot(lengths: tuple[float, ...], top: float) -> Iterator[str]:
    """How long the launch screen was shown, a dot for each recording, and the median."""
    room = WIDTH - 2 * MARGIN
    most = max(lengths) * 1.1
    middle = statistics.median(lengths)
    yield text("How long the launch screen was shown", MARGIN, top, 11, face="bold")
    told = f"median {middle:.0f} ms, {min(lengths):.0f} to {max(lengths):.0f} ms, {len(lengths)} recordings"
    yield text(told, MARGIN + 250, top, 10, SOFT_INK)
    y = top + 34
    yield line(MARGIN, y, WIDTH - MARGIN, y, HAIRLINE, 1)
    for length in lengths:
        yield f'<circle cx="{MARGIN + room * length / most:.1f}" cy="{y}" r="4.5" fill="{INK}" fill-opacity="0.55"/>'
        yield text(f"{length:.0f}", MARGIN + room * length / most, y + 18, 8.5, SOFT_INK, "mono", anchor="middle")
    x = MARGIN + room * middle / most
    yield line(x, y - 12, x, y + 12, ACCENT, 1.4)


def _header(replays: Replays) -> Iterator[str]:
    yield text("What the launch really showed", MARGIN, 58, 28, face="serif")
    broken = sum(len(one.broken) for one in replays.replays)
    told = f"{broken} finding{'s' * (broken != 1)}: " + ", ".join(
        dict.fromkeys(finding.code for one in replays.replays for finding in one.broken)
    )
    yield text(told if broken else "no findings", WIDTH - MARGIN, 56, 11, ACCENT, anchor="end")
    yield line(MARGIN, 70, WIDTH - MARGIN, 70, INK, 1)


def _footer(height: float) -> Iterator[str]:
    foot = height - 20
    yield line(MARGIN, foot - 16, WIDTH - MARGIN, foot - 16)
    yield text(f"rivelt  ·  time in ms, to scale  ·  rules of rivelt {__version__}", MARGIN, foot, 9, SOFT_INK)
