"""The proof as one page: every screen in a browser, with switches for looks and guides, and a slider from before to after."""

from __future__ import annotations

import base64
from collections.abc import Iterator, Mapping
from itertools import groupby
from typing import TYPE_CHECKING, Any

from rivelt import __version__
from rivelt.layout.fit import allowed_diameter
from rivelt.pixels.encode import shown_png
from rivelt.pixels.pictures import Pictures
from rivelt.platforms import platform
from rivelt.progress import Progress, no_progress
from rivelt.proof.alike import grouped
from rivelt.proof.collect import screen_words
from rivelt.proof.drawn import common_windows, drawn_at
from rivelt.proof.model import Motion, Proof
from rivelt.proof.moving import film
from rivelt.scene.handoff import Handoff
from rivelt.scene.model import Picture, Scene, Screen
from rivelt.templating import Templates
from rivelt.units import Look, Rect

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

SHOWN = 0.56
"""CSS px for each dp or pt: one scale for all screens."""

DRAWN = 1.12
"""Image px for each dp or pt: twice what is shown, for fine displays."""

_TALLEST = 440.0  # CSS px

_FRAME = 200
"""The side of a frame of a motion, in px."""

_TAG, _LETTER = 24.0, 11.6
"""The height of a tag and the width of a letter on it, in dp or pt."""

_TEMPLATES = Templates("rivelt.proof")
_Key = tuple[str, Screen, Look]


def draw_page(proof: Proof, on_progress: Progress = no_progress) -> str:
    """Return the page as HTML that needs nothing else, and no network. The same proof gives the same text.

    `on_progress` is called with how many screens are drawn.
    """
    now = {(site.label, scene.screen, scene.look): scene for site, scene in proof.before}
    scenes = [scene for _, scene in proof.scenes] + list(now.values())
    scaled = [(scene, shown_scale(scene.screen) * DRAWN / SHOWN) for scene in scenes]
    images = drawn_at(scaled, proof.pictures, on_progress)
    shown = {id(scenes[index]): image_source(image) for index, image in images}
    windows = common_windows([scene for _, scene in proof.scenes])
    return _TEMPLATES.render(
        "page.html.j2",
        proof=proof,
        version=__version__,
        has_before=bool(now),
        blocked=[f"{site.target} {site.name}: {error.message}" for site, error in proof.blocked.items()],
        handoffs=[_handoff(found) for found in proof.handoffs],
        motions=[_motion(found, proof.pictures or Pictures()) for found in proof.motions],
        groups=list(_groups(proof, now, shown, windows)),
    )


def shown_scale(screen: Screen) -> float:
    """Return CSS px for each dp or pt of a screen; what is no screen of a device, such as an image for a store, is made to fit."""
    return SHOWN if screen.is_device else min(SHOWN, _TALLEST / screen.height, _TALLEST / screen.width)


def press_css() -> str:
    """Return the style that all pages share, as HTML takes it."""
    from markupsafe import Markup

    return Markup(_TEMPLATES.render("press.css.j2"))


def image_source(image: NDArray[np.uint8]) -> str:
    """Return an image (height x width x 4, sRGB) as an address that holds all of it."""
    return "data:image/png;base64," + base64.b64encode(shown_png(image)).decode()


def _groups(
    proof: Proof, now: Mapping[_Key, Scene], images: Mapping[int, str], windows: Mapping[int, Rect]
) -> Iterator[dict[str, Any]]:
    """The screens of each site; those that look the same as another one under that."""
    pictures = proof.pictures or Pictures()
    for site, of_site in groupby(proof.scenes, key=lambda shown: shown[0]):
        scenes = [[scene for _, scene in its] for _, its in groupby(of_site, key=lambda shown: shown[1].screen)]
        before = [[now.get((site.label, scene.screen, scene.look)) for scene in its] for its in scenes]
        screens = [
            _screen(
                its[0].screen,
                [_shot(proof, scene, old, images, windows) for scene, old in zip(its, olds, strict=True)],
            )
            for its, olds in zip(scenes, before, strict=True)
        ]
        groups = [[index] for index in range(len(screens))]
        if not proof.is_all:
            shown = [[*its, *(old for old in olds if old)] for its, olds in zip(scenes, before, strict=True)]
            groups = grouped(proof, shown, pictures)
        title = platform(site.target).title
        yield {
            "title": title,
            "site": site.heading,
            "heading": f"{title} · {site.heading}",
            "count": len(screens),
            "codes": ", ".join(
                dict.fromkeys(shot["codes"] for one in screens for shot in one["shots"] if shot["codes"])
            ),
            "screens": [{**screens[first], "alike": [screens[one] for one in others]} for first, *others in groups],
        }


