"""Gradients round a point, which SVG does not have: as wedges of one colour each."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from rivelt.colour import Colour
from rivelt.units import Point

_WEDGES = 360
_REACH = 4096.0  # beyond every viewport and screen
_OVERLAP = 1.02  # so that no ground shows between two wedges


def sweep(name: str, stops: Sequence[tuple[float, Colour]], centre: Point) -> str:
    """Return a pattern that shows colours round a point, clockwise from the right (android.graphics.SweepGradient)."""
    wedges = []
    for index in range(_WEDGES):
        colour = _between(stops, (index + 0.5) / _WEDGES)
        turns = (2 * math.pi * (index + more) / _WEDGES for more in (0.0, _OVERLAP))
        points = " ".join(
            f"{centre.x + _REACH * math.cos(turn):.2f},{centre.y + _REACH * math.sin(turn):.2f}" for turn in turns
        )
        paint = f'fill="{colour.hex[:7]}" fill-opacity="{colour.alpha / 255:g}" shape-rendering="crispEdges"'
        wedges.append(f'<polygon points="{centre.x:g},{centre.y:g} {points}" {paint}/>')
    place = f'patternUnits="userSpaceOnUse" width="{_REACH:g}" height="{_REACH:g}"'
    return f'<pattern id="{name}" {place}>{"".join(wedges)}</pattern>'


def _between(stops: Sequence[tuple[float, Colour]], at: float) -> Colour:
    """The colour at a place of a gradient."""
    if at <= stops[0][0]:
        return stops[0][1]
    for (start, first), (end, last) in pairwise(stops):
        if at <= end:
            share = (at - start) / (end - start) if end > start else 1.0
            return Colour(*(round(one + (two - one) * share) for one, two in zip(first, last, strict=True)))
    return stops[-1][1]
