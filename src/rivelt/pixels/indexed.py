"""Images of few colours, as the places of their colours in a palette: a third lighter than with their colours."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.colour import Colour
from rivelt.pixels.rows import Rows, laid_out
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

_MOST = 256
_OPAQUE = 255
_STEPS = (61, 11)  # primes, so that they fall into no pattern of rows


class Indexed(NamedTuple):
    """An image whose pixels are numbers of `depth` bits (1, 2, 4 or 8).

    `rows`: those of a PNG. `palette`: the colours that the numbers stand for, three bytes each; None where they are levels of grey.
    """

    rows: Rows
    depth: int
    palette: bytes | None


def indexed(size: PixelSize, ground: Colour, parts: Sequence[tuple[NDArray[np.uint8], int, int]]) -> Indexed | None:
    """Return an opaque image of up to 256 colours as numbers; None for one of more.

    Args:
        size: in px.
        ground: what is behind the parts.
        parts: height x width x 3 each, and where they are; none is over another.
    """
    flat = [pixels.reshape(-1, 3) for pixels, _, _ in parts]
    is_covered = sum(len(part) for part in flat) == size.width * size.height
    behind = np.array([] if is_covered else [int.from_bytes(bytes(ground[:3]))], np.uint32)
    for step in _STEPS:  # most drawings of several inks have more colours in a sample already
        if len(np.unique(np.concatenate([behind, *(_packed(part[::step]) for part in flat)]))) > _MOST:
            return None
    packed = [_packed(part) for part in flat]
    colours = np.unique(np.concatenate([behind, *packed]))
    if len(colours) > _MOST:
        return None
    depth = next(bits for bits in (1, 2, 4, 8) if len(colours) <= 1 << bits)
    is_grey = depth == 8 and bool((colours == (colours & 255) * 0x010101).all())
    numbers = (colours if is_grey else np.arange(len(colours))).astype(np.uint8)
    drawn = [
        (numbers[np.searchsorted(colours, part)].reshape(*pixels.shape[:2], 1), x, y)
        for part, (pixels, x, y) in zip(packed, parts, strict=True)
    ]
    number = 0 if is_covered else int(numbers[np.searchsorted(colours, behind)[0]])
    kept, counts = laid_out(size, np.array([number], np.uint8), drawn)
    rows = Rows(kept if depth == 8 else _packed_rows(kept[:, 1:], depth), counts)  # without the filter bytes
    palette = None if is_grey else b"".join(int(colour).to_bytes(3) for colour in colours)
    return Indexed(rows, depth, palette)


class Translucent(NamedTuple):
    """An image with alpha whose pixels are numbers of `depth` bits (1, 2, 4 or 8).

    `rows`: those of a PNG (rows x bytes). `palette`: the colours that the numbers stand for, three bytes each. `alphas`: their alphas, a
    byte each; colours beyond its end are opaque.
    """

    rows: NDArray[np.uint8]
    depth: int
    palette: bytes
    alphas: bytes


def indexed_with_alpha(pixels: NDArray[np.uint8]) -> Translucent | None:
    """Return an image (height x width x 4) of up to 256 colours with their alphas as numbers; None for one of more."""
    height, width = pixels.shape[:2]
    flat = np.ascontiguousarray(pixels).view(np.uint32).ravel()
    for step in _STEPS:
        if len(np.unique(flat[::step])) > _MOST:
            return None
    # Stretches of equal pixels: drawings have few of them.
    starts = np.append(0, np.flatnonzero(flat[1:] != flat[:-1]) + 1)
    first = flat[starts]
    colours = np.unique(first)
    if len(colours) > _MOST:
        return None
    bands = colours.view(np.uint8).reshape(-1, 4)
    order = np.argsort(bands[:, 3], kind="stable")  # opaque ones last: their alphas need not be written
    numbers = np.argsort(order).astype(np.uint8)[np.searchsorted(colours, first)]
    placed = np.repeat(numbers, np.diff(starts, append=len(flat))).reshape(height, width)
    depth = next(bits for bits in (1, 2, 4, 8) if len(colours) <= 1 << bits)
    alphas = bands[order, 3]
    clear = alphas[alphas < _OPAQUE]
    return Translucent(_packed_rows(placed, depth), depth, bands[order, :3].tobytes(), clear.tobytes())


def _packed_rows(pixels: NDArray[np.uint8], depth: int) -> NDArray[np.uint8]:
    """The rows of a PNG, each with its filter byte: of several pixels in a byte, the first is in the highest bits."""
    height, width = pixels.shape
    in_a_byte = 8 // depth
    rows = np.zeros((height, 1 + -(-width // in_a_byte)), np.uint8)
    for place in range(in_a_byte):
        column = pixels[:, place::in_a_byte]
        rows[:, 1 : 1 + column.shape[1]] |= column << (8 - depth * (place + 1))
    return rows


def _packed(pixels: NDArray[np.uint8]) -> NDArray[np.uint32]:
    """Colours (n x 3) as one number each: red first, blue last."""
    wide = pixels.astype(np.uint32)
    return (wide[:, 0] << 16 | wide[:, 1] << 8 | wide[:, 2]).astype(np.uint32)
