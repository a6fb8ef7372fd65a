"""`rivelt undo`."""

from __future__ import annotations

from pathlib import Path

from rivelt.cli import output
from rivelt.cli.options import Debug, Force, Json, Project, Quiet


def undo(
    project: Project = Path(),
    force: Force = False,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> None:
    """Take the last apply back, to the byte.

    Files that were changed since are not touched without --force.
    """
    from rivelt import job

    root = job.applied_project(project)
    restored = job.undo(root, force=force)
    output.machine({"project": str(root), "restored": restored})
    output.say(f"Took the last apply back: {len(restored)} files are as they were before.")
    output.hint("Next: rivelt proof --now")
