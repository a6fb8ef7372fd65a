"""The small launch screens of brands, read again from the folder of results."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING

import numpy as np

from rivelt.cores import threads
from rivelt.disk.tree import read_file
from rivelt.fleet.screens import TALL
from rivelt.units import LOOKS, Look, PixelSize

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from pathlib import Path

    from numpy.typing import NDArray

_LARGEST = 5_000_000  # bytes
_WIDEST = 2 * TALL
_AT_ONCE = 64  # brands whose pictures are held at a time


def thumbs(out: Path, names: Sequence[str], height: int) -> Iterator[tuple[str, Look, NDArray[np.uint8]]]:
    """Yield the launch screens of brands in both looks, so many px high (height x width x 4); what is not there is left out."""
    tasks = [(name, look) for name in names for look in LOOKS]
    with ThreadPoolExecutor(threads()) as pool:
        for start in range(0, len(tasks), _AT_ONCE):
            some = tasks[start : start + _AT_ONCE]
            drawn = pool.map(lambda task: _thumb(out / task[0] / f"{task[1]}.png", height), some)
            for (name, look), pixels in zip(some, drawn, strict=True):
                if pixels is not None:
                    yield name, look, pixels


def _thumb(path: Path, height: int) -> NDArray[np.uint8] | None:
    import pyvips

    try:
        image = pyvips.Image.pngload_buffer(read_file(path, _LARGEST))
        if max(image.width, image.height) > _WIDEST or min(image.width, image.height) < 1:
            return None
        image = image.colourspace("srgb")
        image = image if image.hasalpha() else image.addalpha()
        scale = height / image.height
        size = PixelSize(max(1, round(image.width * scale)), height)
        small = image.premultiply().resize(size.width / image.width, vscale=scale, kernel="cubic").unpremultiply()
        return np.ascontiguousarray(small.cast("uchar").numpy())
    except (OSError, ValueError, pyvips.Error):
        return None
