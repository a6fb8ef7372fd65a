"""How large a mark is drawn and where it is, so that a mask cuts nothing and nothing is distorted."""

from __future__ import annotations

from rivelt.art.extent import Extent
from rivelt.units import Circle, Point, Rect, Size


def allowed_diameter(mask_diameter: float, clearance: float) -> float:
    """Return the diameter left inside a circular mask after a free ring of `clearance` x `mask_diameter` all round."""
    return mask_diameter * (1 - 2 * clearance)


def circle_scale(reach: Circle, mask_diameter: float, clearance: float) -> float:
    """Return mask units per art unit at which a circle round the visible part just fills what a circular mask allows."""
    return allowed_diameter(mask_diameter, clearance) / (2 * reach.radius)


def longer_side_scale(extent: Extent, longer_side: float) -> float:
    """Return units per art unit at which the longer side of the visible part measures `longer_side`."""
    return longer_side / extent.bounds.size.longer


def box_round(anchor: Point, art: Size, scale: float, middle: Point) -> Rect:
    """Return where the whole art is when it is scaled and its `anchor` (art units) falls on `middle`."""
    return Rect(middle.x - anchor.x * scale, middle.y - anchor.y * scale, art.width * scale, art.height * scale)
