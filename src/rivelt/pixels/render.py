"""`Recipe -> PNG bytes`, one at a time or many on all cores."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor, as_completed

from rivelt.pixels.canvas import draw
from rivelt.pixels.encode import PNG_EFFORT, PNG_MOST_EFFORT, jpeg, png
from rivelt.plan.model import Recipe


def render(recipe: Recipe, *, is_small: bool = False) -> bytes:
    """The plate of a recipe, as an sRGB image without metadata: opaque when the recipe has a ground, else with alpha.

    The same recipe gives the same bytes. `is_small` spends much more time on a smaller file.
    """
    import pyvips

    layers = [draw(placement.art, recipe.canvas, placement.box) for placement in recipe.placed]
    image = layers[0] if layers else pyvips.Image.black(*recipe.canvas, bands=4).copy(interpretation="srgb")
    for layer in layers[1:]:
        image = image.composite2(layer, "over").cast("uchar")
    if recipe.ground is not None:
        image = image.flatten(background=list(recipe.ground[:3]))
    if recipe.form == "jpeg":
        return jpeg(image)
    return png(image, PNG_MOST_EFFORT if is_small else PNG_EFFORT)


def render_all(
    recipes: Iterable[Recipe], *, is_small: bool = False, on_done: Callable[[], None] = lambda: None
) -> dict[Recipe, bytes]:
    """Render many recipes, each different one once, on all cores; `on_done` is called after each."""
    different = list(dict.fromkeys(recipes))
    different.sort(key=lambda recipe: -recipe.canvas.width * recipe.canvas.height)  # the long ones first
    workers = max(1, min(os.cpu_count() or 1, len(different)))
    with ThreadPoolExecutor(workers) as pool:
        futures = {pool.submit(render, recipe, is_small=is_small): recipe for recipe in different}
        rendered = {}
        for future in as_completed(futures):
            rendered[futures[future]] = future.result()
            on_done()
    return rendered
