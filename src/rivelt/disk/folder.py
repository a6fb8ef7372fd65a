"""One open folder, and what can be done to the names in it. No call here follows a link.

Everything that Rivelt writes goes through a `Folder`. On POSIX systems it is an open descriptor, and each call names a file relative to it:
whatever becomes of the path meanwhile, the call reaches this very folder. Where a system has no such calls (Windows), a folder is a path
with its identity, which is compared before and after each call.
"""

from __future__ import annotations

import errno
import os
import stat
import sys
from abc import ABC, abstractmethod
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TypeAlias

Status: TypeAlias = os.stat_result
Identity: TypeAlias = tuple[int, int]

_READ = os.O_RDONLY | getattr(os, "O_CLOEXEC", 0) | getattr(os, "O_BINARY", 0)
# A pipe, or a device that waits, must not be waited for.
_READ_FILE = _READ | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_NOCTTY", 0)
_READ_FOLDER = _READ | getattr(os, "O_DIRECTORY", 0)
_CREATE = (
    os.O_WRONLY
    | os.O_CREAT
    | os.O_EXCL
    | getattr(os, "O_NOFOLLOW", 0)
    | getattr(os, "O_CLOEXEC", 0)
    | getattr(os, "O_BINARY", 0)
)
_WITHOUT_HARD_LINKS = {errno.EPERM, errno.EOPNOTSUPP, errno.ENOTSUP, errno.ENOSYS, errno.EMLINK}
_CHUNK = 1 << 20

MAX_FILE = 256 * 1024 * 1024
"""The largest file that is read at all, in bytes."""


class NotRegular(OSError):
    """A pipe, a socket, a device or a folder where a file is wanted."""

    def __init__(self, mode: int) -> None:
        kinds = {
            stat.S_IFDIR: "a folder",
            stat.S_IFIFO: "a named pipe",
            stat.S_IFSOCK: "a socket",
            stat.S_IFLNK: "a link",
        }
        super().__init__(errno.EINVAL, f"it is {kinds.get(stat.S_IFMT(mode), 'a device')}, not a file")


class TooLarge(OSError):
    """A file that holds more than anything of its kind."""

    def __init__(self, size: int, most: int) -> None:
        super().__init__(
            errno.EFBIG, f"it is {size / 1e6:.0f} MB large, more than the {most / 1e6:.0f} MB that are read"
        )


class Moved(OSError):
    """A folder that is no longer where it was when it was opened."""

    def __init__(self, path: str) -> None:
        super().__init__(errno.ESTALE, "the folder was replaced meanwhile", path)


def identity(status: Status) -> Identity:
    """Return what distinguishes a file from all others of the machine."""
    return status.st_dev, status.st_ino


def is_link(status: Status) -> bool:
    """Return whether it is a symbolic link, or what Windows has for one."""
    reparse = getattr(stat, "FILE_ATTRIBUTE_REPARSE_POINT", 0x400)
    return stat.S_ISLNK(status.st_mode) or bool(getattr(status, "st_file_attributes", 0) & reparse)


