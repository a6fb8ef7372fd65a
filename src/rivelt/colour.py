"""Colours: CSS text in, the notations of the platforms out, and the contrast between two of them."""

from __future__ import annotations

import math
import re
from typing import NamedTuple

from rivelt.patterns import regex

_HEX = regex(r"#(?:[0-9a-f]{3,4}|[0-9a-f]{6}|[0-9a-f]{8})", re.IGNORECASE)


class Colour(NamedTuple):
    """An sRGB colour, each channel 0 to 255; `alpha` 255 is opaque."""

    red: int
    green: int
    blue: int
    alpha: int = 255

    @classmethod
    def parse(cls, text: str) -> Colour:
        """Read a CSS Color 4 colour; what is outside sRGB is brought to the nearest colour inside it.

        Raises:
            ValueError: `text` is not a CSS colour; the message says so.
        """
        if _HEX.fullmatch(text.strip()):
            digits = text.strip()[1:]
            if len(digits) < 6:
                digits = "".join(digit * 2 for digit in digits)
            return cls(*bytes.fromhex(digits))
        return _parse_common(text) or _parse_with_coloraide(text)

    @property
    def hex(self) -> str:
        """`#RRGGBB`, or `#RRGGBBAA` when not opaque."""
        shown = self if self.alpha < 255 else self[:3]
        return "#" + "".join(f"{channel:02X}" for channel in shown)

    @property
    def android(self) -> str:
        """`#AARRGGBB`, the notation of Android's XML."""
        return "#" + "".join(f"{channel:02X}" for channel in (self.alpha, *self[:3]))

    @property
    def is_opaque(self) -> bool:
        """Whether nothing behind it shows through."""
        return self.alpha == 255

    @property
    def luminance(self) -> float:
        """Relative luminance, 0 (black) to 1 (white), alpha left aside (WCAG 2.2, "relative luminance")."""
        red, green, blue = (_linear(channel) for channel in self[:3])
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    def contrast(self, other: Colour) -> float:
        """Return the contrast ratio to another opaque colour, 1 to 21 (WCAG 2.2, "contrast ratio")."""
        low, high = sorted((self.luminance, other.luminance))
        return (high + 0.05) / (low + 0.05)

    def difference(self, other: Colour) -> float:
        """Return how different two opaque colours look: CIEDE2000 (CIE 142-2001), 0 for equal ones, about 1 for what is just seen.

        As Sharma, Wu and Dalal have it (2005, "The CIEDE2000 Color-Difference Formula: Implementation Notes"), for the white of D65.
        """
        return _ciede2000(_lab(self), _lab(other))

    def over(self, ground: Colour) -> Colour:
        """Return what one sees when this colour is on an opaque `ground`."""
        share = self.alpha / 255
        return Colour(
            *(round(mine * share + under * (1 - share)) for mine, under in zip(self[:3], ground[:3], strict=True))
        )


def _linear(channel: int) -> float:
    """An sRGB channel (0 to 255) as linear light (0 to 1): IEC 61966-2-1."""
    value = channel / 255
    return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4


def _lab(colour: Colour) -> tuple[float, float, float]:
    """CIELAB for D65 (CIE 15:2018), from linear light by the matrix of IEC 61966-2-1 as CSS Color 4 gives it."""
    red, green, blue = (_linear(channel) for channel in colour[:3])
    x = 0.41239079926595934 * red + 0.357584339383878 * green + 0.1804807884018343 * blue
    y = 0.21263900587151027 * red + 0.715168678767756 * green + 0.07219231536073371 * blue
    z = 0.01933081871559182 * red + 0.11919477979462598 * green + 0.9505321522496607 * blue
    white = (0.3127 / 0.3290, 1.0, (1 - 0.3127 - 0.3290) / 0.3290)
    fx, fy, fz = (
        value ** (1 / 3) if value > 216 / 24389 else (24389 / 27 * value + 16) / 116
        for value in (part / whole for part, whole in zip((x, y, z), white, strict=True))
    )
    return 116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)


def _ciede2000(one: tuple[float, float, float], other: tuple[float, float, float]) -> float:
    (l1, a1, b1), (l2, a2, b2) = one, other
    grey = 0.5 * (1 - _saturation((math.hypot(a1, b1) + math.hypot(a2, b2)) / 2))
    a1, a2 = a1 * (1 + grey), a2 * (1 + grey)
    c1, c2 = math.hypot(a1, b1), math.hypot(a2, b2)
    h1, h2 = (math.degrees(math.atan2(b, a)) % 360 for a, b in ((a1, b1), (a2, b2)))
    turn = (h2 - h1 + 180) % 360 - 180 if c1 * c2 else 0.0
    if turn == -180:
        turn = 180.0
    lightness, chroma = (l1 + l2) / 2, (c1 + c2) / 2
    hue = h1 + h2
    if c1 * c2:
        hue = hue / 2 if abs(h1 - h2) <= 180 else (hue + 360) / 2 if hue < 360 else (hue - 360) / 2
    t = sum(
        share * math.cos(math.radians(times * hue + turned))
        for share, times, turned in ((1, 0, 0), (-0.17, 1, -30), (0.24, 2, 0), (0.32, 3, 6), (-0.20, 4, -63))
    )
    deviation = (lightness - 50) ** 2
    l_part = (l2 - l1) / (1 + 0.015 * deviation / math.sqrt(20 + deviation))
    c_part = (c2 - c1) / (1 + 0.045 * chroma)
    h_part = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(turn / 2)) / (1 + 0.015 * chroma * t)
    rotation = -2 * _saturation(chroma) * math.sin(math.radians(60 * math.exp(-(((hue - 275) / 25) ** 2))))
    return math.sqrt(max(0.0, l_part**2 + c_part**2 + h_part**2 + rotation * c_part * h_part))


def _saturation(chroma: float) -> float:
    return math.sqrt(chroma**7 / (chroma**7 + 25**7))


def _parse_common(text: str) -> Colour | None:
    """The notations for sRGB: names, rgb(), hsl() and hwb(); None for all others. A colour library takes four times as long to load."""
    from tinycss2.color4 import parse_color

    found = parse_color(text)
    if found is None or isinstance(found, str) or found.space not in {"srgb", "hsl", "hwb"}:
        return None
    if ("(" in text and not text.rstrip().endswith(")")) or (found.space == "hwb" and "," in text):
        return None  # that parser takes more than CSS does
    channels = (*found.to("srgb").coordinates, found.alpha)
    return Colour(*(round(min(max(channel or 0.0, 0.0), 1.0) * 255) for channel in channels))


def _parse_with_coloraide(text: str) -> Colour:
    """The CSS notations other than hex, which need a colour library."""
    from coloraide import Color

    try:
        parsed = Color(text).convert("srgb").fit()
    except (ValueError, AttributeError) as error:
        raise ValueError(f"{text!r} is not a CSS colour") from error
    channels = [*parsed.coords(nans=False), parsed.alpha(nans=False)]
    return Colour(*(round(min(max(channel, 0.0), 1.0) * 255) for channel in channels))
