"""How long work tells how far it is."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

Progress: TypeAlias = Callable[[int, int], None]
"""Called with the number of things done, and of all there are."""


def no_progress(_done: int, _total: int) -> None:
    """Nobody watches."""
