"""HTML with places: the start tags of a page, in order, and splices that set their attributes. Nothing is ever serialised.

A tokenizer, not a parser: pages come with the placeholders of a dozen template languages, which only have to stay as they are.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cached_property

from msgspec import Struct

from rivelt.edit.lines import Lines
from rivelt.edit.splice import Splice
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

_MOST_BYTES = 10_000_000
_NAME = regex(rb"/?[A-Za-z][^\s/>]*")
_STOP = regex(rb"[\"'>]")
_ATTRIBUTE = regex(rb"""[\s/]*(?P<name>[^\s=/>"']+)(?:\s*=\s*(?P<value>"[^"]*"|'[^']*'|[^\s>"']+))?""")
_INERT = frozenset({"template", "noscript"})
_RAW = {"script", "style", "title", "textarea", "xmp", "iframe", "noembed", "noframes"}


class Tag(Struct, frozen=True):
    """A start tag, an end tag (`name` begins with "/") or a comment (`name` is "!--"): bytes `start` to `end`."""

    name: str
    start: int
    end: int
    attributes: dict[str, str]

    def get(self, name: str) -> str:
        """Return the value of an attribute; "" when it has none."""
        return self.attributes.get(name, "")

    @property
    def rel(self) -> set[str]:
        """The link types of `rel`."""
        return set(self.get("rel").lower().split())


class Page(Struct, frozen=True, dict=True):
    """An HTML file and its tags in order."""

    path: str
    data: bytes
    tags: tuple[Tag, ...]

    @cached_property
    def _lines(self) -> Lines:
        return Lines(self.data, self.path)

    @cached_property
    def live(self) -> Sequence[Tag]:
        """The tags that a browser which runs scripts makes elements of: none in `<template>` or `<noscript>`."""
        found: list[Tag] = []
        depth = 0
        for tag in self.tags:
            if tag.name in _INERT:
                depth += 1
            elif tag.name.removeprefix("/") in _INERT:
                depth = max(0, depth - 1)
            elif depth == 0:
                found.append(tag)
        return found

    def place(self, tag: Tag) -> Place:
        """Return where a tag begins."""
        return self._lines.place(tag.start)

    def comment(self, tag: Tag) -> str:
        """Return the text of a comment."""
        return (
            self.data[tag.start : tag.end].decode("utf-8", "replace").removeprefix("<!--").removesuffix("-->").strip()
        )

    def set_attribute(self, tag: Tag, name: str, value: str) -> Splice:
        """Give an attribute a value: in place, or as a new last one."""
        import html

        shown = f'"{html.escape(value)}"'.encode()
        for found in _attributes(self.data, tag.start, tag.end):
            if found["name"].decode("latin-1").lower() == name:
                if found["value"] is None:
                    return Splice(found.end(), found.end(), b"=" + shown)
                return Splice(found.start("value"), found.end("value"), shown)
        inside = self.data[tag.start : tag.end].removesuffix(b">").rstrip(b"/ \t\r\n")
        at = tag.start + len(inside)
        return Splice(at, at, f" {name}=".encode() + shown)


def parse_html(data: bytes, path: str) -> Page:
    """Read the tags of a page whose encoding contains ASCII.

    Raises:
        BadInput: it is UTF-16, or far too large.
    """
    if data[:2] in {b"\xff\xfe", b"\xfe\xff"}:
        raise BadInput("the page is UTF-16, which Rivelt cannot edit", place=Place(path), hint="Save it as UTF-8.")
    if len(data) > _MOST_BYTES:
        raise BadInput(f"the page has more than {_MOST_BYTES // 1_000_000} MB", place=Place(path))
    return Page(path, data, tuple(_tags(data)))


def _tags(data: bytes) -> Iterator[Tag]:
    position = 0
    while (start := data.find(b"<", position)) >= 0:
        if data.startswith(b"<!--", start):
            end = data.find(b"-->", start + 4)
            if end < 0:
                return
            yield Tag("!--", start, end + 3, {})
            position = end + 3
            continue
        found = _NAME.match(data, start + 1)
        if found is None:
            position = start + 1
            continue
        end = _tag_end(data, found.end())
        if end < 0:
            return
        name = found[0].decode("latin-1").lower()
        values = {} if name.startswith("/") else _values(data, start, end)
        yield Tag(name, start, end, values)
        position = end
        if name in _RAW:
            closing = re.compile(b"</" + re.escape(name.encode()), re.IGNORECASE).search(data, end)
            position = closing.start() if closing else len(data)


def _tag_end(data: bytes, position: int) -> int:
    """The offset after the `>` that ends a tag, -1 when there is none; a `>` in quotes does not end it."""
    while found := _STOP.search(data, position):
        if found[0] == b">":
            return found.end()
        closing = data.find(found[0], found.end())
        position = closing + 1 if closing >= 0 else len(data)
    return -1


def _attributes(data: bytes, start: int, end: int) -> Iterator[re.Match[bytes]]:
    name = _NAME.match(data, start + 1)
    position = name.end() if name else start
    while (found := _ATTRIBUTE.match(data, position, end - 1)) and found.end() > position:
        yield found
        position = found.end()


def _values(data: bytes, start: int, end: int) -> dict[str, str]:
    values: dict[str, str] = {}
    for found in _attributes(data, start, end):
        raw = (found["value"] or b"").decode("utf-8", "replace")
        text = raw[1:-1] if raw[:1] in {'"', "'"} else raw
        values.setdefault(found["name"].decode("latin-1").lower(), _unescaped(text) if "&" in text else text)
    return values


def _unescaped(text: str) -> str:
    import html  # it loads a table of all entities, and few pages have one

    return html.unescape(text)
