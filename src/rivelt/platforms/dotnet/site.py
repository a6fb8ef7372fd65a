"""A .NET single project."""

from __future__ import annotations

from rivelt.project.single import FED
from rivelt.scene.site import Site

__all__ = ["FED", "DotnetSite"]


class DotnetSite(Site, frozen=True):
    """A single project. Paths are relative to the project's root.

    `project_file`: the project file. `feeds`: the platforms that it is built for, of `FED`.
    """

    project_file: str = ""
    feeds: tuple[str, ...] = ()
