"""What moves on a launch screen: a strip of eight moments for a sheet, and all its frames for a page."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.pixels.pictures import Pictures
from rivelt.pixels.type import shortened
from rivelt.platforms import platform
from rivelt.proof.drawn import drawn_scene
from rivelt.proof.model import Motion, Proof
from rivelt.proof.style import ACCENT, HAIRLINE, MARGIN, SHEET_WIDTH, SOFT_INK, text
from rivelt.scene.model import Scene
from rivelt.units import Circle, Point, Rect, round_half_up

if TYPE_CHECKING:
    from numpy.typing import NDArray

MOMENTS = 8
"""How many moments a strip shows."""

_ROUND = 1.06  # times the circle of the mask: what a frame shows
_UNMASKED = 192.0  # dp or points, of what has no mask
_SIDE = 64.0
_GAP = 6.0
_ROW = 124.0
_HEAD = 20.0
_BETWEEN = 28.0


class Shot(NamedTuple):
    """A moment on a sheet: what is drawn, where, and what stands under it."""

    scene: Scene
    rect: Rect
    words: str


def moving_height(proof: Proof) -> float:
    """Return how much space the strips need on a sheet."""
    rows = {motion.site.label for motion in proof.motions}
    return _HEAD + _ROW * len(rows) if rows else 0.0


def moving_shots(proof: Proof, top: float) -> Iterator[Shot]:
    """Yield the moments of all strips: a row for each site, its looks side by side."""
    rows: dict[str, int] = {}
    for motion in proof.motions:
        row = rows.setdefault(motion.site.label, len(rows))
        x = MARGIN + (MOMENTS * (_SIDE + _GAP) + _BETWEEN) * (motion.look == "dark")
        step = max(1, len(motion.scenes) // MOMENTS)
        for index, scene in enumerate(motion.scenes[step - 1 :: step][:MOMENTS]):
            after = scene.screen.moment_ms
            words = f"{(index + 1) / MOMENTS:.0%}" if after is None else f"{after:.0f} ms"
            yield Shot(scene, Rect(x + index * (_SIDE + _GAP), top + _HEAD + row * _ROW + 16, _SIDE, _SIDE), words)


def moving_words(proof: Proof, top: float) -> Iterator[str]:
    """Yield the words of the strips, and the circle that the system cuts in each moment."""
    if not proof.motions:
        return
    yield text("Motion", MARGIN, top, 11, face="bold")
    told = "the icon while it moves, on Android 12 and later; where animations are off, and before, it stands still"
    yield text(told, MARGIN + 58, top, 10, SOFT_INK)
    rows: dict[str, int] = {}
    for motion in proof.motions:
        row = rows.setdefault(motion.site.label, len(rows))
        x = MARGIN + (MOMENTS * (_SIDE + _GAP) + _BETWEEN) * (motion.look == "dark")
        name = f"{platform(motion.site.target).title}  \u00b7  {motion.site.heading}, {motion.look}"
        wide = MOMENTS * (_SIDE + _GAP)
        yield text(shortened(name, wide, 10), x, top + _HEAD + row * _ROW + 8, 10)
    for shot in moving_shots(proof, top):
        rect = shot.rect
        yield f'<rect x="{rect.x}" y="{rect.y}" width="{rect.width}" height="{rect.height}" fill="none" stroke="{HAIRLINE}" stroke-width="0.75"/>'
        if shot.scene.mask is not None:
            radius = rect.width / 2 / _ROUND
            yield f'<circle cx="{rect.centre.x}" cy="{rect.centre.y}" r="{radius:.2f}" fill="none" stroke="{ACCENT}" stroke-width="0.4" stroke-dasharray="2.4 1.6"/>'
        yield text(shot.words, rect.centre.x, rect.bottom + 12, 8.5, SOFT_INK, "mono", anchor="middle")


def drawn_moment(scene: Scene, side: int, pictures: Pictures) -> NDArray[np.uint8]:
    """Return the icon of a moment with what is just round it, so many px wide and high (x 4, sRGB)."""
    centre = Point(scene.screen.width / 2, scene.screen.height / 2)
    mask = scene.mask or Circle(centre, _UNMASKED / 2)
    half = mask.radius * _ROUND
    scale = side / (2 * half)
    pixels = drawn_scene(scene, scale, pictures)
    left = min(max(0, round_half_up((mask.centre.x - half) * scale)), max(0, pixels.shape[1] - side))
    top = min(max(0, round_half_up((mask.centre.y - half) * scale)), max(0, pixels.shape[0] - side))
    return np.ascontiguousarray(pixels[top : top + side, left : left + side])


def film(motion: Motion, side: int, pictures: Pictures) -> NDArray[np.uint8]:
    """Return all moments side by side as one picture, each so many px wide and high."""
    return np.concatenate([drawn_moment(scene, side, pictures) for scene in motion.scenes], axis=1)


def strip_area(proof: Proof, top: float) -> Rect:
    """Return the part of a sheet that the strips take."""
    return Rect(0, top - 20, SHEET_WIDTH, moving_height(proof) + 20)
