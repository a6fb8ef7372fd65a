"""Property lists: reading values, and setting or removing top-level keys; XML by splicing, binary ones as a whole."""

from __future__ import annotations

import codecs
import plistlib
import re
from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any, TypeAlias

from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at, spliced
from rivelt.edit.xml import Document, Node, parse_xml
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.xmltext import escaped

Value: TypeAlias = "str | bool | float | list[Value] | dict[str, Value] | None"

_BINARY = b"bplist"
_UTF16 = {codecs.BOM_UTF16_LE: "utf-16-le", codecs.BOM_UTF16_BE: "utf-16-be"}
_DECLARED = regex(r"""(<\?xml[^>]*\bencoding\s*=\s*["'])(UTF-?16\w*)(["'])""", re.IGNORECASE)


class Plist:
    """A property list whose root is a dictionary: XML in UTF-8 or UTF-16, or binary.

    Raises:
        BadInput: not readable, without a dictionary at its root, or with one whose keys and values do not pair.
    """

    def __init__(self, data: bytes, path: str) -> None:
        self.data = data
        self.path = path
        self._binary: dict[str, Any] | None = _read_binary(data, path) if data.startswith(_BINARY) else None
        if self._binary is not None:
            return
        self._encoding = _UTF16.get(data[:2])
        self._declared = ""
        text = _to_utf8(data, path) if self._encoding else data
        if self._encoding and (found := _DECLARED.search(text.decode())):
            self._declared = found[2]
            text = _DECLARED.sub(r"\1UTF-8\3", text.decode(), count=1).encode()
        self._document = parse_xml(text, path)
        root = self._document.root
        top = root.first("dict") if root.local == "plist" else None
        if top is None:
            raise BadInput("the property list has no dictionary at its root", place=Place(path, root.line))
        self._top = top
        for node in top.walk():
            if node.local == "dict":
                _refuse_unpaired(node, self._document)

    @cached_property
    def _pairs(self) -> dict[str, tuple[Node, Node]]:
        return _pairs(self._top)

    def place(self, key: str) -> Place:
        """Return where a top-level key stands; the file alone where the list is not UTF-8 XML, or lacks the key."""
        if self._binary is not None or self._encoding or key not in self._pairs:
            return Place(self.path)
        return self._document.place(self._pairs[key][0])

    @cached_property
    def values(self) -> Mapping[str, Value]:
        """The whole list as plain values; dates and data stay text."""
        if self._binary is not None:
            return self._binary
        value = _value(self._top)
        assert isinstance(value, dict)
        return value

    def edited(self, changes: Mapping[str, Value], *, near: str) -> bytes:
        """Return the file with top-level keys set, or (None) removed; byte for byte as it was when nothing changes.

        A new key goes after the last key that begins with `near`, else to the end of the dictionary: keys are never sorted.
        """
        values = self.values
        wanted = {key: value for key, value in changes.items() if values.get(key) != value}
        if not wanted:
            return self.data
        if self._binary is not None:
            kept = {key: value for key, value in {**self._binary, **wanted}.items() if value is not None}
            return plistlib.dumps(kept, fmt=plistlib.FMT_BINARY, sort_keys=False)
        return self._in_own_encoding(spliced(self._document.data, self._splices(wanted, near)))

    def _splices(self, wanted: Mapping[str, Value], near: str) -> Iterator[Splice]:
        """The splices of all changes; new keys go together into one place."""
        pairs = self._pairs
        added: list[list[str]] = []
        for key, value in wanted.items():
            if value is None:
                yield from (self._document.remove(node) for node in pairs[key])
            elif key in pairs:
                yield self._replaced(*pairs[key], value)
            else:
                added.append([f"<key>{escaped(key)}</key>", *_lines(value, self._unit)])
        if added:
            kept = {key: pair for key, pair in pairs.items() if wanted.get(key, True) is not None}
            yield self._added(added, kept, near)

    def _in_own_encoding(self, text: bytes) -> bytes:
        if self._encoding is None:
            return text
        shown = text.decode()
        if self._declared:
            shown = re.sub(r"""(<\?xml[^>]*\bencoding\s*=\s*["'])UTF-8""", rf"\g<1>{self._declared}", shown, count=1)
        return self.data[:2] + shown.encode(self._encoding)

    def _replaced(self, key_node: Node, old: Node, value: Value) -> Splice:
        document = self._document
        if old.local == "string" and isinstance(value, str):
            return document.set_content(old, value)
        indent = indent_at(document.data, key_node.start)
        text = newline_at(document.data, old.start).join(
            (indent if index else b"") + line.encode() for index, line in enumerate(_lines(value, self._unit))
        )
        return Splice(old.start, old.end, text)

    def _added(self, added: list[list[str]], kept: Mapping[str, tuple[Node, Node]], near: str) -> Splice:
        """New entries, each the lines of its key and its value, after the last key that stays and begins with `near`."""
        related = [pair for key, pair in kept.items() if key.startswith(near)]
        if not related and not kept:
            return self._alone([line for lines in added for line in lines])
        key_node, after = (related or list(kept.values()))[-1]
        data = self._document.data
        if related and not begins_line(data, after.start) and not begins_line(data, key_node.start):
            return Splice(after.end, after.end, "".join(line for lines in added for line in lines).encode())
        newline, indent = newline_at(data, after.start), indent_at(data, key_node.start)
        if related and not begins_line(data, after.start):  # this file keeps key and value on one line
            added = [["".join(lines[:2]), *lines[2:]] for lines in added]
        text = b"".join(newline + indent + line.encode() for lines in added for line in lines)
        return Splice(after.end, after.end, text)

    def _alone(self, lines: list[str]) -> Splice:
        """New entries of a dictionary that has no other (any more); comments in it stay."""
        document, top = self._document, self._top
        if top.inside == top.end:
            return document.append_child(top, lines, self._unit.encode())
        data, at = document.data, top.closing
        outer, newline = indent_at(data, top.start), newline_at(data, top.start)
        inner = [outer + self._unit.encode() + line.encode() for line in lines]
        if begins_line(data, at):
            start = data.rfind(b"\n", 0, at) + 1
            return Splice(start, start, b"".join(line + newline for line in inner))
        return Splice(at, at, b"".join(newline + line for line in inner) + newline + outer)

    @property
    def _unit(self) -> str:
        """One level of indentation, as the dictionary's keys have it."""
        data = self._document.data
        if self._top.children and begins_line(data, self._top.children[0].start):
            outer = indent_at(data, self._top.start)
            unit = indent_at(data, self._top.children[0].start).removeprefix(outer).decode()
            return unit or "\t"
        return "\t"


