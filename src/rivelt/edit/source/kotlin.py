"""Kotlin sources."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from rivelt.edit.source.jvm import JvmSource
from rivelt.edit.source.keywords import KOTLIN_KEYWORDS

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class Language(JvmSource):
    """A Kotlin file."""

    name = "Kotlin"
    endings = (".kt",)
    method = "override fun onCreate(savedInstanceState: Bundle?)"
    call_super = "super.onCreate(savedInstanceState)"
    import_line = "import {name}"
    around = ("val x = (\n", "\n)\n")
    keywords = KOTLIN_KEYWORDS

    @staticmethod
    @cache
    def parser() -> Parser:
        """Return a parser for Kotlin."""
        import tree_sitter_kotlin
        from tree_sitter import Language as Grammar
        from tree_sitter import Parser

        return Parser(Grammar(tree_sitter_kotlin.language()))

    def superclass(self, declaration: Node) -> str | None:
        """Return the class whose constructor the header calls; a class without a primary constructor names it without a call."""
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
