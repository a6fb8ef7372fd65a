"""OKLCH for arrays of colours: lightness, chroma and hue as people see them.

Matrices: Björn Ottosson, "A perceptual color space for image processing" (2020), as in CSS Color 4, section 10.
All arrays have the colour channels in their last axis. sRGB is 0 to 1; L is 0 to 1; C is 0 to about 0.37; h is in radians.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB = np.linalg.inv(_TO_LAB)
_FROM_LMS = np.linalg.inv(_TO_LMS)
_GAMUT_STEPS = 24
_GAMUT_SLACK = 1e-6
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


def linear(srgb: Array) -> Array:
    """Return sRGB values as linear light (IEC 61966-2-1)."""
    return np.where(srgb <= 0.04045, srgb / 12.92, ((np.maximum(srgb, 0) + 0.055) / 1.055) ** 2.4)


def encoded(light: Array) -> Array:
    """Return linear light as sRGB (IEC 61966-2-1), values outside 0 to 1 clipped."""
    kept = np.clip(light, 0, 1)
    return np.where(kept <= 0.0031308, kept * 12.92, 1.055 * kept ** (1 / 2.4) - 0.055)


def luminance(srgb: Array) -> Array:
    """Return relative luminance, 0 to 1 (WCAG 2.2)."""
    light: Array = linear(srgb) @ _LUMINANCE
    return light


def contrast(srgb: Array, ground: Array) -> Array:
    """Return WCAG contrast ratios, 1 to 21, of colours to a ground."""
    one, other = luminance(srgb), luminance(ground)
    return (np.maximum(one, other) + 0.05) / (np.minimum(one, other) + 0.05)


def to_oklch(srgb: Array) -> Array:
    """Return sRGB colours as L, C, h."""
    lab = np.cbrt(linear(srgb) @ _TO_LMS.T) @ _TO_LAB.T
    return np.stack([lab[..., 0], np.hypot(lab[..., 1], lab[..., 2]), np.arctan2(lab[..., 2], lab[..., 1])], axis=-1)


def _to_light(lch: Array) -> Array:
    lightness, chroma, hue = np.moveaxis(lch, -1, 0)
    lab = np.stack([lightness, chroma * np.cos(hue), chroma * np.sin(hue)], axis=-1)
    return (lab @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T


def from_oklch(lch: Array) -> Array:
    """Return L, C, h as sRGB. Where sRGB has no such colour, chroma is lowered until it has: lightness and hue stay."""
    low, high = np.zeros_like(lch[..., 1]), lch[..., 1].copy()
    fits = _in_gamut(lch)
    for _ in range(_GAMUT_STEPS):
        middle = (low + high) / 2
        inside = _in_gamut(np.stack([lch[..., 0], middle, lch[..., 2]], axis=-1))
        low, high = np.where(inside, middle, low), np.where(inside, high, middle)
    chroma = np.where(fits, lch[..., 1], low)
    return encoded(_to_light(np.stack([lch[..., 0], chroma, lch[..., 2]], axis=-1)))


def _in_gamut(lch: Array) -> NDArray[np.bool_]:
    light = _to_light(lch)
    inside: NDArray[np.bool_] = np.all((light >= -_GAMUT_SLACK) & (light <= 1 + _GAMUT_SLACK), axis=-1)
    return inside
