"""`rivelt measure`."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import output
from rivelt.cli.options import Debug, Editions, Json, Quiet, Verbose, tell_brief
from rivelt.errors import ExitCode

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.brief.model import Brief
    from rivelt.layout.motion import MotionReport
    from rivelt.layout.report import ArtReport, BackdropReport, OutlineReport
    from rivelt.rules.measured import Measured


def measure(
    sources: Annotated[
        list[Path] | None,
        typer.Argument(
            metavar="[BRIEF | ART...]",
            help="A brief, or art files. Default: the nearest rivelt.toml.",
            show_default=False,
        ),
    ] = None,
    chart: Annotated[
        Path | None,
        typer.Option("--chart", metavar="FILE", help="Draw the art with its measures as a PNG; - prints it."),
    ] = None,
    editions: Editions = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Measure the art.

    Its true bounds, how large it can be under a round mask, whether it stands out from its ground in each look, and up to where
    a bitmap is sharp. Lists what to fix and exits with 1.
    """
    from rivelt import opening
    from rivelt.rules.measured import measure_files

    given = sources or []
    is_brief = len(given) <= 1 and all(path.suffix == ".toml" or path.is_dir() for path in given)
    work = opening.open_brief(given[0] if given else None, editions=editions or ()) if is_brief else None
    if work is not None:
        tell_brief(work)
    found = work.measure() if work is not None else measure_files(given)
    if chart is not None:
        _draw(found, chart, work.brief if work is not None else None)
    output.machine(found.document)
    report(found)
    if chart is not None:
        output.say(f"The chart: {chart}")
    if is_brief:
        output.next_step("proof", given=given)
    else:
        output.next_step("brief", "--mark", str(given[0]), "--ground", "COLOUR")
    has_trouble = any(finding.severity != "note" for finding in found.findings)
    has_trouble |= any(motion.is_cut is not False for motion in found.motions)
    return ExitCode.FINDINGS if has_trouble else ExitCode.OK


def _draw(found: Measured, chart: Path, brief: Brief | None) -> None:
    from rivelt.proof.write import chart_bytes, write_chart

    if output.is_stdout(chart):
        output.binary(chart_bytes(found.art, brief, found.backdrops))
    else:
        write_chart(found.art, chart, brief, found.backdrops)


def report(found: Measured) -> None:
    """Print what was measured, as tables, and what is wrong."""
    _tables(found.art, found.backdrops)
    for motion in found.motions:
        _tell_motion(motion)
    output.findings(found.findings)


def _tables(reports: Sequence[ArtReport], backdrops: Sequence[BackdropReport]) -> None:
    output.table(
        ("art", "shown as", "kind", "size", "visible part", "circle round it", "fits a mask at"),
        [_shape_row(report) for report in reports],
    )
    output.say()
    readable = [row for report in reports for row in _contrast_rows(report)]
    if readable:
        output.table(("art", "look", "median contrast", "a tenth is below", "reaches 3:1"), readable)
        output.say()
    strokes = [row for report in reports if (row := _stroke_row(report))]
    if strokes:
        output.table(("drawing", "thinnest stroke", "as shown"), strokes)
        output.say()
    sharp = [row for report in reports if (row := _sharpness_row(report))]
    if sharp:
        output.table(("bitmap", "sharp up to", "enlarged at most", "sharp everywhere at"), sharp)
        output.say()
    vectors = [(report.art.name, *_outline_cells(report.outline)) for report in reports if report.outline]
    if vectors:
        output.table(("vector", "as plain outlines", "drawn back, it differs by"), vectors)
        output.say()
    if backdrops:
        headers = ("backdrop", "shown as", "size", "every screen shows", "enlarged at most", "ground taken from it")
        output.table(headers, list(map(_backdrop_row, backdrops)))
        output.say()
    output.say("Sizes and places in the art's own units; sizes under a mask in dp.")


_ROWS = 8


