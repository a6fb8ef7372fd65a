"""The launcher icon on the system's launch screen: whole, or without its background where that is like the ground.

Rules: frameworks/base, com.android.wm.shell.startingsurface.SplashscreenContentDrawer (processAdaptiveIcon, isRgbSimilarInHsv).
"""

from __future__ import annotations

import colorsys
import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.scene.model import Fill, Layer, Picture, Scene, Screen, Unknown
from rivelt.units import Rect
from rivelt.values import replace

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

_SAMPLED = 48  # px of a side: what the colours of a layer are counted on
_ALIKE = 24  # of 255: colours nearer than this are one, as the platform counts few of them
_LEAST_CONTRAST = 2.0
_LEAST_APART = 0.1  # in hue, saturation and value
_SMALL_FOREGROUND = (72 / 108) ** 2  # of the layer's pixels


class IconLook(Struct, frozen=True):
    """How an adaptive icon is shown: with its background or without, and how much larger than with it."""

    has_background: bool
    scale: float = 1.0


def icon_look(
    background: Sequence[Layer], foreground: Sequence[Layer], frame: Rect, ground: Colour, enlarged: float
) -> IconLook:
    """Return how the system shows an adaptive icon on a ground.

    Args:
        background: its layer behind, uncut.
        foreground: its layer before that, uncut.
        frame: where the layers are.
        ground: the screen's colour.
        enlarged: how much larger a foreground of few pixels is shown alone.
    """
    flat = _flat_colour(background, frame)
    if flat is None:
        return IconLook(has_background=True)
    if not _is_similar(ground, flat):
        is_grey = max(flat[:3]) - min(flat[:3]) <= _ALIKE // 2
        main = _main_colour(foreground, frame) if is_grey else None
        if main is None or _is_similar(ground, main):
            return IconLook(has_background=True)
    share = float((_pixels(foreground, frame)[..., 3] > 0).mean())
    return IconLook(has_background=False, scale=enlarged if share < _SMALL_FOREGROUND else 1.0)


def _flat_colour(layers: Sequence[Layer], frame: Rect) -> Colour | None:
    """The one colour of some layers; None where they have several, are not opaque, or are unknown."""
    if len(layers) == 1 and isinstance(layers[0], Fill) and layers[0].rect == frame:
        return layers[0].colour if layers[0].colour.alpha == 255 else None
    if not layers or any(isinstance(layer, Unknown) for layer in layers):
        return None
    pixels = _pixels(layers, frame).reshape(-1, 4)
    if (pixels[:, 3] < 255).any() or int((pixels.max(axis=0) - pixels.min(axis=0)).max()) > _ALIKE:
        return None
    return Colour(*(int(channel) for channel in pixels.mean(axis=0).round()))


def _main_colour(layers: Sequence[Layer], frame: Rect) -> Colour | None:
    """The colour that most of the visible pixels have; None where nothing is visible."""
    import numpy as np

    pixels = _pixels(layers, frame).reshape(-1, 4)
    visible = pixels[pixels[:, 3] > 127][:, :3]
    if not len(visible):
        return None
    buckets, where, counts = np.unique(visible // _ALIKE, axis=0, return_inverse=True, return_counts=True)
    assert len(buckets)
    most = visible[where.reshape(-1) == counts.argmax()].mean(axis=0).round()
    return Colour(*(int(channel) for channel in most))


def _pixels(layers: Sequence[Layer], frame: Rect) -> NDArray[np.uint8]:
    """Layers drawn small, with alpha."""
    from rivelt.scene.draw import draw_scene

    screen = Screen("android", "", "", frame.width, frame.height, 1, 0)
    moved: list[Layer] = []
    for layer in layers:
        rect = Rect(layer.rect.x - frame.x, layer.rect.y - frame.y, *layer.rect.size)
        moved.append(replace(layer, rect=rect, clip=None) if isinstance(layer, Picture) else replace(layer, rect=rect))
    return draw_scene(Scene(screen, "light", tuple(moved), ""), _SAMPLED / frame.width)


def _is_similar(one: Colour, other: Colour) -> bool:
    """Whether the system takes two colours for alike: little contrast, or near in hue, saturation and value."""
    if one[:3] == other[:3] or one.contrast(other) < _LEAST_CONTRAST:
        return True
    (h1, s1, v1), (h2, s2, v2) = (colorsys.rgb_to_hsv(*(part / 255 for part in colour[:3])) for colour in (one, other))
    turn = abs((abs(h1 - h2) * 360 + 180) % 360 - 180) / 180
    return math.sqrt((turn**2 + (s1 - s2) ** 2 + (v1 - v2) ** 2) / 3) < _LEAST_APART
