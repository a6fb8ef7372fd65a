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
    """Measure the art.

    Its kind and size, the true bounds of its visible part, and the smallest circle round that.
    """
    from rivelt import job

    given = sources or []
    is_brief = len(given) <= 1 and all(path.suffix == ".toml" or path.is_dir() for path in given)
    reports = job.measure(job.load_brief(given[0] if given else None)) if is_brief else job.measure_files(given)
    output.machine({"art": [_as_json(report) for report in reports]})
    headers = ("art", "shown as", "kind", "size", "visible part", "circle round it", "circle / side")
    output.table(headers, [_row(report) for report in reports])
    output.say()
    output.say("In the art's own units. Circle / side: how much larger than its longer side a round mask must be.")
    output.hint("Next: rivelt proof" if is_brief else "Next: rivelt brief --mark FILE --ground COLOUR")


def _row(report: ArtReport) -> tuple[str, ...]:
    art, extent = report.art, report.extent
    bounds, circle = extent.bounds, extent.circle
    role = f"{report.role} ({', '.join(report.looks)})" if report.role else "-"
    visible = f"{bounds.width:.1f} x {bounds.height:.1f} at {bounds.x:.1f}, {bounds.y:.1f}"
    round_it = f"ø {2 * circle.radius:.1f} at {circle.centre.x:.1f}, {circle.centre.y:.1f}"
    size = f"{art.size.width:g} x {art.size.height:g}"
    return art.name, role, art.kind, size, visible, round_it, f"{2 * circle.radius / bounds.size.longer:.2f}"


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
