"""Kotlin and Java sources: what both languages have in common."""

from __future__ import annotations

import re
from abc import abstractmethod
from collections.abc import Callable, Collection, Iterator, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar

from rivelt.edit.source.language import MARKER, FirstLines, Source, walk
from rivelt.edit.splice import Splice, begins_line, indent_at, line_end, newline_at, spliced
from rivelt.errors import BadInput, Place

if TYPE_CHECKING:
    from tree_sitter import Node

BOM = b"\xef\xbb\xbf"

_JUMPS = frozenset({"return_expression", "throw_expression", "return_statement", "jump_expression", "ERROR"})
_NO_VALUES = frozenset(
    {
        "annotated_expression",
        "anonymous_function",
        "assignment",
        "assignment_expression",
        "callable_reference",
        "class_literal",
        "lambda_expression",
        "lambda_literal",
        "method_reference",
        "object_literal",
        "update_expression",
    }
)
"""Expressions that are not a condition whatever is in them."""
_LITERALS = frozenset({"true", "false", "null", "this", "super"})
_NAMED = frozenset(
    {
        "class_declaration",
        "class_parameter",
        "enum_declaration",
        "field_declaration",
        "function_declaration",
        "interface_declaration",
        "method_declaration",
        "object_declaration",
        "property_declaration",
        "record_declaration",
        "variable_declaration",
        "variable_declarator",
    }
)