class Folder(ABC):
    """An open folder. Names are single: never a path, "." or "..". All methods raise OSError."""

    @abstractmethod
    def close(self) -> None:
        """Let the folder go."""

    def __enter__(self) -> Folder:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    @abstractmethod
    def own_status(self) -> Status:
        """Return the status of the folder itself."""

    @abstractmethod
    def child(self, name: str) -> Folder:
        """Open a folder in it; a link is refused."""

    @abstractmethod
    def names(self) -> list[str]:
        """Return what is in it, sorted."""

    @abstractmethod
    def status(self, name: str) -> Status | None:
        """Return the status of a name, of a link itself; None where nothing is."""

    @abstractmethod
    def link_target(self, name: str) -> str:
        """Return what a link says."""

    @abstractmethod
    def make_folder(self, name: str) -> None:
        """Make a folder; FileExistsError where something is."""

    @abstractmethod
    def remove_file(self, name: str) -> None:
        """Remove a file or a link; FileNotFoundError where nothing is."""

    @abstractmethod
    def remove_folder(self, name: str) -> None:
        """Remove an empty folder."""

    @abstractmethod
    def move(self, name: str, to: Folder, new: str) -> None:
        """Rename a file, in one step, over what may be there."""

    @abstractmethod
    def give(self, name: str, to: Folder, new: str) -> None:
        """Rename a file, but never over another: FileExistsError where something is."""

    @abstractmethod
    def _open(self, name: str, flags: int, mode: int = 0) -> int:
        """Open a file, and return its descriptor."""

    @abstractmethod
    def sync(self) -> None:
        """Wait until the disk knows its names."""

    def is_empty(self) -> bool:
        """Return whether nothing is in it."""
        return not self.names()

    def read(self, name: str, most: int = MAX_FILE) -> bytes:
        """Return the content of a file of at most `most` bytes. What is not a regular file is not even opened."""
        seen = self.status(name)
        if seen is None:
            raise FileNotFoundError(errno.ENOENT, os.strerror(errno.ENOENT), name)
        _refuse(seen, most)
        descriptor = self._open(name, _READ_FILE)
        try:
            status = os.fstat(descriptor)
            if identity(status) != identity(seen):
                raise Moved(name)
            _refuse(status, most)
            return _all_of(descriptor, status.st_size, most)
        finally:
            os.close(descriptor)

    def create(self, name: str, content: bytes, mode: int = 0o666, like: Status | None = None) -> None:
        """Write a new file, and wait until the disk has it; FileExistsError where something is.

        Args:
            name: its name.
            content: its bytes.
            mode: its permissions, of which the system takes its mask.
            like: a file whose permissions and owner it gets instead, as far as the system lets us; never set-id bits.
        """
        descriptor = self._open(name, _CREATE, mode)
        try:
            view = memoryview(content)
            while view:
                view = view[os.write(descriptor, view) :]
            if like is not None:
                _dress(descriptor, like)
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def _refuse(status: Status, most: int) -> None:
    if not stat.S_ISREG(status.st_mode):
        raise NotRegular(status.st_mode)
    if status.st_size > most:
        raise TooLarge(status.st_size, most)


def _all_of(descriptor: int, expected: int, most: int) -> bytes:
    parts: list[bytes] = []
    size, asked = 0, expected + 1
    while part := os.read(descriptor, asked):
        parts.append(part)
        size += len(part)
        if size > most:
            raise TooLarge(size, most)
        if len(part) < asked:  # of a regular file, that is its end
            break
        asked = _CHUNK
    return parts[0] if len(parts) == 1 else b"".join(parts)


def _dress(descriptor: int, like: Status) -> None:
    if hasattr(os, "fchown"):
        own = os.fstat(descriptor)
        if (own.st_uid, own.st_gid) != (like.st_uid, like.st_gid):
            with suppress(OSError):
                os.fchown(descriptor, like.st_uid, like.st_gid)
    if hasattr(os, "fchmod"):
        os.fchmod(descriptor, like.st_mode & 0o777)


class _Descriptor(Folder):
    """POSIX: an open descriptor."""

    def __init__(self, descriptor: int) -> None:
        self._fd = descriptor

    def close(self) -> None:
        os.close(self._fd)

    def own_status(self) -> Status:
        return os.fstat(self._fd)

    def child(self, name: str) -> Folder:
        return _Descriptor(os.open(name, _READ_FOLDER | os.O_NOFOLLOW, dir_fd=self._fd))

    def names(self) -> list[str]:
        return sorted(os.listdir(self._fd))

    def status(self, name: str) -> Status | None:
        try:
            return os.stat(name, dir_fd=self._fd, follow_symlinks=False)
        except FileNotFoundError:
            return None

    def link_target(self, name: str) -> str:
        return os.readlink(name, dir_fd=self._fd)

    def make_folder(self, name: str) -> None:
        os.mkdir(name, dir_fd=self._fd)

    def remove_file(self, name: str) -> None:
        os.unlink(name, dir_fd=self._fd)

    def remove_folder(self, name: str) -> None:
        os.rmdir(name, dir_fd=self._fd)

    def move(self, name: str, to: Folder, new: str) -> None:
        assert isinstance(to, _Descriptor)
        os.rename(name, new, src_dir_fd=self._fd, dst_dir_fd=to._fd)

    def give(self, name: str, to: Folder, new: str) -> None:
        assert isinstance(to, _Descriptor)
        try:
            os.link(name, new, src_dir_fd=self._fd, dst_dir_fd=to._fd, follow_symlinks=False)
        except OSError as error:
            if error.errno not in _WITHOUT_HARD_LINKS:
                raise
            # A file system without hard links has no rename that spares what is there: the moment between is left open.
            if to.status(new) is not None:
                raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), new) from None
            self.move(name, to, new)
        else:
            self.remove_file(name)

    def _open(self, name: str, flags: int, mode: int = 0) -> int:
        return os.open(name, flags, mode, dir_fd=self._fd)

    def sync(self) -> None:
        with suppress(PermissionError):  # a folder of somebody else's: the system syncs it in its own time
            os.fsync(self._fd)


