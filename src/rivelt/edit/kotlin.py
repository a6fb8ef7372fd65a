"""Kotlin sources."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from rivelt.edit.code import Source

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class KotlinSource(Source):
    """A Kotlin file."""

    method = "override fun onCreate(savedInstanceState: Bundle?)"
    call_super = "super.onCreate(savedInstanceState)"
    import_line = "import {name}"

    @staticmethod
    @cache
    def parser() -> Parser:
        """A parser for Kotlin."""
        import tree_sitter_kotlin
        from tree_sitter import Language, Parser

        return Parser(Language(tree_sitter_kotlin.language()))

    def superclass(self, declaration: Node) -> str | None:
        """The class whose constructor the header calls; a class without a primary constructor names it without a call."""
        specifiers = next((node for node in declaration.children if node.type == "delegation_specifiers"), None)
        names = (
            [self.text(node).partition("(")[0].partition("<")[0].strip() for node in specifiers.named_children]
            if specifiers
            else []
        )
        called = [
            name
            for name, node in zip(names, specifiers.named_children if specifiers else (), strict=True)
            if "(" in self.text(node)
        ]
        found = next(iter(called or names), None)
        return found.rpartition(".")[2] if found else None
