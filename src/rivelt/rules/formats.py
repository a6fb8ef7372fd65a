"""Findings for machines: JUnit XML, annotations of CI services, lines as compilers write them, and Markdown."""

from __future__ import annotations

import re

from rivelt.findings import Finding
from rivelt.rules.report import Report
from rivelt.xmltext import escaped, quoted

_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_COMMANDS = {"error": "error", "warning": "warning", "note": "notice"}


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
    return f"{head}>{failure}{escaped(_CONTROL.sub('', _line(finding)))}</failure></testcase>\n"


def _line(finding: Finding) -> str:
    place = f"{finding.place}: " if finding.place else ""
    return f"{place}{finding.message}" + (f"\n  {finding.fix}" if finding.fix else "")


def _attribute(text: str) -> str:
    return quoted(_CONTROL.sub("", text))


def as_annotations(report: Report) -> list[str]:
    """One workflow command for each finding (`::error file=...`), as CI services show them beside the lines."""
    return [_annotation(finding) for finding in report.findings]


def _annotation(finding: Finding) -> str:
    place = finding.place
    properties = {"title": finding.code}
    if place is not None:
        properties = {"file": place.path, "line": str(place.line or 1), **properties}
        if place.column is not None:
            properties["col"] = str(place.column)
    shown = ",".join(f"{key}={_escaped_property(value)}" for key, value in properties.items())
    return f"::{_COMMANDS[finding.severity]} {shown}::{_escaped_data(_line(finding))}"


def _escaped_data(text: str) -> str:
    return text.replace("%", "%25").replace("\r", "%0D").replace("\n", "%0A")


def _escaped_property(text: str) -> str:
    return _escaped_data(text).replace(":", "%3A").replace(",", "%2C")
