"""Saves noticed: whatever is written in the project, the brief's folder or the folders of its art."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import TYPE_CHECKING

from watchfiles import Change, watch

from rivelt.project.snapshot import IGNORED_FOLDERS

if TYPE_CHECKING:
    from rivelt.live.session import Session

_TEMPORARY = (".tmp", ".swp", ".swx", "~", ".lock")
_SETTLED_MS = 60  # editors write a file in several steps
_STEP_MS = 20


def follow(session: Session, over: threading.Event) -> threading.Thread:
    """Start a thread that renews a session after each save, until `over` is set; returns it."""
    thread = threading.Thread(target=_follow, args=(session, over), daemon=True, name="rivelt-watch")
    thread.start()
    return thread


def _follow(session: Session, over: threading.Event) -> None:
    is_deep = True
    while not over.is_set():
        try:
            _wait(session, over, is_deep=is_deep)
        except OSError as error:  # more folders than the system watches at once
            if not is_deep:
                session.limit(f"saves are not noticed: {error.strerror or error}", "Reload after saving.")
                return
            is_deep = False
            session.limit("only saves of the brief and of its art are noticed: the project has too many folders", "")


def _wait(session: Session, over: threading.Event, *, is_deep: bool) -> None:
    """Renew a session after each save until other folders count, or all is over."""
    while not over.is_set():
        folders = _outermost(session.watched()) if is_deep else sorted(session.watched())
        for changes in watch(
            *folders,
            recursive=is_deep,
            watch_filter=lambda _, path: counts(path),
            stop_event=over,
            debounce=_SETTLED_MS,
            step=_STEP_MS,
            rust_timeout=500,
            yield_on_timeout=True,
            raise_interrupt=False,
            ignore_permission_denied=True,
        ):
            if changes:
                session.renew()
            if any(kind is not Change.modified for kind, _ in changes):
                break  # folders may have come
            if is_deep and _outermost(session.watched()) != folders:
                break  # the brief names art elsewhere now


def counts(path: str) -> bool:
    """Return whether a file may matter: none of a tool's, and no file that an editor will take away again."""
    parts = Path(path).parts
    name = parts[-1] if parts else ""
    is_temporary = name.endswith(_TEMPORARY) or name.startswith((".#", ".rivelt-")) or name == "4913"
    return not is_temporary and IGNORED_FOLDERS.isdisjoint(parts)


def _outermost(folders: set[Path]) -> list[Path]:
    """Folders without those that are in another one."""
    return sorted(one for one in folders if not any(one != other and one.is_relative_to(other) for other in folders))
