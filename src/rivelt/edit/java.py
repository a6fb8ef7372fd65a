"""Java sources."""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING

from rivelt.edit.code import Source

if TYPE_CHECKING:
    from tree_sitter import Node, Parser


class JavaSource(Source):
    """A Java file."""

    method = "@Override\n{visibility} void onCreate(Bundle savedInstanceState)"
    call_super = "super.onCreate(savedInstanceState);"
    import_line = "import {name};"

    @staticmethod
    @cache
    def parser() -> Parser:
        """A parser for Java."""
        import tree_sitter_java
        from tree_sitter import Language, Parser

        return Parser(Language(tree_sitter_java.language()))

    def superclass(self, declaration: Node) -> str | None:
        """The class after `extends`."""
        text = self.text(declaration.child_by_field_name("superclass"))
        return re.sub(r"^extends\s+|<.*", "", text, flags=re.DOTALL).strip().rpartition(".")[2] or None
