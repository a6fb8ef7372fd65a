"""Colours: CSS text in, the notations of the platforms out, and the contrast between two of them."""

from __future__ import annotations

import re
from typing import NamedTuple

_HEX = re.compile(r"#(?:[0-9a-f]{3,4}|[0-9a-f]{6}|[0-9a-f]{8})", re.IGNORECASE)


class Colour(NamedTuple):
    """An sRGB colour, each channel 0 to 255; `alpha` 255 is opaque."""

    red: int
    green: int
    blue: int
    alpha: int = 255

    @classmethod
    def parse(cls, text: str) -> Colour:
        """Read a CSS Color 4 colour; what lies outside sRGB is brought to the nearest colour inside it.

        Raises:
            ValueError: `text` is no CSS colour; the message says so.
        """
        if _HEX.fullmatch(text.strip()):
            digits = text.strip()[1:]
            if len(digits) < 6:
                digits = "".join(digit * 2 for digit in digits)
            return cls(*bytes.fromhex(digits))
        return _parse_with_coloraide(text)

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
        """The contrast ratio to another opaque colour, 1 to 21 (WCAG 2.2, "contrast ratio")."""
        low, high = sorted((self.luminance, other.luminance))
        return (high + 0.05) / (low + 0.05)

    def over(self, ground: Colour) -> Colour:
        """What one sees when this colour lies on an opaque `ground`."""
        share = self.alpha / 255
        return Colour(
            *(round(mine * share + under * (1 - share)) for mine, under in zip(self[:3], ground[:3], strict=True))
        )


def _linear(channel: int) -> float:
    """An sRGB channel (0 to 255) as linear light (0 to 1): IEC 61966-2-1."""
    value = channel / 255
    return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4


def _parse_with_coloraide(text: str) -> Colour:
    """The CSS notations other than hex, which need a colour library."""
    from coloraide import Color

    try:
        parsed = Color(text).convert("srgb").fit()
    except (ValueError, AttributeError) as error:
        raise ValueError(f"{text!r} is not a CSS colour") from error
    channels = [*parsed.coords(nans=False), parsed.alpha(nans=False)]
    return Colour(*(round(min(max(channel, 0.0), 1.0) * 255) for channel in channels))
