"""The small launch screens of brands, read again from the folder of results."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from rivelt.colour import Colour
from rivelt.disk.tree import read_file
from rivelt.fleet.screens import TALL
from rivelt.proof.style import PAPER
from rivelt.units import LOOKS, Look, PixelSize

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from pathlib import Path

    from numpy.typing import NDArray

_LARGEST = 5_000_000  # bytes
_WIDEST = 2 * TALL


def thumbs(out: Path, names: Sequence[str], height: int) -> Iterator[tuple[str, Look, NDArray[np.uint8]]]:
    """Yield the launch screens of brands in both looks, so many px high (height x width x 4), on the paper of a sheet; what is not there is left out."""
    for (
        name
    ) in names:  # one after the other: a picture takes two milliseconds, and threads would wait for each other as long
        for look in LOOKS:
            pixels = _thumb(out / name / f"{look}.png", height)
            if pixels is not None:
                yield name, look, pixels


def _thumb(path: Path, height: int) -> NDArray[np.uint8] | None:
    import pyvips

    try:
        image = pyvips.Image.pngload_buffer(read_file(path, _LARGEST))
        if max(image.width, image.height) > _WIDEST or min(image.width, image.height) < 1:
            return None
        image = image.colourspace("srgb")
        flat = image.flatten(background=list(Colour.parse(PAPER)[:3])) if image.hasalpha() else image
        scale = height / image.height
        size = PixelSize(max(1, round(image.width * scale)), height)
        small = flat.resize(size.width / image.width, vscale=scale, kernel="linear").numpy()
        return np.concatenate([small, np.full((*small.shape[:2], 1), 255, np.uint8)], axis=-1)
    except (OSError, ValueError, pyvips.Error):
        return None
