"""`rivelt apply`."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NamedTuple

import typer

from rivelt.cli import interrupt, output
from rivelt.cli.listing import rows
from rivelt.cli.options import (
    BriefPaths,
    Debug,
    Editions,
    Force,
    Json,
    Only,
    Quiet,
    Verbose,
    tell_brief,
    warn_of_unread,
)
from rivelt.errors import BadInput, ExitCode, RiveltError

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.job import Job
    from rivelt.watch import Stamp
    from rivelt.workspace.change import Action, Changes


def apply(
    briefs: BriefPaths = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Say what would be done, and write nothing.")] = False,
    diff: Annotated[bool, typer.Option("--diff", help="Show the differences, and write nothing.")] = False,
    prune: Annotated[
        bool, typer.Option("--prune", help="Also remove old launch images that nothing uses any more.")
    ] = False,
    proof: Annotated[
        Path | None,
        typer.Option(
            "--proof", metavar="FILE", help="Also draw the proof afterwards, as a sheet (.png) or a page (.html)."
        ),
    ] = None,
    watch: Annotated[
        bool,
        typer.Option("--watch", help="Continue: do it again whenever the brief or the art is saved, until Ctrl-C."),
    ] = False,
    force: Force = False,
    only: Only = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Make it so in the project.

    Running it twice changes nothing the second time; `rivelt undo` takes it back.

    With --dry-run or --diff the exit code is 1 when something would change.
    """
    wanted = _Wanted(tuple(briefs or ()), tuple(only or ()), tuple(editions or ()), prune, force, dry_run, diff, proof)
    if not watch:
        return _once(wanted, _Kept())
    if dry_run or diff:
        raise BadInput("--watch writes; --dry-run and --diff do not", hint="Give one of them.")
    return _again_and_again(wanted)


class _Wanted(NamedTuple):
    """What was asked for."""

    briefs: tuple[Path, ...]
    only: tuple[str, ...]
    editions: tuple[str, ...]
    prune: bool
    force: bool
    dry_run: bool
    diff: bool
    proof: Path | None

    @property
    def is_for_real(self) -> bool:
        """Whether anything is written."""
        return not (self.dry_run or self.diff)

    def jobs(self) -> tuple[Job, ...]:
        """Return the jobs, one for each project."""
        from rivelt import opening

        return opening.open_briefs(self.briefs or [None], only=self.only, editions=self.editions)


class _Kept:
    """What one apply of a watch leaves for the next: its jobs, and the state of the project in which the proof was drawn."""

    def __init__(self) -> None:
        self.jobs: tuple[Job, ...] = ()
        self.shown: tuple[Sequence[tuple[Brief, Sequence[Brief]]], Mapping[str, Stamp]] | None = None


def _again_and_again(wanted: _Wanted) -> int:
    """Do the work now and after each change of the brief or the art; what goes wrong is reported, and the watch continues."""
    from rivelt.watch import stamps, wait_for_change

    kept = _Kept()
    try:
        while True:
            before = stamps(wanted.briefs)
            try:
                _once(wanted, kept)
            except RiveltError as error:
                output.error(error)
            output.say()
            output.hint("Watching the brief and the art; Ctrl-C ends it.")
            output.flush()
            changed = wait_for_change(before)
            output.say(f"Changed: {', '.join(changed)}")
    except KeyboardInterrupt:
        output.say("Stopped watching.")
        return ExitCode.OK


