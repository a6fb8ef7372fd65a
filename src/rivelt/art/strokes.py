"""How thin the thinnest stroke of a drawing is."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

_VISIBLE = 127  # of 255
_LONG = 6.0  # a stroke is at least so many times as long as wide; a tip of 8 degrees has the area of 3.6 squares of its width
_SHORTEST = 12  # px
_WIDEST = 64  # px: what is wider everywhere is no stroke


def thinnest_stroke(pixels: NDArray[np.uint8]) -> float | None:
    """Return the width in px of the thinnest stroke that is longer than a tip or a corner; None where nothing is as thin as a stroke.

    The width at a pixel is the shortest of the straight runs of visible pixels through it, in four directions: at most 8 % too much for
    strokes at other angles.

    Args:
        pixels: height x width x 4, with alpha last.
    """
    import numpy as np

    visible = pixels[..., 3] > _VISIBLE
    if not visible.any():
        return None
    widths = np.minimum(
        np.minimum(_runs(visible), _runs(visible.T).T), np.float32(math.sqrt(2)) * _diagonal_runs(visible)
    )
    widths = np.minimum(widths, np.float32(math.sqrt(2)) * _diagonal_runs(visible[:, ::-1])[:, ::-1])
    # Between the widths that occur, no pixels are added to what may be a stroke, and it would have to be longer.
    for width in np.unique(np.maximum(np.ceil(widths[visible] - 0.5), 1)).astype(int):
        if width > _WIDEST:
            break
        if _has_stroke(visible & (widths <= width + 0.5), width):
            return float(width)
    return None


def _runs(visible: NDArray[np.bool_]) -> NDArray[np.float32]:
    """The length of the run of visible pixels in its row that each pixel is in; 0 outside."""
    import numpy as np

    width = visible.shape[1]
    at = np.arange(width, dtype=np.int16)
    before = np.where(visible, np.int16(-1), at)
    np.maximum.accumulate(before, axis=1, out=before)
    after = np.where(visible, np.int16(width), at)[:, ::-1]
    after = np.minimum.accumulate(after, axis=1)[:, ::-1]
    return np.where(visible, after - before - 1, 0).astype(np.float32)


def _diagonal_runs(visible: NDArray[np.bool_]) -> NDArray[np.float32]:
    """The same along the diagonals that go down to the right."""
    import numpy as np

    height, width = visible.shape
    padded = np.zeros((height, width + height), bool)
    rows = np.arange(height)[:, None]
    columns = np.arange(width)[None, :] - rows + height - 1
    padded[rows, columns] = visible
    found: NDArray[np.float32] = _runs(padded.T).T[rows, columns]
    return found


def _has_stroke(thin: NDArray[np.bool_], width: int) -> bool:
    """Whether a connected part of some pixels is as large as a stroke of a width."""
    import numpy as np
    import pyvips

    least = max(_LONG * width, _SHORTEST) * width
    if thin.sum() < least:
        return False
    image = pyvips.Image.new_from_array(thin.astype(np.uint8))
    labels = image.labelregions().numpy()
    return bool((np.bincount(labels[thin]) >= least).any())
