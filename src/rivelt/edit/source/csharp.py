"""C# sources: the attributes of classes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cache
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.edit.source.language import SyntaxFile, walk
from rivelt.edit.splice import Splice

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class Attribute(Struct, frozen=True):
    """An attribute of a class, such as `[Activity(MainLauncher = true)]`: its named arguments, as nodes of their values."""

    name: str
    class_name: str
    namespace: str
    node: Node
    arguments: Mapping[str, Node]


class Language(SyntaxFile):
    """A C# file."""

    name = "C#"
    endings = (".cs",)

    @staticmethod
    @cache
    def parser() -> Parser:
        """Return a parser for C#."""
        import tree_sitter_c_sharp
        from tree_sitter import Language as Grammar
        from tree_sitter import Parser

        return Parser(Grammar(tree_sitter_c_sharp.language()))

    def attributes(self, name: str) -> Iterator[Attribute]:
        """Yield the attributes of a name (with or without its namespace, or the ending "Attribute") that classes have."""
        for node in walk(self.root):
            if node.type == "attribute" and node.parent is not None and node.parent.parent is not None:
                written = self.text(node.named_children[0]).rpartition(".")[2].removesuffix("Attribute")
                declaration = node.parent.parent
                if written == name and declaration.type == "class_declaration":
                    yield Attribute(
                        name, self._name(declaration), self._namespace(declaration), node, self._arguments(node)
                    )

    def _name(self, declaration: Node) -> str:
        return self.text(next((child for child in declaration.children if child.type == "identifier"), None))

    def _namespace(self, declaration: Node) -> str:
        parts: list[str] = []
        above: Node | None = declaration
        while above is not None:
            if above.type == "namespace_declaration":
                parts.insert(0, self.text(above.named_children[0]))
            above = above.parent
        for child in self.root.children:
            if child.type == "file_scoped_namespace_declaration":
                parts.insert(0, self.text(child.named_children[0]))
        return ".".join(parts)

    def _arguments(self, attribute: Node) -> Mapping[str, Node]:
        listed = next((child for child in attribute.children if child.type == "attribute_argument_list"), None)
        found = {}
        for argument in listed.named_children if listed is not None else ():
            inside = argument.named_children
            if argument.type == "attribute_argument" and len(inside) == 2 and inside[0].type == "identifier":
                found[self.text(inside[0])] = inside[1]
        return found

    def string(self, node: Node | None) -> str | None:
        """Return the value of a plain string literal; None for anything else."""
        if node is None or node.type not in {"string_literal", "verbatim_string_literal"}:
            return None
        return self.text(node).removeprefix("@").removeprefix('"').removesuffix('"')

    def with_argument(self, attribute: Attribute, name: str, value: str) -> Splice:
        """Return the splice that gives an attribute a named string argument: in place, or as its first one."""
        text = f'"{value}"'
        known = attribute.arguments.get(name)
        if known is not None:
            return Splice(known.start_byte, known.end_byte, text.encode())
        listed = next((child for child in attribute.node.children if child.type == "attribute_argument_list"), None)
        if listed is None:
            at = attribute.node.end_byte
            return Splice(at, at, f"({name} = {text})".encode())
        at = listed.start_byte + 1
        return Splice(at, at, f"{name} = {text}{', ' if listed.named_child_count else ''}".encode())
