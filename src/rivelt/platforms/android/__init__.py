"""Android: app modules, their resources and their manifest."""

from __future__ import annotations

from rivelt.platforms.android.facts import android_facts, screens
from rivelt.platforms.android.planner import plan, plates
from rivelt.platforms.android.reader import scene
from rivelt.platforms.android.survey import survey

TITLE = "Android"
MASKS = (android_facts().icon.mask,)

__all__ = ["MASKS", "TITLE", "plan", "plates", "scene", "screens", "survey"]
