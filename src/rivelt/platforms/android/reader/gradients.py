"""The colours of gradients as Android mixes them: with their alpha multiplied in, which SVG does not do."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise

from rivelt.colour import Colour
from rivelt.units import Point

_STEPS = 16  # plain stops between two colours of different alpha
_WEDGES = 360

Stops = Sequence[tuple[float, Colour]]
"""Places from 0 to 1, rising, each with its colour."""


def stops_svg(stops: Stops) -> str:
    """Return the `<stop>` elements of a linear or radial gradient."""
    return "".join(
        f'<stop offset="{at:g}" stop-color="{colour.hex[:7]}" stop-opacity="{colour.alpha / 255:g}"/>'
        for at, colour in _plain(stops)
    )


def _plain(stops: Stops) -> Iterator[tuple[float, Colour]]:
    """Stops between which a mix of the plain colours is right."""
    for (start, first), (end, last) in pairwise(stops):
        yield start, first if first.alpha else last._replace(alpha=0)
        if first.alpha != last.alpha:
            for step in range(1, _STEPS):
                yield start + (end - start) * step / _STEPS, _mixed(first, last, step / _STEPS)
            yield end, last if last.alpha else first._replace(alpha=0)
    yield stops[-1]


def _mixed(first: Colour, last: Colour, share: float) -> Colour:
    """Two colours mixed with their alpha multiplied in (SkGradientShader::kInterpolateColorsInPremul_Flag)."""
    alpha = first.alpha + (last.alpha - first.alpha) * share
    if alpha <= 0:
        return last._replace(alpha=0)
    channels = (
        (one * first.alpha * (1 - share) + two * last.alpha * share) / alpha
        for one, two in zip(first[:3], last[:3], strict=True)
    )
    red, green, blue = (round(channel) for channel in channels)
    return Colour(red, green, blue, round(alpha))


def sweep_svg(name: str, stops: Stops, centre: Point, reach: float) -> str:
    """Return a pattern that shows colours round a point, clockwise from the right (android.graphics.SweepGradient).

    SVG has no such gradient: it is made of wedges of one colour each, as far as `reach` from the point.
    """
    x, y = centre
    wedges = []
    for index in range(_WEDGES):
        colour = _at(stops, (index + 0.5) / _WEDGES)
        turns = (2 * math.pi * (index + more) / _WEDGES for more in (0, 1))
        points = " ".join(
            f"{x + 2 * reach * math.cos(turn):.2f},{y + 2 * reach * math.sin(turn):.2f}" for turn in turns
        )
        paint = f'fill="{colour.hex[:7]}" fill-opacity="{colour.alpha / 255:g}" shape-rendering="crispEdges"'
        wedges.append(f'<polygon points="{x:g},{y:g} {points}" {paint}/>')
    box = f'x="{x - reach:g}" y="{y - reach:g}" width="{2 * reach:g}" height="{2 * reach:g}"'
    view = f'viewBox="{x - reach:g} {y - reach:g} {2 * reach:g} {2 * reach:g}"'
    return f'<pattern id="{name}" patternUnits="userSpaceOnUse" {box} {view}>{"".join(wedges)}</pattern>'


def _at(stops: Stops, at: float) -> Colour:
    """The colour at a place of a gradient."""
    if at <= stops[0][0]:
        return stops[0][1]
    for (start, first), (end, last) in pairwise(stops):
        if at <= end:
            return _mixed(first, last, (at - start) / (end - start) if end > start else 1.0)
    return stops[-1][1]
