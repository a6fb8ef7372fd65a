"""The launch storyboard, and the screen of the app's own first moment that equals it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from rivelt.layout.context import PlanContext
from rivelt.platforms.ios.facts import design_screen, ios_facts
from rivelt.platforms.ios.make.ground import GroundForm
from rivelt.platforms.ios.make.plates import ImageSet
from rivelt.platforms.ios.options import IosTable
from rivelt.platforms.ios.site import Names
from rivelt.templating import Templates
from rivelt.units import Rect, Size, centred

_TEMPLATES = Templates("rivelt.platforms.ios")
_GAP = 16
"""Points between the mark (or its disc) and the activity indicator."""

_INDICATOR = 20
"""The side of the activity indicator, in points."""

_APART = 8
"""Points that at least stay free between the mark and the imprint: on a low screen the imprint gets smaller."""

_IDS = {"Disc": "rvl-dc", "Mark": "rvl-mk"}


def storyboard(
    context: PlanContext,
    options: IosTable,
    names: Names,
    sets: Sequence[ImageSet],
    ground: GroundForm,
    *,
    waiting: bool,
) -> str:
    """Return a storyboard of one screen: ground, backdrop, disc, mark and imprint, placed by constraints.

    With `waiting` it is not a launch screen, and has an activity indicator under the mark.
    """
    values = _values(context, options, names, sets)
    return _TEMPLATES.render("screen.storyboard.j2", **values, shown=ground, waiting=waiting)


def swift_view(context: PlanContext, options: IosTable, names: Names, sets: Sequence[ImageSet]) -> str:
    """Return the same as a SwiftUI view."""
    has_pad = options.pad_scale != 1
    return _TEMPLATES.render(
        "waiting.swift.j2", **_values(context, options, names, sets), name=names.waiting, has_pad=has_pad
    )


def _values(context: PlanContext, options: IosTable, names: Names, sets: Sequence[ImageSet]) -> dict[str, Any]:
    by_part = {found.part: found for found in sets}
    imprint = by_part.get("Imprint")
    foot = ios_facts().imprint.foot
    canvas, safe_bottom = design_screen().frame, design_screen().bottom
    ground = context.brief.looks["light"].ground
    middle = [_view(by_part[part], options) for part in _IDS if part in by_part]
    corner = None
    if imprint is not None:
        size = imprint.size
        corner = Rect((canvas.width - size.width) / 2, canvas.height - safe_bottom - foot - size.height, *size)
    return {
        "backdrop": {"image": by_part["Backdrop"].name, **_whole(by_part["Backdrop"].size)}
        if "Backdrop" in by_part
        else None,
        "middle": middle,
        "imprint": {"image": imprint.name, **_whole(imprint.size), **_at(corner)} if imprint and corner else None,
        "ground_name": names.of("Ground"),
        "ground": {name: f"{getattr(ground, name) / 255:.10g}" for name in ("red", "green", "blue")},
        "foot": f"{foot:g}",
        "gap": f"{_GAP:g}",
        "apart": f"{_APART:g}",
        "below": _below(canvas, middle),
    }


def _below(canvas: Rect, middle: Sequence[Mapping[str, Any]]) -> str:
    """Where the activity indicator begins: under the mark, else in the middle, in points from the top."""
    if not middle:
        return str((canvas.height - _INDICATOR) / 2)
    return str(canvas.height / 2 + float(middle[0]["height"]) / 2 + _GAP)


def _view(found: ImageSet, options: IosTable) -> dict[str, Any]:
    larger = found.size.scaled(options.pad_scale)
    return {
        "id": _IDS[found.part],
        "image": found.name,
        **_whole(found.size),
        **_at(centred(found.size, design_screen().frame)),
        "pad": _whole(larger) if options.pad_scale != 1 else None,
    }


def _whole(size: Size) -> dict[str, str]:
    return {"width": f"{size.width:g}", "height": f"{size.height:g}"}


def _at(rect: Rect) -> dict[str, str]:
    """A frame's corner as Interface Builder writes it: with at least one decimal."""
    return {"x": str(float(rect.x)), "y": str(float(rect.y))}
