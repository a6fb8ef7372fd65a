"""`rivelt measure`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Json, Quiet

if TYPE_CHECKING:
    from rivelt.job import ArtReport


def measure(
    sources: Annotated[
        list[Path] | None,
        typer.Argument(
            metavar="[BRIEF | ART...]",
            help="A brief, or art files. Default: the nearest rivelt.toml.",
            show_default=False,
        ),
    ] = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _debug: Debug = False,
) -> None:
    """Numbers about the art: kind, size, true bounds of the visible part, and the smallest circle round it."""
    from rivelt import job

    given = sources or []
    is_brief = len(given) <= 1 and all(path.suffix == ".toml" or path.is_dir() for path in given)
    reports = job.measure(job.load_brief(given[0] if given else None)) if is_brief else job.measure_files(given)
    output.machine({"art": [_as_json(report) for report in reports]})
    headers = ("art", "shown as", "kind", "size", "visible part", "circle round it", "circle / box")
    output.table(headers, [_row(report) for report in reports])
    output.say()
    output.say("Sizes in the art's own units. `circle / box` is how much room the mark needs beyond its longer side.")
    output.hint("Next: rivelt proof" if is_brief else "Next: rivelt brief --mark FILE --ground COLOUR")


def _row(report: ArtReport) -> tuple[str, ...]:
    art, extent = report.art, report.extent
    bounds, circle = extent.bounds, extent.circle
    role = f"{report.role} ({', '.join(report.looks)})" if report.role else "-"
    visible = f"{bounds.width:.5g} x {bounds.height:.5g} at {bounds.x:.5g}, {bounds.y:.5g}"
    round_it = f"diameter {2 * circle.radius:.5g} at {circle.centre.x:.5g}, {circle.centre.y:.5g}"
    size = f"{art.size.width:.5g} x {art.size.height:.5g}"
    return art.name, role, art.kind, size, visible, round_it, f"{2 * circle.radius / bounds.size.longer:.3f}"


def _as_json(report: ArtReport) -> dict[str, Any]:
    art, extent = report.art, report.extent
    return {
        "file": art.name,
        "role": report.role,
        "looks": list(report.looks),
        "kind": art.kind,
        "width": art.size.width,
        "height": art.size.height,
        "bounds": dict(zip(("x", "y", "width", "height"), extent.bounds, strict=True)),
        "circle": {"x": extent.circle.centre.x, "y": extent.circle.centre.y, "diameter": 2 * extent.circle.radius},
    }
