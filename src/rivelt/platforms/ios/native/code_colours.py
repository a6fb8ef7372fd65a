"""Colours as Swift and Objective-C write them: `UIColor`, and the `Color` of SwiftUI."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from rivelt.colour import Colour
from rivelt.patterns import regex
from rivelt.platforms.ios.native.colours import converted, system_colour
from rivelt.units import Look

Lookup = Callable[[str], Colour | None]

_NUMBER = r"(-?[\d.]+f?(?:\s*/\s*[\d.]+f?)?)"
_SPACES = regex(r"\s+")
_MADE = r"(?:UIColor\(|Color\(|\[UIColor colorWith|\[\[UIColor alloc\] ?initWith)"
_ALPHA = rf"(?:,? ?(?:alpha|opacity): ?{_NUMBER})?[)\]]"

# What a whole expression looks like once its spaces are single; the names are those of the system's table without `Color`.
_NAMED = regex(
    r"""(?:UIColor|Color)\((?:named: ?)?"([^"]+)"\)(?:!| ?\?\? ?[^?]+)?|\[UIColor colorNamed: ?@"([^"]+)"\]"""
)
_MEMBER = regex(r"(?:UIColor)?\.(\w+?)(?:Color)?")
_MESSAGE = regex(r"\[UIColor (\w+?)Color\]")
_SWIFTUI = regex(r"Color\((?:uiColor: ?)?(?:UIColor)?\.(\w+)\)")
_SWIFTUI_MEMBER = regex(r"(?:Color)?\.(\w+)")
_RGB = regex(
    rf"{_MADE}(?:\.(?:sRGB|displayP3), ?)?(?:red|Red|displayP3Red): ?{_NUMBER},? ?green: ?{_NUMBER},? ?blue: ?{_NUMBER}{_ALPHA}"
)
_WHITE = regex(rf"{_MADE}(?:white|White): ?{_NUMBER}{_ALPHA}")
_OF_SWIFTUI = {"primary": "label", "black": "black", "white": "white", "clear": "clear"}


def colour_in_code(text: str, look: Look, version: int, lookup: Lookup, *, is_swiftui: bool) -> Colour | None:
    """Return the colour of an expression; None for one that is not known.

    Args:
        text: the expression, such as `UIColor(named: "Sand")`, `[UIColor whiteColor]` or `Color.white`.
        look: the look.
        version: the major version of the system.
        lookup: the colour of a name in the asset catalogs.
        is_swiftui: whether a bare member, such as `.red`, is one of SwiftUI's `Color`.
    """
    plain = _SPACES.sub(" ", text.strip())
    if found := _NAMED.fullmatch(plain):
        return lookup(next(name for name in found.groups() if name))
    if found := _RGB.fullmatch(plain):
        space = "display-p3" if "displayP3" in plain else "srgb"
        return _of_numbers(space, found.groups())
    if found := _WHITE.fullmatch(plain):
        return _of_numbers("srgb", found.groups())
    if found := _SWIFTUI.fullmatch(plain) or _MESSAGE.fullmatch(plain):
        return system_colour(f"{found[1]}Color", look, version)
    if is_swiftui and (found := _SWIFTUI_MEMBER.fullmatch(plain)):
        # The others are those of the system: Color.red is systemRed.
        name = _OF_SWIFTUI.get(found[1]) or f"system{found[1][:1].upper()}{found[1][1:]}"
        return system_colour(f"{name}Color", look, version)
    found = _MEMBER.fullmatch(plain)
    return system_colour(f"{found[1]}Color", look, version) if found else None


def _of_numbers(space: str, numbers: Sequence[str | None]) -> Colour | None:
    """A colour of the numbers of an expression, the last of which is its alpha, or None."""
    try:
        *channels, alpha = (_number(one) if one is not None else 1.0 for one in numbers)
    except (ValueError, ZeroDivisionError):
        return None
    return converted(space, channels, alpha)


def _number(text: str) -> float:
    """A number, or a quotient of two."""
    above, _, below = text.replace("f", "").replace(" ", "").partition("/")
    return float(above) / (float(below) if below else 1.0)
