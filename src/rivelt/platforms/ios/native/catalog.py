"""Asset catalogs: which image or colour a device is given.

https://developer.apple.com/library/archive/documentation/Xcode/Reference/xcode_ref-Asset_Catalog_Format/
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from msgspec import Struct

from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.errors import BadInput, RiveltError
from rivelt.patterns import regex
from rivelt.platforms.ios.facts import idiom_of, size_classes
from rivelt.platforms.ios.native.colours import catalog_colour, system_colour
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.scene.model import Screen
from rivelt.units import Look, Size

_SIZE_CLASSES = ("width-class", "height-class")
_VECTORS = (".svg", ".pdf")
_MEDIA_BOX = regex(rb"/MediaBox\s*\[\s*([-+.\d]+)\s+([-+.\d]+)\s+([-+.\d]+)\s+([-+.\d]+)\s*\]")


class Slices(Struct, frozen=True):
    """The caps of an image that stretches between them, in pixels of the image; `is_tiled`: the middle is repeated, not stretched."""

    top: float = 0.0
    left: float = 0.0
    bottom: float = 0.0
    right: float = 0.0
    is_tiled: bool = False
    stretches_across: bool = True
    stretches_down: bool = True


class CatalogImage(Struct, frozen=True):
    """An image that a device is given: its file, and how many pixels it has per point (None: a vector).

    `is_template`: only its alpha counts, and it is painted in the tint colour. `slices`: how it stretches, None for as a whole.
    """

    path: str
    scale: int | None
    is_template: bool = False
    slices: Slices | None = None

    @property
    def is_pdf(self) -> bool:
        """Whether it is a PDF, which is not drawn."""
        return self.path.lower().endswith(".pdf")


class Named(Struct, frozen=True):
    """An image set or colour set by its name: the folder of its `Contents.json`, and the entries in it."""

    folder: str
    contents: Mapping[str, Any]


def find_image(project: Project, catalogs: Iterable[str], name: str, screen: Screen, look: Look) -> CatalogImage | None:
    """Return the file that an image set gives a screen: of its idiom and look, then of its scale, else the next larger, else the largest.

    None when no set of that name is there, it has no file for the screen, or which one is taken is not certain.
    """
    found = find_set(project, catalogs, f"{name}.imageset")
    if found is None:
        return None
    usable = [entry for entry in _entries(found, "images") if entry.get("filename") and _suits(entry, screen)]
    chosen = _chosen(usable, screen, look)
    if chosen is None:
        return None
    # What names the screen's size class comes before what names none.
    chosen = sorted(chosen, key=lambda entry: -sum(key in entry for key in _SIZE_CLASSES))
    properties = found.contents.get("properties")
    is_template = isinstance(properties, dict) and properties.get("template-rendering-intent") == "template"
    by_scale: dict[int, Mapping[str, Any]] = {}
    for entry in chosen:
        if "scale" not in entry:
            path = join(found.folder, str(entry["filename"]))
            # A bitmap without a scale is one pixel per point.
            return CatalogImage(path, None if path.lower().endswith(_VECTORS) else 1, is_template, _slices(entry))
        scale = re.match(r"[1-9]", str(entry["scale"]))
        by_scale.setdefault(int(scale[0]) if scale else 1, entry)
    return _of_scale(found, by_scale, screen, is_template=is_template)


def _of_scale(
    found: Named, by_scale: Mapping[int, Mapping[str, Any]], screen: Screen, *, is_template: bool
) -> CatalogImage | None:
    if not by_scale:
        return None
    larger = [scale for scale in by_scale if scale >= screen.scale]
    scale = min(larger) if larger else max(by_scale)
    path = join(found.folder, str(by_scale[scale]["filename"]))
    is_vector = path.lower().endswith(_VECTORS)
    return CatalogImage(path, None if is_vector else scale, is_template, _slices(by_scale[scale]))


def find_loose(members: Iterable[str], name: str, screen: Screen) -> CatalogImage | None:
    """Return the image file beside the app's code that a name means on a screen: `name@2x.png`, for one idiom `name@2x~ipad.png`."""
    stem, _, ending = name.rpartition(".") if name.lower().endswith((".png", ".jpg", ".jpeg")) else (name, "", "png")
    wanted = re.compile(rf"{re.escape(stem)}(?:@([123])x)?(~ipad|~iphone)?\.{re.escape(ending)}")
    by_scale: dict[int, tuple[bool, str]] = {}
    for path in sorted(members):
        found = wanted.fullmatch(path.rpartition("/")[2])
        if found and found[2] in {None, f"~{idiom_of(screen)}"}:
            scale = int(found[1] or 1)
            by_scale[scale] = max(by_scale.get(scale, (False, path)), (found[2] is not None, path))
    if not by_scale:
        return None
    larger = [scale for scale in by_scale if scale >= screen.scale]
    scale = min(larger) if larger else max(by_scale)
    return CatalogImage(by_scale[scale][1], scale)


def image_size(project: Project, image: CatalogImage) -> Size | None:
    """Return the size of an image in points; None when the file is not there or not readable."""
    if image.path not in project:
        return None
    if image.is_pdf:
        return _pdf_size(project.read(image.path))
    if image.scale is None:
        try:
            return read_art(project.read(image.path), image.path.rpartition("/")[2]).size
        except RiveltError:
            return None
    pixels = project.image(image.path).size
    return Size(pixels.width / image.scale, pixels.height / image.scale) if pixels else None


