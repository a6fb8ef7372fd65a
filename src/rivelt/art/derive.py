"""The dark mark derived from the light one: recoloured where contrast asks for it, and only as far.

Hue is kept. Lightness goes through one strictly rising curve for all colours, so that colours which differ continue differing and keep
their order. Chroma is lowered only where sRGB has no such colour.
"""

from __future__ import annotations

import re
from collections.abc import Callable

import numpy as np
from msgspec import Struct

from rivelt.art.contrast import ENOUGH
from rivelt.art.oklch import Array, contrast, from_oklch, to_oklch
from rivelt.art.svg import AttributeRewriter, rewritten
from rivelt.colour import Colour
from rivelt.patterns import regex
from rivelt.picture import Art, Attributes
from rivelt.values import replace

TARGET = ENOUGH * 1.02
"""What the curve aims at: a little more than needed, since channels are rounded to whole numbers in the end."""

DERIVED = " (derived)"
"""What the name of a derived piece of art ends with."""

_KNEE = 0.3
_BISECTIONS = 20
_PROPERTIES = r"fill|stroke|stop-color|flood-color|lighting-color|color"
_ATTRIBUTES = frozenset(_PROPERTIES.split("|"))
_DECLARATION = regex(rf"(?<![\w-])({_PROPERTIES})(\s*:\s*)([^;}}!]+)", re.IGNORECASE)
_KEEP = frozenset(
    {"none", "currentcolor", "inherit", "transparent", "context-fill", "context-stroke", "initial", "unset"}
)


class LightnessCurve(Struct, frozen=True):
    """A strictly rising curve from lightness to lightness (OKLCH L, 0 to 1): `a line from `floor` to `knee`, then the identity.

    On a light ground it is mirrored: it darkens (`is_mirrored`).
    """

    floor: float
    knee: float
    is_mirrored: bool

    @property
    def is_identity(self) -> bool:
        """Whether it moves nothing."""
        return self.floor == 0

    def __call__(self, lightness: Array) -> Array:
        """The new lightness."""
        given = 1 - lightness if self.is_mirrored else lightness
        lifted = self.floor + given * (self.knee - self.floor) / self.knee
        moved = np.where(given < self.knee, lifted, given)
        return 1 - moved if self.is_mirrored else moved


def curve_for(palette: Array, ground: Colour) -> LightnessCurve:
    """Return the gentlest curve under which all colours of a palette stand out from a ground.

    Args:
        palette: the colours of the mark's outline, n x 3, sRGB, 0 to 1.
        ground: the opaque colour that they meet.
    """
    behind = np.array(ground[:3]) / 255
    white, black = contrast(np.ones((1, 3)), behind)[0], contrast(np.zeros((1, 3)), behind)[0]
    is_mirrored = bool(black > white)  # one of the two always reaches 4.5
    lch = to_oklch(palette)

    def reaches(floor: float) -> bool:
        moved = recoloured_lch(lch, _curve(floor, is_mirrored=is_mirrored))
        return bool((contrast(moved, behind) >= TARGET).all())

    low, high = 0.0, 1.0
    if reaches(low):
        return _curve(low, is_mirrored=is_mirrored)
    for _ in range(_BISECTIONS):
        middle = (low + high) / 2
        low, high = (low, middle) if reaches(middle) else (middle, high)
    return _curve(high, is_mirrored=is_mirrored)


def _curve(floor: float, *, is_mirrored: bool) -> LightnessCurve:
    return LightnessCurve(floor, min(1.0, floor + _KNEE), is_mirrored)


def recoloured(srgb: Array, curve: LightnessCurve) -> Array:
    """Return colours (n x 3, sRGB, 0 to 1) with their lightness moved along a curve, hue kept."""
    return recoloured_lch(to_oklch(srgb), curve)


def recoloured_lch(lch: Array, curve: LightnessCurve) -> Array:
    """Return as `recoloured`, from colours that are in OKLCH already."""
    moved = lch.copy()
    moved[..., 0] = curve(lch[..., 0])
    return from_oklch(moved)


def recoloured_svg(art: Art, curve: LightnessCurve) -> Art:
    """Return a vector with all its colours moved along a curve. It stays a vector: shapes, gradients and opacity are untouched."""
    assert art.svg is not None
    cache: dict[str, str] = {}

    def mapped(text: str) -> str:
        key = text.strip()
        if key not in cache:
            cache[key] = _mapped_text(key, curve)
        return cache[key]

    document = rewritten(art.svg, _attribute_mapper(mapped), lambda text: _mapped_css(text, mapped))
    if not any(name == "fill" for name, _ in document.attributes):  # what names no fill is black
        document = replace(document, attributes=(*document.attributes, ("fill", mapped("black"))))
    data = document.nested().encode()
    return Art(f"{art.name}{DERIVED}", "SVG", data, art.size, document)


def _attribute_mapper(mapped: Callable[[str], str]) -> AttributeRewriter:
    def rewrite(tag: str, attributes: Attributes) -> Attributes:
        changed = [
            (key, mapped(value) if key in _ATTRIBUTES else _mapped_css(value, mapped) if key == "style" else value)
            for key, value in attributes
        ]
        names = {key for key, _ in attributes}
        styled = dict(attributes).get("style", "")
        if (
            tag.rpartition(":")[2] == "stop"
            and "stop-color" not in names
            and "stop-color" not in styled
            and "class" not in names
        ):
            changed.append(("stop-color", mapped("black")))  # the default of a gradient stop
        return tuple(changed)

    return rewrite


def _mapped_css(text: str, mapped: Callable[[str], str]) -> str:
    return _DECLARATION.sub(lambda found: found[1] + found[2] + mapped(found[3]), text)


def _mapped_text(value: str, curve: LightnessCurve) -> str:
    """A paint as CSS writes it, recoloured; what is not a colour stays."""
    if value.lower() in _KEEP or value.lower().startswith("url("):
        return value
    try:
        colour = Colour.parse(value)
    except ValueError:
        return value
    srgb = recoloured(np.array([colour[:3]]) / 255, curve)[0]
    red, green, blue = (round(float(channel) * 255) for channel in srgb)
    if colour.is_opaque:
        return Colour(red, green, blue).hex
    return f"rgba({red},{green},{blue},{colour.alpha / 255:.4g})"
