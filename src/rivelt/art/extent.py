"""The extent of what is visible in a piece of art: true bounds, convex hull, smallest enclosing circle."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from msgspec import Struct

from rivelt.units import Circle, Point, Rect, Size


class Extent(Struct, frozen=True):
    """Where the visible part of a piece of art is, in art units.

    `hull` is convex, clockwise on a screen (y down), without collinear points. `circle` is the smallest that holds `hull`.
    """

    bounds: Rect
    hull: tuple[Point, ...]
    circle: Circle


def extent_of(outline: Iterable[Point]) -> Extent | None:
    """Return the extent of what some outermost points enclose, or None if nothing is visible."""
    hull = convex_hull(outline)
    if not hull:
        return None
    left, right = min(point.x for point in hull), max(point.x for point in hull)
    top, bottom = min(point.y for point in hull), max(point.y for point in hull)
    return Extent(Rect(left, top, right - left, bottom - top), hull, smallest_circle(hull))


def box_extent(size: Size) -> Extent:
    """Return the extent of a file whose whole box counts as visible."""
    corners = (Point(0, 0), Point(size.width, 0), Point(size.width, size.height), Point(0, size.height))
    return Extent(Rect(0, 0, *size), corners, smallest_circle(corners))


def convex_hull(points: Iterable[Point]) -> tuple[Point, ...]:
    """Return the convex hull of some points, by Andrew's monotone chain."""
    ordered = sorted(set(points))
    if len(ordered) < 3:
        return tuple(ordered)
    chains = (half_hull(ordered), half_hull(ordered[::-1]))
    return tuple(Point(*point) for chain in chains for point in chain[:-1])


def half_hull(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return the half of the convex hull that has small y, of points sorted by x; sorted downwards, the half that has large y."""
    chain: list[tuple[float, float]] = []
    for point in points:
        x, y = point
        while len(chain) > 1:
            (ax, ay), (bx, by) = chain[-2:]
            if (bx - ax) * (y - ay) - (by - ay) * (x - ax) > 0:
                break
            chain.pop()
        chain.append(point)
    return chain


def smallest_circle(points: Sequence[Point]) -> Circle:
    """Return the smallest circle that holds all points (at least one), by Welzl's algorithm in its iterative form.

    Expected linear time, given points in no particular order: they are scattered in a fixed way (Knuth's multiplicative
    hash of their index), so that the same points give the same bits.
    """
    shuffled = [points[index] for index in sorted(range(len(points)), key=lambda index: index * 2654435761 % 2**32)]
    circle = Circle(shuffled[0], 0.0)
    for i, p in enumerate(shuffled):
        if _holds(circle, p):
            continue
        circle = Circle(p, 0.0)
        for j, q in enumerate(shuffled[:i]):
            if _holds(circle, q):
                continue
            circle = _through_two(p, q)
            for r in shuffled[:j]:
                if not _holds(circle, r):
                    circle = _through_three(p, q, r)
    return circle


def _holds(circle: Circle, point: Point) -> bool:
    # The slack is for rounding alone: without it a point on the rim may ask for itself again.
    return math.dist(circle.centre, point) <= circle.radius * (1 + 1e-12) + 1e-12


def _through_two(a: Point, b: Point) -> Circle:
    return Circle(Point((a.x + b.x) / 2, (a.y + b.y) / 2), math.dist(a, b) / 2)


def _through_three(a: Point, b: Point, c: Point) -> Circle:
    """The circumcircle; for three points in a line, the circle over the two farthest apart."""
    bx, by, cx, cy = b.x - a.x, b.y - a.y, c.x - a.x, c.y - a.y
    doubled = 2 * (bx * cy - by * cx)
    if doubled == 0:
        return max((_through_two(a, b), _through_two(a, c), _through_two(b, c)), key=lambda circle: circle.radius)
    b_square, c_square = bx * bx + by * by, cx * cx + cy * cy
    x = (cy * b_square - by * c_square) / doubled
    y = (bx * c_square - cx * b_square) / doubled
    return Circle(Point(a.x + x, a.y + y), math.hypot(x, y))
