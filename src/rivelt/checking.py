"""Everything that `check` reports: what the rules find in the art, in the native projects, and where a project differs from its brief."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.editions import Edition
from rivelt.errors import BadInput
from rivelt.evidence import Evidence
from rivelt.rules.books import ART, DRIFT
from rivelt.rules.report import from_root
from rivelt.rules.rulebook import BriefSubject
from rivelt.rules.runner import Choice, judge

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.findings import Finding


def check(
    evidence: Evidence,
    editions: Iterable[Edition],
    choice_of: Callable[[Brief | None], Choice],
    root: Path,
    *,
    is_planned: bool,
) -> tuple[Finding, ...]:
    """Return what the rules find in the art, in one state of a project, and where that state differs from the briefs.

    Args:
        evidence: the project as it is, or as apply would leave it.
        editions: the briefs and editions that are wanted.
        choice_of: returns the rules that a brief selects, or the default selection for None.
        root: the project's folder.
        is_planned: the state is the one that apply would leave, so there is nothing to compare with the briefs.

    Raises:
        BadInput: there is nothing to check.
    """
    results: dict[Finding, None] = {}
    for edition in editions:
        brief, choice = edition.brief, choice_of(edition.brief)
        if any(choice.wants(code) for code in ART.rules):
            results |= from_root(edition.judged_art(choice), brief, root)
        if not is_planned:
            subject = BriefSubject(evidence, brief, edition.key)
            results |= from_root(judge(DRIFT, subject, choice, path=brief.path.name), brief, root)
    if not evidence.sites and not results:
        raise BadInput("no native project was found", hint="Give the folder of the native projects.")
    for site in evidence.sites:
        its = evidence.brief_of(site)
        results |= from_root(evidence.judge([site], choice_of(its)), its, root)
    return tuple(results)
