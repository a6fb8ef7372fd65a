"""OpenStep property lists, the language of Xcode's `project.pbxproj`, read with the place of every value.

Readers from the registries give the values alone; splicing needs to know where each one stands.
"""

from __future__ import annotations

import re
from typing import TypeAlias

from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

_SKIP = regex(r"(?:\s+|//[^\n]*|/\*.*?\*/)*", re.DOTALL)
_BARE = regex(r"[\w.$/:@+-]+")  # wider than the format asks for: old files hold bare `-` and `@`
_STRING = regex(r'"((?:[^"\\]|\\.)*)"|\'((?:[^\'\\]|\\.)*)\'', re.DOTALL)
_DATA = regex(r"<[0-9a-fA-F\s]*>")
_ESCAPE = regex(r"\\(U[0-9a-fA-F]{4}|[0-7]{1,3}|.)", re.DOTALL)
_ESCAPES = {"n": "\n", "t": "\t", "r": "\r", "a": "\a", "b": "\b", "f": "\f", "v": "\v"}
_MAX_DEPTH = 100

# One regular expression match handles each of the four constructs that make up nearly all of a project file. Anything else takes the
# slow path, which gives the same result and reports where an error is. Atomic groups prevent backtracking. A dictionary of scalars, as
# most objects are, is parsed only when its entries are requested: the match has already shown that it is valid.
_BETWEEN = r"(?>(?:\s+|//[^\n]*|/\*.*?\*/)*+)"
_PLAIN = r'(?>[\w.$/:@+-]++|"(?:[^"\\]|\\.)*+")'
_SCALAR = f"({_PLAIN})"
_FLAT = rf"(\{{(?>{_BETWEEN}{_PLAIN}{_BETWEEN}={_BETWEEN}{_PLAIN}{_BETWEEN};)*+{_BETWEEN}\}})"
_ENTRY = regex(
    rf"{_BETWEEN}(?:{_SCALAR}{_BETWEEN}={_BETWEEN}(?:{_SCALAR}{_BETWEEN};|{_FLAT}{_BETWEEN};|(?=[{{(]))|(\}}))",
    re.DOTALL,
)
_ISA = regex(r"\{\s*isa = (\w+);")
_ITEM = regex(rf"{_BETWEEN}(?:{_SCALAR}{_BETWEEN},|(\)))", re.DOTALL)

_NO_STARTS: dict[str, int] = {}  # of scalars, which are most values

Plain: TypeAlias = "str | list[Plain] | dict[str, Plain]"


class Value:
    """A value and the characters it comes from: `start` up to `end` of the text, brackets and quotes included.

    Exactly one of `text`, `items` and `entries` is set.
    """

    __slots__ = ("_entries", "_file", "_starts", "end", "items", "start", "text")

    def __init__(
        self,
        start: int,
        end: int = -1,
        text: str | None = None,
        items: list[Value] | None = None,
        entries: dict[str, Value] | None = None,
        file: str | None = None,
    ) -> None:
        """Take what is known of a value; `file`: the text of the whole file, for a dictionary of scalars that is read later."""
        self.start = start
        self.end = end
        self.text = text
        self.items = items
        self._entries = entries
        self._starts: dict[str, int] = _NO_STARTS if entries is None else {}
        self._file = file

    def _read(self) -> None:
        if self._file is not None and self._entries is None:
            self._entries, self._starts = _flat_entries(self._file, self.start)

    @property
    def entries(self) -> dict[str, Value] | None:
        """The entries of a dictionary, by key; None for another value."""
        self._read()
        return self._entries

    @property
    def entry_starts(self) -> dict[str, int]:
        """Where the key of each entry begins."""
        self._read()
        return self._starts

    @property
    def isa(self) -> str | None:
        """The class of an object; of most objects known by their first entry alone."""
        if self._file is not None and (found := _ISA.match(self._file, self.start)):
            return found[1]
        isa = (self.entries or {}).get("isa")
        return str(isa.plain) if isa is not None else None

    @property
    def plain(self) -> Plain:
        """The value without places."""
        if self.entries is not None:
            return {key: value.plain for key, value in self.entries.items()}
        if self.items is not None:
            return [item.plain for item in self.items]
        return self.text or ""


def parse_openstep(text: str, path: str) -> Value:
    """Read a whole property list.

    Raises:
        BadInput: the text does not follow the format, with line and column.
    """
    return _Reader(text, path).read()


