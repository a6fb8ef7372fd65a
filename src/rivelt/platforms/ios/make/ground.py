"""How a launch storyboard shows the ground on the oldest system that a target runs on."""

from __future__ import annotations

from msgspec import Struct

from rivelt.layout.context import PlanContext
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.site import IosSite, Names


class GroundForm(Struct, frozen=True):
    """The ground of a storyboard.

    `name`: of the colour set, or of the image set. `is_named`: a named colour, which has both looks; else the light ground stands in the
    storyboard. `has_image`: over that is one pixel of the ground, stretched to the edges, whose image set has both looks.
    `has_safe_area`: whether the oldest system has a safe area, else the guides that came before it are used.
    """

    name: str
    is_named: bool
    has_image: bool
    has_safe_area: bool = True

    @classmethod
    def of(cls, context: PlanContext, site: IosSite, names: Names) -> GroundForm:
        """Return the ground as a target needs it; a target whose oldest system is not known gets what current ones know."""
        levels, oldest = ios_facts().levels, site.oldest
        is_named = oldest is None or oldest >= levels.named_colours
        grounds = {shown.ground for shown in context.brief.looks.values()}
        has_safe_area = oldest is None or oldest >= levels.safe_area
        return cls(
            names.of("Ground"), is_named, has_image=not is_named and len(grounds) > 1, has_safe_area=has_safe_area
        )
