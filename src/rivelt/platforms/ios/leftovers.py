"""Launch storyboards that nothing names any more."""

from __future__ import annotations

import re

from rivelt.edit.plist import Plist
from rivelt.errors import RiveltError
from rivelt.platforms.ios.site import IosSite, Names
from rivelt.project.snapshot import Snapshot

_LAUNCH_SCREEN = re.compile(rb'launchScreen=["\x27]YES')
_NAMING = (
    ".swift",
    ".m",
    ".mm",
    ".h",
    ".storyboard",
    ".plist",
    ".xcconfig",
    ".json",
    ".yml",
    ".yaml",
    ".rb",
    ".js",
    ".ts",
    ".dart",
)
_NAMED_BY_SETTING = re.compile(r"INFOPLIST_KEY_UI(?:Launch|Main)Storyboard\w*\"? = \"?([^;\"]+)")


def unused_launch_files(snapshot: Snapshot, site: IosSite, names: Names) -> tuple[str, ...]:
    """The launch storyboards and nibs in the target that no Info.plist, build setting or source names.

    Args:
        snapshot: the project as it will be.
        site: the target.
        names: the names of what Rivelt generates, which stay.
    """
    candidates = [
        path
        for path in sorted(site.members)
        if path.endswith((".storyboard", ".xib"))
        and path in snapshot
        and not path.rpartition("/")[2].startswith(names.prefix)
        if _LAUNCH_SCREEN.search(snapshot.read(path)[:2000])
    ]
    return tuple(path for path in candidates if not _is_named(snapshot, site, path))


def _is_named(snapshot: Snapshot, site: IosSite, path: str) -> bool:
    stem = path.rpartition("/")[2].rpartition(".")[0]
    settings = snapshot.read(site.project_file).decode("utf-8", "replace")
    if any(found.removesuffix(".storyboard") == stem for found in _NAMED_BY_SETTING.findall(settings)):
        return True
    word = re.compile(rf"(?<![\w.]){re.escape(stem)}(?!\w)")
    for other in snapshot.paths:
        if other == path or not other.endswith(_NAMING):
            continue
        if other.endswith(".plist"):
            if _names_in_plist(snapshot, other, stem):
                return True
        elif word.search(snapshot.read(other).decode("utf-8", "replace")):
            return True
    return False


def _names_in_plist(snapshot: Snapshot, path: str, stem: str) -> bool:
    try:
        values = Plist(snapshot.read(path), path).values
    except RiveltError:
        return True  # what cannot be read may name it
    return any(isinstance(value, str) and value.removesuffix(".storyboard") == stem for value in values.values())
