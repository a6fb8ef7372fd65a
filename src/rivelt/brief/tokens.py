"""Colours from a design-tokens file, the JSON format of the W3C Design Tokens Community Group.

https://www.designtokens.org/tr/drafts/format/
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from rivelt.errors import BadInput
from rivelt.patterns import regex

_MOST_ALIASES = 50
_ALIAS = regex(r"^\{([^{}]+)\}$")
_POINTER = regex(r"^#/(.+)$")
_AS_CSS = {
    "hsl": "hsl({} {}% {}%",
    "hwb": "hwb({} {}% {}%",
    **{space: space + "({} {} {}" for space in ("lab", "lch", "oklab", "oklch")},
}
"""How CSS writes the components of some colour spaces; all others are arguments of `color()`."""


def token_colour(data: bytes, path: str, name: str) -> str:
    """Return the colour of a token as CSS text; aliases are followed.

    Args:
        data: the bytes of the file.
        path: its path, for messages.
        name: the dotted path of the token, such as "color.brand.ground".

    Raises:
        BadInput: the file is not JSON, there is no such token, it is not a colour, or its aliases go in a circle.
    """
    try:
        root = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise BadInput(f"{path} is not valid JSON: {error}", hint="Fix the file.") from error
    trail = [name]
    while True:
        value = _value(root, path, trail[-1])
        alias = _alias(value)
        if alias is None:
            return _as_css(value, path, trail)
        if alias in trail or len(trail) > _MOST_ALIASES:
            raise BadInput(f"{path}: tokens refer to each other in a circle: {' -> '.join([*trail, alias])}")
        trail.append(alias)


def _value(root: object, path: str, name: str) -> Any:
    """The value of a token."""
    node, kind = root, None
    parts = name.split(".")
    for depth, part in enumerate(parts):
        if not isinstance(node, Mapping) or part not in node or part.startswith("$"):
            near = (
                ", ".join(sorted(key for key in node if not key.startswith("$"))) if isinstance(node, Mapping) else ""
            )
            where = ".".join(parts[:depth]) or "the file"
            raise BadInput(f"{path} has no token {name}", hint=f"In {where} there are: {near or 'no tokens'}.")
        node = node[part]
        kind = node.get("$type", kind) if isinstance(node, Mapping) else kind
    if not isinstance(node, Mapping) or not {"$value", "$ref"} & node.keys():
        raise BadInput(f"{path}: {name} is a group, not a token", hint="Name one of the tokens in it.")
    if kind not in {None, "color"}:
        raise BadInput(f"{path}: the token {name} is a {kind}, not a color")
    return node["$value"] if "$value" in node else {"$ref": node["$ref"]}


def _alias(value: object) -> str | None:
    """The token that a value refers to, if it does."""
    if isinstance(value, str) and (found := _ALIAS.match(value.strip())):
        return found[1].strip()
    if isinstance(value, Mapping) and isinstance(value.get("$ref"), str) and (found := _POINTER.match(value["$ref"])):
        parts = [part.replace("~1", "/").replace("~0", "~") for part in found[1].split("/")]
        return ".".join(parts[:-1] if parts[-1] == "$value" else parts)
    return None


def _as_css(value: object, path: str, trail: list[str]) -> str:
    """A colour value as CSS text: text as it is, or a colour space with its components."""
    if isinstance(value, str):
        return value
    if isinstance(value, Mapping):
        space, components, alpha = value.get("colorSpace"), value.get("components"), value.get("alpha", 1)
        numbers = components if isinstance(components, list) else []
        is_plain = all(isinstance(one, int | float) and not isinstance(one, bool) for one in [*numbers, alpha])
        if space == "srgb" and len(numbers) == 3 and is_plain and all(0 <= one <= 1 for one in [*numbers, alpha]):
            return "#" + "".join(f"{round(one * 255):02X}" for one in ([*numbers, alpha] if alpha != 1 else numbers))
        if isinstance(space, str) and len(numbers) == 3 and is_plain:
            text = _AS_CSS.get(space, f"color({space} {{}} {{}} {{}}").format(*(f"{one:g}" for one in numbers))
            return f"{text} / {alpha:g})" if alpha != 1 else f"{text})"
        if isinstance(value.get("hex"), str):
            return str(value["hex"])
    raise BadInput(
        f"{path}: the value of {' -> '.join(trail)} is not a colour",
        hint='Use "#RRGGBB", or colorSpace with components.',
    )
