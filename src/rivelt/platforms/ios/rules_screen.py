"""Rules on what the screen shows: its images, in every scale and look, and where they lie."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any

from rivelt.edit.jsontext import read_json
from rivelt.errors import BadInput, Place
from rivelt.pixels.header import bitmap_size
from rivelt.platforms.ios.facts import every_screen, ios_facts, screens
from rivelt.platforms.ios.reader import scene
from rivelt.platforms.ios.site import IosSite
from rivelt.platforms.rules import Fault, Rulebook, Said, Subject, Untold, once
from rivelt.platforms.site import Site
from rivelt.project.snapshot import Snapshot, join, parent
from rivelt.scene.model import Picture, Scene, Unknown
from rivelt.units import LOOKS

BOOK = Rulebook()
_BYTES_PER_PIXEL = 4
_HAIR = 1.0  # points
_WANTED_SCALES = {"2x", "3x"}


def _scenes(subject: Subject) -> tuple[Scene, ...]:
    return _all_scenes(subject.snapshot, subject.site)


@lru_cache(maxsize=1)
def _all_scenes(snapshot: Snapshot, site: Site) -> tuple[Scene, ...]:
    """What the screens show in both looks: worked out once for all rules."""
    return tuple(scene(snapshot, site, screen, look) for screen in screens() for look in LOOKS)


def _pictures(shown: Scene) -> Iterator[Picture]:
    yield from (layer for layer in shown.layers if isinstance(layer, Picture))


def _image_sets(subject: Subject) -> Mapping[str, list[dict[str, Any]]]:
    """The image sets that the screen shows, by the path of their Contents.json: their entries."""
    sources = {picture.source for shown in _scenes(subject) for picture in _pictures(shown)}
    found: dict[str, list[dict[str, Any]]] = {}
    for folder in sorted({parent(path) for path in sources if ".imageset/" in path}):
        path = join(folder, "Contents.json")
        try:
            images = read_json(subject.snapshot.read(path), path).get("images")
        except (KeyError, BadInput, AttributeError):
            continue
        found[path] = [entry for entry in images if isinstance(entry, dict)] if isinstance(images, list) else []
    return found


def _is_dark(entry: Mapping[str, Any]) -> bool:
    appearances = entry.get("appearances")
    return isinstance(appearances, list) and any(
        isinstance(one, dict) and one.get("value") == "dark" for one in appearances
    )


@BOOK.rule("IOS06")
def every_scale_is_there(subject: Subject) -> Iterator[Said]:
    """Each image has a file for each scale that devices have."""
    for path, entries in _image_sets(subject).items():
        for is_dark in (False, True):
            of_look = [entry for entry in entries if _is_dark(entry) == is_dark]
            have = {str(entry["scale"]) for entry in of_look if entry.get("filename") and "scale" in entry}
            lost = sorted(_WANTED_SCALES - have) if have else []
            for scale in lost:
                hint = "Add it to the image set, or run `rivelt apply`."
                yield Fault(f"the {'dark ' if is_dark else ''}image has no file for {scale}", hint, Place(path))
        for entry in entries:
            name = entry.get("filename")
            if name and join(parent(path), str(name)) not in subject.snapshot:
                yield Fault(f"{name} is listed, but is not there", "Add the file, or take the entry out.", Place(path))


@BOOK.rule("IOS07")
def scales_have_one_size(subject: Subject) -> Iterator[Said]:
    """The files of one image are one image at several resolutions."""
    for path, entries in _image_sets(subject).items():
        for is_dark in (False, True):
            sizes: dict[tuple[str, str], dict[int, tuple[float, float]]] = {}
            for entry in entries:
                scale = re.fullmatch(r"([1-9])x", str(entry.get("scale")))
                file = join(parent(path), str(entry.get("filename")))
                if scale and _is_dark(entry) == is_dark and entry.get("filename") and file in subject.snapshot:
                    pixels = bitmap_size(subject.snapshot.read(file))
                    if pixels is not None:
                        factor = int(scale[1])
                        kind = (str(entry.get("idiom")), str(entry.get("height-class")))
                        sizes.setdefault(kind, {})[factor] = (pixels.width / factor, pixels.height / factor)
            for of_kind in sizes.values():
                first = of_kind[max(of_kind)]
                for factor, size in of_kind.items():
                    if max(abs(a - b) for a, b in zip(size, first, strict=True)) > _HAIR:
                        message = f"{factor}x is {size[0]:g} x {size[1]:g} points, {max(of_kind)}x is {first[0]:g} x {first[1]:g}"
                        yield Fault(message, "Export both from one drawing, or run `rivelt apply`.", Place(path))


@BOOK.rule("IOS08")
def dark_images_on_dark_grounds(subject: Subject) -> Iterator[Said]:
    """Where the ground changes with the look, so do the images."""
    light, dark = (scene(subject.snapshot, subject.site, screens()[0], look) for look in LOOKS)
    if light.ground is None or dark.ground is None:
        yield Untold("the ground cannot be told")
        return
    if light.ground == dark.ground:
        return
    for path, entries in _image_sets(subject).items():
        if not any(_is_dark(entry) for entry in entries):
            hint = 'Add a dark variant of the image; `mark = "derive"` under [dark] makes one.'
            message = f"the ground is {dark.ground.hex} in the dark look, and the image on it is the light one"
            yield Fault(message, hint, Place(path))


@BOOK.rule("IOS09")
def layout_is_known_and_centred(subject: Subject) -> Iterator[Said]:
    """Constraints decide where everything is; the mark stands in the middle."""
    yield from once(_laid_out(subject))


def _laid_out(subject: Subject) -> Iterator[Said]:
    site = subject.site
    assert isinstance(site, IosSite)
    place = Place(site.storyboard or site.project_file)
    for shown in _scenes(subject):
        for layer in shown.layers:
            if isinstance(layer, Unknown):
                if layer.reason.startswith("<"):
                    hint = "Give it constraints for its middle (or edges) and its size."
                    yield Fault(f"the layout is not decided: {layer.reason}", hint, place)
                else:
                    yield Untold(layer.reason)
        for picture in _pictures(shown):
            off = picture.rect.centre.x - shown.screen.frame.centre.x
            if abs(off) > _HAIR:
                message = f"{picture.source.rpartition('/')[2]} stands {abs(off):.0f} points {'right' if off > 0 else 'left'} of the middle"
                yield Fault(f"{message} on {shown.screen.name}", "Centre it with a constraint on centerX.", place)


@BOOK.rule("IOS10")
def inside_the_safe_area(subject: Subject) -> Iterator[Said]:
    """What is not the backdrop stays clear of the notch and the home indicator."""
    yield from once(_outside(subject))


def _outside(subject: Subject) -> Iterator[Said]:
    site = subject.site
    assert isinstance(site, IosSite)
    for screen in every_screen():
        shown = scene(subject.snapshot, site, screen, "light")
        area = screen.safe_area
        for picture in _pictures(shown):
            rect, frame = picture.rect, screen.frame
            is_backdrop = rect.x <= _HAIR and rect.right >= frame.right - _HAIR and rect.bottom >= frame.bottom - _HAIR
            if is_backdrop:
                continue
            over = max(area.y - rect.y, rect.bottom - area.bottom, area.x - rect.x, rect.right - area.right)
            if over > _HAIR:
                name = picture.source.rpartition("/")[2].partition("@")[0]
                hint = "Constrain it to the safe area, or make it smaller."
                yield Fault(
                    f"{name} reaches out of the safe area, on {screen.system} among others",
                    hint,
                    Place(site.storyboard or picture.source),
                )
                return


@BOOK.rule("IOS11")
def nothing_is_distorted(subject: Subject) -> Iterator[Said]:
    """Images keep their shape."""
    yield from once(_distorted(subject))


def _distorted(subject: Subject) -> Iterator[Said]:
    for shown in _scenes(subject):
        for picture in _pictures(shown):
            size = bitmap_size(picture.data)
            if size is None or not picture.rect.height:
                continue
            factor = (picture.rect.width / picture.rect.height) / (size.width / size.height)
            if abs(factor - 1) > 0.02:
                hint = "Use the content mode scaleAspectFit or scaleAspectFill."
                message = (
                    f"{picture.source.rpartition('/')[2]} is stretched by {abs(factor - 1):.0%} on {shown.screen.name}"
                )
                yield Fault(message, hint, Place(picture.source))


@BOOK.rule("IOS12")
def light_enough_to_be_shown(subject: Subject) -> Iterator[Said]:
    """Launch images that take too much memory are not shown."""
    limit = ios_facts().most_decoded
    yield from once(_heavy(subject, limit))


def _heavy(subject: Subject, limit: int) -> Iterator[Said]:
    for shown in _scenes(subject):
        sizes = {picture.source: bitmap_size(picture.data) for picture in _pictures(shown)}
        total = sum(size.width * size.height * _BYTES_PER_PIXEL for size in sizes.values() if size)
        if total > limit:
            message = f"the launch images take {total / 1e6:.0f} MB decoded on {shown.screen.name}: above {limit / 1e6:.0f} MB the screen is black"
            yield Fault(message, "Make them smaller, or run `rivelt apply`.", Place(max(sizes)))
