"""The small launch screens of a brand, for the contact sheet: what the project's files give or, where there is no project, the layout."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, TypeAlias

from rivelt.editions import Edition
from rivelt.errors import RiveltError
from rivelt.job import Job
from rivelt.scene.model import Scene
from rivelt.units import LOOKS, Look, Rect, round_half_up

TALL = 400
"""How many pixels high a small launch screen is."""

_LARGEST_PHONE = 600  # dp or points, of the shorter side

Source: TypeAlias = Literal["project", "layout"]


def launch_screens(job: Job, edition: Edition, *, has_project: bool) -> tuple[Mapping[str, bytes], Source]:
    """Return a phone's launch screen in each look as PNGs, "light.png" and "dark.png", and what they are drawn from.

    Raises:
        BadInput: the art cannot be used.
    """
    from rivelt.pixels.encode import shown_png
    from rivelt.proof.drawn import drawn_scene

    scenes = _phones(job) if has_project else {}
    if set(scenes) >= set(LOOKS):
        pictures = job.planned.pictures
        drawn = {look: drawn_scene(scenes[look], TALL / scenes[look].screen.height, pictures) for look in LOOKS}
        return {f"{look}.png": shown_png(pixels) for look, pixels in drawn.items()}, "project"
    return {f"{look}.png": _laid_out(edition, look) for look in LOOKS}, "layout"


def _phones(job: Job) -> dict[Look, Scene]:
    """The newest phone of the first site, by look, as apply would leave the project; none where it cannot be planned."""
    try:
        evidence = job.planned
        sites = [site for site in evidence.sites if site.blocked is None]
        scenes = [scene for site in sites[:1] for scene in evidence.scenes(site)]
    except RiveltError:
        return {}
    phones = [scene for scene in scenes if scene.screen.width <= scene.screen.height and _is_phone(scene)]
    return {scene.look: scene for scene in phones if not scene.screen.variant}


def _is_phone(scene: Scene) -> bool:
    return min(scene.screen.width, scene.screen.height) < _LARGEST_PHONE


def _laid_out(edition: Edition, look: Look) -> bytes:
    """The launch screen of a phone, laid out as a finished image for uploads is."""
    from rivelt.layout.fullscreen import Canvas, Foot, full_screen
    from rivelt.pixels.render import render
    from rivelt.platforms.facts import ordinary_screen
    from rivelt.platforms.uploads.facts import upload_facts
    from rivelt.units import Size
    from rivelt.values import replace

    screen, facts = ordinary_screen(), upload_facts()
    density = TALL / screen.height
    size = screen.pixels(density)
    foot = Foot(Size(facts.imprint.width, facts.imprint.height), facts.imprint.foot, facts.disc)
    canvas = Canvas(size, density, Rect(0, 0, size.width, round_half_up(size.height)))
    return render(replace(full_screen(edition.context, look, canvas, foot), form="png"))
