"""`rivelt remove`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import interrupt, output
from rivelt.cli.listing import rows
from rivelt.cli.options import BriefOrProject, Debug, Editions, Force, Json, Only, Quiet, Verbose, tell_brief
from rivelt.disk.tree import undo_command
from rivelt.errors import ExitCode

if TYPE_CHECKING:
    from rivelt.removal import Removal


def remove(
    source: BriefOrProject = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Say what would be done, and write nothing.")] = False,
    diff: Annotated[bool, typer.Option("--diff", help="Show the differences, and write nothing.")] = False,
    force: Force = False,
    only: Only = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Take out everything that Rivelt made, in a fresh clone too.

    Generated files go if they are as they were written, and edits where they still stand; what was changed since stays, and is named. What
    other editions need stays as well. `rivelt undo` takes it back. Exit code 1 means that something was left.
    """
    from rivelt import opening
    from rivelt.workspace.commit import apply as write
    from rivelt.workspace.commit import refuse_unfinished, rehearse

    work = opening.open_recorded(source, only=only or (), editions=editions or ())
    tell_brief(work)
    refuse_unfinished(work.root)
    found = work.removal(force=force)
    is_for_real = not (dry_run or diff)
    if is_for_real:
        interrupt.raise_if_asked()
        write(found.changes)
    else:
        rehearse(found.changes)
    output.machine(found.document(is_done=is_for_real))
    if diff:
        for change in found.changes.files:
            output.diff(change.diff())
    else:
        _report(found, source, is_done=is_for_real)
    return ExitCode.FINDINGS if found.left or not is_for_real else ExitCode.OK


def _report(found: Removal, source: Path | None, *, is_done: bool) -> None:
    output.table(("", "file", "what for"), rows(found.changes))
    output.say()
    for owner in found.owners:
        output.say(f"{'Taken out' if is_done else 'It would take out'}: {owner}")
    for one in found.left:
        output.warn(f"left: {output.of_project(one.path)}: {one.what}")
    if found.shared:
        output.say(f"Note: others need edits in {', '.join(map(output.of_project, found.shared))}; they stay.")
    if is_done:
        output.hint(f"Take it back: {undo_command(found.changes.root)}")
    else:
        output.next_step("remove", given=[source])
