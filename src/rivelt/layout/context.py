"""What every planner is given: the brief, and the art of each look with its measured extent."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from msgspec import Struct, field

from rivelt.art.measure import MeasuredArt
from rivelt.brief.model import Brief, Centre, Role
from rivelt.layout.fit import allowed_diameter, box_round, circle_scale, longer_side_scale
from rivelt.picture import Art
from rivelt.plan.model import Placement, Recipe
from rivelt.units import LOOKS, Look, PixelSize, Point, Rect, Size, contain
from rivelt.values import replace

_MOST_ENLARGED = 1.5
WHOLE = Size(1, 1)
UNMASKED = 192.0
"""The circle, in dp or points, that "fit" means where no target cuts the mark: as large as Android's, so that apps look alike."""


class PlanContext(Struct, frozen=True):
    """The brief with its art measured. `masks`: the diameters, in dp, of the circles that the brief's targets cut the mark of a look with.

    `backdrops`: the picture behind everything, for the looks that have one. `files`: what the tables of the platforms name, by key
    ("android.motion"). `generated`: the paths of what earlier applies made, `made_by_others` those that another owner made. `too_large`: recipes that cannot keep within `most_bytes`, with
    what they weigh. `target`: the one that is planned for, "" for none. `masks_of`: the masks of each target alone. `ordinary_screen`: the phone, in dp or points, on which a mark is looked at in front of its backdrop.
    """

    brief: Brief
    art: Mapping[tuple[Look, Role], MeasuredArt]
    masks: Mapping[Look, tuple[float, ...]]
    ordinary_screen: Size
    backdrops: Mapping[Look, Art] = field(default_factory=dict)
    files: Mapping[str, bytes] = field(default_factory=dict)
    generated: frozenset[str] = frozenset()
    made_by_others: frozenset[str] = frozenset()
    too_large: Mapping[Recipe, int] = field(default_factory=dict)
    target: str = ""
    masks_of: Mapping[str, Mapping[Look, tuple[float, ...]]] = field(default_factory=dict)

    def for_target(self, target: str) -> PlanContext:
        """Return the context for the planner of one target, whose table may give the mark another size."""
        return replace(self, target=target)

    @property
    def mark_size(self) -> float | Literal["fit"]:
        """The longer side that the mark is to have, in dp or points, or "fit"."""
        options = self.brief.options.get(self.target)
        own = options.mark_size if options is not None else None
        return own if own is not None else self.brief.layout.mark_size

    def has(self, role: Role) -> bool:
        """Whether any look shows this role."""
        return ("light", role) in self.art

    def without(self, role: Role) -> PlanContext:
        """Return the context as of a brief without one kind of art."""
        return replace(self, art={key: found for key, found in self.art.items() if key[1] != role})

    def looks(self, role: Role) -> tuple[Look, ...]:
        """Return the looks that need plates of their own for a role: none without it, only light when dark has the same art at the same size."""
        if not self.has(role):
            return ()
        light, dark = self.art[("light", role)], self.art[("dark", role)]
        is_same_size = role != "mark" or self.masks["light"] == self.masks["dark"]
        return ("light",) if light.art == dark.art and is_same_size else ("light", "dark")

    @property
    def _masked_centre(self) -> Centre:
        return self.brief.layout.centre or "circle"

    @property
    def _free_centre(self) -> Centre:
        return self.brief.layout.centre or "box"

    def _centre_of(self, look: Look) -> Centre:
        return self._masked_centre if self.brief.looks[look].disc is not None else self._free_centre

    def mark_scale(self, look: Look, mask: float | None = None) -> float:
        """Return Dp (or pt) per art unit for the mark: what the layout asks for, but never more than `mask` (its diameter) allows."""
        found, layout = self.art[look, "mark"], self.brief.layout
        reach = found.reach(self._masked_centre)
        fits = [circle_scale(reach, diameter, layout.clearance) for diameter in self.masks[look]]
        if self.mark_size != "fit":
            wanted = longer_side_scale(found.extent, self.mark_size)
        elif fits:
            wanted = min(fits)
        else:
            wanted = circle_scale(reach, UNMASKED, layout.clearance)
        return wanted if mask is None else min(wanted, circle_scale(reach, mask, layout.clearance))

    def mark_note(self, look: Look, mask: float) -> str | None:
        """Return a sentence when `mask` makes the mark smaller than the layout asks for, else None."""
        wanted, given = self.mark_scale(look), self.mark_scale(look, mask)
        if given >= wanted * (1 - 1e-9):
            return None
        longer = self.art[look, "mark"].extent.bounds.size.longer
        diameter = allowed_diameter(mask, self.brief.layout.clearance)
        return (
            f"the {look} mark is drawn {longer * given:.1f} dp long instead of {longer * wanted:.1f}: "
            f"more would leave the circle of {diameter:.1f} dp that the mask and its clearance allow"
        )

    def mark_in_circle(self, look: Look, side: float, mask: float, density: float) -> Recipe:
        """Return the mark on a square plate of `side` dp at `density` px per dp, centred in the mask."""
        found = self.art[look, "mark"]
        canvas = Size(side, side).pixels(density)
        anchor = found.anchor(self._masked_centre)
        return _centred_on(canvas, found.art, anchor, self.mark_scale(look, mask) * density)

    def fitted(self, look: Look, role: Role, frame: Size, scale: float, density: float) -> Recipe:
        """Return the visible part of a role centred on a plate of `frame` (dp or pt), at `scale` units per art unit.

        A mark on a disc is centred as under a round mask.
        """
        found = self.art[look, role]
        centre = self._centre_of(look) if role == "mark" else "box"
        return _centred_on(frame.pixels(density), found.art, found.anchor(centre), scale * density)

    def placed(self, look: Look, role: Role, scale: float, middle: Point) -> Placement:
        """Return a role at `scale` px per art unit, centred on a point of a canvas (px) as `fitted` centres it."""
        found = self.art[look, role]
        anchor = found.anchor(self._centre_of(look) if role == "mark" else "box")
        return Placement(found.art, box_round(anchor, found.art.size, scale, middle))

    def placed_in_circle(self, look: Look, diameter: float, canvas: PixelSize) -> Placement:
        """Return the mark in the middle of a canvas, as large as a circular mask of `diameter` px and its clearance allow."""
        found = self.art[look, "mark"]
        scale = circle_scale(found.reach(self._masked_centre), diameter, self.brief.layout.clearance)
        middle = Point(canvas.width / 2, canvas.height / 2)
        return Placement(found.art, box_round(found.anchor(self._masked_centre), found.art.size, scale, middle))

    def frame(self, look: Look, role: Role, scale: float) -> Size:
        """Return the size (dp or pt) of the smallest plate on which `fitted` shows the whole visible part, its anchor in the middle."""
        found = self.art[look, role]
        bounds = found.extent.bounds
        anchor = found.anchor(self._centre_of(look) if role == "mark" else "box")
        width = 2 * max(anchor.x - bounds.x, bounds.right - anchor.x)
        height = 2 * max(anchor.y - bounds.y, bounds.bottom - anchor.y)
        return Size(width, height).scaled(scale)

    def backdrop_looks(self) -> tuple[Look, ...]:
        """Return the looks that need a backdrop of their own: none without one, only light when dark would show the same."""
        light, dark = (self.backdrops.get(look) for look in LOOKS)
        if light is None:
            return ()
        grounds = {self.brief.looks[look].ground for look in LOOKS}
        shows_ground = light.may_be_transparent and len(grounds) > 1
        return ("light",) if light == dark and not shows_ground else ("light", "dark")

    def covering(self, look: Look, canvas: PixelSize, smallest: Size = WHOLE) -> Recipe:
        """Return the backdrop on a canvas: covering it, its focus as near the middle as its edges allow.

        Args:
            look: the look.
            canvas: the canvas in px.
            smallest: the share of the canvas's width and height, round its middle, that the smallest screen shows: the focus comes to
                are there too, for which the picture is enlarged by up to half.
        """
        art = self.backdrops[look]
        focus = self.brief.layout.focus
        scale = max(canvas.width / art.size.width, canvas.height / art.size.height)
        axes = list(zip(canvas, art.size, focus, smallest, strict=True))
        for side, length, share, shown in axes:
            room = min(share, 1 - share) * length
            scale = max(scale, min((1 - shown) / 2 * side / room, scale * _MOST_ENLARGED) if room > 0 else 0)
        x, y = (
            max(side - length * scale, min(0.0, side / 2 - share * length * scale)) for side, length, share, _ in axes
        )
        box = Rect(x, y, art.size.width * scale, art.size.height * scale)
        return Recipe(canvas, (Placement(art, box),), self.brief.looks[look].ground, form="jpeg")

    def imprint_scale(self, look: Look, box: Size) -> float:
        """Return units per art unit at which the visible imprint is as large as `box` allows, never stretched."""
        bounds = self.art[look, "imprint"].extent.bounds
        return contain(bounds.size, box).width / bounds.width


def _centred_on(canvas: PixelSize, art: Art, anchor: Point, scale: float) -> Recipe:
    """Art at `scale` px per art unit, its `anchor` in the middle of a canvas."""
    return Recipe(
        canvas, (Placement(art, box_round(anchor, art.size, scale, Point(canvas.width / 2, canvas.height / 2))),)
    )
