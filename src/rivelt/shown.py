"""Foreign text as it may be shown: what a terminal, a log or a CI service would obey is spelt out instead."""

from __future__ import annotations

import re

from rivelt.patterns import regex

_CONTROLS = regex(
    "[\x00-\x08\x0a-\x1f\x7f-\x9f"  # C0 but the tab, DEL, C1
    "\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069"  # what turns the direction of text
    "\u2028\u2029\ufeff\ud800-\udfff]"  # what ends lines, and what is not a character
)
_COMMAND = regex(r"^(\s*)::|##(?=\[|vso\[)")


def shown(text: str) -> str:
    r"""Return one line of text with control characters as `\x1b` or `\u202e`; a byte of a file name that is not UTF-8 as `\xff`."""
    return _CONTROLS.sub(_spelt, text)


def is_plain(text: str) -> bool:
    """Return whether a text holds nothing that would have to be spelt out."""
    return _CONTROLS.search(text) is None


def harmless(text: str) -> str:
    r"""Return one line of text that is not a command to a CI service either: the first character of one is spelt out."""
    return _COMMAND.sub(
        lambda found: f"{found[1] or ''}\\x{ord(found[0].lstrip()[0]):02x}{found[0].lstrip()[1:]}", shown(text)
    )


def _spelt(found: re.Match[str]) -> str:
    code = ord(found[0])
    if 0xDC80 <= code <= 0xDCFF:  # a byte that is not UTF-8, as Python brings it
        code -= 0xDC00
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}"


def in_json(text: str) -> str:
    r"""Return JSON text in which the same characters are `\u` escapes: the values stay what they are."""
    return _CONTROLS.sub(lambda found: found[0] if found[0] == "\n" else f"\\u{ord(found[0]):04x}", text)
