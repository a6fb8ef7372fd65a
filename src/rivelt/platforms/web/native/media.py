"""Media queries of pages, asked of a screen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from rivelt.media.features import Device
from rivelt.media.queries import Queries, fits, parsed
from rivelt.platforms.web.native.head import Head
from rivelt.project.project import Project
from rivelt.scene.model import Screen
from rivelt.units import Look, Size


def startups_that_fit(project: Project, head: Head, screen: Screen, look: Look) -> Sequence[bool | None]:
    """Return for each startup image of a page whether a screen in a look takes it, as `matches` gives it.

    Pages often change, and their media queries hardly ever: they are read and asked once, for all states of a project.
    """
    queries = (project.derived("media", link.media, parsed) for link in head.startups)
    asked = screen.frame.size, screen.variant, screen.scale, look, tuple(link.media for link in head.startups)
    return project.derived("startup images that fit", asked, lambda _: matches(queries, screen, look))


def matches(lists: Iterable[str | Queries], screen: Screen, look: Look) -> Sequence[bool | None]:
    """Return for each list of media queries whether a screen in a look fits it; None where that depends on what is not known of it."""
    view = screen.frame.size
    # A phone or pad on its side keeps the width and height it has upright; a window has its own.
    whole = view if screen.variant == "window" else Size(*sorted(view))
    device = Device.of(view, whole, screen.scale, look)
    return [fits(queries, device) for queries in lists]
