"""Ctrl-C: remembered, because an exception raised inside a library's callback is lost there."""

from __future__ import annotations

import signal
from types import FrameType

_asked = False


def listen() -> None:
    """From here on, Ctrl-C raises KeyboardInterrupt and is remembered as well."""
    global _asked  # noqa: PLW0603
    _asked = False
    signal.signal(signal.SIGINT, _on_signal)


def raise_if_asked() -> None:
    """Raise what a library may have swallowed; to be called before anything is changed."""
    if _asked:
        raise KeyboardInterrupt


def ignore() -> None:
    """The work is done, and only the process has yet to end: nothing is left to be stopped."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def _on_signal(_number: int, _frame: FrameType | None) -> None:
    global _asked  # noqa: PLW0603
    _asked = True
    raise KeyboardInterrupt
