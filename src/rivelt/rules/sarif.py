"""Findings as SARIF 2.1.0 (OASIS, "Static Analysis Results Interchange Format")."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote

from rivelt.findings import Finding
from rivelt.rules.report import Report

_LEVELS = {"error": "error", "warning": "warning", "note": "note"}


def as_sarif(report: Report, version: str) -> dict[str, Any]:
    """A log with one run: every rule that ran, and every finding as a result with its place, relative to the report's folder."""
    rules = list(report.rules.values())
    index = {rule.code: number for number, rule in enumerate(rules)}
    driver = {
        "name": "rivelt",
        "semanticVersion": version,
        "rules": [
            {
                "id": rule.code,
                "shortDescription": {"text": rule.words.title},
                "fullDescription": {"text": f"{rule.words.means} {rule.words.why}"},
                "help": {"text": f"{rule.words.sees}\n\n{rule.words.fix}"},
                "defaultConfiguration": {"level": _LEVELS[rule.words.severity]},
            }
            for rule in rules
        ],
    }
    return {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [
            {
                "tool": {"driver": driver},
                "originalUriBaseIds": {
                    "SRCROOT": {
                        "uri": f"{report.root.as_uri()}/",
                        "description": {"text": "The top of the repository."},
                    }
                },
                "results": [_result(finding, index) for finding in report.findings],
                "columnKind": "utf16CodeUnits",
            }
        ],
    }


def _result(finding: Finding, index: dict[str, int]) -> dict[str, Any]:
    text = f"{finding.message}. {finding.fix}" if finding.fix else finding.message
    result: dict[str, Any] = {
        "ruleId": finding.code,
        "ruleIndex": index[finding.code],
        "level": _LEVELS[finding.severity],
        "message": {"text": text},
    }
    if finding.place is not None and not finding.place.path.startswith(("/", "..")):
        location: dict[str, Any] = {
            "artifactLocation": {"uri": quote(finding.place.path, errors="surrogateescape"), "uriBaseId": "SRCROOT"},
        }
        if finding.place.line is not None:
            location["region"] = {"startLine": finding.place.line}
            if finding.place.column is not None:
                location["region"]["startColumn"] = finding.place.column
        result["locations"] = [{"physicalLocation": location}]
    return result
