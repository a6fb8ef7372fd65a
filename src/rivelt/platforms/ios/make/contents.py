"""`Contents.json` of image sets and colour sets, the way Xcode writes it.

https://developer.apple.com/library/archive/documentation/Xcode/Reference/xcode_ref-Asset_Catalog_Format/
"""

from __future__ import annotations

import json
from typing import Any

from rivelt.colour import Colour
from rivelt.layout.context import PlanContext
from rivelt.platforms.ios.make.plates import ImageSet
from rivelt.units import Look


def image_set(found: ImageSet) -> bytes:
    """Return the contents of an image set of bitmaps."""
    return _json(
        {
            "images": [
                {
                    **_appearances(image.look),
                    "filename": image.file,
                    **({"height-class": image.height_class} if image.height_class else {}),
                    "idiom": image.idiom,
                    "scale": f"{image.scale}x",
                }
                for image in found.images
            ]
        }
    )


def vector_set(files: dict[Look, str]) -> bytes:
    """Return the contents of an image set of one vector for each look."""
    images = [{**_appearances(look), "filename": file, "idiom": "universal"} for look, file in files.items()]
    return _json({"images": images}, {"preserves-vector-representation": True})


def colour_set(context: PlanContext) -> bytes:
    """Return the contents of the ground's colour set."""

    def components(colour: Colour) -> dict[str, str]:
        named = {"blue": colour.blue, "green": colour.green, "red": colour.red}
        return {"alpha": "1.000", **{name: f"0x{channel:02X}" for name, channel in named.items()}}

    grounds = {look: context.brief.looks[look].ground for look in context.brief.shown_looks}
    shown = {look: ground for look, ground in grounds.items() if look == "light" or ground != grounds["light"]}
    return _json(
        {
            "colors": [
                {
                    **_appearances(look),
                    "color": {"color-space": "srgb", "components": components(ground)},
                    "idiom": "universal",
                }
                for look, ground in shown.items()
            ]
        }
    )


def plain_contents() -> bytes:
    """Return the contents of a catalog or a folder in one."""
    return _json({})


def _appearances(look: Look) -> dict[str, Any]:
    return {} if look == "light" else {"appearances": [{"appearance": "luminosity", "value": "dark"}]}


def _json(contents: dict[str, Any], properties: dict[str, Any] | None = None) -> bytes:
    """JSON as Xcode writes it: `"key" : value`, two spaces."""
    whole = {
        **contents,
        "info": {"author": "rivelt", "version": 1},
        **({"properties": properties} if properties else {}),
    }
    return (json.dumps(whole, indent=2, separators=(",", " : ")) + "\n").encode()
