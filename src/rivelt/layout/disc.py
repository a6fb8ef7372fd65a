"""The disc under a mark, as art."""

from __future__ import annotations

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.picture import Art


def disc_art(colour: Colour, diameter: float) -> Art:
    """Return a circle of `diameter` art units that touches all four edges."""
    size = f'width="{diameter:g}" height="{diameter:g}"'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" {size} viewBox="0 0 2 2"><circle cx="1" cy="1" r="1" fill="{colour.hex}"/></svg>'
    return read_art(svg.encode(), "disc.svg")
