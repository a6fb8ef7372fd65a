"""A part of an image on flat ground, as it is once the whole image is made smaller.

Each pixel of the smaller image is a weighted mean of those around its place, along the columns and then along the rows, with Lanczos'
filter of three lobes (C. E. Duchon, "Lanczos Filtering in One and Two Dimensions", 1979). Ground adds the weight that the part leaves,
so that no more than the part is ever looked at.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

LOBES = 3


class Stretch(NamedTuple):
    """Where a part begins and ends along one side of an image, of `before` pixels, that gets `after` pixels (at most as many)."""

    start: int
    end: int
    before: int
    after: int

    @property
    def reached(self) -> tuple[int, int]:
        """The first pixel of the smaller image that the part has a say in, and the one after the last."""
        step = self.before / self.after
        first, last = math.floor(self.start / step) - LOBES - 1, math.ceil(self.end / step) + LOBES + 1
        return max(0, first), min(self.after, last)

    def shrunk(self, values: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Return the rows that `reached` says, without the ground's share, and the weight that the part has in each.

        `values`: the rows of the part.
        """
        firsts, weights = self._taps()
        begins = np.clip(self.start - firsts, 0, weights.shape[1])
        ends = np.clip(self.end - firsts, begins, weights.shape[1])
        taps = np.arange(weights.shape[1])
        is_part = (begins[:, None] <= taps) & (taps < ends[:, None])
        rows = np.zeros((len(weights), values.shape[1]), np.float32)
        for row, its, first, begin, end in zip(
            rows, weights, (firsts - self.start).tolist(), begins.tolist(), ends.tolist(), strict=True
        ):
            if begin < end:
                np.dot(its[begin:end], values[first + begin : first + end], out=row)
        return rows, np.where(is_part, weights, 0).sum(axis=1)

    def _taps(self) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
        """The pixel that each row of `reached` begins with, and the weights of that pixel and those after it; their sum is 1."""
        step = self.before / self.after
        centres = (np.arange(*self.reached) + 0.5) * step - 0.5
        firsts = np.ceil(centres - LOBES * step).astype(np.int64)
        taps = firsts[:, None] + np.arange(math.floor(2 * LOBES * step) + 1)
        away = (taps - centres[:, None]) / step
        weights = np.where(np.abs(away) < LOBES, np.sinc(away) * np.sinc(away / LOBES), 0.0)
        weights /= weights.sum(axis=1, keepdims=True)
        # What is beyond an edge of the image is as its last pixel.
        for index in np.flatnonzero((firsts < 0) | (taps[:, -1] >= self.before)):
            inside = np.clip(taps[index], 0, self.before - 1)
            weights[index] = np.bincount(inside - firsts[index], weights[index], taps.shape[1])[: taps.shape[1]]
        return firsts, weights.astype(np.float32)


def shrunk(
    part: NDArray[np.float32], ground: NDArray[np.float32], at: tuple[int, int], whole: PixelSize, size: PixelSize
) -> tuple[NDArray[np.float32], int, int]:
    """Return what a part of an image leaves in a smaller image, and where (x, y) that begins.

    Args:
        part: height x width x bands, in linear light, with premultiplied alpha where it has a band of it.
        ground: the bands of all pixels that are not in the part.
        at: where (x, y) the part is.
        whole: the size of the image.
        size: that of the smaller one: at most as wide and as high.
    """
    height, width, bands = part.shape
    down = Stretch(at[1], at[1] + height, whole.height, size.height)
    across = Stretch(at[0], at[0] + width, whole.width, size.width)
    low, by_row = down.shrunk(part.reshape(height, width * bands))
    # Band by band: NumPy is slow where a few values at a time change their places.
    columns = np.stack([low.reshape(-1, width, bands)[:, :, band].T for band in range(bands)], axis=1)
    small, by_column = across.shrunk(columns.reshape(width, -1))
    left = 1 - np.outer(by_row, by_column)
    found = [small.reshape(-1, bands, len(low))[:, band].T + left * value for band, value in enumerate(ground.tolist())]
    return np.stack(found, axis=2), across.reached[0], down.reached[0]
