"""What would become different on disk: one entry for each file, as data."""

from __future__ import annotations

import difflib
import hashlib
from typing import Literal, TypeAlias

from msgspec import Struct

Action: TypeAlias = Literal["create", "edit", "delete"]


class Change(Struct, frozen=True):
    """One file: its bytes before (None: it does not exist) and after (None: it shall go).

    `path` is relative to the project's root; `why` says in words what the change is for.
    """

    path: str
    before: bytes | None
    after: bytes | None
    why: str = ""

    @property
    def action(self) -> Action:
        """What happens to the file."""
        if self.before is None:
            return "create"
        return "delete" if self.after is None else "edit"

    def diff(self) -> str:
        """A unified diff; for files that are not text, one line that says so."""
        sides = [_lines(content) for content in (self.before, self.after)]
        old, new = sides
        if old is None or new is None:
            return f"{self.action} {self.path} ({len(self.after or b'')} bytes, not text)\n"
        names = (
            "/dev/null" if self.before is None else f"a/{self.path}",
            "/dev/null" if self.after is None else f"b/{self.path}",
        )
        lines = difflib.unified_diff(old, new, *names)
        return "".join(line if line.endswith("\n") else f"{line}\n\\ No newline at end of file\n" for line in lines)


def _lines(content: bytes | None) -> list[str] | None:
    try:
        return (content or b"").decode("utf-8").replace("\r\n", "\n").splitlines(keepends=True)
    except UnicodeDecodeError:
        return None


def sha256(content: bytes) -> str:
    """SHA-256 in hex: how the lock file and the journal name contents."""
    return hashlib.sha256(content).hexdigest()
