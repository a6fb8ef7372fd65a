"""An app target as its configurations have it: those that show the same as one."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace

from rivelt.errors import RiveltError
from rivelt.platforms.ios.facts import screens
from rivelt.platforms.ios.native.declared import DICTIONARY_KEY, HIDDEN_KEY, STORYBOARD_KEY, STYLE_KEY, declared
from rivelt.platforms.ios.reader.scene import scene
from rivelt.platforms.ios.site import Declaration, IosSite
from rivelt.project.project import Project

_DECIDE = (STORYBOARD_KEY, DICTIONARY_KEY, STYLE_KEY, HIDDEN_KEY)


def views(project: Project, site: IosSite, _beside: Sequence[IosSite]) -> Sequence[IosSite]:
    """Return a site as each group of its configurations has it; see `rivelt.platforms.Platform.views`."""
    groups: dict[str, list[Declaration]] = {}
    for one in site.declarations:
        groups.setdefault(_outcome(project, site, one), []).append(one)
    if len(groups) <= 1:
        return (site,)
    made = [replace(site, declarations=tuple(its), variants=tuple(one.name for one in its)) for its in groups.values()]
    return tuple(replace(view, today=scene(project, view, screens()[0], "light").title) for view in made)


def _outcome(project: Project, site: IosSite, one: Declaration) -> str:
    """What a configuration declares, as far as its launch screen depends on it."""
    try:
        (found,) = declared(project, (one,), site.project_file)
    except RiveltError as error:
        return error.message
    return json.dumps([found.values.get(key) for key in _DECIDE], sort_keys=True, default=str)
