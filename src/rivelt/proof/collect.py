"""Which screens a proof shows, chosen by words."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from msgspec import Struct

from rivelt.errors import BadInput, RiveltError, raise_all
from rivelt.evidence import Evidence, shown_moments
from rivelt.findings import Finding
from rivelt.platforms import platform, screens_of, signs
from rivelt.proof.marks import marks_on
from rivelt.proof.model import Mark, Motion, Proof
from rivelt.rules.report import by_severity
from rivelt.rules.runner import Choice
from rivelt.scene.model import Scene, Screen
from rivelt.scene.site import Site

_SMALLEST_TABLET = 600  # dp or points


class ScreenChoice(Struct, frozen=True):
    """Which screens are wanted: those whose words hold any of the texts `wanted`; all that are known, or those proved."""

    wanted: tuple[str, ...] = ()
    is_all: bool = False

    def of(self, site: Site) -> list[Screen]:
        """Return the screens of a site: its own, or those of its platform."""
        known = (
            *screens_of(site, is_all=self.is_all or bool(self.wanted)),
            *(site.moments if self.is_all else shown_moments(site) if self.wanted else ()),
        )
        if not self.wanted:
            return list(known)
        fitting = {screen: None for text in self.wanted for screen in _fitting(text, known)}
        return [screen for screen in known if screen in fitting]


def _fitting(text: str, known: Sequence[Screen]) -> list[Screen]:
    """The screens that a text names: those of the model that is called exactly so, else those whose words hold it."""
    plain = _plain(text)
    exact = [screen for screen in known if plain in {_plain(model) for model in screen.models}]
    return exact or [
        screen for screen in known if text.lower().strip() in screen_words(screen) or plain in _models(screen)
    ]


def _plain(model: str) -> str:
    """A model's name without what is written in several ways: "iPad Air 13-inch (M2)" and "iPad Air 13 M2" are one."""
    text = re.sub(r"[\u2011-]inch|[\"\u2033]|generation|gen\b\.?", " ", model.lower())
    text = re.sub(r"(\d)(?:st|nd|rd|th)\b", r"\1", text)
    return " ".join(re.sub(r"[()]", " ", text).split())


def _models(screen: Screen) -> str:
    return ", ".join(_plain(model) for model in screen.models)


def screen_words(screen: Screen) -> str:
    """Return what a screen is found by: its target, system, name, family and orientation, in lower case."""
    _, family, way = family_of(screen)
    return f"{screen.target} {screen.system} {screen.name} {family} {way}".lower()


def family_of(screen: Screen) -> tuple[str, str, str]:
    """Return what kind of screen one is: its target, its family and its orientation."""
    family = "tablets pads" if min(screen.width, screen.height) >= _SMALLEST_TABLET else "phones"
    return screen.target, family, "landscape" if screen.width > screen.height else "portrait"


def scenes_of(evidence: Evidence, sites: Sequence[Site], choice: ScreenChoice) -> tuple[tuple[Site, Scene], ...]:
    """Return the scenes of the sites that are not blocked: each screen in its looks."""
    return tuple(
        (site, evidence.scene(site, screen, look))
        for site in sites
        if site.blocked is None
        for screen in choice.of(site)
        for look in screen.looks
    )


def _no_screen(sites: tuple[Site, ...], choice: ScreenChoice) -> BadInput:
    known = [screen.system for site in sites for screen in screens_of(site, is_all=True)]
    models = [model for site in sites for screen in screens_of(site, is_all=True) for model in screen.models]
    parts = dict.fromkeys(part.strip() for name in (*models, *known) for part in (name, *name.split(",")))
    near = difflib.get_close_matches(choice.wanted[0], parts, n=1, cutoff=0.5)
    meant = f"Did you mean {near[0]}? " if near else ""
    hint = f"{meant}Words such as phones, tablets, iPad or API 34 find screens; `rivelt proof --all` names them all."
    return BadInput(f"no screen is called {' or '.join(choice.wanted)}", hint=hint)


