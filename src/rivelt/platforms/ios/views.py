"""An app target as its configurations have it: those that show the same as one."""

from __future__ import annotations

import json
from collections.abc import Sequence

from rivelt.errors import RiveltError
from rivelt.platforms.ios.facts import screens
from rivelt.platforms.ios.native.declared import (
    APPEARANCE_KEY,
    HIDDEN_KEY,
    ORIENTATIONS_KEY,
    STYLE_KEY,
    declared,
    is_launch_key,
)
from rivelt.platforms.ios.native.held import every_held_screen, held, held_screens, shares_screen
from rivelt.platforms.ios.reader.scene import scene
from rivelt.platforms.ios.site import Declaration, IosSite
from rivelt.project.project import Project
from rivelt.values import replace

_DECIDE = frozenset({STYLE_KEY, HIDDEN_KEY, APPEARANCE_KEY, ORIENTATIONS_KEY})


def views(project: Project, site: IosSite, _beside: Sequence[IosSite]) -> Sequence[IosSite]:
    """Return a site as each group of its configurations has it; see `rivelt.platforms.Platform.views`."""
    groups: dict[str, list[Declaration]] = {}
    for one in site.declarations:
        groups.setdefault(_outcome(project, site, one), []).append(one)
    if len(groups) <= 1:
        return (site,)
    return tuple(_of(project, site, its) for its in groups.values())


def _of(project: Project, site: IosSite, its: Sequence[Declaration]) -> IosSite:
    """The site as some configurations have it."""
    view = replace(site, declarations=tuple(its), variants=tuple(one.name for one in its))
    try:
        found = declared(project, its, site.project_file)
    except RiveltError:
        return replace(view, shows=lambda: scene(project, view, screens()[0], "light").title)
    ways = held(its, found)
    shown = held_screens(ways)
    return replace(
        view,
        shows=lambda: scene(project, view, shown[0], "light").title,
        held=ways,
        screens=shown,
        every_screen=every_held_screen(ways, is_shared=shares_screen(found)),
    )


def _outcome(project: Project, site: IosSite, one: Declaration) -> str:
    """What a configuration declares, as far as its launch screen depends on it."""
    try:
        (found,) = declared(project, (one,), site.project_file)
    except RiveltError as error:
        return error.message
    deciding = {
        key: value for key, value in found.values.items() if is_launch_key(key) or key.partition("~")[0] in _DECIDE
    }
    return json.dumps([deciding, one.deployment, one.families], sort_keys=True, default=str)
