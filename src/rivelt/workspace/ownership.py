"""Whose a file is that the lock file names: the lock comes with a repository, and whoever wrote that may have named anything in it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path

from rivelt.brief.model import Brief
from rivelt.plan.names import ASSET, FILE, RESOURCE, safe_name
from rivelt.workspace import journal as journals
from rivelt.workspace.change import sha256

_MARK = b"made by rivelt"
_MARKED_WITHIN = 2000
_CATALOG_MARK = b'"author" : "rivelt"'
_IMAGES = (b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"PK\x03\x04", b"PK\x05\x06")
_USUAL = ("rivelt", "uploads")


def generated_words(brief: Brief) -> tuple[str, ...]:
    """Return what the names of generated files or folders begin with, in lower case: the usual prefix, and those that the brief chooses."""
    return tuple(dict.fromkeys((*_USUAL, *_chosen(brief))))


def _chosen(brief: Brief) -> Iterator[str]:
    for options in brief.options.values():
        for key in ("prefix", "folder", "out"):
            value = getattr(options, key, None)
            if isinstance(value, str) and value.strip("./ "):
                name = value.replace("\\", "/").strip("./ ").rpartition("/")[2]
                yield from (safe_name(name, rule).lower() for rule in (RESOURCE, ASSET, FILE))
                yield name.lower()


def shows_its_maker(path: str, content: bytes, words: Iterable[str]) -> bool:
    """Return whether a file is one that Rivelt makes, by itself: it is where Rivelt would write it, and says who made it.

    An image cannot hold a name; it must be an image, and be there.
    """
    parts = [part.lower() for part in path.split("/")]
    if not any(part.startswith(word) for part in parts for word in words):
        return False
    if content.startswith(_IMAGES):
        return True
    return _MARK in content[:_MARKED_WITHIN].lower() or (parts[-1] == "contents.json" and _CATALOG_MARK in content)


def made_here(root: Path, files: Iterable[tuple[str, bytes]]) -> frozenset[str]:
    """Return those of some files (path, content) that a journal of this machine says Rivelt wrote, with just that content."""
    from rivelt.workspace.commit import project_tree

    with project_tree(root) as tree:
        found = (journals.read(tree, number) for number in journals.numbers(tree))
        written = {
            (entry.path, entry.after) for journal in found if journal.is_local for entry in journal.record.entries
        }
        return frozenset(path for path, content in files if (tree.real(path), sha256(content)) in written)
