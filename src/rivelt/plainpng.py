"""PNGs that need no decoder: their rows are pixels as soon as they are inflated. What Rivelt makes of drawings is so.

PNG, third edition (W3C 2025). Inflating takes a seventh of the time of decoding. A file counts only if all of it is surely sound.
"""

from __future__ import annotations

import itertools
import zlib
from collections.abc import Iterator
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

import deflate
import numpy as np
from msgspec import Struct

from rivelt.colour import Colour
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_GREY, _COLOUR, _PALETTE, _COLOUR_AND_ALPHA = 0, 2, 3, 6
_DEPTHS = {_GREY: (8,), _COLOUR: (8,), _PALETTE: (1, 2, 4, 8), _COLOUR_AND_ALPHA: (8,)}
_BANDS = {_GREY: 1, _COLOUR: 3, _PALETTE: 1, _COLOUR_AND_ALPHA: 4}
_NO_FILTER, _BY_THE_ROW_ABOVE, _LAST_FILTER = 0, 2, 4  # section 9.2
_MOST_PIXELS = 30_000_000
_FIRST_ROWS = 16  # of a photograph, one of these is filtered


class OpaquePng(NamedTuple):
    """A sound PNG without alpha. `corners`: the colours of its four corners; None where only decoding it would tell them."""

    size: PixelSize
    corners: frozenset[Colour] | None


