"""How many threads work that can be divided may use."""

from __future__ import annotations

import os
from contextvars import ContextVar

_most: ContextVar[int | None] = ContextVar("most", default=None)


def threads() -> int:
    """Return how many threads may work at once: one for each core, unless `limit` says less."""
    return min(os.cpu_count() or 1, _most.get() or MOST)


MOST = 64
"""More threads than this wait for each other."""


def limit(most: int) -> None:
    """Let what is called from here on use no more than some threads: where each core has a process of its own, one is enough."""
    _most.set(most)
