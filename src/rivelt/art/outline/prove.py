"""An outline drawn back and compared with its source: outlines are never trusted, always proved."""

from __future__ import annotations

from rivelt.art.outline.draw import outline_svg
from rivelt.art.outline.model import Outline
from rivelt.picture import Art
from rivelt.pixels.canvas import draw, rasterised
from rivelt.units import PixelSize, Rect, round_half_up

PROOF_PIXELS = 256
"""The longer side at which the two are compared, in px."""

SAME = 1.0
"""The mean difference, of 255, below which an outline counts as the same picture."""


def difference(outline: Outline, art: Art) -> float:
    """Return the mean difference, 0 to 255, between an outline and its source over all pixels and channels, alpha premultiplied."""
    scale = PROOF_PIXELS / art.size.longer
    size = PixelSize(*(max(1, round_half_up(side * scale)) for side in art.size))
    source = draw(art, size, Rect(0, 0, art.size.width * scale, art.size.height * scale))
    drawn = rasterised(outline_svg(outline, *size, scale), size)
    return float((source.premultiply() - drawn.premultiply()).abs().avg())