def _handoff(found: Handoff) -> dict[str, Any]:
    steps = [
        {
            "moment": step.ground.moment,
            "ground": step.ground.colour.hex[:7] if step.ground.colour else None,
            "change": None if step.difference is None else f"ΔE {step.difference:.0f}",
            "is_flash": step.is_flash,
        }
        for step in found.steps
    ]
    return {"name": f"{platform(found.site.target).title} · {found.site.heading}", "look": found.look, "steps": steps}


def _motion(found: Motion, pictures: Pictures) -> dict[str, Any]:
    return {
        "name": f"{platform(found.site.target).title} · {found.site.heading}",
        "look": found.look,
        "frames": len(found.scenes),
        "length": found.length_ms,
        "image": image_source(film(found, _FRAME, pictures)),
        "unknown": list(dict.fromkeys(reason for scene in found.scenes for reason in scene.unknowns)),
    }


def _screen(screen: Screen, shots: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "system": screen.system,
        "name": screen.name,
        "words": screen_words(screen),
        "width": f"{screen.width * shown_scale(screen):g}",
        "ratio": f"{screen.width:g} / {screen.height:g}",
        "corner": f"{screen.corner * shown_scale(screen):g}",
        "points": (f"{screen.width:g}", f"{screen.height:g}"),
        "safe": tuple(f"{value:g}" for value in screen.safe_area),
        "always": screen.shows_safe_area,
        "shots": shots,
    }


def _marks(proof: Proof, scene: Scene) -> list[dict[str, Any]]:
    """What is wrong where: a box, and a tag with the codes above it (at the top of the screen, in it); in dp or pt."""
    return [
        {
            "box": tuple(f"{value:.1f}" for value in mark.rect),
            "codes": " ".join(mark.codes),
            "tag": (f"{max(0.0, mark.rect.x):.1f}", f"{max(0.0, mark.rect.y - _TAG):.1f}"),
            "width": f"{_LETTER * len(' '.join(mark.codes)) + 8:.1f}",
        }
        for mark in proof.marks_of(scene)
    ]


def _shot(
    proof: Proof, scene: Scene, before: Scene | None, images: Mapping[int, str], windows: Mapping[int, Rect]
) -> dict[str, Any]:
    mask = scene.mask
    pictures = dict.fromkeys(layer.source for layer in scene.layers if isinstance(layer, Picture))
    sources = dict.fromkeys("/".join(path.split("/")[-2:]) for path in pictures)
    return {
        "look": scene.look if len(scene.screen.looks) > 1 else "always",
        "image": images[id(scene)],
        "before": images[id(before)] if before is not None else None,
        "ground": scene.ground.hex if scene.ground else None,
        "value": scene.ground_in_words,
        "title": scene.title,
        "sources": list(sources),
        "reasons": scene.unknowns,
        "marks": _marks(proof, scene),
        "codes": ", ".join(proof.codes_of(scene)),
        "marks_before": _marks(proof, before) if before is not None else [],
        "window": tuple(f"{value:.2f}" for value in windows[id(scene)]) if id(scene) in windows else None,
        "mask": (f"{mask.centre.x:g}", f"{mask.centre.y:g}", f"{mask.radius:g}") if mask else None,
        "ring": f"{allowed_diameter(2 * mask.radius, proof.clearance) / 2:g}" if mask and proof.clearance else None,
    }
