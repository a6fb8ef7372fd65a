"""`rivelt check`."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Protocol

import typer

from rivelt import __version__
from rivelt.cli import output
from rivelt.cli.options import BriefOrProject, Debug, Json, Only, Quiet, warn_if_unfinished
from rivelt.errors import BadInput, ExitCode

if TYPE_CHECKING:
    from rivelt.check.report import Report
    from rivelt.findings import Finding


_LONGEST_EXCERPT = 100


class Judge(Protocol):
    """What judges the project, as it is or as it would be."""

    def __call__(self, *, is_planned: bool) -> Report:
        """The report."""


class Format(StrEnum):
    """How findings are written."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"
    JUNIT = "junit"
    ANNOTATIONS = "annotations"


class FailOn(StrEnum):
    """From which severity on the exit code is 1."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"
    NEVER = "never"


Codes = Annotated[
    list[str] | None,
    typer.Option(
        "--select",
        metavar="CODE",
        help="Only these rules: a code, or what codes begin with, such as AND; may be repeated.",
    ),
]


def check(
    source: BriefOrProject = None,
    planned: Annotated[
        bool, typer.Option("--planned", help="The project as apply would leave it, not as it is.")
    ] = False,
    select: Codes = None,
    ignore: Annotated[
        list[str] | None, typer.Option("--ignore", metavar="CODE", help="Not these rules; may be repeated.")
    ] = None,
    form: Annotated[Format, typer.Option("--format", help="How findings are written.")] = Format.TEXT,
    fail_on: Annotated[
        FailOn, typer.Option("--fail-on", help="From which severity on the exit code is 1.")
    ] = FailOn.WARNING,
    mend: Annotated[
        bool,
        typer.Option(
            "--mend",
            help="Apply the brief first, where that mends something (with --select to the platforms concerned alone); `rivelt undo` takes it back.",
        ),
    ] = False,
    only: Only = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> int:
    """Judge the launch screens of a project by numbered rules.

    As the project is, touched by Rivelt or not, with or without a brief. `rivelt explain CODE` tells what a rule means.
    """
    from rivelt import job
    from rivelt.check.report import SEVERITIES

    def judged(*, is_planned: bool) -> Report:
        with output.progress("plates") as progress:
            return job.check(
                source,
                planned=is_planned,
                select=select or (),
                ignore=ignore or (),
                only=only or (),
                on_progress=progress,
            )

    warn_if_unfinished(source)
    if mend and planned:
        raise BadInput("--mend and --planned exclude each other", hint="Give one of them.")
    report = judged(is_planned=planned)
    if mend:
        report = _mended(source, only or [], report, judged, is_narrow=bool(select))
    _write(report, Format.JSON if output.settings.is_json else form)
    limit = next((severity for severity in SEVERITIES if severity == fail_on.value), None)
    reached = limit is not None and report.reaches(limit)
    return ExitCode.FINDINGS if reached else ExitCode.OK


def _mended(source: Path | None, only: list[str], before: Report, judged: Judge, *, is_narrow: bool) -> Report:
    """The report after apply has mended what it can; the project is left alone where that is nothing.

    `is_narrow`: only the platforms concerned are touched, as for rules that were chosen; otherwise the whole brief is applied.
    """
    from rivelt import job

    mended = before.broken - judged(is_planned=True).broken
    if not mended:
        output.warn("nothing that was found is mended by apply")
        return before
    brief = job.choose_targets(job.load_brief(source), only)
    concerned = {about.partition(" ")[0] for _, about in mended}
    if is_narrow and concerned <= set(job.targets_of(brief)):
        brief = job.choose_targets(brief, sorted(concerned))
    job.apply(job.changes_of(job.prepare(brief)))
    codes = sorted({code for code, _ in mended})
    output.warn(f"mended: {', '.join(codes)}; take it back with: rivelt undo")
    return judged(is_planned=False)


def _write(report: Report, form: Format) -> None:
    from rivelt.check.formats import as_annotations, as_json, as_junit
    from rivelt.check.sarif import as_sarif

    match form:
        case Format.TEXT:
            _tell(report)
        case Format.JSON:
            output.document(as_json(report))
        case Format.SARIF:
            output.document(as_sarif(report, __version__))
        case Format.JUNIT:
            output.plain(as_junit(report).rstrip("\n"))
        case Format.ANNOTATIONS:
            for line in as_annotations(report):
                output.plain(line)


def _tell(report: Report) -> None:
    """The findings for people, the gravest first; then what cannot be told, and a count."""
    from rivelt import job

    for finding in report.findings:
        output.finding(finding, _excerpt(job.line_at(report, finding), finding))
    untold: dict[tuple[str, str], list[str]] = {}
    for verdict in report.untold:
        for reason in verdict.reasons:
            untold.setdefault((verdict.about, reason), []).append(verdict.rule.code)
    for (about, reason), codes in untold.items():
        output.say(f"cannot tell {', '.join(codes)} ({about}): {reason}")
    if report.findings or report.untold:
        output.say()
    count = {
        severity: sum(one.severity == severity for one in report.findings) for severity in ("error", "warning", "note")
    }
    held = sum(verdict.state == "holds" for verdict in report.verdicts)
    told = ", ".join(f"{number} {severity}{'s' * (number != 1)}" for severity, number in count.items() if number)
    state = "as apply would leave the project" if report.is_planned else "as the project is"
    output.say(f"{told or 'no findings'}; {held} hold, {len(report.untold)} cannot be told ({state}).")
    for code, reason in report.ignored.items():
        output.say(f"left out by the brief: {code} ({reason})")
    if report.findings:
        output.hint(f"Next: rivelt explain {report.findings[0].code}")


def _excerpt(line: str | None, finding: Finding) -> tuple[str, ...]:
    """The line of a finding with a caret under its column."""
    if line is None or finding.place is None:
        return ()
    indent = len(line) - len(line.lstrip())
    shown = line.strip()[:_LONGEST_EXCERPT].replace("\t", " ")
    column = (finding.place.column or 0) - 1 - indent
    return (shown, " " * column + "^") if 0 <= column <= len(shown) else (shown,)
