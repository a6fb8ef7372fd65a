"""Rivelt: one logo and one background in, launch screens on every platform out.

`import rivelt` offers the use cases: `rivelt.open` returns a job on a brief or a project, whose methods are the commands. Values in, values
out: nothing is printed. A module is loaded when one of its names is first asked for.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rivelt.briefs import Brief
    from rivelt.errors import BadInput, Place, Problems, Refused, RiveltError
    from rivelt.findings import Finding
    from rivelt.job import Job
    from rivelt.opening import open, survey  # noqa: A004
    from rivelt.platforms.rulebooks import catalogue, explain
    from rivelt.proof.write import write_chart, write_proof
    from rivelt.recordings.read import replay
    from rivelt.recordings.write import write_replay
    from rivelt.review.since import compare
    from rivelt.review.write import write_review
    from rivelt.rules.measured import measure_files
    from rivelt.workspace.commit import apply
    from rivelt.workspace.history import applies, undo

__version__ = "0.1.0"
__all__ = [
    "BadInput",
    "Brief",
    "Finding",
    "Job",
    "Place",
    "Problems",
    "Refused",
    "RiveltError",
    "applies",
    "apply",
    "catalogue",
    "compare",
    "explain",
    "measure_files",
    "open",
    "replay",
    "survey",
    "undo",
    "write_chart",
    "write_proof",
    "write_replay",
    "write_review",
]

if not TYPE_CHECKING:  # a type checker reads the imports above, and knows no other names

    def __getattr__(name):
        """Load the module of a name when it is first asked for (PEP 562)."""
        from importlib import import_module

        homes = {
            "rivelt.briefs": ("Brief",),
            "rivelt.errors": ("BadInput", "Place", "Problems", "Refused", "RiveltError"),
            "rivelt.findings": ("Finding",),
            "rivelt.job": ("Job",),
            "rivelt.opening": ("open", "survey"),
            "rivelt.platforms.rulebooks": ("catalogue", "explain"),
            "rivelt.proof.write": ("write_chart", "write_proof"),
            "rivelt.recordings.read": ("replay",),
            "rivelt.recordings.write": ("write_replay",),
            "rivelt.review.since": ("compare",),
            "rivelt.review.write": ("write_review",),
            "rivelt.rules.measured": ("measure_files",),
            "rivelt.workspace.commit": ("apply",),
            "rivelt.workspace.history": ("applies", "undo"),
        }
        home = next((module for module, names in homes.items() if name in names), None)
        if home is None:
            raise AttributeError(f"module 'rivelt' has no attribute {name!r}")
        found = globals()[name] = getattr(import_module(home), name)
        return found

    def __dir__():
        return sorted([*__all__, "__version__", "__doc__", "__file__", "__path__"])
