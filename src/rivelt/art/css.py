"""CSS in SVG files, read as far as it must be to see what it refers to: escapes are resolved, comments go, case does not count."""

from __future__ import annotations

import re
from collections.abc import Iterator

from rivelt.patterns import regex

_COMMENT = regex(r"/\*.*?(?:\*/|\Z)", re.DOTALL)
# CSS Syntax 3, section 4.3.7: up to six hexadecimal digits and one white space, or any other character.
_ESCAPE = regex(r"\\(?:([0-9a-fA-F]{1,6})(?:\r\n|[ \t\r\n\f])?|(\r\n|[\n\r\f])|(.))", re.DOTALL)
_FUNCTION = regex(r"(?:url|src|image|image-set)\(\s*[\"']?\s*([^\"')\s]*)")
_INSIDE = ("#", "data:")


def plain(text: str) -> str:
    """Return a style sheet as a parser understands it: escapes as what they stand for, in lower case, without comments."""
    return _ESCAPE.sub(_resolved, _COMMENT.sub(" ", text)).lower()


def _resolved(found: re.Match[str]) -> str:
    if found[1]:
        code = int(found[1], 16)
        return chr(code) if 0 < code < 0xD800 or 0xDFFF < code <= 0x10FFFF else "\ufffd"
    return found[3] or ""


def outside(text: str) -> Iterator[str]:
    """Yield what a style sheet, or a declaration, refers to outside of the file: "@import", or the target of a function."""
    style = plain(text) if "\\" in text or "/*" in text else text.lower()
    if "@import" in style:
        yield "@import"
    for target in _FUNCTION.findall(style):
        if target and not target.startswith(_INSIDE):
            yield target
