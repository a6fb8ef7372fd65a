"""`rivelt check`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Protocol

import typer

from rivelt import __version__
from rivelt.cli import complete, output
from rivelt.cli.findings import FailOn, Format, reaches, write_findings
from rivelt.cli.options import (
    BriefOrProject,
    Debug,
    Editions,
    Json,
    Only,
    Quiet,
    Verbose,
    tell_brief,
    warn_if_unfinished,
    warn_of_unread,
)
from rivelt.disk.tree import undo_command
from rivelt.errors import BadInput, ExitCode, RiveltError
from rivelt.values import replace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.job import Job
    from rivelt.rules.report import Report


class Judge(Protocol):
    """What judges the project, as it is or as it would be."""

    def __call__(self, work: Job, *, is_planned: bool) -> Report:
        """The report."""


Codes = Annotated[
    list[str] | None,
    typer.Option(
        "--select",
        metavar="CODE",
        help="Only these rules: a code, or what codes begin with, such as AND; may be repeated.",
        autocompletion=complete.CHOSEN_CODES,
    ),
]


IfChanged = Annotated[
    bool,
    typer.Option(
        "--if-changed",
        help="End at once where nothing has changed since it last found nothing: the files as git has them staged.",
    ),
]
Fix = Annotated[
    bool,
    typer.Option(
        "--fix",
        help="Apply the brief first, where that fixes something (with --select to the platforms concerned alone); `rivelt undo` takes it back.",
    ),
]


Ignored = Annotated[
    list[str] | None,
    typer.Option(
        "--ignore", metavar="CODE", help="Not these rules; may be repeated.", autocompletion=complete.CHOSEN_CODES
    ),
]
Planned = Annotated[bool, typer.Option("--planned", help="The project as apply would leave it, not as it is.")]
Since = Annotated[
    str | None,
    typer.Option(
        "--since",
        metavar="REV",
        help="Count only what is found now and not in this commit; main... is where this branch left main.",
        show_default=False,
    ),
]


def check(
    source: BriefOrProject = None,
    planned: Planned = False,
    select: Codes = None,
    ignore: Ignored = None,
    form: Annotated[Format, typer.Option("--format", help="How findings are written.")] = Format.TEXT,
    fail_on: Annotated[
        FailOn, typer.Option("--fail-on", help="From which severity on the exit code is 1.")
    ] = FailOn.WARNING,
    fix: Fix = False,
    if_changed: IfChanged = False,
    since: Since = None,
    only: Only = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Judge the launch screens of a project by numbered rules.

    As the project is, touched by Rivelt or not, with or without a brief. `rivelt explain CODE` describes a rule. With --since, only
    what a commit does not have counts: a way to adopt the rules in an old project.
    """

    def judged(work: Job, *, is_planned: bool) -> Report:
        with output.progress("plates") as progress:
            return work.check(planned=is_planned, select=select or (), ignore=ignore or (), on_progress=progress)

    if fix and (planned or since is not None):
        other = "--planned" if planned else "--since"
        raise BadInput(f"--fix and {other} exclude each other", hint="Give one of them.")
    wanted = Format.JSON if output.settings.is_json else form
    output.settings.is_json = wanted is Format.JSON  # errors are JSON then too
    options = (fail_on, planned, *(select or ()), "-", *(ignore or ()), "-", *(only or ()), "-", *(editions or ()))
    unchanged = _Unchanged(source, options) if if_changed and wanted is Format.TEXT and since is None else None
    if unchanged is not None and unchanged.is_known:
        output.say("Nothing has changed since the last check, which found nothing.")
        return ExitCode.OK
    warn_if_unfinished(source)
    earlier = _Earlier(since, source) if since is not None else None
    jobs = _jobs(source, only or (), editions or ())
    reports: list[Report] = []
    for work in jobs:
        tell_brief(work, with_sites=len(jobs) > 1 or len(work.briefs) > 1)
        warn_of_unread(work.project)
        report = judged(work, is_planned=planned)
        report = _fixed(work, report, judged, is_narrow=bool(select)) if fix else report
        reports.append(earlier.without_known(work, report, judged) if earlier is not None else report)
    write_findings(reports, wanted)
    is_clean = not reaches(reports, fail_on)
    if unchanged is not None and is_clean:
        unchanged.remember()
    return ExitCode.OK if is_clean else ExitCode.FINDINGS


class _Earlier:
    """A commit, in which what was found there before does not count; what is to be said of it goes to standard error."""

    def __init__(self, since: str, source: Path | None) -> None:
        from rivelt.revision.tree import Revision

        folder = (source or Path()) if source is None or source.is_dir() else source.parent
        self._revision = Revision.of(folder, since)

    def without_known(self, work: Job, report: Report, judged: Judge) -> Report:
        """Return a report with what the commit does not have."""
        from rivelt.review.earlier import earlier
        from rivelt.rules.likeness import added

        name = self._revision.name
        found = earlier(work, self._revision)
        for note in found.notes:
            output.warn(note)
        before = replace(report, results=())
        if found.job is not None:
            try:
                before = judged(found.job, is_planned=report.is_planned)
            except RiveltError as error:
                output.warn(f"nothing can be judged in {name}: {error.message}")
        return added(report, before, name, lambda path: work.files.is_there(work.root / path))


class _Unchanged:
    """What a check depends on, as git has it: where that is the same as when a check last found nothing, there is nothing to judge."""

    def __init__(self, source: Path | None, options: Sequence[object]) -> None:
        from rivelt.workspace.checked import state

        self._folder = source if source is not None and source.is_dir() else Path.cwd()
        self._state = state(self._folder, [__version__, str(source), *map(str, options)])

    @property
    def is_known(self) -> bool:
        """Whether a check of this state has found nothing."""
        from rivelt.workspace.checked import is_clean

        return self._state is not None and is_clean(self._folder, self._state)

    def remember(self) -> None:
        """Remember that it found nothing."""
        from rivelt.workspace.checked import remember

        if self._state is not None:
            remember(self._folder, self._state)


def _jobs(source: Path | None, only: Sequence[str], editions: Sequence[str]) -> tuple[Job, ...]:
    """The jobs: on a brief, or on a folder with all briefs below it, each for its own sites."""
    from rivelt import opening

    if source is None or source.is_dir():
        return opening.open_below(source or Path(), only=only, editions=editions)
    return (opening.open(source, only=only, editions=editions),)


def _fixed(work: Job, before: Report, judged: Judge, *, is_narrow: bool) -> Report:
    """The report after apply has fixed what it can; the project is left alone where that is nothing.

    `is_narrow`: only the platforms concerned are touched, as for rules that were chosen; otherwise the whole brief is applied.
    """
    from rivelt.workspace.commit import apply as write

    targets = None
    if is_narrow:
        concerned = {about.partition(" ")[0] for _, about in before.broken - judged(work, is_planned=True).broken}
        targets = concerned if concerned <= set(work.targets) else None
    changes = work.changes(targets=targets)
    after = judged(work.after(changes), is_planned=False)
    gone = sorted({code for code, _ in before.broken - after.broken})
    if not gone:
        output.warn("apply fixes nothing that was found")
        return before
    write(changes)
    output.warn(f"fixed: {', '.join(gone)}; take it back with: {undo_command(work.root)}")
    return after
