"""A project's files as one read-only value, confined to the project's root; and the project as it would be."""

from __future__ import annotations

import errno
import fnmatch
import os
import stat
from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property
from itertools import groupby
from pathlib import Path, PurePosixPath
from typing import Literal, TypeAlias

from msgspec import Struct

from rivelt.disk.folder import MAX_FILE
from rivelt.disk.tree import TOOL_FOLDERS, Tree, can_read
from rivelt.errors import BadInput, Place
from rivelt.picture import ImageFile, PlannedFile
from rivelt.project.ignore import IGNORE_FILE, Patterns, is_ignored, patterns_above, patterns_in

Made: TypeAlias = bytes | ImageFile | PlannedFile
"""A file's bytes, an image that may not be rendered yet, or another file that is not made yet."""

Kind: TypeAlias = Literal["folder", "file", "outside", "odd"]

Content: TypeAlias = Made | Callable[[], bytes]
"""The same, or a function that reads the bytes when they are first asked for."""

IGNORED_FOLDERS = TOOL_FOLDERS | {
    ".dart_tool",
    ".expo",
    ".gradle",
    ".idea",
    ".venv",
    "Carthage",
    "DerivedData",
    "Pods",
    "build",
    "node_modules",
}
"""Folders that hold what tools made or fetched: never a project's own sources. Nobody searches them; a file in them that is asked for by
its path is found."""

OTHERS_FOLDERS = frozenset({"dist", "external", "third-party", "third_party", "thirdparty", "vendor", "vendored"})
"""Folders that hold what builds put out, and other people's code: they may be read, but no app of the project's own is looked for there."""

MOST_LINKS = 200
"""How many links to folders are followed: a dozen folders that link each other make millions of paths."""

MAX_FILES = 200_000
"""More files than this are not an app project, but a wrong folder."""


class Unread(Struct, frozen=True):
    """What is in a project and cannot be read: where, and why.

    `kind`: a folder that cannot be listed, a file that cannot be read, a link that leads out of the project, or something else.
    """

    path: str
    reason: str
    kind: Kind

    @property
    def is_of_a_tool(self) -> bool:
        """Whether it is in a hidden folder, where tools put links to what they fetched."""
        return any(part.startswith(".") for part in self.path.split("/"))


@dataclass
class _Found:
    """The files that a search has found, or that were given: shared by a snapshot and all that is laid over it, so that each is read once."""

    files: dict[str, Content]
    linked: dict[str, Content]
    probe: Callable[[str], Content | None] | None
    probed: dict[str, Content | None] = field(default_factory=dict)

    @cached_property
    def paths(self) -> Sequence[str]:
        return sorted(self.files)

    def home(self, path: str) -> dict[str, Content] | dict[str, Content | None]:
        """Return where the content of a path is kept: it may be kept there as missing."""
        if path in self.files:
            return self.files
        if path in self.linked:
            return self.linked
        if path not in self.probed:
            self.probed[path] = self.probe(path) if self.probe is not None else None
        return self.probed


