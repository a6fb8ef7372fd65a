"""What the renderer draws otherwise than browsers and devices do, found by its elements: such a drawing is refused, never drawn wrongly."""

from __future__ import annotations

from collections.abc import Mapping

_FILTERS = {
    "feturbulence": "noise",
    "fediffuselighting": "light",
    "fespecularlighting": "light",
    "fedisplacementmap": "displacement",
    "femorphology": "thickening",
    "feimage": "a picture inside of a filter",
}


def reason(tag: str, attributes: Mapping[str, str]) -> str | None:
    """Return what of an element is drawn otherwise; None: nothing. `tag` and the names are without prefixes and in lower case."""
    if tag in _FILTERS:
        return f"{_FILTERS[tag]} (a <{tag}> filter)"
    # Drawing programs put their own data into a foreignObject that asks for their extensions: no browser shows it.
    if tag == "foreignobject" and not attributes.get("requiredextensions"):
        return "content that is not SVG (a <foreignObject>)"
    if tag in {"lineargradient", "radialgradient"} and attributes.get("color-interpolation", "").lower() == "linearrgb":
        return "a gradient that is mixed in linear light"
    if "auto" in (attributes.get("rx"), attributes.get("ry")):
        return "a corner of the size auto"
    if tag == "symbol" and attributes.get("transform"):
        return "a <symbol> that is transformed"
    if attributes.get("pathlength") and attributes.get("stroke-dasharray", "none") != "none":
        return "dashes that are measured by pathLength"
    return None
