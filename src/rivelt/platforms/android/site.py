"""An Android app module."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

from rivelt.platforms.site import Site

PREFIX = "rivelt_"
LAUNCH_THEME = f"{PREFIX}launch"
VALUES_FILE = f"{PREFIX}launch.xml"

Language: TypeAlias = Literal["Kotlin", "Java"]


@dataclass(frozen=True)
class AndroidSite(Site):
    """An Android app module.

    `theme`: the theme reference that the launcher starts with. `app_theme`: the one that the app uses after launch.
    `source`: the launcher activity's file, if it was found. `min_sdk`: its lowest API level, if it could be read.
    """

    manifest: str = ""
    res: str = ""
    activity: str = ""
    theme: str | None = None
    app_theme: str = ""
    source: str | None = None
    language: Language = "Kotlin"
