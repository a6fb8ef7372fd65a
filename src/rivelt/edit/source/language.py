"""What Rivelt asks of a source language: where a class begins its work, and how statements are put there.

tree-sitter finds the place, splicing writes. Lines that Rivelt inserts end with a comment that begins with `MARKER`, so that a later run
finds them again and a reader knows where they come from.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Iterator, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar

from msgspec import Struct

from rivelt.patterns import regex

if TYPE_CHECKING:
    from tree_sitter import Node, Parser

MARKER = "// rivelt: "
_MARKED = regex(rb"(?m)^[^\n]*// rivelt: [^\n]*(?:\n|\Z)")


class FirstLines(Struct, frozen=True):
    """What an entry method is to begin with: statements without a marker, what the comment on each says, and imports they need.

    `members`: lines of the class itself that the statements need, each with its indentation and what the comment on it says.
    """

    statements: tuple[str, ...]
    reason: str
    imports: tuple[str, ...] = ()
    members: tuple[tuple[str, str], ...] = ()


class SyntaxFile(ABC):
    """One source file with its syntax tree."""

    name: ClassVar[str]
    """The language's name for people."""
    endings: ClassVar[tuple[str, ...]]
    """The endings of its files."""

    def __init__(self, data: bytes, path: str) -> None:
        self.data = data
        self.path = path

    @cached_property
    def root(self) -> Node:
        """The syntax tree."""
        return self.parser().parse(self.data).root_node

    def text(self, node: Node | None) -> str:
        """Return the source text of a node; "" for None."""
        return self.data[node.start_byte : node.end_byte].decode("utf-8", "replace") if node else ""

    @staticmethod
    @abstractmethod
    def parser() -> Parser:
        """Return a parser for the language."""


class Source(SyntaxFile):
    """A source file in which code can be put. A subclass knows the words of a language."""

    @property
    def is_marked(self) -> bool:
        """Whether it holds lines that Rivelt inserted."""
        return _MARKED.search(self.data) is not None

    def without_marked(self) -> bytes:
        """Return the file without the lines that Rivelt inserted."""
        return _MARKED.sub(b"", self.data)

    # What a language knows

    @property
    @abstractmethod
    def package(self) -> str:
        """The package or namespace that the file declares; "" when it declares none."""

    @property
    @abstractmethod
    def imported(self) -> Sequence[str]:
        """The full names that the file imports, with `.*` for all of a package."""

    @abstractmethod
    def declaration(self, class_name: str) -> Node | None:
        """Return the declaration of a class by its simple name, or None."""

    @abstractmethod
    def superclass(self, declaration: Node) -> str | None:
        """Return the simple name of the class that a class extends, or None."""

    @abstractmethod
    def calls(self, name: str) -> Sequence[Node]:
        """Return the places where a function or method of a simple name is called."""

    @abstractmethod
    def entry_method(self, class_name: str) -> Node | None:
        """Return the method in which a class begins its work, or None when it has none of its own."""

    @abstractmethod
    def statements_before(self, class_name: str, name: str) -> list[Node] | None:
        """Return the statements of a class's entry method that come before the first call of a name; None when it makes no such call."""

    @abstractmethod
    def mentions(self, node: Node, names: Collection[str]) -> str | None:
        """Return what comes first in a node: one of some names, or the call of the superclass's entry method; None for none of these."""

    @abstractmethod
    def heading(self, class_name: str) -> int:
        """Return the offset of the name of the entry method, or else of the class; 0 when neither is there."""

    @abstractmethod
    def is_expression(self, text: str) -> bool:
        """Return whether a text is one expression of the language that gives a value, and nothing else."""

    @abstractmethod
    def leading_name(self, text: str) -> str | None:
        """Return the name that an expression begins with, such as `model` in `!model.isReady`; None for a literal, or `this`."""

    @abstractmethod
    def declares(self, class_name: str, name: str) -> bool:
        """Return whether a class declares a member of a name, or its file makes the name known to it."""

    @abstractmethod
    def with_first_lines(self, class_name: str, first: FirstLines, read: Callable[[bytes], Source]) -> bytes:
        """Return the file with statements at the beginning of a class's entry method, which is made if it is missing.

        Lines that Rivelt inserted before are replaced.

        Args:
            class_name: the class, by its simple name.
            first: the statements.
            read: how other content of the same file is read.

        Raises:
            BadInput: the class is not there, or its text is not understood well enough to be edited.
        """


def walk(node: Node, depth: int = 400) -> Iterator[Node]:
    """Yield a node and all below it, in the file's order, without recursion."""
    stack = [(node, 0)]
    while stack:
        current, level = stack.pop()
        yield current
        if level < depth:
            stack.extend((child, level + 1) for child in reversed(current.children))
