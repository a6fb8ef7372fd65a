"""Media queries of pages, asked of a screen."""

from __future__ import annotations

from collections.abc import Iterable

from rivelt.media.features import Device
from rivelt.media.queries import Queries, fits
from rivelt.scene.model import Screen
from rivelt.units import Look, Size


def matches(lists: Iterable[str | Queries], screen: Screen, look: Look) -> list[bool | None]:
    """Return for each list of media queries whether a screen in a look fits it; None where that depends on what is not known of it."""
    view = Size(screen.width, screen.height)
    # A phone or pad on its side keeps the width and height it has upright; a window has its own.
    whole = view if screen.variant == "window" else Size(*sorted(view))
    device = Device.of(view, whole, screen.scale, look)
    return [fits(queries, device) for queries in lists]
