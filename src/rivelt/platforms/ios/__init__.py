"""iOS and iPadOS: app targets of Xcode projects, their asset catalogs, storyboards and property lists."""

from __future__ import annotations

from rivelt.platforms.ios.facts import screens
from rivelt.platforms.ios.planner import plan, plates
from rivelt.platforms.ios.reader import scene
from rivelt.platforms.ios.survey import survey

TITLE = "iOS and iPadOS"
MASKS: tuple[float, ...] = ()

__all__ = ["MASKS", "TITLE", "plan", "plates", "scene", "screens", "survey"]
