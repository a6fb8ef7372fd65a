"""`rivelt brief`."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Project, Quiet


def brief(
    mark: Annotated[Path, typer.Option("--mark", metavar="FILE", help="The logo: SVG, PNG, JPEG or WebP.")],
    project: Project = Path(),
    ground: Annotated[
        str, typer.Option("--ground", metavar="COLOUR", help="The colour behind it: any CSS colour.")
    ] = "#FFFFFF",
    imprint: Annotated[
        Path | None, typer.Option("--imprint", metavar="FILE", help="A small image for the foot of the screen.")
    ] = None,
    dark_ground: Annotated[
        str | None, typer.Option("--dark-ground", metavar="COLOUR", help="The ground of the dark look.")
    ] = None,
    dark_mark: Annotated[
        Path | None, typer.Option("--dark-mark", metavar="FILE", help="The logo of the dark look.")
    ] = None,
    dark_imprint: Annotated[
        Path | None, typer.Option("--dark-imprint", metavar="FILE", help="The imprint of the dark look.")
    ] = None,
    name: Annotated[str | None, typer.Option("--name", help="The app's name.", show_default="the folder's")] = None,
    out: Annotated[
        Path | None,
        typer.Option("--out", metavar="FILE", help="The brief to write.", show_default="PROJECT/rivelt.toml"),
    ] = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> None:
    """Write a commented starter brief.

    It is filled in from the survey and the art. An existing brief is never overwritten.
    """
    from rivelt import job
    from rivelt.brief.schema import FILE_NAME
    from rivelt.brief.starter import Starter

    path = out or project / FILE_NAME
    folder = path.resolve().parent
    found = job.survey(project)
    starter = Starter(
        name=name or project.resolve().name,
        project=_relative(project, folder) or ".",
        targets=tuple(dict.fromkeys(site.target for site in found.sites if site.blocked is None)),
        mark=_relative(mark, folder),
        ground=ground,
        imprint=_optional(imprint, folder),
        dark_ground=dark_ground,
        dark_mark=_optional(dark_mark, folder),
        dark_imprint=_optional(dark_imprint, folder),
    )
    written = job.write_brief(path, starter)
    targets = ", ".join(starter.targets) or "no native project found yet"
    output.machine({"brief": str(written.path), "targets": list(starter.targets)})
    output.say(f"Wrote {path} ({targets}).")
    output.hint("Next: rivelt proof")


def _optional(path: Path | None, folder: Path) -> str | None:
    return None if path is None else _relative(path, folder)


def _relative(path: Path, folder: Path) -> str:
    """A path given on the command line (relative to the current folder) as one relative to the brief's folder."""
    import os

    return Path(os.path.relpath(path.resolve(), folder)).as_posix()
