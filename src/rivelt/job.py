"""The use cases: survey, measure, plates, plan, apply, undo, proof.

This module joins the disk's edge and the pure parts. It returns values and prints nothing; it is what `import rivelt` offers and
the only door that the command line goes through.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.brief.load import read_brief
from rivelt.brief.model import Brief
from rivelt.brief.schema import FILE_NAME
from rivelt.errors import BadInput, Place, Refused, RiveltError, raise_all
from rivelt.platforms import TARGETS, platform, platform_tables
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import Content, Snapshot

if TYPE_CHECKING:
    from rivelt.artwork.backdrops import BackdropReport
    from rivelt.artwork.report import ArtReport
    from rivelt.brief.starter import Starter
    from rivelt.plan.context import PlanContext
    from rivelt.plan.model import Plan, Recipe
    from rivelt.platforms.site import Site
    from rivelt.proof.model import Proof
    from rivelt.workspace.compare import Changes

# The brief


def find_brief(start: Path) -> Path | None:
    """The brief in a folder or the nearest one above it."""
    folder = start.resolve()
    return next((path for above in (folder, *folder.parents) if (path := above / FILE_NAME).is_file()), None)


def load_brief(path: Path | None = None) -> Brief:
    """Read a brief: a file, the one in or above a folder, or (None) the one in or above the current folder.

    Raises:
        BadInput: there is none, or it has problems.
    """
    if path is not None and not path.exists():
        raise BadInput(
            "there is no such brief", place=Place(str(path)), hint="Write one with: rivelt brief --mark FILE"
        )
    file = path if path is not None and path.is_file() else find_brief(path or Path.cwd())
    if file is None:
        where = "this folder" if path is None else str(path)
        hint = "Write one with: rivelt brief --mark FILE --ground COLOUR"
        raise BadInput(f"there is no {FILE_NAME} in {where} or above it", hint=hint)
    shown = _shown(file)
    try:
        data = file.read_bytes()
    except OSError as error:
        raise BadInput(f"the brief cannot be read: {error.strerror}", place=Place(shown)) from error
    brief = read_brief(data, file.resolve(), shown_path=shown, platform_tables=platform_tables())
    if all(look.is_ground_given for look in brief.looks.values()):
        return brief
    from rivelt.artwork.gather import with_grounds

    return with_grounds(brief)


def _shown(path: Path) -> str:
    """A path as messages show it: relative to the current folder where that is shorter."""
    try:
        return path.resolve().relative_to(Path.cwd()).as_posix()
    except ValueError:
        return str(path)


def write_brief(path: Path, starter: Starter) -> Brief:
    """Write a starter brief, once it is known to be a good one; never over an existing file.

    Raises:
        Refused: the file exists.
        BadInput: what it would say has problems, or the art cannot be used.
    """
    from rivelt.brief.starter import starter_text

    if path.exists():
        raise Refused(f"{_shown(path)} exists already", hint="Edit it, or give another file with --out.")
    text = starter_text(starter)
    brief = read_brief(text.encode(), path.resolve(), shown_path=_shown(path), platform_tables=platform_tables())
    context_of(brief)
    try:
        with path.open("x", encoding="utf-8", newline="\n") as file:
            file.write(text)
    except OSError as error:
        raise BadInput(f"the brief cannot be written: {error.strerror}", place=Place(_shown(path))) from error
    return brief


# The art


def measure(brief: Brief) -> list[ArtReport]:
    """Measure the art of a brief, each file once, on the grounds and plates that the brief asks for."""
    from rivelt.artwork.report import report_brief

    return report_brief(context_of(brief), brief.targets or TARGETS)


def write_chart(
    reports: Sequence[ArtReport],
    out: Path,
    brief: Brief | None = None,
    backdrops: Sequence[BackdropReport] = (),
) -> Path:
    """Draw measured art as a PNG chart, on the grounds of its brief, and the backdrops after it.

    Raises:
        BadInput: `out` is no PNG file's name, or cannot be written.
    """
    from rivelt.proof.chart import draw_chart

    if brief is None:
        return _write_png(out, draw_chart(reports, backdrops, "Art", "no brief", {}, 0.0))
    grounds = {look: shown.ground for look, shown in brief.looks.items()}
    return _write_png(out, draw_chart(reports, backdrops, brief.name, brief.path.name, grounds, brief.layout.clearance))


def measure_backdrops(brief: Brief) -> list[BackdropReport]:
    """Measure the backdrops of a brief on every screen of its targets."""
    from rivelt.artwork.backdrops import report_backdrops

    return report_backdrops(brief, brief.targets or TARGETS)


def measure_files(paths: Iterable[Path]) -> list[ArtReport]:
    """Measure art that no brief names.

    Raises:
        BadInput: a file cannot be used; `Problems` for several.
    """
    from rivelt.artwork.report import report_files

    return report_files(paths)


def context_of(brief: Brief) -> PlanContext:
    """Read and measure the art of a brief.

    Raises:
        BadInput: a file cannot be used, with the place in the brief that names it; `Problems` for several.
    """
    from rivelt.artwork.gather import gather

    masks = {
        look: {diameter for target in TARGETS for diameter in platform(target).masks(has_disc=shown.disc is not None)}
        for look, shown in brief.looks.items()
    }
    return gather(brief, {look: tuple(sorted(diameters)) for look, diameters in masks.items()})


# The project


@dataclass(frozen=True)
class Survey:
    """The sites of a project, by target in the order of `TARGETS`."""

    root: Path
    sites: tuple[Site, ...]


def survey(project: Path, targets: Iterable[str] | None = None) -> Survey:
    """What native projects there are.

    Raises:
        BadInput: `project` is not a folder that can be listed.
    """
    return Survey(project.resolve(), _sites(Snapshot.of_folder(project.resolve()), targets))


def _sites(snapshot: Snapshot, targets: Iterable[str] | None, brief: Brief | None = None) -> tuple[Site, ...]:
    chosen = tuple(targets) if targets is not None else TARGETS
    return tuple(site for target in TARGETS if target in chosen for site in platform(target).survey(snapshot, brief))


@dataclass(frozen=True)
class Proposal:
    """What apply would do: the plans of all sites, as values; nothing is rendered yet.

    `blocked` are the sites that are left untouched, each with its reason.
    """

    brief: Brief
    snapshot: Snapshot
    sites: tuple[Site, ...]
    plans: tuple[Plan, ...]
    blocked: Mapping[Site, RiveltError]

    @property
    def root(self) -> Path:
        """The folder that every path of the plans is relative to."""
        return self.brief.project


def prepare(brief: Brief) -> Proposal:
    """Plan everything for the sites that the brief asks for.

    Raises:
        BadInput: no site is there, or none can be handled, or the art cannot be used.
    """
    from rivelt.artwork.sharpness import refuse_enlarged
    from rivelt.workspace.commit import refuse_read_only
    from rivelt.workspace.lockfile import generated_in

    snapshot = Snapshot.of_folder(brief.project)
    sites = _sites(snapshot, brief.targets, brief)
    if not sites:
        raise _no_sites(brief)
    context = replace(context_of(brief), generated=generated_in(snapshot))
    refuse_enlarged(context, {site.target for site in sites})
    plans: list[Plan] = []
    planned = snapshot  # two sites may share a file: the second plan goes on where the first one ends
    blocked: dict[Site, RiveltError] = {}
    for site in sites:
        try:
            if site.blocked is not None:
                raise site.blocked
            plan = platform(site.target).plan(context, planned, site)
            for edit in plan.edits:
                refuse_read_only(brief.project, edit.path)
            plans.append(plan)
            planned = planned.overlay({edit.path: edit.after for edit in plan.edits})
        except RiveltError as error:
            blocked[site] = error
    if not plans:
        raise_all([site.blame(error) for site, error in blocked.items()])
    return Proposal(brief, snapshot, tuple(site for site in sites if site not in blocked), tuple(plans), blocked)


def _no_sites(brief: Brief) -> BadInput:
    wanted = " or ".join(platform(target).title for target in brief.targets or TARGETS)
    at = brief.places.get("app.project") or brief.places.get("app") or Place(_shown(brief.path))
    hint = "Mend `app.project`: the folder that holds AndroidManifest.xml or an .xcodeproj somewhere below it."
    return BadInput(f"no {wanted} project was found in {_shown(brief.project) or '.'}", place=at, hint=hint)


def would_be(proposal: Proposal) -> Snapshot:
    """The project as apply would leave it; plates are rendered only when they are looked at."""
    from rivelt.pixels.render import render

    def lazily(recipe: Recipe) -> Content:
        return lambda: render(recipe)

    files: dict[str, Content] = {}
    for plan in proposal.plans:
        files |= {plate.path: lazily(plate.recipe) for plate in plan.plates}
        files |= {file.path: file.content for file in plan.files}
        files |= {edit.path: edit.after for edit in plan.edits}
    return proposal.snapshot.overlay(files)


def changes_of(
    proposal: Proposal, *, force: bool = False, prune: bool = False, on_progress: Progress = no_progress
) -> Changes:
    """What would become different on disk; the plates that are not there yet are rendered now.

    Args:
        proposal: what `prepare` gave.
        force: replace generated files even if a person has edited them since.
        prune: remove launch images that nothing uses any more.
        on_progress: told how far the rendering is.

    Raises:
        Refused: generated files were edited by a person (their diffs are in `details`), or an apply was stopped halfway.
    """
    from rivelt.workspace.commit import refuse_unfinished
    from rivelt.workspace.compare import compare

    refuse_unfinished(proposal.root)
    brief = proposal.brief
    return compare(
        proposal.root,
        proposal.snapshot,
        proposal.plans,
        is_small=brief.small_files,
        force=force,
        prune=prune,
        on_progress=on_progress,
    )


def apply(changes: Changes) -> None:
    """Write the changes into the project: all of them, or none.

    Raises:
        Refused: a file is not what it was when the plan was made.
        BadInput: a file cannot be written.
    """
    from rivelt.workspace.commit import commit

    commit(changes.root, changes.files)


def applied_project(start: Path) -> Path:
    """The nearest folder, from `start` upwards, in which Rivelt has applied something; `start` itself when there is none."""
    from rivelt.workspace.journal import FOLDER

    folder = start.resolve()
    return next((above for above in (folder, *folder.parents) if (above / FOLDER).is_dir()), folder)


def undo(project: Path, *, force: bool = False) -> list[str]:
    """Take the last apply back, to the byte; returns the paths that were restored or removed."""
    from rivelt.workspace.commit import undo as take_back

    return take_back(project.resolve(), force=force)


def plates(
    brief: Brief, out: Path, targets: Iterable[str] | None = None, on_progress: Progress = no_progress
) -> list[Path]:
    """Write the images alone to `out`: one folder for each target, laid out as the platform keeps them.

    Raises:
        BadInput: the art cannot be used, or `out` cannot be written.
    """
    from rivelt.pixels.render import render_all

    chosen = tuple(targets or brief.targets or TARGETS)
    context = context_of(brief)
    made = [
        (out / target / plate.path, plate.recipe) for target in chosen for plate in platform(target).plates(context)
    ]
    done = itertools.count(1)
    different = len({recipe for _, recipe in made})
    recipes = (recipe for _, recipe in made)
    rendered = render_all(recipes, is_small=brief.small_files, on_done=lambda: on_progress(next(done), different))
    try:
        for path, recipe in made:
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(rendered[recipe])
    except OSError as error:
        at = Place(str(error.filename or out))
        raise BadInput(
            f"cannot be written: {error.strerror}", place=at, hint="Give another folder with --out."
        ) from error
    return [path for path, _ in made]


# The proof


def prove(
    source: Path | None = None,
    *,
    now: bool = False,
    screens: Sequence[str] = (),
    all_screens: bool = False,
    with_before: bool = False,
) -> Proof:
    """The scenes of a project: with a brief as apply would leave it, without one (or with `now`) as it is.

    Args:
        source: a brief, or a project's folder; None for the nearest brief, else the current folder.
        now: show the project as it is even though there is a brief.
        screens: words that a screen's name, system or family must hold, such as "iPad" or "API 34"; a screen fits that fits any.
        all_screens: every screen that is known, not only the usual ones.
        with_before: work out the project as it is as well, to be put beside what apply would make.

    Raises:
        BadInput: nothing can be shown.
    """
    from rivelt.proof.collect import ScreenChoice, collect, scenes_of
    from rivelt.proof.handoff import handoffs

    choice = ScreenChoice(tuple(screens), is_all=all_screens)
    folder = source or Path()
    if folder.is_dir() and find_brief(folder) is None:
        root = folder.resolve()
        snapshot = Snapshot.of_folder(root)
        found = collect(root.name, "no brief", snapshot, _sites(snapshot, None), choice, is_planned=False)
        return replace(found, handoffs=handoffs(snapshot, found.scenes))
    brief = load_brief(source)
    clearance = brief.layout.clearance
    if now:
        snapshot = Snapshot.of_folder(brief.project)
        sites = _sites(snapshot, brief.targets, brief)
        found = collect(brief.name, brief.path.name, snapshot, sites, choice, is_planned=False)
        return replace(found, clearance=clearance, handoffs=handoffs(snapshot, found.scenes, brief))
    proposal = prepare(brief)
    planned = would_be(proposal)
    found = collect(brief.name, brief.path.name, planned, proposal.sites, choice, is_planned=True)
    before = scenes_of(proposal.snapshot, proposal.sites, choice) if with_before else ()
    strips = handoffs(planned, found.scenes, brief)
    return replace(found, blocked=proposal.blocked, before=before, clearance=clearance, handoffs=strips)


def write_proof(proof: Proof, out: Path, *, guides: bool = False, on_progress: Progress = no_progress) -> Path:
    """Draw a proof as a PNG sheet or, if `out` ends in .html, as a page; `guides` adds key lines to a sheet.

    Raises:
        BadInput: `out` is no such file's name, or cannot be written.
    """
    if out.suffix.lower() in {".html", ".htm"}:
        from rivelt.proof.page import draw_page

        return _write(out, draw_page(proof, on_progress).encode())
    from rivelt.proof.sheet import draw_sheet

    return _write_png(out, draw_sheet(proof, guides=guides, on_progress=on_progress))


def _write_png(out: Path, data: bytes) -> Path:
    if out.suffix.lower() != ".png":
        raise BadInput(f"the picture is a PNG file; {out.name} is not one's name", hint=f"Name it {out.stem}.png")
    return _write(out, data)


def _write(out: Path, data: bytes) -> Path:
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        out.write_bytes(data)
    except OSError as error:
        at = Place(str(out))
        raise BadInput(
            f"cannot be written: {error.strerror}", place=at, hint="Give another file with --out."
        ) from error
    return out


# The demo


def lay_out_demo(folder: Path) -> None:
    """Lay the sample app out in a folder that is new, empty, or an unchanged demo of ours.

    Raises:
        Refused: the folder holds something else.
    """
    from rivelt.demo.layout import lay_out

    lay_out(folder)
