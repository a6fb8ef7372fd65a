"""Which findings are the same in two states of a project, although lines move, values change and files are renamed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator

from rivelt.findings import Finding
from rivelt.patterns import regex
from rivelt.rules.report import Report
from rivelt.values import replace

_NUMBER = regex(r"\d+(?:\.\d+)?")
_PATH = regex(r"[^\s/:,;()\"']*(?:/[^\s/:,;()\"']+)+|\b[\w-]+\.\w+\b")


def likeness(finding: Finding) -> tuple[str, ...]:
    """Return what stays the same of a finding while lines move and measured values change."""
    message = _NUMBER.sub("#", finding.message)
    return finding.code, finding.site, finding.path or "", finding.screen, finding.look, finding.verdict, message


def _likeness_elsewhere(finding: Finding) -> tuple[str, ...]:
    """What stays the same of a finding while its file is renamed as well."""
    message = _NUMBER.sub("#", _PATH.sub("/", finding.message))
    return finding.code, finding.site.partition(" ")[0], finding.screen, finding.look, finding.verdict, message


def added(after: Report, before: Report, since: str, is_there: Callable[[str], bool]) -> Report:
    """Return a report in which only those findings count that another state of the project does not have.

    Args:
        after: the report.
        before: that of the earlier state, by the same rules.
        since: what people call that state.
        is_there: whether a path is still there: what was found in a file that is not may be found in another one now.
    """
    known = set(_met(after, before, is_there))
    return replace(
        after,
        results=tuple(one for one in after.results if one not in known),
        since=since,
        known=tuple(one for one in (*after.findings, *after.unknown) if one in known),
    )


def gone(after: Report, before: Report, is_there: Callable[[str], bool]) -> tuple[Finding, ...]:
    """Return what is broken or unknown in an earlier state, and is not any more; see `added`."""
    left = Counter(map(likeness, _not_held(after)))
    lost = [one for one in _not_held(before) if not _take(left, likeness(one))]
    others = Counter(map(_likeness_elsewhere, _unmet(_not_held(after), _not_held(before))))
    return tuple(one for one in lost if _stays(one, is_there) or not _take(others, _likeness_elsewhere(one)))


def _met(after: Report, before: Report, is_there: Callable[[str], bool]) -> Iterator[Finding]:
    """The findings that the earlier state has as well: where they were, or in a file that has another name now."""
    there = Counter(map(likeness, _not_held(before)))
    new = []
    for one in _not_held(after):
        if _take(there, likeness(one)):
            yield one
        else:
            new.append(one)
    moved = Counter(
        _likeness_elsewhere(one) for one in _unmet(_not_held(before), _not_held(after)) if not _stays(one, is_there)
    )
    yield from (one for one in new if _take(moved, _likeness_elsewhere(one)))


def _unmet(ones: Iterable[Finding], others: Iterable[Finding]) -> list[Finding]:
    left = Counter(map(likeness, others))
    return [one for one in ones if not _take(left, likeness(one))]


def _stays(finding: Finding, is_there: Callable[[str], bool]) -> bool:
    """Whether the file that a finding is about, or else its site, is still there."""
    name = finding.site.partition(" ")[2].partition(" (")[0].partition(":")[0]
    return (is_there(finding.path) if finding.path is not None else True) and (not name or is_there(name))


def _take(count: Counter[tuple[str, ...]], key: tuple[str, ...]) -> bool:
    """Take one away, if there is one."""
    if not count[key]:
        return False
    count[key] -= 1
    return True


def _not_held(report: Report) -> tuple[Finding, ...]:
    return (*report.findings, *report.unknown)
