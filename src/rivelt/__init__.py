"""Rivelt: one logo and one background in, launch screens on every platform out.

`import rivelt` offers the use cases of `rivelt.job` as functions; nothing heavy is loaded before one of them is used.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any

__version__ = "0.1.0"
__all__ = [
    "apply",
    "changes_of",
    "judge",
    "load_brief",
    "measure",
    "plates",
    "prepare",
    "prove",
    "survey",
    "undo",
    "write_proof",
]

_AS_IN_JOB = {"judge": "check"}
"""Names that differ, because a package of Rivelt has the other one."""


def __getattr__(name: str) -> Any:
    """Load `rivelt.job` when one of its functions is first asked for (PEP 562)."""
    if name in __all__:
        return getattr(import_module("rivelt.job"), _AS_IN_JOB.get(name, name))
    raise AttributeError(f"module 'rivelt' has no attribute {name!r}")
