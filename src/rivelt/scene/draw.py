"""A scene as an image: what the screen shows, at any scale."""

from __future__ import annotations

import pyvips

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.pixels.canvas import TRANSPARENT, decoded, draw, rasterised, resized, with_alpha
from rivelt.pixels.type import text_svg
from rivelt.scene.model import Fill, Layer, Picture, Scene, TextBox, Tile, Unknown
from rivelt.units import Circle, PixelSize, Rect, round_half_up

HATCH_PAPER = "#E9E4D9"
HATCH_INK = "#B9AF9C"


def draw_scene(scene: Scene, scale: float) -> pyvips.Image:
    """The screen of a scene at `scale` px per dp or pt, with alpha: outside its rounded corners nothing is drawn."""
    size = PixelSize(round_half_up(scene.screen.width * scale), round_half_up(scene.screen.height * scale))
    image = pyvips.Image.black(*size, bands=4).copy(interpretation="srgb")
    for layer in scene.layers:
        image = image.composite2(_drawn(layer, size, scale), "over").cast("uchar")
    corner = scene.screen.corner * scale
    shape = f'<rect width="{size.width}" height="{size.height}" rx="{corner}"/>'
    return _masked(image, shape).copy_memory()


def _drawn(layer: Layer, size: PixelSize, scale: float) -> pyvips.Image:
    match layer:
        case Picture():
            return _picture(layer, size, scale)
        case Fill(rect=rect, colour=colour, is_round=False) if _fills(rect.scaled(scale), size):
            return _flat(size, colour)
        case Fill(rect=rect, colour=colour, is_round=is_round):
            radius = f'rx="{rect.width * scale / 2}" ry="{rect.height * scale / 2}" ' if is_round else ""
            return rasterised(_svg(size, _rect(rect.scaled(scale), radius + _paint(colour))), size)
        case TextBox():
            return rasterised(_svg(size, _text_box(layer, scale)), size)
        case Unknown():
            return rasterised(_svg(size, _hatched(layer, scale)), size)


def _picture(layer: Picture, size: PixelSize, scale: float) -> pyvips.Image:
    rect = layer.rect.scaled(scale)
    if layer.image.is_vector:
        image = draw(
            read_art(layer.image.data, "vector.svg"), size, _mirrored(rect, size) if layer.is_mirrored else rect
        )
        image = image.fliphor() if layer.is_mirrored else image
        return _clipped(_painted(layer, image), layer.clip, scale)
    one = Rect(0, 0, *layer.tile.size).scaled(scale) if layer.tile else rect
    shown = PixelSize(max(1, round_half_up(one.width)), max(1, round_half_up(one.height)))
    image = _shown_at(decoded(layer.image.data), shown)
    image = _painted(layer, image.fliphor() if layer.is_mirrored else image)
    if layer.tile is not None:
        return _clipped(_tiled(image, layer.tile, size), layer.rect, scale)
    if not rect.overlaps(Rect(0, 0, *size)):
        return _flat(size, Colour(0, 0, 0, 0))
    image = image.embed(
        round_half_up(rect.x), round_half_up(rect.y), *size, extend="background", background=TRANSPARENT
    )
    return _clipped(image, layer.clip, scale)


def _shown_at(image: pyvips.Image, size: PixelSize) -> pyvips.Image:
    """A bitmap at another size; enlarged as devices do it, between four pixels each, so that it is as blurred as there."""
    if size.width < image.width or size.height < image.height or size == (image.width, image.height):
        return resized(image, size)
    larger = (
        with_alpha(image)
        .premultiply()
        .resize(size.width / image.width, vscale=size.height / image.height, kernel="linear")
    )
    return larger.unpremultiply().rint().cast("uchar").copy(interpretation="srgb")


def _mirrored(rect: Rect, size: PixelSize) -> Rect:
    """Where a rectangle lies on a canvas whose left and right are changed."""
    return Rect(size.width - rect.right, rect.y, *rect.size)