class Snapshot:
    """The files of a project: POSIX paths relative to its root, each with its bytes.

    A file is read when it is first asked for, and then kept: everything worked out from one snapshot saw the same bytes. Links to folders
    inside the project are followed: what is below one is there for who asks for it, but searches see each file once.
    """

    def __init__(
        self,
        files: Mapping[str, Content],
        *,
        linked: Mapping[str, Content] | None = None,
        unread: Sequence[Unread] = (),
        probe: Callable[[str], Content | None] | None = None,
        fetch: Callable[[Iterable[str]], Mapping[str, bytes]] | None = None,
        ignores: Callable[[str], bool] | None = None,
    ) -> None:
        """Take some files.

        Args:
            files: their contents by path.
            linked: the same for paths that lead through a link to a folder.
            unread: what cannot be read.
            probe: returns the content of a file in an ignored folder, or None if there is no such file.
            fetch: returns the contents of many files at once, of those that can be read.
            ignores: says whether git ignores a file.
        """
        self._found = _Found(dict(files), dict(linked or {}), probe)
        self._over: dict[str, Content | None] = {}
        self.unread = tuple(unread)
        self._fetch = fetch
        self._ignores = ignores

    @classmethod
    def of_folder(cls, root: Path) -> Snapshot:
        """Return the files below `root`, without the ignored folders and without links that lead out of it.

        Raises:
            BadInput: `root` cannot be listed, or holds far too many files.
        """
        if not root.is_dir():
            raise BadInput(f"{_shown(root)} is not a folder", hint="Give the folder of the native projects.")
        found = _Search(root)
        found.search()
        unread = sorted(found.unread, key=lambda one: one.path)
        return cls(
            found.files,
            linked=found.linked,
            unread=unread,
            probe=found.probe,
            fetch=found.fetch,
            ignores=found.ignores,
        )

    def __contains__(self, path: object) -> bool:
        return isinstance(path, str) and self._home(path).get(path) is not None

    def _home(self, path: str) -> dict[str, Content] | dict[str, Content | None]:
        return self._over if path in self._over else self._found.home(path)

    @cached_property
    def paths(self) -> Sequence[str]:
        """All paths, sorted; those through links to folders are left out."""
        return self._laid_over(self._found.paths)

    @cached_property
    def _all(self) -> Sequence[str]:
        found = self._found
        return self._laid_over(sorted((*found.files, *found.linked))) if found.linked else self.paths

    def _laid_over(self, paths: Sequence[str]) -> Sequence[str]:
        """Return sorted paths with those that were laid over them, and without those that were taken away."""
        found = self._found
        gone = {path for path, content in self._over.items() if content is None}
        new = [path for path in self._over if path not in gone and path not in found.files and path not in found.linked]
        if not gone and not new:
            return paths
        return sorted([*(path for path in paths if path not in gone), *sorted(new)])

    def content(self, path: str) -> Made:
        """Return what a file holds: its bytes, or what they will be made from.

        Raises:
            KeyError: there is no such file.
            BadInput: it is there, but cannot be read.
        """
        home = self._home(path)
        content = home.get(path)
        if content is None:
            raise KeyError(path)
        if not isinstance(content, bytes | ImageFile | PlannedFile):
            content = content()
            home[path] = content
        return content

    def read(self, path: str) -> bytes:
        """Return the bytes of a file; a planned image is rendered for it.

        Raises:
            KeyError: there is no such file.
            BadInput: it is there, but cannot be read.
        """
        content = self.content(path)
        return content if isinstance(content, bytes) else content.data

    def fetch(self, paths: Iterable[str]) -> None:
        """Read many files at once, which takes a third of the time; one that cannot be read is left for who asks for it."""
        if self._fetch is not None:
            files = self._found.files
            self._found.files.update(self._fetch(path for path in paths if callable(files.get(path))))

    def find(self, pattern: str) -> list[str]:
        """Return the paths that match a shell pattern, in which `*` also crosses folders; sorted. Each file is found once."""
        return fnmatch.filter(self.paths, pattern)

    def is_own(self, path: str) -> bool:
        """Return whether a file is the project's own: git does not ignore it, and it is in no folder of other people's code."""
        if not OTHERS_FOLDERS.isdisjoint(parent(path).lower().split("/")):
            return False
        return self._ignores is None or not self._ignores(path)

    def below(self, folder: str) -> Sequence[str]:
        """Return the paths in `folder` and in folders of it; sorted. "" is the root."""
        if not folder:
            return self.paths
        prefix = f"{folder}/"
        start = bisect_left(self._all, prefix)
        return self._all[start : bisect_left(self._all, f"{folder}0", start)]  # "0" is the character after "/"

    def overlay(self, files: Mapping[str, Content | None]) -> Snapshot:
        """Return the project as it would be with `files` written over it; None stands for a file that goes."""
        after = copy(self)
        after._over = {**self._over, **files}  # noqa: SLF001
        for worked_out in ("paths", "_all"):
            vars(after).pop(worked_out, None)
        return after


