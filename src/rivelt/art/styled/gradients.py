"""The stops of gradients, written so that every renderer mixes them as browsers do (SVG 2, section 14; CSS Color 4, section 12)."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Mapping
from copy import copy

from rivelt.art.styled.refusal import Unresolved
from rivelt.patterns import regex

STEPS = 24
"""How many stops stand for the way between two colours that are mixed in Oklab: the error stays below 0.5 of 255."""

_SHARE = regex(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*(%?)\s*", re.IGNORECASE)


def spread_out(gradient: ET.Element, wide: Mapping[ET.Element, str], *, is_repeated: bool) -> None:
    """Write a gradient's stops anew.

    Browsers mix all colours of a gradient in Oklab, alpha apart, as soon as one of them is in a newer notation. And the renderer repeats a
    gradient from its first stop to its last, where it should go from 0 to 1.

    Args:
        gradient: the element that holds the stops, their colours in sRGB.
        wide: what the colours were, for those in a newer notation.
        is_repeated: whether it may be a gradient that repeats.
    """
    stops = [child for child in gradient if child.tag.rpartition("}")[2] == "stop"]
    if not stops:
        return
    places = _places(stops)
    if any(stop in wide for stop in stops):
        _mix(gradient, stops, places, wide)
    if is_repeated:
        if places[-1] < 1:
            gradient.append(_with(stops[-1], {"offset": "1"}))
        if places[0] > 0:
            gradient.insert(0, _with(stops[0], {"offset": "0"}))


def _places(stops: list[ET.Element]) -> list[float]:
    """Where stops are, 0 to 1: none before the one that it follows."""
    places: list[float] = []
    for stop in stops:
        place = min(max(_share(stop.get("offset"), 0.0), 0.0), 1.0)
        places.append(max(place, places[-1]) if places else place)
    return places


def _share(text: str | None, default: float) -> float:
    found = _SHARE.fullmatch(text or "")
    return float(found[1]) / (100 if found[2] else 1) if found else default


def _mix(gradient: ET.Element, stops: list[ET.Element], places: list[float], wide: Mapping[ET.Element, str]) -> None:
    from coloraide import Color

    try:
        colours = [Color(wide[stop] if stop in wide else stop.get("stop-color", "black")) for stop in stops]
    except (ValueError, AttributeError) as error:
        raise Unresolved("a gradient mixes a colour that depends on its context with wide-gamut colours") from error
    shares = [min(max(_share(stop.get("stop-opacity"), 1.0), 0.0), 1.0) for stop in stops]
    for index in range(len(stops) - 1, 0, -1):
        mixed = Color.interpolate([colours[index - 1], colours[index]], space="oklab", premultiplied=False)
        position = list(gradient).index(stops[index])
        for step in range(STEPS - 1, 0, -1) if places[index] > places[index - 1] else ():
            way = step / STEPS
            colour = mixed(way)
            red, green, blue = (round(255 * value) for value in colour.convert("srgb").clip().coords(nans=False))
            # The opacity of a stop is mixed with its colour: of both together, the product counts at each end.
            ends = [colours[one].alpha(nans=False) * shares[one] for one in (index - 1, index)]
            alpha = ends[0] + (ends[1] - ends[0]) * way
            written = {
                "offset": f"{places[index - 1] + (places[index] - places[index - 1]) * way:.6g}",
                "stop-color": f"#{red:02x}{green:02x}{blue:02x}",
                "stop-opacity": f"{alpha:.5g}",
            }
            gradient.insert(position, _with(stops[index], written))


def _with(stop: ET.Element, attributes: Mapping[str, str]) -> ET.Element:
    found = copy(stop)
    found.attrib = {**stop.attrib, **attributes}
    found.attrib.pop("id", None)
    return found
