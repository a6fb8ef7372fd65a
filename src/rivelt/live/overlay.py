"""The disk with one file as it would be: a brief whose changes are not written yet."""

from __future__ import annotations

from pathlib import Path

from rivelt.disk.folder import MAX_FILE, TooLarge
from rivelt.project.files import DISK
from rivelt.project.snapshot import Snapshot


class Overlaid:
    """The files on disk, but for one that has another content."""

    is_disk = True

    def __init__(self, path: Path, data: bytes) -> None:
        self._path = path
        self._data = data

    def real(self, path: Path) -> Path:
        """Return a path that is absolute and without links."""
        return DISK.real(path)

    def is_there(self, path: Path) -> bool:
        """Return whether something has this name."""
        return DISK.is_there(path)

    def is_file(self, path: Path) -> bool:
        """Return whether it is a file."""
        return DISK.is_file(path)

    def is_folder(self, path: Path) -> bool:
        """Return whether it is a folder."""
        return DISK.is_folder(path)

    def read(self, path: Path, most: int = MAX_FILE) -> bytes:
        """Return the bytes of a file.

        Raises:
            OSError: it cannot be read, or is larger than `most` bytes.
        """
        if DISK.real(path) != self._path:
            return DISK.read(path, most)
        if len(self._data) > most:
            raise TooLarge(len(self._data), most)
        return self._data

    def snapshot(self, root: Path) -> Snapshot:
        """Return the files of a project, as they are on disk."""
        return DISK.snapshot(root)
