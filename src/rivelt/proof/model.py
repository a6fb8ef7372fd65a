"""A proof as data: which scenes are shown, and of what."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rivelt.errors import RiveltError
from rivelt.platforms.site import Site
from rivelt.scene.model import Scene


@dataclass(frozen=True)
class Proof:
    """The scenes of a project by site and screen, the looks of one screen next to each other.

    `brief` is its path as people see it. `is_planned`: the project as apply would leave it. `blocked`: sites that cannot be shown.
    `before`: the same screens as the project is now, if they are wanted. `clearance`: the free ring inside a mask, as a share of its
    diameter; 0 when no brief says it.
    """

    name: str
    brief: str
    is_planned: bool
    scenes: tuple[tuple[Site, Scene], ...]
    blocked: Mapping[Site, RiveltError]
    before: tuple[tuple[Site, Scene], ...] = ()
    clearance: float = 0.0
