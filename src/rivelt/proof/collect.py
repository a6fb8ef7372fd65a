"""The scenes of a project: every site on every screen, in both looks."""

from __future__ import annotations

import difflib
from dataclasses import dataclass

from rivelt.errors import BadInput, raise_all
from rivelt.platforms import platform, signs
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot
from rivelt.proof.model import Proof
from rivelt.scene.model import Scene, Screen

_SMALLEST_TABLET = 600  # dp or points


@dataclass(frozen=True)
class ScreenChoice:
    """Which screens are wanted: those whose words hold any of the texts `wanted`; all that are known, or those proved."""

    wanted: tuple[str, ...] = ()
    is_all: bool = False

    def of(self, site: Site) -> list[Screen]:
        """The screens of a site: its own, or those of its platform."""
        its = platform(site.target)
        known = site.screens or (its.every_screen() if self.is_all or self.wanted else its.screens())
        return [
            screen
            for screen in known
            if not self.wanted or any(text.lower().strip() in screen_words(screen) for text in self.wanted)
        ]


def screen_words(screen: Screen) -> str:
    """What a screen is found by: its target, system, name and family, in lower case."""
    family = "tablets pads" if min(screen.width, screen.height) >= _SMALLEST_TABLET else "phones"
    return f"{screen.target} {screen.system} {screen.name} {family}".lower()


def scenes_of(snapshot: Snapshot, sites: tuple[Site, ...], choice: ScreenChoice) -> tuple[tuple[Site, Scene], ...]:
    """The scenes of the sites that are not blocked: each screen in both looks."""
    return tuple(
        (site, platform(site.target).scene(snapshot, site, screen, look))
        for site in sites
        if site.blocked is None
        for screen in choice.of(site)
        for look in screen.looks
    )


def _no_screen(sites: tuple[Site, ...], choice: ScreenChoice) -> BadInput:
    known = [screen.system for site in sites for screen in site.screens or platform(site.target).every_screen()]
    parts = dict.fromkeys(part.strip() for name in known for part in (name, *name.split(",")))
    near = difflib.get_close_matches(choice.wanted[0], parts, n=1, cutoff=0.5)
    meant = f"Did you mean {near[0]}? " if near else ""
    hint = f"{meant}Words such as phones, tablets, iPad or API 34 find screens; `rivelt proof --all` names them all."
    return BadInput(f"no screen is called {' or '.join(choice.wanted)}", hint=hint)


def collect(
    name: str, brief: str, snapshot: Snapshot, sites: tuple[Site, ...], choice: ScreenChoice, *, is_planned: bool
) -> Proof:
    """Work out the scenes of the sites that are not blocked.

    Args:
        name: the app's name.
        brief: the brief as people see it.
        snapshot: the project's files, as they are or as they would be.
        sites: the sites of the project.
        choice: the screens that are wanted.
        is_planned: whether the files are as they would be.

    Raises:
        BadInput: no site can be shown.
    """
    scenes = scenes_of(snapshot, sites, choice)
    blocked = {site: site.blocked for site in sites if site.blocked is not None}
    if not scenes and len(blocked) < len(sites):
        raise _no_screen(sites, choice)
    if not scenes:
        raise_all([site.blame(error) for site, error in blocked.items()])
        hint = f"Give the folder that holds {signs()} somewhere below it."
        raise BadInput("no native project was found", hint=hint)
    return Proof(name, brief, is_planned, scenes, blocked)
