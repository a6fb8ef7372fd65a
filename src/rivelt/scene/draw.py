"""A scene as an image: what the screen shows, at any scale."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.picture import SVG_NAMESPACE
from rivelt.pixels.canvas import draw, fill
from rivelt.pixels.compose import lay_over, times_share
from rivelt.pixels.pictures import Pictures
from rivelt.pixels.type import text_svg
from rivelt.scene.model import Fill, Layer, Picture, Scene, TextBox, Tile, TileMode, Unknown
from rivelt.units import Circle, PixelSize, Rect, round_half_up

if TYPE_CHECKING:
    from numpy.typing import NDArray

HATCH_PAPER = "#E9E4D9"
HATCH_INK = "#B9AF9C"


def draw_scene(scene: Scene, scale: float, pictures: Pictures | None = None) -> NDArray[np.uint8]:
    """Return the screen of a scene: height x width x 4 in sRGB with straight alpha; outside its rounded corners nothing is drawn.

    Args:
        scene: what is shown.
        scale: px per dp or pt.
        pictures: what decodes its bitmaps and keeps them.

    Raises:
        BadInput: a file of it turns out to be broken when it is decoded.
    """
    pictures = pictures or Pictures()
    size = PixelSize(round_half_up(scene.screen.width * scale), round_half_up(scene.screen.height * scale))
    screen = np.zeros((size.height, size.width, 4), np.uint8)
    for layer in scene.layers:
        _draw(screen, layer, scale, pictures)
    _round_off(screen, scene.screen.corner * scale, pictures)
    return screen


def _draw(screen: NDArray[np.uint8], layer: Layer, scale: float, pictures: Pictures) -> None:
    """Lay one layer over what is drawn of a screen."""
    match layer:
        case Picture():
            _draw_picture(screen, layer, scale, pictures)
        case Fill(rect=rect, colour=colour, is_round=is_round):
            area = rect.scaled(scale)
            if not is_round and _fills(area, screen):
                if colour.is_opaque:
                    fill(screen, colour)
                    return
                lay_over(screen, np.broadcast_to(np.array(colour, np.uint8), screen.shape), 0, 0)
                return
            radius = f'rx="{area.width / 2}" ry="{area.height / 2}" ' if is_round else ""
            _draw_shape(screen, _rect(area, radius + _paint(colour)), area, pictures)
        case TextBox(rect=rect, font_size=font_size):
            area, tall = rect.scaled(scale), font_size * scale  # letters may be larger than their frame
            room = Rect(0, area.y - tall, screen.shape[1], area.height + 2 * tall)
            _draw_shape(screen, _text_box(layer, scale), room, pictures)
        case Unknown(rect=rect):
            _draw_shape(screen, _hatched(layer, scale), rect.scaled(scale), pictures)


def _draw_picture(screen: NDArray[np.uint8], layer: Picture, scale: float, pictures: Pictures) -> None:
    rect = layer.rect.scaled(scale)
    if layer.image.is_vector:
        window = _window(rect, screen)
        if window is None:
            return
        # A mirrored picture is drawn as it is where it would be without the mirror, and turned round then.
        drawn = Rect(2 * window.x + window.width - rect.right, *rect[1:]) if layer.is_mirrored else rect
        box = Rect(drawn.x - window.x, drawn.y - window.y, *rect.size)
        image = draw(
            pictures.vector(layer.image, read_art), PixelSize(int(window.width), int(window.height)), box
        ).numpy()
        x, y = int(window.x), int(window.y)
    else:
        one = Rect(0, 0, *layer.tile.size).scaled(scale) if layer.tile else rect
        image = pictures.at(layer.image, PixelSize(max(1, round_half_up(one.width)), max(1, round_half_up(one.height))))
        x, y = round_half_up(rect.x), round_half_up(rect.y)
    image = _painted(layer, image[:, ::-1] if layer.is_mirrored else image)
    clip: Circle | Rect | None = layer.clip
    if layer.tile is not None:
        image, x, y, clip = _tiled(image, layer.tile, screen), 0, 0, layer.rect
    lay_over(screen, _clipped(image, x, y, clip, screen, scale, pictures), x, y)


def _window(rect: Rect, screen: NDArray[np.uint8]) -> Rect | None:
    """The whole pixels of a screen that a rectangle touches; None for none."""
    left, top = max(0, math.floor(rect.x)), max(0, math.floor(rect.y))
    right, bottom = min(screen.shape[1], math.ceil(rect.right)), min(screen.shape[0], math.ceil(rect.bottom))
    return Rect(left, top, right - left, bottom - top) if left < right and top < bottom else None


def _draw_shape(screen: NDArray[np.uint8], shape: str, area: Rect, pictures: Pictures) -> None:
    """Lay an SVG shape (in px of the screen) over a screen; `area`: where it is at most."""
    window = _window(area, screen)
    if window is not None:
        lay_over(screen, _shape(shape, window, pictures), int(window.x), int(window.y))


def _shape(shape: str, window: Rect, pictures: Pictures) -> NDArray[np.uint8]:
    """An SVG shape, drawn in a window of the canvas that it is made for."""
    size = PixelSize(int(window.width), int(window.height))
    view = f'viewBox="{int(window.x)} {int(window.y)} {size.width} {size.height}"'
    svg = f'<svg xmlns="{SVG_NAMESPACE}" width="{size.width}" height="{size.height}" {view}>{shape}</svg>'
    return pictures.shape(svg, size)


def _tiled(image: NDArray[np.uint8], tile: Tile, screen: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """An image that fills a screen from its corner on, as its modes say."""
    down = _tile_index(tile.down, image.shape[0], screen.shape[0])
    return image[down][:, _tile_index(tile.across, image.shape[1], screen.shape[1])]


def _tile_index(mode: TileMode, side: int, wanted: int) -> NDArray[np.intp]:
    """Which row or column of an image each one of a larger area shows."""
    index = np.arange(wanted)
    if mode == "clamp":
        return np.minimum(index, side - 1)
    if mode == "repeat":
        return index % side
    turned = index % (2 * side)
    return np.minimum(turned, 2 * side - 1 - turned)


def _painted(layer: Picture, image: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The image in the one colour that it is tinted with, and as far as it is opaque."""
    if layer.tint is None and layer.opacity == 1:
        return image
    painted = image.copy()
    if layer.tint is not None:
        painted[..., :3] = layer.tint[:3]
    share = layer.opacity * (layer.tint.alpha / 255 if layer.tint else 1)
    painted[..., 3] = np.rint(image[..., 3] * share)
    return painted


