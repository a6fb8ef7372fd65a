"""Objective-C and Objective-C++ sources."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from rivelt.edit.source.apple import AppleClass, AppleSource

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class Language(AppleSource):
    """An Objective-C file; what of an Objective-C++ file is C++ is skipped."""

    name = "Objective-C"
    endings = (".m", ".mm")
    class_types = frozenset({"class_implementation", "class_interface"})

    @staticmethod
    @cache
    def parser() -> Parser:
        """Return a parser for Objective-C."""
        import tree_sitter_objc
        from tree_sitter import Language as Grammar
        from tree_sitter import Parser

        return Parser(Grammar(tree_sitter_objc.language()))

    def class_of(self, node: Node) -> AppleClass | None:
        """Return the class that a node implements; its superclass stands in a header."""
        name = next((child for child in node.children if child.type == "identifier"), None)
        return AppleClass(self.text(name), ()) if name is not None else None

    def assignment(self, node: Node, name: str) -> tuple[Node, Node] | None:
        """Return receiver and value of `receiver.name = value` or `[receiver setName:value]`."""
        inside = node.named_children
        if node.type == "assignment_expression" and len(inside) == 2 and inside[0].type == "field_expression":
            receiver, field = inside[0].named_children[0], inside[0].named_children[-1]
            return (receiver, inside[1]) if self.text(field) == name else None
        if node.type == "message_expression" and len(inside) == 3:
            setter = f"set{name[:1].upper()}{name[1:]}"
            return (inside[0], inside[2]) if self.text(inside[1]) == setter else None
        return None
