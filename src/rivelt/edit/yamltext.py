"""YAML with places: values of nested mappings, and edits of them that leave every other byte alone."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from functools import cached_property
from typing import TypeAlias

import yaml
from msgspec import Struct

from rivelt.edit.splice import Splice, line_end, newline_at, spliced
from rivelt.edit.text import read_text
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

_LARGEST = 1_000_000
_MAX_DEPTH = 40
_PLAIN = regex(r"[A-Za-z][\w./-]*")
_WORDS = frozenset({"true", "false", "yes", "no", "on", "off", "null", "y", "n"})
_UNIT = "  "

YamlValue: TypeAlias = "str | bool | list[YamlValue] | dict[str, YamlValue] | None"
Keys: TypeAlias = tuple[str, ...]


class YamlDocument(Struct, frozen=True, dict=True):
    """A YAML file whose root is a mapping. Anchors, tags and merge keys stay what they are written as: nothing is resolved."""

    path: str
    data: bytes
    root: yaml.MappingNode

    def node(self, *keys: str) -> yaml.Node | None:
        """Return the node at the end of some keys, or None."""
        found: yaml.Node | None = self.root
        for key in keys:
            found = self.members(found).get(key)
        return found

    def members(self, node: yaml.Node | None) -> Mapping[str, yaml.Node]:
        """Return the values of a mapping by their keys; none of another node."""
        if not isinstance(node, yaml.MappingNode):
            return {}
        return {key.value: value for key, value in node.value if isinstance(key, yaml.ScalarNode)}

    def value(self, *keys: str) -> YamlValue:
        """Return what stands at the end of some keys, as plain values; None for nothing."""
        found = self.node(*keys)
        return _plain(found, 0) if found is not None else None

    def place(self, *keys: str) -> Place:
        """Return where a value begins; without it, where the root does."""
        found = self.node(*keys) or self.root
        return Place(self.path, found.start_mark.line + 1, found.start_mark.column + 1)

    def edited(self, changes: Mapping[Keys, YamlValue]) -> bytes:
        """Return the file with values set, or (None) removed; mappings on the way are made."""
        document = self
        ordered = sorted(
            changes.items(), key=lambda change: change[1] is None
        )  # what is new keeps a mapping from getting empty
        for keys, value in ordered:
            if document.value(*keys) != value:
                document = parse_yaml(spliced(document.data, [document._change(keys, value)]), self.path)
        return document.data

    # Splices

    @cached_property
    def _offsets(self) -> list[int]:
        """The byte offset of every character, where the file is not ASCII."""
        found, at = [0], 0
        for character in self.data.decode():
            at += len(character.encode())
            found.append(at)
        return found

    def _at(self, mark: yaml.Mark) -> int:
        return mark.index if self.data.isascii() else self._offsets[mark.index]

    def _change(self, keys: Keys, value: YamlValue) -> Splice:
        known = self.node(*keys)
        if value is None:
            return self._removed(keys)
        if known is not None and not _is_block(known):
            return Splice(self._at(known.start_mark), self._at(known.end_mark), _flow(value).encode())
        if known is not None:
            at = self._key(keys)
            return Splice(self._at(at.start_mark), self._end(known), f"{keys[-1]}: {_flow(value)}".encode())
        depth = next(depth for depth in range(len(keys) - 1, -1, -1) if self.node(*keys[:depth]) is not None)
        holder = self.node(*keys[:depth])
        assert holder is not None
        return self._added(holder, keys[:depth], keys[depth:], value)

    def _added(self, holder: yaml.Node, outer: Keys, rest: Keys, value: YamlValue) -> Splice:
        """A new entry of a mapping, as the last one; `rest`: its key, and those of mappings to be made."""
        if isinstance(holder, yaml.MappingNode) and holder.flow_style:
            nested = value
            for key in reversed(rest[1:]):
                nested = {key: nested}
            at = self._at(holder.end_mark) - 1
            gap = ", " if holder.value else ""
            end = len(self.data[:at].rstrip()) if holder.value else at
            return Splice(end, end, f"{gap}{rest[0]}: {_flow(nested)}".encode())
        if isinstance(holder, yaml.MappingNode) and holder.value:
            column = holder.value[0][0].start_mark.column
            at = self._end(holder.value[-1][1])
        else:  # `key:` with nothing after it
            bare = self._key(outer)
            column = bare.start_mark.column + len(_UNIT)
            at = line_end(self.data, self._at(bare.end_mark))
        lines = [f"{' ' * column}{_UNIT * level}{key}:" for level, key in enumerate(rest)]
        lines[-1] += f" {_flow(value)}"
        newline = newline_at(self.data, at).decode()
        if at and self.data[at - 1 : at] == b"\n":  # after a block scalar
            return Splice(at, at, "".join(f"{line}{newline}" for line in lines).encode())
        return Splice(at, at, "".join(f"{newline}{line}" for line in lines).encode())

    def _removed(self, keys: Keys) -> Splice:
        holder, found, key = self.node(*keys[:-1]), self.node(*keys), self._key(keys)
        assert isinstance(holder, yaml.MappingNode)
        assert found is not None
        start, end = self._at(key.start_mark), self._end(found)
        if holder.flow_style:
            before = len(self.data[:start].rstrip())
            after = re.compile(rb"\s*,\s*").match(self.data, end)
            if after:
                return Splice(start, after.end(), b"")
            is_last = self.data[before - 1 : before] == b","
            return Splice(before - 1 if is_last else start, end, b"")
        line = self.data.rfind(b"\n", 0, start) + 1
        if len(holder.value) == 1 and len(keys) > 1:
            outer = self._at(self._key(keys[:-1]).end_mark)
            colon = self.data.index(b":", outer) + 1
            return Splice(colon, end, b" {}")
        if self.data[end - 1 : end] != b"\n":  # else a block scalar, which ends with its last line
            end = self.data.find(b"\n", end) + 1 or len(self.data)
        return Splice(line, end, b"")

    def _key(self, keys: Keys) -> yaml.Node:
        holder = self.node(*keys[:-1])
        assert isinstance(holder, yaml.MappingNode)
        return next(key for key, _ in holder.value if isinstance(key, yaml.ScalarNode) and key.value == keys[-1])

    def _end(self, node: yaml.Node) -> int:
        """Where the text of a value ends: of a block, that of the last value in it, with the comment on its line."""
        while _is_block(node) and node.value:
            last = node.value[-1]
            node = last[1] if isinstance(node, yaml.MappingNode) else last
        end = self._at(node.end_mark)
        if self.data[end - 1 : end] == b"\n":
            return end
        return line_end(self.data, end) if not self._is_in_flow(end) else end

    def _is_in_flow(self, at: int) -> bool:
        rest = self.data[at : line_end(self.data, at)].strip()
        return bool(rest) and not rest.startswith(b"#")


def parse_yaml(data: bytes, path: str) -> YamlDocument:
    """Read a YAML file.

    Raises:
        BadInput: it is too large, not YAML, or its root is not a mapping.
    """
    if len(data) > _LARGEST:
        raise BadInput("the file is too large", place=Place(path), hint="A project description has less than 1 MB.")
    text = read_text(data, path)
    try:
        root = yaml.compose(text, Loader=yaml.SafeLoader)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark
        place = Place(path, mark.line + 1, mark.column + 1) if mark is not None else Place(path)
        raise BadInput(f"not readable YAML: {error.problem}", place=place) from error
    except (yaml.YAMLError, RecursionError, ValueError) as error:
        raise BadInput("not readable YAML", place=Place(path)) from error
    if not isinstance(root, yaml.MappingNode):
        raise BadInput("not a YAML file with keys", place=Place(path))
    return YamlDocument(path, data, root)


def _is_block(node: yaml.Node) -> bool:
    return isinstance(node, yaml.CollectionNode) and not node.flow_style


def _plain(node: yaml.Node, depth: int) -> YamlValue:
    """A node as plain values; what is nested too deep is left out."""
    if depth > _MAX_DEPTH:
        return None
    if isinstance(node, yaml.MappingNode):
        return {key.value: _plain(value, depth + 1) for key, value in node.value if isinstance(key, yaml.ScalarNode)}
    if isinstance(node, yaml.SequenceNode):
        return [_plain(value, depth + 1) for value in node.value]
    if node.tag.endswith(":bool"):
        return str(node.value).lower() in {"true", "yes", "on"}
    return None if node.tag.endswith(":null") else str(node.value)


def _flow(value: YamlValue) -> str:
    """A value on one line."""
    if isinstance(value, dict):
        return "{" + ", ".join(f"{key}: {_flow(one)}" for key, one in value.items()) + "}"
    if isinstance(value, list):
        return f"[{', '.join(map(_flow, value))}]"
    if isinstance(value, bool):
        return str(value).lower()
    text = value or ""
    return text if _PLAIN.fullmatch(text) and text.lower() not in _WORDS else json.dumps(text, ensure_ascii=False)
