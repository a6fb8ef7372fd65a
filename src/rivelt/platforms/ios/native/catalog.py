"""Asset catalogs: which image or colour a device is given."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.errors import BadInput, RiveltError
from rivelt.platforms.ios.facts import ios_facts, size_classes
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.scene.model import Screen
from rivelt.units import Look, Size

_SIZE_CLASSES = ("width-class", "height-class")


@dataclass(frozen=True)
class CatalogImage:
    """An image of an image set: its file, and how many pixels it has per point (None: a vector)."""

    path: str
    scale: int | None


def find_image(project: Project, catalogs: Iterable[str], name: str, screen: Screen, look: Look) -> CatalogImage | None:
    """The file that an image set gives a screen: its look first, then its scale, else the next larger, else the largest."""
    found = _contents(project, catalogs, f"{name}.imageset")
    if found is None:
        return None
    folder, contents = found
    fitting = [entry for entry in _for_look(contents.get("images"), look) if entry.get("filename")]
    fitting = [entry for entry in fitting if _suits(entry, screen)]
    chosen = _for_idiom(fitting, screen)
    # What names the screen's size class comes before what names none.
    chosen = sorted(chosen, key=lambda entry: -sum(key in entry for key in _SIZE_CLASSES))
    by_scale: dict[int, str] = {}
    for entry in chosen:
        if "scale" not in entry:
            return CatalogImage(join(folder, str(entry["filename"])), None)
        scale = re.match(r"[1-9]", str(entry["scale"]))
        by_scale.setdefault(int(scale[0]) if scale else 1, str(entry["filename"]))
    if not by_scale:
        return None
    larger = [scale for scale in by_scale if scale >= screen.scale]
    chosen_scale = min(larger) if larger else max(by_scale)
    return CatalogImage(join(folder, by_scale[chosen_scale]), chosen_scale)


def image_size(project: Project, image: CatalogImage) -> Size | None:
    """The size of an image in points; None when the file is not there or not readable."""
    if image.path not in project:
        return None
    if image.scale is None:
        try:
            return read_art(project.read(image.path), image.path.rpartition("/")[2]).size
        except RiveltError:
            return None
    pixels = project.image(image.path).size
    return Size(pixels.width / image.scale, pixels.height / image.scale) if pixels else None


def _suits(entry: Mapping[str, Any], screen: Screen) -> bool:
    """Whether the size classes that an entry names are the screen's."""
    return all(
        entry.get(key) in {None, "any", value} for key, value in zip(_SIZE_CLASSES, size_classes(screen), strict=True)
    )


def find_colour(
    project: Project, catalogs: Iterable[str], name: str, screen: Screen, look: Look
) -> tuple[Colour, str] | None:
    """The colour that a colour set gives a screen, and the file it stands in; None when it is not there or of another space."""
    found = _contents(project, catalogs, f"{name}.colorset")
    if found is None:
        return None
    folder, contents = found
    for entry in _for_idiom(_for_look(contents.get("colors"), look), screen):
        colour = _colour(entry.get("color"))
        if colour is not None:
            return colour, join(folder, "Contents.json")
    return None


def _contents(project: Project, catalogs: Iterable[str], folder_name: str) -> tuple[str, Mapping[str, Any]] | None:
    for catalog in catalogs:
        for path in _sets(project, catalog).get(folder_name, ()):
            try:
                return parent(path), project.json(path).value
            except BadInput:
                continue
    return None


@remembered
def _sets(project: Project, catalog: str) -> Mapping[str, Sequence[str]]:
    """The `Contents.json` files of a catalog by the names of the folders they are in."""
    found: dict[str, list[str]] = {}
    for path in project.below(catalog):
        if path.endswith("/Contents.json"):
            found.setdefault(parent(path).rpartition("/")[2], []).append(path)
    return found


def _for_look(entries: object, look: Look) -> Sequence[Mapping[str, Any]]:
    """The entries for a look: those that name it, else those that name none."""
    usable = [entry for entry in entries if isinstance(entry, dict)] if isinstance(entries, list) else []
    plain = [entry for entry in usable if not entry.get("appearances")]
    named = [
        entry
        for entry in usable
        if any(
            isinstance(appearance, dict)
            and appearance.get("appearance") == "luminosity"
            and appearance.get("value") == look
            for appearance in entry.get("appearances") or []
        )
    ]
    return named or plain


def _for_idiom(entries: Sequence[Mapping[str, Any]], screen: Screen) -> Sequence[Mapping[str, Any]]:
    """The entries for the screen's kind of device: those that name it, else the universal ones."""
    idiom = "ipad" if min(screen.width, screen.height) >= ios_facts().smallest_pad else "iphone"
    return [entry for entry in entries if entry.get("idiom") == idiom] or [
        entry for entry in entries if entry.get("idiom") == "universal"
    ]


def _colour(value: object) -> Colour | None:
    """A colour entry in sRGB; components are hex ("0xF3"), whole numbers from 0 to 255, or fractions."""
    if not isinstance(value, dict) or value.get("color-space") not in {"srgb", "extended-srgb"}:
        return None
    components: Any = value.get("components")
    try:
        red, green, blue = (_channel(components[name]) for name in ("red", "green", "blue"))
        return Colour(red, green, blue, round(float(components.get("alpha", 1)) * 255))
    except (KeyError, TypeError, ValueError, OverflowError, AttributeError):
        return None


def _channel(text: object) -> int:
    shown = str(text)
    if shown.startswith("0x"):
        return int(shown, 16)
    return round(float(shown) * 255) if "." in shown else int(shown)
