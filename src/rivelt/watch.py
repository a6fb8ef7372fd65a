"""Waiting for a change of what a brief is made of."""

from __future__ import annotations

from pathlib import Path

from rivelt import job
from rivelt.brief.find import find_brief
from rivelt.brief.model import DERIVE, Brief
from rivelt.disk.tree import resolved
from rivelt.errors import RiveltError

_ART = {".svg", ".png", ".jpg", ".jpeg", ".webp", ".xml"}


def wait_for_change(source: Path | None = None) -> list[str]:
    """Wait until the brief or a file that it names is saved, and return the names of what was.

    Only these are watched, not the project that apply writes to. While the brief has problems, its folder is watched.
    """
    from watchfiles import watch

    file = source if source is not None and source.is_file() else find_brief(source or Path.cwd())
    watched = {resolved(file)} if file else set()
    try:
        watched |= _named(job.open_brief(source).brief)
    except RiveltError:
        if file is not None:
            watched |= {resolved(path) for path in file.parent.iterdir() if path.suffix.lower() in _ART}
    folders = {path.parent for path in watched if path.parent.is_dir()}
    for changes in watch(*folders, recursive=False, raise_interrupt=True):
        found = sorted({Path(path).name for _, path in changes if resolved(Path(path)) in watched})
        if found:
            return found
    return []


def _named(brief: Brief) -> set[Path]:
    """The files that a brief names."""
    names = [name for shown in brief.looks.values() for name in (shown.mark, shown.imprint, shown.backdrop)]
    names += [path for options in brief.options.values() for path in options.files().values()]
    return {resolved(brief.folder / name) for name in names if name and name != DERIVE}
