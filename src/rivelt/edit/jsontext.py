"""JSON with places: members and items of a document, and splices that set them; everything else stays to the byte."""

from __future__ import annotations

import codecs
import json
import re
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

from msgspec import Struct, field

from rivelt.edit.lines import Lines
from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at
from rivelt.edit.text import BOM, read_text
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

_SPACE = regex(rb"[ \t\r\n]*")
_SCALAR = regex(rb"[^\s,\]}]+")
_STRING = regex(rb'"(?:[^"\\]|\\.)*"', re.DOTALL)
_MOST_BYTES = 5_000_000


class JsonNode(Struct):
    """A value and where it stands: bytes `start` to `end`. An object has `members`, an array has `items`."""

    value: Any
    start: int
    end: int = -1
    members: dict[str, JsonNode] = field(default_factory=dict)
    items: list[JsonNode] = field(default_factory=list)
    key_start: int = -1


class JsonDocument(Struct, frozen=True, dict=True):
    """A JSON file whose root is an object."""

    path: str
    data: bytes
    value: Mapping[str, Any]

    @cached_property
    def root(self) -> JsonNode:
        """The object with the places of all that is in it; found when it is first asked for."""
        start = len(codecs.BOM_UTF8) if self.data.startswith(codecs.BOM_UTF8) else 0
        return _Scanner(self.data).node(_SPACE.match(self.data, start).end())  # type: ignore[union-attr]  # it always matches

    @cached_property
    def _lines(self) -> Lines:
        return Lines(self.data, self.path)

    def place(self, key: str = "") -> Place:
        """Return where the value of a member of the root begins; without such a member, where the root does."""
        node = self.root.members.get(key)
        return self._lines.place(node.start if node else self.root.start)

    def set_member(self, key: str, value: Any, near: Sequence[str] = ()) -> list[Splice]:
        """Set a member of the root: in place, or as a new one after the last of the members `near`, else at the end."""
        known = self.root.members.get(key)
        if known is not None:
            return [] if known.value == value else [Splice(known.start, known.end, self._dumped(value, known))]
        return [self._added(key, value, near)]

    def set_items(self, key: str, kept: Sequence[JsonNode], added: Sequence[Any]) -> list[Splice]:
        """Give an array of the root the items `kept`, which are some of its own, and new ones after them."""
        known = self.root.members.get(key)
        if known is None or not isinstance(known.value, list):
            return self.set_member(key, list(added))
        if not added and len(kept) == len(known.items):
            return []
        starts = [known.start + 1, *(item.end for item in known.items)]
        gaps = {id(item): self._bare(start, item.start) for start, item in zip(starts, known.items, strict=False)}
        fallback = gaps[id(known.items[-1])] if known.items else self._line_gap(known)
        tail = self.data[known.items[-1].end : known.end - 1] if known.items else self._line_gap(known, is_tail=True)
        parts = [gaps[id(item)] + self.data[item.start : item.end] for item in kept]
        indent = fallback.rpartition(b"\n")[2] if b"\n" in fallback else b""
        is_spread = bool(known.items) and b"\n" in self.data[known.items[-1].start : known.items[-1].end]
        for value in added:
            text = _dump(value, self._unit() if is_spread else None, newline_at(self.data, known.start), indent)
            if known.items and self.data[known.items[-1].start :].startswith(b"{ ") and not is_spread:
                text = b"{ " + text.strip(b"{}") + b" }"
            parts.append(fallback + text)
        return [Splice(known.start, known.end, b"[" + b",".join(parts) + tail + b"]")]

    def append_item(self, array: JsonNode, value: Any) -> Splice:
        """Return the splice that adds an item to an array anywhere in the document, written like the one before it."""
        if not array.items:
            return Splice(array.start + 1, array.end - 1, json.dumps(value, ensure_ascii=False).encode())
        last = array.items[-1]
        before = array.items[-2].end if len(array.items) > 1 else array.start + 1
        gap = self._bare(before, last.start)
        return Splice(last.end, last.end, b"," + gap + json.dumps(value, ensure_ascii=False).encode())

    def _bare(self, start: int, end: int) -> bytes:
        """The white space between two items."""
        return self.data[start:end].replace(b",", b"", 1)

    def _line_gap(self, node: JsonNode, *, is_tail: bool = False) -> bytes:
        if b"\n" not in self.data:
            return b""
        outer = indent_at(self.data, node.start)
        return newline_at(self.data, node.start) + outer + (b"" if is_tail else self._unit())

    def _unit(self) -> bytes:
        """One level of indentation."""
        first = next(iter(self.root.members.values()), None)
        if first is None or not begins_line(self.data, first.key_start):
            return b"  "
        return indent_at(self.data, first.key_start).removeprefix(indent_at(self.data, self.root.start)) or b"  "

    def _dumped(self, value: Any, node: JsonNode) -> bytes:
        unit = self._unit() if b"\n" in self.data else None
        return _dump(value, unit, newline_at(self.data, node.start), indent_at(self.data, node.start))

    def _added(self, key: str, value: Any, near: Sequence[str]) -> Splice:
        members = self.root.members
        name = json.dumps(key).encode()
        if not members:
            unit, newline = b"  ", newline_at(self.data, self.root.start)
            text = b"{" + newline + unit + name + b": " + _dump(value, unit, newline, unit) + newline + b"}"
            return Splice(self.root.start, self.root.end, text)
        after = next((members[other] for other in reversed(near) if other in members), [*members.values()][-1])
        first = next(iter(members.values()))
        colon = self.data[first.key_start : first.start].rpartition(b'"')[2]
        if not begins_line(self.data, after.key_start):
            return Splice(after.end, after.end, b", " + name + colon + _dump(value, None, b"\n", b""))
        newline, indent = newline_at(self.data, after.key_start), indent_at(self.data, after.key_start)
        text = b"," + newline + indent + name + colon + _dump(value, self._unit(), newline, indent)
        return Splice(after.end, after.end, text)


