"""Whether a drawing asks for style that must be resolved before it is drawn: a quick look, so that plain drawings pay nothing."""

from __future__ import annotations

import re

from rivelt.patterns import regex
from rivelt.picture import Attributes

_MORE = regex(
    r"var\(|--[\w-]+\s*:|okl(?:ab|ch)\(|\bl(?:ab|ch)\(|\bcolor(?:-mix)?\(|light-dark\(|\b(?:calc|min|max|clamp)\(|\bfrom\s"
    r"|transform\s*:|transform-(?:origin|box)|(?:^|[;{\s])(?:translate|rotate|scale|background(?:-color)?|d|offset-path)\s*:"
    r"|mask-(?:image|border)|-webkit-mask|offset-|perspective|\bzoom\b|backdrop-filter|border|outline|padding|box-shadow"
    r"|mask\s*:\s*(?!none|url)|clip-path\s*:\s*(?!none|url)|filter\s*:\s*(?!none|url)|\brevert|\bunset|\binitial"
    r"|@(?!font-face|charset|namespace)|:(?:is|has|root)\b|&|\d(?:r?em|v(?:w|h|i|b|min|max)|q|ex|ch|r?lh|cap|ic)\b|\bauto\b",
    re.IGNORECASE,
)
_NESTED = regex(r"\{[^{}]*\{")
_NAMES = frozenset({"transform-origin", "transform-box"})
_UNREAD = frozenset({"d", "points", "id", "href", "values"})


def style_asks(text: str) -> bool:
    """Return whether a style sheet, or a style attribute, holds what must be resolved."""
    return _MORE.search(text) is not None or _NESTED.search(text) is not None


def element_asks(tag: str, attributes: Attributes) -> bool:
    """Return whether an element does; `tag` and the names are without prefixes and in lower case."""
    if tag == "text" or (tag == "style" and any(key in {"type", "media"} for key, _ in attributes)):
        return True
    if any(key == "spreadmethod" and value.strip() == "repeat" for key, value in attributes):
        return True
    return any(key in _NAMES or (key not in _UNREAD and _MORE.search(value)) for key, value in attributes if value)
