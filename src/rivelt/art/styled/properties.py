"""The properties that drawings have: which are attributes too, which are lengths, and which values no renderer of Rivelt's draws."""

from __future__ import annotations

import re
from collections.abc import Mapping

from rivelt.art.styled.refusal import Unresolved
from rivelt.patterns import regex

PRESENTATION = frozenset(
    [
        "clip-path",
        "clip-rule",
        "color",
        "color-interpolation",
        "color-interpolation-filters",
        "cursor",
        "direction",
        "display",
        "dominant-baseline",
        "fill",
        "fill-opacity",
        "fill-rule",
        "filter",
        "flood-color",
        "flood-opacity",
        "font-family",
        "font-size",
        "font-size-adjust",
        "font-stretch",
        "font-style",
        "font-variant",
        "font-weight",
        "image-rendering",
        "letter-spacing",
        "lighting-color",
        "marker-end",
        "marker-mid",
        "marker-start",
        "mask",
        "mask-type",
        "opacity",
        "overflow",
        "paint-order",
        "pointer-events",
        "shape-rendering",
        "stop-color",
        "stop-opacity",
        "stroke",
        "stroke-dasharray",
        "stroke-dashoffset",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-opacity",
        "stroke-width",
        "text-anchor",
        "text-decoration",
        "text-rendering",
        "transform",
        "transform-origin",
        "transform-box",
        "unicode-bidi",
        "vector-effect",
        "visibility",
        "word-spacing",
        "writing-mode",
    ]
)
"""Attributes that stand for properties of every element (SVG 2, section 6.6)."""

BOX_ATTRIBUTES: Mapping[str, frozenset[str]] = {
    "rect": frozenset({"x", "y", "width", "height", "rx", "ry"}),
    "circle": frozenset({"cx", "cy", "r"}),
    "ellipse": frozenset({"cx", "cy", "rx", "ry"}),
    "path": frozenset({"d"}),
    "line": frozenset({"x1", "y1", "x2", "y2"}),
    "svg": frozenset({"x", "y", "width", "height"}),
    "image": frozenset({"x", "y", "width", "height"}),
    "use": frozenset({"x", "y", "width", "height"}),
    "foreignObject": frozenset({"x", "y", "width", "height"}),
}
"""The geometry that an element has as properties, or as attributes in the same units, by its tag."""

GEOMETRY = frozenset[str]().union(*BOX_ATTRIBUTES.values())

LENGTHS = (GEOMETRY - {"d"}) | {
    "stroke-width",
    "stroke-dasharray",
    "stroke-dashoffset",
    "letter-spacing",
    "word-spacing",
}

INITIAL: Mapping[str, str] = {
    "fill": "#000000",
    "stroke": "none",
    "color": "#000000",
    "stop-color": "#000000",
    "flood-color": "#000000",
    "lighting-color": "#ffffff",
    "background-color": "transparent",
    "background": "none",
    **dict.fromkeys(
        ("fill-opacity", "stroke-opacity", "stop-opacity", "flood-opacity", "opacity", "stroke-width"), "1"
    ),
    **dict.fromkeys(
        ("stroke-dasharray", "clip-path", "mask", "filter", "transform", "marker-start", "marker-mid"), "none"
    ),
    **dict.fromkeys(("marker-end", "vector-effect", "translate", "rotate", "scale"), "none"),
    **dict.fromkeys(("fill-rule", "clip-rule"), "nonzero"),
    **dict.fromkeys(("paint-order", "mix-blend-mode", "font-style", "font-weight"), "normal"),
    "stroke-dashoffset": "0",
    "stroke-linecap": "butt",
    "stroke-linejoin": "miter",
    "stroke-miterlimit": "4",
    "display": "inline",
    "visibility": "visible",
    "isolation": "auto",
    "text-anchor": "start",
    "font-size": "16px",
}
"""Initial values (SVG 2, appendix L): the renderer does not know the keyword for them."""

_PARTS = regex(
    r"(?:none|inherit|initial|url\([^)]*\)|blur\([^)]*\)|opacity\([^)]*\)|drop-shadow\((?:[^()]|\([^)]*\))*\)|\s)+",
    re.I,
)
_UNDRAWN = ("mask-image", "mask-border", "-webkit-mask", "offset-", "perspective", "zoom", "backdrop-filter", "corner-")
_BOX = ("border", "outline", "padding", "box-shadow")
_NOTHING = frozenset({"none", "0", "0px", "1", "auto", "normal", "initial"})
_REFERENCE = regex(r"none|inherit|initial|url\([^)]*\)", re.IGNORECASE)


def vet(properties: Mapping[str, str], *, is_root: bool) -> None:
    """Refuse values that the renderer leaves out, or draws in other colours than browsers.

    Raises:
        Unresolved: there is one.
    """
    for name in ("clip-path", "mask"):
        if name in properties and not _REFERENCE.fullmatch(properties[name].strip()):
            raise Unresolved(f"{name}: {properties[name][:50]} is not a reference to a part of the drawing")
    if "filter" in properties and not _PARTS.fullmatch(properties["filter"].strip()):
        raise Unresolved(f"filter: {properties['filter'][:50]} is drawn in other colours")
    for name in properties:
        is_plain = properties[name].strip().lower() in _NOTHING
        if not is_plain and (name.startswith(_UNDRAWN) or (is_root and name.startswith(_BOX))):
            raise Unresolved(f"{name} is not drawn")
    if "dark" in properties.get("color-scheme", "").lower() and "light" not in properties["color-scheme"].lower():
        raise Unresolved("its colours are those of color-scheme: dark")
