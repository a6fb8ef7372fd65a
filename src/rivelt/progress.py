"""Progress of long work, reported to whoever wants to show it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

Progress: TypeAlias = Callable[[int, int], None]
"""Called with the number of finished items and their total."""


def no_progress(_done: int, _total: int) -> None:
    """Discard progress updates."""
