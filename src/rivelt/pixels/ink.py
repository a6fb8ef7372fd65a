"""Art in one solid colour, for high-contrast themes."""

from __future__ import annotations

import pyvips

from rivelt.plan.model import Ink

_SAME, _APART = 12.0, 24.0
"""Colour differences (CIE76) up to which art reads as the paper it was drawn for, and from which on it reads as ink."""


def inked(image: pyvips.Image, ink: Ink) -> pyvips.Image:
    """Return an sRGB image with alpha, painted in the ink's colour; what has the colour of the paper becomes a hole."""
    paper = (image[:3] * 0 + list(ink.paper[:3])).cast("uchar").copy(interpretation="srgb")
    apart = image[:3].colourspace("lab").dE76(paper.colourspace("lab"))
    share = ((apart - _SAME) / (_APART - _SAME)).clamp(min=0, max=1)
    alpha = (image[3] * share).rint().cast("uchar")
    colour = (image[:3] * 0 + list(ink.colour[:3])).cast("uchar")
    return colour.bandjoin(alpha).copy(interpretation="srgb")
