"""Drawing a piece of art at any size and place, as a pyvips image: the step that plates, measuring and proofs share."""

from __future__ import annotations

import ctypes
import sys
from collections.abc import Sequence
from contextlib import suppress
from typing import TYPE_CHECKING

import numpy as np
import pyvips

from rivelt.cores import threads
from rivelt.errors import BadInput
from rivelt.picture import MAX_PIXELS, Art
from rivelt.units import PixelSize, Rect, round_half_up

if TYPE_CHECKING:
    from numpy.typing import NDArray

TRANSPARENT = [0, 0, 0, 0]

# Images are made on all cores, one to a core: a fifth less work than many cores on one image. And nothing is drawn twice, so that
# what libvips would keep in case it is would only take memory.
pyvips.concurrency_set(1)
pyvips.cache_set_max(0)
if sys.platform == "linux" and (mallopt := getattr(ctypes.CDLL(None), "mallopt", None)) is not None:
    # glibc would keep freed pixels for each thread that ever ran. With fewer arenas than this, threads that draw large vectors wait for
    # each other, and take half as long again.
    mallopt(-8, 2 * threads())  # M_ARENA_MAX


def draw(art: Art, canvas: PixelSize, box: Rect) -> pyvips.Image:
    """Draw `art` so that the whole of it fills `box` (px) on a transparent canvas.

    Returns:
        An sRGB image of `canvas` pixels with 4 bands of 8 bits, alpha not premultiplied.

    Raises:
        BadInput: the file turns out to be broken when it is decoded.
    """
    try:
        image = _vector(art, canvas, box) if art.svg else _bitmap(art, canvas, box)
        # Pixels are made here and once: what follows (compositing, encoding, measuring) reads them several times.
        return image.copy_memory()
    except pyvips.Error as error:
        raise BadInput(f"{art.name} is broken: it cannot be decoded", hint="Export it again.") from error


def _vector(art: Art, canvas: PixelSize, box: Rect) -> pyvips.Image:
    """A vector is drawn at its final size and place, never resized."""
    assert art.svg is not None
    return rasterised(art.svg.on_canvas(*canvas, box), canvas)


def _bitmap(art: Art, canvas: PixelSize, box: Rect) -> pyvips.Image:
    """A bitmap is laid on whole pixels."""
    size = PixelSize(max(1, round_half_up(box.width)), max(1, round_half_up(box.height)))
    level = _level(art, size)
    image = resized(decoded(art.data), size) if level is None else _from_level(level, size)
    return image.embed(round_half_up(box.x), round_half_up(box.y), *canvas, extend="background", background=TRANSPARENT)


_LARGE = 4_000_000  # pixels of a bitmap that takes longer to decode than to draw
_FULL = 65535


def _level(art: Art, size: PixelSize) -> pyvips.Image | None:
    """A large bitmap in linear light, shrunk by a power of 2 that divides its sides and leaves twice the size that is wanted.

    It is kept with the art: decoded once, however many sizes are drawn. libvips itself shrinks by whole pixels before it filters. None
    for a bitmap that is small, is wanted large, or has odd sides.
    """
    width, height = (round(side) for side in art.size)
    times = int(min(width / size.width, height / size.height) / 2)
    power = 1 << max(0, times.bit_length() - 1)
    while power > 1 and (width % power or height % power):
        power >>= 1
    if width * height < _LARGE or power < 2:
        return None
    with art.drawing:
        # Each is made from the one before, whichever are asked for: the bytes of a plate do not depend on what was drawn first.
        side = 2
        while side <= power:
            if side not in art.levels:
                image = art.levels[side // 2] if side > 2 else in_linear(decoded(art.data)) * _FULL
                art.levels[side] = image.shrink(2, 2).rint().cast("ushort").copy_memory()
            side *= 2
        return art.levels[power]


def _from_level(level: pyvips.Image, size: PixelSize) -> pyvips.Image:
    """The bitmap that a level is of, at a size."""
    across, down = size.width / level.width, size.height / level.height
    return from_linear((level / _FULL).resize(across, vscale=down, kernel=SHRINKING))


def decoded(data: bytes) -> pyvips.Image:
    """Return any bitmap as upright 8-bit sRGB, its colour profile converted: with alpha (4 bands), or opaque (3 bands).

    Raises:
        BadInput: it has far too many pixels for a launch image.
    """
    image = pyvips.Image.new_from_buffer(data, "", access="sequential")
    if image.width * image.height > MAX_PIXELS:
        raise BadInput(
            f"an image of {image.width} x {image.height} pixels is not a launch image", hint="Make it smaller."
        )
    image = image.autorot()
    if image.get_typeof("icc-profile-data") != 0:
        # Where the embedded profile is broken, the file is taken for what it says it is without one.
        with suppress(pyvips.Error):
            image = image.icc_transform("srgb", embedded=True, intent="relative", depth=8)
    image = image.colourspace("srgb")
    if image.format != "uchar":
        image = image.cast("uchar")
    return image


def with_alpha(image: pyvips.Image) -> pyvips.Image:
    """Return an image with 4 bands: an opaque one gets an alpha of 255."""
    return image if image.hasalpha() else image.addalpha()


def resized(image: pyvips.Image, size: PixelSize) -> pyvips.Image:
    """Return an 8-bit sRGB image at another size, with alpha: resized in linear light with premultiplied alpha."""
    if (image.width, image.height) == size:
        return with_alpha(image)
    return from_linear(
        in_linear(image).resize(size.width / image.width, vscale=size.height / image.height, kernel=SHRINKING)
    )


SHRINKING = "lanczos3"
"""The filter with which images are made smaller."""


def in_linear(image: pyvips.Image) -> pyvips.Image:
    """Return an 8-bit sRGB image in linear light, as floats: with premultiplied alpha, or opaque (3 bands)."""
    linear = image.colourspace("scrgb")
    return linear.premultiply(max_alpha=1) if image.hasalpha() else linear


def from_linear(image: pyvips.Image) -> pyvips.Image:
    """Return what `in_linear` gives as 8-bit sRGB again, with straight alpha."""
    if image.bands == 3:
        return opaque_from_linear(image).addalpha()
    # Lanczos overshoots at sharp edges; unpremultiplying more colour than alpha would leave bright fringes.
    colour = image[:3].clamp(min=0, max=1)
    alpha = image[3].clamp(min=0, max=1)
    straight = colour.bandjoin(alpha).copy(interpretation="scrgb").unpremultiply(max_alpha=1)
    return straight.colourspace("srgb").cast("uchar")


def opaque_from_linear(image: pyvips.Image) -> pyvips.Image:
    """Return what `in_linear` gives of an opaque image as 8-bit sRGB again, of 3 bands; what overshoots is cut off."""
    return image.copy(interpretation="scrgb").colourspace("srgb")


def fill(image: NDArray[np.uint8], colour: Sequence[int]) -> None:
    """Make all of a new image (height x width x 4) one colour of four bands, a pixel at a time and not a byte."""
    image.view(np.uint32)[:] = np.array(colour, np.uint8).view(np.uint32)


def rasterised(svg: str, size: PixelSize) -> pyvips.Image:
    """Return an SVG of exactly `size` px, drawn 1:1."""
    # libvips draws dpi / 72 px for each CSS px; the scale takes that back, and 96 dpi stays for units such as mm.
    image = pyvips.Image.svgload_buffer(svg.encode(), dpi=96, scale=72 / 96)
    return image if (image.width, image.height) == size else image.crop(0, 0, *size)
