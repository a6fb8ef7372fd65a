"""XML property lists: reading values, and setting or removing a top-level key by splicing."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeAlias

from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at, spliced
from rivelt.edit.xml import Document, Node, parse_xml
from rivelt.errors import BadInput, Place
from rivelt.xmltext import escaped

Value: TypeAlias = "str | bool | float | list[Value] | dict[str, Value] | None"


class Plist:
    """An XML property list whose root is a dictionary.

    Raises:
        BadInput: binary, not XML, or without a dictionary at its root.
    """

    def __init__(self, data: bytes, path: str) -> None:
        if data.startswith(b"bplist"):
            hint = "Convert it: plutil -convert xml1 " + path
            raise BadInput("the property list is binary, which Rivelt cannot edit yet", place=Place(path), hint=hint)
        self.document: Document = parse_xml(data, path)
        root = self.document.root
        top = root.first("dict") if root.local == "plist" else None
        if top is None:
            raise BadInput("the property list has no dictionary at its root", place=Place(path, root.line))
        self._top = top

    @property
    def values(self) -> Mapping[str, Value]:
        """The whole list as plain values; dates and data stay text."""
        value = _value(self._top)
        assert isinstance(value, dict)
        return value

    def set_string(self, key: str, text: str, *, near: str) -> bytes:
        """The file with top-level `key` set to a string.

        A new key goes after the last key that begins with `near`, else to the end of the dictionary: keys are never sorted.
        """
        document = self.document
        pairs = _pairs(self._top)
        if key in pairs:
            _, value = pairs[key]
            if value.local == "string":
                splice = document.set_content(value, text)
            else:
                splice = Splice(value.start, value.end, f"<string>{escaped(text)}</string>".encode())
            return spliced(document.data, [splice])
        lines = [f"<key>{key}</key>", f"<string>{escaped(text)}</string>"]
        related = [value for name, (_, value) in pairs.items() if name.startswith(near)]
        if related:
            key_of = next(node for node, value in pairs.values() if value is related[-1])
            return spliced(document.data, [self._insert(related[-1], key_of, lines)])
        return spliced(document.data, [document.append_child(self._top, lines, self._indent_unit())])

    def remove(self, key: str) -> bytes:
        """The file without a top-level key and its value; unchanged when the key is not there."""
        pairs = _pairs(self._top)
        if key not in pairs:
            return self.document.data
        return spliced(self.document.data, [self.document.remove(node) for node in pairs[key]])

    def _insert(self, after: Node, key_node: Node, lines: list[str]) -> Splice:
        data = self.document.data
        if not begins_line(data, after.start) and not begins_line(data, key_node.start):
            return Splice(after.end, after.end, "".join(lines).encode())
        newline, indent = newline_at(data, after.start), indent_at(data, key_node.start)
        if not begins_line(data, after.start):  # this file keeps key and value on one line
            lines = ["".join(lines)]
        return Splice(after.end, after.end, b"".join(newline + indent + line.encode() for line in lines))

    def _indent_unit(self) -> bytes:
        return b"\t"


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
