"""Rivelt: one logo and one background in, launch screens on every platform out.

`import rivelt` offers the use cases: `rivelt.open` gives a job on a brief or a project, whose methods are the commands. Nothing heavy
is loaded before one of them is used.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any

__version__ = "0.1.0"
_HOMES = {
    "Job": "rivelt.job",
    "apply": "rivelt.job",
    "explain": "rivelt.job",
    "measure_files": "rivelt.job",
    "open": "rivelt.job",
    "undo": "rivelt.job",
    "write_proof": "rivelt.proof.write",
}
__all__ = ["Job", "apply", "explain", "measure_files", "open", "undo", "write_proof"]  # noqa: A001


def __getattr__(name: str) -> Any:
    """Load a module when one of its names is first asked for (PEP 562)."""
    if name in _HOMES:
        return getattr(import_module(_HOMES[name]), name)
    raise AttributeError(f"module 'rivelt' has no attribute {name!r}")
