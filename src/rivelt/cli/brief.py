"""`rivelt brief`."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Project, Quiet, Verbose
from rivelt.disk.tree import relative_to, resolved
from rivelt.errors import BadInput

if TYPE_CHECKING:
    from rivelt.brief.model import Brief


_WHITE = "#FFFFFF"

Mark = Annotated[
    Path | None,
    typer.Option(
        "--mark",
        metavar="FILE",
        help="The logo: SVG, PNG, JPEG or WebP. If omitted with --ground given, the ground alone is shown.",
        show_default=False,
    ),
]
Ground = Annotated[
    str | None,
    typer.Option("--ground", metavar="COLOUR", help="The colour behind it: any CSS colour.", show_default=_WHITE),
]
Imprint = Annotated[
    Path | None, typer.Option("--imprint", metavar="FILE", help="A small image for the foot of the screen.")
]
DarkGround = Annotated[str | None, typer.Option("--dark-ground", metavar="COLOUR", help="The ground of the dark look.")]
DarkMark = Annotated[Path | None, typer.Option("--dark-mark", metavar="FILE", help="The logo of the dark look.")]
DarkImprint = Annotated[
    Path | None, typer.Option("--dark-imprint", metavar="FILE", help="The imprint of the dark look.")
]
Name = Annotated[
    str | None,
    typer.Option("--name", metavar="NAME", help="The app's name.", show_default="name of the project's folder"),
]
Out = Annotated[
    Path | None,
    typer.Option("--out", metavar="FILE", help="The brief to write; - prints it.", show_default="PROJECT/rivelt.toml"),
]
Schema = Annotated[
    bool, typer.Option("--schema", help="Print the JSON Schema of the brief, for editors, and write nothing.")
]


def brief(
    project: Project = Path(),
    mark: Mark = None,
    ground: Ground = None,
    imprint: Imprint = None,
    dark_ground: DarkGround = None,
    dark_mark: DarkMark = None,
    dark_imprint: DarkImprint = None,
    name: Name = None,
    out: Out = None,
    schema: Schema = False,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> None:
    """Write a commented starter brief.

    It is filled in from the survey and the art. An existing brief is never overwritten.
    """
    from rivelt import opening
    from rivelt.brief.schema import shipped_schema
    from rivelt.brief.starter import Starter
    from rivelt.briefs import draft_brief, write_brief

    if schema:
        output.plain(shipped_schema())
        return
    _refuse_nothing(mark, ground)
    is_printed = out is not None and output.is_stdout(out)
    path = project / "rivelt.toml" if out is None or is_printed else out
    folder, found = resolved(path).parent, opening.suggested(project)
    starter = Starter(
        name=name or resolved(project).name,
        project=_relative(project, folder) or ".",
        targets=found.targets,
        mark=_relative(mark, folder) if mark is not None else None,
        ground=ground or _WHITE,
        dark_ground=dark_ground,
        **_relatives(folder, imprint=imprint, dark_mark=dark_mark, dark_imprint=dark_imprint),
        choices=found.choices,
        editions=found.editions,
    )
    if is_printed:
        output.plain(draft_brief(path, starter)[1].rstrip("\n"))
        return
    _tell(path, write_brief(path, starter), starter.targets)


def _refuse_nothing(mark: Path | None, ground: str | None) -> None:
    if mark is None and ground is None:
        hint = "Give the logo: rivelt brief --mark FILE; or --ground COLOUR alone for a screen without one."
        raise BadInput("missing option '--mark'", hint=hint)


def _tell(path: Path, written: Brief, targets: Sequence[str]) -> None:
    from rivelt.documents.project import BriefDocument, BriefSummary

    output.machine(
        BriefDocument(
            root=str(written.folder),
            summary=BriefSummary(targets=list(targets), editions=[one.edition for one in written.editions]),
            brief=written.path.name,
        )
    )
    output.say(
        f"Wrote {path} ({', '.join(targets) or 'no native project found yet'}), and its schema for editors beside it."
    )
    output.next_step("proof", given=[path] if path.parent != Path() or path.name != "rivelt.toml" else [])


def _relatives(folder: Path, **art: Path | None) -> dict[str, Any]:
    return {key: _relative(file, folder) for key, file in art.items() if file is not None}


def _relative(path: Path, folder: Path) -> str:
    """A path given on the command line (relative to the current folder) as one relative to the brief's folder."""
    return relative_to(path, folder)
