"""Encoding: the one place that turns pixels into a file's bytes.

PNG, third edition (W3C 2025). Plates are flat drawings: rows are stored unfiltered, which compresses best for them, and opaque ones of
few colours as places in a palette; art of one ink (a wordmark, a monochrome logo) is stored as its alpha alone, with a palette that gives
each alpha its colour.
"""

from __future__ import annotations

import struct
import sys
import zlib
from collections.abc import Sequence
from typing import TYPE_CHECKING

import deflate
import pyvips

from rivelt.colour import Colour
from rivelt.pixels.indexed import indexed
from rivelt.units import PixelSize

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

PNG_EFFORT, PNG_MOST_EFFORT = 7, 12
"""libdeflate's levels, 1 to 12: on plates 12 takes thirty times as long as 7 and saves a twentieth."""

JPEG_QUALITY = 88
"""At which photographs show no loss at arm's length; 100 would be three times the size."""

WEBP_QUALITY = 85
"""The same for WebP."""

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_GREY, _COLOUR, _PALETTE, _COLOUR_AND_ALPHA = 0, 2, 3, 6
_NO_FILTER = b"\0"
_PIXEL_CHUNKS = {b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND"}
_INVISIBLE_MEAN, _INVISIBLE_PEAK = 0.7, 12  # of 255, premultiplied
_SAMPLE_STEP = 61  # a prime, so that it falls into no pattern of rows


def png(image: pyvips.Image, effort: int = PNG_EFFORT) -> bytes:
    """Return an 8-bit sRGB image of 3 or 4 bands as a PNG that holds pixels and nothing else: no profile, text, time or resolution."""
    if image.bands == 4:
        return _with_alpha(bytes(image.write_to_memory()), PixelSize(image.width, image.height), effort)
    first = Colour(*(int(band) for band in image.getpoint(0, 0)))
    return flat_png(PixelSize(image.width, image.height), first, [(image, 0, 0)], effort)


def array_png(pixels: NDArray[np.uint8], effort: int = PNG_EFFORT) -> bytes:
    """Return pixels (height x width x 4) as a PNG, as `png` makes it."""
    return _with_alpha(pixels.tobytes(), PixelSize(pixels.shape[1], pixels.shape[0]), effort)


def _with_alpha(data: bytes, size: PixelSize, effort: int) -> bytes:
    palette = _palette_by_alpha(data)
    if palette is None:
        return _assembled(data, *size, 4, _COLOUR_AND_ALPHA, effort)
    return _assembled(data[3::4], *size, 1, _PALETTE, effort, (b"PLTE", palette), (b"tRNS", bytes(range(256))))


def flat_png(
    size: PixelSize, ground: Colour, parts: Sequence[tuple[pyvips.Image, int, int]], effort: int = PNG_EFFORT
) -> bytes:
    """Return opaque images of 3 bands, each at a place in whole px, on one flat colour: a PNG as `png` makes it, in a fraction of the time.

    Most of a launch screen is ground: no image of that size is made, only the rows of the file.
    """
    drawn = [(image.numpy(), x, y) for image, x, y in parts]
    found = indexed(size, ground, drawn)
    if found is not None and found.palette is None:
        return _file(found.rows.data, *size, _GREY, effort)
    if found is not None and found.palette is not None:
        return _file(found.rows.data, *size, _PALETTE, effort, (b"PLTE", found.palette), depth=found.depth)
    rows = blank_rows(size, ground)
    for pixels, x, y in drawn:
        height, width = pixels.shape[:2]
        rows[y : y + height, 1 + x * 3 : 1 + (x + width) * 3] = pixels.reshape(height, -1)
    return rows_png(rows, size, effort)


def blank_rows(size: PixelSize, ground: Colour) -> NDArray[np.uint8]:
    """Return the rows of a PNG of one flat colour, each a filter byte and its pixels of 3 bands, to be drawn into."""
    import numpy as np

    rows = np.empty((size.height, 1 + size.width * 3), np.uint8)
    rows[:] = np.frombuffer(_NO_FILTER + bytes(ground[:3]) * size.width, np.uint8)
    return rows


def rows_png(rows: NDArray[np.uint8], size: PixelSize, effort: int = PNG_EFFORT) -> bytes:
    """Return the PNG of such rows."""
    return _file(rows.data, *size, _COLOUR, effort)


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
    lightest = min(data, png(image, PNG_MOST_EFFORT), photograph_png(image), key=len)
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


def _palette_by_alpha(data: bytes) -> bytes | None:
    """256 colours, if the pixels (red, green, blue, alpha) have only one for each alpha; None when they have more."""
    pixels = memoryview(data).cast("I")
    colours = _colour_by_alpha(
        set(pixels[::_SAMPLE_STEP])
    )  # most drawings of several inks give themselves away at once
    if colours is not None:
        colours = _colour_by_alpha(set(pixels))
    return None if colours is None else b"".join(colours.get(alpha, b"\0\0\0") for alpha in range(256))


def _colour_by_alpha(different: set[int]) -> dict[int, bytes] | None:
    found: dict[int, bytes] = {}
    for pixel in different:
        red_green_blue_alpha = pixel.to_bytes(4, sys.byteorder)
        colour, alpha = red_green_blue_alpha[:3], red_green_blue_alpha[3]
        if found.setdefault(alpha, colour) != colour:
            return None
    return found


def _assembled(
    data: bytes, width: int, height: int, bands: int, colour_type: int, effort: int, *chunks: tuple[bytes, bytes]
) -> bytes:
    stride = width * bands
    rows = b"".join(_NO_FILTER + data[start : start + stride] for start in range(0, len(data), stride))
    return _file(rows, width, height, colour_type, effort, *chunks)


def _file(
    rows: bytes | memoryview,
    width: int,
    height: int,
    colour_type: int,
    effort: int,
    *chunks: tuple[bytes, bytes],
    depth: int = 8,
) -> bytes:
    header = struct.pack(">IIBBBBB", width, height, depth, colour_type, 0, 0, 0)
    pixels = bytes(deflate.zlib_compress(rows, effort))
    whole = [(b"IHDR", header), *chunks, (b"IDAT", pixels), (b"IEND", b"")]
    return _SIGNATURE + b"".join(_chunk(kind, content) for kind, content in whole)


def _chunk(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))
