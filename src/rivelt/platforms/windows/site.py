"""A Windows package."""

from __future__ import annotations

from rivelt.scene.site import Site


class WindowsSite(Site, frozen=True):
    """A package. Paths are relative to the project's root.

    `manifest`: its package manifest. `project_files`: those beside it that may list its images.
    """

    manifest: str = ""
    project_files: tuple[str, ...] = ()
