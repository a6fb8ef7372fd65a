"""Two scenes of one screen held against each other, on the device's own pixels."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from rivelt.errors import BadInput
from rivelt.review.model import Difference, Shift
from rivelt.scene.draw import draw_scene
from rivelt.scene.model import Layer, Picture, Scene, Unknown
from rivelt.units import Point, Rect
from rivelt.values import replace

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.colour import Colour
    from rivelt.pixels.pictures import Pictures

_NOTICED = 6  # of 255 in one channel: less is the noise of an edge, not a part of the mark


def is_same(before: Scene, after: Scene) -> bool:
    """Return whether two scenes are made of the same layers, whatever the files are called that these come from."""
    return before.screen == after.screen and list(_bare(before)) == list(_bare(after))


def _bare(scene: Scene) -> Iterator[Layer]:
    return (layer if isinstance(layer, Unknown) else replace(layer, source="") for layer in scene.layers)


def difference(before: Scene, after: Scene, pictures: Pictures) -> Difference | None:
    """Return how two scenes of one screen differ; None where each pixel of the device is the same."""
    first, second = (_drawn(scene, pictures) for scene in (before, after))
    moved = (first != second).any(axis=-1)
    if not moved.any():
        return None
    grounds = before.ground, after.ground
    return Difference(
        share=float(moved.mean()),
        ground=None if grounds[0] is None or grounds[1] is None else grounds[0].difference(grounds[1]),
        shift=_shift(_mark(before, first), _mark(after, second), before.screen.scale),
    )


def _drawn(scene: Scene, pictures: Pictures) -> NDArray[np.uint8]:
    try:
        return draw_scene(scene, scene.screen.scale, pictures)
    except BadInput as problem:
        return draw_scene(replace(scene, layers=(Unknown(scene.screen.frame, problem.message),)), scene.screen.scale)


def _mark(scene: Scene, drawn: NDArray[np.uint8]) -> Rect | None:
    """What is seen of the largest picture that does not fill the screen, in px; None where it does not lie on a flat ground."""
    frame = scene.screen.frame
    marks = [layer for layer in scene.pictures if not layer.rect.covers(frame)]
    ground = scene.ground
    if not marks or ground is None or any(layer.rect.covers(frame) for layer in scene.pictures):
        return _on_whole_screen(scene, drawn)
    mark = max(marks, key=_area)
    return _seen(drawn, mark.seen.intersection(frame).scaled(scene.screen.scale), ground)


def _on_whole_screen(scene: Scene, drawn: NDArray[np.uint8]) -> Rect | None:
    """What is seen on one picture that fills the screen and has one colour in its corners: a mark that is part of it."""
    pictures = list(scene.pictures)
    if len(pictures) != 1 or (corner := pictures[0].image.corner) is None:
        return None
    return _seen(drawn, scene.screen.frame.scaled(scene.screen.scale), corner)


def _area(layer: Picture) -> float:
    return layer.seen.width * layer.seen.height


def _seen(drawn: NDArray[np.uint8], area: Rect, ground: Colour) -> Rect | None:
    """The smallest rectangle, in px, that holds all of an area that is not ground; None where all of it is."""
    left, top = max(0, math.floor(area.x)), max(0, math.floor(area.y))
    part = drawn[top : math.ceil(area.bottom), left : math.ceil(area.right)]
    apart = np.abs(part[..., :3].astype(np.int16) - np.array(ground[:3], np.int16)).max(axis=-1, initial=0)
    seen = (apart > _NOTICED) & (part[..., 3] == 255)  # the corners of the screen are rounded
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if not len(rows):
        return None
    x, y = left + int(columns[0]), top + int(rows[0])
    return Rect(x, y, int(columns[-1] - columns[0]) + 1, int(rows[-1] - rows[0]) + 1)


def _shift(before: Rect | None, after: Rect | None, scale: float) -> Shift | None:
    """How a mark (px) differs, in dp or pt; less than a pixel is none. None where there is no mark, or nothing of it differs."""
    if before is None or after is None:
        return None
    moved = [
        0.0 if abs(distance) < 1 else distance / scale
        for distance in (after.centre.x - before.centre.x, after.centre.y - before.centre.y)
    ]
    grown = [after.width - before.width, after.height - before.height]
    is_as_large = all(abs(sides) <= 1 for sides in grown)
    scaled = 1.0 if is_as_large else math.sqrt(after.width * after.height / (before.width * before.height))
    return Shift(Point(*moved), scaled) if any(moved) or scaled != 1 else None
