"""`Recipe -> image bytes`, one at a time or many on all cores."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor, as_completed
from typing import TYPE_CHECKING

from rivelt.colour import Colour
from rivelt.cores import threads
from rivelt.picture import Art
from rivelt.pixels.drawings import Draw, Drawing, Drawings, drawn
from rivelt.pixels.encode import flat_png, jpeg, photograph_png, png, smaller_png, webp
from rivelt.pixels.sections import Pack, Sections, compressed
from rivelt.plan.model import Placement, Recipe
from rivelt.units import PixelSize, Rect, round_half_up
from rivelt.values import replace

if TYPE_CHECKING:
    import pyvips

_PHOTOGRAPH_SHARE = 0.5  # of the canvas: a bitmap covering more than this makes a plate a photograph


def render(recipe: Recipe, *, is_small: bool = False, draw: Draw = drawn, pack: Pack = compressed) -> bytes:
    """Return the plate of a recipe, as an sRGB image without metadata: opaque when the recipe has a ground, else with alpha.

    The same recipe gives the same bytes. `is_small` spends much more time on a smaller file. A file heavier than the recipe allows
    is the lightest that could be made without a visible loss. `draw` draws its art, as `rivelt.pixels.drawings.drawn` does, and `pack`
    compresses rows, as `rivelt.pixels.sections.compressed` does.
    """
    is_photograph = any(_is_photograph(placement, recipe.canvas) for placement in recipe.placed)
    limit = math.inf if recipe.most_bytes is None else recipe.most_bytes
    is_drawing = not is_photograph and not any(_may_hold_photograph(placement.art) for placement in recipe.placed)
    if recipe.ground is not None and recipe.form == "png" and is_drawing:
        parts = [(draw(part), x, y) for part, x, y in _parts(recipe)]
        flat = flat_png(recipe.canvas, recipe.ground, parts, is_small=is_small, pack=pack)
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


def unencoded(recipe: Recipe, draw: Draw = drawn) -> pyvips.Image:
    """Return the pixels that a lossless plate of a recipe holds: opaque (3 bands) when the recipe has a ground, else with alpha."""
    if recipe.ground is not None:
        return _on_ground(recipe, recipe.ground, draw)
    return draw(_whole(recipe))


def render_all(
    recipes: Iterable[Recipe], *, is_small: bool = False, on_done: Callable[[], None] = lambda: None
) -> dict[Recipe, bytes]:
    """Render many recipes, each different one once, on all cores; `on_done` is called after each."""
    different = list(dict.fromkeys(recipes))
    different.sort(key=lambda recipe: -recipe.canvas.width * recipe.canvas.height)  # the long ones first
    workers = max(1, min(threads(), len(different)))
    drawings = Drawings(drawing for recipe in different for drawing in drawings_of(recipe))
    sections = Sections()

    def rendered_one(recipe: Recipe) -> bytes:
        return render(recipe, is_small=is_small, draw=drawings.drawn, pack=sections.packed)

    with ThreadPoolExecutor(workers) as pool:
        futures = {pool.submit(rendered_one, recipe): recipe for recipe in different}
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
    """Return what is drawn for a plate: all of a transparent one, and the parts of an opaque one that are not just ground."""
    if recipe.ground is None:
        yield _whole(recipe)
    else:
        yield from (drawing for drawing, _, _ in _parts(recipe))


def _whole(recipe: Recipe) -> Drawing:
    return Drawing(recipe.canvas, recipe.placed, recipe.ink)


def _parts(recipe: Recipe) -> Iterator[tuple[Drawing, int, int]]:
    """The parts of an opaque plate that are not just ground, each with its place (px)."""
    for window, placed in _windows(recipe):
        x, y, width, height = (int(side) for side in window)
        moved = tuple(
            replace(one, box=Rect(one.box.x - x, one.box.y - y, one.box.width, one.box.height)) for one in placed
        )
        yield Drawing(PixelSize(width, height), moved, recipe.ink, recipe.ground), x, y


def _on_ground(recipe: Recipe, ground: Colour, draw: Draw) -> pyvips.Image:
    """An opaque image."""
    import pyvips

    dot = pyvips.Image.black(1, 1, bands=3) + list(ground[:3])
    image = dot.cast("uchar").copy(interpretation="srgb").embed(0, 0, *recipe.canvas, extend="copy")
    for part, x, y in _parts(recipe):
        image = image.insert(draw(part), x, y)
    return image.copy_memory()


def _windows(recipe: Recipe) -> list[tuple[Rect, tuple[Placement, ...]]]:
    """The parts of the canvas, in whole px, that art is on; pieces of art that overlap share a part."""
    parts: list[tuple[Rect, tuple[Placement, ...]]] = []
    for placement in recipe.placed:
        window = _touched(placement.box, recipe.canvas)
        if window.width <= 0 or window.height <= 0:
            continue
        together = [part for part in parts if part[0].overlaps(window)]
        for rect, _ in together:
            window = window.union(rect)
        parts = [part for part in parts if part not in together]
        parts.append((window, (*(item for _, group in together for item in group), placement)))
    return parts


def _touched(box: Rect, canvas: PixelSize) -> Rect:
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
