"""Which files of a project name something: one index of the words of all sources, for every platform's unused files."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property

from rivelt.patterns import regex

SOURCES = (
    ".appxmanifest",
    ".c",
    ".cpp",
    ".cs",
    ".css",
    ".dart",
    ".gradle",
    ".h",
    ".htm",
    ".html",
    ".java",
    ".js",
    ".json",
    ".jsx",
    ".kt",
    ".kts",
    ".m",
    ".mjs",
    ".mm",
    ".php",
    ".plist",
    ".rb",
    ".resw",
    ".storyboard",
    ".svelte",
    ".swift",
    ".toml",
    ".ts",
    ".tsx",
    ".vb",
    ".vue",
    ".webmanifest",
    ".xaml",
    ".xcconfig",
    ".xml",
    ".yaml",
    ".yml",
)
"""Endings of the files in which a launch image can be named."""

LARGEST_SOURCE = 2_000_000
"""Bytes: a larger file is data, not a source."""

_WORD = regex(rb"[0-9A-Za-z_\x80-\xff]+")
_NO_LETTERS = b"0123456789_"
_MANY_WORDS = 24  # from here on, splitting all sources costs less than searching them again and again


def words_of(data: bytes) -> frozenset[bytes]:
    """Return the words of a source in lower case: runs of letters, digits, `_` and bytes that are not ASCII.

    A word that begins with digits or `_` counts without them, too.
    """
    if len(data) > LARGEST_SOURCE:
        return frozenset()
    words = frozenset(_WORD.findall(data.lower()))
    return words | {word.lstrip(_NO_LETTERS) for word in words if word[0] in _NO_LETTERS}


def holds_word(data: bytes, word: bytes) -> bool:
    """Return whether a word is one of the `words_of` a source in lower case."""
    at = data.find(word)
    while at >= 0:
        start, end = at, at + len(word)
        while start and data[start - 1] in _NO_LETTERS:
            start -= 1
        is_whole = not _WORD.match(data[end : end + 1]) and not _WORD.match(data[start - 1 : start] if start else b"")
        if is_whole and (start == at or word[0] not in _NO_LETTERS):
            return True
        at = data.find(word, at + 1)
    return False


class WordIndex:
    """The sources of a project by the words in them; only a filter: it finds the few files in which a name can stand at all.

    Most commands ask for a few words: those are searched for as bytes. Where many are asked for, all sources are split into words.
    """

    def __init__(
        self,
        sources: Iterable[tuple[str, bytes]],
        split: Callable[[bytes], frozenset[bytes]] = words_of,
        base: WordIndex | None = None,
        changed: frozenset[str] = frozenset(),
    ) -> None:
        """Index some sources.

        Args:
            sources: their paths and contents.
            split: returns the words of a content.
            base: an index whose sources count too.
            changed: paths that do not count there: other files now, or gone.
        """
        self._base = base
        self._sources = list(sources)
        self._split = split
        self._changed = changed
        self._found: dict[bytes, frozenset[str]] = {}

    @cached_property
    def _lowered(self) -> list[bytes]:
        return [data.lower() if len(data) <= LARGEST_SOURCE else b"" for _, data in self._sources]

    @cached_property
    def _every_word(self) -> dict[bytes, list[str]]:
        index: dict[bytes, list[str]] = {}
        for path, data in self._sources:
            for word in self._split(data):
                index.setdefault(word, []).append(path)
        return index

    def _own(self, word: bytes) -> Iterable[str]:
        if len(self._found) >= _MANY_WORDS:
            return self._every_word.get(word, ())
        held = zip(self._sources, self._lowered, strict=True)
        return [path for (path, _), lowered in held if holds_word(lowered, word)]

    def _with(self, word: bytes) -> frozenset[str]:
        if word not in self._found:
            inherited = self._base._with(word) - self._changed if self._base is not None else frozenset()  # noqa: SLF001
            self._found[word] = inherited.union(self._own(word))
        return self._found[word]

    def candidates(self, name: str) -> Iterator[str]:
        """Yield the paths of the sources that hold all the words of a name, sorted."""
        words = sorted(set(_WORD.findall(name.encode().lower())), key=len, reverse=True)
        found: frozenset[str] | None = None
        for word in words:
            found = self._with(word) if found is None else found & self._with(word)
            if not found:
                return
        yield from sorted(found or ())