def _clipped(
    image: NDArray[np.uint8],
    x: int,
    y: int,
    clip: Circle | Rect | None,
    screen: NDArray[np.uint8],
    scale: float,
    pictures: Pictures,
) -> NDArray[np.uint8]:
    """The image, which is at `x`, `y` on a screen, without what is outside a clip."""
    if clip is None:
        return image
    if isinstance(clip, Circle):
        centre, radius = clip.centre, clip.radius * scale
        shape = f'<circle cx="{centre.x * scale}" cy="{centre.y * scale}" r="{radius}"/>'
    else:
        if _fills(clip.scaled(scale), screen):
            return image
        shape = _rect(clip.scaled(scale), "")
    cover = _shape(shape, Rect(x, y, image.shape[1], image.shape[0]), pictures)[..., 3]
    clipped = image.copy()
    clipped[..., 3] = times_share(image[..., 3], cover)
    return clipped


def _round_off(screen: NDArray[np.uint8], radius: float, pictures: Pictures) -> None:
    """Take away what is outside the rounded corners of a screen."""
    height, width = screen.shape[:2]
    radius = min(radius, width / 2, height / 2)
    side = math.ceil(radius)
    if side <= 0:
        return
    shape = _rect(Rect(0, 0, 4 * side, 4 * side), f'rx="{radius}"')
    cover = _shape(shape, Rect(0, 0, side, side), pictures)[..., 3]
    for rows, turned in ((slice(0, side), cover), (slice(height - side, height), cover[::-1])):
        for columns, corner in ((slice(0, side), turned), (slice(width - side, width), turned[:, ::-1])):
            screen[rows, columns, 3] = times_share(screen[rows, columns, 3], corner)


def _fills(rect: Rect, screen: NDArray[np.uint8]) -> bool:
    """Whether a rectangle holds a whole screen to within half a pixel, so that nothing need be cut."""
    return rect.covers(Rect(0, 0, screen.shape[1], screen.shape[0]), 0.5)


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
