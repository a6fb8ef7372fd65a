"""Checks: the rules on a project as it is, or as apply would leave it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.errors import BadInput, RiveltError
from rivelt.job.art import context_of, targets_of
from rivelt.job.briefs import check_targets, choose_targets, find_brief, load_brief
from rivelt.job.project import changes_of, prepare, sites_of, would_be
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import Snapshot

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.check.catalogue import Rule
    from rivelt.check.report import Report, Verdict
    from rivelt.findings import Finding, Severity
    from rivelt.platforms.rules import Said
    from rivelt.platforms.site import Site

_HUGE = 5_000_000  # bytes


def check(
    source: Path | None = None,
    *,
    planned: bool = False,
    select: Sequence[str] = (),
    ignore: Sequence[str] = (),
    only: Sequence[str] = (),
    on_progress: Progress = no_progress,
) -> Report:
    """The verdicts of all rules on a project, touched by Rivelt or not.

    Args:
        source: a brief, or a project's folder; None for the nearest brief, else the current folder.
        planned: judge the project as apply would leave it; this needs a brief.
        select: codes of rules, or what they begin with; all when empty.
        ignore: those that are left out.
        only: the targets that are wanted; all when empty.
        on_progress: is told of the plates that are made to see whether generated files are what they should be.

    Raises:
        BadInput: there is nothing to check, or a word fits no rule or target.
    """
    from rivelt.check.report import Report
    from rivelt.check.run import check_sites

    check_targets(only)
    brief = _brief_of(source, only)
    if planned and brief is None:
        raise BadInput(
            "what apply would make cannot be judged without a brief", hint="Write one with: rivelt brief --mark FILE"
        )
    ignored = dict(brief.ignored_rules) if brief else {}
    severities = dict(brief.severities) if brief else {}
    wanted = _wanted(select, (*ignore, *ignored), severities)
    verdicts: list[Verdict] = []
    if brief is not None and any(code.startswith("ART") for code in wanted):
        verdicts += _art(brief, severities)
    if brief is not None and planned:
        proposal = prepare(brief)
        snapshot, sites = would_be(proposal), sites_of(would_be(proposal), brief.targets, brief)
    elif brief is not None:
        snapshot = Snapshot.of_folder(brief.project)
        sites = sites_of(snapshot, brief.targets, brief)
        if any(code.startswith("DRF") for code in wanted):
            verdicts += _drift(brief, snapshot, severities, on_progress)
    else:
        snapshot = Snapshot.of_folder((source or Path()).resolve())
        sites = sites_of(snapshot, only or None)
    if not sites and not verdicts:
        raise BadInput("no native project was found", hint="Give the folder of the native projects.")
    verdicts += check_sites(snapshot, sites, brief, wanted, severities)
    if any(code.startswith(("HND", "SCN")) for code in wanted):
        verdicts += _on_scenes(snapshot, sites, brief, wanted, severities)
    kept = tuple(verdict for verdict in verdicts if verdict.rule.code in wanted)
    root = brief.project if brief else (source or Path()).resolve()
    return Report(kept, ignored, is_planned=planned, root=root)


def _wanted(select: Sequence[str], ignore: Sequence[str], severities: Mapping[str, Severity]) -> frozenset[str]:
    """The codes of the rules that are wanted.

    Raises:
        BadInput: a word fits no rule.
    """
    from rivelt.check.report import chosen_codes

    try:
        chosen_codes(tuple(severities), ())
        return chosen_codes(select, ignore)
    except ValueError as error:
        raise BadInput(f"no rule is called {error}", hint="`rivelt explain` lists them.") from error


def _on_scenes(
    snapshot: Snapshot,
    sites: Sequence[Site],
    brief: Brief | None,
    wanted: frozenset[str],
    severities: Mapping[str, Severity],
) -> Iterator[Verdict]:
    """The rules on what screens show, and on what follows it."""
    from rivelt.check.run import check_handoffs
    from rivelt.check.scenes import check_pictures, check_waiting
    from rivelt.proof.collect import ScreenChoice, scenes_of
    from rivelt.proof.handoff import handoffs

    scenes = scenes_of(snapshot, tuple(sites), ScreenChoice())
    yield from check_pictures(scenes, wanted, severities)
    yield from check_handoffs(handoffs(snapshot, scenes, brief), severities)
    yield from check_waiting(snapshot, scenes, severities)


def line_at(report: Report, finding: Finding) -> str | None:
    """The line of a text file that a finding is about; None when there is none, or it cannot be read."""
    place = finding.place
    if place is None or place.line is None:
        return None
    for path in (report.root / place.path, Path(place.path)):
        try:
            lines = path.read_text(encoding="utf-8-sig").splitlines()
        except (OSError, ValueError):
            continue
        return lines[place.line - 1] if place.line <= len(lines) else None
    return None


def rules() -> Mapping[str, Rule]:
    """The catalogue of all rules, by code."""
    from rivelt.check.catalogue import catalogue

    return catalogue()


def explain(code: str) -> Rule:
    """The words of one rule.

    Raises:
        BadInput: there is no such rule.
    """
    import difflib

    known = rules()
    if code.upper() in known:
        return known[code.upper()]
    near = difflib.get_close_matches(code.upper(), list(known), n=1)
    hint = f"Did you mean {near[0]}?" if near else "`rivelt explain` lists them."
    raise BadInput(f"there is no rule {code}", hint=hint)


def _brief_of(source: Path | None, only: Sequence[str]) -> Brief | None:
    if source is not None and not source.exists():
        raise BadInput(f"there is no {source}", hint="Give a brief, or the folder of a project.")
    folder = source or Path()
    if folder.is_dir() and find_brief(folder) is None:
        return None
    return choose_targets(load_brief(source), only)


def _art(brief: Brief, severities: Mapping[str, Severity]) -> Iterator[Verdict]:
    """The rules on art: what measuring finds, what masks ask, what the files weigh."""
    from rivelt.artwork.backdrops import report_backdrops
    from rivelt.artwork.report import report_brief
    from rivelt.check.run import check_art, judge
    from rivelt.platforms.rules import Fault

    targets = targets_of(brief)
    try:
        context = context_of(brief)
        reports = report_brief(context, targets)
        backdrops = report_backdrops(brief, targets)
    except RiveltError as error:
        said = [Fault(part.message, part.hint or "", part.place) for part in error.parts]
        yield judge("ART10", brief.path.name, said, severities)
        return
    found: dict[str, list[Finding]] = {}
    more: dict[str, dict[str, list[Said]]] = {}
    for report in reports:
        found.setdefault(report.art.name, []).extend(report.findings)
        weight = len(report.art.data)
        if weight > _HUGE:
            message = f"{report.art.name} weighs {weight / 1e6:.1f} MB"
            more.setdefault(report.art.name, {})["ART09"] = [Fault(message, "Export it anew without what is not seen.")]
    for backdrop in backdrops:
        found.setdefault(backdrop.art.name, []).extend(backdrop.findings)
    for look in brief.shown_looks:
        notes = [context.mark_note(look, mask) for mask in context.masks[look]]
        faults: list[Said] = [
            Fault(note, 'Use mark_size = "fit".', brief.place("layout.mark_size")) for note in notes if note
        ]
        if faults:
            more.setdefault(context.art[look, "mark"].art.name, {})["ART08"] = faults
    yield from check_art(found, more, severities)


def _drift(
    brief: Brief, snapshot: Snapshot, severities: Mapping[str, Severity], on_progress: Progress
) -> Iterator[Verdict]:
    """The rules on what was generated: whether it still is what the brief makes, and as it was written."""
    from rivelt.check.run import judge
    from rivelt.errors import Place
    from rivelt.platforms.rules import Fault, Untold
    from rivelt.workspace.change import sha256
    from rivelt.workspace.lockfile import LOCK_NAME, read_lock

    codes = ("DRF01", "DRF02", "DRF03")
    if LOCK_NAME not in snapshot:
        for code in codes:
            yield judge(code, brief.path.name, [Untold("nothing has been applied yet")], severities)
        return
    edited: list[Said] = []
    different: list[Said] = []
    left: list[Said] = []
    try:
        lock = read_lock(snapshot.read(LOCK_NAME))
        for path, locked in lock.files.items():
            if path in snapshot and sha256(snapshot.read(path)) != locked.sha256:
                edited.append(Fault("a person has edited this generated file", "Move the edit elsewhere.", Place(path)))
        proposal = prepare(brief)
        for name, digest in proposal.inputs.items():
            if any(inputs.get(name, digest) != digest for inputs in lock.inputs.values()):
                different.append(
                    Fault("this file has changed since the last apply", "Run `rivelt apply`.", Place(name))
                )
        changes = changes_of(proposal, force=True, on_progress=on_progress)
        different += [
            Fault(f"apply would {change.action} this file: {change.why}", "Run `rivelt apply`.", Place(change.path))
            for change in changes.files
            if change.path != LOCK_NAME
        ]
        left = [
            Fault("nothing uses this launch image", "Run `rivelt apply --prune`.", Place(path))
            for path in changes.unused
        ]
    except RiveltError as error:
        different.append(Untold(str(error)))
        left.append(Untold(str(error)))
    for code, said in zip(codes, (different, edited, left), strict=True):
        yield judge(code, brief.path.name, said, severities)
