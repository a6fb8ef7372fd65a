"""TOML written by splicing: a key more in a table, every other byte as it was."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from typing import Any

from rivelt.edit.splice import Splice, newline_at
from rivelt.edit.text import BOM, read_text
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

MOST_BYTES = 5_000_000
"""The largest file that is read."""

_DEEP_KEY = regex(
    r"""(?<![\w"'-])(?:[\w"'-]++[ \t]*+\.[ \t]*+){100}"""
)  # what `tomllib` keeps of a name grows with its square
_POSITION = regex(r"\s*\(at (?:line (?P<line>\d+), column (?P<column>\d+)|end of document)\)$")
_TABLE = regex(rb"^[ \t]*\[\[?[^\[\]\n]+\]\]?[ \t]*(?:#[^\n]*)?\r?$", re.MULTILINE)


def read_toml(data: bytes, path: str, hint: str = "Fix it.") -> Mapping[str, Any]:
    """Return the content of a TOML file; a byte order mark is left alone.

    Raises:
        BadInput: it is not valid, far too large, or nested far too deeply.
    """
    if len(data) > MOST_BYTES:
        raise BadInput(f"the file has more than {MOST_BYTES // 1_000_000} MB", place=Place(path))
    text = read_text(data, path).removeprefix(BOM)
    if found := _DEEP_KEY.search(text):
        raise _invalid(
            "a name has more than a hundred parts", Place(path, text.count("\n", 0, found.start()) + 1), hint
        )
    try:
        return tomllib.loads(text)
    except RecursionError as error:
        raise _invalid("values are nested too deeply", Place(path), hint) from error
    except tomllib.TOMLDecodeError as error:
        message, at = str(error), Place(path)
        if found := _POSITION.search(message):
            line = int(found["line"] or text.count("\n") + 1)
            message, at = message[: found.start()], Place(path, line, int(found["column"]) if found["column"] else None)
        raise _invalid(message, at, hint) from error


def _invalid(message: str, place: Place, hint: str) -> BadInput:
    return BadInput(f"not valid TOML: {message[:1].lower()}{message[1:]}", place=place, hint=hint)


def add_key(data: bytes, table: str, line: str) -> Splice:
    """Put `key = value` at the end of a table, which is made when it is missing."""
    newline = newline_at(data, 0)
    heads = list(_TABLE.finditer(data))
    for index, head in enumerate(heads):
        if head[0].strip().partition(b"#")[0].strip().strip(b"[] \t") != table.encode():
            continue
        end = heads[index + 1].start() if index + 1 < len(heads) else len(data)
        body = data[head.end() : end]
        # Comments above the next table belong to it.
        while found := re.search(rb"\r?\n[ \t]*(?:#[^\n]*)?\r?\n?$", body):
            body = body[: found.start()]
        at = head.end() + len(body) if body else head.end() - head[0].endswith(b"\r")
        return Splice(at, at, newline + line.encode())
    gap = b"" if data.endswith(b"\n") or not data else newline
    return Splice(len(data), len(data), gap + newline + f"[{table}]".encode() + newline + line.encode() + newline)
