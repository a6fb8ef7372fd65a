"""Colours as asset catalogs and storyboards write them, in sRGB; what is outside sRGB is brought to its edge."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.platforms.ios.facts import ios_facts
from rivelt.units import Look

Channels = tuple[float, float, float]

# Display P3 to sRGB, both linear with the white D65 (SMPTE EG 432-1, IEC 61966-2-1).
_P3 = (
    (1.2249401762805598, -0.2249401762805598, 0.0),
    (-0.0420569547096881, 1.0420569547096881, 0.0),
    (-0.0196375545903344, -0.0786360455506319, 1.0982736001409663),
)


def _encoded(value: float) -> float:
    """Linear light as an sRGB channel, 0 to 1 (IEC 61966-2-1); below 0 mirrored."""
    size = abs(value)
    curve = 12.92 * size if size <= 0.0031308 else 1.055 * size ** (1 / 2.4) - 0.055
    return math.copysign(curve, value)


def _decoded(value: float) -> float:
    size = abs(value)
    curve = size / 12.92 if size <= 0.04045 else ((size + 0.055) / 1.055) ** 2.4
    return math.copysign(curve, value)


def _same(values: Channels) -> Channels:
    return values


def _from_p3(values: Channels) -> Channels:
    linear = [_decoded(value) for value in values]
    red, green, blue = (_encoded(sum(factor * value for factor, value in zip(row, linear, strict=True))) for row in _P3)
    return red, green, blue


def _from_gamma(values: Channels) -> Channels:
    red, green, blue = (_encoded(math.copysign(abs(value) ** 2.2, value)) for value in values)
    return red, green, blue


def _from_linear(values: Channels) -> Channels:
    red, green, blue = (_encoded(value) for value in values)
    return red, green, blue


_SPACES: Mapping[str, Callable[[Channels], Channels]] = {
    # Asset catalogs.
    "srgb": _same,
    "extended-srgb": _same,
    "extended-linear-srgb": _from_linear,
    "display-p3": _from_p3,
    "gray-gamma-22": _from_gamma,
    "extended-gray": _from_gamma,
    # Storyboards; the calibrated and device spaces are sRGB to UIKit.
    "sRGB": _same,
    "displayP3": _from_p3,
    "genericGamma22GrayColorSpace": _from_gamma,
    "calibratedRGB": _same,
    "deviceRGB": _same,
    "calibratedWhite": _same,
    "deviceWhite": _same,
}


def converted(space: str, values: Sequence[float], alpha: float) -> Colour | None:
    """Return a colour of a colour space; one value is a gray. None for a space that is not known, or values that are not numbers."""
    convert = _SPACES.get(space)
    if convert is None or not all(math.isfinite(value) and abs(value) < 100 for value in (*values, alpha)):
        return None
    red, green, blue = values if len(values) == 3 else (values[0],) * 3
    return Colour(*(_byte(value) for value in (*convert((red, green, blue)), alpha)))


def _byte(value: float) -> int:
    return round(min(max(value, 0.0), 1.0) * 255)


def catalog_colour(value: object) -> Colour | None:
    """Return the `color` of an entry of a colour set; components are hex ("0xF3"), whole numbers from 0 to 255, or fractions."""
    if not isinstance(value, dict):
        return None
    components: Any = value.get("components")
    try:
        names = ("white",) if "white" in components else ("red", "green", "blue")
        channels = [_channel(components[name]) for name in names]
        return converted(str(value.get("color-space")), channels, float(components.get("alpha", 1)))
    except (KeyError, TypeError, ValueError, OverflowError, AttributeError):
        return None


def _channel(text: object) -> float:
    shown = str(text)
    if shown.lower().startswith("0x"):
        return int(shown, 16) / 255
    return float(shown) if "." in shown else int(shown) / 255


def storyboard_colour(node: Node) -> Colour | None:
    """Return a `<color>` that holds its own components; None for a named one, or one of a space that is not known."""
    names = ("white",) if node.get("white") is not None else ("red", "green", "blue")
    space = node.get("colorSpace") or "sRGB"
    try:
        channels = [float(node.get(name) or "") for name in names]
        alpha = float(node.get("alpha") or 1)
    except ValueError:
        return None
    return converted(node.get("customColorSpace") or "" if space == "custom" else space, channels, alpha)


def system_colour(name: str, look: Look, version: int) -> Colour | None:
    """Return a colour of UIKit by the name that storyboards use, on a version of the system; None for one that is not known."""
    found = ios_facts().system_colours.get(name)
    if found is None or (found.changed is not None and version >= found.changed):
        return None
    return Colour.parse(found.light if look == "light" else found.dark)


def node_colour(node: Node, look: Look, version: int, lookup: Callable[[str], Colour | None]) -> Colour | None:
    """Return the colour of a `<color>` of a storyboard: named, the system's, or by its components; None for one that is not known.

    Args:
        node: the element.
        look: the look.
        version: the major version of the system.
        lookup: the colour of a name in the asset catalogs.
    """
    if name := node.get("name"):
        return lookup(name)
    if system := node.get("systemColor") or node.get("cocoaTouchSystemColor"):
        return system_colour(system, look, version)
    return storyboard_colour(node)
