"""A folder and all below it, reached one name at a time: links are resolved here, by hand, and never lead out of it."""

from __future__ import annotations

import errno
import os
import shlex
import stat
import unicodedata
from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from functools import cached_property
from pathlib import Path, PurePosixPath
from typing import TypeAlias

from msgspec import Struct

from rivelt.disk.folder import HAS_DESCRIPTORS, MAX_FILE, Folder, Status, is_link, open_folder
from rivelt.errors import BadInput

_MOST_LINKS = 40  # as Linux has it


class NotAFolder(NotADirectoryError):
    """A file where a folder is needed."""

    def __init__(self, path: str) -> None:
        super().__init__(errno.ENOTDIR, "a file or a link is where a folder is needed", path)


class LeadsOut(OSError):
    """A path that a link, or `..`, leads out of its tree."""

    def __init__(self, path: str) -> None:
        super().__init__(errno.EXDEV, "a link leads out of the project", path)


class Spot(Struct, frozen=True):
    """Where a file is or would be: its open folder, its name in it, and its path without links, relative to the tree's root."""

    folder: Folder
    name: str
    path: str

    @property
    def status(self) -> Status | None:
        """What is there, a link itself; None for nothing."""
        return self.folder.status(self.name)

    def read(self, most: int = MAX_FILE) -> bytes:
        """Return the file's bytes."""
        return self.folder.read(self.name, most)


class Walked(Struct, frozen=True):
    """How far a path exists: the last folder that does, its path without links, and the names that are left (the file's own is the last).

    `is_link`: whether the path's own last name is a link.
    """

    folder: Folder
    above: tuple[str, ...]
    rest: tuple[str, ...]
    is_link: bool

    @property
    def path(self) -> str:
        """The whole path without links."""
        return "/".join((*self.above, *self.rest))

    @property
    def missing_folders(self) -> Sequence[str]:
        """The folders that would have to be made, the outermost first."""
        return ["/".join((*self.above, *self.rest[:count])) for count in range(1, len(self.rest))]


class Tree:
    """An open root. Paths are POSIX and relative to it. Methods raise OSError; `LeadsOut` where a path would leave the tree."""

    def __init__(self, root: Path, folder: Folder) -> None:
        self.root = root
        self.folder = folder

    @cached_property
    def _real(self) -> Path:
        return Path(os.path.realpath(self.root))

    @classmethod
    @contextmanager
    def opened(cls, root: Path, *, by_descriptor: bool = HAS_DESCRIPTORS) -> Iterator[Tree]:
        """Open the tree below a folder."""
        folder = open_folder(root, by_descriptor=by_descriptor)
        try:
            yield cls(root, folder)
        finally:
            folder.close()

    @contextmanager
    def at(self, path: str, *, make: bool = False) -> Iterator[Spot]:
        """Give the spot of a path; with `make`, the folders on the way are made where they are missing."""
        with self.walked(path) as found:
            if len(found.rest) == 1:
                yield Spot(found.folder, found.rest[0], found.path)
                return
            if not make:
                raise FileNotFoundError(errno.ENOENT, os.strerror(errno.ENOENT), path)
            with _chain(found.folder, found.rest[:-1], make=True) as folder:
                yield Spot(folder, found.rest[-1], found.path)

    @contextmanager
    def exact(self, path: str, *, make: bool = False) -> Iterator[Spot]:
        """Give the spot of a path that is known to be without links: one that has appeared meanwhile is not followed, nor is a last one."""
        *above, name = _parts(path)
        if ".." in above or name == "..":
            raise LeadsOut(path)
        if not above:
            yield Spot(self.folder, name, path)
            return
        with _chain(self.folder, above, make=make) as folder:
            yield Spot(folder, name, path)

    def status(self, path: str) -> Status | None:
        """Return what is at a path, links followed; None for nothing, also where a file stands in the place of a folder."""
        try:
            with self.at(path) as spot:
                return spot.status
        except (FileNotFoundError, NotADirectoryError):
            return None

    def read(self, path: str, most: int = MAX_FILE) -> bytes:
        """Return the bytes of a regular file."""
        with self.at(path) as spot:
            return spot.read(most)

    def read_beside(self, most: Mapping[str, int]) -> dict[str, bytes]:
        """Return the bytes of regular files of one folder, by path; links are not followed, and what cannot be read is left out.

        `most`: the bytes that each of them may have, by path.
        """
        found: dict[str, bytes] = {}
        with suppress(OSError), self.exact(next(iter(most))) as first:
            for path, size in most.items():
                with suppress(OSError):
                    found[path] = first.folder.read(path.rpartition("/")[2], size)
        return found

    def real(self, path: str) -> str:
        """Return a path without links, as far as it exists; the rest is as given."""
        with self.walked(path) as found:
            return found.path

    @contextmanager
    def walked(self, path: str) -> Iterator[Walked]:
        """Give how far a path exists."""
        opened: list[tuple[str, Folder]] = []
        try:
            rest, is_link = self._walk(path, opened)
            folder = opened[-1][1] if opened else self.folder
            yield Walked(folder, tuple(name for name, _ in opened), rest, is_link)
        finally:
            for _, folder in reversed(opened):
                folder.close()

    def _walk(self, path: str, opened: list[tuple[str, Folder]]) -> tuple[tuple[str, ...], bool]:
        """Open the folders of a path, onto `opened`; return the names that are left, and whether the last name was a link."""
        pending = deque(_parts(path))
        links, is_last_link = 0, False
        while pending:
            name = pending.popleft()
            if name == "..":
                if not opened:
                    raise LeadsOut(path)
                opened.pop()[1].close()
                continue
            here = opened[-1][1] if opened else self.folder
            status = here.status(name)
            if status is not None and is_link(status):
                links += 1
                is_last_link = is_last_link or not pending
                if links > _MOST_LINKS:
                    raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), path)
                pending.extendleft(reversed(self._leading(here.link_target(name), path, opened)))
                continue
            if status is None or not pending:
                if ".." in pending:
                    raise LeadsOut(path)
                return (name, *pending), is_last_link
            if not stat.S_ISDIR(status.st_mode):
                raise NotAFolder("/".join((*(above for above, _ in opened), name)))
            opened.append((name, here.child(name)))
        raise IsADirectoryError(errno.EISDIR, os.strerror(errno.EISDIR), path)

    def _leading(self, target: str, path: str, opened: list[tuple[str, Folder]]) -> list[str]:
        """The names that a link leads over; an absolute one begins at the root again."""
        if not os.path.isabs(target):
            return _parts(target)
        real = Path(os.path.realpath(target))
        if not real.is_relative_to(self._real):
            raise LeadsOut(path)
        while opened:
            opened.pop()[1].close()
        return list(real.relative_to(self._real).parts)


