"""The handoffs on a sheet: what fills the screen from launch to the first screen, with the difference at each change."""

from __future__ import annotations

import math
from collections.abc import Iterator

from rivelt.pixels.compose import Block
from rivelt.pixels.type import shortened, text_width
from rivelt.platforms import platform
from rivelt.proof.model import Proof
from rivelt.proof.style import ACCENT, HAIRLINE, MARGIN, SHEET_WIDTH, SOFT_INK, block, text
from rivelt.scene.draw import HATCH_PAPER
from rivelt.scene.handoff import Handoff, Step
from rivelt.units import Rect

_STRIP = 42
_OVER = 24  # how far the last words of a strip may reach into the next one


def strips_height(proof: Proof) -> float:
    """Return how much space the handoffs need."""
    return 46 + _STRIP * math.ceil(len(proof.handoffs) / 2) if proof.handoffs else 0


def strips(proof: Proof, top: float) -> Iterator[Block]:
    """Yield the handoffs: what fills the screen from launch to the first screen, with the difference at each change."""
    if not proof.handoffs:
        return
    told = "from the launch screen to the first screen; ΔE is CIEDE2000"
    words = [text("Handoff", MARGIN, top, 11, face="bold"), text(told, MARGIN + 58, top, 10, SOFT_INK)]
    yield block(words, Rect(MARGIN - 2, top - 12, SHEET_WIDTH - MARGIN, 16))
    half = (SHEET_WIDTH - 2 * MARGIN + 24) / 2
    for index, handoff in enumerate(proof.handoffs):
        x, y = MARGIN + index % 2 * half, top + 16 + index // 2 * _STRIP
        yield block(_strip(handoff, x, y, half), Rect(x - 2, y, half + _OVER, _STRIP))


def _strip(handoff: Handoff, x: float, y: float, half: float) -> Iterator[str]:
    edition = f" {handoff.site.edition}" if handoff.site.edition else ""
    name = f"{platform(handoff.site.target).title}{edition}, {handoff.look}"
    yield text(shortened(name, 112, 10), x, y + 18, 10, SOFT_INK)
    step_width = (half - 150) / max(3, len(handoff.steps))
    for place, step in enumerate(handoff.steps):
        yield from _step(step, x + 118 + place * step_width, y, step_width, is_last=place == len(handoff.steps) - 1)


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
