"""The rows of a PNG, and the zlib stream (RFC 1950) that they are stored as.

Most of a launch image is ground: rows that repeat the one above. They are held once, and take no time to compress.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.pixels.repeated import LONGEST, SHORTEST, repeated
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

NO_FILTER, BY_THE_ROW_ABOVE = 0, 2
"""The filter bytes "None" and "Up" of PNG, third edition, 9.2."""

_FEWEST = 16  # repeated rows that are worth a block of their own, which takes some 40 bytes
_EFFORT, _MOST_MEMORY = 9, 9
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


def laid_out(
    size: PixelSize, ground: NDArray[np.uint8], parts: Sequence[tuple[NDArray[np.uint8], int, int]]
) -> tuple[NDArray[np.uint8], NDArray[np.intp]]:
    """Return the rows of a PNG with parts on one flat ground (each with its filter byte), and how often each is there before the next one.

    Args:
        size: in px.
        ground: the bands of a pixel of it.
        parts: height x width x bands each, and where they are; what is later is above.
    """
    is_kept = np.zeros(size.height, bool)
    for part, _, y in parts:
        is_kept[y : y + len(part) + 1] = True  # and the row of ground below it
    is_kept[0] = True
    bands = len(ground)
    rows = np.empty((int(is_kept.sum()), 1 + size.width * bands), np.uint8)
    rows[:] = np.concatenate([[NO_FILTER], np.tile(ground, size.width)])
    place = np.cumsum(is_kept) - 1
    for part, x, y in parts:
        height, width = part.shape[:2]
        rows[place[y] : place[y] + height, 1 + x * bands : 1 + (x + width) * bands] = part.reshape(height, -1)
    return rows, np.diff(np.append(np.flatnonzero(is_kept), size.height))


def counted(rows: NDArray[np.uint8], counts: NDArray[np.intp] | None = None) -> Rows:
    """Return rows (rows x bytes, with their filter bytes), of which each may be there several times, as `Rows`."""
    differs = np.ones(len(rows), bool)
    differs[1:] = (rows[1:] != rows[:-1]).any(axis=1)
    starts = np.flatnonzero(differs)
    found = np.ones(len(rows), np.intp) if counts is None else counts
    return Rows(rows[starts], np.add.reduceat(found, starts))


def stream(rows: Rows) -> bytes:
    """Return rows as a zlib stream."""
    parts = [_HEADER]
    low, high = 1, 0  # the two sums of Adler-32 (RFC 1950, 8.2)
    length = rows.kept.shape[1]
    for data, repeats in _sections(rows):
        parts.append(_compressed(data))
        total = zlib.adler32(data, high << 16 | low)
        low, high = total & 0xFFFF, total >> 16
        if repeats:
            parts.append(repeated(repeats, length))
            # Each row adds its filter byte to the first sum, and as often as it has bytes what that is then to the second one.
            high = (high + length * (repeats * low + BY_THE_ROW_ABOVE * repeats * (repeats + 1) // 2)) % _ADLER
            low = (low + BY_THE_ROW_ABOVE * repeats) % _ADLER
    return b"".join([*parts, _END, (high << 16 | low).to_bytes(4)])


def _sections(rows: Rows) -> Iterator[tuple[bytes, int]]:
    """The bytes of some rows, and how many rows follow that repeat the last of them, which is filtered by the row above."""
    length = rows.kept.shape[1]
    is_many = (rows.counts > _FEWEST) & (SHORTEST <= length <= LONGEST)
    start = 0
    for index in map(int, np.flatnonzero(is_many)):
        once = rows.counts[start : index + 1].copy()
        once[-1] = 1
        above = np.repeat(rows.kept[start : index + 1], once, axis=0).tobytes()
        yield above + bytes([BY_THE_ROW_ABOVE]).ljust(length, b"\0"), int(rows.counts[index]) - 2
        start = index + 1
    if start < len(rows.kept):
        yield np.repeat(rows.kept[start:], rows.counts[start:], axis=0).tobytes(), 0


def _compressed(data: bytes) -> bytes:
    """Whole bytes of a Deflate stream (RFC 1951) that can stand anywhere in one but at its end.

    By zlib-ng, whose bytes are the same on every machine: what is part of Python differs from system to system.
    """
    from zlib_ng import zlib_ng

    packer = zlib_ng.compressobj(_EFFORT, zlib_ng.DEFLATED, -zlib_ng.MAX_WBITS, _MOST_MEMORY)
    return bytes(packer.compress(data) + packer.flush(zlib_ng.Z_SYNC_FLUSH))
