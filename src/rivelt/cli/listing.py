"""Changes as a table for people."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from rivelt.cli import output

if TYPE_CHECKING:
    from rivelt.workspace.change import Changes


def rows(changes: Changes) -> list[tuple[str, str, str]]:
    """Return one row for each file; plates of one name in sibling folders, and those of one folder, share a row unless --verbose is given."""
    if output.settings.is_verbose:
        return [(change.action, output.of_project(change.path), change.why) for change in changes.files]
    plates = [change for change in changes.files if change.path.endswith((".png", ".jpg"))]
    by_name = Counter((change.action, *_siblings(change.path)) for change in plates)
    in_folder = Counter(change.path.rpartition("/")[0] for change in plates)
    found: dict[tuple[str, str], list[str]] = {}
    for change in changes.files:
        shown = change.path
        if change in plates:
            home, name = _siblings(change.path)
            is_shared = by_name[change.action, home, name] > 1
            folder = change.path.rpartition("/")[0]
            one_kind = f"{folder}/*{change.path[-4:]}"
            shown = f"{home}/*/{name}" if is_shared else one_kind if in_folder[folder] > 1 else change.path
        found.setdefault((change.action, output.of_project(shown)), []).append(change.why)
    return [
        (action, path, f"{len(whys)} plates" if len(whys) > 1 else whys[0]) for (action, path), whys in found.items()
    ]


def _siblings(path: str) -> tuple[str, str]:
    """The folder above a file's folder, and the file's name."""
    folder, _, name = path.rpartition("/")
    return folder.rpartition("/")[0], name
