"""Findings for other tools: JUnit XML, annotations of CI services, lines as compilers write them, and Markdown."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from rivelt.findings import SEVERITIES, Finding
from rivelt.markdown import MOST, code, plain, table
from rivelt.patterns import regex
from rivelt.rules.report import Report
from rivelt.shown import harmless
from rivelt.xmltext import escaped, quoted

MOST_ANNOTATIONS = 10
"""How many annotations CI services show of one step."""

_CONTROL = regex(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_COMMANDS = {"error": "error", "warning": "warning", "note": "notice"}


def in_words(report: Report) -> str:
    """Return how many results there are: "1 error, 2 notes; 81 passed, 0 unknown"."""
    count = {severity: sum(one.severity == severity for one in report.findings) for severity in SEVERITIES}
    told = ", ".join(f"{number} {severity}{'s' * (number != 1)}" for severity, number in count.items() if number)
    if report.since is None:
        return f"{told or 'no findings'}; {len(report.held)} passed, {len(report.unknown)} unknown"
    rest = f"{len(report.held)} passed, {len(report.unknown)} unknown, {len(report.known)} known before"
    return f"{told or 'no new findings'}; {rest}"


# JUnit


def as_junit(report: Report) -> str:
    """Return one test case for each result: what is broken fails, what is unknown is skipped."""
    cases = [_case(report, finding) for finding in report.results]
    counts = f'tests="{len(cases)}" failures="{len(report.findings)}" errors="0" skipped="{len(report.unknown)}"'
    body = "".join(cases)
    suite = f'<testsuite name="rivelt" {counts}>\n{body}</testsuite>\n'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<testsuites name="rivelt" {counts}>\n{suite}</testsuites>\n'


def _case(report: Report, finding: Finding) -> str:
    name = _attribute(f"{finding.code} {report.rules[finding.code].words.title}")
    head = f"<testcase classname={_attribute(finding.about)} name={name}"
    if finding.verdict == "holds":
        return f"{head}/>\n"
    if finding.verdict == "unknown":
        return f"{head}><skipped message={_attribute(f'unknown: {finding.message}')}/></testcase>\n"
    failure = f"<failure type={_attribute(finding.severity)} message={_attribute(finding.message)}>"
    return f"{head}>{failure}{escaped(_CONTROL.sub('', _whole(report, finding)))}</failure></testcase>\n"


def _whole(report: Report, finding: Finding) -> str:
    place = f"{finding.place}: " if finding.place else ""
    return f"{place}{report.message_of(finding)}" + (f"\n  {finding.fix}" if finding.fix else "")


def _attribute(text: str) -> str:
    return quoted(_CONTROL.sub("", text))


# Lines as compilers write them


def as_compiler(report: Report, *, is_absolute: bool = False) -> list[str]:
    """Return a line for each finding and for each thing unknown: `path:line:column: severity: message [CODE]`.

    Without a place the line begins with the name of the tool, as compilers do; without a line it names the first one.
    `is_absolute`: with whole paths, which Xcode asks for.
    """
    root = report.root if is_absolute else Path()
    return [_diagnostic(report, root, one) for one in (*report.findings, *report.unknown)]


def _diagnostic(report: Report, root: Path, finding: Finding) -> str:
    place = finding.place
    at = "rivelt" if place is None else f"{root / place.path}:{place.line or 1}:{place.column or 1}"
    message = report.message_of(finding)
    text = f"{message}. {finding.fix}" if finding.fix else message
    if finding.verdict == "unknown":
        return harmless(f"{at}: note: unknown: {text} [{finding.code}]".replace("\n", " "))
    return harmless(f"{at}: {finding.severity}: {text} [{finding.code}]".replace("\n", " "))


# Annotations


def as_annotations(report: Report) -> list[str]:
    """Return what CI services are to obey: all findings in a group of the log, then an annotation beside the lines of the ten most severe.

    Where there are more, the last of the ten says how many. Unknown ones are in the log and in the count.
    """
    log = as_compiler(report)
    most = MOST_ANNOTATIONS if len(report.findings) <= MOST_ANNOTATIONS else MOST_ANNOTATIONS - 1
    lines = [f"::group::rivelt: {_escaped_data(in_words(report))}", *log, "::endgroup::"] if log else []
    lines += [_annotation(report, finding) for finding in report.findings[:most]]
    if left := len(report.findings) - most if len(report.findings) > most else 0:
        lines.append(f"::notice title=rivelt::{left} more findings are in the log of this step")
    return lines


def _annotation(report: Report, finding: Finding) -> str:
    place = finding.place
    properties = {"title": finding.code}
    if place is not None:
        properties = {"file": place.path, "line": str(place.line or 1), **properties}
        if place.column is not None:
            properties["col"] = str(place.column)
    shown = ",".join(f"{key}={_escaped_property(value)}" for key, value in properties.items())
    return f"::{_COMMANDS[finding.severity]} {shown}::{_escaped_data(_whole(report, finding))}"


def _escaped_data(text: str) -> str:
    return text.replace("%", "%25").replace("\r", "%0D").replace("\n", "%0A")


def _escaped_property(text: str) -> str:
    return _escaped_data(text).replace(":", "%3A").replace(",", "%2C")


# Markdown


def as_markdown(report: Report) -> str:
    """Return the findings as Markdown for pull requests and step summaries, never longer than a comment may be."""
    state = "as apply would leave the project" if report.is_planned else "as the project is"
    lines = [f"### Launch screens: {in_words(report)}", "", f"Judged {state}{_since(report)}.", ""]
    rest = MOST - 1_000
    rest = findings_table(lines, report, report.findings, rest)
    if report.unknown:
        lines += [f"<details><summary>{len(report.unknown)} unknown</summary>", ""]
        unknown = [(code(one.code), _where(one), plain(report.message_of(one))) for one in report.unknown]
        table(lines, ("rule", "where", "why"), unknown, rest)
        lines += ["</details>", ""]
    return "\n".join(lines).rstrip("\n")


def _since(report: Report) -> str:
    return f", and only what it adds to {code(report.since)}" if report.since else ""


def findings_table(lines: list[str], report: Report, found: Sequence[Finding], most: int) -> int:
    """Add a table of findings of as many rows as fit into `most` characters; returns how many characters are left."""
    return table(
        lines,
        ("severity", "rule", "where", "what, and how to fix it"),
        [_row(report, one) for one in found],
        most,
        "`rivelt check` prints them all",
    )


def _row(report: Report, finding: Finding) -> tuple[str, ...]:
    about = plain(report.message_of(finding)) + (f"<br>{plain(finding.fix)}" if finding.fix else "")
    return finding.severity, code(finding.code), _where(finding), about


def _where(finding: Finding) -> str:
    return code(str(finding.place)) if finding.place is not None else plain(finding.about)
