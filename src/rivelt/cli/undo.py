"""`rivelt undo`."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated

import typer

from rivelt.cli import complete, output
from rivelt.cli.options import Debug, Force, Json, Quiet, Verbose
from rivelt.disk.tree import undo_command
from rivelt.errors import BadInput


def undo(
    what: Annotated[
        str | None,
        typer.Argument(
            metavar="[N | PROJECT]",
            help="How many applies to take back, or the project's folder. Default: one, in this folder or above it.",
            show_default=False,
            autocompletion=complete.APPLIES,
        ),
    ] = None,
    listed: Annotated[
        bool, typer.Option("--list", help="Say which applies can be taken back, and write nothing.")
    ] = False,
    force: Force = False,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> None:
    """Take the last apply back, to the byte; or the last N of them.

    Files that were changed since are not touched without --force. An apply that was stopped halfway is taken back in the same way.
    """
    from rivelt.documents.work import UndoDocument, UndoSummary
    from rivelt.workspace.history import applied_project
    from rivelt.workspace.history import undo as take_back

    is_number = what is not None and what.isdecimal() and not Path(what).is_dir()
    root = applied_project(Path() if what is None or is_number else Path(what))
    if listed:
        _list(root)
        return
    times = int(what) if is_number and what is not None else 1
    if times < 1:
        raise BadInput("N must be at least 1", hint="Give how many to take back, such as: rivelt undo 2")
    restored = take_back(root, times=times, force=force)
    output.machine(
        UndoDocument(
            root=str(root), summary=UndoSummary(applies=times, restored=len(restored)), restored=list(restored)
        )
    )
    taken = "the last apply" if times == 1 else f"the last {times} applies"
    output.say(f"Took {taken} back: {len(restored)} files are as they were before.")
    output.next_step("proof", "--now", given=[] if what is None or is_number else [Path(what)])


def _list(root: Path) -> None:
    from rivelt.documents.work import HistoryDocument, HistorySummary
    from rivelt.workspace.history import applies

    found = applies(root)
    output.machine(
        HistoryDocument(root=str(root), summary=HistorySummary(applies=len(found)), applies=[one.item for one in found])
    )
    if not found:
        output.say("There is no apply to take back here.")
        return
    rows = [
        (
            str(index),
            time.strftime("%Y-%m-%d %H:%M", time.localtime(one.when)),
            f"{one.created} created, {one.edited} edited, {one.removed} removed"
            + ("" if one.is_done else "; stopped halfway"),
        )
        for index, one in enumerate(found, start=1)
    ]
    output.table(("undo", "when", "what it did"), rows)
    output.say()
    output.hint(f"Next: {undo_command(root, 'N')}, to take back the first N of these")
