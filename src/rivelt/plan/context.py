"""What every planner is given: the brief, and the art of each look with its measured extent."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rivelt.art.extent import Extent
from rivelt.art.fit import allowed_diameter, box_with_bounds_in, box_with_circle_at, circle_scale, longer_side_scale
from rivelt.art.source import Art
from rivelt.brief.model import Brief, Role
from rivelt.plan.model import Placement, Recipe
from rivelt.units import Look, Point, Rect, Size, contain


@dataclass(frozen=True)
class MeasuredArt:
    """A piece of art and where its visible part lies (art units)."""

    art: Art
    extent: Extent


@dataclass(frozen=True)
class PlanContext:
    """The brief with its art measured. `masks` are the diameters, in dp, of the circles that any platform cuts marks with."""

    brief: Brief
    art: Mapping[tuple[Look, Role], MeasuredArt]
    masks: tuple[float, ...]

    def has(self, role: Role) -> bool:
        """Whether any look shows this role."""
        return ("light", role) in self.art

    def looks(self, role: Role) -> tuple[Look, ...]:
        """The looks that need plates of their own for a role: both, or only light when dark has the same art."""
        light, dark = self.art[("light", role)], self.art[("dark", role)]
        return ("light",) if light.art == dark.art else ("light", "dark")

    def mark_scale(self, look: Look, mask: float | None = None) -> float:
        """Dp (or pt) per art unit for the mark: what the layout asks for, but never more than `mask` (its diameter) allows."""
        extent, layout = self.art[(look, "mark")].extent, self.brief.layout
        fits = [circle_scale(extent, diameter, layout.clearance) for diameter in self.masks]
        wanted = min(fits) if layout.mark_size == "fit" else longer_side_scale(extent, layout.mark_size)
        return wanted if mask is None else min(wanted, circle_scale(extent, mask, layout.clearance))

    def mark_note(self, look: Look, mask: float) -> str | None:
        """A sentence when `mask` makes the mark smaller than the layout asks for, else None."""
        wanted, given = self.mark_scale(look), self.mark_scale(look, mask)
        if given >= wanted * (1 - 1e-9):
            return None
        longer = self.art[(look, "mark")].extent.bounds.size.longer
        diameter = allowed_diameter(mask, self.brief.layout.clearance)
        return (
            f"the {look} mark is drawn {longer * given:.1f} dp long instead of {longer * wanted:.1f}: "
            f"more would leave the circle of {diameter:.1f} dp that the mask and its clearance allow"
        )

    def mark_in_circle(self, look: Look, side: float, mask: float, density: float) -> Recipe:
        """The mark on a square plate of `side` dp at `density` px per dp, its enclosing circle centred in the mask."""
        measured = self.art[(look, "mark")]
        scale = self.mark_scale(look, mask) * density
        canvas = Size(side, side).pixels(density)
        centre = Point(canvas.width / 2, canvas.height / 2)
        box = box_with_circle_at(measured.extent.circle, measured.art.size, scale, centre)
        return Recipe(canvas, (Placement(measured.art, box),))

    def fitted(self, look: Look, role: Role, frame: Size, scale: float, density: float) -> Recipe:
        """The visible part of a role centred on a plate of `frame` (dp or pt), at `scale` units per art unit."""
        measured = self.art[(look, role)]
        canvas = frame.pixels(density)
        box = box_with_bounds_in(
            measured.extent.bounds, measured.art.size, scale * density, Rect(0, 0, canvas.width, canvas.height)
        )
        return Recipe(canvas, (Placement(measured.art, box),))

    def imprint_scale(self, look: Look, box: Size) -> float:
        """Units per art unit at which the visible imprint is as large as `box` allows, never stretched."""
        bounds = self.art[(look, "imprint")].extent.bounds
        return contain(bounds.size, box).width / bounds.width
