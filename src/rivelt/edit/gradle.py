"""Gradle build files, Groovy and Kotlin, read as far as their blocks and statements, and written by splicing.

No Gradle is run: a scanner that knows comments, strings and braces gives the blocks, and that is enough for what build files declare.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct, field

from rivelt.edit.splice import Splice, begins_line, indent_at, line_end, newline_at
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

_OPENER = regex(rb"([A-Za-z_][\w.]*)\s*(?:\([^(){}]*\))?\s*$")
_DEEPEST = 100
_QUOTES = (b'"""', b"'''", b'"', b"'")


class Block(Struct, eq=False):
    """`name { ... }`: `inside` and `closing` are the offsets after `{` and of `}`; the file itself is a block without a name."""

    name: str
    start: int
    inside: int
    closing: int = -1
    parent: Block | None = None
    children: list[Block] = field(default_factory=list)

    @property
    def trail(self) -> tuple[str, ...]:
        """The names from the outermost block to this one."""
        return (*(self.parent.trail if self.parent else ()), *([self.name] if self.name else []))

    def walk(self) -> Iterator[Block]:
        """Yield the block and all blocks in it, in the file's order."""
        yield self
        for child in self.children:
            yield from child.walk()


class GradleFile(Struct, frozen=True):
    """A build file. `code` is `data` with comments and the insides of strings blanked, so that offsets agree."""

    path: str
    data: bytes
    code: bytes
    root: Block

    @property
    def is_kotlin(self) -> bool:
        """Whether it is written in Kotlin rather than Groovy."""
        return self.path.endswith(".kts")

    def find(self, pattern: str) -> Iterator[re.Match[bytes]]:
        """Yield the places where a pattern matches real code at its beginning (not a comment, not the inside of a string)."""
        for found in re.finditer(pattern.encode(), self.data):
            if self.code[found.start() : found.start() + 1].strip():
                yield found

    def block_at(self, offset: int) -> Block:
        """Return the innermost block round an offset."""
        return next(b for b in reversed(list(self.root.walk())) if b.inside <= offset <= b.closing)

    def add_statement(self, block: Block, statement: str, like: str) -> Splice:
        """Put a statement into a block: after the last one-line statement whose name is `like`, else at its end."""
        last = self._last_like(block, like)
        if last is not None:
            end = line_end(self.data, last)
            text = newline_at(self.data, last) + indent_at(self.data, last) + statement.encode()
            return Splice(end, end, text)
        newline, closing = newline_at(self.data, block.start), block.closing
        if begins_line(self.data, closing):
            line = self.data.rfind(b"\n", 0, closing) + 1
            first = self._first_statement(block)
            indent = indent_at(self.data, first) if first is not None else indent_at(self.data, closing) + self._unit()
            return Splice(line, line, indent + statement.encode() + newline)
        content = self.data[block.inside : closing]
        if content.strip():  # name { a; b }
            end = block.inside + len(content.rstrip())
            return Splice(end, end, b"; " + statement.encode())
        indent = indent_at(self.data, block.start)
        return Splice(block.inside, closing, newline + indent + self._unit() + statement.encode() + newline + indent)

    def add_block(self, name: str, statement: str) -> Splice:
        """Put a new block with one statement at the end of the file."""
        newline = newline_at(self.data, len(self.data))
        gap = newline if self.data.endswith(b"\n") or not self.data else newline * 2
        body = newline.join((f"{name} {{".encode(), self._unit() + statement.encode(), b"}", b""))
        return Splice(len(self.data), len(self.data), gap + body)

    def _unit(self) -> bytes:
        found = re.search(rb"\{[^\S\n]*\r?\n([ \t]+)", self.code)
        return found[1] if found else b"    "

    def _first_statement(self, block: Block) -> int | None:
        found = re.compile(rb"\S").search(self.code, block.inside, block.closing)
        return found.start() if found and begins_line(self.data, found.start()) else None

    def _last_like(self, block: Block, like: str) -> int | None:
        pattern = re.compile(rb"(?m)^[ \t]*(" + like.encode() + rb")\b([^\n]*)$")
        last = None
        for found in pattern.finditer(self.code, block.inside, block.closing):
            rest = found[2]
            is_whole = rest.count(b"(") == rest.count(b")") and b"{" not in rest and not rest.rstrip().endswith(b",")
            if is_whole and self.block_at(found.start(1)) is block and found.end() < block.closing:
                last = found.start(1)
        return last


