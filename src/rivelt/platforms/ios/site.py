"""An app target of an Xcode project."""

from __future__ import annotations

from dataclasses import dataclass

from rivelt.platforms.site import Site

PREFIX = "Rivelt"
MARK = f"{PREFIX}Mark"
IMPRINT = f"{PREFIX}Imprint"
GROUND = f"{PREFIX}Ground"
STORYBOARD = f"{PREFIX}Launch"
CATALOG = f"{PREFIX}.xcassets"


@dataclass(frozen=True)
class IosSite(Site):
    """An app target. Paths are relative to the project's root.

    `project_file`: the `project.pbxproj`. `target_name`: the target. `plists`: its Info.plist files, one per configuration that
    differs. `storyboard`: the launch storyboard it names today, if that file exists. `catalogs`: its asset catalogs.
    `home`: the folder for new files, and `group` the id of the Xcode group for it; None when a synchronised folder includes new
    files by itself. `phase`: the id of its Resources phase. `members`: the files in that phase.
    """

    project_file: str = ""
    target_name: str = ""
    plists: tuple[str, ...] = ()
    storyboard: str | None = None
    catalogs: tuple[str, ...] = ()
    home: str = ""
    group: str | None = None
    phase: str = ""
    members: frozenset[str] = frozenset()