class PlainPng(NamedTuple):
    """Rows that are all there are once, from top to bottom, and how often each follows itself.

    `rows`: count x width x bands; one band is a place in `colours`, which is count x bands (3, or 4 with alpha), unless that is None.
    `starts`: the row of the image that each is first, then the height of the image.
    """

    size: PixelSize
    rows: NDArray[np.uint8]
    starts: NDArray[np.intp]
    colours: NDArray[np.uint8] | None

    @property
    def bands(self) -> int:
        """How many bands a pixel has: 3, or 4 with alpha."""
        return int((self.rows if self.colours is None else self.colours).shape[-1])

    def coloured(self, pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Return some of its pixels (... x the bands of `rows`) as colours (... x `bands`)."""
        return pixels if self.colours is None else self.colours[pixels[..., 0]]


class _Header(NamedTuple):
    size: PixelSize
    depth: int
    kind: int

    @property
    def length(self) -> int:
        """The bytes of a row, its filter byte included."""
        return 1 + (self.size.width * _BANDS[self.kind] * self.depth + 7) // 8


class _Inflated(Struct, frozen=True, dict=True):
    """A PNG of which all is sound but perhaps the places in its palette. `rows`: each with its filter byte. `palette`, `alphas`: as stored."""

    header: _Header
    rows: NDArray[np.uint8]
    palette: bytes | None
    alphas: bytes | None

    @cached_property
    def is_unfiltered(self) -> bool:
        """Whether the bytes of all rows are those of pixels: a row that repeats the one above has none of its own."""
        filters = self.rows[:, 0]
        repeats = filters == _BY_THE_ROW_ABOVE
        if repeats[0] or not (repeats | (filters == _NO_FILTER)).all():
            return False
        # Where runs begin: of those, the first and every other one repeat the row above.
        edges = np.flatnonzero(repeats[1:] != repeats[:-1]) + 1
        runs = itertools.pairwise([*map(int, edges), len(repeats)])
        return not any(self.rows[start:end, 1:].max() for start, end in itertools.islice(runs, 0, None, 2))

    @property
    def is_in_palette(self) -> bool:
        """Whether every pixel is surely a place in the palette, if there is one."""
        if self.palette is None:
            return True
        count, depth = len(self.palette) // 3, self.header.depth
        if count >= 1 << depth:
            return count == 1 << depth
        if not count or not self.is_unfiltered:
            return False
        stored = self.rows[:, 1:]
        return int((stored if depth == 8 else _unpacked(stored, depth)).max()) < count


def opaque_png(data: bytes) -> OpaquePng | None:
    """Return what is known of a file that is surely an opaque PNG of which every pixel can be decoded; None for all others.

    Those with other chunks than the critical ones, interlaced or very large ones are among the others: they may be sound as well.
    """
    found = _inflated(data)
    if found is None or found.alphas is not None or found.header.kind == _COLOUR_AND_ALPHA:
        return None
    return OpaquePng(found.header.size, _corners(found)) if found.is_in_palette else None


def plain_png(data: bytes) -> PlainPng | None:
    """Return the pixels of a file that is surely a PNG whose rows are stored as they are, or repeat the one above; None for all others."""
    found = _inflated(data, is_unfiltered=True)
    if found is None or not found.is_unfiltered or not found.is_in_palette:
        return None
    header = found.header
    starts = (found.rows[:, 0] == _NO_FILTER).nonzero()[0]
    rows = found.rows[starts, 1:] if len(starts) < len(found.rows) else found.rows[:, 1:]
    places = rows if header.depth == 8 else _unpacked(rows, header.depth)[:, : header.size.width]
    colours = _colours(found)
    pixels = places.reshape(len(starts), header.size.width, _BANDS[header.kind])
    return PlainPng(header.size, pixels, np.append(starts, header.size.height), colours)


def _inflated(data: bytes, *, is_unfiltered: bool = False) -> _Inflated | None:
    """What is in a PNG; None for one that is not plain, or not sound. `is_unfiltered`: not for those that are filtered, as far as is seen soon."""
    chunks = _chunks(data)
    header = _header(chunks[0][1]) if chunks else None
    single = {kind: content for kind, content in chunks if kind != b"IDAT"}
    palette, alphas = single.get(b"PLTE"), single.get(b"tRNS")
    if header is None or (palette is None) != (header.kind != _PALETTE) or (palette is None and alphas is not None):
        return None
    if palette is not None and (len(palette) % 3 or len(alphas or b"") > len(palette) // 3):
        return None
    packed = b"".join(content for kind, content in chunks if kind == b"IDAT")
    if is_unfiltered and not _begins_unfiltered(packed, header.length):
        return None
    size = header.length * header.size.height
    try:
        inflated = deflate.zlib_decompress(packed, size)
    except deflate.DeflateError:
        return None
    if len(inflated) != size:
        return None
    rows = np.frombuffer(inflated, np.uint8).reshape(header.size.height, header.length)
    return _Inflated(header, rows, palette, alphas) if rows[:, 0].max() <= _LAST_FILTER else None


def _chunks(data: bytes) -> list[tuple[bytes, bytes]]:
    """The chunks of a PNG: a header, a palette or none (with its alphas or without), pixels, the end; none where it has others, or is not whole."""
    found = list(_whole_chunks(data)) if data.startswith(_SIGNATURE) else []
    if len(_SIGNATURE) + sum(12 + len(content) for _, content in found) != len(data):
        return []
    kinds = [kind for kind, _ in found]
    pixels = [b"IDAT"] * max(1, kinds.count(b"IDAT"))
    before: tuple[list[bytes], ...] = [], [b"PLTE"], [b"PLTE", b"tRNS"]
    return found if kinds in [[b"IHDR", *its, *pixels, b"IEND"] for its in before] else []


def _whole_chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    """The chunks up to the first one that is not whole."""
    position = len(_SIGNATURE)
    while position + 12 <= len(data):
        end = position + 12 + int.from_bytes(data[position : position + 4])
        kind, content = data[position + 4 : position + 8], data[position + 8 : end - 4]
        if end > len(data) or zlib.crc32(content, zlib.crc32(kind)) != int.from_bytes(data[end - 4 : end]):
            return
        yield kind, content
        position = end


def _header(content: bytes) -> _Header | None:
    """What the header says; None where it is not plain."""
    if len(content) != 13:
        return None
    size = PixelSize(int.from_bytes(content[:4]), int.from_bytes(content[4:8]))
    depth, kind, *rest = content[8:]
    is_plain = depth in _DEPTHS.get(kind, ()) and rest == [0, 0, 0] and 0 < size.width * size.height <= _MOST_PIXELS
    return _Header(size, depth, kind) if is_plain else None


def _begins_unfiltered(packed: bytes, length: int) -> bool:
    try:
        rows = zlib.decompressobj().decompress(packed, _FIRST_ROWS * length)
    except zlib.error:
        return False
    return set(rows[::length]) <= {_NO_FILTER, _BY_THE_ROW_ABOVE}


def _unpacked(rows: NDArray[np.uint8], depth: int) -> NDArray[np.uint8]:
    """Places of less than a byte, each in a byte of its own; what fills up the last byte of a row as well."""
    shifts = np.arange(8 - depth, -1, -depth, dtype=np.uint8)
    return (rows[..., None] >> shifts & np.uint8((1 << depth) - 1)).reshape(len(rows), -1)


def _colours(found: _Inflated) -> NDArray[np.uint8] | None:
    """The colours that one band stands for, if there is one."""
    if found.header.kind == _GREY:
        return np.repeat(np.arange(256, dtype=np.uint8), 3).reshape(256, 3)
    if found.palette is None:
        return None
    colours = np.frombuffer(found.palette, np.uint8).reshape(-1, 3)
    if found.alphas is None:
        return colours
    alphas = np.frombuffer(found.alphas.ljust(len(colours), b"\xff"), np.uint8)
    return np.concatenate([colours, alphas[:, None]], axis=1)


def _corners(found: _Inflated) -> frozenset[Colour] | None:
    """The colours of the corners, where rows are stored as they are, or as what differs from the row above."""
    rows, header = found.rows, found.header
    filters = rows[:, 0]
    plain = (filters == _NO_FILTER).nonzero()[0]
    if not len(plain) or plain[0] or not (filters[plain[-1] + 1 :] == _BY_THE_ROW_ABOVE).all():
        return None
    bands = _BANDS[header.kind]
    sides = (rows[:, 1 : 1 + bands], 0), (rows[:, -bands:], (header.size.width - 1) * header.depth % 8)
    ends = ((pixel, bit) for side, bit in sides for pixel in (side[0], side[plain[-1] :].sum(axis=0, dtype=np.uint8)))
    return frozenset(_colour(pixel, bit, found) for pixel, bit in ends)


def _colour(pixel: NDArray[np.uint8], bit: int, found: _Inflated) -> Colour:
    """The colour of a pixel; of one in a palette, that begins at some bit of its byte."""
    depth = found.header.depth
    colours = _colours(found)
    if colours is None:
        return Colour(*(int(band) for band in pixel))
    return Colour(*(int(band) for band in colours[int(pixel[0]) >> (8 - depth - bit) & (1 << depth) - 1]))
