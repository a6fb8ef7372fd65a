"""`rivelt plates`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import BriefPath, Debug, Editions, Json, Only, Quiet, Verbose, tell_brief
from rivelt.cli.output import weight_in_words
from rivelt.disk.tree import resolved

if TYPE_CHECKING:
    from collections.abc import Mapping

    from rivelt.documents.art import PlatesDocument

_MOST_NAMES = 2


def plates(
    brief: BriefPath = None,
    out: Annotated[
        Path, typer.Option("--out", metavar="DIR", help="The folder or .zip file to write; - prints a ZIP.")
    ] = Path("plates"),
    only: Only = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> None:
    """Make the images alone.

    One folder for each target, laid out as the platform keeps them. The project is left alone.
    """
    from rivelt import opening

    work = opening.open_brief(brief, only=only or (), editions=editions or ())
    tell_brief(work)
    with output.progress("plates") as progress:
        written = work.plates(output.binary if output.is_stdout(out) else out, on_progress=progress)
    output.machine(_document(out, written))
    folders: dict[str, dict[str, int]] = {}
    for path, size in written.items():
        folder, _, name = path.rpartition("/")
        folders.setdefault(folder, {})[name] = size
    rows = [
        (folder, _shortened(sorted(names)), weight_in_words(sum(names.values()))) for folder, names in folders.items()
    ]
    output.table(("folder", "images", "weight"), rows)
    output.say()
    output.say(f"{len(written)} plates, {weight_in_words(sum(written.values()))}, in {out}.")


def _document(out: Path, written: Mapping[str, int]) -> PlatesDocument:
    from rivelt.documents.art import PlateItem, PlatesDocument, PlatesSummary

    return PlatesDocument(
        root=str(resolved(out)),
        summary=PlatesSummary(plates=len(written), bytes=sum(written.values())),
        plates=[PlateItem(path=path, bytes=size) for path, size in written.items()],
    )


def _shortened(names: list[str]) -> str:
    shown = ", ".join(names[:_MOST_NAMES])
    return shown if len(names) <= _MOST_NAMES else f"{shown} and {len(names) - _MOST_NAMES} more"