class _Path(Folder):
    """Windows: a path whose identity is compared before and after each call."""

    def __init__(self, path: Path, known: Identity | None = None) -> None:
        self._path = path
        self._identity = known or identity(os.stat(path))
        self._compare()

    def _compare(self) -> None:
        now = os.lstat(self._path)
        if not stat.S_ISDIR(now.st_mode) or is_link(now) or identity(now) != self._identity:
            raise Moved(str(self._path))

    @contextmanager
    def _at(self, name: str) -> Iterator[Path]:
        self._compare()
        yield self._path / name
        self._compare()

    def close(self) -> None:
        """Nothing is open."""

    def own_status(self) -> Status:
        return os.lstat(self._path)

    def child(self, name: str) -> Folder:
        with self._at(name) as path:
            status = os.lstat(path)
            if is_link(status):
                raise NotADirectoryError(errno.ENOTDIR, os.strerror(errno.ENOTDIR), name)
            if not stat.S_ISDIR(status.st_mode):
                raise NotADirectoryError(errno.ENOTDIR, os.strerror(errno.ENOTDIR), name)
            return _Path(path, identity(status))

    def names(self) -> list[str]:
        with self._at("") as path:
            return sorted(os.listdir(path))

    def status(self, name: str) -> Status | None:
        with self._at(name) as path:
            try:
                return os.lstat(path)
            except FileNotFoundError:
                return None

    def link_target(self, name: str) -> str:
        with self._at(name) as path:
            return str(path.readlink()).removeprefix("\\\\?\\")

    def make_folder(self, name: str) -> None:
        with self._at(name) as path:
            path.mkdir()

    def remove_file(self, name: str) -> None:
        with self._at(name) as path:
            path.unlink()

    def remove_folder(self, name: str) -> None:
        with self._at(name) as path:
            path.rmdir()

    def move(self, name: str, to: Folder, new: str) -> None:
        assert isinstance(to, _Path)
        with self._at(name) as path, to._at(new) as target:
            path.replace(target)

    def give(self, name: str, to: Folder, new: str) -> None:
        assert isinstance(to, _Path)
        with self._at(name) as path, to._at(new) as target:
            if sys.platform == "win32":
                path.rename(target)  # which spares what is there
            else:
                target.hardlink_to(path)
                path.unlink()

    def _open(self, name: str, flags: int, mode: int = 0) -> int:
        with self._at(name) as path:
            return os.open(path, flags, mode)

    def sync(self) -> None:
        """Windows writes folders by itself."""


HAS_DESCRIPTORS = {os.open, os.stat, os.rename, os.unlink, os.mkdir, os.rmdir} <= os.supports_dir_fd and hasattr(
    os, "O_NOFOLLOW"
)


def open_folder(path: Path, *, by_descriptor: bool = HAS_DESCRIPTORS) -> Folder:
    """Open a folder that a person named; here alone links are followed.

    Raises:
        OSError: it cannot be opened, or is not a folder.
    """
    return _Descriptor(os.open(path, _READ_FOLDER)) if by_descriptor else _Path(path.resolve())
