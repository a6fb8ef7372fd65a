"""Scenes drawn on all cores, and what all of them show of a backdrop."""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from typing import TYPE_CHECKING

import msgspec

from rivelt.cores import threads
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.pixels.pictures import Pictures
from rivelt.progress import Progress
from rivelt.scene.draw import draw_scene
from rivelt.scene.model import Layer, Picture, Scene, Unknown
from rivelt.units import Rect
from rivelt.values import replace

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


def drawn(
    scenes: Sequence[Scene], scale: float, pictures: Pictures | None, on_progress: Progress
) -> Iterator[tuple[int, NDArray[np.uint8]]]:
    """Return an iterator over each scene's place among all, and the scene as `draw_scene` gives it at `scale` px per dp or pt, as they are done.

    `on_progress` is called with how far that is.
    """
    return drawn_at([(scene, scale) for scene in scenes], pictures, on_progress)


def drawn_at(
    scenes: Sequence[tuple[Scene, float]], pictures: Pictures | None, on_progress: Progress
) -> Iterator[tuple[int, NDArray[np.uint8]]]:
    """Yield the same of scenes that each have a scale of their own."""
    pictures = pictures or Pictures()
    with ThreadPoolExecutor(threads()) as pool:
        futures = {
            pool.submit(drawn_scene, scene, scale, pictures): index for index, (scene, scale) in enumerate(scenes)
        }
        for done, future in enumerate(as_completed(list(futures)), start=1):
            yield futures.pop(future), future.result()
            on_progress(done, len(scenes))


def drawn_scene(scene: Scene, scale: float, pictures: Pictures) -> NDArray[np.uint8]:
    """Return a scene as `draw_scene` does, or a hatched screen where a file of it turns out to be broken when it is decoded."""
    try:
        key = scene.screen, tuple(map(_key, scene.layers)), scale
        return pictures.once(key, lambda: draw_scene(scene, scale, pictures))
    except BadInput as problem:
        return draw_scene(replace(scene, layers=(Unknown(scene.screen.frame, problem.message),)), scale)


def _key(layer: Layer) -> Hashable:
    """What makes two layers look the same, with the content of an image in its place."""
    if not isinstance(layer, Picture):
        return layer
    return tuple(part.key if isinstance(part, ImageFile) else part for part in msgspec.structs.astuple(layer))


def common_windows(scenes: Sequence[Scene]) -> Mapping[int, Rect]:
    """For each scene (by its `id`) with a picture that covers the screen, the part of the screen whose picture all such scenes show.

    Scenes are compared that show the same file: of a picture cut for several classes of screens, those of one class.
    """
    by_file: dict[str, list[tuple[Scene, Picture]]] = {}
    for scene in scenes:
        backdrop = next(
            (layer for layer in scene.layers if isinstance(layer, Picture) and layer.rect.covers(scene.screen.frame)),
            None,
        )
        if backdrop is not None:
            by_file.setdefault(backdrop.source, []).append((scene, backdrop))
    windows: dict[int, Rect] = {}
    for shown in by_file.values():
        shares = [_share(scene.screen.frame, backdrop.rect) for scene, backdrop in shown]
        left, top = max(share.x for share in shares), max(share.y for share in shares)
        right, bottom = min(share.right for share in shares), min(share.bottom for share in shares)
        for scene, backdrop in shown:
            x, y, width, height = backdrop.rect
            windows[id(scene)] = Rect(
                x + left * width, y + top * height, (right - left) * width, (bottom - top) * height
            )
    return windows


def _share(frame: Rect, rect: Rect) -> Rect:
    """The part of a picture, in shares of its sides, that a screen shows of it."""
    return Rect(
        (frame.x - rect.x) / rect.width,
        (frame.y - rect.y) / rect.height,
        frame.width / rect.width,
        frame.height / rect.height,
    )
