"""Configuration files of Xcode (`.xcconfig`): build settings, and other files that they include."""

from __future__ import annotations

from collections.abc import Mapping

from rivelt.patterns import regex
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent

_ASSIGNMENT = regex(r"([A-Za-z_][\w]*(?:\[[^\]]*\])*)\s*=\s*(.*)$")
_INCLUDE = regex(r'#include\??\s*"([^"]+)"')
_MOST_INCLUDES = 100


@remembered
def xcconfig(project: Project, path: str) -> Mapping[str, str]:
    """Return the settings of a configuration file and of those it includes, each read once; a file that is not there has none."""
    return _read_xcconfig(project, path, set())


def _read_xcconfig(project: Project, path: str, seen: set[str]) -> dict[str, str]:
    if path not in project or path in seen or len(seen) > _MOST_INCLUDES:
        return {}
    seen.add(path)
    settings: dict[str, str] = {}
    for line in project.read(path).decode("utf-8", "replace").splitlines():
        text = line.partition("//")[0].strip()
        if found := _INCLUDE.match(text):
            settings |= _read_xcconfig(project, join(parent(path), found[1]), seen)
        elif found := _ASSIGNMENT.match(text):
            settings[found[1]] = found[2].strip().removesuffix(";").strip().strip('"')
    return settings
