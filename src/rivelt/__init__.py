"""Rivelt: one logo and one background in, launch screens on every platform out.

`import rivelt` offers the use cases: `rivelt.open` gives a job on a brief or a project, whose methods are the commands. Nothing heavy
is loaded before one of them is used.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rivelt.job import Job
    from rivelt.opening import open  # noqa: A004
    from rivelt.platforms.rulebooks import catalogue
    from rivelt.proof.write import write_proof
    from rivelt.rules.measured import measure_files
    from rivelt.workspace.commit import apply
    from rivelt.workspace.history import undo

__version__ = "0.1.0"
__all__ = ["Job", "apply", "catalogue", "measure_files", "open", "undo", "write_proof"]

_HOMES = {
    "Job": "rivelt.job",
    "apply": "rivelt.workspace.commit",
    "catalogue": "rivelt.platforms.rulebooks",
    "measure_files": "rivelt.rules.measured",
    "open": "rivelt.opening",
    "undo": "rivelt.workspace.history",
    "write_proof": "rivelt.proof.write",
}


def __getattr__(name: str) -> object:
    """Load a module when one of its names is first asked for (PEP 562)."""
    if name in _HOMES:
        return getattr(import_module(_HOMES[name]), name)
    raise AttributeError(f"module 'rivelt' has no attribute {name!r}")
