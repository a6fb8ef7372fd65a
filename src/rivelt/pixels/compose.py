"""Putting pictures together: one over another, and drawn parts and finished images into one PNG."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.colour import Colour
from rivelt.picture import SVG_NAMESPACE
from rivelt.pixels.canvas import rasterised
from rivelt.pixels.encode import blank_rows, rows_png
from rivelt.pixels.pictures import Pictures
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    from numpy.typing import NDArray

_OPAQUE = 255
_MOST_TOGETHER = 1_000_000  # pixels of blocks that are drawn at once


class Block(NamedTuple):
    """What is drawn in one area of a sheet: the content of an SVG, the part of its canvas that fills the area, and where that is, in px.

    Several are drawn in one SVG: nothing in it has an `id`.
    """

    content: str
    view: Rect
    size: PixelSize
    x: int
    y: int

    def at(self, y: int) -> str:
        """Return it as an inner `<svg>`, `y` px below the top of a drawing."""
        view = " ".join(map(str, self.view))
        return (
            f'<svg y="{y}" width="{self.size.width}" height="{self.size.height}" viewBox="{view}">{self.content}</svg>'
        )


class Sheet:
    """An opaque picture that is put together part by part: paper, images at whole pixels, and what is drawn over them.

    It is held once, as the rows of its PNG. Only blocks are drawn, so that the empty parts of a sheet cost nothing.
    """

    def __init__(self, size: PixelSize, paper: Colour, pictures: Pictures | None = None) -> None:
        """Take the size in px, what is behind all, and what keeps blocks for who draws the same again and again."""
        self._size = size
        self._pictures = pictures or Pictures()
        self._rows = blank_rows(size, paper)
        self._pixels = pixels_of(self._rows)
        self._blocks: list[Block] = []

    def lay(self, image: NDArray[np.uint8], x: int, y: int) -> None:
        """Lay an image (height x width x 4) over it, with its top left corner at `x`, `y`."""
        self._draw()
        lay_over(self._pixels, image, x, y)

    def ink(self, blocks: Iterable[Block]) -> None:
        """Draw blocks over it."""
        self._blocks += blocks

    def _draw(self) -> None:
        """Draw the blocks that are still to be drawn, in their order."""
        drawn = self._pictures.all_once(self._blocks, _drawn)
        for block in self._blocks:
            _ink(self._rows, drawn[block], block)
        self._blocks.clear()

    def png(self) -> bytes:
        """Return it as a PNG without metadata."""
        self._draw()
        return rows_png(self._rows, self._size)


def _drawn(blocks: Iterable[Block]) -> dict[Block, NDArray[np.uint32]]:
    """What is visible of each block, of which it covers little: the places of its pixels (row by row), and their colours with alpha.

    Those of about the same width are drawn together: to begin a drawing takes as long as to draw a line of text.
    """
    found: dict[Block, NDArray[np.uint32]] = {}
    together: list[Block] = []
    for block in sorted(blocks, key=lambda one: -one.size.width):
        height = sum(one.size.height for one in together) + block.size.height
        if together and together[0].size.width * height > _MOST_TOGETHER:
            found |= _drawn_together(together)
            together = []
        together.append(block)
    return found | _drawn_together(together) if together else found


def _drawn_together(blocks: Sequence[Block]) -> dict[Block, NDArray[np.uint32]]:
    """Blocks drawn one below the other, the widest first."""
    tops = [0, *itertools.accumulate(block.size.height for block in blocks)]
    size = PixelSize(blocks[0].size.width, tops[-1])
    parts = "".join(block.at(top) for block, top in zip(blocks, tops, strict=False))
    svg = f'<svg xmlns="{SVG_NAMESPACE}" width="{size.width}" height="{size.height}">{parts}</svg>'
    pixels = np.frombuffer(rasterised(svg, size).write_to_memory(), np.uint32).reshape(size.height, size.width)
    found = {}
    for block, top in zip(blocks, tops, strict=False):
        own = pixels[top : top + block.size.height, : block.size.width].ravel()
        at = np.flatnonzero(own != 0)  # transparent pixels are all zeros
        found[block] = np.stack([at.astype(np.uint32), own[at]])
    return found


def _ink(rows: NDArray[np.uint8], drawn: NDArray[np.uint32], block: Block) -> None:
    """Draw what is visible of a block over the rows of a sheet, band by band: NumPy takes long for a few bytes at a time."""
    at, pixels = drawn
    down, across = np.divmod(at, np.uint32(block.size.width))
    height, stride = rows.shape
    if block.y + block.size.height > height or 3 * (block.x + block.size.width) >= stride:
        # It may end within the last pixel of the sheet.
        inside = (block.y + down < height) & (3 * (block.x + across) + 1 < stride)
        down, across, pixels = down[inside], across[inside], pixels[inside]
    flat = rows.reshape(-1)
    places = (block.y + down.astype(np.intp)) * stride + 3 * (block.x + across.astype(np.intp)) + 1
    ink = np.ascontiguousarray(pixels).view(np.uint8).reshape(-1, 4)
    share = ink[:, 3].astype(np.uint16)
    for band in range(3):
        flat[places] = _mixed(ink[:, band], share, flat[places])
        places += 1


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
            _take(under[rows], upper[rows])
        else:
            _lay_rows(under[rows], upper[rows])


def _lay_rows(under: NDArray[np.uint8], upper: NDArray[np.uint8]) -> None:
    """Lay rows over opaque ones, of which most columns may be opaque: between the rounded corners of a screen."""
    for columns, is_solid in _runs((upper[..., 3] == _OPAQUE).all(axis=0)):
        part, below = upper[:, columns], under[:, columns]
        if is_solid:
            _take(below, part)
            continue
        share = part[..., 3].astype(np.uint16)
        for band in range(3):
            below[..., band] = _mixed(part[..., band], share, below[..., band])


def _take(under: NDArray[np.uint8], upper: NDArray[np.uint8]) -> None:
    """Put opaque pixels in the place of others: by bands where that leaves out the alpha, in a fifth of the time."""
    if under.shape[-1] == upper.shape[-1]:
        under[:] = upper
        return
    for band in range(3):
        under[..., band] = upper[..., band]


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


def _mixed(colour: NDArray[np.uint8], share: NDArray[np.uint16], under: NDArray[np.uint8]) -> NDArray[np.uint16]:
    """A band of a colour over one of an opaque one, rounded to the nearest; `share`: the alpha."""
    mixed = colour * share
    mixed += under * (np.uint16(_OPAQUE) - share)
    mixed += np.uint16(127)
    mixed //= np.uint16(_OPAQUE)
    return mixed


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
