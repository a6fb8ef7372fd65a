"""A project's files as one read-only value, confined to the project's root; and the project as it would be."""

from __future__ import annotations

import fnmatch
import hashlib
import os
import posixpath
from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from copy import copy
from functools import cached_property
from typing import Literal, TypeAlias

from msgspec import Struct, field

from rivelt.disk.folder import MAX_FILE
from rivelt.disk.tree import TOOL_FOLDERS
from rivelt.errors import BadInput, Place
from rivelt.picture import ImageFile, PlannedFile

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


class _Found(Struct, dict=True):
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

    def without(self, is_left_out: Callable[[str], bool]) -> Snapshot:
        """Return the files without some of them."""
        found = self._found
        return Snapshot(
            {path: content for path, content in found.files.items() if not is_left_out(path)},
            linked={path: content for path, content in found.linked.items() if not is_left_out(path)},
            unread=[one for one in self.unread if not is_left_out(one.path)],
            probe=found.probe,
            fetch=self._fetch,
            ignores=self._ignores,
        )

    def packed(self, is_carried: Callable[[str], bool]) -> Snapshot:
        """Return the files with their contents, to be sent elsewhere; what is in ignored folders is there as far as it was asked for.

        Args:
            is_carried: whether a file's content goes along; one of which it does not cannot be read there.
        """
        found = self._found
        self.fetch(path for path in found.files if is_carried(path))

        def content(path: str) -> Content:
            try:
                return self.read(path) if is_carried(path) else _NotHere(path)
            except BadInput as error:
                return _NotHere(path, error.message)

        probed = {path: None if kept is None else content(path) for path, kept in found.probed.items()}
        return Snapshot(
            {path: content(path) for path in found.files},
            linked={path: content(path) for path in found.linked},
            unread=self.unread,
            probe=_Probed(probed, getattr(found.probe, "ignored", frozenset())),
            ignores=self._ignores,
        )

    def contents(self) -> Iterator[bytes]:
        """Yield what is held in memory of its files."""
        for kept in (self._found.files, self._found.linked):
            yield from (content for content in kept.values() if isinstance(content, bytes))

    def digest(self, is_left_out: Callable[[str], bool]) -> str:
        """Return a SHA-256 of all files with their contents, in hex; what cannot be read counts with its path alone."""
        whole = hashlib.sha256()
        for path in self._all:
            if is_left_out(path):
                continue
            try:
                inside = hashlib.sha256(self.read(path)).hexdigest()
            except BadInput:
                inside = "unread"
            whole.update(f"{path}\0{inside}\n".encode())
        return whole.hexdigest()

    def overlay(self, files: Mapping[str, Content | None]) -> Snapshot:
        """Return the project as it would be with `files` written over it; None stands for a file that goes."""
        after = copy(self)
        after._over = {**self._over, **files}  # noqa: SLF001
        for worked_out in ("paths", "_all"):
            vars(after).pop(worked_out, None)
        return after


class NotCarried(BadInput):
    """A file was asked for that did not come along."""


class _NotHere(Struct, frozen=True):
    """What a file holds that did not come along, or could not be read."""

    path: str
    why: str = ""

    def __call__(self) -> bytes:
        if self.why:
            raise BadInput(self.why, place=Place(self.path))
        raise NotCarried("it was not sent here", place=Place(self.path))


class _Probed(Struct, frozen=True):
    """What is known of files in ignored folders: those that were asked for."""

    known: Mapping[str, Content | None]
    ignored: frozenset[str]

    def __call__(self, path: str) -> Content | None:
        if path in self.known:
            return self.known[path]
        return _NotHere(path) if any(folder in self.ignored for folder in upwards(parent(path))) else None


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


def join(folder: str, *parts: str) -> str:
    """Return parts of a POSIX path joined and normalised; the root is ""."""
    joined = os.path.normpath(posixpath.join(folder, *parts)).replace(os.sep, "/")
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
