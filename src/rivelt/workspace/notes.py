"""The folder `.rivelt/` of a project: journals are in it, and small notes of this machine. What is signed here, only this machine has written."""

from __future__ import annotations

import hashlib
import hmac
import os
import stat
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache
from pathlib import Path

from rivelt.disk.folder import Folder, is_link
from rivelt.disk.tree import Tree

FOLDER = ".rivelt"
_LARGEST_NOTE = 4096  # bytes


@cache
def _machine() -> bytes:
    """What distinguishes this machine and user from others: known here, not to the writer of a repository, and in no need of being kept."""
    parts = [str(os.getuid()) if hasattr(os, "getuid") else os.environ.get("USERNAME", "")]
    for file in ("/etc/machine-id", "/var/lib/dbus/machine-id"):
        with suppress(OSError), Path(file).open("rb") as known:
            parts.append(known.read(100).decode("ascii", "replace").strip())
    if not any(
        parts[1:]
    ):  # the number of the network device changes with each container: only where there is nothing better
        node = uuid.getnode()
        parts += [str(node)] if not node >> 40 & 1 else []  # a made-up number is another one in each process
    return "\n".join(parts).encode()


def signed(content: bytes) -> str:
    """Return a hash of some bytes that only this machine and user can make."""
    return hmac.new(_machine(), content, hashlib.sha256).hexdigest()


@contextmanager
def home_of(tree: Tree) -> Iterator[Folder | None]:
    """Open the folder of all journals, or yield None if it does not exist. A link in its place is never followed."""
    status = tree.folder.status(FOLDER)
    is_folder = status is not None and stat.S_ISDIR(status.st_mode) and not is_link(status)
    folder = tree.folder.child(FOLDER) if is_folder else None
    try:
        yield folder
    finally:
        if folder is not None:
            folder.close()


def make_home(tree: Tree) -> None:
    """Make the folder, if it is not there, so that git ignores what is in it."""
    if tree.folder.status(FOLDER) is None:
        tree.folder.make_folder(FOLDER)
        tree.folder.sync()
    with home_of(tree) as home:
        if home is not None and home.status(".gitignore") is None:
            home.create(".gitignore", b"*\n")


def keep_note(root: Path, name: str, content: bytes) -> None:
    """Keep a small file beside the journals, in the place of an earlier one; where that cannot be done, nothing is kept."""
    with suppress(OSError), Tree.opened(root) as tree:
        make_home(tree)
        with home_of(tree) as home:
            if home is not None:
                if home.status(name) is not None:
                    home.remove_file(name)
                home.create(name, content)


def read_note(root: Path, name: str) -> bytes:
    """Return a small file that is kept beside the journals; nothing where there is none."""
    with suppress(OSError, ValueError), Tree.opened(root) as tree, home_of(tree) as home:
        if home is not None and home.status(name) is not None:
            return home.read(name, _LARGEST_NOTE)
    return b""
