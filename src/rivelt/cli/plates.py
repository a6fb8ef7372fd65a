"""`rivelt plates`."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import BriefPath, Debug, Json, Quiet


def plates(
    brief: BriefPath = None,
    out: Annotated[Path, typer.Option("--out", metavar="DIR", help="The folder to write to.")] = Path("plates"),
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> None:
    """Make the images alone.

    One folder for each target, laid out as the platform keeps them. The project is left alone.
    """
    from rivelt import job

    loaded = job.load_brief(brief)
    with output.progress("plates") as progress:
        written = job.plates(loaded, out, on_progress=progress)
    output.machine({"out": str(out), "plates": [path.relative_to(out).as_posix() for path in written]})
    folders: dict[str, list[Path]] = {}
    for path in written:
        folders.setdefault(path.parent.relative_to(out).as_posix(), []).append(path)
    rows = [
        (
            folder,
            ", ".join(sorted(path.name for path in paths)),
            f"{sum(path.stat().st_size for path in paths) / 1024:.1f} kB",
        )
        for folder, paths in folders.items()
    ]
    output.table(("folder", "images", "weight"), rows)
    output.say()
    output.say(f"{len(written)} plates in {out}.")
