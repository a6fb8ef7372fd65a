"""The brief of a live session: as it is on disk, as the controls have set it, and what was written, so that it can be taken back."""

from __future__ import annotations

from pathlib import Path
from threading import RLock
from typing import TYPE_CHECKING, Any

from rivelt.brief.find import shown_path
from rivelt.brief.model import THE_BRIEF
from rivelt.disk.tree import read_file
from rivelt.errors import BadInput, Refused, RiveltError
from rivelt.live.controls import changed, in_edition
from rivelt.live.draft import Drafted, Value, drafted
from rivelt.live.overlay import Overlaid
from rivelt.project.files import DISK, Files
from rivelt.workspace.output import write_file

if TYPE_CHECKING:
    from rivelt.brief.model import Brief

_LARGEST_BRIEF = 1_000_000  # bytes
_MOST_UNDONE = 50


class Desk:
    """What the controls set. Nothing is written but by `write` and `undo`.

    `path`: the brief. `edition`: the one that is set. `shown` and `written`: it as it is set, and as it is on disk; None while it has
    problems.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.edition = THE_BRIEF
        self.editions: tuple[str, ...] = (THE_BRIEF,)
        self.shown: Brief | None = None
        self.written: Brief | None = None
        self.draft: Drafted | None = None
        self._changes: dict[str, Value] = {}
        self._undo: list[tuple[bytes, bytes]] = []
        self._lock = RLock()

    @property
    def name(self) -> str:
        """The brief's path as people see it."""
        return shown_path(self.path)

    @property
    def changes(self) -> list[str]:
        """The keys that are set and not written."""
        return sorted(self._changes)

    @property
    def can_undo(self) -> bool:
        """Whether something was written that can be taken back."""
        return bool(self._undo)

    def files(self) -> Files:
        """Return the disk, with the brief as it is set.

        Raises:
            BadInput: the brief cannot be read, or not be set in the way it is written.
        """
        with self._lock:
            self.draft = drafted(_bytes_of(self.path), self.name, self._changes)
            return Overlaid(self.path, self.draft.data) if self._changes else DISK

    def understood(self, main: Brief) -> None:
        """Take the brief, with its editions, as the controls have set it."""
        with self._lock:
            every = {one.edition or THE_BRIEF: one for one in (main, *main.editions)}
            self.editions = tuple(every)
            self.shown = every.get(self.edition, main)
            if not self._changes or self.written is None or self.written.edition != self.shown.edition:
                self.written = self.shown

    def put(self, key: str, value: Any) -> None:
        """Set a control.

        Raises:
            BadInput: there is no such control, or it cannot have that value.
        """
        with self._lock:
            if key == "edition":
                if value not in self.editions:
                    raise BadInput(f"there is no edition {value!r}", hint=f"There are: {', '.join(self.editions)}.")
                self.edition = str(value)
                return
            if self.shown is None or self.written is None:
                raise BadInput("the brief has problems", hint="Correct it in the file first.")
            self._changes |= in_edition(changed(key, value, self.shown, self.written), self.edition)
            before = _bytes_of(self.path)
            for name, wanted in list(self._changes.items()):
                if drafted(before, self.name, {name: wanted}).data == before:  # as the file says it anyway
                    del self._changes[name]

    def reset(self) -> None:
        """Drop all that is set."""
        with self._lock:
            self._changes.clear()

    def write(self, digest: str) -> None:
        """Write what is set to the brief; `digest`: that of the difference that the person has seen.

        Raises:
            Refused: the file, or what is set, is not what the person has seen any more.
            BadInput: there is nothing to write, or it cannot be written.
        """
        with self._lock:
            if not self._changes:
                raise BadInput("nothing is changed", hint="Set something first.")
            before = _bytes_of(self.path)
            made = drafted(before, self.name, self._changes)
            if made.digest != digest:
                raise Refused("the brief was changed meanwhile", hint="Look at the difference again.")
            write_file(self.path, made.data)
            self._undo = [*self._undo, (before, made.data)][-_MOST_UNDONE:]
            self._changes.clear()

    def undo(self) -> None:
        """Take the last write back, to the byte.

        Raises:
            Refused: somebody has edited the brief since.
            BadInput: nothing was written.
        """
        with self._lock:
            if not self._undo:
                raise BadInput("nothing was written yet", hint="Write something first.")
            before, after = self._undo[-1]
            if _bytes_of(self.path) != after:
                raise Refused("the brief was edited since it was written here", hint="Take it back by hand.")
            write_file(self.path, before)
            self._undo.pop()


def _bytes_of(path: Path) -> bytes:
    try:
        return read_file(path, _LARGEST_BRIEF)
    except OSError as error:
        raise BadInput(f"the brief cannot be read: {error.strerror}", hint=f"Put {path.name} back.") from error


def problem_item(error: RiveltError) -> dict[str, str]:
    """Return an error as the page shows it."""
    return {
        "message": error.message,
        "place": str(error.place) if error.place is not None else "",
        "hint": error.hint or "",
    }
