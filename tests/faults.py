"""A disk that fails, a process that dies, and somebody who saves a file, at any call to the system that a piece of work makes."""

from __future__ import annotations

import errno
import os
import signal
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest

CHANGING = ("fsync", "rename", "link", "unlink", "mkdir", "rmdir", "open", "write", "fchmod")
"""The calls by which the disk is changed."""
ALL = (*CHANGING, "replace", "stat", "fstat", "lstat", "listdir", "read", "readlink", "close", "fchown")
"""All calls that reach a disk."""


@contextmanager
def at_each(names: tuple[str, ...], act: Callable[[str, Callable[[], Any]], Any]) -> Iterator[None]:
    """Within it, `act` is given the name of each call to the system and a function that makes it."""

    def watched(name: str, real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*arguments: Any, **options: Any) -> Any:
            return act(name, lambda: real(*arguments, **options))

        return call

    with pytest.MonkeyPatch.context() as patch:
        for name in names:
            patch.setattr(os, name, watched(name, getattr(os, name)))
        yield


@contextmanager
def failing(number: int, error: int = errno.EIO, *, onwards: bool = False) -> Iterator[list[str]]:
    """Within it the n-th call fails, or (`onwards`) every call from the n-th on; gives the names of those that failed."""
    count = 0
    failed: list[str] = []

    def act(name: str, real: Callable[[], Any]) -> Any:
        nonlocal count
        count += 1
        if count == number or (onwards and count > number):
            failed.append(name)
            if name == "close":
                real()  # as Linux does it: the descriptor is gone all the same
            raise OSError(error, os.strerror(error), name)
        return real()

    with at_each(ALL, act):
        yield failed


@contextmanager
def disturbed(number: int, disturb: Callable[[], object]) -> Iterator[list[str]]:
    """Within it something is done right before the n-th changing call; gives its name, if it was reached."""
    count = 0
    reached: list[str] = []

    def act(name: str, real: Callable[[], Any]) -> Any:
        nonlocal count
        count += 1
        if count == number:
            reached.append(name)
            disturb()
        return real()

    with at_each(CHANGING, act):
        yield reached


def killed_at(number: int, work: Callable[[], object]) -> bool:
    """Do some work in a child that is killed right before its n-th call that changes the disk; whether it was."""
    child = os.fork()
    if child == 0:
        try:
            with disturbed(number, lambda: os.kill(os.getpid(), signal.SIGKILL)):
                work()
        finally:
            os._exit(0)
    _, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)
