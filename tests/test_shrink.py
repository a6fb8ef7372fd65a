"""Parts of images on flat ground, made smaller: as another library makes the whole image smaller."""

from __future__ import annotations

from io import BytesIO

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from rivelt.picture import ImageFile
from rivelt.pixels.pictures import Pictures
from rivelt.pixels.shrink import shrunk
from rivelt.units import PixelSize

SIDES = st.integers(1, 90)
PAD = 400


@st.composite
def parts(draw: st.DrawFn) -> tuple[PixelSize, PixelSize, tuple[int, int], PixelSize]:
    """The size of an image, of a part of it, where that is (often at an edge), and the smaller size."""
    width, height = draw(SIDES), draw(SIDES)
    wide, high = draw(st.integers(1, width)), draw(st.integers(1, height))
    at = draw(st.sampled_from((0, width - wide, (width - wide) // 2))), draw(st.integers(0, height - high))
    return PixelSize(width, height), PixelSize(wide, high), at, PixelSize(
        draw(st.integers(1, width)), draw(st.integers(1, height))
    )  # fmt: skip


def reduced(band: np.ndarray, size: PixelSize) -> np.ndarray:
    """Pillow's reduction of a band of floats. It cuts its filter off at the edges of an image: these are far away here, behind repeated pixels."""
    height, width = band.shape
    padded = Image.fromarray(np.pad(band, PAD, mode="edge"))
    return np.asarray(
        padded.resize(size, Image.Resampling.LANCZOS, box=(PAD, PAD, PAD + width, PAD + height)), np.float64
    )


@settings(max_examples=150, deadline=None)
@given(parts(), st.integers(3, 4), st.integers(0, 2**32 - 1))
def test_a_part_is_made_smaller_as_the_whole_image_is(
    given_: tuple[PixelSize, PixelSize, tuple[int, int], PixelSize], bands: int, seed: int
) -> None:
    whole, part, (x, y), size = given_
    dice = np.random.default_rng(seed)
    ground = dice.random(bands, np.float32)
    pixels = dice.random((part.height, part.width, bands), np.float32)
    image = np.broadcast_to(ground, (whole.height, whole.width, bands)).copy()
    image[y : y + part.height, x : x + part.width] = pixels
    found, left, top = shrunk(pixels, ground, (x, y), whole, size)
    framed = np.broadcast_to(ground, (size.height, size.width, bands)).copy()
    framed[top : top + found.shape[0], left : left + found.shape[1]] = found
    for band in range(bands):
        assert np.abs(framed[:, :, band] - reduced(image[:, :, band], size)).max() < 1e-4


@pytest.mark.parametrize("bands", [3, 4])
@pytest.mark.parametrize(("width", "height"), [(61, 40), (200, 17), (150, 131)])
def test_a_bitmap_on_ground_is_shown_as_the_same_without_that_ground(bands: int, width: int, height: int) -> None:
    """Two images whose ground differs by one far pixel: of one, the art alone is made smaller; of the other, all."""
    dice = np.random.default_rng(bands)
    pixels = np.empty((262, 400, bands), np.uint8)
    pixels[:] = (20, 90, 60, 255)[:bands]
    pixels[80:190, 120:260] = dice.integers(0, 256, (110, 140, bands))
    plain = shown(pixels, PixelSize(width, height))
    pixels[0, 0, 0] ^= 1
    pixels[-1, -1, 0] ^= 1
    other = shown(pixels, PixelSize(width, height))
    assert plain.shape == (height, width, 4)
    assert np.abs(premultiplied(plain) - premultiplied(other)).max() <= 3


def shown(pixels: np.ndarray, size: PixelSize) -> np.ndarray:
    file = BytesIO()
    Image.fromarray(pixels).save(file, "PNG")
    return Pictures().at(ImageFile(file.getvalue()), size)


def premultiplied(pixels: np.ndarray) -> np.ndarray:
    return np.asarray(pixels[..., :3].astype(float) * pixels[..., 3:] / 255)