def read_gradle(data: bytes, path: str) -> GradleFile:
    """Read a build file.

    Raises:
        BadInput: its braces do not match, or a string or comment does not end.
    """
    code = _Scanner(data, path).blanked()
    root = Block("", 0, 0, len(data))
    open_block = root
    depth = 0
    for found in re.finditer(rb"[{}]", code):
        offset = found.start()
        if found[0] == b"{":
            opener = _OPENER.search(code, max(0, offset - 300), offset)
            name = opener[1].decode() if opener else ""
            block = Block(name, opener.start(1) if opener else offset, offset + 1, parent=open_block)
            open_block.children.append(block)
            open_block = block
            depth += 1
            if depth > _DEEPEST:
                raise _unreadable(data, path, offset, f"blocks are nested more than {_DEEPEST} deep")
        elif open_block.parent is None:
            raise _unreadable(data, path, offset, "a } closes nothing")
        else:
            depth -= 1
            open_block.closing = offset
            open_block = open_block.parent
    if open_block is not root:
        raise _unreadable(data, path, open_block.inside - 1, "a { is never closed")
    return GradleFile(path, data, code, root)


def _unreadable(data: bytes, path: str, offset: int, why: str) -> BadInput:
    return BadInput(f"the build file cannot be understood: {why}", place=Place.at(path, data, offset), hint="Fix it.")


class _Scanner:
    """Blanks comments and the insides of strings; what `${...}` holds is blanked with its string."""

    def __init__(self, data: bytes, path: str) -> None:
        self._data = data
        self._path = path
        self._code = bytearray(data)

    def blanked(self) -> bytes:
        """Return the bytes with everything blanked that is not code; the quotes stay."""
        data, at = self._data, 0
        interesting = re.compile(rb"//|/\*|[\"']")
        while found := interesting.search(data, at):
            start = found.start()
            if found[0] == b"//":
                end = line_end(data, start)
                self._blank(start, end)
            elif found[0] == b"/*":
                end = data.find(b"*/", start) + 2
                if end < 2:
                    raise _unreadable(data, self._path, start, "a comment never ends")
                self._blank(start, end)
            else:
                end = self._string_end(start)
                width = 3 if data[start : start + 3] in _QUOTES and end - start >= 6 else 1
                self._blank(start + width, end - width)
            at = max(end, start + 1)
        return bytes(self._code)

    def _blank(self, start: int, end: int) -> None:
        self._code[start:end] = re.sub(rb"[^\r\n]", b" ", self._data[start:end])

    def _string_end(self, start: int, depth: int = 0) -> int:
        """The offset after the string that begins at `start`."""
        data = self._data
        quote = next(quote for quote in _QUOTES if data.startswith(quote, start))
        at = start + len(quote)
        while at < len(data):
            if data.startswith(quote, at):
                return at + len(quote)
            if data[at : at + 1] == b"\\" and (len(quote) == 1 or not self._path.endswith(".kts")):
                at += 2
            elif data.startswith(b"${", at) and quote[:1] == b'"':
                at = self._interpolation_end(at + 2, depth + 1)
            elif data[at : at + 1] == b"\n" and len(quote) == 1:
                break
            else:
                at += 1
        raise _unreadable(data, self._path, start, "a text in quotes never ends")

    def _interpolation_end(self, at: int, nested: int) -> int:
        if nested > _DEEPEST:
            raise _unreadable(self._data, self._path, at, f"texts are nested more than {_DEEPEST} deep")
        depth = 1
        while at < len(self._data) and depth:
            char = self._data[at : at + 1]
            if char in {b'"', b"'"}:
                at = self._string_end(at, nested)
                continue
            depth += (char == b"{") - (char == b"}")
            at += 1
        return at
