"""The screens of the live page as plain data, and their pictures, each drawn once for what it shows."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Hashable, Mapping
from threading import Lock
from typing import TYPE_CHECKING, Any

from rivelt.layout.fit import allowed_diameter
from rivelt.pixels.encode import shown_png
from rivelt.pixels.planned import PlannedImage
from rivelt.platforms import platform
from rivelt.proof.collect import screen_words
from rivelt.proof.drawn import drawn_scene
from rivelt.scene.model import Picture, Scene
from rivelt.units import Rect

if TYPE_CHECKING:
    from rivelt.pixels.pictures import Pictures
    from rivelt.plan.model import Recipe
    from rivelt.proof.model import Proof
    from rivelt.scene.handoff import Handoff
    from rivelt.scene.site import Site

SCALE = 1.12
"""Image px for each dp or pt, in the view of all screens."""

_MOST_BYTES = 160_000_000  # of pictures that are kept


class Gallery:
    """The pictures that the page may ask for, by names made from their content; those asked for longest ago go first."""

    def __init__(self) -> None:
        self._names: dict[Hashable, str] = {}
        self._pictures: OrderedDict[str, bytes] = OrderedDict()
        self._scenes: OrderedDict[str, Scene] = OrderedDict()
        self._size = 0
        self._lock = Lock()

    def name_of(self, scene: Scene, pictures: Pictures) -> str:
        """Return the name of a scene's picture; what was drawn before is not drawn again."""
        key = (scene.screen, scene.layers)
        with self._lock:
            name = self._names.get(key)
            if name is not None and name in self._pictures:
                self._pictures.move_to_end(name)
                return name
        data = shown_png(drawn_scene(scene, SCALE, pictures))
        name = self.keep(data)
        with self._lock:
            self._names[key] = name
            self._scenes[name] = scene
        return name

    def keep(self, data: bytes) -> str:
        """Keep a picture, and return its name."""
        name = hashlib.sha256(data).hexdigest()[:24]
        with self._lock:
            if name not in self._pictures:
                self._pictures[name] = data
                self._size += len(data)
                while self._size > _MOST_BYTES and len(self._pictures) > 1:
                    gone, lost = self._pictures.popitem(last=False)
                    self._size -= len(lost)
                    self._scenes.pop(gone, None)
        return name

    def picture(self, name: str) -> bytes | None:
        """Return a picture by its name; None if it is no longer kept."""
        with self._lock:
            return self._pictures.get(name)

    def true_pixels(self, name: str, pictures: Pictures) -> bytes | None:
        """Return the same screen with the device's own pixels."""
        with self._lock:
            scene = self._scenes.get(name)
        return None if scene is None else shown_png(drawn_scene(scene, scene.screen.scale, pictures))


def screen_key(site: Site, scene: Scene) -> str:
    """Return what names a screen of a site on the page, the same in each state of the project."""
    text = f"{site.label}\n{site.edition}\n{scene.screen.target}\n{scene.screen.system}\n{scene.screen.name}"
    return hashlib.sha256(text.encode(errors="surrogateescape")).hexdigest()[:16]


def screen_item(site: Site, scene: Scene) -> dict[str, Any]:
    """Return a screen without what it shows."""
    screen = scene.screen
    return {
        "id": screen_key(site, scene),
        "target": site.target,
        "heading": f"{platform(site.target).title} · {site.heading}",
        "system": screen.system,
        "name": screen.name,
        "words": screen_words(screen),
        "width": screen.width,
        "height": screen.height,
        "scale": screen.scale,
        "corner": screen.corner,
        "safe": list(screen.safe_area),
        "always": screen.shows_safe_area,
        "device": screen.is_device,
        "shots": [],
    }


def shot_item(scene: Scene, name: str, before: str | None, clearance: float) -> dict[str, Any]:
    """Return what a screen shows in one look. `name` and `before`: the pictures after and before."""
    mask = scene.mask
    pictures = dict.fromkeys(layer.source for layer in scene.layers if isinstance(layer, Picture))
    return {
        "look": scene.look if len(scene.screen.looks) > 1 else "always",
        "picture": name,
        "before": before,
        "ground": scene.ground.hex[:7] if scene.ground else None,
        "value": scene.ground_in_words,
        "title": scene.title,
        "sources": list(dict.fromkeys("/".join(path.split("/")[-2:]) for path in pictures)),
        "unknown": list(scene.unknowns),
        "mask": [mask.centre.x, mask.centre.y, mask.radius] if mask else None,
        "ring": allowed_diameter(2 * mask.radius, clearance) / 2 if mask and clearance else None,
        "window": _window(scene),
        "marks": [],
        "codes": [],
    }


def add_marks(items: Mapping[str, dict[str, Any]], proof: Proof) -> None:
    """Add to screens, by their keys, what is wrong on them."""
    for site, scene in proof.scenes:
        item = items.get(screen_key(site, scene))
        look = scene.look if len(scene.screen.looks) > 1 else "always"
        for shot in item["shots"] if item is not None else ():
            if shot["look"] == look:
                shot["marks"] = [{"box": list(mark.rect), "codes": list(mark.codes)} for mark in proof.marks_of(scene)]
                shot["codes"] = list(proof.codes_of(scene))


def _window(scene: Scene) -> list[float] | None:
    """The part of the backdrop's file that a screen shows, in shares of its sides; None without one that is to be made."""
    for layer in scene.layers:
        if (
            isinstance(layer, Picture)
            and layer.rect.covers(scene.screen.frame)
            and isinstance(layer.image, PlannedImage)
        ):
            box = _art_box(layer.image.recipe, layer.rect)
            frame = scene.screen.frame
            return [
                (frame.x - box.x) / box.width,
                (frame.y - box.y) / box.height,
                frame.width / box.width,
                frame.height / box.height,
            ]
    return None


def _art_box(recipe: Recipe, rect: Rect) -> Rect:
    """Where the whole art of a plate's first placement is, on the screen that shows the plate in a rectangle."""
    if not recipe.placed:
        return rect
    box, across, down = recipe.placed[0].box, rect.width / recipe.canvas.width, rect.height / recipe.canvas.height
    return Rect(rect.x + box.x * across, rect.y + box.y * down, box.width * across, box.height * down)


def handoff_item(found: Handoff) -> dict[str, Any]:
    """Return what comes after the launch screen."""
    return {
        "name": f"{platform(found.site.target).title} · {found.site.heading}",
        "look": found.look,
        "steps": [
            {
                "moment": step.ground.moment,
                "ground": step.ground.colour.hex[:7] if step.ground.colour else None,
                "change": None if step.difference is None else f"ΔE {step.difference:.0f}",
                "flash": step.is_flash,
            }
            for step in found.steps
        ],
    }
