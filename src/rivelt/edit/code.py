"""Kotlin and Java sources: lines put at the beginning of an activity's `onCreate`, before `super.onCreate(...)`.

tree-sitter finds the place, splicing writes. Lines of ours end with a comment that begins with `MARKER`, so that a later run finds
them again and a reader knows where they come from.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from rivelt.edit.splice import Splice, begins_line, indent_at, line_end, newline_at, spliced
from rivelt.errors import BadInput, Place

if TYPE_CHECKING:
    from tree_sitter import Node, Parser

MARKER = "// rivelt: "
BOM = b"\xef\xbb\xbf"
_MARKED = re.compile(rb"(?m)^[^\n]*// rivelt: [^\n]*(?:\n|\Z)")


@dataclass(frozen=True)
class FirstLines:
    """What `onCreate` is to begin with: statements without a marker, what the comment on the last says, and imports they need."""

    statements: tuple[str, ...]
    reason: str
    imports: tuple[str, ...] = ()


class Source(ABC):
    """One source file. Subclasses know the words of a language."""

    method: str
    """The signature of a new `onCreate`, with `{visibility}` to fill in."""
    call_super: str
    import_line: str

    def __init__(self, data: bytes, path: str) -> None:
        self.data = data
        self.path = path

    @cached_property
    def root(self) -> Node:
        """The syntax tree."""
        return self.parser().parse(self.data).root_node

    # What a language knows

    @staticmethod
    @abstractmethod
    def parser() -> Parser:
        """A parser for the language."""

    @abstractmethod
    def superclass(self, declaration: Node) -> str | None:
        """The simple name of the class that a class extends."""

    # What is there

    def text(self, node: Node | None) -> str:
        """The source text of a node."""
        return self.data[node.start_byte : node.end_byte].decode("utf-8", "replace") if node else ""

    @cached_property
    def package(self) -> str:
        """The package that the file declares; "" when it declares none."""
        head = next(
            (node for node in self.root.children if node.type in {"package_header", "package_declaration"}), None
        )
        return re.sub(r"^package\s+|[;\s]", "", self.text(head))

    @cached_property
    def imports(self) -> list[Node]:
        """The import lines."""
        return [
            node
            for node in _walk(self.root, depth=2)
            if node.type in {"import", "import_declaration"} and node.is_named
        ]

    def imported(self, node: Node) -> str:
        """What an import line names, with `.*` for all of a package."""
        return re.sub(r"^import\s+(?:static\s+)?|[;\s]", "", self.text(node).partition(" as ")[0])

    def declaration(self, name: str) -> Node | None:
        """The class of a simple name."""
        for node in _walk(self.root):
            if node.type == "class_declaration" and self.text(_name(node)) == name:
                return node
        return None

    def calls(self, name: str) -> list[Node]:
        """The places where a function or method of a simple name is called."""
        return [node for node in _walk(self.root) if self._is_call(node, name)]

    def _is_call(self, node: Node, name: str) -> bool:
        is_named = node.type == "identifier" and self.text(node) == name
        return is_named and self.data[node.end_byte : node.end_byte + 20].lstrip()[:1] == b"("

    def on_create(self, declaration: Node) -> Node | None:
        """The class's own `onCreate` with one parameter."""
        body = _body(declaration)
        for node in body.children if body else ():
            if node.type not in {"function_declaration", "method_declaration"} or self.text(_name(node)) != "onCreate":
                continue
            parameters = next((child for child in node.children if child.type.endswith("parameters")), None)
            if parameters is not None and parameters.named_child_count == 1:
                return node
        return None

    def heading(self, class_name: str) -> int:
        """The position of the name of a class's `onCreate`, or else of the class; 0 when it is not there."""
        declaration = self.declaration(class_name)
        if declaration is None:
            return 0
        return (_name(self.on_create(declaration) or declaration) or declaration).start_byte

    # What is written

    def without_marked(self) -> bytes:
        """The file without lines of ours, and without the imports that only they needed."""
        return _MARKED.sub(b"", self.data)

    def with_first_lines(self, class_name: str, first: FirstLines, visibility: str = "protected") -> bytes:
        """The file with statements before `super.onCreate(...)` of a class; `onCreate`, and the body of the class, are made if missing.

        Lines of ours that are there already are replaced.

        Raises:
            BadInput: the class is not there, or its text is not understood well enough to be edited.
        """
        return type(self)(self.without_marked(), self.path).inserted(class_name, first, visibility)

    def inserted(self, class_name: str, first: FirstLines, visibility: str) -> bytes:
        """The same for a file without lines of ours.

        Raises:
            BadInput: as above.
        """
        declaration = self.declaration(class_name)
        if declaration is None:
            raise BadInput(f"class {class_name} was not found in it", place=Place(self.path))
        marked = [f"{line} {MARKER}{first.reason}" for line in first.statements]
        imports = list(first.imports)
        method = self.on_create(declaration)
        if (method or declaration).has_error:
            raise self._not_understood(method or declaration)
        if method is not None:
            splice = self._before_super(method, marked)
        else:
            splice = self._new_method(declaration, marked, visibility)
            imports.append("android.os.Bundle")
        after = spliced(self.data, [splice, *self._import_splices(imports)])
        if _errors(type(self)(after, self.path).root) > _errors(self.root):
            raise self._not_understood(method or declaration)
        return after

    def _not_understood(self, node: Node) -> BadInput:
        at = next((found for found in _walk(node) if found.is_error or found.is_missing), node)
        row, column = at.start_point
        return BadInput("the source is not understood here", place=Place(self.path, row + 1, column + 1))

    def _before_super(self, method: Node, lines: list[str]) -> Splice:
        body = next((child for child in method.children if child.type in {"function_body", "block"}), None)
        block = body if body is None or body.type == "block" else next(iter(body.named_children), None)
        if block is None or block.type != "block":
            raise self._not_understood(method)
        call = next(
            (node for node in _walk(block) if node.type in {"super_expression", "super"} and self._is_on_create(node)),
            None,
        )
        at = _first_statement(block) if call is None else _statement(call)
        # A theme that the app sets itself must go on having the last word.
        own = next((_statement(node) for node in _walk(block) if self._is_call(node, "setTheme")), None)
        if at is not None and own is not None and own.start_byte < at.start_byte:
            at = own
        if at is None:  # an empty body
            return self._opened(
                block.start_byte + 1, block.end_byte - 1, lines, indent_at(self.data, method.start_byte)
            )
        start = at.start_byte
        newline, indent = newline_at(self.data, start), indent_at(self.data, start)
        if begins_line(self.data, start):
            text = "".join(line + newline.decode() + indent.decode() for line in lines)
            return Splice(start, start, text.encode())
        inner = indent_at(self.data, start) + self._unit(method)
        text_lines = newline + newline.join(inner + line.encode() for line in lines) + newline + inner
        return Splice(start, start, text_lines)

    def _is_on_create(self, node: Node) -> bool:
        return re.match(rb"\s*\.\s*onCreate\s*\(", self.data[node.end_byte : node.end_byte + 60]) is not None

    def _new_method(self, declaration: Node, lines: list[str], visibility: str) -> Splice:
        outer = indent_at(self.data, declaration.start_byte)
        unit = self._unit(declaration)
        newline = newline_at(self.data, declaration.start_byte)
        body = _body(declaration)
        head = self.method.format(visibility=visibility).split("\n")
        is_allman = body is not None and begins_line(self.data, body.start_byte)
        signature = [*head, "{"] if is_allman else [*head[:-1], head[-1] + " {"]
        inner = [*signature, *(unit.decode() + line for line in (*lines, self.call_super)), "}"]
        text = newline.join(outer + unit + line.encode() for line in inner)
        if body is None:
            return Splice(declaration.end_byte, declaration.end_byte, b" {" + newline + text + newline + outer + b"}")
        first = next((child for child in body.children[1:] if child.is_named), None)
        after = body.start_byte + 1
        if first is None and not self.data[after : body.end_byte - 1].strip():
            return Splice(after, body.end_byte - 1, newline + text + newline + outer)
        if first is not None and _starts_later(self.data, after, first.start_byte):
            has_gap = self.data.startswith(newline * 2, after)
            return Splice(after, after, newline + text + (b"" if has_gap else newline))
        return Splice(after, after, newline + text + newline * 2 + outer + unit)

    def _opened(self, start: int, end: int, lines: list[str], outer: bytes) -> Splice:
        newline = newline_at(self.data, start)
        inner = outer + self._unit(self.root)
        text = newline + newline.join(inner + line.encode() for line in lines) + newline + outer
        return Splice(start, end, text) if not self.data[start:end].strip() else Splice(start, start, text)

    def _unit(self, node: Node) -> bytes:
        """One level of indentation, as the file has it."""
        found = re.search(rb"\{[^\S\n]*\r?\n([ \t]+)\S", self.data[node.start_byte : node.end_byte] or self.data)
        if found is None:
            found = re.search(rb"(?m)^([ \t]+)\S", self.data)
        outer = indent_at(self.data, node.start_byte)
        unit = found[1].removeprefix(outer) if found else b""
        return unit if unit and len(unit) <= 8 else b"    "

    def _import_splices(self, names: list[str]) -> Iterator[Splice]:
        have = {self.imported(node) for node in self.imports}
        wanted = sorted(name for name in set(names) if name not in have and name.rpartition(".")[0] + ".*" not in have)
        for name in wanted:
            line = self.import_line.format(name=name).encode()
            later = next((node for node in self.imports if self.imported(node) > name), None)
            if later is not None:
                yield Splice(later.start_byte, later.start_byte, line + newline_at(self.data, later.start_byte))
            elif self.imports:
                end = line_end(self.data, self.imports[-1].start_byte)
                yield Splice(end, end, newline_at(self.data, self.imports[-1].start_byte) + line)
            else:
                head = next((node for node in self.root.children if node.type.startswith("package")), None)
                newline = newline_at(self.data, head.start_byte if head else 0)
                is_first = name == wanted[0]
                if head is not None:
                    end = line_end(self.data, head.start_byte)
                    yield Splice(end, end, newline * (2 if is_first else 1) + line)
                else:
                    top = len(BOM) if self.data.startswith(BOM) else 0
                    yield Splice(top, top, line + newline * (2 if name == wanted[-1] else 1))


def _walk(node: Node, depth: int = 400) -> Iterator[Node]:
    """A node and all below it, in the file's order, without recursion."""
    stack = [(node, 0)]
    while stack:
        current, level = stack.pop()
        yield current
        if level < depth:
            stack.extend((child, level + 1) for child in reversed(current.children))


def _errors(root: Node) -> int:
    return sum(node.is_error or node.is_missing for node in _walk(root))


def _name(node: Node) -> Node | None:
    return node.child_by_field_name("name")


def _body(declaration: Node) -> Node | None:
    return next((child for child in declaration.children if child.type == "class_body"), None)


def _first_statement(block: Node) -> Node | None:
    return next((child for child in block.named_children if "comment" not in child.type), None)


def _statement(node: Node) -> Node:
    """The statement that holds a node: the one that stands directly in the nearest block or lambda."""
    while node.parent is not None and node.parent.type not in {"block", "lambda_literal", "statements"}:
        node = node.parent
    return node


def _starts_later(data: bytes, start: int, end: int) -> bool:
    """Whether a line ends between two offsets."""
    return b"\n" in data[start:end]
