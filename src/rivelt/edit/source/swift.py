"""Swift sources."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from rivelt.edit.source.apple import AppleClass, AppleSource
from rivelt.edit.source.language import walk

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class Language(AppleSource):
    """A Swift file."""

    name = "Swift"
    endings = (".swift",)
    class_types = frozenset({"class_declaration"})

    @staticmethod
    @cache
    def parser() -> Parser:
        """Return a parser for Swift."""
        import tree_sitter_swift
        from tree_sitter import Language as Grammar
        from tree_sitter import Parser

        return Parser(Grammar(tree_sitter_swift.language()))

    def class_of(self, node: Node) -> AppleClass | None:
        """Return the class, struct or extension that a node declares."""
        name = next((child for child in node.children if child.type in {"type_identifier", "user_type"}), None)
        above = (child for child in node.children if child.type == "inheritance_specifier")
        return AppleClass(self.text(name), tuple(self.text(one) for one in above)) if name is not None else None

    def assignment(self, node: Node, name: str) -> tuple[Node, Node] | None:
        """Return receiver and value of `receiver.name = value`."""
        if node.type != "assignment" or len(node.named_children) < 2:
            return None
        target = node.named_children[0]
        target = target.named_children[0] if target.type == "directly_assignable_expression" else target
        if target.type != "navigation_expression" or self.text(target.named_children[-1]) != f".{name}":
            return None
        return target.named_children[0], node.named_children[-1]

    def main_scene(self) -> str | None:
        """Return the name of the `@main` app of SwiftUI that the file declares, or None."""
        for node in walk(self.root):
            if node.type == "class_declaration" and (found := self.class_of(node)) is not None:
                head = self.text(node).partition("{")[0]
                if "@main" in head and any(one.rpartition(".")[2] == "App" for one in found.inherits):
                    return found.name
        return None

    def body(self, class_name: str) -> Node | None:
        """Return the content of the `body` property of a struct."""
        for node in walk(self.root):
            if (
                node.type == "class_declaration"
                and (found := self.class_of(node)) is not None
                and found.name == class_name
            ):
                for inner in walk(node):
                    if inner.type == "property_declaration" and any(
                        child.type == "pattern" and self.text(child) == "body" for child in inner.children
                    ):
                        return next((one for one in inner.children if one.type == "computed_property"), None)
        return None

    def views(self, node: Node) -> list[tuple[str, Node]]:
        """Return what is called in a node by a name that begins with a capital, `Color` members too, in the file's order."""
        found = []
        for one in walk(node):
            if one.type == "call_expression" and one.named_children[0].type == "simple_identifier":
                found.append((self.text(one.named_children[0]), one))
            elif self._is_member_of_color(one):
                found.append(("Color", one))
        return [(name, one) for name, one in found if name[:1].isupper()]

    def _is_member_of_color(self, node: Node) -> bool:
        if node.type != "navigation_expression" or node.named_child_count != 2:
            return False
        first = node.named_children[0]
        return first.type == "simple_identifier" and self.text(first) == "Color"

    def is_ground(self, node: Node) -> bool:
        """Return whether a view is behind all others of its closure: the argument of `background`, or the first of a ZStack or body."""
        inner, above = node, node.parent
        while above is not None and above.type not in {"statements", "value_argument"}:
            inner, above = above, above.parent
        if above is None:
            return False
        if above.type == "value_argument":
            call = above.parent.parent.parent if above.parent is not None and above.parent.parent is not None else None
            return call is not None and self.text(call.named_children[0]).endswith(".background")
        holder = above.parent
        if inner != above.named_children[0] or holder is None:
            return False
        if holder.type == "computed_property":
            return True
        call = holder.parent.parent if holder.parent is not None else None
        return call is not None and self.text(call.named_children[0]) in {"ZStack", "WindowGroup"}
