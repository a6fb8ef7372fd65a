"""Where the files of briefs and projects are read from: the disk, or a revision of a repository."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Protocol

from rivelt.disk.folder import MAX_FILE
from rivelt.disk.tree import read_file, resolved
from rivelt.project.search import snapshot_of
from rivelt.project.snapshot import Snapshot


class Files(Protocol):
    """Files by their absolute paths, as they are in one place and at one time."""

    @property
    def is_disk(self) -> bool:
        """Whether that is the disk, where they can be changed."""

    def real(self, path: Path) -> Path:
        """Return a path that is absolute and without links, as far as it exists.

        Raises:
            BadInput: it is no path.
        """

    def is_there(self, path: Path) -> bool:
        """Return whether something has this name: a file, a folder, or a link even if it leads nowhere."""

    def is_file(self, path: Path) -> bool:
        """Return whether it is a file, or a link to one."""

    def is_folder(self, path: Path) -> bool:
        """Return whether it is a folder, or a link to one."""

    def read(self, path: Path, most: int = MAX_FILE) -> bytes:
        """Return the bytes of a file; links are followed.

        Raises:
            OSError: it is not there, cannot be read, or is larger than `most` bytes.
        """

    def snapshot(self, root: Path) -> Snapshot:
        """Return the files of a project.

        Raises:
            BadInput: its folder cannot be listed, or holds far too many files.
        """


class _Disk:
    """The files on disk, as they are now."""

    is_disk = True

    def __repr__(self) -> str:
        return "DISK"

    def real(self, path: Path) -> Path:
        return resolved(path)

    def is_there(self, path: Path) -> bool:
        return os.path.lexists(path)

    def is_file(self, path: Path) -> bool:
        return path.is_file()

    def is_folder(self, path: Path) -> bool:
        return path.is_dir()

    def read(self, path: Path, most: int = MAX_FILE) -> bytes:
        return read_file(path, most)

    def snapshot(self, root: Path) -> Snapshot:
        return snapshot_of(root)


DISK: Files = _Disk()
