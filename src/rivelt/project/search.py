"""The files of a folder on disk, searched: which there are, which git ignores, where links lead."""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from itertools import groupby
from pathlib import Path, PurePosixPath

from msgspec import Struct, field

from rivelt.disk.tree import TOOL_FOLDERS, Tree, can_read
from rivelt.errors import BadInput, Place
from rivelt.project.ignore import IGNORE_FILE, Patterns, is_ignored, patterns_above, patterns_in
from rivelt.project.snapshot import (
    IGNORED_FOLDERS,
    MAX_FILES,
    MOST_LINKS,
    Content,
    Kind,
    Snapshot,
    Unread,
    is_text,
    most_of,
    parent,
    upwards,
)


def snapshot_of(root: Path) -> Snapshot:
    """Return the files below a folder, without the ignored folders and without links that lead out of it.

    Raises:
        BadInput: it cannot be listed, or holds far too many files.
    """
    if not root.is_dir():
        raise BadInput(f"{_shown(root)} is not a folder", hint="Give the folder of the native projects.")
    found = _Search(root)
    found.search()
    return Snapshot(
        found.files,
        linked=found.linked,
        unread=sorted(found.unread, key=lambda one: one.path),
        probe=_Probe(root, frozenset(found.ignored)),
        fetch=found.fetch,
        ignores=_Ignores(found.patterns, found.home),
    )


class _Reader(Struct, frozen=True):
    """Reads a file when it is first asked for."""

    root: Path
    path: str

    def __call__(self) -> bytes:
        try:
            with Tree.opened(self.root) as tree:
                return tree.read(self.path, most_of(self.path))
        except OSError as error:
            message, hint = f"cannot be read: {error.strerror}", "Fix its permissions, or remove it."
            raise BadInput(message, place=Place(self.path), hint=hint) from error


class _Probe(Struct, frozen=True):
    """Finds files in ignored folders, by their paths."""

    root: Path
    ignored: frozenset[str]

    def __call__(self, path: str) -> Content | None:
        if not any(folder in self.ignored for folder in upwards(parent(path))):
            return None
        try:
            with Tree.opened(self.root) as tree:
                status = tree.status(path)
        except (OSError, ValueError):
            return None
        return _Reader(self.root, path) if status is not None and stat.S_ISREG(status.st_mode) else None


class _Ignores(Struct, frozen=True):
    """What git ignores of the files of a folder: the patterns of each folder in it, and its own path in the repository."""

    patterns: Mapping[str, tuple[Patterns, ...]]
    home: str

    def __call__(self, path: str) -> bool:
        chain = self.patterns.get(parent(path), ())
        return bool(chain) and is_ignored(chain, self.home + path, is_folder=False)