def _tell_motion(motion: MotionReport) -> None:
    """Print where a moving mark is over time: some of its frames, and the one that reaches farthest."""
    farthest = motion.farthest
    if farthest is None:
        output.warn(f"unknown: how {motion.name} ({motion.look}) moves: {motion.unknown}")
        return
    output.heading(f"{motion.name} ({motion.look}), {motion.length_ms:.0f} ms")
    last = len(motion.moments) - 1
    shown = dict.fromkeys(round(last * step / _ROWS) for step in range(_ROWS + 1))
    rows = []
    for moment in (motion.moments[index] for index in shown):
        bounds = moment.bounds
        where = "nothing is seen" if bounds is None else " ".join(_tenths(side) for side in bounds)
        rows.append((f"{moment.after_ms:.0f} ms", where, _tenths(moment.reach)))
    output.table(("after", "visible part: x y width height", "reaches"), rows)
    output.say()
    verdict = "it is cut" if motion.is_cut else "nothing is cut"
    output.say(
        f"Of {len(motion.moments)} frames the one at {farthest.after_ms:.0f} ms reaches farthest: {_tenths(farthest.reach)} dp from the "
        f"middle; the system's circle has {_tenths(motion.radius)}: {verdict}."
    )
    output.say()


def _shape_row(report: ArtReport) -> tuple[str, ...]:
    art, bounds, circle = report.art, report.extent.bounds, report.extent.circle
    role = f"{report.role} ({', '.join(report.looks)})" if report.role else "-"
    visible = f"{_tenths(bounds.width)} x {_tenths(bounds.height)} at {_tenths(bounds.x)}, {_tenths(bounds.y)}"
    round_it = f"ø {_tenths(2 * circle.radius)} at {_tenths(circle.centre.x)}, {_tenths(circle.centre.y)}"
    fits = ", ".join(f"{_tenths(fit.width)} x {_tenths(fit.height)} in ø {fit.mask:g}" for fit in report.fits) or "-"
    size = f"{art.size.width:g} x {art.size.height:g}"
    return art.name, role, art.kind, size, visible, round_it, fits


def _stroke_row(report: ArtReport) -> tuple[str, ...] | None:
    if report.thinnest is None:
        return None
    shown = f"{report.thinnest_shown:.1f} dp" if report.thinnest_shown is not None else "-"
    return report.art.name, _tenths(report.thinnest), shown


def _backdrop_row(report: BackdropReport) -> tuple[str, ...]:
    art, found, ground = report.art, report.coverage, report.chosen_ground
    common = found.common
    window = f"{common.width:.0f} x {common.height:.0f} at {common.x:.0f}, {common.y:.0f}"
    enlarged = "a vector: never" if art.svg else f"{max(found.enlarged, 1):.2f} times"
    size = f"{art.size.width:g} x {art.size.height:g}"
    return art.name, f"backdrop ({', '.join(report.looks)})", size, window, enlarged, ground.hex if ground else "-"


def _tenths(value: float) -> str:
    return f"{round(value, 1) + 0.0:.1f}".removesuffix(".0")  # adding 0 makes 0 of -0


def _contrast_rows(report: ArtReport) -> list[tuple[str, ...]]:
    return [
        (report.art.name, look, f"{found.median:.1f}:1", f"{found.tenth:.1f}:1", f"{found.share:.0%} of its outline")
        for look, found in report.contrast.items()
    ]


def _outline_cells(found: OutlineReport) -> tuple[str, str]:
    if found.unsupported:
        more = f", and {len(found.unsupported) - 1} more" if len(found.unsupported) > 1 else ""
        return f"no: {found.unsupported[0]}{more}", "-"
    shapes = f"{found.shapes} shape{'s' * (found.shapes != 1)}"
    return shapes if found.is_faithful else f"no: {shapes} would be another picture", f"{found.difference:.2f} of 255"


def _sharpness_row(report: ArtReport) -> tuple[str, ...] | None:
    found = report.sharpness
    if found is None:
        return None
    # Plates come from the coarsest to the finest: the last sharp one of each target is how far the bitmap goes.
    furthest = {path.partition("/")[0]: path.partition("/")[2] for path in found.sharp}
    up_to = ", ".join(f"{target}: {path}" for target, path in furthest.items()) or "nowhere"
    wanted = f"{found.wanted.width} x {found.wanted.height} px"
    return report.art.name, up_to, f"{max(found.largest, 1):.2f} times", wanted
