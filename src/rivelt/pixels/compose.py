"""Putting pictures together: one over another, and drawn parts and finished images into one PNG."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator
from functools import partial
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.colour import Colour
from rivelt.pixels.canvas import rasterised
from rivelt.pixels.encode import blank_rows, rows_png
from rivelt.pixels.pictures import Pictures
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

_OPAQUE = 255


class Block(NamedTuple):
    """What is drawn in one area of a sheet: an SVG of the area's size, and where its top left corner is. All in px."""

    svg: str
    size: PixelSize
    x: int
    y: int


class Sheet:
    """An opaque picture that is put together part by part: paper, images at whole pixels, and what is drawn over them.

    It is held once, as the rows of its PNG. Each block is drawn by itself, so that the empty parts of a sheet cost nothing.
    """

    def __init__(self, size: PixelSize, paper: Colour, pictures: Pictures | None = None) -> None:
        """Take the size in px, what is behind all, and what keeps blocks for who draws the same again and again."""
        self._size = size
        self._pictures = pictures or Pictures()
        self._rows = blank_rows(size, paper)
        self._pixels = pixels_of(self._rows)

    def lay(self, image: NDArray[np.uint8], x: int, y: int) -> None:
        """Lay an image (height x width x 4) over it, with its top left corner at `x`, `y`."""
        lay_over(self._pixels, image, x, y)

    def ink(self, blocks: Iterable[Block]) -> None:
        """Draw blocks over it."""
        for block in blocks:
            area = self._pixels[block.y : block.y + block.size.height, block.x : block.x + block.size.width]
            drawn = self._pictures.once((block.svg, block.size), partial(_drawn, block))
            _ink(area, drawn, block.size.width)

    def png(self) -> bytes:
        """Return it as a PNG without metadata."""
        return rows_png(self._rows, self._size)


def _drawn(block: Block) -> NDArray[np.uint32]:
    """What is visible of a block, of which it covers little: the places of its pixels (row by row), and their colours with alpha."""
    pixels = np.frombuffer(rasterised(block.svg, block.size).write_to_memory(), np.uint32)
    at = np.flatnonzero(pixels != 0)  # transparent pixels are all zeros
    return np.stack([at.astype(np.uint32), pixels[at]])


def _ink(area: NDArray[np.uint8], drawn: NDArray[np.uint32], width: int) -> None:
    """Draw a block of a width over its area."""
    at, pixels = drawn
    down, across = np.divmod(at, np.uint32(width))
    if area.shape[1] < width or (len(down) and int(down[-1]) >= area.shape[0]):
        inside = (down < area.shape[0]) & (across < area.shape[1])  # a block may end within the last pixel of the sheet
        down, across, pixels = down[inside], across[inside], pixels[inside]
    ink = np.ascontiguousarray(pixels).view(np.uint8).reshape(-1, 4)
    area[down, across] = _over(ink[:, :3], ink[:, 3:], area[down, across])


def pixels_of(rows: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return the pixels (height x width x 3) in the rows of a PNG of 3 bands, to be drawn into."""
    height, stride = rows.shape
    return np.ndarray((height, stride // 3, 3), np.uint8, rows.data, offset=1, strides=(stride, 3, 1))


def lay_over(canvas: NDArray[np.uint8], image: NDArray[np.uint8], x: int, y: int) -> None:
    """Lay an image over a canvas (of 4 bands, or opaque with 3) with its top left corner at `x`, `y`; what is outside is left out."""
    left, top = max(0, x), max(0, y)
    right, bottom = min(canvas.shape[1], x + image.shape[1]), min(canvas.shape[0], y + image.shape[0])
    if left >= right or top >= bottom:
        return
    upper = image[top - y : bottom - y, left - x : right - x]
    under = canvas[top:bottom, left:right]
    solid = _solid_rows(upper)
    if canvas.shape[2] == 4 and not solid.all() and int(under[..., 3].min()) < _OPAQUE:
        under[:] = _over_transparent(upper, under)
        return
    for rows, is_solid in _runs(solid):
        if is_solid:
            under[rows] = upper[rows, :, : canvas.shape[2]]
        else:
            _lay_rows(under[rows], upper[rows])


def _lay_rows(under: NDArray[np.uint8], upper: NDArray[np.uint8]) -> None:
    """Lay rows over opaque ones, of which most columns may be opaque: between the rounded corners of a screen."""
    for columns, is_solid in _runs((upper[..., 3] == _OPAQUE).all(axis=0)):
        part, below = upper[:, columns], under[:, columns]
        below[..., :3] = part[..., :3] if is_solid else _over(part[..., :3], part[..., 3:], below[..., :3])


def _runs(flags: NDArray[np.bool_]) -> Iterator[tuple[slice, bool]]:
    """Stretches of equal flags."""
    edges = [0, *(np.flatnonzero(flags[1:] != flags[:-1]) + 1), len(flags)]
    return ((slice(start, end), bool(flags[start])) for start, end in itertools.pairwise(edges))


def _solid_rows(image: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Which rows of an image with alpha are opaque."""
    if image.strides[1:] != (4, 1):
        return np.asarray((image[..., 3] == _OPAQUE).all(axis=1))
    alpha = np.array([0, 0, 0, _OPAQUE], np.uint8).view(np.uint32)[0]
    return np.asarray((image.view(np.uint32)[..., 0] & alpha == alpha).all(axis=1))


def _over(colour: NDArray[np.uint8], alpha: NDArray[np.uint8], under: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A colour over an opaque one, rounded to the nearest."""
    share = alpha.astype(np.uint16)
    mixed: NDArray[np.uint16] = (colour * share + under * (_OPAQUE - share) + 127) // _OPAQUE
    return mixed.astype(np.uint8)


def _over_transparent(upper: NDArray[np.uint8], under: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """One image over another, both with straight alpha (W3C, Compositing and Blending Level 1, 5.1)."""
    one, other = upper[..., 3:] / np.float32(_OPAQUE), under[..., 3:] / np.float32(_OPAQUE)
    behind = other * (1 - one)
    alpha = one + behind
    colour = (upper[..., :3] * one + under[..., :3] * behind) / np.maximum(alpha, np.float32(1e-6))
    laid: NDArray[np.float32] = np.rint(np.concatenate([colour, alpha * _OPAQUE], axis=-1))
    return laid.astype(np.uint8)


def times_share(alpha: NDArray[np.uint8], cover: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return an alpha where a cover (0 to 255) leaves it, rounded to the nearest."""
    left = (alpha.astype(np.uint16) * cover + 127) // _OPAQUE
    return left.astype(np.uint8)
