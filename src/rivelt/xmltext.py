"""Text as XML writes it.

The standard library's helpers for this load its whole network stack.
"""

from __future__ import annotations


def escaped(text: str) -> str:
    """Return text for the content of an element."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def quoted(value: str, quote: str = '"') -> str:
    """Return a value for an attribute, with its quotes; line ends and tabs survive an XML parser's normalising."""
    named = {'"': "&quot;", "'": "&apos;"}[quote]
    inner = escaped(value).replace(quote, named).replace("\n", "&#10;").replace("\r", "&#13;").replace("\t", "&#9;")
    return f"{quote}{inner}{quote}"
