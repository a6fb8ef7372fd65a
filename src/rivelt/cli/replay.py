"""`rivelt replay`."""

from __future__ import annotations

import glob
from enum import StrEnum
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rivelt.cli import complete, output
from rivelt.cli.findings import FailOn, Format, reaches, write_findings
from rivelt.cli.options import Debug, Json, Only, Quiet, Verbose
from rivelt.errors import BadInput, ExitCode

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rivelt.recordings.model import Replay, Replays
    from rivelt.rules.report import Report
    from rivelt.scene.launch import Moment

_PICTURES = {".png", ".jpg", ".jpeg", ".webp"}


class ReplayLook(StrEnum):
    """The look that a device was set to."""

    LIGHT = "light"
    DARK = "dark"


Given = Annotated[
    list[str],
    typer.Argument(
        metavar="RECORDING...",
        help="Videos, or folders of numbered pictures. A brief or a project's folder after them is what they are compared with; by default the current one.",
    ),
]
OneScreen = Annotated[
    str | None,
    typer.Option(
        "--screen",
        metavar="WORDS",
        help='The screen that was recorded, such as "iPhone 15"; it is recognised by its pixels if omitted.',
        autocompletion=complete.SCREENS,
        show_default=False,
    ),
]
Look = Annotated[
    ReplayLook | None,
    typer.Option("--look", help="The look that the device was set to; recognised if omitted.", show_default=False),
]
Out = Annotated[
    Path | None,
    typer.Option(
        "--out",
        metavar="FILE",
        help="Draw the moments as a strip (.png), or as a page to step through the frames (.html).",
        show_default=False,
    ),
]


def replay(
    given: Given,
    out: Out = None,
    screen: OneScreen = None,
    look: Look = None,
    form: Annotated[Format, typer.Option("--format", help="How findings are written.")] = Format.TEXT,
    fail_on: Annotated[
        FailOn, typer.Option("--fail-on", help="From which severity on the exit code is 1.")
    ] = FailOn.WARNING,
    only: Only = None,
    _json: Json = False,
    _quiet: Quiet = False,
    _verbose: Verbose = False,
    _debug: Debug = False,
) -> int:
    """Tell from a screen recording what a real launch showed.

    What was shown when, from the home screen to the app's first screen, and whether it is what the project's files give: another colour in
    between, a second launch screen, a mark that jumps, an old launch screen. A recording of the platform's own tools will do.
    """
    if find_spec("av") is None:
        message = "reading recordings needs PyAV, which is not installed"
        raise BadInput(message, hint="Install it with: pip install 'rivelt[replay]'")
    from rivelt.recordings.match import Wanted
    from rivelt.recordings.read import job_of, opened, read
    from rivelt.recordings.write import check_replay_name, write_replay

    if out is not None:
        check_replay_name(out)
    wanted_form = Format.JSON if output.settings.is_json else form
    output.settings.is_json = wanted_form is Format.JSON  # errors are JSON then too
    recordings, project = _sorted_out(given)
    job = job_of(project, tuple(only or ()))
    wanted = Wanted(screen, look.value if look is not None else None)
    with output.progress("recordings") as progress:
        found = read(opened(recordings), job, wanted, progress)
    if out is not None:
        write_replay(found, out)
    report = _report(found)
    if wanted_form is Format.JSON:
        output.machine(found.document())
    elif wanted_form is Format.TEXT:
        _tell(found, out)
    else:
        write_findings([report], wanted_form)
    return ExitCode.FINDINGS if reaches([report], fail_on) else ExitCode.OK


def _sorted_out(given: Sequence[str]) -> tuple[list[Path], Path | None]:
    """What was given, as recordings and, where the last one is a brief or a folder without pictures, the project."""
    paths = [Path(one) for text in given for one in (sorted(glob.glob(text)) or [text])]  # noqa: PTH207 patterns of people
    last = paths[-1]
    if last.suffix.lower() == ".toml" or (last.is_dir() and not _has_pictures(last)):
        paths.pop()
        if not paths:
            raise BadInput(
                "there is no recording", hint="Give a video, or a folder of numbered pictures, before the project."
            )
        return paths, last
    return paths, None


def _has_pictures(folder: Path) -> bool:
    return any(path.suffix.lower() in _PICTURES for path in folder.iterdir())


def _report(found: Replays) -> Report:
    from rivelt.rules.books import LAUNCHES
    from rivelt.rules.report import Report

    return Report(found.findings, dict(LAUNCHES.rules), root=found.root)


def _tell(found: Replays, out: Path | None) -> None:
    """Print the moments of each recording, then what is wrong."""
    for one in found.replays:
        if len(found.replays) > 1:
            output.heading(one.name)
        _tell_one(one)
    lengths = found.lengths
    if len(lengths) > 1:
        import statistics

        output.say(
            f"The launch screen was shown for {statistics.median(lengths):.0f} ms (median of {len(lengths)}; "
            f"{min(lengths):.0f} to {max(lengths):.0f})."
        )
    write_findings([_report(found)], Format.TEXT)
    if out is not None:
        output.say(f"The strip: {output.shown_file(out)}")


def _mark(one: Replay, moment: Moment) -> str:
    """Where the mark is, in dp or points where the screen is known, else in px."""
    points = one.mark_points(moment)
    box = points if points is not None else moment.mark
    if box is None:
        return ""
    unit = one.match.against.unit if points is not None and one.match is not None else "px"
    return f"{' '.join(f'{value:.0f}' for value in box)} {unit}"


def _tell_one(one: Replay) -> None:
    rows = [
        (
            moment.kind,
            f"{moment.start:.0f}",
            f"{moment.length:.0f}",
            str(moment.frames),
            moment.ground.hex[:7] if moment.ground is not None else "moving",
            _mark(one, moment),
        )
        for moment in one.launch.moments
    ]
    output.table(("moment", "from (ms)", "length (ms)", "frames", "ground", "mark: x y width height"), rows)
    output.say()
    for note in one.notes:
        output.say(f"Note: {note}.")
    against = one.launch.against
    if one.match is None or against is None:
        output.say(f"Not compared with the project: {one.launch.why}.")
        return
    screen = one.match.scene.screen
    parts = [] if against.ground is None else [f"ground ΔE {against.ground:.1f}"]
    if against.moved is not None and against.wide is not None and against.high is not None:
        far = f"{against.moved.x:+.1f}, {against.moved.y:+.1f} {against.unit}"
        parts.append(f"mark {far}, {against.wide:.2f} x {against.high:.2f} its size")
    elif against.is_missing:
        parts.append("mark missing")
    parts.append(f"{100 * against.share:.1f} % of the pixels differ")
    output.say(f"Compared with {screen.system}, {screen.name}, {against.look}: {', '.join(parts)}.")
