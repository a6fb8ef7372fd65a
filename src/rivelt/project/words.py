"""Which files of a project name something: one index of the words of all sources, for every platform's unused files."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

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

_WORD = re.compile(rb"[0-9A-Za-z_\x80-\xff]+")
_NO_LETTERS = b"0123456789_"


def words_of(data: bytes) -> frozenset[bytes]:
    """Return the words of a source in lower case: runs of letters, digits, `_` and bytes that are not ASCII.

    A word that begins with digits or `_` counts without them, too.
    """
    if len(data) > LARGEST_SOURCE:
        return frozenset()
    words = frozenset(_WORD.findall(data.lower()))
    return words | {word.lstrip(_NO_LETTERS) for word in words if word[0] in _NO_LETTERS}


class WordIndex:
    """The sources of a project by the words in them; only a filter: it finds the few files in which a name can stand at all."""

    def __init__(
        self,
        sources: Iterable[tuple[str, frozenset[bytes]]],
        base: WordIndex | None = None,
        changed: frozenset[str] = frozenset(),
    ) -> None:
        """Index some sources (path, words); those of `base` count too, but for the paths `changed`: other files now, or gone."""
        self._base = base
        self._own: dict[bytes, list[str]] = {}
        self._changed = changed
        for path, words in sources:
            for word in words:
                self._own.setdefault(word, []).append(path)

    def _with(self, word: bytes) -> set[str]:
        inherited = self._base._with(word) - self._changed if self._base is not None else set()  # noqa: SLF001
        return inherited | set(self._own.get(word, ()))

    def candidates(self, name: str) -> Iterator[str]:
        """Yield the paths of the sources that hold all the words of a name, sorted."""
        words = sorted(set(_WORD.findall(name.encode().lower())), key=len, reverse=True)
        found: set[str] | None = None
        for word in words:
            found = self._with(word) if found is None else found & self._with(word)
            if not found:
                return
        yield from sorted(found or ())
