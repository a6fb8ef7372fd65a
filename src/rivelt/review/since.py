"""The one way to a review: what is different between a commit and the working tree, or another commit."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt import opening
from rivelt.disk.tree import AnyPath
from rivelt.progress import Progress, no_progress
from rivelt.project.files import DISK
from rivelt.review.collect import Wanted, review
from rivelt.review.earlier import Earlier, earlier
from rivelt.revision.tree import Revision

if TYPE_CHECKING:
    from rivelt.job import Job
    from rivelt.review.model import Review


def compare(
    source: AnyPath | None = None,
    *,
    since: str,
    at: str | None = None,
    only: Sequence[str] = (),
    editions: Sequence[str] = (),
    screens: Sequence[str] = (),
    all_screens: bool = False,
    now: bool = False,
) -> Review:
    """Return what is different on the launch screens of a project since a commit of its git repository.

    Args:
        source: a brief, or a folder; see `rivelt.open`.
        since: the commit: whatever git understands, or `main...`: where this branch left main.
        at: the commit that is held against it; None: the working tree.
        only: the targets that are wanted; all when empty.
        editions: the editions that are wanted; all when empty.
        screens: words that a screen's name, system or family must hold; see `rivelt.Job.prove`.
        all_screens: every screen that is known, not only the usual ones.
        now: only the project as it is, not as apply would leave it too.

    Raises:
        BadInput: there is no such commit, or nothing can be shown.
    """
    work, before = both(source, since=since, at=at, only=only, editions=editions)
    return compared(work, before, Wanted(tuple(screens), all_screens, now), since=since, at=at)


def both(
    source: AnyPath | None, *, since: str, at: str | None = None, only: Sequence[str] = (), editions: Sequence[str] = ()
) -> tuple[Job, Earlier]:
    """Return the later state and the earlier one; the arguments are those of `compare`."""
    path = Path(source) if source is not None else Path()
    folder = path.parent if path.is_file() else path
    before = Revision.of(folder, since, other=at or "HEAD")
    files = DISK if at is None else Revision.of(folder, at)
    work = opening.open(source, only=only, editions=editions, files=files)
    return work, earlier(work, before)


def compared(
    work: Job, before: Earlier, wanted: Wanted, *, since: str, at: str | None, on_progress: Progress = no_progress
) -> Review:
    """Return what is different between two states."""
    return review(work, before, wanted, since=since, at=at or "", on_progress=on_progress)
