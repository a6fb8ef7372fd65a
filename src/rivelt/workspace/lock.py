"""One apply at a time: a lock on the project's folder that the system takes back when its process ends, however it ends."""

from __future__ import annotations

import hashlib
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from rivelt.disk.tree import resolved
from rivelt.errors import BadInput, Refused


@contextmanager
def exclusive(root: Path) -> Iterator[None]:
    """Hold the project's lock. Nothing is written to the project for it.

    Raises:
        Refused: another process holds it.
        BadInput: there is no such folder.
    """
    if not root.is_dir():
        raise BadInput(f"there is no folder {root}", hint="Give the folder of the project.")
    if sys.platform == "win32":
        holding = _on_windows(root)
    else:
        holding = _on_folder(root)
    with holding:
        yield


def _refused(root: Path) -> Refused:
    return Refused(
        f"another rivelt is changing {root.name or root} right now", hint="Wait until it is done, then run this again."
    )


@contextmanager
def _on_folder(root: Path) -> Iterator[None]:
    """POSIX: an advisory lock on the open folder itself; no file is needed for it, and a dead process holds none."""
    import fcntl

    descriptor = os.open(root, os.O_RDONLY)
    try:
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise _refused(root) from None
        except OSError:
            pass  # a file system without locks: better to continue than to refuse for ever
        yield
    finally:
        os.close(descriptor)


@contextmanager
def _on_windows(root: Path) -> Iterator[None]:
    """Windows: folders cannot be locked; a file of the system's temporary folder stands for each."""
    import msvcrt  # type: ignore[import-not-found,unused-ignore]
    import tempfile

    name = hashlib.sha256(str(resolved(root)).lower().encode()).hexdigest()[:16]
    with Path(tempfile.gettempdir(), f"rivelt-{name}.lock").open("a+b") as file:
        try:
            msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)  # type: ignore[attr-defined,unused-ignore]
        except OSError:
            raise _refused(root) from None
        yield
