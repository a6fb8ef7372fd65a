"""Folders of projects that are one for several platforms: what is below belongs to them."""

from __future__ import annotations

import re

from rivelt.errors import RiveltError
from rivelt.patterns import regex
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import parent

FED = ("android", "ios", "windows")
"""The platforms that a single project can feed."""

_SINGLE = regex(rb"<SingleProject>\s*true\s*</SingleProject>", re.IGNORECASE)


@remembered
def single_homes(project: Project) -> tuple[str, ...]:
    """Return the folders of the .NET single projects that are the project's own."""
    return tuple(parent(path) for path in project.own("*.csproj") if _is_single(project, path))


def _is_single(project: Project, path: str) -> bool:
    try:
        return _SINGLE.search(project.read(path)) is not None
    except RiveltError:
        return False
