"""Replacing spans of bytes, and writing like the neighbours do."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import NamedTuple


class Splice(NamedTuple):
    """The bytes from `start` up to `end` give way to `text`; `start == end` inserts."""

    start: int
    end: int
    text: bytes


def spliced(data: bytes, splices: Iterable[Splice]) -> bytes:
    """Return `data` with all splices made. They must not overlap; insertions at one spot keep their order."""
    parts: list[bytes] = []
    position = 0
    for splice in sorted(splices, key=lambda splice: (splice.start, splice.end)):
        if splice.start < position:
            raise ValueError(f"splices overlap at byte {splice.start}")
        parts += [data[position : splice.start], splice.text]
        position = splice.end
    return b"".join([*parts, data[position:]])


def newline_at(data: bytes, position: int) -> bytes:
    """Return the line ending in use round a position: that of its own line, else of the line before, else a line feed."""
    after = data.find(b"\n", position)
    end = after if after >= 0 else data.rfind(b"\n", 0, position)
    return b"\r\n" if end > 0 and data[end - 1 : end] == b"\r" else b"\n"


def indent_at(data: bytes, position: int) -> bytes:
    """Return the white space that the line of a position begins with."""
    line = data.rfind(b"\n", 0, position) + 1
    return re.compile(rb"[ \t]*").match(data, line)[0]  # type: ignore[index]  # it always matches


def line_end(data: bytes, position: int) -> int:
    """Return the end of the line of a position, before its line ending."""
    end = data.find(b"\n", position)
    end = len(data) if end < 0 else end
    return end - 1 if data[end - 1 : end] == b"\r" else end


def begins_line(data: bytes, position: int) -> bool:
    """Whether only white space stands before a position on its line."""
    return not data[data.rfind(b"\n", 0, position) + 1 : position].strip()
