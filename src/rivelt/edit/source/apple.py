"""What Rivelt reads of Swift and Objective-C: classes, and the values that are assigned to a property."""

from __future__ import annotations

import re
from abc import abstractmethod
from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar

from msgspec import Struct

from rivelt.edit.source.language import SyntaxFile, walk
from rivelt.patterns import regex

if TYPE_CHECKING:
    from tree_sitter import Node

_VERSION = regex(r"iOS\s+(\d+)")


class Assigned(Struct, frozen=True):
    """A value that is assigned to a property: of what (`self.view`), in which class, and where the value stands.

    `start`, `end`: bytes of the file. `since`, `until`: the major version of iOS from which, and before which, this is run.
    """

    receiver: str
    class_name: str
    value: str
    start: int
    end: int
    since: int = 0
    until: int | None = None


class AppleClass(Struct, frozen=True):
    """A class or struct: its name, and what it names after a colon."""

    name: str
    inherits: tuple[str, ...]


class AppleSource(SyntaxFile):
    """A Swift or Objective-C file."""

    class_types: ClassVar[frozenset[str]]
    """The node types of classes."""

    @abstractmethod
    def class_of(self, node: Node) -> AppleClass | None:
        """Return the class that a node of such a type declares; None for one without a name."""

    @abstractmethod
    def assignment(self, node: Node, name: str) -> tuple[Node, Node] | None:
        """Return the receiver and the value, where a node assigns to a property of a name."""

    @cached_property
    def classes(self) -> Mapping[str, AppleClass]:
        """The classes and structs of the file, by name."""
        found = (self.class_of(node) for node in walk(self.root) if node.type in self.class_types)
        return {one.name: one for one in found if one is not None}

    def assigned(self, name: str) -> Iterator[Assigned]:
        """Yield what is assigned to properties of a name, in the file's order."""
        for node in walk(self.root):
            pair = self.assignment(node, name)
            if pair is not None:
                receiver, value = pair
                since, until = self._available(node)
                yield Assigned(
                    re.sub(r"[?!\s]", "", self.text(receiver)),
                    self._holder(node),
                    self.text(value),
                    value.start_byte,
                    value.end_byte,
                    since,
                    until,
                )

    def _holder(self, node: Node) -> str:
        above = node.parent
        while above is not None:
            if above.type in self.class_types and (found := self.class_of(above)) is not None:
                return found.name
            above = above.parent
        return ""

    def _available(self, node: Node) -> tuple[int, int | None]:
        """The versions of iOS that a statement is run on, as the nearest `if` around it asks."""
        inner, above = node, node.parent
        while above is not None:
            if above.type == "if_statement":
                head = self.text(above).partition("{")[0]
                found = _VERSION.search(head) if "available" in head else None
                if found:
                    is_else = any(
                        child.type == "else" and child.end_byte <= inner.start_byte for child in above.children
                    )
                    is_else = is_else or inner.type == "else_clause"
                    is_else ^= "unavailable" in head
                    return (0, int(found[1])) if is_else else (int(found[1]), None)
            inner, above = above, above.parent
        return 0, None
