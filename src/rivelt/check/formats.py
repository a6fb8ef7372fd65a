"""Findings for machines: JSON, JUnit XML, and annotations of CI services."""

from __future__ import annotations

import re
from typing import Any

from rivelt.check.report import Report, Verdict
from rivelt.findings import Finding
from rivelt.xmltext import escaped, quoted

_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_COMMANDS = {"error": "error", "warning": "warning", "note": "notice"}


def as_json(report: Report) -> dict[str, Any]:
    """Every verdict as plain data."""
    return {
        "planned": report.is_planned,
        "ignored": dict(report.ignored),
        "verdicts": [
            {
                "code": verdict.rule.code,
                "title": verdict.rule.title,
                "about": verdict.about,
                "verdict": verdict.state,
                "reasons": list(verdict.reasons),
                "findings": [finding_as_json(finding) for finding in verdict.findings],
            }
            for verdict in report.verdicts
        ],
    }


def finding_as_json(finding: Finding) -> dict[str, Any]:
    """One finding as plain data."""
    place = finding.place
    return {
        "code": finding.code,
        "severity": finding.severity,
        "message": finding.message,
        "hint": finding.hint,
        "path": place.path if place else None,
        "line": place.line if place else None,
        "column": place.column if place else None,
    }


def as_junit(report: Report) -> str:
    """One test case for each verdict: broken ones fail, those that cannot tell are skipped."""
    cases = [_case(verdict) for verdict in report.verdicts]
    failures = sum(verdict.state == "broken" for verdict in report.verdicts)
    skipped = sum(verdict.state == "cannot tell" for verdict in report.verdicts)
    counts = f'tests="{len(cases)}" failures="{failures}" errors="0" skipped="{skipped}"'
    body = "".join(cases)
    suite = f'<testsuite name="rivelt" {counts}>\n{body}</testsuite>\n'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<testsuites name="rivelt" {counts}>\n{suite}</testsuites>\n'


def _case(verdict: Verdict) -> str:
    name = _attribute(f"{verdict.rule.code} {verdict.rule.title}")
    head = f"<testcase classname={_attribute(verdict.about)} name={name}"
    if verdict.state == "holds":
        return f"{head}/>\n"
    if verdict.state == "cannot tell":
        return f"{head}><skipped message={_attribute('cannot tell: ' + '; '.join(verdict.reasons))}/></testcase>\n"
    text = "\n".join(_line(finding) for finding in verdict.findings)
    return f"{head}><failure type={_attribute(verdict.findings[0].severity)} message={_attribute(verdict.findings[0].message)}>{escaped(_CONTROL.sub('', text))}</failure></testcase>\n"


def _line(finding: Finding) -> str:
    place = f"{finding.place}: " if finding.place else ""
    return f"{place}{finding.message}" + (f"\n  {finding.hint}" if finding.hint else "")


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
