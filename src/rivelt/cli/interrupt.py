"""Ctrl-C: remembered, because an exception raised inside a library's callback is lost there."""

from __future__ import annotations

import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from sys import UnraisableHookArgs

_asked = False


def listen() -> None:
    """Let Ctrl-C raise KeyboardInterrupt from here on, and remember it as well."""
    global _asked  # noqa: PLW0603
    _asked = False
    signal.signal(signal.SIGINT, _on_signal)
    sys.unraisablehook = _on_lost


@contextmanager
def once() -> Iterator[None]:
    """Let the first Ctrl-C raise KeyboardInterrupt and ignore those after it, so that what it stops is put away in peace."""
    if threading.current_thread() is not threading.main_thread():  # no signal arrives there
        yield
        return
    before = signal.signal(signal.SIGINT, _on_first_signal)
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)


def raise_if_asked() -> None:
    """Raise what a library may have swallowed; to be called before anything is changed."""
    if _asked:
        raise KeyboardInterrupt


def ignore() -> None:
    """Ignore Ctrl-C: the work is done, and only the process has yet to end."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def _on_lost(lost: UnraisableHookArgs) -> None:
    """An interrupt that a library has lost is remembered, and not reported. Anything else is reported."""
    if not (_asked and lost.exc_type is KeyboardInterrupt):
        sys.__unraisablehook__(lost)


def _on_signal(_number: int, _frame: FrameType | None) -> None:
    global _asked  # noqa: PLW0603
    _asked = True
    raise KeyboardInterrupt


def _on_first_signal(number: int, frame: FrameType | None) -> None:
    ignore()
    _on_signal(number, frame)
