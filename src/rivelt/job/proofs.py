"""Proofs: worked out from a project, and drawn."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.errors import BadInput
from rivelt.job.briefs import check_targets, choose_targets, find_brief, load_brief
from rivelt.job.project import prepare, sites_of, would_be
from rivelt.job.write import write_file, write_png
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import Snapshot

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.platforms.site import Site
    from rivelt.proof.model import Mark, Proof
    from rivelt.scene.model import Scene


def prove(
    source: Path | None = None,
    *,
    now: bool = False,
    screens: Sequence[str] = (),
    all_screens: bool = False,
    with_before: bool = False,
    only: Sequence[str] = (),
) -> Proof:
    """The scenes of a project: with a brief as apply would leave it, without one (or with `now`) as it is.

    Args:
        source: a brief, or a project's folder; None for the nearest brief, else the current folder.
        now: show the project as it is even though there is a brief.
        screens: words that a screen's name, system or family must hold, such as "iPad" or "API 34"; a screen fits that fits any.
        all_screens: every screen that is known, not only the usual ones.
        only: the targets that are wanted; all when empty.
        with_before: work out the project as it is as well, to be put beside what apply would make.

    Raises:
        BadInput: nothing can be shown.
    """
    from rivelt.proof.collect import ScreenChoice, collect, scenes_of
    from rivelt.proof.handoff import handoffs

    choice = ScreenChoice(tuple(screens), is_all=all_screens)
    check_targets(only)
    folder = source or Path()
    if folder.is_dir() and find_brief(folder) is None:
        root = folder.resolve()
        snapshot = Snapshot.of_folder(root)
        found = collect(root.name, "no brief", snapshot, sites_of(snapshot, only or None), choice, is_planned=False)
        return replace(found, handoffs=handoffs(snapshot, found.scenes), marks=_marks(snapshot, found.scenes, None))
    brief = choose_targets(load_brief(source), only)
    clearance = brief.layout.clearance
    if now:
        snapshot = Snapshot.of_folder(brief.project)
        sites = tuple(site for site in sites_of(snapshot, brief.targets, brief) if site.exists)
        found = collect(brief.name, brief.path.name, snapshot, sites, choice, is_planned=False)
        strips, marks = handoffs(snapshot, found.scenes, brief), _marks(snapshot, found.scenes, brief)
        return replace(found, clearance=clearance, handoffs=strips, marks=marks)
    proposal = prepare(brief)
    planned = would_be(proposal)
    found = collect(brief.name, brief.path.name, planned, proposal.sites, choice, is_planned=True)
    before = (
        scenes_of(proposal.snapshot, tuple(site for site in proposal.sites if site.exists), choice)
        if with_before
        else ()
    )
    strips = handoffs(planned, found.scenes, brief)
    marks = {**_marks(planned, found.scenes, brief), **_marks(proposal.snapshot, before, brief)}
    return replace(found, blocked=proposal.blocked, before=before, clearance=clearance, handoffs=strips, marks=marks)


def _marks(
    snapshot: Snapshot, scenes: tuple[tuple[Site, Scene], ...], brief: Brief | None
) -> Mapping[int, tuple[Mark, ...]]:
    """Where the findings of rules lie on the screens; rules that the brief leaves out mark nothing."""
    from rivelt.check.marks import marks_on
    from rivelt.check.report import chosen_codes
    from rivelt.check.run import check_sites

    wanted = chosen_codes((), tuple(brief.ignored_rules) if brief else ())
    sites = list(dict.fromkeys(site for site, _ in scenes))
    return marks_on(scenes, check_sites(snapshot, sites, brief, wanted, {}), wanted)


def check_proof_name(out: Path) -> None:
    """Refuse a name that says neither sheet nor page, before anything is done for it.

    Raises:
        BadInput: `out` ends neither in .png nor in .html.
    """
    if not _is_page(out) and out.suffix.lower() != ".png":
        hint = f"Name it {out.stem}.png or {out.stem}.html"
        raise BadInput(f"a proof is a sheet (.png) or a page (.html); {out.name} is neither", hint=hint)


def _is_page(out: Path) -> bool:
    return out.suffix.lower() in {".html", ".htm"}


def write_proof(proof: Proof, out: Path, *, guides: bool = False, on_progress: Progress = no_progress) -> Path:
    """Draw a proof as a PNG sheet or, if `out` ends in .html, as a page; `guides` adds key lines to a sheet.

    Raises:
        BadInput: `out` is no such file's name, or cannot be written.
    """
    check_proof_name(out)
    if _is_page(out):
        from rivelt.proof.page import draw_page

        return write_file(out, draw_page(proof, on_progress).encode())
    from rivelt.proof.sheet import draw_sheet

    return write_png(out, draw_sheet(proof, guides=guides, on_progress=on_progress))
