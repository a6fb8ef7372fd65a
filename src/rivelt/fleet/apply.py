"""All brands of a table written into one project, each as an edition of its own: one apply, one lock file, one undo."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.documents.base import Problem
from rivelt.editions import Opened, refuse_without_sites, sites_of
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.fleet.brands import Brand
from rivelt.fleet.stock import Stock
from rivelt.job import Job
from rivelt.project.files import DISK
from rivelt.project.project import Project
from rivelt.workspace.commit import apply, rehearse

if TYPE_CHECKING:
    from rivelt.fleet.run import Outcome


def apply_brands(outcome: Outcome, stock: Stock) -> None:
    """Write the brands that could be made into their project; what stops one is kept with it, and stops no other.

    Raises:
        Refused: generated files were edited by a person, or an apply was stopped halfway.
        BadInput: the project cannot be written.
    """
    from rivelt.art.read import with_grounds

    root = outcome.brands.good[0].brief.project
    able = [brand for brand in outcome.brands.good if not outcome.problems_of(brand)]
    project = stock.project(root)
    chosen = _with_sites(able, root, project, outcome)
    if not chosen:
        return
    opened = []
    for brand in chosen:
        files = stock.art_files(brand.brief, DISK)
        opened.append(Opened(with_grounds(brand.brief, files), files))
    # Where a row is bad, nobody is known to be gone: what it had stays.
    is_whole = not outcome.brands.bad and len(chosen) == len(outcome.brands.good)
    job = Job(root, opened, (), () if is_whole else tuple(brand.name for brand in chosen))
    job.project = project
    changes = job.changes()
    rehearse(changes)
    apply(changes)
    outcome.applied = len(changes.files)
    for brand in chosen:
        outcome.values[brand.name] = {"applied": True}
    for site, reason in changes.left_alone.items():
        found = Problem.of(site.blame(reason))
        outcome.failures[site.edition] = (*outcome.failures.get(site.edition, ()), found)
        outcome.values[site.edition] = {"applied": False}


def _with_sites(brands: list[Brand], root: Path, project: Project, outcome: Outcome) -> list[Brand]:
    """The brands that have an app of their own in the project, which no brand before them has."""
    taken: dict[tuple[str, str], str] = {}
    chosen: list[Brand] = []
    for brand in brands:
        at = brand.brief.places.get("edition", Place(brand.brief.path.name, brand.row))
        try:
            sites = sites_of(project, root, brand.brief)[brand.name]
            if not sites:
                refuse_without_sites(brand.brief)
            for site in sites:
                if (other := taken.get((site.target, site.name))) is not None:
                    hint = "Give each brand an app of its own: android.source_set, android.module, ios.target."
                    raise BadInput(f"{site.label} is the app of {other} already", place=at, hint=hint)
        except RiveltError as error:
            outcome.failures[brand.name] = tuple(map(Problem.of, error.parts))
            outcome.values[brand.name] = {"applied": False}
            continue
        taken |= {(site.target, site.name): brand.name for site in sites}
        chosen.append(brand)
    return chosen
