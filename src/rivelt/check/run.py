"""Running the rules: on the art of a brief, on sites, on the handoff, and on what was generated. Those on scenes are in scenes.py."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from rivelt.brief.model import Brief
from rivelt.check.catalogue import catalogue
from rivelt.check.report import Verdict, with_severities
from rivelt.errors import RiveltError
from rivelt.findings import Finding, Severity
from rivelt.platforms import platform
from rivelt.platforms.rules import Fault, Said, Subject, Untold
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot
from rivelt.proof.model import Handoff


def judge(code: str, about: str, said: Iterable[Said], severities: Mapping[str, Severity]) -> Verdict:
    """One rule's verdict from what its check says. An input that cannot be read means that it cannot tell."""
    rule = catalogue()[code]
    findings: list[Finding] = []
    reasons: dict[str, None] = {}
    try:
        for one in said:
            if isinstance(one, Fault):
                severity = severities.get(code, rule.severity)
                findings.append(Finding(code, severity, one.message, one.hint, one.place))
            else:
                reasons[one.reason] = None
    except RiveltError as error:
        reasons[str(error)] = None
    return Verdict(rule, about, tuple(dict.fromkeys(findings)), tuple(reasons))


def check_sites(
    snapshot: Snapshot,
    sites: Sequence[Site],
    brief: Brief | None,
    wanted: frozenset[str],
    severities: Mapping[str, Severity],
) -> Iterator[Verdict]:
    """The verdicts of every platform's rules on its sites; of a site that cannot be handled, that they cannot tell."""
    for site in sites:
        if not site.exists and site.blocked is None:
            continue
        about = f"{site.target} {site.name}"
        if "SIT01" in wanted:
            problem = site.blocked
            said = [Fault(problem.message, problem.hint or "", problem.place)] if problem else []
            yield judge("SIT01", about, said, severities)
        for code, check in platform(site.target).rules().items():
            if code not in wanted:
                continue
            if site.blocked is not None:
                yield judge(code, about, [Untold(str(site.blocked))], severities)
            else:
                yield judge(code, about, check(Subject(snapshot, site, brief)), severities)


def check_handoffs(handoffs: Sequence[Handoff], severities: Mapping[str, Severity]) -> Iterator[Verdict]:
    """The verdicts on what comes after the launch screens."""
    for handoff in handoffs:
        said: list[Said] = []
        for step in handoff.steps:
            if step.ground.colour is None:
                said.append(Untold(f"the ground of the {step.ground.moment} cannot be told: {step.ground.source}"))
            elif step.is_flash:
                message = (
                    f"a flash ({handoff.look}): the {step.ground.moment} is {step.ground.colour.hex[:7]}, "
                    f"a colour difference of {step.difference:.0f} from what comes before"
                )
                said.append(Fault(message, "Give both the same ground."))
        about = f"{handoff.site.target} {handoff.site.name}"
        yield judge("HND01", f"{about}, {handoff.look}", said, severities)


def check_art(
    found: Mapping[str, Sequence[Finding]],
    more: Mapping[str, Mapping[str, Sequence[Said]]],
    severities: Mapping[str, Severity],
) -> Iterator[Verdict]:
    """The verdicts on art, by file: `found` are the findings of measuring, `more` what other rules say, by file and code."""
    for name in dict.fromkeys((*found, *more)):
        by_code: dict[str, list[Finding]] = {}
        for finding in found.get(name, ()):
            by_code.setdefault(finding.code, []).append(finding)
        said = more.get(name, {})
        for code, rule in catalogue().items():
            if code.startswith("ART"):
                if code in said:
                    yield judge(code, name, said[code], severities)
                else:
                    yield Verdict(rule, name, tuple(with_severities(by_code.get(code, ()), severities)))