def _dump(value: Any, unit: bytes | None, newline: bytes, indent: bytes) -> bytes:
    text = json.dumps(value, ensure_ascii=False, indent=unit.decode() if unit is not None else None)
    return text.encode().replace(b"\n", newline + indent)


def read_json(data: bytes, path: str, hint: str = "Fix it.") -> Any:
    """Return the value that a JSON file holds; a byte order mark is left alone.

    Raises:
        BadInput: it is not JSON, not UTF-8, far too large, or nested far too deeply.
    """
    if len(data) > _MOST_BYTES:
        raise BadInput(f"the file has more than {_MOST_BYTES // 1_000_000} MB", place=Place(path))
    text = read_text(data, path).removeprefix(BOM)
    try:
        return json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as error:
        message = f"not JSON: {error.msg[:1].lower()}{error.msg[1:]}"
        raise BadInput(message, place=Place(path, error.lineno, error.colno), hint=hint) from error
    except RecursionError as error:
        raise BadInput("not JSON: values are nested too deeply", place=Place(path), hint=hint) from error
    except ValueError as error:
        raise BadInput(f"not JSON: {error}", place=Place(path), hint=hint) from error


def parse_json(data: bytes, path: str) -> JsonDocument:
    """Parse a JSON file with an object at its root.

    Raises:
        BadInput: it cannot be read (see `read_json`), or holds no object.
    """
    value = read_json(data, path)
    if not isinstance(value, dict):
        raise BadInput("the file holds no JSON object", place=Place(path, 1))
    return JsonDocument(path, data, value)


def _refuse_constant(name: str) -> None:
    raise ValueError(f"{name} is not a JSON value")


class _Scanner:
    """Finds where the values of a document stand that is known to be JSON."""

    def __init__(self, data: bytes) -> None:
        self._data = data

    def node(self, start: int) -> JsonNode:
        opening = self._data[start : start + 1]
        if opening == b"{":
            return self._object(start)
        if opening == b"[":
            return self._array(start)
        found = (_STRING if opening == b'"' else _SCALAR).match(self._data, start)
        assert found is not None
        return JsonNode(json.loads(found[0]), start, found.end())

    def _object(self, start: int) -> JsonNode:
        node = JsonNode({}, start)
        position = self._skip(start + 1)
        while self._data[position : position + 1] == b'"':
            key = self.node(position)
            value = self.node(self._skip(self._skip(key.end) + 1))
            value.key_start = position
            node.members[key.value] = value
            node.value[key.value] = value.value
            position = self._after(value.end)
        node.end = position + 1
        return node

    def _array(self, start: int) -> JsonNode:
        node = JsonNode([], start)
        position = self._skip(start + 1)
        while self._data[position : position + 1] != b"]":
            item = self.node(position)
            node.items.append(item)
            node.value.append(item.value)
            position = self._after(item.end)
        node.end = position + 1
        return node

    def _skip(self, position: int) -> int:
        found = _SPACE.match(self._data, position)
        return found.end() if found else position

    def _after(self, position: int) -> int:
        """After a value: past the comma, if there is one."""
        position = self._skip(position)
        return self._skip(position + 1) if self._data[position : position + 1] == b"," else position