@dataclass
class _Search:
    """One search of a folder on disk."""

    root: Path
    files: dict[str, Content] = field(default_factory=dict)
    linked: dict[str, Content] = field(default_factory=dict)
    unread: list[Unread] = field(default_factory=list)
    followed: int = 0
    patterns: dict[str, tuple[Patterns, ...]] = field(default_factory=dict)
    ignored: set[str] = field(default_factory=set)
    home: str = ""

    def search(self) -> None:
        """List everything.

        Raises:
            BadInput: there are far too many files, or the root itself cannot be listed.
        """
        self._real = os.path.realpath(self.root)
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
            else:
                self._add(path, entry, links)

    def _add(self, path: str, entry: os.DirEntry[str], links: tuple[str, ...]) -> None:
        if not can_read(entry.path):
            self._skip(path, os.strerror(errno.EACCES), "file")
        elif not entry.is_file(follow_symlinks=False):
            self._skip(path, "it is a pipe, a socket or a device, not a file", "odd")
        (self.linked if links else self.files)[path] = self._reader(path)

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
            (self.linked if links else self.files)[path] = self._reader(path)
            return
        if target != self._real and not target.startswith(self._real.rstrip(os.sep) + os.sep):
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
            (self.linked if links else self.files)[path] = self._reader(path)
        else:
            self._skip(path, "the link leads to something that cannot be read", "odd")
            (self.linked if links else self.files)[path] = self._reader(path)

    def _skip(self, path: str, reason: str, kind: Kind) -> None:
        self.unread.append(Unread(path, reason, kind))

    def _reader(self, path: str) -> Callable[[], bytes]:
        root = self.root

        def read() -> bytes:
            try:
                with Tree.opened(root) as tree:
                    return tree.read(path, most_of(path))
            except OSError as error:
                raise BadInput(
                    f"cannot be read: {error.strerror}", place=Place(path), hint="Fix its permissions, or remove it."
                ) from error

        return read

    def fetch(self, paths: Iterable[str]) -> Mapping[str, bytes]:
        """Return the contents of many files, of those that can be read; each folder is opened once."""
        found: dict[str, bytes] = {}
        with suppress(OSError), Tree.opened(self.root) as tree:
            for _, inside in groupby(sorted(paths, key=parent), key=parent):
                found |= tree.read_beside({path: most_of(path) for path in inside})
        return found

    def ignores(self, path: str) -> bool:
        """Return whether git ignores a file that was found."""
        chain = self.patterns.get(parent(path), ())
        return bool(chain) and is_ignored(chain, self.home + path, is_folder=False)

    def probe(self, path: str) -> Content | None:
        """Return the content of a file in an ignored folder, or None if there is no such file."""
        if not any(folder in self.ignored for folder in upwards(parent(path))):
            return None
        try:
            with Tree.opened(self.root) as tree:
                status = tree.status(path)
        except (OSError, ValueError):
            return None
        return self._reader(path) if status is not None and stat.S_ISREG(status.st_mode) else None


_PICTURES = (".png", ".jpg", ".jpeg", ".webp", ".gif", ".svg", ".pdf", ".zip")

MAX_TEXT = 16 * 1024 * 1024
"""The largest file that is read to be parsed, in bytes: several times what the largest in real projects hold; of a project file of Xcode,
which lists every source of an app, twice as much."""


def most_of(path: str) -> int:
    """Return how many bytes of a file are read at most."""
    if path.lower().endswith(_PICTURES):
        return MAX_FILE
    return 2 * MAX_TEXT if path.endswith(".pbxproj") else MAX_TEXT


def is_text(name: str) -> bool:
    """Return whether a name of the file system is text: bytes that are not UTF-8 arrive as lone surrogates."""
    return name.isascii() or not any("\ud800" <= letter <= "\udfff" for letter in name)


def _shown(path: Path) -> str:
    """Return a path as a person would give it from here."""
    return str(path.relative_to(Path.cwd())) if path.is_relative_to(Path.cwd()) else str(path)


def join(folder: str, *parts: str) -> str:
    """Return parts of a POSIX path joined and normalised; the root is ""."""
    joined = os.path.normpath(PurePosixPath(folder, *parts).as_posix()).replace(os.sep, "/")
    return "" if joined == "." else joined


def parent(path: str) -> str:
    """Return the folder of a path; the root is ""."""
    return path.rpartition("/")[0]


def upwards(folder: str) -> Iterable[str]:
    """Return a folder and those above it, the nearest first, up to the project's root."""
    while folder:
        yield folder
        folder = parent(folder)
    yield ""
