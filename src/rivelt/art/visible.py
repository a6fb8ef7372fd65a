"""Where the visible pixels of a piece of art are."""

from __future__ import annotations

import math
from array import array

import pyvips

from rivelt.art.extent import half_hull
from rivelt.picture import Art
from rivelt.pixels.canvas import draw
from rivelt.units import PixelSize, Point, Rect

VISIBLE_ALPHA = 4
"""The least alpha (0 to 255) that counts as visible: below it the faint tail of a shadow would make the mark look small."""

VECTOR_PIXELS = 1024
"""The longer side at which a vector is looked at, in px. Edges are then found to a fraction of these."""

SMALL_PART = 0.6
"""A visible part smaller than this share of the file is looked at again, on its own: a wide margin must cost no precision."""


def visible_outline(art: Art) -> list[Point]:
    """Return visible points that the convex hull of all visible points is made of, in art units; none when nothing is visible.

    The edge of a vector is inside a pixel: how much of the pixel is covered tells where, so that the points are exact to about a
    third of a pixel of the drawing that is looked at. A bitmap is taken as it is, its pixels as whole squares.
    """
    whole = Rect(0, 0, *art.size)
    if art.svg is None:
        return _pixel_corners(_Silhouette(art, whole, 1.0))
    points = _edge_points(_Silhouette(art, whole, VECTOR_PIXELS / art.size.longer))
    if not points:
        return points
    margin = art.size.longer / VECTOR_PIXELS
    left, right = min(point.x for point in points) - margin, max(point.x for point in points) + margin
    top, bottom = min(point.y for point in points) - margin, max(point.y for point in points) + margin
    window = Rect(left, top, right - left, bottom - top)
    if window.size.longer > SMALL_PART * art.size.longer:
        return points
    return _edge_points(_Silhouette(art, window, VECTOR_PIXELS / window.size.longer))


class _Silhouette:
    """The alpha of a window of the art (art units) drawn at `scale` px per art unit, and the extremes of each row and column.

    `columns` holds (x, first y, last y), `rows` holds (y, first x, last x) of all that show anything, in whole px of the drawing.
    """

    def __init__(self, art: Art, window: Rect, scale: float) -> None:
        self.window = window
        self.scale = scale
        self.width, self.height = (max(1, math.ceil(side * scale - 1e-6)) for side in window.size)
        box = Rect(-window.x * scale, -window.y * scale, art.size.width * scale, art.size.height * scale)
        self.alpha = draw(art, PixelSize(self.width, self.height), box)[3].copy_memory()
        mask = (self.alpha >= VISIBLE_ALPHA).copy_memory()
        tops, lefts = map(_values, mask.profile())
        bottoms, rights = (_values(edge)[::-1] for edge in mask.rot180().profile())
        self.columns = [
            (x, top, self.height - 1 - bottom)
            for x, (top, bottom) in enumerate(zip(tops, bottoms, strict=True))
            if top < self.height
        ]
        self.rows = [
            (y, left, self.width - 1 - right)
            for y, (left, right) in enumerate(zip(lefts, rights, strict=True))
            if left < self.width
        ]

    def point(self, x: float, y: float) -> Point:
        """Return a position in the drawing (px) as one in the art (art units)."""
        return Point(self.window.x + x / self.scale, self.window.y + y / self.scale)


def _pixel_corners(seen: _Silhouette) -> list[Point]:
    return [seen.point(side, y) for x, first, last in seen.columns for side in (x, x + 1) for y in (first, last + 1)]


def _edge_points(seen: _Silhouette) -> list[Point]:
    """Where paint begins and ends in rows and columns: on their middle line, to a fraction of a pixel along it.

    Only those that a convex hull can use are given: a few dozen of thousands.
    """
    if not seen.rows:
        return []
    data, width = bytes(seen.alpha.write_to_memory()), seen.width
    # Each edge as (position along it, depth).
    uppers = [(x + 0.5, first + 1 - _cover(data, first * width + x, width)) for x, first, _ in seen.columns]
    lowers = [(x + 0.5, last + _cover(data, last * width + x, -width)) for x, _, last in seen.columns]
    lefts = [(y + 0.5, first + 1 - _cover(data, y * width + first, 1)) for y, first, _ in seen.rows]
    rights = [(y + 0.5, last + _cover(data, y * width + last, -1)) for y, _, last in seen.rows]
    top, bottom = min(y for _, y in uppers), max(y for _, y in lowers)
    left, right = min(x for _, x in lefts), max(x for _, x in rights)
    for edge, low, high in ((uppers, left, right), (lowers, left, right), (lefts, top, bottom), (rights, top, bottom)):
        # The middle line of the outermost row or column, when that is only just touched, is outside what is touched.
        edge[0] = (max(edge[0][0], low), edge[0][1])
        edge[-1] = (min(edge[-1][0], high), edge[-1][1])
    upright = half_hull(uppers) + half_hull(lowers[::-1])
    lying = half_hull(lefts) + half_hull(rights[::-1])
    return [seen.point(x, y) for x, y in upright] + [seen.point(x, y) for y, x in lying]


def _cover(alpha: bytes, position: int, inwards: int) -> float:
    """How much of an edge pixel the art covers: its alpha as a share of that of the next pixel inwards.

    Where the next pixel is no more opaque (a hairline), the whole pixel counts.
    """
    inner = position + inwards
    if not 0 <= inner < len(alpha) or alpha[inner] <= alpha[position]:
        return 1.0
    return alpha[position] / alpha[inner]


def _values(image: pyvips.Image) -> list[int]:
    """The values of an image that is one pixel wide or high, in order."""
    values = array("i")
    values.frombytes(image.cast("int").write_to_memory())
    return values.tolist()
