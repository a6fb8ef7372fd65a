"""Java sources."""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING

from rivelt.edit.source.jvm import JvmSource
from rivelt.edit.source.keywords import JAVA_KEYWORDS

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class Language(JvmSource):
    """A Java file."""

    name = "Java"
    endings = (".java",)
    # An override may widen what it overrides but not narrow it, and many activities of libraries have a public one.
    method = "@Override\npublic void onCreate(Bundle savedInstanceState)"
    call_super = "super.onCreate(savedInstanceState);"
    import_line = "import {name};"
    around = ("class X { Object x = (\n", "\n); }")
    keywords = JAVA_KEYWORDS

    @staticmethod
    @cache
    def parser() -> Parser:
        """Return a parser for Java."""
        import tree_sitter_java
        from tree_sitter import Language as Grammar
        from tree_sitter import Parser

        return Parser(Grammar(tree_sitter_java.language()))

    def superclass(self, declaration: Node) -> str | None:
        """Return the simple name of the class after `extends`, or None."""
        text = self.text(declaration.child_by_field_name("superclass"))
        return re.sub(r"^extends\s+|<.*", "", text, flags=re.DOTALL).strip().rpartition(".")[2] or None
