"""What a check found, as data."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from rivelt.brief.find import shown_path
from rivelt.brief.model import Brief
from rivelt.documents.base import FindingItem
from rivelt.documents.rules import CheckDocument, CheckSummary
from rivelt.findings import SEVERITIES, Finding, Severity
from rivelt.rules.rulebook import Rule
from rivelt.values import replace


class Report(Struct, frozen=True, dict=True):
    """The results of one run: one finding for each thing that a rule says, or that it holds.

    `rules`: those that ran, by code. `ignored`: codes that the brief leaves out, with their reasons. `is_planned`: of the project as
    apply would leave it. `root`: the folder that paths are relative to. `since`: the revision that it was held against; `known`: what is
    broken or unknown there as well, which counts for nothing.
    """

    results: tuple[Finding, ...]
    rules: Mapping[str, Rule[Any]]
    ignored: Mapping[str, str] = field(default_factory=dict)
    is_planned: bool = False
    root: Path = Path()
    since: str | None = None
    known: tuple[Finding, ...] = ()

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is broken: most severe first, then by code and place."""
        return by_severity(one for one in self.results if one.verdict == "broken")

    @cached_property
    def unknown(self) -> tuple[Finding, ...]:
        """What cannot be judged."""
        return tuple(one for one in self.results if one.verdict == "unknown")

    @cached_property
    def _crowded(self) -> frozenset[str]:
        """The platforms with several sites, or one in several variants."""
        sites = {finding.site for finding in self.results if finding.site}
        count = Counter(site.partition(" ")[0] for site in sites)
        return frozenset(target for target, number in count.items() if number > 1)

    def message_of(self, finding: Finding) -> str:
        """Return the message of a finding, with its site where a platform has several: elsewhere everybody knows which is meant."""
        is_crowded = finding.site.partition(" ")[0] in self._crowded
        return f"{finding.message} ({finding.site})" if is_crowded else finding.message

    @property
    def held(self) -> tuple[Finding, ...]:
        """What holds."""
        return tuple(one for one in self.results if one.verdict == "holds")

    @property
    def broken(self) -> frozenset[tuple[str, str]]:
        """The code of each broken rule with the site, or the file, that it is broken on."""
        return frozenset((one.code, one.about) for one in self.findings)

    @property
    def document(self) -> CheckDocument:
        """The report as `rivelt check --json` prints it."""
        verdicts = Counter(finding.verdict for finding in self.results)
        summary = CheckSummary(
            **{verdict: verdicts[verdict] for verdict in ("holds", "broken", "unknown")},
            **counted(self.findings),
            known=len(self.known),
        )
        ordered = (*self.findings, *self.unknown, *self.held)
        return CheckDocument(
            root=str(self.root.resolve()),
            summary=summary,
            planned=self.is_planned,
            ignored=dict(self.ignored),
            since=self.since,
            findings=list(map(FindingItem.of, ordered)),
            known=list(map(FindingItem.of, self.known)),
        )

    def to_dict(self) -> dict[str, Any]:
        """Return the report as plain data, as `rivelt check --json` prints it."""
        return self.document.to_dict()

    def reaches(self, severity: Severity) -> bool:
        """Return whether a finding is at least as severe, or something is unknown that would be."""
        limit = SEVERITIES.index(severity)
        return any(SEVERITIES.index(one.severity) <= limit for one in (*self.findings, *self.unknown))


def joined(reports: Sequence[Report], base: Path) -> Report:
    """Return several reports as one, its paths relative to a folder."""
    results: dict[Finding, None] = {}
    known: dict[Finding, None] = {}
    rules: dict[str, Rule[Any]] = {}
    ignored: dict[str, str] = {}
    for report in reports:
        results |= _from(base, report.root, report.results)
        known |= _from(base, report.root, report.known)
        rules |= report.rules
        ignored |= report.ignored
    first = reports[0]
    return Report(
        tuple(results),
        dict(sorted(rules.items())),
        ignored,
        is_planned=first.is_planned,
        root=base,
        since=first.since,
        known=tuple(known),
    )


def from_root(found: Iterable[Finding], brief: Brief | None, root: Path) -> dict[Finding, None]:
    """Return findings, each once, with paths relative to the root of a project: a brief is named as it is from the current folder, its art as it names it."""
    if brief is None:
        return dict.fromkeys(found)
    files = {name: brief.folder / name for name in brief.named_files}
    files |= dict.fromkeys((shown_path(brief.path), brief.path.name), brief.path)
    paths = {name: _below(root, file) for name, file in files.items()}
    return {replace(one, path=paths.get(one.path, one.path) if one.path else one.path): None for one in found}


def _below(root: Path, file: Path) -> str:
    """A file relative to a project: as it is named, so that it is the same where its links cannot be followed."""
    try:
        return Path(os.path.relpath(file, root)).as_posix()
    except ValueError:  # on another drive
        return file.as_posix()


def _from(base: Path, root: Path, found: Iterable[Finding]) -> dict[Finding, None]:
    """Findings, each once, with paths that are relative to another folder."""
    paths = ((one, None if one.path is None else os.path.relpath(root / one.path, base)) for one in found)
    return {replace(one, path=None if path is None else Path(path).as_posix()): None for one, path in paths}


def counted(findings: Iterable[Finding]) -> dict[str, int]:
    """Return how many findings there are of each severity, by its plural."""
    count = Counter(finding.severity for finding in findings)
    return {f"{severity}s": count[severity] for severity in SEVERITIES}


def by_severity(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings sorted: most severe first, then by code and place."""
    return tuple(sorted(findings, key=lambda one: (SEVERITIES.index(one.severity), one.code, str(one.place or ""))))


def chosen_codes(known: Iterable[str], select: Sequence[str], ignore: Sequence[str]) -> frozenset[str]:
    """Return the codes of the rules that are wanted. A word chooses the code that it is, or all that begin with it ("AND").

    Raises:
        ValueError: a word fits no rule; the message is that word.
    """
    codes = tuple(known)
    for word in (*select, *ignore):
        if not any(code.startswith(word.upper()) for code in codes):
            raise ValueError(word)
    wanted = {code for code in codes if not select or any(code.startswith(word.upper()) for word in select)}
    return frozenset(code for code in wanted if not any(code.startswith(word.upper()) for word in ignore))
