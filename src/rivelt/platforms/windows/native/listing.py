"""Project files that list a package's images."""

from __future__ import annotations

import re
from fnmatch import fnmatch

from msgspec import Struct

from rivelt.edit.xml import Node
from rivelt.patterns import regex
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent

PROJECT_FILES = (
    ".csproj",
    ".vbproj",
    ".fsproj",
    ".vcxproj",
    ".vcxproj.filters",
    ".jsproj",
    ".njsproj",
    ".wapproj",
    ".projitems",
    ".vcxitems",
)
SHARED_LISTS = (".projitems", ".vcxitems")
"""Lists of shared projects, which other projects import."""

_IMAGES = (".png", ".jpg", ".jpeg")
HOME = regex(r"^\$\((?:ProjectDir|MSBuildThisFileDirectory|MSBuildProjectDirectory)\)[\\/]?", re.IGNORECASE)


class Item(Struct, frozen=True):
    """One entry: its element, and the files or wildcards it includes, as written and as paths in lower case."""

    node: Node
    written: tuple[str, ...]
    paths: tuple[str, ...]
    excluded: tuple[str, ...]

    def covers(self, path: str) -> bool:
        """Return whether the entry includes a path."""
        low = path.lower()
        is_in = any(fnmatch(low, _pattern(found)) for found in self.paths)
        return is_in and not any(fnmatch(low, _pattern(found)) for found in self.excluded)

    @property
    def is_image(self) -> bool:
        """Whether it is one image."""
        return len(self.paths) == 1 and "*" not in self.paths[0] and self.paths[0].endswith(_IMAGES)


@remembered
def listed(project: Project, path: str) -> tuple[Item, ...]:
    """Return the entries of a project file.

    Raises:
        BadInput: it is not well-formed.
    """
    document, folder = project.xml(path), parent(path)
    found = []
    for group in document.root.all("ItemGroup"):
        for node in group.children:
            include = node.get("Include")
            if include is not None:
                written = tuple(part.strip() for part in include.split(";") if part.strip())
                excluded = (node.get("Exclude") or "").split(";")
                found.append(
                    Item(
                        node,
                        written,
                        tuple(_path(folder, part) for part in written),
                        tuple(_path(folder, part.strip()) for part in excluded if part.strip()),
                    )
                )
    return tuple(found)


def _path(folder: str, written: str) -> str:
    return join(folder, *HOME.sub("", written).replace("\\", "/").split("/")).lower()


def _pattern(path: str) -> str:
    """A wildcard of MSBuild as one of `fnmatch`, whose `*` crosses folders; `**/` may also stand for nothing."""
    return path.replace("[", "[[]").replace("**/*", "*").replace("**", "*")


def is_listed(project: Project, path: str, image: str) -> bool:
    """Return whether a project file lists an image, by its name or by a wildcard; one that lists nothing itself leaves that to the SDK.

    Raises:
        BadInput: it is not well-formed.
    """
    items = listed(project, path)
    has_sdk = project.xml(path).root.get("Sdk") is not None
    is_left_to_sdk = has_sdk and not any(item.is_image for item in items)
    return is_left_to_sdk or any(item.covers(image) for item in items)
