"""The job that a job would have been in an earlier revision."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from rivelt import opening
from rivelt.brief.find import shown_path
from rivelt.brief.model import FILE_NAME, THE_BRIEF
from rivelt.briefs import opened
from rivelt.errors import RiveltError
from rivelt.job import Job

if TYPE_CHECKING:
    from collections.abc import Iterator

    from rivelt.brief.model import Brief
    from rivelt.revision.tree import Revision


class Earlier(NamedTuple):
    """The job in an earlier revision, None where it has nothing to work on; and what must be said of that."""

    job: Job | None
    notes: tuple[str, ...] = ()


def earlier(work: Job, revision: Revision) -> Earlier:
    """Return the job on the same briefs and sites as a revision has them.

    A brief that the revision does not have, or that cannot be used there, is no reason to stop: its project is looked at without one.
    """
    if not work.has_brief:
        return Earlier(_without_brief(work, revision))
    notes: list[str] = []
    sources: list[Path] = []
    editions: dict[str, None] = {}
    targets: dict[str, None] = {}
    for brief in work.briefs:
        path = _path_in(revision, work, brief)
        if path is None:
            notes.append(f"{revision.name} has no {shown_path(brief.path)}")
            continue
        try:
            there = opened(path, (), revision).brief
        except RiveltError as error:
            notes += (f"{_at(one)}{one.message} (in {revision.name})" for one in error.parts)
            continue
        if path != brief.path:
            notes.append(f"{shown_path(brief.path)} is compared with {shown_path(path)} in {revision.name}")
        sources.append(path)
        editions |= dict.fromkeys((THE_BRIEF, *(one.edition for one in there.editions)))
        targets |= dict.fromkeys(work.only if there.targets is None else there.targets)
    if not sources:
        return Earlier(_without_brief(work, revision), (*notes, "its native files are compared as they are"))
    wanted = [one for one in work.wanted if one in editions]
    only = [one for one in work.only if one in targets]
    if (work.wanted and not wanted) or (work.only and not only):
        return Earlier(None, (f"{revision.name} has none of what is asked for",))
    jobs = opening.open_briefs(sources, only=only, editions=wanted, files=revision)
    job = next((one for one in jobs if one.root == work.root), jobs[0])
    job.follow(work)
    return Earlier(job, tuple(notes))


def _without_brief(work: Job, revision: Revision) -> Job | None:
    if not revision.is_folder(work.root):
        return None
    job = Job(work.root, (), work.only, (), work.besides, files=revision)
    job.follow(work)
    return job


def _path_in(revision: Revision, work: Job, brief: Brief) -> Path | None:
    """Where a brief is in a revision: at its path, or, where its folder was moved, at the only one of its name that is gone from there."""
    if revision.is_file(brief.path):
        return brief.path
    gone = [path for path in _named(revision, brief.path.name) if not work.files.is_there(path)]
    return gone[0] if len(gone) == 1 else None


def _named(revision: Revision, name: str) -> Iterator[Path]:
    wanted = {name, FILE_NAME}
    return (revision.top / path for path in revision.entries if os.path.basename(path) in wanted)  # noqa: PTH119 text


def _at(error: RiveltError) -> str:
    return f"{error.place}: " if error.place is not None else ""
