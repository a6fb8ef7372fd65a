"""JavaScript and TypeScript: objects that are written out in a file, and edits of them."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cache, cached_property
from typing import TYPE_CHECKING, TypeAlias

from msgspec import Struct

from rivelt.edit.source.language import SyntaxFile, walk
from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at
from rivelt.patterns import regex

if TYPE_CHECKING:
    from tree_sitter import Node, Parser

_WRAPPERS = frozenset({"as_expression", "satisfies_expression", "parenthesized_expression", "non_null_expression"})
_MAX_DEPTH = 12
_NAME = regex(r"[A-Za-z_$][\w$]*")
_NUMBER = regex(r"-?\d+(?:\.\d+)?")


class Computed(Struct, frozen=True):
    """A value that code works out: its text."""

    text: str

    def __str__(self) -> str:
        return f"{self.text}, which code works out"


Value: TypeAlias = "str | bool | float | Computed | list[Value] | dict[str, Value] | None"


class Language(SyntaxFile):
    """A JavaScript or TypeScript file."""

    name = "JavaScript"
    endings = (".ts", ".tsx", ".js", ".jsx", ".mjs", ".mts", ".cjs", ".cts")

    @staticmethod
    @cache
    def parser() -> Parser:
        """Return a parser for JavaScript and TypeScript, JSX included."""
        import tree_sitter_typescript
        from tree_sitter import Language as Grammar
        from tree_sitter import Parser

        return Parser(Grammar(tree_sitter_typescript.language_tsx()))

    @cached_property
    def _constants(self) -> Mapping[str, Node]:
        """The values of the constants at the top of the file."""
        found = {}
        for statement in self.root.named_children:
            declaration = statement
            if statement.type == "export_statement":
                declaration = statement.child_by_field_name("declaration") or statement
            for one in declaration.named_children:
                name, value = one.child_by_field_name("name"), one.child_by_field_name("value")
                if one.type == "variable_declarator" and name is not None and value is not None:
                    found[self.text(name)] = value
        return found

    def constant(self, name: str) -> Node | None:
        """Return the object that a constant at the top of the file is."""
        value = self._constants.get(name)
        found = self._bare(value) if value is not None else None
        return found if found is not None and found.type == "object" else None

    def default_object(self) -> Node | None:
        """Return the object that the default export is, or that its function returns."""
        for statement in self.root.named_children:
            if statement.type != "export_statement" or "default" not in {child.type for child in statement.children}:
                continue
            for node in walk(statement):
                if node.type == "object":
                    parent = node.parent
                    while parent is not None and parent.type in _WRAPPERS:
                        parent = parent.parent
                    if parent is not None and parent.type in {"return_statement", "export_statement", "arrow_function"}:
                        return node
        return None

    def objects_called(self, name: str) -> Iterator[Node]:
        """Yield the objects that are values of properties of a name."""
        for node in walk(self.root):
            if node.type == "pair" and self._key(node) == name:
                value = self._bare(node.named_children[-1])
                if value.type == "object":
                    yield value

    def pairs(self, node: Node) -> Mapping[str, Node]:
        """Return the values of an object's properties by their names."""
        return {self._key(pair): pair.named_children[-1] for pair in node.named_children if pair.type == "pair"}

    def has_more(self, node: Node) -> bool:
        """Return whether an object also takes properties from elsewhere (`...others`)."""
        return any(child.type == "spread_element" for child in node.named_children)

    def value(self, node: Node, depth: int = 0) -> Value:
        """Return a value as it is written out, constants of the file filled in; `Computed` for what code works out."""
        node = self._bare(node)
        text = self.text(node)
        match node.type:
            case "string":
                return self._string(node)
            case "template_string" if node.named_child_count <= 1 and "${" not in text:
                return text[1:-1]
            case "true" | "false":
                return node.type == "true"
            case "number" | "unary_expression" if _NUMBER.fullmatch(text):
                return float(text)
            case "array" if depth < _MAX_DEPTH:
                return [self.value(one, depth + 1) for one in node.named_children if one.type != "comment"]
            case "object" if depth < _MAX_DEPTH:
                return {key: self.value(one, depth + 1) for key, one in self.pairs(node).items()}
            case "identifier" if depth < _MAX_DEPTH and text in self._constants:
                return self.value(self._constants[text], depth + 1)
        return Computed(text)

    def _bare(self, node: Node) -> Node:
        while node.type in _WRAPPERS and node.named_children:
            node = node.named_children[0]
        return node

    def _key(self, pair: Node) -> str:
        key = pair.named_children[0]
        return self._string(key) if key.type == "string" else self.text(key)

    def _string(self, node: Node) -> str:
        text = self.text(node)[1:-1]
        return re.sub(r"\\(.)", r"\1", text) if "\\" in text else text

    # Edits

    def with_property(self, node: Node, name: str, value: Value) -> Splice:
        """Return the splice that gives an object a property: in place, or as its last one."""
        known = self.pairs(node).get(name)
        if known is not None:
            return Splice(known.start_byte, known.end_byte, self.written(value, node).encode())
        line = f"{name if _NAME.fullmatch(name) else self.written(name, node)}: {self.written(value, node)}"
        members = [child for child in node.named_children if child.type != "comment"]
        if not members:
            return Splice(node.start_byte + 1, node.end_byte - 1, f" {line} ".encode())
        return self._after(node, members[-1], line)

    def with_items(self, array: Node, values: Sequence[Value]) -> Splice:
        """Return the splice that adds items to an array, as its last ones."""
        items = [child for child in array.named_children if child.type != "comment"]
        lines = [self.written(value, array) for value in values]
        if not items:
            return Splice(array.start_byte + 1, array.end_byte - 1, ", ".join(lines).encode())
        return self._after(array, items[-1], *lines)

    def _after(self, holder: Node, last: Node, *lines: str) -> Splice:
        """New members after the last one, on lines of their own where that one has one."""
        gap = b" "
        if begins_line(self.data, last.start_byte):
            gap = newline_at(self.data, last.start_byte) + indent_at(self.data, last.start_byte)
        rest = self.data[last.end_byte : holder.end_byte - 1]
        comma = re.match(rb"\s*,", rest)
        at = last.end_byte + (comma.end() if comma else 0)
        text = (b"" if comma else b",") + b"".join(gap + line.encode() + b"," for line in lines)
        return Splice(at, at, text if comma else text.removesuffix(b","))

    def written(self, value: Value, near: Node | None = None) -> str:
        """Return a value as this file writes it: with the quotes that strings have in a node, else in the file."""
        if isinstance(value, dict):
            return "{ " + ", ".join(f"{key}: {self.written(one, near)}" for key, one in value.items()) + " }"
        if isinstance(value, list):
            return f"[{', '.join(self.written(one, near) for one in value)}]"
        if isinstance(value, bool):
            return str(value).lower()
        text = json.dumps(str(value), ensure_ascii=False)
        return text if self._is_double(near) or "'" in text else f"'{text[1:-1]}'"

    def _is_double(self, near: Node | None) -> bool:
        nodes = [*(walk(near) if near is not None else ()), *walk(self.root)]
        first = next((node for node in nodes if node.type == "string"), None)
        return first is not None and self.text(first).startswith('"')