@contextmanager
def _chain(folder: Folder, names: Sequence[str], *, make: bool) -> Iterator[Folder]:
    """Open a chain of folders below another; with `make`, each is made where it is missing."""
    opened: list[Folder] = []
    try:
        for index, name in enumerate(names):
            here = opened[-1] if opened else folder
            status = here.status(name)
            if status is None and make:
                here.make_folder(name)
            elif status is not None and (is_link(status) or not stat.S_ISDIR(status.st_mode)):
                raise NotAFolder("/".join(names[: index + 1]))
            opened.append(here.child(name))
        yield opened[-1]
    finally:
        for one in reversed(opened):
            one.close()


def _parts(path: str) -> list[str]:
    return [part for part in path.replace(os.sep, "/").split("/") if part not in {"", "."}]


def wipe(folder: Folder, name: str) -> None:
    """Remove a file, a link itself, or a folder with all that is in it; nothing where nothing is."""
    status = folder.status(name)
    if status is None:
        return
    if not stat.S_ISDIR(status.st_mode) or is_link(status):
        folder.remove_file(name)
        return
    inner = folder.child(name)
    try:
        for child in inner.names():
            wipe(inner, child)
    finally:
        inner.close()
    folder.remove_folder(name)


AnyPath: TypeAlias = str | os.PathLike[str]
"""A path as people who write scripts give it."""


def resolved(path: Path) -> Path:
    """Return a path that is absolute and without links; of a circle of links, as far as it can be followed.

    Raises:
        BadInput: it has a character that no path has.
    """
    try:
        return Path(os.path.realpath(path))
    except ValueError as error:
        raise BadInput(f"{str(path)!r} is not a path: it holds a zero byte", hint="Correct it.") from error


def relative_to(path: Path, folder: Path) -> str:
    """Return a path relative to a folder, with / between its parts; absolute where they have no way between them, as on two drives."""
    try:
        return Path(os.path.relpath(resolved(path), folder)).as_posix()
    except ValueError:
        return resolved(path).as_posix()


def undo_command(root: Path, *options: str) -> str:
    """Return the command that takes back the last apply of a project, as it works from the current folder."""
    here = Path.cwd()
    is_found = here.is_relative_to(resolved(root))  # undo looks in the folders above
    return shlex.join(["rivelt", "undo", *([] if is_found else [relative_to(root, here)]), *options])


def read_file(path: Path, most: int = MAX_FILE) -> bytes:
    """Return the bytes of a regular file that a person named; links are followed.

    Raises:
        OSError: it cannot be read, is a pipe or a device, or is larger than `most`.
    """
    real = Path(os.path.realpath(path, strict=True))
    folder = open_folder(real.parent)
    try:
        return folder.read(real.name, most)
    finally:
        folder.close()


_AS_WHOM = {"effective_ids": True} if os.access in os.supports_effective_ids else {}


def can_read(path: str) -> bool:
    """Return whether this process may read a file; links are followed."""
    return os.access(path, os.R_OK, **_AS_WHOM)


# Names

TOOL_FOLDERS = frozenset({".git", ".hg", ".rivelt", ".svn"})
"""Folders of tools that a file in them can make do things: nothing is ever written there, but what the tool itself keeps."""

_SIGNS_OF_TOOLS = (*sorted(TOOL_FOLDERS), "git~")


def in_tool_folder(path: str) -> bool:
    """Return whether a path leads into a folder of a tool, however a file system may spell its name."""
    if path.isascii() and not any(sign in path.lower() for sign in _SIGNS_OF_TOOLS):
        return False  # ASCII names vary in case only
    return any(_plain(part) in TOOL_FOLDERS or _plain(part).startswith("git~") for part in PurePosixPath(path).parts)


def _plain(name: str) -> str:
    """A name as the most careless file system takes it: case, invisible characters, trailing dots and streams do not count."""
    visible = "".join(letter for letter in name if unicodedata.category(letter) != "Cf")
    return folded(visible).partition(":")[0].rstrip(". ")


def folded(name: str) -> str:
    """Return what is equal for names that are one file on a file system that ignores case."""
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", name).casefold())
