"""How well a mark stands out from its ground: WCAG contrast along its outline, and a background baked into it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from rivelt.art.oklch import Array, contrast
from rivelt.colour import Colour
from rivelt.units import Rect

ENOUGH = 3.0
"""The ratio that graphics need (WCAG 2.2, success criterion 1.4.11)."""

MOST = 21.0
"""The ratio of black to white."""

BINS = 30
"""How finely the distribution of ratios is reported."""

_SOLID = 0.5
_CELLS = 12  # the weakest stretch is looked for in a grid of this many cells along the longer side
_FULL = 0.995
_FLAT = 6 / 255
_LEAST_DRAWING = 0.002  # of the box; less is dust
_MOST_OF_BORDER = 0.5  # a drawing that is cut close touches its border here and there


class OutlineContrast(Struct, frozen=True):
    """Contrast ratios (1 to 21) along the outline of the visible mark, and where it is weakest.

    `share`: the part of the outline (0 to 1) that reaches `ENOUGH`. `tenth`, `median`: percentiles 10 and 50.
    `histogram`: shares of the outline in `BINS` bins of the ratio's logarithm, from 1 to 21. `weakest`: the box, in art units, of the stretch with the lowest contrast, and `weakest_ratio` the mean ratio in it.
    """

    share: float
    least: float
    tenth: float
    median: float
    weakest: Rect
    weakest_ratio: float
    histogram: tuple[float, ...] = ()


class Outline(NamedTuple):
    """The pixels where a mark meets what is behind it: rows, columns, colours (n x 3) and opacity (n x 1), 0 to 1; its longer side in px."""

    rows: NDArray[np.intp]
    columns: NDArray[np.intp]
    colours: Array
    opacity: Array
    longer: int


def outline_contrast(
    pixels: NDArray[np.uint8], ground: Colour, art_units: float, backdrop: NDArray[np.uint8] | None = None
) -> OutlineContrast | None:
    """Return contrast of a mark to what is behind it along the line where they meet.

    Args:
        pixels: the mark drawn with some margin or none: height x width x 4, sRGB with straight alpha.
        ground: the opaque colour behind it.
        art_units: art units per pixel; the origin of the pixels is that of the art.
        backdrop: a picture between the ground and the mark, if there is one: as large as `pixels`, sRGB with straight alpha.

    Returns:
        None when nothing of it is solid enough to have an outline.
    """
    return contrast_along(outline_of(pixels), ground, art_units, backdrop)


def contrast_along(
    outline: Outline, ground: Colour, art_units: float, backdrop: NDArray[np.uint8] | None = None
) -> OutlineContrast | None:
    """Return the contrast of a mark to what is behind it, from its outline; see `outline_contrast`."""
    rows, columns, colours, opacity, longer = outline
    if rows.size == 0:
        return None
    behind: Array = np.broadcast_to(np.array(ground[:3]) / 255.0, colours.shape)
    if backdrop is not None:
        picture = backdrop[rows, columns] / 255.0
        behind = picture[:, :3] * picture[:, 3:] + behind * (1 - picture[:, 3:])
    seen = colours * opacity + behind * (1 - opacity)
    ratios = contrast(seen, behind)
    weakest, ratio = _weakest_cell(rows, columns, ratios, max(4.0, longer / _CELLS))
    tenth, median = _percentiles(ratios, 10, 50)
    return OutlineContrast(
        share=float(np.mean(ratios >= ENOUGH)),
        least=float(ratios.min()),
        tenth=tenth,
        median=median,
        weakest=weakest.scaled(art_units),
        weakest_ratio=ratio,
        histogram=tuple(np.histogram(np.log(ratios), bins=BINS, range=(0, np.log(MOST)))[0] / ratios.size),
    )


def outline_palette(pixels: NDArray[np.uint8]) -> Array:
    """Return the colours that a mark's outline is made of, n x 3 in sRGB from 0 to 1; those of less than a hundredth of it left out."""
    colours = outline_of(pixels).colours
    rounded, counts = np.unique(np.rint(colours * 31), axis=0, return_counts=True)
    palette: Array = rounded[counts >= 0.01 * len(colours)] / 31
    return palette


