"""A site: one native project found on disk."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cached_property
from typing import ClassVar

from msgspec import field

from rivelt.errors import BadInput, Refused, RiveltError
from rivelt.plan.owner import Owner
from rivelt.scene.model import Screen
from rivelt.values import Keyed


class Site(Keyed, frozen=True):
    """One native project found on disk. Platforms add what they need to it.

    `name`: a path, or a path and a target's name, unique in the project. `shows`: gives its launch screen now, in words.
    `facts`: what the survey found, for people, in order. `touches`: the files of the person's that apply would edit, as
    far as known without planning.
    `blocked`: why it cannot be handled; such a site is left untouched. `screens`: those of this site alone that a proof shows,
    `every_screen` all that are known for it, where they are not the platform's. `moments`: a screen at several times of its launch, where something moves on it. `exists`: whether anything of it is there yet. `homes`: the folders that must be known whole for anything to be said of it.
    `path`: the file by which it was found. `names`: what a brief may call it. `is_aside`: whether only a brief that names it means it.
    `brief`, `edition`: whose site it is ("": nobody's); see `Owner`. `variants`: the names of the variants of the app that it is looked at
    in, where not all show the same.
    """

    target: str
    name: str
    shows: Callable[[], str] = lambda: ""
    facts: Mapping[str, str] = field(default_factory=dict)
    touches: tuple[str, ...] = ()
    blocked: RiveltError | None = None
    screens: tuple[Screen, ...] = ()
    every_screen: tuple[Screen, ...] = ()
    moments: tuple[Screen, ...] = ()
    exists: bool = True
    homes: tuple[str, ...] = ()
    path: str = ""
    names: tuple[str, ...] = ()
    is_aside: bool = False
    brief: str = ""
    edition: str = ""
    variants: tuple[str, ...] = ()
    not_in_key: ClassVar[frozenset[str]] = frozenset(
        {"shows", "blocked", "screens", "every_screen", "moments", "exists", "homes", "names", "is_aside"}
    )

    @cached_property
    def today(self) -> str:
        """Its launch screen now, in words; read when it is first asked for."""
        return self.shows()

    @property
    def owner(self) -> Owner:
        """Who makes what is made for it."""
        return Owner(self.brief, self.edition, f"{self.target} {self.name}")

    @property
    def label(self) -> str:
        """Target, name and variants, as reports write them: "android android/app (freeDebug, freeRelease)"."""
        shown = f" ({', '.join(self.variants)})" if self.variants else ""
        return f"{self.target} {self.name}{shown}"

    @property
    def heading(self) -> str:
        """Its name with its edition and the variants it is looked at in, for people."""
        edition = f"  ·  edition {self.edition}" if self.edition and not self.name.endswith(f": {self.edition}") else ""
        return f"{self.name}{edition}" + (f"  ·  {', '.join(self.variants)}" if self.variants else "")

    def blame(self, error: RiveltError) -> RiveltError:
        """Return an error with the site it is about, for when it is reported among those of others."""
        kind = Refused if isinstance(error, Refused) else BadInput
        return kind(f"{self.label}: {error.message}", place=error.place, hint=error.hint)
