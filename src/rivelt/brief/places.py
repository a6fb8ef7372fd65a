"""Where each key of a TOML file stands, which `tomllib` does not tell.

The text has been accepted by `tomllib` before, so that a scan of lines that knows tables, keys and multi-line values is enough.
"""

from __future__ import annotations

import re

from rivelt.errors import Place

_TABLE = re.compile(r"\s*\[\[?\s*(?P<name>[^\[\]]+?)\s*\]\]?\s*(?:#.*)?$")
_KEY = re.compile(
    r"""\s*(?P<key>(?:[\w-]+|"[^"]*"|'[^']*')(?:\s*\.\s*(?:[\w-]+|"[^"]*"|'[^']*'))*)\s*=(?P<value>.*)$"""
)
_STRINGS_AND_COMMENTS = re.compile(r""" "(?:\\.|[^"\\])*" | '[^']*' | \#.*$ """, re.VERBOSE)


def key_places(text: str, path: str) -> dict[str, Place]:
    """Map each dotted key and table name of a valid TOML text to its line and column."""
    places: dict[str, Place] = {}
    table = ""
    closing = ""  # the triple quotes that a running multi-line string ends with
    depth = 0  # open brackets of a running multi-line array
    for number, line in enumerate(text.splitlines(), start=1):
        if closing:
            closing = "" if closing in line else closing
            continue
        if depth:
            depth += _bracket_balance(line)
            continue
        if found := _TABLE.match(line):
            table = _plain(found["name"])
            places.setdefault(table, Place(path, number, found.start("name") + 1))
        elif found := _KEY.match(line):
            name = _plain(found["key"])
            places[f"{table}.{name}" if table else name] = Place(path, number, found.start("key") + 1)
            value = found["value"].strip()
            for quotes in ('"""', "'''"):
                if value.startswith(quotes) and quotes not in value[3:]:
                    closing = quotes
            depth = 0 if closing else _bracket_balance(value)
    return places


def _plain(dotted: str) -> str:
    """A dotted key without quotes and spaces."""
    return ".".join(part.strip().strip("\"'") for part in dotted.split("."))


def _bracket_balance(text: str) -> int:
    bare = _STRINGS_AND_COMMENTS.sub("", text)
    return bare.count("[") - bare.count("]")
