"""What a check looked at when it last found nothing, as one hash: where all of that is the same, there is nothing to judge.

Only in a git repository: git has hashed every file already, so that no file is read.
"""

from __future__ import annotations

import hashlib
import subprocess
from collections.abc import Sequence
from pathlib import Path

from rivelt.disk.tree import resolved
from rivelt.workspace.notes import keep_note, read_note, signed

_NAME = "checked"
_MOST = 20  # states: several hooks ask, each for itself
_PROSE = (b".md", b".rst", b".adoc", b"/LICENSE", b"/CODEOWNERS", b".github/")
_GIT = ("git", "-c", "core.quotePath=false")


def state(folder: Path, arguments: Sequence[str]) -> str | None:
    """Return a hash of all that a check of a folder depends on; None where that is unknown: no repository, or files that are not staged.

    Args:
        folder: the folder that is checked.
        arguments: what else decides on the result, such as the version and the options.
    """
    top = _git(folder, "rev-parse", "--show-toplevel")
    if top is None:
        return None
    root = Path(top.decode("utf-8", "surrogateescape").strip())
    staged = _git(root, "ls-files", "--stage", "-z")
    loose = _git(root, "ls-files", "--modified", "--deleted", "--others", "--exclude-standard", "-z")
    if staged is None or loose is None or any(map(_counts, loose.split(b"\0"))):
        return None
    entries = [entry for entry in staged.split(b"\0") if _counts(entry)]
    inside = resolved(folder).relative_to(resolved(root)).as_posix().encode()
    return hashlib.sha256(b"\0".join((inside, *(one.encode() for one in arguments), *entries))).hexdigest()


def _counts(path: bytes) -> bool:
    """Whether a file may matter to a launch screen: all but prose."""
    return bool(path) and not path.endswith(_PROSE[:3]) and not any(part in b"/" + path for part in _PROSE[3:])


def _git(folder: Path, *arguments: str) -> bytes | None:
    try:
        done = subprocess.run((*_GIT, *arguments), cwd=folder, capture_output=True, check=False, timeout=20)
    except (OSError, subprocess.TimeoutExpired):
        return None
    return done.stdout if done.returncode == 0 else None


def is_clean(folder: Path, found: str) -> bool:
    """Return whether a check of this very state has found nothing before, on this machine."""
    return signed(found.encode()).encode() in read_note(folder, _NAME).split()


def remember(folder: Path, found: str) -> None:
    """Remember that a check of this state has found nothing; where that cannot be written, the next one judges again."""
    earlier = read_note(folder, _NAME).decode("ascii", "replace").split()
    keep_note(folder, _NAME, "\n".join([*earlier, signed(found.encode())][-_MOST:]).encode())