class JvmSource(Source):
    """A Kotlin or Java file, whose entry method is an activity's `onCreate`."""

    method: ClassVar[str]
    """The signature of a new `onCreate`."""
    call_super: ClassVar[str]
    import_line: ClassVar[str]
    around: ClassVar[tuple[str, str]]
    """What stands before and after an expression in brackets, so that the whole is a declaration of the language."""
    keywords: ClassVar[frozenset[str]]
    """Words that are never names, but that the grammar takes for some where it has to."""

    @abstractmethod
    def superclass(self, declaration: Node) -> str | None:
        """Return the simple name of the class that a class extends, or None."""

    # What is there

    @cached_property
    def package(self) -> str:
        """The package that the file declares; "" when it declares none."""
        head = next(
            (node for node in self.root.children if node.type in {"package_header", "package_declaration"}), None
        )
        return re.sub(r"^package\s+|[;\s]", "", self.text(head))

    @cached_property
    def _imports(self) -> list[Node]:
        """The import lines."""
        return [
            node for node in walk(self.root, depth=2) if node.type in {"import", "import_declaration"} and node.is_named
        ]

    @cached_property
    def imported(self) -> Sequence[str]:
        """The full names that the file imports, with `.*` for all of a package."""
        return [self._imported(node) for node in self._imports]

    def _imported(self, node: Node) -> str:
        return re.sub(r"^import\s+(?:static\s+)?|[;\s]", "", self.text(node).partition(" as ")[0])

    def declaration(self, class_name: str) -> Node | None:
        """Return the declaration of a class by its simple name, or None."""
        if class_name.encode() not in self.data:
            return None
        if class_name not in self._declared:
            declared = (node for node in walk(self.root) if node.type == "class_declaration")
            self._declared[class_name] = next((node for node in declared if self.text(_name(node)) == class_name), None)
        return self._declared[class_name]

    @cached_property
    def _declared(self) -> dict[str, Node | None]:
        return {}

    def calls(self, name: str) -> Sequence[Node]:
        """Return the places where a function or method of a simple name is called."""
        if name.encode() not in self.data:
            return []
        if name not in self._called:
            self._called[name] = [node for node in walk(self.root) if self._is_call(node, name)]
        return self._called[name]

    @cached_property
    def _called(self) -> dict[str, Sequence[Node]]:
        return {}

    def _is_call(self, node: Node, name: str) -> bool:
        is_named = node.type == "identifier" and self.text(node) == name
        return is_named and self.data[node.end_byte : node.end_byte + 20].lstrip()[:1] == b"("

    def entry_method(self, class_name: str) -> Node | None:
        """Return the class's own `onCreate` with one parameter, or None."""
        declaration = self.declaration(class_name)
        return self._on_create(declaration) if declaration is not None else None

    def _on_create(self, declaration: Node) -> Node | None:
        body = _body(declaration)
        for node in body.children if body else ():
            if node.type not in {"function_declaration", "method_declaration"} or self.text(_name(node)) != "onCreate":
                continue
            parameters = next((child for child in node.children if child.type.endswith("parameters")), None)
            if parameters is not None and parameters.named_child_count == 1:
                return node
        return None

    def heading(self, class_name: str) -> int:
        """Return the position of the name of a class's `onCreate`, or else of the class; 0 when it is not there."""
        declaration = self.declaration(class_name)
        if declaration is None:
            return 0
        return (_name(self.entry_method(class_name) or declaration) or declaration).start_byte

    # What is written

    def is_expression(self, text: str) -> bool:
        """Return whether a text is one expression of the language that gives a value, and nothing else.

        Parsed between brackets, exactly one node must reach over the whole text, and nothing else: neither a bracket of its own that closes
        ours, nor a comment, nor what jumps away.
        """
        source, node = self._between_brackets(text)
        if node is None or node.type in _NO_VALUES:
            return False
        for below in walk(node):
            if "comment" in below.type or below.type in _JUMPS or below.is_error or below.is_missing:
                return False
            if below.type == "identifier" and source.text(below) in self.keywords - _LITERALS:
                return False
        return True

    def _between_brackets(self, text: str) -> tuple[Source, Node | None]:
        """A text as an expression in brackets, and the one node that it is; None where it is anything else."""
        before, after = self.around
        source = type(self)(f"{before}{text}{after}".encode(), self.path)
        start, length = len(before.encode()), len(text.encode())
        if source.root.has_error or not text.strip() or text != text.strip():
            return source, None
        node = source.root.named_descendant_for_byte_range(start, start + length)
        if node is None or (node.start_byte, node.end_byte) != (start, start + length):
            return source, None
        parent = node.parent
        is_ours = parent is not None and parent.type == "parenthesized_expression" and parent.named_child_count == 1
        return source, node if is_ours else None

    def leading_name(self, text: str) -> str | None:
        """Return the name that an expression begins with; None for a literal, `this` or `super`."""
        source, node = self._between_brackets(text)
        if node is None:
            return None
        for leaf in walk(node):
            text = source.text(leaf) if not leaf.children else ""
            if text in _LITERALS:
                return None
            if text and leaf.is_named:
                return text if leaf.type == "identifier" else None
        return None

    def declares(self, class_name: str, name: str) -> bool:
        """Return whether a class has a member or a constructor parameter of a name, or its file declares or imports it."""
        if any(found.rpartition(".")[2] in {name, "*"} for found in self.imported):
            return True
        if any(self.text(node).rstrip(" ;").endswith(f" as {name}") for node in self._imports):
            return True
        own = self.declaration(class_name)
        tops = (child for child in self.root.children if child.is_named)
        return name in {found for top in (own, *tops) if top is not None for found in self._declared_in(top)}

    def _declared_in(self, declaration: Node) -> Iterator[str]:
        """The names that a declaration makes known: its own, and those of the members of a class."""
        parts: list[Node] = [declaration]
        if body := _body(declaration):
            parts += body.named_children
        parts += [node for child in declaration.children if child.type == "primary_constructor" for node in walk(child)]
        for part in parts:
            for node in (part, *part.named_children):
                if node.type in _NAMED and (name := _name(node) or next(iter(node.named_children), None)):
                    yield self.text(name)

    def with_first_lines(self, class_name: str, first: FirstLines, read: Callable[[bytes], Source]) -> bytes:
        """Return the file with statements at the beginning of a class's `onCreate`; see `Source`."""
        bare = read(self.without_marked()) if self.is_marked else self
        assert isinstance(bare, JvmSource)
        return bare._inserted(class_name, first, read)  # noqa: SLF001

    def _inserted(self, class_name: str, first: FirstLines, read: Callable[[bytes], Source]) -> bytes:
        """The same for a file without lines of Rivelt's."""
        declaration = self.declaration(class_name)
        if declaration is None:
            raise BadInput(f"class {class_name} was not found in it", place=Place(self.path))
        marked = [f"{line} {MARKER}{first.reason}" for line in first.statements]
        imports = list(first.imports)
        members = [f"{line} {MARKER}{reason}" for line, reason in first.members]
        method = self._on_create(declaration)
        if (method or declaration).has_error:
            raise self._not_understood(method or declaration)
        if method is not None:
            splices = [self._at_beginning(method, marked), *self._after_method(method, members)]
        else:
            splices = [self._new_method(declaration, marked, members)]
            imports.append("android.os.Bundle")
        after = spliced(self.data, [*splices, *self._import_splices(imports)])
        if _errors(read(after).root) > _errors(self.root):
            raise self._not_understood(method or declaration)
        return after

    def _after_method(self, method: Node, members: list[str]) -> Iterator[Splice]:
        """Lines of the class right after a method, on lines of their own."""
        if members:
            newline, indent = newline_at(self.data, method.start_byte), indent_at(self.data, method.start_byte)
            end = method.end_byte
            text = b"".join(newline + indent + line.encode() for line in members)
            rest = self.data[end : line_end(self.data, end)].strip()
            yield Splice(end, end, text + newline + indent if rest else text)

    def _not_understood(self, node: Node) -> BadInput:
        at = next((found for found in walk(node) if found.is_error or found.is_missing), node)
        row, column = at.start_point
        return BadInput("the source is not understood here", place=Place(self.path, row + 1, column + 1))

    def statements_before(self, class_name: str, name: str) -> list[Node] | None:
        """Return the statements of a class's entry method that come before the first call of a name; see `Source`."""
        method = self.entry_method(class_name)
        block = _block(method) if method is not None else None
        statements = [node for node in block.named_children if "comment" not in node.type] if block is not None else []
        for index, statement in enumerate(statements):
            if any(self._is_call(node, name) for node in walk(statement)):
                return statements[:index]
        return None

    def mentions(self, node: Node, names: Collection[str]) -> str | None:
        """Return what comes first in a node: one of some names, or a call of the superclass's entry method; see `Source`."""
        for found in walk(node):
            if found.type in {"super_expression", "super"} and self._is_on_create(found):
                return "super.onCreate"
            if found.type == "identifier" and self.text(found) in names:
                return self.text(found)
        return None

    def _at_beginning(self, method: Node, lines: list[str]) -> Splice:
        block = _block(method)
        if block is None:
            raise self._not_understood(method)
        at = _first_statement(block)
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

    def _new_method(self, declaration: Node, lines: list[str], members: list[str]) -> Splice:
        outer = indent_at(self.data, declaration.start_byte)
        unit = self._unit(declaration)
        newline = newline_at(self.data, declaration.start_byte)
        body = _body(declaration)
        head = self.method.split("\n")
        is_allman = body is not None and begins_line(self.data, body.start_byte)
        signature = [*head, "{"] if is_allman else [*head[:-1], head[-1] + " {"]
        inner = [*signature, *(unit.decode() + line for line in (*lines, self.call_super)), "}", *members]
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
            found = re.search(rb"(?m)^([ \t]+)[^\s*]", self.data)  # no line of a comment such as that of a licence
        outer = indent_at(self.data, node.start_byte)
        unit = found[1].removeprefix(outer) if found else b""
        return unit if unit and len(unit) <= 8 else b"    "

    def _import_splices(self, names: list[str]) -> Iterator[Splice]:
        have = {self._imported(node) for node in self._imports}
        wanted = sorted(name for name in set(names) if name not in have and name.rpartition(".")[0] + ".*" not in have)
        for name in wanted:
            line = self.import_line.format(name=name).encode()
            later = next((node for node in self._imports if self._imported(node) > name), None)
            if later is not None:
                yield Splice(later.start_byte, later.start_byte, line + newline_at(self.data, later.start_byte))
            elif self._imports:
                end = line_end(self.data, self._imports[-1].start_byte)
                yield Splice(end, end, newline_at(self.data, self._imports[-1].start_byte) + line)
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


def _errors(root: Node) -> int:
    if not root.has_error:  # which a missing node is as well
        return 0
    return sum(node.is_error or node.is_missing for node in walk(root))


def _name(node: Node) -> Node | None:
    return node.child_by_field_name("name")


def _body(declaration: Node) -> Node | None:
    return next((child for child in declaration.children if child.type == "class_body"), None)


def _block(method: Node) -> Node | None:
    """The statements of a method in their braces; None for one that is a single expression, or has no body."""
    body = next((child for child in method.children if child.type in {"function_body", "block"}), None)
    block = body if body is None or body.type == "block" else next(iter(body.named_children), None)
    return block if block is not None and block.type == "block" else None


def _first_statement(block: Node) -> Node | None:
    return next((child for child in block.named_children if "comment" not in child.type), None)


def _starts_later(data: bytes, start: int, end: int) -> bool:
    """Whether a line ends between two offsets."""
    return b"\n" in data[start:end]