def _pdf_size(data: bytes) -> Size | None:
    """The size of a PDF's first page in points (ISO 32000-1, "MediaBox"), where it stands in the file uncompressed."""
    found = _MEDIA_BOX.search(data)
    try:
        left, low, right, high = (float(value) for value in found.groups()) if found else (0.0,) * 4
    except ValueError:
        return None
    return Size(right - left, high - low) if right > left and high > low else None


def _slices(entry: Mapping[str, Any]) -> Slices | None:
    """How an entry stretches: between caps, given in pixels."""
    resizing = entry.get("resizing")
    if not isinstance(resizing, dict):
        return None
    caps, center, mode = resizing.get("cap-insets"), resizing.get("center"), str(resizing.get("mode"))
    caps = caps if isinstance(caps, dict) else {}
    try:
        top, left, bottom, right = (float(caps.get(side, 0)) for side in ("top", "left", "bottom", "right"))
    except (TypeError, ValueError):
        return None
    is_tiled = isinstance(center, dict) and center.get("mode") == "tile"
    return Slices(
        top,
        left,
        bottom,
        right,
        is_tiled,
        stretches_across="vertical" not in mode,
        stretches_down="horizontal" not in mode,
    )


def _suits(entry: Mapping[str, Any], screen: Screen) -> bool:
    """Whether the size classes that an entry names are the screen's."""
    return all(
        entry.get(key) in {None, "any", value} for key, value in zip(_SIZE_CLASSES, size_classes(screen), strict=True)
    )


def find_colour(
    project: Project, catalogs: Iterable[str], name: str, screen: Screen, look: Look
) -> tuple[Colour, str] | None:
    """Return the colour that a colour set gives a screen, and the file it stands in; None when it is not there or of another space."""
    found = find_set(project, catalogs, f"{name}.colorset")
    if found is None:
        return None
    for entry in _chosen(_entries(found, "colors"), screen, look) or ():
        value = entry.get("color")
        reference = value.get("reference") if isinstance(value, dict) else None
        colour = system_colour(str(reference), look, screen.version) if reference else catalog_colour(value)
        if colour is not None:
            return colour, join(found.folder, "Contents.json")
    return None


def find_set(project: Project, catalogs: Iterable[str], folder_name: str) -> Named | None:
    """Return an image set or colour set of some catalogs, by its folder's name such as "Logo.imageset"; None when none can be read."""
    for catalog in catalogs:
        for path in _sets(project, catalog).get(folder_name, ()):
            try:
                value = project.json(path).value
            except BadInput:
                continue
            return Named(parent(path), value if isinstance(value, dict) else {})
    return None


@remembered
def _sets(project: Project, catalog: str) -> Mapping[str, Sequence[str]]:
    """The `Contents.json` files of a catalog by the names that code knows them by."""
    found: dict[str, list[str]] = {}
    spaces = set(_namespaces(project, catalog))
    for path in project.below(catalog):
        if path.endswith("/Contents.json"):
            folder = parent(path)
            names = [folder.rpartition("/")[2]]
            outer = parent(folder)
            while len(outer) > len(catalog):
                if outer in spaces:
                    names.insert(0, outer.rpartition("/")[2])
                outer = parent(outer)
            found.setdefault("/".join(names), []).append(path)
    return found


def _namespaces(project: Project, catalog: str) -> Iterator[str]:
    """The folders of a catalog whose names are part of the names of what is in them."""
    for path in project.below(catalog):
        if path.endswith("/Contents.json") and "set/" not in path.removeprefix(catalog):
            try:
                value = project.json(path).value
            except BadInput:
                continue
            properties = value.get("properties") if isinstance(value, dict) else None
            if isinstance(properties, dict) and properties.get("provides-namespace") is True:
                yield parent(path)


def _entries(found: Named, key: str) -> list[Mapping[str, Any]]:
    entries = found.contents.get(key)
    return [entry for entry in entries if isinstance(entry, dict)] if isinstance(entries, list) else []


def _chosen(entries: Sequence[Mapping[str, Any]], screen: Screen, look: Look) -> Sequence[Mapping[str, Any]] | None:
    """The entries for a screen's idiom and look, at the usual contrast: those that name them, else the plain ones.

    None where a plain idiom's entry for the look competes with the idiom's own for any look: which one the system takes is not documented.
    """
    usual = [entry for entry in entries if "contrast" not in _appearances(entry)]
    mine = [entry for entry in usual if entry.get("idiom") == idiom_of(screen)]
    shared = [entry for entry in usual if entry.get("idiom") == "universal"]
    if named := [entry for entry in mine if has_look(entry, look)]:
        return named
    named = [entry for entry in shared if has_look(entry, look)]
    if _plain(mine) and named:
        return None
    return _plain(mine) or named or _plain(shared)


def _plain(entries: Sequence[Mapping[str, Any]]) -> Sequence[Mapping[str, Any]]:
    return [entry for entry in entries if "luminosity" not in _appearances(entry)]


def _appearances(entry: Mapping[str, Any]) -> Mapping[str, str]:
    """The appearances that an entry is for, by their kind: {"luminosity": "dark"}."""
    named = entry.get("appearances")
    return {
        str(one.get("appearance")): str(one.get("value"))
        for one in (named if isinstance(named, list) else [])
        if isinstance(one, dict)
    }


def has_look(entry: Mapping[str, Any], look: Look) -> bool:
    """Return whether an entry is for one look alone."""
    return _appearances(entry).get("luminosity") == look
