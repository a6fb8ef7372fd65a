"""TOML written by splicing: a key more in a table, every other byte as it was."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from typing import Any

from rivelt.edit.splice import Splice, newline_at
from rivelt.errors import BadInput, Place

_TABLE = re.compile(rb"^[ \t]*\[\[?[^\[\]\n]+\]\]?[ \t]*(?:#[^\n]*)?\r?$", re.MULTILINE)


def read_toml(data: bytes, path: str) -> Mapping[str, Any]:
    """The content of a TOML file.

    Raises:
        BadInput: it is not valid.
    """
    try:
        return tomllib.loads(data.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise BadInput(f"not valid TOML: {error}", place=Place(path), hint="Mend it.") from error


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
