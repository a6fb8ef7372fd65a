"""The art of a brief: measured, and made into plates."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.brief.model import Brief
from rivelt.job.write import write_file, write_png
from rivelt.platforms import TARGETS, platform
from rivelt.progress import Progress, no_progress
from rivelt.project.snapshot import Snapshot

if TYPE_CHECKING:
    from rivelt.artwork.backdrops import BackdropReport
    from rivelt.artwork.report import ArtReport
    from rivelt.plan.context import PlanContext


def targets_of(brief: Brief) -> tuple[str, ...]:
    """The targets that a brief is for: those it names, else those found in its project, else all that a project can have."""
    if brief.targets is not None:
        return brief.targets
    snapshot = Snapshot.of_folder(brief.project)
    found = tuple(target for target in TARGETS if platform(target).survey(snapshot))
    asked_for = tuple(target for target in TARGETS if platform(target).is_on_request and target in brief.places)
    return found + asked_for or tuple(target for target in TARGETS if not platform(target).is_on_request)


def measure(brief: Brief) -> list[ArtReport]:
    """Measure the art of a brief, each file once, on the grounds and plates that the brief asks for."""
    from rivelt.artwork.report import report_brief

    return report_brief(context_of(brief), targets_of(brief))


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
        return write_png(out, draw_chart(reports, backdrops, "Art", "no brief", {}, 0.0))
    grounds = {look: shown.ground for look, shown in brief.looks.items()}
    return write_png(out, draw_chart(reports, backdrops, brief.name, brief.path.name, grounds, brief.layout.clearance))


def measure_backdrops(brief: Brief) -> list[BackdropReport]:
    """Measure the backdrops of a brief on every screen of its targets."""
    from rivelt.artwork.backdrops import report_backdrops

    return report_backdrops(brief, targets_of(brief))


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


def plates(brief: Brief, out: Path, on_progress: Progress = no_progress) -> dict[str, int]:
    """Write the images alone to `out`, a folder or (named .zip) a ZIP file: one folder for each target, laid out as the platform keeps them.

    Returns:
        The bytes of each image, by its path in `out`.

    Raises:
        BadInput: the art cannot be used, or `out` cannot be written.
    """
    from rivelt.pixels.archive import zipped
    from rivelt.pixels.render import render_all

    context = context_of(brief)
    made = [
        (f"{target}/{plate.path}", plate.recipe)
        for target in targets_of(brief)
        for plate in platform(target).plates(context)
    ]
    done = itertools.count(1)
    different = len({recipe for _, recipe in made})
    recipes = (recipe for _, recipe in made)
    rendered = render_all(recipes, is_small=brief.small_files, on_done=lambda: on_progress(next(done), different))
    files = {path: rendered[recipe] for path, recipe in made}
    if out.suffix.lower() == ".zip":
        write_file(out, zipped(files))
    else:
        for path, content in files.items():
            write_file(out / path, content)
    return {path: len(content) for path, content in files.items()}
