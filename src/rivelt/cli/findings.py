"""Findings printed: for people, and in the formats of other tools; and the exit code that they lead to."""

from __future__ import annotations

import os
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt import __version__
from rivelt.cli import output
from rivelt.disk.tree import read_file, resolved
from rivelt.findings import SEVERITIES
from rivelt.values import replace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.errors import Place
    from rivelt.findings import Finding
    from rivelt.rules.report import Report

_LONGEST_EXCERPT = 100
_XCODE = "XCODE_VERSION_ACTUAL"  # set in the run-script phases of Xcode, which opens whole paths only
_LARGEST_TEXT = 16 * 1024 * 1024


class Format(StrEnum):
    """How findings are written."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"
    JUNIT = "junit"
    ANNOTATIONS = "annotations"
    COMPILER = "compiler"
    MARKDOWN = "markdown"


class FailOn(StrEnum):
    """From which severity on the exit code is 1."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"
    NEVER = "never"


def reaches(reports: Sequence[Report], fail_on: FailOn) -> bool:
    """Return whether a finding is so severe that the exit code is to say it."""
    limit = next((severity for severity in SEVERITIES if severity == fail_on.value), None)
    return limit is not None and any(report.reaches(limit) for report in reports)


def write_findings(reports: Sequence[Report], form: Format) -> None:
    """Write reports as one: paths as they are from the current folder, in formats of CI services from the top of the repository."""
    from rivelt.rules.formats import as_annotations, as_compiler, as_junit, as_markdown
    from rivelt.rules.report import joined
    from rivelt.rules.sarif import as_sarif

    top = _top(reports[0].root)
    match form:
        case Format.TEXT:
            output.settings.root = None
            report(joined(reports, Path.cwd()))
        case Format.JSON:
            output.document((reports[0] if len(reports) == 1 else joined(reports, Path.cwd())).to_dict())
        case Format.SARIF:
            output.document(as_sarif(joined(reports, top), __version__))
        case Format.JUNIT:
            output.plain(as_junit(joined(reports, top)).rstrip("\n"))
        case Format.ANNOTATIONS:
            for line in as_annotations(joined(reports, top)):
                output.command(line)
        case Format.COMPILER:
            for line in as_compiler(joined(reports, Path.cwd()), is_absolute=_XCODE in os.environ):
                output.plain(line)
        case Format.MARKDOWN:
            output.plain(as_markdown(joined(reports, top)))


def _top(root: Path) -> Path:
    """The folder that paths for CI services are relative to: the workspace, the top of the git repository, else the project."""
    from rivelt.project.ignore import repository_top

    workspace = os.environ.get("GITHUB_WORKSPACE")
    if workspace and root.is_relative_to(found := resolved(Path(workspace))):
        return found
    return repository_top(root) or root


def report(found: Report) -> None:
    """Print the findings for people, most severe first; then what is unknown, and a count."""
    from rivelt.rules.formats import in_words

    lines = Lines(found.root)
    for finding in found.findings:
        shown = replace(finding, message=found.message_of(finding))
        output.finding(shown, _excerpt(lines.at(finding.place), finding))
    unknown: dict[tuple[str, Place | None, str], dict[str, None]] = {}
    for finding in found.unknown:
        place = finding.place if finding.path != finding.about else None
        unknown.setdefault((finding.about, place, finding.message), {})[finding.code] = None
    for (about, place, reason), codes in unknown.items():
        output.say(f"unknown {', '.join(codes)} ({about}): {output.place(place)}{reason}")
    if output.settings.is_verbose:
        held = ((one.code, one.about, found.rules[one.code].words.title) for one in found.held)
        output.table(("passed", "about", "rule"), sorted(set(held)))
    if found.findings or found.unknown or output.settings.is_verbose:
        output.say()
    state = "as apply would leave the project" if found.is_planned else "as the project is"
    output.say(f"{in_words(found)} ({state}{f', since {found.since}' if found.since else ''}).")
    for code, reason in found.ignored.items():
        output.say(f"left out by the brief: {code} ({reason})")
    if found.findings:
        output.hint(f"Next: rivelt explain {found.findings[0].code}")


class Lines:
    """The lines of the text files that findings are about, each file read once."""

    def __init__(self, root: Path) -> None:
        self._root = root
        self._read: dict[str, list[str]] = {}

    def at(self, place: Place | None) -> str | None:
        """Return the line of a place; None when there is none, or it cannot be read."""
        if place is None or place.line is None:
            return None
        if place.path not in self._read:
            self._read[place.path] = self._lines(place.path)
        lines = self._read[place.path]
        return lines[place.line - 1] if place.line <= len(lines) else None

    def _lines(self, path: str) -> list[str]:
        for file in (self._root / path, Path(path)):
            try:
                return read_file(file, _LARGEST_TEXT).decode("utf-8-sig").splitlines()
            except (OSError, ValueError):
                continue
        return []


def _excerpt(line: str | None, finding: Finding) -> tuple[str, ...]:
    """The line of a finding with a caret under its column."""
    if line is None or finding.place is None:
        return ()
    indent = len(line) - len(line.lstrip())
    longest = min(_LONGEST_EXCERPT, (output.STDOUT.width or _LONGEST_EXCERPT) - 4)
    shown = line.strip()[:longest].replace("\t", " ")
    column = (finding.place.column or 0) - 1 - indent
    return (shown, " " * column + "^") if 0 <= column <= len(shown) else (shown,)
