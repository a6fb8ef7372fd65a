"""Recordings read: moments found, held against the project, judged."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt import opening
from rivelt.disk.tree import AnyPath, relative_to
from rivelt.errors import BadInput, RiveltError
from rivelt.platforms.rulebooks import choose
from rivelt.progress import Progress, no_progress
from rivelt.recordings.match import Match, Wanted, matched
from rivelt.recordings.model import Replay, Replays
from rivelt.recordings.moments import Film, moments
from rivelt.recordings.recording import Recording, is_picture, open_recording, stills
from rivelt.recordings.seen import seen, small_size
from rivelt.rules.books import LAUNCHES
from rivelt.rules.runner import judge
from rivelt.scene.launch import Launch, Moment
from rivelt.units import LOOKS, Look, PixelSize, Rect
from rivelt.values import replace

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.job import Job

_LARGEST_STILL = 3200  # px
_NO_PROJECT = "no project was given, and none is here, to hold the recording against"


def replay(
    *recordings: AnyPath,
    project: AnyPath | None = None,
    screen: str | None = None,
    look: Look | None = None,
    only: Sequence[str] = (),
) -> Replays:
    """Return what recordings of launches show.

    Args:
        recordings: videos, animations, or folders of numbered pictures; numbered pictures by themselves are one recording.
        project: a brief or the folder of a project to hold them against; None: the current one, if there is one.
        screen: words of the screen that was recorded, such as "iPhone 15"; None: it is recognised.
        look: the look that the device was set to; None: it is recognised.
        only: the targets that are wanted; all when empty.

    Raises:
        BadInput: a recording cannot be read, or there is no such screen.
    """
    if look is not None and look not in LOOKS:
        raise BadInput(f"there is no look {look}", hint=f"There are: {', '.join(LOOKS)}.")
    found = [Path(one) for one in recordings]
    return read(opened(found), job_of(project, only), Wanted(screen, look))


def opened(paths: Sequence[Path]) -> list[Recording]:
    """Return recordings; numbered pictures that are given one by one are one.

    Raises:
        BadInput: one cannot be read, or there is none.
    """
    pictures = [path for path in paths if is_picture(path) and not path.is_dir()]
    found = [open_recording(path) for path in paths if path not in pictures]
    if pictures:
        found.append(stills(pictures))
    if not found:
        raise BadInput("there is no recording", hint="Give a video, or a folder of numbered pictures.")
    return found


def job_of(project: AnyPath | None, only: Sequence[str] = ()) -> Job | None:
    """Return the project that recordings are held against; None where there is none here and none was given.

    Raises:
        BadInput: the one that was given cannot be used.
    """
    if project is not None:
        return opening.open(project, only=only)
    try:
        job = opening.open(None, only=only)
        has_sites = bool(job.sites)
    except RiveltError:
        return None
    return job if has_sites else None


def read(
    recordings: Sequence[Recording], job: Job | None, wanted: Wanted, on_progress: Progress = no_progress
) -> Replays:
    """Return what recordings show, held against a project."""
    found = []
    for number, recording in enumerate(recordings, start=1):
        found.append(_read(recording, job, wanted))
        on_progress(number, len(recordings))
    return Replays(tuple(found), job.root if job is not None else Path.cwd())


def _read(recording: Recording, job: Job | None, wanted: Wanted) -> Replay:
    film = Film(recording.frames(small_size(recording.size)))
    small = moments(film, recording.end)
    wide, high = recording.size
    whole = tuple(
        one
        if one.mark is None
        else replace(
            one, mark=Rect(one.mark.x * wide, one.mark.y * high, one.mark.width * wide, one.mark.height * high)
        )
        for one in small
    )
    numbers = {one.clearest for one in whole}
    shown = {frame.number: frame.pixels for frame in recording.frames(_still_size(recording.size), numbers)}
    whole = tuple(_exact(one, shown, recording.size) for one in whole)
    launch = next((one for one in whole if one.kind == "launch"), None)
    match: Match | str = _NO_PROJECT
    if launch is None:
        match = "no launch screen was recognised in the recording"
    elif job is not None and launch.clearest in shown:
        match = matched(job, shown[launch.clearest], wanted)
    subject = Launch(
        whole,
        match.against if isinstance(match, Match) else None,
        match if isinstance(match, str) else "",
        wanted.look,
    )
    root = job.root if job is not None else Path.cwd()
    choice = choose(job.briefs[0].check if job is not None and job.has_brief else None)
    site = match.site.label if isinstance(match, Match) else ""
    findings = tuple(judge(LAUNCHES, subject, choice, site=site, path=relative_to(recording.path, root)))
    return Replay(
        recording.name,
        recording.size,
        recording.end,
        subject,
        findings,
        tuple(recording.notes),
        match if isinstance(match, Match) else None,
        shown,
        recording,
    )


def _still_size(size: PixelSize) -> PixelSize:
    """As large as a recording, but for one that is larger than any device."""
    scale = min(1.0, _LARGEST_STILL / max(size))
    return PixelSize(round(size.width * scale), round(size.height * scale))


def _exact(moment: Moment, stills: dict[int, NDArray[np.uint8]], size: PixelSize) -> Moment:
    """A moment with its ground and its mark as the whole frame has them, to the pixel."""
    still = stills.get(moment.clearest)
    if still is None or moment.ground is None:
        return moment
    found = seen(still)
    width, height = size
    mark = found.mark
    box = None if mark is None else Rect(mark.x * width, mark.y * height, mark.width * width, mark.height * height)
    return replace(moment, ground=found.ground, mark=box if moment.mark is not None else None)
