"""The rows of a PNG, and the zlib stream (RFC 1950) that they are stored as.

Most of a launch image is ground: rows that repeat the one above. They are held once, and take no time to compress.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.pixels.repeated import LONGEST, SHORTEST, repeated
from rivelt.pixels.sections import Pack, compressed, size_of
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.pixels.sections import Bytes

NO_FILTER, BY_THE_ROW_ABOVE = 0, 2
"""The filter bytes "None" and "Up" of PNG, third edition, 9.2."""

_FEWEST = 16  # repeated rows that are worth a block of their own, which takes some 40 bytes
_HEADER = b"\x78\xda"  # a window of 32 KB, the highest effort
_END = b"\x03\x00"  # an empty last block
_ADLER = 65521


class Rows(NamedTuple):
    """Rows of a PNG from top to bottom, each with its filter byte, which is `NO_FILTER`.

    `kept`: rows of which no two that follow each other are equal (rows x bytes). `counts`: how often each is there before the next one.
    """

    kept: NDArray[np.uint8]
    counts: NDArray[np.intp]

    def all(self) -> NDArray[np.uint8]:
        """Return each row as often as it is there."""
        return np.repeat(self.kept, self.counts, axis=0)


def laid_out(size: PixelSize, ground: NDArray[np.uint8], parts: Sequence[tuple[NDArray[np.uint8], int, int]]) -> Rows:
    """Return the rows of parts on one flat ground.

    Args:
        size: in px.
        ground: the bands of a pixel of it.
        parts: height x width x bands each, and where they are; none is over another.
    """
    differs = np.zeros(size.height, bool)
    for part, _, y in parts:
        flat = part.reshape(len(part), -1)
        differs[y + 1 : y + len(part)] |= (flat[1:] != flat[:-1]).any(axis=1)
    for edge in {y for part, _, start in parts for y in (start, start + len(part))} & set(range(1, size.height)):
        above, here = (_row(size.width, ground, parts, y) for y in (edge - 1, edge))
        differs[edge] = (above != here).any()
    differs[0] = True
    rows = np.empty((int(differs.sum()), 1 + size.width * len(ground)), np.uint8)
    rows[:] = _row(size.width, ground, (), 0)
    place = np.cumsum(differs) - 1
    for part, x, y in parts:
        kept = differs[y : y + len(part)].copy()
        kept[0] = True  # it may equal the row above, which is laid out already
        columns = slice(1 + x * len(ground), 1 + (x + part.shape[1]) * len(ground))
        rows[place[y : y + len(part)][kept], columns] = part[kept].reshape(int(kept.sum()), -1)
    return Rows(rows, np.diff(np.append(np.flatnonzero(differs), size.height)))


def _row(
    width: int, ground: NDArray[np.uint8], parts: Sequence[tuple[NDArray[np.uint8], int, int]], y: int
) -> NDArray[np.uint8]:
    """One row of parts on a flat ground."""
    row = np.concatenate([[np.uint8(NO_FILTER)], np.tile(ground, width)])
    for part, x, top in parts:
        if top <= y < top + len(part):
            row[1 + x * len(ground) : 1 + (x + part.shape[1]) * len(ground)] = part[y - top].ravel()
    return row


def stream(rows: Rows, pack: Pack = compressed) -> bytes:
    """Return rows as a zlib stream; `pack` compresses its sections, as `rivelt.pixels.sections.compressed` does."""
    from zlib_ng import zlib_ng

    found = [_HEADER]
    total = 1
    length = rows.kept.shape[1]
    for parts, repeats in _sections(rows):
        checksum = 1
        for part in parts:
            checksum = zlib_ng.adler32(part, checksum)
        found.append(pack(parts, checksum))
        total = _continued(total, checksum, size_of(parts))
        if repeats:
            found.append(repeated(repeats, length))
            # Each row adds its filter byte to the first sum of Adler-32 (RFC 1950, 8.2), and as often as it has bytes what that is then
            # to the second one.
            low, high = total & 0xFFFF, total >> 16
            high = (high + length * (repeats * low + BY_THE_ROW_ABOVE * repeats * (repeats + 1) // 2)) % _ADLER
            low = (low + BY_THE_ROW_ABOVE * repeats) % _ADLER
            total = high << 16 | low
    return b"".join([*found, _END, total.to_bytes(4)])


def _continued(total: int, checksum: int, size: int) -> int:
    """The Adler-32 of bytes that continue with `size` more whose own is `checksum`: these began with a first sum of 1."""
    begun = (total & 0xFFFF) - 1
    low = (begun + (checksum & 0xFFFF)) % _ADLER
    high = ((total >> 16) + (checksum >> 16) + size * begun) % _ADLER
    return high << 16 | low


def _sections(rows: Rows) -> Iterator[tuple[Sequence[Bytes], int]]:
    """The bytes of some rows, and how many rows follow that repeat the last of them, which is filtered by the row above."""
    length = rows.kept.shape[1]
    is_many = (rows.counts > _FEWEST) & (SHORTEST <= length <= LONGEST)
    start = 0
    for index in map(int, np.flatnonzero(is_many)):
        once = rows.counts[start : index + 1].copy()
        once[-1] = 1
        by_the_row_above = bytes([BY_THE_ROW_ABOVE]).ljust(length, b"\0")
        yield (_repeated(rows.kept[start : index + 1], once), by_the_row_above), int(rows.counts[index]) - 2
        start = index + 1
    if start < len(rows.kept):
        yield (_repeated(rows.kept[start:], rows.counts[start:]),), 0


def _repeated(rows: NDArray[np.uint8], counts: NDArray[np.intp]) -> NDArray[np.uint8]:
    return rows if counts.max() == 1 else np.repeat(rows, counts, axis=0)