def _once(wanted: _Wanted, kept: _Kept) -> int:
    """One apply; what an earlier one of the same watch has `kept` is not worked out again."""
    from rivelt.disk.tree import relative_to
    from rivelt.proof.write import check_proof_name
    from rivelt.workspace.change import joined
    from rivelt.workspace.commit import apply as write
    from rivelt.workspace.commit import rehearse

    if wanted.proof is not None:
        check_proof_name(wanted.proof)
    jobs = wanted.jobs()
    before = {job.root: job for job in kept.jobs}
    for work in jobs:
        if work.root in before:
            work.follow(before[work.root])
    planned = []
    for work in jobs:
        tell_brief(work)
        warn_of_unread(work.project)
        with output.progress("plates") as progress:
            planned.append((work, work.changes(force=wanted.force, prune=wanted.prune, on_progress=progress)))
    for _, changes in planned:
        rehearse(changes)
    has_news = False
    for work, changes in planned:
        output.at(work.root)
        if wanted.is_for_real:
            interrupt.raise_if_asked()
            write(changes)
        _tell(changes, wanted)
        has_news |= bool(changes.left_alone) or (not wanted.is_for_real and bool(changes.files))
    kept.jobs = tuple(work.after(changes) if wanted.is_for_real else work for work, changes in planned)
    if wanted.proof is not None:
        _prove(kept, wanted.proof, wanted.is_for_real)
    whole = joined([changes for _, changes in planned])
    proof = None if wanted.proof is None else relative_to(wanted.proof, whole.root)
    output.machine(whole.document(is_applied=wanted.is_for_real, proof=proof))
    return ExitCode.FINDINGS if has_news else ExitCode.OK


def _tell(changes: Changes, wanted: _Wanted) -> None:
    if wanted.diff:
        for change in changes.files:
            output.diff(change.diff())
    else:
        if changes.files:
            _say_weights(changes)
        report(changes, wanted.briefs, is_applied=wanted.is_for_real)
    for site, reason in changes.left_alone.items():
        hint = [f"  {reason.hint}"] if reason.hint else []
        output.warn(f"left alone: {site.label}", f"  {output.place(reason.place)}{reason.message}", *hint)


def _prove(kept: _Kept, proof: Path, is_applied: bool) -> None:
    """Draw what is on disk now; what is planned, where nothing was written. Where all is as it was drawn before, nothing is drawn."""
    from rivelt.proof.write import write_proof
    from rivelt.watch import state_of

    job = kept.jobs[0]
    briefs = [(brief, brief.editions) for brief in job.briefs]
    if kept.shown is None or kept.shown != (briefs, state_of(job, proof)):
        with output.progress("screens") as progress:
            write_proof(job.prove(now=is_applied), proof, on_progress=progress)
        kept.shown = (briefs, state_of(job, proof))
    output.say(f"The proof: {proof}")


def _say_weights(changes: Changes) -> None:
    """What the images weigh, before any is written; of a site without images nothing is reported."""
    rows = [
        (site, str(weight.images), output.weight_in_words(weight.size))
        for site, weight in changes.weights.items()
        if weight.images
    ]
    if rows:
        output.table(("site", "images", "weight"), rows)
        output.say()


def counted(changes: Changes) -> str:
    """Return how many files are created, edited and removed, in words."""
    count = Counter(change.action for change in changes.files)
    done: dict[Action, str] = {"create": "created", "edit": "edited", "delete": "removed"}
    return ", ".join(f"{count[action]} {word}" for action, word in done.items() if count[action])


def report(changes: Changes, briefs: Sequence[Path] = (), *, is_applied: bool) -> None:
    """Print what was done, or would be, for people."""
    if not changes.files:
        output.say("Nothing to do: the project is as the brief wants it.")
    else:
        output.table(("", "file", "what for"), rows(changes))
        output.say()
        done = counted(changes)
        output.say(f"{done}." if is_applied else f"Nothing was written. It would be: {done}.")
    for note in changes.notes:
        output.say(f"Note: {note}.")
    if changes.unused:
        unused = ", ".join(map(output.of_project, changes.unused))
        output.say(f"Note: nothing uses these old files any more; --prune removes them: {unused}.")
    if changes.manual_steps:
        output.say()
        output.heading("Left for you")
    for number, step in enumerate(changes.manual_steps, 1):
        output.say(f"  {number}. {step.title}")
        if step.path:
            output.say(f"     {output.of_project(step.path)}", is_verbatim=True)
        for line in step.lines:
            output.say(f"         {line}", is_verbatim=True)
    output.say()
    if changes.files and not is_applied:
        output.next_step("apply", given=briefs)
        return
    output.next_step("proof", given=briefs[:1])
    if changes.files:
        from rivelt.disk.tree import undo_command

        output.hint(f"Take it back: {undo_command(changes.root)}")
