"""`Recipe -> image bytes`, one at a time or many on all cores."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor, as_completed
from typing import TYPE_CHECKING

from rivelt.colour import Colour
from rivelt.cores import threads
from rivelt.picture import Art
from rivelt.pixels.canvas import draw
from rivelt.pixels.drawings import Draw, Drawing, Drawings
from rivelt.pixels.encode import flat_png, jpeg, photograph_png, png, smaller_png, webp
from rivelt.pixels.ink import inked
from rivelt.plan.model import Placement, Recipe
from rivelt.units import PixelSize, Rect, round_half_up
from rivelt.values import replace

if TYPE_CHECKING:
    import pyvips

_PHOTOGRAPH_SHARE = 0.5  # of the canvas: a bitmap covering more than this makes a plate a photograph


def render(recipe: Recipe, *, is_small: bool = False, draw: Draw = draw) -> bytes:
    """Return the plate of a recipe, as an sRGB image without metadata: opaque when the recipe has a ground, else with alpha.

    The same recipe gives the same bytes. `is_small` spends much more time on a smaller file. A file heavier than the recipe allows
    is the lightest that could be made without a visible loss. `draw` draws the art, as `rivelt.pixels.canvas.draw` does.
    """
    is_photograph = any(_is_photograph(placement, recipe.canvas) for placement in recipe.placed)
    limit = math.inf if recipe.most_bytes is None else recipe.most_bytes
    is_drawing = not is_photograph and not any(_may_hold_photograph(placement.art) for placement in recipe.placed)
    if recipe.ground is not None and recipe.form == "png" and is_drawing:
        flat = flat_png(recipe.canvas, recipe.ground, list(_parts(recipe, recipe.ground, draw)), is_small=is_small)
        if len(flat) <= limit:
            return flat
    image = unencoded(recipe, draw)
    if recipe.form == "jpeg":
        return jpeg(image)
    if recipe.form != "png":
        return webp(image, may_be_lossy=recipe.form == "lossy-webp", is_small=is_small)
    if is_drawing:
        data = png(image, is_small=is_small)
    else:  # which of the two a picture in a drawing is, shows only when both are made
        data = (
            photograph_png(image)
            if is_photograph
            else min(png(image, is_small=is_small), photograph_png(image), key=len)
        )
    return data if len(data) <= limit else smaller_png(image, data, int(limit))


def unencoded(recipe: Recipe, draw: Draw = draw) -> pyvips.Image:
    """Return the pixels that a lossless plate of a recipe holds: opaque (3 bands) when the recipe has a ground, else with alpha."""
    if recipe.ground is not None:
        return _on_ground(recipe, recipe.ground, draw)
    return _layers(recipe, *_whole_canvas(recipe), draw)


def render_all(
    recipes: Iterable[Recipe], *, is_small: bool = False, on_done: Callable[[], None] = lambda: None
) -> dict[Recipe, bytes]:
    """Render many recipes, each different one once, on all cores; `on_done` is called after each."""
    different = list(dict.fromkeys(recipes))
    different.sort(key=lambda recipe: -recipe.canvas.width * recipe.canvas.height)  # the long ones first
    workers = max(1, min(threads(), len(different)))
    drawings = Drawings(drawing for recipe in different for drawing in drawings_of(recipe))
    with ThreadPoolExecutor(workers) as pool:
        futures = {pool.submit(render, recipe, is_small=is_small, draw=drawings.draw): recipe for recipe in different}
        rendered = {}
        for future in as_completed(futures):
            rendered[futures[future]] = future.result()
            on_done()
    return rendered


def drawn_small(recipe: Recipe, longer: int) -> pyvips.Image:
    """Return the plate of a recipe as an sRGB image with alpha whose longer side is `longer` px; never enlarged."""
    scale = min(1.0, longer / max(recipe.canvas))
    placed = tuple(replace(placement, box=placement.box.scaled(scale)) for placement in recipe.placed)
    canvas = PixelSize(*(max(1, round_half_up(side * scale)) for side in recipe.canvas))
    small = replace(recipe, canvas=canvas, placed=placed)
    image = unencoded(small)
    return (image if image.hasalpha() else image.addalpha()).copy_memory()


def drawings_of(recipe: Recipe) -> Iterator[Drawing]:
    """Return what is drawn for a plate."""
    windows = [_whole_canvas(recipe)] if recipe.ground is None else _windows(recipe)
    return (drawing for window, placed in windows for drawing in _drawings_in(window, placed))


def _drawings_in(window: Rect, placed: Iterable[Placement]) -> Iterator[Drawing]:
    """What is drawn in a window of a canvas (whole px)."""
    x, y, width, height = window
    for art, box in ((placement.art, placement.box) for placement in placed):
        yield art, PixelSize(int(width), int(height)), Rect(box.x - x, box.y - y, box.width, box.height)


def _whole_canvas(recipe: Recipe) -> tuple[Rect, tuple[Placement, ...]]:
    return Rect(0, 0, *recipe.canvas), recipe.placed


def _layers(recipe: Recipe, window: Rect, placed: Iterable[Placement], draw: Draw) -> pyvips.Image:
    """Art composited on a transparent window of a canvas (whole px)."""
    import pyvips

    layers = [draw(*drawing) for drawing in _drawings_in(window, placed)]
    if recipe.ink is not None:
        layers = [inked(layer, recipe.ink) for layer in layers]
    blank = pyvips.Image.black(int(window.width), int(window.height), bands=4)
    image = layers[0] if layers else blank.copy(interpretation="srgb")
    for layer in layers[1:]:
        image = image.composite2(layer, "over").cast("uchar")
    return image


def _on_ground(recipe: Recipe, ground: Colour, draw: Draw) -> pyvips.Image:
    """An opaque image."""
    import pyvips

    dot = pyvips.Image.black(1, 1, bands=3) + list(ground[:3])
    image = dot.cast("uchar").copy(interpretation="srgb").embed(0, 0, *recipe.canvas, extend="copy")
    for part, x, y in _parts(recipe, ground, draw):
        image = image.insert(part, x, y)
    return image.copy_memory()


def _parts(recipe: Recipe, ground: Colour, draw: Draw) -> Iterator[tuple[pyvips.Image, int, int]]:
    """The parts of an opaque image that are not just ground, each with its place."""
    for window, placed in _windows(recipe):
        yield _layers(recipe, window, placed, draw).flatten(background=list(ground[:3])), int(window.x), int(window.y)


def _windows(recipe: Recipe) -> list[tuple[Rect, tuple[Placement, ...]]]:
    """The parts of the canvas, in whole px, that art is on; pieces of art that overlap share a part."""
    parts: list[tuple[Rect, tuple[Placement, ...]]] = []
    for placement in recipe.placed:
        window = _whole(placement.box, recipe.canvas)
        if window.width <= 0 or window.height <= 0:
            continue
        together = [part for part in parts if part[0].overlaps(window)]
        for rect, _ in together:
            window = window.union(rect)
        parts = [part for part in parts if part not in together]
        parts.append((window, (*(item for _, group in together for item in group), placement)))
    return parts


def _whole(box: Rect, canvas: PixelSize) -> Rect:
    """The pixels that a box touches, with one more all round for soft edges, inside the canvas."""
    x, y = max(0, math.floor(box.x) - 1), max(0, math.floor(box.y) - 1)
    right, bottom = min(canvas.width, math.ceil(box.right) + 1), min(canvas.height, math.ceil(box.bottom) + 1)
    return Rect(x, y, right - x, bottom - y)


def _may_hold_photograph(art: Art) -> bool:
    """Whether a drawing holds a picture."""
    return art.svg is not None and "image" in art.svg.tags


def _is_photograph(placement: Placement, canvas: PixelSize) -> bool:
    covered = placement.box.width * placement.box.height
    return placement.art.svg is None and covered > _PHOTOGRAPH_SHARE * canvas.width * canvas.height
