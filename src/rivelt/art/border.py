"""The colour of a picture's border."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rivelt.colour import Colour

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

_BORDER = 0.02
_BIN = 0.03  # in OKLab: a cluster is three of these wide, about as much as looks like one colour


def border_colour(pixels: NDArray[np.uint8]) -> Colour:
    """Return the colour that most of a picture's border has, to the eye: the densest cluster of it in OKLab, averaged.

    Args:
        pixels: height x width x 4, sRGB; alpha is left aside.
    """
    import numpy as np

    from rivelt.art.oklch import encoded, linear, to_oklch

    ring = max(1, round(min(pixels.shape[:2]) * _BORDER))
    edges = (pixels[:ring], pixels[-ring:], pixels[:, :ring], pixels[:, -ring:])
    colours = np.concatenate([edge[..., :3].reshape(-1, 3) for edge in edges]) / 255.0
    lightness, chroma, hue = np.moveaxis(to_oklch(colours), -1, 0)
    lab = np.stack([lightness, chroma * np.cos(hue), chroma * np.sin(hue)], axis=-1)
    cells, index, counts = np.unique(np.rint(lab / _BIN).astype(int), axis=0, return_inverse=True, return_counts=True)
    near = np.abs(cells[:, None] - cells[None]).max(axis=2) <= 1
    densest = int(np.argmax(near @ counts))
    chosen = near[densest][index.ravel()]
    red, green, blue = (round(float(channel) * 255) for channel in encoded(linear(colours[chosen]).mean(axis=0)))
    return Colour(red, green, blue)