def _to_utf8(data: bytes, path: str) -> bytes:
    try:
        return data[2:].decode(_UTF16[data[:2]]).encode()
    except UnicodeDecodeError as error:
        raise BadInput("the file is not readable UTF-16", place=Place(path), hint="Save it again in Xcode.") from error


def _read_binary(data: bytes, path: str) -> dict[str, Any]:
    try:
        value = plistlib.loads(data, fmt=plistlib.FMT_BINARY)
    except Exception as error:  # plistlib lets whatever goes wrong through
        raise BadInput(
            "the binary property list is damaged", place=Place(path), hint="Save it again in Xcode."
        ) from error
    if not isinstance(value, dict) or not all(isinstance(key, str) for key in value):
        raise BadInput("the property list has no dictionary at its root", place=Place(path))
    return value


def _lines(value: Value, unit: str) -> list[str]:
    """A value as lines of XML."""
    if isinstance(value, bool):
        return ["<true/>" if value else "<false/>"]
    if isinstance(value, dict):
        if not value:
            return ["<dict/>"]
        inner = [line for key, item in value.items() for line in (f"<key>{escaped(key)}</key>", *_lines(item, unit))]
        return ["<dict>", *(unit + line for line in inner), "</dict>"]
    if isinstance(value, str):
        return [f"<string>{escaped(value)}</string>"]
    raise TypeError(f"cannot write a {type(value).__name__}")


def _refuse_unpaired(node: Node, document: Document) -> None:
    """Refuse a dictionary in which a key has no value, or a value no key: readers disagree on what it says."""
    nodes = node.children
    for index, child in enumerate(nodes):
        if (child.local == "key") != (index % 2 == 0):
            what = "a value without a key" if index % 2 == 0 else "a key without a value"
            at = document.place(child if index % 2 == 0 else nodes[index - 1])
            raise BadInput(f"the property list has {what}", place=at, hint="Fix it; Xcode cannot read it either.")
    if len(nodes) % 2:
        at = document.place(nodes[-1])
        raise BadInput("the property list has a key without a value", place=at, hint="Fix it in Xcode.")


def _pairs(top: Node) -> dict[str, tuple[Node, Node]]:
    """The dictionary's keys with their key and value elements, in file order."""
    nodes = iter(top.children)
    return {key.text.strip(): (key, value) for key, value in zip(nodes, nodes, strict=False) if key.local == "key"}


def _value(node: Node) -> Value:
    match node.local:
        case "dict":
            return {key: _value(value) for key, (_, value) in _pairs(node).items()}
        case "array":
            return [_value(child) for child in node.children]
        case "true" | "false":
            return node.local == "true"
        case "integer" | "real":
            try:
                return float(node.text)
            except ValueError:
                return None
        case _:
            return node.text
