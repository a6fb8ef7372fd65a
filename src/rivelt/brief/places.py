"""Where each key and each value of a TOML file stands, which `tomllib` does not report.

The text has been accepted by `tomllib` before, so that a scan that knows where tables, keys and values begin and end is enough.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Mapping

from rivelt.errors import Place
from rivelt.patterns import regex

_BLANK = regex(r"(?:[ \t\r\n]+|#[^\n]*)*")
_KEY = regex(r"""[ \t]*([\w-]+|"(?:\\.|[^"\\\n])*"|'[^'\n]*')[ \t]*""")
_TEXT = regex(
    r"""
    "{3} (?: \\. | [^\\] )*? "{3,5}   # the kinds of text, the longest quotes first
    | '{3} .*? '{3,5}
    | " (?: \\. | [^"\\\n] )* "
    | ' [^'\n]* '
    | [^,\]}#\n]* [^,\]}#\s]        # a number, a date, true or false
    """,
    re.DOTALL | re.VERBOSE,
)


def key_places(text: str, path: str) -> dict[str, Place]:
    """Return the place of each table and key of a valid TOML text by its dotted name, and that of its value by the name and "=".

    The third element of an array is `name[2]`; the keys of an inline table are named like those of a table.
    """
    scan = _Scan(text, path)
    try:
        scan.document()
    except RecursionError:  # nested far deeper than any brief: what is found so far has its place
        return scan.places
    return scan.places


def value_place(places: Mapping[str, Place], name: str) -> Place | None:
    """Return the place of a value; of its key, of the table that holds it, where the value has none."""
    for key in (f"{name}=", name, name.partition("[")[0], name.rpartition(".")[0]):
        if key in places:
            return places[key]
    return None


class _Scan:
    """One pass over a text."""

    def __init__(self, text: str, path: str) -> None:
        self._text = text
        self._path = path
        self._at = 0
        self._starts = [0, *(found.end() for found in re.finditer("\n", text))]
        self.places: dict[str, Place] = {}

    def document(self) -> None:
        """Find the places of everything."""
        table = ""
        while self._skip() < len(self._text):
            before = self._at
            if self._text[self._at] == "[":
                self._at += 2 if self._text.startswith("[[", self._at) else 1
                self._blanks()
                at, table = self._place(), self._key("")
                self.places.setdefault(table, at)
                self._at = self._end_of_line()
            else:
                self._pair(table)
            if self._at == before:  # nothing that a key or a table begins with: never in a valid text
                return

    def _pair(self, table: str) -> None:
        at = self._place()
        name = self._key(table)
        self.places[name] = at
        if self._text[self._at : self._at + 1] == "=":
            self._at += 1
            self._value(name)

    def _key(self, table: str) -> str:
        """The dotted name that begins here, below a table."""
        parts = [table] if table else []
        while found := _KEY.match(self._text, self._at):
            parts.append(found[1].strip("\"'"))
            self._at = found.end()
            if self._text[self._at : self._at + 1] != ".":
                break
            self._at += 1
        return ".".join(parts)

    def _value(self, name: str) -> None:
        self._blanks()
        self.places[f"{name}="] = self._place()
        opening = self._text[self._at : self._at + 1]
        if opening in {"[", "{"}:
            self._at += 1
            self._inside(name, is_array=opening == "[")
        elif found := _TEXT.match(self._text, self._at):
            self._at = found.end()

    def _inside(self, name: str, *, is_array: bool) -> None:
        """The elements of an array, or the pairs of an inline table, to its closing bracket."""
        number = 0
        while self._skip() < len(self._text):
            before = self._at
            if self._text[self._at] in "]}":
                self._at += 1
                return
            if is_array:
                self._value(f"{name}[{number}]")
                number += 1
            else:
                self._pair(name)
            if self._text[self._skip() : self._at + 1] == ",":
                self._at += 1
            if self._at == before:
                return

    def _blanks(self) -> None:
        while self._text[self._at : self._at + 1] in {" ", "\t"}:
            self._at += 1

    def _skip(self) -> int:
        found = _BLANK.match(self._text, self._at)
        self._at = found.end() if found else self._at
        return self._at

    def _end_of_line(self) -> int:
        end = self._text.find("\n", self._at)
        return len(self._text) if end < 0 else end

    def _place(self) -> Place:
        line = bisect_right(self._starts, self._at)
        return Place(self._path, line, self._at - self._starts[line - 1] + 1)
