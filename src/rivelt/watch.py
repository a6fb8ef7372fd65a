"""Waiting for a change of what a brief is made of."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from rivelt import opening
from rivelt.brief.find import find_brief
from rivelt.brief.model import Brief
from rivelt.disk.tree import resolved
from rivelt.errors import RiveltError

_ART = {".svg", ".png", ".jpg", ".jpeg", ".webp", ".xml"}


def wait_for_change(sources: Sequence[Path] = ()) -> list[str]:
    """Wait until a brief or a file that it names is saved, and return the names of what was.

    Only these are watched, not the project that apply writes to. While a brief has problems, its folder is watched.
    """
    from watchfiles import watch

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
    folders = {path.parent for path in watched if path.parent.is_dir()}
    for changes in watch(*folders, recursive=False, raise_interrupt=True):
        found = sorted({Path(path).name for _, path in changes if resolved(Path(path)) in watched})
        if found:
            return found
    return []


def _named(brief: Brief) -> set[Path]:
    """The files that a brief names."""
    return {resolved(brief.folder / name) for name in brief.named_files}