def _tiled(image: pyvips.Image, tile: Tile, size: PixelSize) -> pyvips.Image:
    """An image that fills a canvas from its corner on, as its modes say."""
    extend = {"clamp": "copy", "repeat": "repeat", "mirror": "mirror"}
    wide = image.embed(0, 0, size.width, image.height, extend=extend[tile.across])
    return wide.embed(0, 0, *size, extend=extend[tile.down])


def _painted(layer: Picture, image: pyvips.Image) -> pyvips.Image:
    """The image in the one colour that it is tinted with, and as far as it is opaque."""
    if layer.tint is None and layer.opacity == 1:
        return image
    colour = image[:3] if layer.tint is None else image[:3] * 0 + list(layer.tint[:3])
    share = layer.opacity * (layer.tint.alpha / 255 if layer.tint else 1)
    return colour.bandjoin(image[3] * share).rint().cast("uchar").copy(interpretation="srgb")


def _clipped(image: pyvips.Image, clip: Circle | Rect | None, scale: float) -> pyvips.Image:
    match clip:
        case Circle(centre=centre, radius=radius):
            return _masked(image, f'<circle cx="{centre.x * scale}" cy="{centre.y * scale}" r="{radius * scale}"/>')
        case Rect() if _fills(clip.scaled(scale), PixelSize(image.width, image.height)):
            return image
        case Rect():
            return _masked(image, _rect(clip.scaled(scale), ""))
        case _:
            return image


def _fills(rect: Rect, size: PixelSize) -> bool:
    """Whether a rectangle holds the whole image to within half a pixel, so that nothing need be cut."""
    return rect.covers(Rect(0, 0, *size), 0.5)


def _flat(size: PixelSize, colour: Colour) -> pyvips.Image:
    """An image of one colour."""
    dot = pyvips.Image.black(1, 1, bands=4) + list(colour)
    return dot.cast("uchar").copy(interpretation="srgb").embed(0, 0, *size, extend="copy")


def _masked(image: pyvips.Image, shape: str) -> pyvips.Image:
    """The image where an SVG shape is, transparent elsewhere."""
    cover = rasterised(_svg(PixelSize(image.width, image.height), shape), PixelSize(image.width, image.height))[3]
    alpha = (image[3] * cover / 255).rint().cast("uchar")
    return image[:3].bandjoin(alpha).copy(interpretation="srgb")


def _svg(size: PixelSize, content: str) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="{size.width}" height="{size.height}">{content}</svg>'


def _rect(rect: Rect, attributes: str) -> str:
    return f'<rect x="{rect.x}" y="{rect.y}" width="{rect.width}" height="{rect.height}" {attributes}/>'


def _paint(colour: Colour) -> str:
    return f'fill="rgb({colour.red},{colour.green},{colour.blue})" fill-opacity="{colour.alpha / 255}"'


def _text_box(layer: TextBox, scale: float) -> str:
    """The text in our typeface, its frame dashed: where and how large is known, the system's letters are not."""
    rect = layer.rect.scaled(scale)
    line = f'fill="none" stroke="rgb({layer.colour.red},{layer.colour.green},{layer.colour.blue})" stroke-opacity="0.5"'
    frame = _rect(rect, f'{line} stroke-width="1" stroke-dasharray="3 2"')
    baseline = rect.centre.y + layer.font_size * scale * 0.36
    text = text_svg(
        layer.text, rect.centre.x, baseline, layer.font_size * scale * 0.9, layer.colour.hex[:7], anchor="middle"
    )
    return frame + text


def _hatched(layer: Unknown, scale: float) -> str:
    rect = layer.rect.scaled(scale)
    step = 7
    pattern = (
        f'<pattern id="hatch" width="{step}" height="{step}" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
        f'<rect width="{step}" height="{step}" fill="{HATCH_PAPER}"/>'
        f'<rect width="1.4" height="{step}" fill="{HATCH_INK}"/></pattern>'
    )
    radius = min(rect.width, rect.height) / 2 if layer.is_round else 0
    return f"<defs>{pattern}</defs>" + _rect(rect, f'rx="{radius}" fill="url(#hatch)"')
