"""A proof as data: which scenes are shown, and of what."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.errors import RiveltError
from rivelt.scene.handoff import Handoff
from rivelt.scene.model import Scene
from rivelt.scene.site import Site
from rivelt.units import Rect

if TYPE_CHECKING:
    from rivelt.pixels.pictures import Pictures


class Mark(Struct, frozen=True):
    """A place on a screen (dp or pt) where something is wrong, with the codes of the findings."""

    rect: Rect
    codes: tuple[str, ...]


@dataclass(frozen=True)
class Proof:
    """The scenes of a project by site and screen, the looks of one screen next to each other.

    `brief` is its path as people see it. `is_planned`: the project as apply would leave it. `blocked`: sites that cannot be shown.
    `before`: the same screens as the project is now, if they are wanted. `clearance`: the free ring inside a mask, as a share of its
    diameter; 0 when no brief says it. `handoffs`: one for each site and look. `marks`: what is wrong where, by the `id` of a scene.
    `pictures`: what has decoded the bitmaps of the scenes.
    """

    name: str
    brief: str
    is_planned: bool
    scenes: tuple[tuple[Site, Scene], ...]
    blocked: Mapping[Site, RiveltError]
    before: tuple[tuple[Site, Scene], ...] = ()
    clearance: float = 0.0
    handoffs: tuple[Handoff, ...] = ()
    marks: Mapping[int, tuple[Mark, ...]] = field(default_factory=dict)
    pictures: Pictures | None = field(default=None, compare=False, repr=False)

    def marks_of(self, scene: Scene) -> tuple[Mark, ...]:
        """What is wrong on a scene of this proof."""
        return self.marks.get(id(scene), ())

    def codes_of(self, scene: Scene) -> tuple[str, ...]:
        """The codes of what is wrong on a scene of this proof, each once."""
        return tuple(sorted({code for mark in self.marks_of(scene) for code in mark.codes}))