def outline_of(pixels: NDArray[np.uint8]) -> Outline:
    """Return the outline of a mark: height x width x 4, sRGB with straight alpha."""
    alpha = np.ascontiguousarray(pixels[..., 3])
    rows, columns = np.nonzero(_edge(alpha >= _SOLID * 255))
    # An outline pixel is partly covered only because it is on the edge: its neighbour shows how opaque the art itself is.
    opacity = _largest_near(alpha)[rows, columns][:, None] / 255.0
    return Outline(rows, columns, pixels[rows, columns, :3] / 255.0, opacity, max(pixels.shape[:2]))


def opaque_box(pixels: NDArray[np.uint8]) -> NDArray[np.uint8] | None:
    """Return the colours (height x width x 3) of the visible part where that is a full, opaque rectangle; None for any other shape.

    Args:
        pixels: the art drawn: height x width x 4, sRGB with straight alpha.
    """
    visible = pixels[..., 3] > 0
    rows, columns = np.flatnonzero(visible.any(axis=1)), np.flatnonzero(visible.any(axis=0))
    if rows.size == 0:
        return None
    box = pixels[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    solid = box[..., 3] >= 250
    # The outermost pixels may be half covered; a rounded corner takes more.
    has_corners = min(box.shape[:2]) > 2 and solid[[1, 1, -2, -2], [1, -2, 1, -2]].all()
    return box[..., :3] if has_corners and np.mean(solid) >= _FULL else None


def baked_background(pixels: NDArray[np.uint8]) -> Colour | None:
    """Return the colour of the border when the visible part is an opaque rectangle with a border of mostly one colour and a drawing on it.

    Args:
        pixels: the art drawn: height x width x 4, sRGB with straight alpha.
    """
    box = opaque_box(pixels)
    if box is None or min(box.shape[:2]) < 6:
        return None
    inner = box[1:-1, 1:-1] / 255.0
    border = np.concatenate([inner[0], inner[-1], inner[:, 0], inner[:, -1]])
    colour = np.median(border, axis=0)
    corners = inner[[0, 0, -1, -1], [0, -1, 0, -1]]
    is_flat = np.mean(np.abs(border - colour).max(axis=1) <= _FLAT) >= _MOST_OF_BORDER
    if (
        not is_flat
        or np.abs(corners - colour).max() > _FLAT
        or np.mean(np.abs(inner - colour).max(axis=2) > 4 * _FLAT) < _LEAST_DRAWING
    ):
        return None
    return Colour(*(int(channel) for channel in np.rint(colour * 255)))


def _edge(solid: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The solid pixels with a side that is not solid; beyond the image nothing is."""
    padded = np.pad(solid, 1)
    surrounded = padded[:-2, 1:-1] & padded[2:, 1:-1] & padded[1:-1, :-2] & padded[1:-1, 2:]
    return solid & ~surrounded


def _largest_near(values: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The largest value in each pixel's neighbourhood of 3 x 3."""
    padded = np.pad(values, 1)
    tall = np.maximum(np.maximum(padded[:-2], padded[1:-1]), padded[2:])
    return np.maximum(np.maximum(tall[:, :-2], tall[:, 1:-1]), tall[:, 2:])


def _weakest_cell(rows: NDArray[np.intp], columns: NDArray[np.intp], ratios: Array, cell: float) -> tuple[Rect, float]:
    """The grid cell with the lowest mean ratio, of those with a stretch worth speaking of; the box of its pixels."""
    down, across = (rows // cell).astype(int), (columns // cell).astype(int)
    cells = down * (int(across.max()) + 1) + across
    counts = np.bincount(cells)
    means = np.full(len(counts), np.inf)
    is_stretch = counts >= cell / 4  # a few stray pixels do not count
    means[is_stretch] = np.bincount(cells, weights=ratios)[is_stretch] / counts[is_stretch]
    chosen = cells == (int(np.argmin(means)) if is_stretch.any() else int(cells.min()))
    y, x = rows[chosen], columns[chosen]
    box = Rect(float(x.min()), float(y.min()), float(np.ptp(x) + 1), float(np.ptp(y) + 1))
    return box, float(ratios[chosen].mean())


def _percentiles(values: Array, *wanted: float) -> Iterator[float]:
    """Percentiles, interpolated linearly. NumPy's own function imports `numpy.ma`, which nothing else here needs."""
    ordered = np.sort(values)
    for percent in wanted:
        at = (len(ordered) - 1) * percent / 100
        low = int(at)
        high = min(low + 1, len(ordered) - 1)
        yield float(ordered[low] + (ordered[high] - ordered[low]) * (at - low))
