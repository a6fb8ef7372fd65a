"""What is drawn round and over a screen on a sheet: its outline, trim marks, masks, guides, and marks where something is wrong."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.layout.fit import allowed_diameter
from rivelt.pixels.compose import Block
from rivelt.pixels.type import text_width
from rivelt.proof.model import Mark
from rivelt.proof.style import ACCENT, INK, PAPER, PIXELS_PER_UNIT, SOFT_INK, block, line, text
from rivelt.scene.model import Scene
from rivelt.units import Rect, round_half_up

_TRIM = 7
_TRIM_ACROSS = 3
_TAG = 8.5
_REACH = 12  # how far outside of a screen anything is drawn


def framed(scene: Scene, rect: Rect, inside: list[str]) -> Iterator[Block]:
    """Yield the outline of a screen, which is at `rect` on the sheet, with what else is drawn inside of it."""
    lines = [*_key_lines(scene, rect), *inside]
    if inside or scene.mask is not None or scene.screen.shows_safe_area:
        yield block(lines, Rect(rect.x - _REACH, rect.y - _REACH, rect.width + 2 * _REACH, rect.height + 2 * _REACH))
    else:
        yield from (block(lines, edge) for edge in _edges(rect, scene.screen.corner * _scale(scene, rect)))


def _scale(scene: Scene, rect: Rect) -> float:
    """Sheet units for each dp or pt."""
    return rect.width / scene.screen.width


def _edges(rect: Rect, corner: float) -> Iterator[Rect]:
    """The strips along the sides of a screen, its round corners in the upper and the lower one; they do not overlap by a pixel."""
    left, right = _in_pixels(rect.x - _REACH), _in_pixels(rect.right + _REACH)
    top, bottom = _in_pixels(rect.y - _REACH), _in_pixels(rect.bottom + _REACH)
    middle = _in_pixels(rect.centre.y)
    upper, lower = min(_in_pixels(rect.y + corner + 2), middle), max(_in_pixels(rect.bottom - corner - 2), middle)
    yield Rect(left, top, right - left, upper - top)
    yield Rect(left, lower, right - left, bottom - lower)
    for x in (left, _in_pixels(rect.right - 2)) if upper < lower else ():
        yield Rect(x, upper, 14, lower - upper)


def _in_pixels(length: float) -> float:
    """A length of whole pixels."""
    return round_half_up(length * PIXELS_PER_UNIT) / PIXELS_PER_UNIT


def _key_lines(scene: Scene, rect: Rect) -> Iterator[str]:
    """The outline of a screen, its trim marks, and the mask as a fine line."""
    scale = _scale(scene, rect)
    yield (
        f'<rect x="{rect.x}" y="{rect.y}" width="{rect.width}" height="{rect.height}" rx="{scene.screen.corner * scale}" '
        f'fill="none" stroke="{INK}" stroke-opacity="0.55" stroke-width="0.75"/>'
    )
    for x, outward in ((rect.x, -1), (rect.right, 1)):
        for y, down in ((rect.y, -1), (rect.bottom, 1)):
            yield line(x, y + down * 2.5, x, y + down * (2.5 + _TRIM), SOFT_INK, 0.5)
            yield line(x + outward * 2.5, y, x + outward * (2.5 + _TRIM_ACROSS), y, SOFT_INK, 0.5)
    if scene.screen.shows_safe_area:
        yield _safe_area(scene, rect)
    if scene.mask is not None:
        x, y = rect.x + scene.mask.centre.x * scale, rect.y + scene.mask.centre.y * scale
        yield (
            f'<circle cx="{x}" cy="{y}" r="{scene.mask.radius * scale}" '
            f'fill="none" stroke="{ACCENT}" stroke-width="0.6" stroke-dasharray="2.4 1.6"/>'
        )


def mark_lines(mark: Mark, scene: Scene, rect: Rect) -> Iterator[str]:
    """Yield a frame round what is wrong, as far as the screen shows it, with the codes on a tag at its upper edge."""
    scale = _scale(scene, rect)
    left, top = (max(0.0, side * scale) for side in mark.rect[:2])
    right = min(rect.width, mark.rect.right * scale)
    bottom = min(rect.height, mark.rect.bottom * scale)
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


def guide_lines(scene: Scene, rect: Rect, clearance: float, window: Rect | None) -> Iterator[str]:
    """Yield the safe area, inside the mask the circle that its clearance leaves, and what every screen shows of the backdrop."""
    scale = _scale(scene, rect)
    if window is not None:
        shown = window.scaled(scale)
        yield (
            f'<rect x="{rect.x + shown.x:.2f}" y="{rect.y + shown.y:.2f}" width="{shown.width:.2f}" height="{shown.height:.2f}" '
            f'fill="none" stroke="{PAPER}" stroke-width="0.9" stroke-dasharray="5 3"/>'
        )
    if not scene.screen.shows_safe_area:
        yield _safe_area(scene, rect)
    if scene.mask is not None:
        x, y = rect.x + scene.mask.centre.x * scale, rect.y + scene.mask.centre.y * scale
        radius = allowed_diameter(2 * scene.mask.radius, clearance) / 2 * scale
        yield f'<circle cx="{x}" cy="{y}" r="{radius:.2f}" fill="none" stroke="{ACCENT}" stroke-width="0.45"/>'


def _safe_area(scene: Scene, rect: Rect) -> str:
    area = scene.screen.safe_area.scaled(_scale(scene, rect))
    return (
        f'<rect x="{rect.x + area.x:.2f}" y="{rect.y + area.y:.2f}" width="{area.width:.2f}" height="{area.height:.2f}" '
        f'fill="none" stroke="{ACCENT}" stroke-width="0.5" stroke-dasharray="1 2"/>'
    )
