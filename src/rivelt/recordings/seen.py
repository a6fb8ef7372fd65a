"""What one frame shows, in a few numbers: the colour that fills most of it, and what stands out from that."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rivelt.colour import Colour
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    from numpy.typing import NDArray

SHORT_SIDE = 54
"""The shorter side, in px, at which frames are compared: noise of a codec is gone at this size, and a mark is not."""

TOP, BOTTOM = 0.07, 0.045
"""The shares of the height that are not looked at: a clock and a battery change there, and a home indicator fades."""

_NEAR = 12  # of 255: as far may noise take a pixel from the ground
_APART = 10  # of 255: less is noise, not a change
_SAMPLED = 60_000  # pixels: as many tell which colour most have
_EDGE = 0.1  # of the height: bars of the system, where a flash leaves them
_COLUMN_GAP = 0.035  # of the width
_ROW_GAP = 0.02  # of the height: what is farther apart are two things


class Seen(Struct, frozen=True):
    """What a frame shows. `cover`: the share of it (0 to 1) that has the ground's colour. `boxes`: what stands out, from the top down, in shares of the frame."""

    ground: Colour
    cover: float
    boxes: tuple[Rect, ...]

    @property
    def is_blank(self) -> bool:
        """Whether it shows its ground alone."""
        is_edge = all(box.centre.y < _EDGE or box.centre.y > 1 - _EDGE for box in self.boxes)
        return self.mark is None and (self.cover > 0.985 or (self.cover > 0.93 and is_edge))

    @property
    def is_quiet(self) -> bool:
        """Whether it looks as launch screens do: one colour, with one thing in the middle, and little else, centred too."""
        if self.is_blank or self.cover < 0.55 or not 1 <= len(self.boxes) <= 4:
            return False
        has_bar = any(box.width > 0.97 and box.centre.y < 0.2 for box in self.boxes)
        return self.mark is not None and not has_bar and all(abs(box.centre.x - 0.5) < 0.07 for box in self.boxes)

    @property
    def mark(self) -> Rect | None:
        """What stands in the middle, if something does: the largest thing whose middle is in the middle third or so."""
        inner = [
            box
            for box in self.boxes
            if 0.22 < box.centre.y < 0.78 and abs(box.centre.x - 0.5) < 0.12 and box.width < 0.97
        ]
        return max(inner, key=lambda box: box.width * box.height, default=None)


def small_size(size: PixelSize) -> PixelSize:
    """Return the size at which frames of a size are compared."""
    scale = SHORT_SIDE / min(size)
    return PixelSize(max(1, round(size.width * scale)), max(1, round(size.height * scale)))


def inner(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return a frame without the rows in which bars of the system change."""
    height = pixels.shape[0]
    return pixels[round(height * TOP) : height - round(height * BOTTOM)]


def seen(pixels: NDArray[np.uint8]) -> Seen:
    """Return what a frame (height x width x 3) shows; the bars of the system are left out."""
    ground, near = _ground(inner(pixels))
    height = pixels.shape[0]
    top = round(height * TOP)
    boxes = _boxes(~near, top, height)
    return Seen(Colour(int(ground[0]), int(ground[1]), int(ground[2])), float(near.mean()), boxes)


def _ground(pixels: NDArray[np.uint8]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """The colour that most pixels have, and which do."""
    step = max(1, int((pixels.shape[0] * pixels.shape[1] / _SAMPLED) ** 0.5))
    flat = pixels[::step, ::step].reshape(-1, 3)
    codes = (flat[:, 0].astype(np.int32) >> 3 << 10) | (flat[:, 1].astype(np.int32) >> 3 << 5) | flat[:, 2] >> 3
    top = int(np.bincount(codes, minlength=1 << 15).argmax())
    colour = np.array([(top >> 10 & 31) * 8 + 4, (top >> 5 & 31) * 8 + 4, (top & 31) * 8 + 4], np.float64)
    for reach in (16, _NEAR):
        near = (np.abs(flat - colour).max(axis=1)) <= reach
        if not near.any():
            break
        colour = np.median(flat[near], axis=0)
    colour = np.rint(colour)
    apart = np.abs(pixels.astype(np.int16) - colour.astype(np.int16))
    return colour, np.maximum(np.maximum(apart[..., 0], apart[..., 1]), apart[..., 2]) <= _NEAR


def _boxes(apart: NDArray[np.bool_], top: int, height: int) -> tuple[Rect, ...]:
    """What stands out, as the rectangles of bands of rows; of icons in a grid, of each. In shares of the frame. Single pixels are noise."""
    width = apart.shape[1]
    rows = apart.sum(axis=1) > 0
    found: list[Rect] = []
    gap = max(1, round(_ROW_GAP * height))
    starts: list[list[int]] = []
    for row in np.flatnonzero(rows):
        if starts and row - starts[-1][1] <= gap:
            starts[-1][1] = int(row)
        else:
            starts.append([int(row), int(row)])
    bands: list[tuple[int, int, NDArray[np.intp]]] = []
    for first, last in starts:
        band = apart[first : last + 1]
        if band.sum() > 2:
            bands.append((first, last, np.flatnonzero(band.any(axis=0))))
    split = [_parts(columns, round(_COLUMN_GAP * width)) for _, _, columns in bands]
    is_grid = sum(map(_is_row_of_icons, split)) >= 2
    for (first, last, columns), parts in zip(bands, split, strict=True):
        for left, right in parts if is_grid else [(int(columns[0]), int(columns[-1]) + 1)]:
            found.append(
                Rect(left / width, (top + first) / height, (right - left) / width, (last + 1 - first) / height)
            )
    return tuple(found)


def _is_row_of_icons(parts: list[tuple[int, int]]) -> bool:
    """Whether three or more things of one width stand side by side."""
    widths = [right - left for left, right in parts]
    return len(parts) >= 3 and max(widths) <= 1.6 * min(widths)


def _parts(columns: NDArray[np.intp], gap: int) -> list[tuple[int, int]]:
    """The columns of a band, as the stretches that stand apart by more than a gap."""
    breaks = [int(one) for one in np.flatnonzero(np.diff(columns) > gap)]
    starts, ends = [0, *(one + 1 for one in breaks)], [*breaks, len(columns) - 1]
    return [(int(columns[start]), int(columns[end]) + 1) for start, end in zip(starts, ends, strict=True)]


def changed(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> tuple[float, float]:
    """Return the share of pixels that differ between two frames, and by how much (of 255) they differ on average."""
    each = np.abs(one.astype(np.int16) - other)
    apart = np.maximum(np.maximum(each[..., 0], each[..., 1]), each[..., 2])
    return float((apart > _APART).mean()), float(apart.mean())
