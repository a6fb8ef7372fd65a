"""A project's files as one read-only value, confined to the project's root; and the project as it would be."""

from __future__ import annotations

import fnmatch
import os
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path, PurePosixPath
from typing import TypeAlias

from rivelt.errors import BadInput, Place
from rivelt.picture import ImageFile, PlannedFile

Made: TypeAlias = bytes | ImageFile | PlannedFile
"""A file's bytes, an image that may not be rendered yet, or another file that is not made yet."""

Content: TypeAlias = Made | Callable[[], bytes]
"""The same, or a function that reads the bytes when they are first asked for."""

IGNORED_FOLDERS = frozenset(
    {
        ".git",
        ".gradle",
        ".hg",
        ".idea",
        ".rivelt",
        ".svn",
        ".venv",
        "Carthage",
        "DerivedData",
        "Pods",
        "build",
        "node_modules",
    }
)
"""Folders that hold what tools made or fetched: never a project's own sources."""

MAX_FILES = 200_000
"""More files than this are not an app project, but a wrong folder."""


class Snapshot:
    """The files of a project: POSIX paths relative to its root, each with its bytes.

    A file is read when it is first asked for, and then kept: everything worked out from one snapshot saw the same bytes.
    """

    def __init__(self, files: Mapping[str, Content]) -> None:
        self._files = dict(files)

    @classmethod
    def of_folder(cls, root: Path) -> Snapshot:
        """Return the files below `root`, without the ignored folders and without links that lead out of it.

        Raises:
            BadInput: `root` cannot be listed, or holds far too many files.
        """
        if not root.is_dir():
            raise BadInput(f"{_shown(root)} is not a folder", hint="Give the folder of the native projects.")
        files: dict[str, Content] = {}
        inside = root.resolve()
        for folder, subfolders, names in os.walk(root):
            subfolders[:] = sorted(name for name in subfolders if name not in IGNORED_FOLDERS)
            for name in names:
                path = Path(folder, name)
                if path.is_symlink() and not path.resolve().is_relative_to(inside):
                    continue
                shown = path.relative_to(root).as_posix()
                files[shown] = _reader(path, shown)
            if len(files) > MAX_FILES:
                raise BadInput(f"{root} holds more than {MAX_FILES} files", hint="Give the folder of one app.")
        return cls(files)

    def __contains__(self, path: object) -> bool:
        return path in self._files

    @cached_property
    def paths(self) -> Sequence[str]:
        """All paths, sorted."""
        return sorted(self._files)

    def content(self, path: str) -> Made:
        """Return what a file holds: its bytes, or what they will be made from.

        Raises:
            KeyError: there is no such file.
            BadInput: it is there, but cannot be read.
        """
        content = self._files[path]
        if not isinstance(content, bytes | ImageFile | PlannedFile):
            content = self._files[path] = content()
        return content

    def read(self, path: str) -> bytes:
        """Return the bytes of a file; a planned image is rendered for it.

        Raises:
            KeyError: there is no such file.
            BadInput: it is there, but cannot be read.
        """
        content = self.content(path)
        return content if isinstance(content, bytes) else content.data

    def find(self, pattern: str) -> list[str]:
        """Return the paths that match a shell pattern, in which `*` also crosses folders; sorted."""
        return fnmatch.filter(self.paths, pattern)

    def below(self, folder: str) -> Sequence[str]:
        """Return the paths in `folder` and in folders of it; sorted. "" is the root."""
        if not folder:
            return self.paths
        prefix = f"{folder}/"
        start = bisect_left(self.paths, prefix)
        return self.paths[start : bisect_left(self.paths, f"{folder}0", start)]  # "0" is the character after "/"

    def overlay(self, files: Mapping[str, Content | None]) -> Snapshot:
        """Return the project as it would be with `files` written over it; None stands for a file that goes."""
        merged = {**self._files, **files}
        return Snapshot({path: content for path, content in merged.items() if content is not None})


def _shown(path: Path) -> str:
    """Return a path as a person would give it from here."""
    return str(path.relative_to(Path.cwd())) if path.is_relative_to(Path.cwd()) else str(path)


def _reader(path: Path, shown: str) -> Callable[[], bytes]:
    def read() -> bytes:
        try:
            return path.read_bytes()
        except OSError as error:
            raise BadInput(
                f"cannot be read: {error.strerror}", place=Place(shown), hint="Fix its permissions."
            ) from error

    return read


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
