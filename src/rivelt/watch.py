"""Waiting for a change of what a brief is made of."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, TypeAlias

from rivelt import opening
from rivelt.brief.find import find_brief
from rivelt.brief.model import Brief
from rivelt.disk.tree import resolved
from rivelt.errors import RiveltError

if TYPE_CHECKING:
    from rivelt.job import Job

_ART = {".svg", ".png", ".jpg", ".jpeg", ".webp", ".xml"}


Stamp: TypeAlias = tuple[int, int, int] | None
"""What distinguishes one version of a file from another: times in ns, and the size; None where there is no file."""

_LOOK_AGAIN_MS = 500


def stamps(sources: Sequence[Path] = ()) -> dict[Path, Stamp]:
    """Return the versions of the briefs and of the files that they name.

    Only these are watched, not the project that apply writes to. While a brief has problems, the art in its folder is watched.
    """
    watched: set[Path] = set()
    for source in sources or [Path()]:
        file = source if source.is_file() else find_brief(source)
        watched |= {resolved(file)} if file else set()
        try:
            brief = opening.open_brief(source).brief
            watched |= {path for one in (brief, *brief.editions) for path in _named(one)}
        except RiveltError:
            if file is not None:
                watched |= {resolved(path) for path in file.parent.iterdir() if path.suffix.lower() in _ART}
    return {path: _stamp(path) for path in watched}


def wait_for_change(before: Mapping[Path, Stamp]) -> list[str]:
    """Wait until one of the files has another version than `before`, and return the names of those that have.

    A file that was saved after `before` was taken, and before this was called, counts: nothing is missed in between.
    """
    from watchfiles import watch

    folders = {path.parent for path in before if path.parent.is_dir()}
    for _ in watch(*folders, recursive=False, raise_interrupt=True, yield_on_timeout=True, rust_timeout=_LOOK_AGAIN_MS):
        found = sorted({path.name for path, stamp in before.items() if _stamp(path) != stamp})
        if found:
            return found
    return []


def state_of(job: Job, proof: Path) -> dict[str, Stamp]:
    """Return the versions of all files that a proof of a project may show, and of the proof itself; the briefs are compared as such."""
    files = {os.path.join(job.root, path) for path in job.project.paths}  # noqa: PTH118 thousands of them, as text
    files -= {str(brief.path) for brief in job.briefs}
    return {path: _stamp(path) for path in (*files, str(resolved(proof)))}


def _stamp(path: Path | str) -> Stamp:
    try:
        status = os.stat(path)  # noqa: PTH116 of a path as text
    except OSError:
        return None
    return status.st_mtime_ns, status.st_ctime_ns, status.st_size


def _named(brief: Brief) -> set[Path]:
    """The files that a brief names."""
    return {resolved(brief.folder / name) for name in brief.named_files}
