"""What is asked of git: its plumbing commands alone, which run no hooks and no filters, and which write nothing."""

from __future__ import annotations

import errno
import os
import subprocess
import threading
import weakref
from pathlib import Path
from typing import IO

from rivelt.disk.folder import TooLarge
from rivelt.errors import BadInput

_GIT = ("git", "-c", "core.quotePath=false", "-c", "protocol.allow=never")  # a partial clone must not fetch
_SETTINGS = {"GIT_NO_LAZY_FETCH": "1", "GIT_OPTIONAL_LOCKS": "0", "GIT_TERMINAL_PROMPT": "0", "LC_ALL": "C"}
_PATIENCE = 60  # seconds
_MOST_OUTPUT = 256_000_000  # bytes: trees that hold each other many times are listed without end


def git(folder: Path, *arguments: str) -> bytes | None:
    """Return what a git command prints that is run in a folder; None where it fails.

    Raises:
        BadInput: git is not installed, takes too long, or prints far too much.
    """
    with _started(folder, arguments) as process:
        found = _output(process).read(_MOST_OUTPUT + 1)
        if len(found) > _MOST_OUTPUT:
            process.kill()
            raise BadInput("the repository holds far too many files", hint="Give a smaller repository.")
        try:
            return found if process.wait(_PATIENCE) == 0 else None
        except subprocess.TimeoutExpired as error:
            process.kill()
            raise BadInput("git does not answer", hint=f"Try: git {arguments[0]}") from error


def _started(folder: Path, arguments: tuple[str, ...]) -> subprocess.Popen[bytes]:
    try:
        return subprocess.Popen(
            (*_GIT, *arguments),
            cwd=folder,
            env={**os.environ, **_SETTINGS},
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
    except FileNotFoundError as error:
        if not folder.is_dir():
            raise BadInput(f"{folder} is not a folder", hint="Give a folder in a git repository.") from error
        raise BadInput("git is not installed: a revision cannot be read", hint="Install git.") from error


def _output(process: subprocess.Popen[bytes]) -> IO[bytes]:
    if process.stdout is None:  # never: it is a pipe
        raise BadInput("git does not answer", hint="Try: git status")
    return process.stdout


class NotHere(OSError):
    """A file of a revision whose content is not on this machine."""

    def __init__(self, reason: str) -> None:
        super().__init__(errno.EIO, reason)


class Objects:
    """The objects of one repository, read one by one from one process, whatever thread asks."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._process: subprocess.Popen[bytes] | None = None
        self._lock = threading.Lock()

    def read(self, name: str, most: int) -> bytes:
        """Return the content of a blob.

        Args:
            name: its object name, in hex.
            most: how many bytes are read at most.

        Raises:
            OSError: it is not here, as in a partial clone, or is larger than that.
        """
        with self._lock:
            process = self._running()
            out = _output(process)
            try:
                if process.stdin is not None:
                    process.stdin.write(f"{name}\n".encode())
                    process.stdin.flush()
                header = out.readline().split()
            except OSError:  # git has ended
                header = []
            if len(header) != 3:
                if not header:
                    self._process = None
                raise NotHere("git does not have its content here")
            size = int(header[2])
            if size > most:
                _skip(out, size + 1)
                raise TooLarge(size, most)
            return out.read(size + 1)[:size]

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None:
            self._process = _started(self._folder, ("cat-file", "--batch"))
            weakref.finalize(self, _end, self._process)
        return self._process


def _skip(out: IO[bytes], count: int) -> None:
    while count > 0 and (found := out.read(min(count, 1 << 20))):
        count -= len(found)


def _end(process: subprocess.Popen[bytes]) -> None:
    for pipe in (process.stdin, process.stdout):
        if pipe is not None:
            pipe.close()
    process.wait(_PATIENCE)
