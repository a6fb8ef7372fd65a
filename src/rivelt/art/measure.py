"""What is known of a piece of art by itself: where its visible part is, its middle, its contrast, its outlines."""

from __future__ import annotations

import math
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.art.extent import Extent, box_extent, extent_of
from rivelt.art.outline.convert import outline_of
from rivelt.art.outline.model import Outline
from rivelt.art.outline.prove import difference
from rivelt.art.sample import sampled
from rivelt.art.strokes import thinnest_stroke
from rivelt.art.visible import visible_outline
from rivelt.brief.model import Centre
from rivelt.errors import BadInput
from rivelt.picture import Art
from rivelt.units import Circle, Point

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class MeasuredArt(Struct, frozen=True, dict=True):
    """A piece of art, and where its visible part is (art units)."""

    art: Art
    extent: Extent

    @cached_property
    def sample(self) -> tuple[NDArray[np.uint8], float]:
        """The art drawn small: height x width x 4 in sRGB with straight alpha, and the art units of one pixel."""
        return sampled(self.art)

    @cached_property
    def mass(self) -> Point:
        """The centre of mass of its paint, in art units."""
        return centre_of_mass(*self.sample)

    @cached_property
    def thinnest(self) -> float | None:
        """The width of its thinnest stroke, in art units; None where it has none."""
        pixels, unit = self.sample
        width = thinnest_stroke(pixels)
        return width * unit if width is not None else None

    @cached_property
    def outline(self) -> Outline:
        """The vector as plain outlines; only a vector has one."""
        return outline_of(self.art)

    @cached_property
    def outline_difference(self) -> float:
        """The mean difference, of 255, between the outlines drawn back and the art."""
        return difference(self.outline, self.art)

    def anchor(self, centre: Centre) -> Point:
        """Return the point that is to be centred."""
        match centre:
            case "circle":
                return self.extent.circle.centre
            case "mass":
                return self.mass
            case _:
                return self.extent.bounds.centre

    def reach(self, centre: Centre) -> Circle:
        """Return the smallest circle round an anchor that holds the visible part."""
        if centre == "circle":
            return self.extent.circle
        anchor = self.anchor(centre)
        return Circle(anchor, max(math.dist(anchor, point) for point in self.extent.hull))


def measured(art: Art, *, trim: bool = True) -> MeasuredArt:
    """Measure where the visible part of the art is; without `trim` the whole file counts as visible.

    Raises:
        BadInput: nothing of it is visible, or it turns out to be broken when it is drawn.
    """
    extent = extent_of(visible_outline(art))
    if extent is None:
        raise BadInput(
            f"{art.name} shows nothing: every pixel is transparent", hint="Export it again with its drawing."
        )
    return MeasuredArt(art, extent if trim else box_extent(art.size))


def centre_of_mass(pixels: NDArray[np.uint8], unit: float) -> Point:
    """Return the centre of mass of what is painted, in art units; `unit`: art units per pixel."""
    import numpy as np

    alpha = pixels[..., 3].astype(float)
    total = alpha.sum()
    y, x = np.arange(alpha.shape[0]) + 0.5, np.arange(alpha.shape[1]) + 0.5
    return Point(float(alpha.sum(axis=0) @ x / total * unit), float(alpha.sum(axis=1) @ y / total * unit))
