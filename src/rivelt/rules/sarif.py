"""Findings as SARIF 2.1.0 (OASIS, "Static Analysis Results Interchange Format")."""

from __future__ import annotations

import hashlib
from collections import Counter
from typing import Any
from urllib.parse import quote

from rivelt.about import ADDRESS
from rivelt.findings import Finding
from rivelt.rules.likeness import likeness
from rivelt.rules.report import Report
from rivelt.rules.rulebook import Rule


def as_sarif(report: Report, version: str) -> dict[str, Any]:
    """Return a log with one run: every rule that ran, and every finding as a result, its place relative to the report's folder.

    What is unknown is a result of the kind "open" (section 3.27.9): it has not been decided.
    """
    rules = list(report.rules.values())
    index = {rule.code: number for number, rule in enumerate(rules)}
    seen: Counter[str] = Counter()
    return {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [
            {
                "tool": {
                    "driver": {
                        "name": "rivelt",
                        "semanticVersion": version,
                        "informationUri": ADDRESS,
                        "rules": list(map(_rule, rules)),
                    }
                },
                "originalUriBaseIds": {
                    "SRCROOT": {
                        "uri": f"{report.root.as_uri()}/",
                        "description": {"text": "The top of the repository."},
                    }
                },
                "results": [
                    *(_result(report, one, index, seen) for one in (*report.findings, *report.unknown)),
                    *(_result(report, one, index, seen, "unchanged") for one in report.known),
                ],
                "columnKind": "unicodeCodePoints",
            }
        ],
    }


def _rule(rule: Rule[Any]) -> dict[str, Any]:
    words = rule.words
    return {
        "id": rule.code,
        "shortDescription": {"text": words.title},
        "fullDescription": {"text": f"{words.means} {words.why}"},
        "help": {"text": f"{words.sees}\n\n{words.fix}"},
        "helpUri": words.source or ADDRESS,
        "defaultConfiguration": {"level": words.severity},
    }


def _result(
    report: Report, finding: Finding, index: dict[str, int], seen: Counter[str], state: str = "new"
) -> dict[str, Any]:
    is_open = finding.verdict == "unknown"
    text = f"{finding.message}. {finding.fix}" if finding.fix else finding.message
    result: dict[str, Any] = {
        "ruleId": finding.code,
        "ruleIndex": index[finding.code],
        "kind": "open" if is_open else "fail",
        "level": "none" if is_open else finding.severity,
        "message": {"text": f"unknown: {text}" if is_open else text},
        "partialFingerprints": {"rivelt/v1": _fingerprint(finding, seen)},
    }
    if report.since is not None:
        result["baselineState"] = state  # section 3.27.24
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


def _fingerprint(finding: Finding, seen: Counter[str]) -> str:
    """What stays the same of a finding while lines move and measured values change; equal ones are numbered."""
    same = "\n".join(likeness(finding))
    seen[same] += 1
    return hashlib.sha256(f"{same}\n{seen[same]}".encode(errors="surrogateescape")).hexdigest()[:32]