class _Search(Struct):
    """One search of a folder on disk."""

    root: Path
    files: dict[str, Content] = field(default_factory=dict)
    linked: dict[str, Content] = field(default_factory=dict)
    unread: list[Unread] = field(default_factory=list)
    followed: int = 0
    patterns: dict[str, tuple[Patterns, ...]] = field(default_factory=dict)
    ignored: set[str] = field(default_factory=set)
    home: str = ""
    real: str = ""

    def search(self) -> None:
        """List everything.

        Raises:
            BadInput: there are far too many files, or the root itself cannot be listed.
        """
        self.real = os.path.realpath(self.root)
        self.home, self.patterns[".."] = patterns_above(self.root)
        pending: list[tuple[str, tuple[str, ...]]] = [("", ())]
        while pending:
            folder, links = pending.pop()
            pending += self._list(folder, links)
            if len(self.files) + len(self.linked) > MAX_FILES:
                raise BadInput(f"{self.root} holds more than {MAX_FILES} files", hint="Give the folder of one app.")

    def _list(self, folder: str, links: tuple[str, ...]) -> Iterator[tuple[str, tuple[str, ...]]]:
        """List one folder, and yield those in it. `links`: where the links led that were followed to get here."""
        try:
            entries = sorted(os.scandir(self.root / folder), key=lambda entry: entry.name)
        except OSError as error:
            if not folder:
                message = f"{_shown(self.root)} cannot be read: {error.strerror}"
                raise BadInput(message, hint="Fix its permissions.") from error
            self._skip(folder, error.strerror or "it cannot be listed", "folder")
            return
        inside = f"{folder}/" if folder else ""
        chain = self.patterns[parent(folder) if folder else ".."]
        if any(entry.name == IGNORE_FILE for entry in entries):
            chain += patterns_in(self.root / folder / IGNORE_FILE, self.home + inside)
        self.patterns[folder] = chain
        for entry in entries:
            path = f"{inside}{entry.name}"
            if not is_text(entry.name):
                self._skip(path, "its name is not UTF-8", "odd")
            elif entry.is_symlink():
                yield from self._follow(path, entry.name, links)
            elif entry.is_dir(follow_symlinks=False):
                if entry.name in IGNORED_FOLDERS or (chain and is_ignored(chain, self.home + path, is_folder=True)):
                    self.ignored.add(path)
                else:
                    yield path, links
            elif entry.name not in TOOL_FOLDERS:  # a worktree and a submodule have a file in place of the folder
                self._add(path, entry, links)

    def _add(self, path: str, entry: os.DirEntry[str], links: tuple[str, ...]) -> None:
        if not can_read(entry.path):
            self._skip(path, os.strerror(errno.EACCES), "file")
        elif not entry.is_file(follow_symlinks=False):
            self._skip(path, "it is a pipe, a socket or a device, not a file", "odd")
        (self.linked if links else self.files)[path] = _Reader(self.root, path)

    def _follow(self, path: str, name: str, links: tuple[str, ...]) -> Iterator[tuple[str, tuple[str, ...]]]:
        """Follow a link, if it stays inside; one to a folder that it is in itself has nothing new."""
        if links and self.followed >= MOST_LINKS:
            return
        try:
            target = os.path.realpath(self.root / path, strict=True)
            status = Path(target).stat()
        except FileNotFoundError:
            return  # a broken link holds nothing; who would write there is stopped by it
        except OSError as error:
            self._skip(path, error.strerror or "the link cannot be followed", "odd")
            (self.linked if links else self.files)[path] = _Reader(self.root, path)
            return
        if target != self.real and not target.startswith(self.real.rstrip(os.sep) + os.sep):
            self._skip(path, "a link that leads out of the project", "outside")
        elif stat.S_ISDIR(status.st_mode):
            here = os.path.realpath(self.root / PurePosixPath(path).parent)
            is_around = f"{here}{os.sep}".startswith(target.rstrip(os.sep) + os.sep)
            chain = self.patterns[parent(path)]
            is_left_out = name in IGNORED_FOLDERS or is_ignored(chain, self.home + path, is_folder=False)
            if not is_left_out and not is_around and target not in links:
                self.followed += 1
                if self.followed == MOST_LINKS:
                    self._skip(
                        path, f"{MOST_LINKS} links to folders were followed: this one and later ones are not", "odd"
                    )
                if self.followed < MOST_LINKS:
                    yield path, (*links, target)
        elif stat.S_ISREG(status.st_mode) and can_read(target):
            (self.linked if links else self.files)[path] = _Reader(self.root, path)
        else:
            self._skip(path, "the link leads to something that cannot be read", "odd")
            (self.linked if links else self.files)[path] = _Reader(self.root, path)

    def _skip(self, path: str, reason: str, kind: Kind) -> None:
        self.unread.append(Unread(path, reason, kind))

    def fetch(self, paths: Iterable[str]) -> Mapping[str, bytes]:
        """Return the contents of many files, of those that can be read; each folder is opened once."""
        found: dict[str, bytes] = {}
        with suppress(OSError), Tree.opened(self.root) as tree:
            for _, inside in groupby(sorted(paths, key=parent), key=parent):
                found |= tree.read_beside({path: most_of(path) for path in inside})
        return found


def _shown(path: Path) -> str:
    """Return a path as a person would give it from here."""
    return str(path.relative_to(Path.cwd())) if path.is_relative_to(Path.cwd()) else str(path)
