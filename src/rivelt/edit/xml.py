"""XML with places: a small read-only tree whose nodes know the bytes they come from, and splices made from it.

Only expat reads; nothing is ever serialised. Entities of the document's own are refused, external ones are never fetched.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property
from xml.parsers import expat

from msgspec import Struct, field

from rivelt.edit.lines import Lines
from rivelt.edit.splice import Splice, begins_line, indent_at, newline_at
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.xmltext import escaped, quoted

_MAX_DEPTH = 200
_ATTRIBUTE = regex(rb"""\s*(?P<name>[^\s=/>"']+)\s*=\s*(?P<quote>["'])(?P<value>.*?)(?P=quote)""", re.DOTALL)
_TAG = regex(rb"""(?:[^"'>]|"[^"]*"|'[^']*')*>""")
_TAG_NAME = regex(rb"<[^\s/>]+")


class Node(Struct, eq=False):
    """An element. `tag` and the keys of `attributes` are `{namespace}local`, or `local` without a namespace.

    `start` to `inside` are the bytes of the start tag, `inside` to `closing` those of the content, `closing` to `end` those of
    the end tag; for `<a/>` the last three are equal. `line` counts from 1.
    """

    tag: str
    attributes: dict[str, str]
    line: int
    start: int
    parent: Node | None = None
    inside: int = -1
    closing: int = -1
    end: int = -1
    children: list[Node] = field(default_factory=list)
    text: str = ""

    @property
    def local(self) -> str:
        """The tag without its namespace."""
        return self.tag.rpartition("}")[2]

    def get(self, name: str, namespace: str = "") -> str | None:
        """Return the value of an attribute, or None."""
        return self.attributes.get(f"{{{namespace}}}{name}" if namespace else name)

    def walk(self) -> Iterator[Node]:
        """Yield the element and everything below it, in document order."""
        yield self
        for child in self.children:
            yield from child.walk()

    def all(self, local: str) -> list[Node]:
        """Return the children with a tag, in any namespace."""
        return [child for child in self.children if child.local == local]

    def first(self, local: str) -> Node | None:
        """Return the first child with a tag, in any namespace."""
        return next(iter(self.all(local)), None)


class Document(Struct, frozen=True, dict=True):
    """An XML file: its bytes, its root, and the path that messages name."""

    path: str
    data: bytes
    root: Node

    @cached_property
    def _lines(self) -> Lines:
        return Lines(self.data, self.path)

    def place(self, node: Node) -> Place:
        """Return where an element begins."""
        return Place(self.path, node.line, self._lines.place(node.start).column)

    # Splices. Each leaves every byte outside its span alone.

    def set_attribute(self, node: Node, qualified_name: str, value: str) -> Splice:
        """Give an attribute (its name with prefix, as in the file) a value: in place, or as a new last attribute."""
        shown = quoted(value)
        head = _TAG_NAME.match(self.data, node.start)
        assert head is not None
        last_end = head.end()
        last_start = None
        for found in _attributes(self.data, head.end(), node.inside):
            if found["name"] == qualified_name.encode():
                quote = found["quote"].decode()
                return Splice(found.start("value"), found.end("value"), quoted(value, quote)[1:-1].encode())
            last_start, last_end = found.start("name"), found.end()
        separator = b" "
        if last_start is not None and begins_line(self.data, last_start):
            separator = newline_at(self.data, node.start) + indent_at(self.data, last_start)
        return Splice(last_end, last_end, separator + f"{qualified_name}={shown}".encode())

    def prefix_of(self, namespace: str) -> str | None:
        """Return the prefix that the file gives a namespace first, None when it gives none."""
        pattern = rb"xmlns:([^\s=]+)\s*=\s*([\"'])" + re.escape(namespace.encode()) + rb"\2"
        found = re.search(pattern, self.data)
        return found[1].decode() if found else None

    def remove(self, node: Node) -> Splice:
        """Take an element away, together with the line that it alone stands on."""
        start, end = node.start, node.end
        line_end = self.data.find(b"\n", end)
        if begins_line(self.data, start) and line_end >= 0 and not self.data[end:line_end].strip():
            return Splice(self.data.rfind(b"\n", 0, start) + 1, line_end + 1, b"")
        return Splice(start, end, b"")

    def set_content(self, node: Node, text: str) -> Splice:
        """Give an element text as its only content."""
        shown = escaped(text).encode()
        if node.inside == node.end:  # <a/>
            name = _TAG_NAME.match(self.data, node.start)
            assert name is not None
            return Splice(node.start, node.end, self._opened(node) + shown + b"</" + name[0][1:] + b">")
        return Splice(node.inside, node.closing, shown)

    def insert_after(self, node: Node, lines: list[str]) -> Splice:
        """Insert lines after an element, indented like it. Of `lines`, tabs at the beginning mean one more level."""
        return self._inserted(node.end, indent_at(self.data, node.start), lines, before=True)

    def append_child(self, node: Node, lines: list[str], indent_unit: bytes) -> Splice:
        """Insert lines as the last children of an element that is empty or holds elements."""
        if node.children:
            return self.insert_after(node.children[-1], lines)
        outer = indent_at(self.data, node.start)
        newline = newline_at(self.data, node.start)
        body = b"".join(newline + outer + indent_unit + line.encode() for line in lines) + newline + outer
        if node.inside == node.end:
            name = _TAG_NAME.match(self.data, node.start)
            assert name is not None
            return Splice(node.start, node.end, self._opened(node) + body + b"</" + name[0][1:] + b">")
        return Splice(node.inside, node.closing, body)

    def indent_unit(self) -> bytes:
        """Return one level of indentation, as the root's first child has it."""
        if self.root.children and begins_line(self.data, self.root.children[0].start):
            unit = indent_at(self.data, self.root.children[0].start).removeprefix(indent_at(self.data, self.root.start))
            return unit or b"    "
        return b"    "

    def _opened(self, node: Node) -> bytes:
        """The start tag of `<a/>` as `<a>`."""
        return self.data[node.start : node.end].removesuffix(b"/>").rstrip() + b">"

    def _inserted(self, position: int, indent: bytes, lines: list[str], *, before: bool) -> Splice:
        newline = newline_at(self.data, position)
        body = newline.join(indent + line.encode() for line in lines)
        return Splice(position, position, newline + body if before else body + newline)


def _attributes(data: bytes, start: int, end: int) -> Iterator[re.Match[bytes]]:
    position = start
    while found := _ATTRIBUTE.match(data, position, end):
        yield found
        position = found.end()


def parse_xml(data: bytes, path: str) -> Document:
    """Parse XML whose bytes are UTF-8 or declare another 8-bit encoding that contains ASCII.

    Raises:
        BadInput: not well-formed, of another encoding, with entities of its own, or nested too deeply.
    """
    if data[:2] in {b"\xff\xfe", b"\xfe\xff"}:
        raise BadInput("the file is UTF-16, which Rivelt cannot edit yet", place=Place(path), hint="Save it as UTF-8.")
    return Document(path, data, _Builder(data, path).build())


class _Builder:
    """Feeds expat and keeps the byte offsets it reports."""

    def __init__(self, data: bytes, path: str) -> None:
        self._data = data
        self._path = path
        self._root: Node | None = None
        self._open: Node | None = None
        self._texts: list[list[str]] = []
        parser = self._parser = expat.ParserCreate(namespace_separator="}")
        parser.buffer_text = True
        parser.StartElementHandler = self._start
        parser.EndElementHandler = self._end
        parser.CharacterDataHandler = self._text
        parser.EntityDeclHandler = self._entity
        parser.SetParamEntityParsing(expat.XML_PARAM_ENTITY_PARSING_NEVER)

    def build(self) -> Node:
        try:
            self._parser.Parse(self._data, True)
        except expat.ExpatError as error:
            at = Place(self._path, error.lineno, error.offset + 1)
            message = f"not well-formed XML: {expat.ErrorString(error.code)}"
            raise BadInput(message, place=at, hint="Fix it; the platform's own tools refuse it too.") from error
        except (ValueError, LookupError) as error:
            raise BadInput(
                "the file's text encoding cannot be read", place=Place(self._path), hint="Save it as UTF-8."
            ) from error
        assert self._root is not None
        return self._root

    def _entity(self, name: str, *_: object) -> None:
        at = Place(self._path, self._parser.CurrentLineNumber)
        raise BadInput(f"the file declares an entity ({name})", place=at, hint="Write its text out where it is used.")

    def _start(self, tag: str, attributes: dict[str, str]) -> None:
        start = self._parser.CurrentByteIndex
        named = {_braced(key): value for key, value in attributes.items()}
        node = Node(_braced(tag), named, self._parser.CurrentLineNumber, start, self._open)
        node.inside = _tag_end(self._data, start)
        self._texts.append([])
        if len(self._texts) > _MAX_DEPTH:
            raise BadInput(f"elements are nested more than {_MAX_DEPTH} deep", place=Place(self._path, node.line))
        if self._open is None:
            self._root = node
        else:
            self._open.children.append(node)
        self._open = node

    def _end(self, _tag: str) -> None:
        node = self._open
        assert node is not None
        if self._data[node.inside - 2 : node.inside] == b"/>":
            node.closing = node.end = node.inside
        else:
            node.closing = self._parser.CurrentByteIndex
            node.end = self._data.index(b">", node.closing) + 1
        node.text = "".join(self._texts.pop())
        self._open = node.parent

    def _text(self, text: str) -> None:
        if self._texts:
            self._texts[-1].append(text)


def _braced(name: str) -> str:
    return f"{{{name}" if "}" in name else name


def _tag_end(data: bytes, start: int) -> int:
    """The offset after the `>` of the tag that begins at `start`; a `>` inside quotes does not end it."""
    found = _TAG.match(data, start)
    assert found is not None  # expat has accepted it before
    return found.end()