def refuse_nothing(scenes: Sequence[tuple[Site, Scene]], sites: Sequence[Site], choice: ScreenChoice) -> None:
    """Refuse to show a project of which nothing can be shown.

    Raises:
        BadInput: no screen fits the words, every site is blocked, or there is no site.
    """
    if scenes:
        return
    blocked = [site.blame(site.blocked) for site in sites if site.blocked is not None]
    if len(blocked) < len(sites):
        raise _no_screen(tuple(sites), choice)
    raise_all(blocked)
    raise BadInput("no native project was found", hint=f"Give the folder that holds {signs()} somewhere below it.")


def prove(
    evidence: Evidence,
    rules: Choice,
    screens: ScreenChoice,
    *,
    title: tuple[str, str],
    root: Path,
    blocked: Mapping[Site, RiveltError] | None = None,
    before: Evidence | None = None,
) -> Proof:
    """Return the proof of one state of a project.

    Args:
        evidence: the state that is shown.
        rules: the rules whose findings are marked.
        screens: the screens that are wanted.
        title: the app's name, and its brief as people see it.
        root: the folder of the project.
        blocked: sites that are not shown, with the reasons, where `evidence` is what apply would make.
        before: the state that is shown beside it.

    Raises:
        BadInput: nothing can be shown.
    """
    is_planned = blocked is not None
    hidden = {site.owner for site in blocked or ()}
    sites = [site for site in evidence.sites if site.owner not in hidden and (site.exists or site.blocked is not None)]
    scenes = scenes_of(evidence, sites, screens)
    if blocked is None or not scenes:
        refuse_nothing(scenes, sites, screens)
    reasons = {site: site.blocked for site in sites if site.blocked is not None}
    owners = {site.owner for site, _ in scenes}
    earlier = [site for site in before.sites if site.exists and site.owner in owners] if before is not None else []
    shown_before = scenes_of(before, earlier, screens) if before is not None else ()
    marks, findings = _marks(evidence, sites, scenes, rules)
    if before is not None:
        marks = {**marks, **_marks(before, earlier, shown_before, rules)[0]}
    name, brief = title
    clearances = {found.layout.clearance for site in sites if (found := evidence.brief_of(site)) is not None}
    return Proof(
        name,
        brief,
        is_planned,
        scenes,
        {**reasons, **(blocked or {})},
        before=shown_before,
        clearance=max(clearances, default=0.0),
        motions=tuple(_motions(evidence, sites)) if not screens.wanted else (),
        handoffs=tuple(found for site in sites if site.blocked is None for found in evidence.handoffs(site)),
        marks=marks,
        findings=by_severity(findings),
        pictures=evidence.pictures,
        root=root,
        is_all=screens.is_all,
    )


def _motions(evidence: Evidence, sites: Sequence[Site]) -> Iterator[Motion]:
    """What moves on the launch screens of the sites, in each look."""
    for site in sites:
        looks = site.moments[0].looks if site.moments and site.blocked is None else ()
        for look in looks:
            yield Motion(site, look, tuple(evidence.scene(site, screen, look) for screen in site.moments))


def _moments(evidence: Evidence, site: Site) -> Iterator[Scene]:
    return (evidence.scene(site, screen, look) for screen in site.moments for look in screen.looks)


def _marks(
    evidence: Evidence, sites: Sequence[Site], scenes: Sequence[tuple[Site, Scene]], rules: Choice
) -> tuple[Mapping[int, tuple[Mark, ...]], tuple[Finding, ...]]:
    shown: dict[Site, list[Scene]] = {site: [] for site in sites}
    for site, scene in scenes:
        shown[site].append(scene)
    # An icon that moves is marked where it stands for what is wrong with it on its way.
    judged = {site: (*its, *_moments(evidence, site)) for site, its in shown.items() if its}
    found = [
        finding
        for site, its in judged.items()
        for finding in evidence.judge_by(platform(site.target).rules, site, rules, its)
    ]
    return marks_on(scenes, found, evidence, rules)
