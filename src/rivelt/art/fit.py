"""How large a mark is drawn and where it lies, so that a mask cuts nothing and nothing is distorted."""

from __future__ import annotations

from rivelt.art.extent import Extent
from rivelt.units import Circle, Point, Rect, Size


def allowed_diameter(mask_diameter: float, clearance: float) -> float:
    """The diameter left inside a circular mask after a free ring of `clearance` x `mask_diameter` all round."""
    return mask_diameter * (1 - 2 * clearance)


def circle_scale(extent: Extent, mask_diameter: float, clearance: float) -> float:
    """Mask units per art unit at which the visible part just touches the allowed ring of a circular mask."""
    return allowed_diameter(mask_diameter, clearance) / (2 * extent.circle.radius)


def longer_side_scale(extent: Extent, longer_side: float) -> float:
    """Units per art unit at which the longer side of the visible part measures `longer_side`."""
    return longer_side / extent.bounds.size.longer


def box_with_circle_at(circle: Circle, art: Size, scale: float, centre: Point) -> Rect:
    """Where the whole art lies when it is scaled and the centre of its enclosing `circle` falls on `centre`."""
    x, y = centre.x - circle.centre.x * scale, centre.y - circle.centre.y * scale
    return Rect(x, y, art.width * scale, art.height * scale)


def box_with_bounds_in(bounds: Rect, art: Size, scale: float, frame: Rect) -> Rect:
    """Where the whole art lies when it is scaled and the middle of its visible `bounds` falls on that of `frame`."""
    x, y = frame.centre.x - bounds.centre.x * scale, frame.centre.y - bounds.centre.y * scale
    return Rect(x, y, art.width * scale, art.height * scale)