class _Reader:
    def __init__(self, text: str, path: str) -> None:
        self._text = text
        self._path = path
        self._position = 0
        self._depth = 0

    def read(self) -> Value:
        value = self._value()
        self._skip()
        if self._position != len(self._text):
            raise self._error("something follows the end of the property list")
        return value

    def _error(self, message: str) -> BadInput:
        before = self._text[: self._position].encode()
        hint = "Open the project in Xcode; if it opens there, tell us."
        return BadInput(
            f"not a readable project file: {message}", place=Place.at(self._path, before, len(before)), hint=hint
        )

    def _skip(self) -> None:
        found = _SKIP.match(self._text, self._position)
        assert found is not None
        self._position = found.end()

    def _peek(self) -> str:
        self._skip()
        return self._text[self._position : self._position + 1]

    def _expect(self, character: str) -> None:
        if self._peek() != character:
            raise self._error(f"expected {character!r}, found {self._peek() or 'the end of the file'!r}")
        self._position += 1

    def _value(self) -> Value:
        character = self._peek()
        start = self._position
        if character in {"{", "("}:
            self._depth += 1
            self._refuse_deep(self._depth)
            value = self._dictionary(start) if character == "{" else self._array(start)
            self._depth -= 1
        else:
            value = Value(start, text=self._string())
        value.end = self._position
        return value

    def _refuse_deep(self, depth: int) -> None:
        if depth > _MAX_DEPTH:
            raise self._error(f"values are nested more than {_MAX_DEPTH} deep")

    def _string(self) -> str:
        self._skip()
        if found := _STRING.match(self._text, self._position):
            self._position = found.end()
            return _ESCAPE.sub(_unescape, found[1] if found[1] is not None else found[2])
        if found := _BARE.match(self._text, self._position) or _DATA.match(self._text, self._position):
            self._position = found.end()
            return found[0]
        raise self._error(f"expected a value, found {self._peek() or 'the end of the file'!r}")

    def _dictionary(self, start: int) -> Value:
        entries: dict[str, Value] = {}
        value = Value(start, entries=entries)
        starts = value.entry_starts
        self._position += 1
        while True:
            found = _ENTRY.match(self._text, self._position)
            if found is None:
                key_start, key, entry = self._odd_entry()
            elif found[4]:
                self._position = found.end()
                return value
            else:
                key_start, key = found.start(1), _text(found[1])
                self._position = found.end()
                if found[2]:
                    entry = Value(*found.span(2), _text(found[2]))
                elif found[3]:
                    self._refuse_deep(self._depth + 1)
                    entry = Value(*found.span(3), file=self._text)
                else:
                    entry = self._nested()
            entries[key] = entry
            starts[key] = key_start

    def _nested(self) -> Value:
        value = self._value()
        if self._text.startswith(";", self._position):
            self._position += 1
        else:
            self._expect(";")
        return value

    def _odd_entry(self) -> tuple[int, str, Value]:
        self._skip()
        key_start = self._position
        key = self._string()
        self._expect("=")
        value = self._value()
        self._expect(";")
        return key_start, key, value

    def _array(self, start: int) -> Value:
        items: list[Value] = []
        value = Value(start, items=items)
        self._position += 1
        while True:
            found = _ITEM.match(self._text, self._position)
            if found is None:
                items.append(self._value())
                if self._peek() != ")":
                    self._expect(",")
                continue
            self._position = found.end()
            if found[2]:
                return value
            items.append(Value(*found.span(1), _text(found[1])))


def _flat_entries(file: str, start: int) -> tuple[dict[str, Value], dict[str, int]]:
    """The entries of a dictionary of scalars that is known to be readable, and where their keys begin."""
    entries: dict[str, Value] = {}
    starts: dict[str, int] = {}
    position = start + 1
    while (found := _ENTRY.match(file, position)) and not found[4]:
        key = _text(found[1])
        entries[key] = Value(*found.span(2), _text(found[2]))
        starts[key] = found.start(1)
        position = found.end()
    return entries, starts


def _text(written: str) -> str:
    """What a bare or quoted value stands for."""
    if written[0] != '"':
        return written
    return _ESCAPE.sub(_unescape, written[1:-1]) if "\\" in written else written[1:-1]


def _unescape(found: re.Match[str]) -> str:
    code = found[1]
    if code[0] == "U" and len(code) == 5:
        return chr(int(code[1:], 16))
    if code[0] in "01234567":
        return chr(int(code, 8))
    return _ESCAPES.get(code, code)
