"""The pictures behind everything, on every screen."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from rivelt.art.source import Art
from rivelt.artwork.gather import backdrop_art
from rivelt.artwork.sharpness import SHARP
from rivelt.brief.model import Brief
from rivelt.errors import Place
from rivelt.findings import Finding
from rivelt.platforms import platform
from rivelt.units import LOOKS, Look, Size

if TYPE_CHECKING:
    from rivelt.art.backdrop import Coverage
    from rivelt.colour import Colour


@dataclass(frozen=True)
class BackdropReport:
    """What is known of a backdrop: how it covers every screen of the targets, and the ground that was taken from it, if any."""

    art: Art
    looks: tuple[Look, ...]
    coverage: Coverage
    chosen_ground: Colour | None
    findings: tuple[Finding, ...]


def report_backdrops(brief: Brief, targets: Iterable[str]) -> list[BackdropReport]:
    """Judge the backdrops of a brief on every screen of some targets, upright and on its side."""
    from rivelt.art.backdrop import coverage

    screens = [
        (f"{screen.system}{side}", Size(*sides).scaled(screen.scale))
        for target in targets
        for screen in platform(target).every_screen()
        for side, sides in (("", (screen.width, screen.height)), (", landscape", (screen.height, screen.width)))
    ]
    paths: dict[str, list[Look]] = {}
    for look in LOOKS:
        path = brief.looks[look].backdrop
        if path:
            paths.setdefault(path, []).append(look)
    reports = []
    for looks in paths.values():
        art = backdrop_art(brief, looks[0])
        found = coverage(art.size, brief.layout.focus, screens)
        shown = brief.looks[looks[0]]
        place = brief.place(f"{looks[0]}.backdrop")
        findings = tuple(_backdrop_findings(art, found, place))
        reports.append(
            BackdropReport(art, tuple(looks), found, None if shown.is_ground_given else shown.ground, findings)
        )
    return reports


def _backdrop_findings(art: Art, found: Coverage, place: Place | None) -> Iterable[Finding]:
    if found.cut:
        message = f"the focus of {art.name} is cut off on {len(found.cut)} of {found.screens} screens, {found.cut[0]} among them"
        box = found.common
        hint = (
            f"Every screen shows only {box.width:.0f} x {box.height:.0f} of its pixels, from {box.x:.0f}, {box.y:.0f}: "
            "place what matters there."
        )
        yield Finding("ART06", "warning", message, hint, place)
    if art.svg is None and found.enlarged > SHARP * 1.01:
        message = f"{art.name} has too few pixels: on the largest screen it is enlarged {found.enlarged:.1f} times"
        hint = f"Ask for {found.wanted.width:.0f} x {found.wanted.height:.0f} pixels."
        yield Finding("ART02", "warning", message, hint, place)
