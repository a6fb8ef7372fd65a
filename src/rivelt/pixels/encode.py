"""Encoding: the one place that turns pixels into a file's bytes.

PNG, third edition (W3C 2025). Plates are flat drawings: rows are stored unfiltered, which compresses best for them, and opaque ones of
few colours as places in a palette. So are those with alpha: a wordmark or a logo of one ink has one colour for each alpha.
"""

from __future__ import annotations

import itertools
import struct
import zlib
from collections.abc import Sequence
from typing import TYPE_CHECKING

import deflate
import numpy as np
import pyvips

from rivelt.colour import Colour
from rivelt.pixels.indexed import indexed, indexed_with_alpha
from rivelt.pixels.rows import NO_FILTER, Rows, laid_out, stream
from rivelt.pixels.sections import Pack, compressed
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    from numpy.typing import NDArray

_EFFORT, _MOST_EFFORT = 7, 12  # libdeflate's levels

JPEG_QUALITY = 88
"""At which photographs show no loss at arm's length; 100 would be three times the size."""

WEBP_QUALITY = 85
"""The same for WebP."""

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_GREY, _COLOUR, _PALETTE, _COLOUR_AND_ALPHA = 0, 2, 3, 6
_PIXEL_CHUNKS = {b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND"}
_INVISIBLE_MEAN, _INVISIBLE_PEAK = 0.7, 12  # of 255, premultiplied
_FEW_PIXELS = 10_000


def png(image: pyvips.Image, *, is_small: bool = False) -> bytes:
    """Return an 8-bit sRGB image of 3 or 4 bands as a PNG that holds pixels and nothing else: no profile, text, time or resolution.

    `is_small` spends some thirty times as long on a file that is a few hundredths smaller.
    """
    if image.bands == 3:
        first = Colour(*(int(band) for band in image.getpoint(0, 0)))
        return flat_png(PixelSize(image.width, image.height), first, [(image, 0, 0)], is_small=is_small)
    pixels: NDArray[np.uint8] = image.numpy()
    effort = _MOST_EFFORT if is_small else _EFFORT
    size = PixelSize(image.width, image.height)
    few = indexed_with_alpha(pixels)
    found = []
    if few is not None:
        chunks = [(b"PLTE", few.palette), *([(b"tRNS", few.alphas)] if few.alphas else [])]
        found.append(_file(_packed(few.rows, effort), size, _PALETTE, *chunks, depth=few.depth))
    if few is None or size.width * size.height < _FEW_PIXELS:  # of an icon, the palette may weigh more than it saves
        found.append(_file(_packed(_unfiltered(pixels), effort), size, _COLOUR_AND_ALPHA))
    return min(found, key=len)


def flat_png(
    size: PixelSize,
    ground: Colour,
    parts: Sequence[tuple[pyvips.Image, int, int]],
    *,
    is_small: bool = False,
    pack: Pack = compressed,
) -> bytes:
    """Return opaque images of 3 bands, each at a place in whole px, on one flat colour: a PNG as `png` makes it, in a fraction of the time.

    Most of a launch screen is ground: no image of that size is made, only the rows of the file that differ from the one above.
    `pack` compresses them, as `rivelt.pixels.sections.compressed` does.
    """
    drawn = _apart(size, ground, [(image.numpy(), x, y) for image, x, y in parts])
    few = indexed(size, ground, drawn)
    if few is None:
        rows = laid_out(size, np.array(ground[:3], np.uint8), drawn)
        return _opaque(rows, size, _COLOUR, is_small=is_small, pack=pack)
    if few.palette is None:
        return _opaque(few.rows, size, _GREY, is_small=is_small, pack=pack)
    palette = b"PLTE", few.palette
    return _opaque(few.rows, size, _PALETTE, palette, depth=few.depth, is_small=is_small, pack=pack)


def _apart(
    size: PixelSize, ground: Colour, parts: list[tuple[NDArray[np.uint8], int, int]]
) -> list[tuple[NDArray[np.uint8], int, int]]:
    """Parts of which none is over another; what is hidden would count as a colour."""
    areas = [Rect(x, y, pixels.shape[1], pixels.shape[0]) for pixels, x, y in parts]
    if not any(one.overlaps(other) for one, other in itertools.combinations(areas, 2)):
        return parts
    whole = np.empty((size.height, size.width, 3), np.uint8)
    whole[:] = ground[:3]
    for pixels, x, y in parts:
        whole[y : y + pixels.shape[0], x : x + pixels.shape[1]] = pixels
    return [(whole, 0, 0)]


def shown_png(pixels: NDArray[np.uint8]) -> bytes:
    """Return pixels (height x width x 4) as a PNG that is looked at once."""
    size = PixelSize(pixels.shape[1], pixels.shape[0])
    return _file(_packed(_unfiltered(pixels), _EFFORT), size, _COLOUR_AND_ALPHA)


def blank_rows(size: PixelSize, ground: Colour) -> NDArray[np.uint8]:
    """Return the rows of a PNG of one flat colour, each a filter byte and its pixels of 3 bands, to be drawn into."""
    rows = np.empty((size.height, 1 + size.width * 3), np.uint8)
    rows[:] = np.frombuffer(bytes([NO_FILTER, *ground[:3] * size.width]), np.uint8)
    return rows


def rows_png(rows: NDArray[np.uint8], size: PixelSize) -> bytes:
    """Return the PNG of such rows."""
    return _file(_packed(rows, _EFFORT), size, _COLOUR)


def photograph_png(image: pyvips.Image) -> bytes:
    """Return a photograph as a PNG that holds pixels and nothing else: its rows are filtered, which halves what they weigh."""
    return _only_pixels(bytes(image.pngsave_buffer(compression=6, filter="all", keep="none")))


def smaller_png(image: pyvips.Image, data: bytes, most_bytes: int) -> bytes:
    """Return the same picture in at most `most_bytes`, if that is possible without a visible loss; else the lightest that is.

    Args:
        image: an 8-bit sRGB image of 3 or 4 bands.
        data: it as a PNG that is too heavy.
        most_bytes: what it may weigh.
    """
    lightest = min(data, png(image, is_small=True), photograph_png(image), key=len)
    if len(lightest) <= most_bytes:
        return lightest
    for dither in (0.0, 1.0):
        options = {"palette": True, "Q": 100, "effort": 6, "dither": dither, "keep": "none"}
        reduced = _only_pixels(bytes(image.pngsave_buffer(compression=9, **options)))
        if len(reduced) < len(lightest) and _looks_the_same(image, reduced):
            lightest = reduced
    return lightest


def _looks_the_same(image: pyvips.Image, data: bytes) -> bool:
    """Whether a reduced picture differs by less than an eye sees: in the mean, and in all but a thousandth of its pixels."""
    other = pyvips.Image.new_from_buffer(data, "").colourspace("srgb")
    pair = [found if found.hasalpha() else found.addalpha() for found in (image, other)]
    first, second = (found.premultiply() for found in pair)
    largest = _most_of_bands((first - second).abs()).cast("uchar")
    counts = largest.hist_find().numpy().ravel()
    visible = counts[_INVISIBLE_PEAK + 1 :].sum()
    return bool(largest.avg() <= _INVISIBLE_MEAN and visible <= counts.sum() / 1000)


def _most_of_bands(image: pyvips.Image) -> pyvips.Image:
    """The largest of an image's bands, for each pixel."""
    return image[0].bandrank([image[band] for band in range(1, image.bands)], index=image.bands - 1)


def _only_pixels(data: bytes) -> bytes:
    """A PNG without the chunks that hold anything but pixels."""
    kept, position = [_SIGNATURE], len(_SIGNATURE)
    while position < len(data):
        end = position + 12 + int.from_bytes(data[position : position + 4])
        if data[position + 4 : position + 8] in _PIXEL_CHUNKS:
            kept.append(data[position:end])
        position = end
    return b"".join(kept)


def jpeg(image: pyvips.Image) -> bytes:
    """Return an opaque 8-bit sRGB image as a JPEG without metadata, at full colour resolution."""
    return bytes(image.jpegsave_buffer(Q=JPEG_QUALITY, optimize_coding=True, subsample_mode="off", keep="none"))


def webp(image: pyvips.Image, *, may_be_lossy: bool = False, is_small: bool = False) -> bytes:
    """Return an 8-bit sRGB image as a WebP without metadata. `is_small` spends more time on a smaller file.

    https://developers.google.com/speed/webp/docs/webp_lossless_bitstream_specification. It is lossless; only where it `may_be_lossy`, and
    is then less than half as heavy, as photographs are and drawings are not, it has the quality of a JPEG. An alpha is never lossy.
    """
    # Q is how hard to try here; what more costs a third of the time again saves less than a hundredth.
    options = {"Q": 100, "effort": 4} if is_small else {"effort": 2}
    whole = bytes(image.webpsave_buffer(lossless=True, keep="none", **options))
    if not may_be_lossy:
        return whole
    options = {"Q": WEBP_QUALITY, "alpha_q": 100, "smart_subsample": True, "effort": 6 if is_small else 4}
    lossy = bytes(image.webpsave_buffer(keep="none", **options))
    return lossy if 2 * len(lossy) < len(whole) else whole


def _opaque(
    rows: Rows,
    size: PixelSize,
    colour_type: int,
    *chunks: tuple[bytes, bytes],
    depth: int = 8,
    is_small: bool,
    pack: Pack,
) -> bytes:
    packed = stream(rows, pack)
    if is_small:
        packed = min(packed, _packed(rows.all(), _MOST_EFFORT), key=len)
    return _file(packed, size, colour_type, *chunks, depth=depth)


def _unfiltered(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The rows of a PNG for pixels (height x width x bands)."""
    height, width, bands = pixels.shape
    rows = np.zeros((height, 1 + width * bands), np.uint8)
    rows[:, 1:] = pixels.reshape(height, -1)
    return rows


def _packed(rows: NDArray[np.uint8], effort: int) -> bytes:
    return bytes(deflate.zlib_compress(rows.data, effort))


def _file(packed: bytes, size: PixelSize, colour_type: int, *chunks: tuple[bytes, bytes], depth: int = 8) -> bytes:
    header = struct.pack(">IIBBBBB", *size, depth, colour_type, 0, 0, 0)
    whole = [(b"IHDR", header), *chunks, (b"IDAT", packed), (b"IEND", b"")]
    return _SIGNATURE + b"".join(_chunk(kind, content) for kind, content in whole)


def _chunk(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))
