"""Launch storyboards that nothing names any more."""

from __future__ import annotations

import re

from rivelt.errors import RiveltError
from rivelt.platforms.ios.site import IosSite, Names
from rivelt.project.project import Project

_LAUNCH_SCREEN = re.compile(rb'launchScreen=["\x27]YES')
_NAMED_BY_SETTING = re.compile(r"INFOPLIST_KEY_UI(?:Launch|Main)Storyboard\w*\"? = \"?([^;\"]+)")


def unused_launch_files(project: Project, site: IosSite, names: Names) -> tuple[str, ...]:
    """The launch storyboards and nibs in the target that no Info.plist, build setting or source names.

    Args:
        project: the project as it will be.
        site: the target.
        names: the names of what Rivelt generates, which stay.
    """
    candidates = [
        path
        for path in sorted(site.members)
        if path.endswith((".storyboard", ".xib"))
        and path in project
        and not path.rpartition("/")[2].startswith(names.prefix)
        if _LAUNCH_SCREEN.search(project.read(path)[:2000])
    ]
    return tuple(path for path in candidates if not _is_named(project, site, path))


def _is_named(project: Project, site: IosSite, path: str) -> bool:
    if not project.is_all_read:
        return True
    stem = path.rpartition("/")[2].rpartition(".")[0]
    settings = project.read(site.project_file).decode("utf-8", "replace")
    if any(found.removesuffix(".storyboard") == stem for found in _NAMED_BY_SETTING.findall(settings)):
        return True
    word = re.compile(rf"(?<![\w.]){re.escape(stem)}(?!\w)")
    # A list in UTF-16 has no words that the index could see.
    for other in dict.fromkeys((*project.naming(stem), *project.find("*.plist"))):
        if other == path:
            continue
        if other.endswith(".plist"):
            if _names_in_plist(project, other, stem):
                return True
        elif word.search(project.read(other).decode("utf-8", "replace")):
            return True
    return False


def _names_in_plist(project: Project, path: str, stem: str) -> bool:
    try:
        values = project.plist(path).values
    except RiveltError:
        return True  # what cannot be read may name it
    return any(isinstance(value, str) and value.removesuffix(".storyboard") == stem for value in values.values())
