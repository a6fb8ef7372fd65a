"""The colour of a ground that code or a storyboard sets."""

from __future__ import annotations

from collections.abc import Sequence

from rivelt.colour import Colour
from rivelt.platforms.ios.native.catalog import find_colour
from rivelt.platforms.ios.native.code_colours import colour_in_code
from rivelt.platforms.ios.native.colours import node_colour
from rivelt.platforms.ios.native.first_screen import Written
from rivelt.project.project import Project
from rivelt.scene.model import Screen
from rivelt.units import Look


def written_colour(
    project: Project, catalogs: Sequence[str], written: Written, screen: Screen, look: Look
) -> Colour | None:
    """Return the colour of an expression on a screen in one look; None for one that is not known."""

    def lookup(name: str) -> Colour | None:
        found = find_colour(project, catalogs, name, screen, look)
        return found[0] if found is not None else None

    if written.node is not None:
        return node_colour(written.node, look, screen.version, lookup)
    is_swiftui = written.syntax == "swiftui"
    return colour_in_code(written.text, look, screen.version, lookup, is_swiftui=is_swiftui)
