"""Byte offsets of a file as lines and columns, counted once for the whole file."""

from __future__ import annotations

import re
from bisect import bisect_left
from functools import cached_property

from rivelt.errors import Place, column


class Lines:
    """The lines of one file."""

    def __init__(self, data: bytes, path: str) -> None:
        self._data = data
        self._path = path

    @cached_property
    def _ends(self) -> list[int]:
        return [found.start() for found in re.finditer(b"\n", self._data)]

    def place(self, offset: int) -> Place:
        """Return the place of a byte offset: its line and column (in characters), both counted from 1."""
        before = bisect_left(self._ends, offset)
        start = self._ends[before - 1] + 1 if before else 0
        return Place(self._path, before + 1, column(self._data, start, offset))
