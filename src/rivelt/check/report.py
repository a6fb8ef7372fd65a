"""What a check found: a verdict for each rule on each thing it looked at, as data."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal, TypeAlias

from rivelt.check.catalogue import Rule, catalogue
from rivelt.findings import Finding, Severity

State: TypeAlias = Literal["holds", "broken", "cannot tell"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")
"""From the gravest to the lightest."""


@dataclass(frozen=True)
class Verdict:
    """What a rule says of one thing: "android android/app", or the art. `findings` when broken, `reasons` when it cannot tell."""

    rule: Rule
    about: str
    findings: tuple[Finding, ...] = ()
    reasons: tuple[str, ...] = ()

    @property
    def state(self) -> State:
        """Whether the rule holds; what cannot be told never counts as fine."""
        if self.findings:
            return "broken"
        return "cannot tell" if self.reasons else "holds"


@dataclass(frozen=True)
class Report:
    """The verdicts of one run. `ignored`: codes that the brief leaves out, with their reasons. `is_planned`: of the project as apply would leave it.

    `root`: the folder that places are relative to.
    """

    verdicts: tuple[Verdict, ...]
    ignored: Mapping[str, str]
    is_planned: bool = False
    root: Path = Path()

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, the gravest first, then by place."""
        found = [finding for verdict in self.verdicts for finding in verdict.findings]
        return tuple(sorted(found, key=lambda one: (SEVERITIES.index(one.severity), one.code, str(one.place or ""))))

    @property
    def broken(self) -> frozenset[tuple[str, str]]:
        """The code of each broken rule with what it is broken on."""
        return frozenset((one.rule.code, one.about) for one in self.verdicts if one.state == "broken")

    @property
    def untold(self) -> tuple[Verdict, ...]:
        """The verdicts that cannot tell."""
        return tuple(verdict for verdict in self.verdicts if verdict.state == "cannot tell")

    def reaches(self, severity: Severity) -> bool:
        """Whether a finding is at least as grave."""
        limit = SEVERITIES.index(severity)
        return any(SEVERITIES.index(finding.severity) <= limit for finding in self.findings)


def chosen_codes(select: Sequence[str], ignore: Sequence[str]) -> frozenset[str]:
    """The codes of the rules that are wanted. A word chooses the code that it is, or all that begin with it ("AND").

    Raises:
        ValueError: a word fits no rule; the message is that word.
    """
    for word in (*select, *ignore):
        if not any(code.startswith(word.upper()) for code in catalogue()):
            raise ValueError(word)
    wanted = {code for code in catalogue() if not select or any(code.startswith(word.upper()) for word in select)}
    return frozenset(code for code in wanted if not any(code.startswith(word.upper()) for word in ignore))


def with_severities(findings: Sequence[Finding], severities: Mapping[str, Severity]) -> Iterator[Finding]:
    """Findings with the severities that a brief gives their rules."""
    for finding in findings:
        yield replace(finding, severity=severities.get(finding.code, finding.severity))
