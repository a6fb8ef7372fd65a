"""Pixels of a piece of art as an array, for looking at its colours."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rivelt.pixels.canvas import decoded, draw, with_alpha
from rivelt.pixels.encode import png
from rivelt.units import PixelSize, Rect, round_half_up

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.art.derive import LightnessCurve
    from rivelt.picture import Art, ImageFile
    from rivelt.pixels.pictures import Pictures

SAMPLE_PIXELS = 512
"""The longer side at which colours are looked at, in px: an outline then has a thousand pixels or more."""


def sampled(art: Art) -> tuple[NDArray[np.uint8], float]:
    """Return the art drawn small: height x width x 4 in sRGB with straight alpha, and the art units of one pixel."""
    scale = SAMPLE_PIXELS / art.size.longer
    size = PixelSize(*(max(1, round_half_up(side * scale)) for side in art.size))
    image = draw(art, size, Rect(0, 0, art.size.width * scale, art.size.height * scale))
    pixels: NDArray[np.uint8] = image.numpy()
    return pixels, 1 / scale


def sampled_image(image: ImageFile, pictures: Pictures) -> NDArray[np.uint8]:
    """Return an image that a screen shows, drawn small: height x width x 4 in sRGB with straight alpha; `pictures` decodes it.

    Of a plate that is not rendered yet its recipe is drawn, at that size from the start.

    Raises:
        BadInput: it is not a picture, or is broken.
    """
    from rivelt.art.source import read_art, read_picture
    from rivelt.pixels.planned import PlannedImage
    from rivelt.pixels.render import drawn_small

    if isinstance(image, PlannedImage):
        pixels: NDArray[np.uint8] = drawn_small(image.recipe, SAMPLE_PIXELS).numpy()
        return pixels
    if image.is_vector:
        return sampled(pictures.vector(image, read_art))[0]
    if not image.is_png:  # others may be of a kind that is not to be read
        read_picture(image.data, "picture")
    size = image.size or PixelSize(1, 1)  # what has no size is broken, as is reported when it is decoded
    scale = min(1.0, SAMPLE_PIXELS / max(size))
    return pictures.at(image, PixelSize(*(max(1, round_half_up(side * scale)) for side in size)))


def recoloured_bitmap(art: Art, curve: LightnessCurve) -> bytes:
    """Return a bitmap with the lightness of its colours moved along a curve, as a PNG; its alpha stays to the bit."""
    import numpy as np
    import pyvips

    from rivelt.art.derive import recoloured

    pixels = with_alpha(decoded(art.data)).numpy()
    flat = pixels.reshape(-1, 4)
    packed = (flat[:, 0].astype(np.uint32) << 16) | (flat[:, 1].astype(np.uint32) << 8) | flat[:, 2]
    different, index = np.unique(packed, return_inverse=True)
    colours = np.stack([different >> 16, different >> 8 & 255, different & 255], axis=-1) / 255.0
    moved = np.rint(recoloured(colours, curve) * 255).astype(np.uint8)
    result = np.concatenate([moved[index], flat[:, 3:]], axis=1).reshape(pixels.shape)
    return png(pyvips.Image.new_from_array(np.ascontiguousarray(result), interpretation="srgb"))
