"""Rules on what the screen shows: its images, in every scale and look, and where they are."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from rivelt.colour import Colour
from rivelt.errors import BadInput, Place
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.rules import BOOK
from rivelt.platforms.ios.site import IosSite
from rivelt.project.snapshot import join, parent
from rivelt.rules.pictures import HALF
from rivelt.rules.rulebook import Said, Subject, broken, once, unknown
from rivelt.scene.model import Cause, Picture, Scene, Unknown

_BYTES_PER_PIXEL = 4
_TOLERANCE = 1.0  # points
_WANTED_SCALES = {"2x", "3x"}


def first_screen(subject: Subject[IosSite]) -> tuple[Scene, ...]:
    """Return what the first of the usual screens shows, in each look."""
    scenes = subject.scenes
    return tuple(shown for shown in scenes if shown.screen == scenes[0].screen)


def _image_sets(subject: Subject[IosSite]) -> Mapping[str, list[dict[str, Any]]]:
    """The image sets that the screen shows, by the path of their Contents.json: their entries."""
    sources = {picture.source for shown in subject.scenes for picture in shown.pictures}
    found: dict[str, list[dict[str, Any]]] = {}
    for folder in sorted({parent(path) for path in sources if ".imageset/" in path}):
        path = join(folder, "Contents.json")
        try:
            images = subject.project.json(path).value.get("images")
        except (KeyError, BadInput):
            continue
        found[path] = [entry for entry in images if isinstance(entry, dict)] if isinstance(images, list) else []
    return found


def _is_dark(entry: Mapping[str, Any]) -> bool:
    appearances = entry.get("appearances")
    return isinstance(appearances, list) and any(
        isinstance(one, dict) and one.get("value") == "dark" for one in appearances
    )


def _is_pixel(subject: Subject[IosSite], path: str, entry: Mapping[str, Any]) -> bool:
    """Whether an entry is one pixel, which has no resolution to lose."""
    file = join(parent(path), str(entry.get("filename")))
    return file in subject.project and subject.project.image(file).size == (1, 1)


@BOOK.rule("IOS06")
def every_scale_is_there(subject: Subject[IosSite]) -> Iterator[Said]:
    """Each image has a file for each scale that devices have."""
    for path, entries in _image_sets(subject).items():
        for is_dark in (False, True):
            of_look = [entry for entry in entries if _is_dark(entry) == is_dark and not _is_pixel(subject, path, entry)]
            have = {str(entry["scale"]) for entry in of_look if entry.get("filename") and "scale" in entry}
            lost = sorted(_WANTED_SCALES - have) if have else []
            for scale in lost:
                hint = "Add it to the image set, or run `rivelt apply`."
                yield broken(f"the {'dark ' if is_dark else ''}image has no file for {scale}", hint, Place(path))
        for entry in entries:
            name = entry.get("filename")
            if name and join(parent(path), str(name)) not in subject.project:
                yield broken(f"{name} is listed, but is not there", "Add the file, or take the entry out.", Place(path))


@BOOK.rule("IOS07")
def scales_have_one_size(subject: Subject[IosSite]) -> Iterator[Said]:
    """The files of one image are one image at several resolutions."""
    for path, entries in _image_sets(subject).items():
        for is_dark in (False, True):
            sizes: dict[tuple[str, str], dict[int, tuple[float, float]]] = {}
            for entry in entries:
                scale = re.fullmatch(r"([1-9])x", str(entry.get("scale")))
                file = join(parent(path), str(entry.get("filename")))
                if scale and _is_dark(entry) == is_dark and entry.get("filename") and file in subject.project:
                    pixels = subject.project.image(file).size
                    if pixels is not None:
                        factor = int(scale[1])
                        kind = (str(entry.get("idiom")), str(entry.get("height-class")))
                        sizes.setdefault(kind, {})[factor] = (pixels.width / factor, pixels.height / factor)
            for of_kind in sizes.values():
                first = of_kind[max(of_kind)]
                for factor, size in of_kind.items():
                    if max(abs(a - b) for a, b in zip(size, first, strict=True)) > _TOLERANCE:
                        message = f"{factor}x is {size[0]:g} x {size[1]:g} points, {max(of_kind)}x is {first[0]:g} x {first[1]:g}"
                        yield broken(message, "Export both from one drawing, or run `rivelt apply`.", Place(path))


@BOOK.rule("IOS08")
def dark_images_on_dark_grounds(subject: Subject[IosSite]) -> Iterator[Said]:
    """Where the ground changes with the look, so do the images."""
    light, dark = first_screen(subject)
    if light.ground is None or dark.ground is None:
        yield unknown("the ground is unknown")
        return
    if light.ground == dark.ground:
        return
    shown = {picture.source.rpartition("/")[0]: picture for picture in dark.pictures}
    brief = subject.brief
    for path, entries in _image_sets(subject).items():
        picture = shown.get(path.rpartition("/")[0])
        if picture is not None and _stands_out(subject, picture, dark.ground):
            continue
        if not any(_is_dark(entry) for entry in entries):
            hint = 'Add a dark variant of the image; `mark = "derive"` under [dark] makes one.'
            if brief is not None and brief.looks["dark"].mark != brief.looks["light"].mark:
                hint = "Run `rivelt apply`: the brief has an image for the dark look."
            message = f"the ground is {dark.ground.hex} in the dark look, and the image on it is the light one"
            yield broken(message, hint, Place(path))


def _stands_out(subject: Subject[IosSite], picture: Picture, ground: Colour) -> bool:
    """Whether a picture stands out from a ground by most of its outline."""
    contrast = subject.evidence.contrast(picture.image, ground)
    return contrast is not None and contrast.share >= HALF


@BOOK.rule("IOS09")
def what_is_shown_is_known_and_centred(subject: Subject[IosSite]) -> Iterator[Said]:
    """What is shown is known, and stands in the middle."""
    yield from once(_centred(subject))


def _centred(subject: Subject[IosSite]) -> Iterator[Said]:
    site = subject.site
    place = Place(site.storyboard or site.project_file)
    for shown in subject.scenes:
        for layer in shown.layers:
            if isinstance(layer, Unknown) and layer.cause is not Cause.UNDECIDED:
                yield unknown(layer.reason)
        for picture in shown.pictures:
            off = picture.rect.centre.x - shown.screen.frame.centre.x
            if abs(off) > _TOLERANCE:
                message = f"{picture.source.rpartition('/')[2]} stands {abs(off):.0f} points {'right' if off > 0 else 'left'} of the middle"
                yield broken(f"{message} on {shown.screen.name}", "Centre it with a constraint on centerX.", place)


@BOOK.rule("IOS14")
def every_view_has_one_place(subject: Subject[IosSite]) -> Iterator[Said]:
    """Constraints decide where everything is, on every screen."""
    yield from once(_undecided(subject))


def _undecided(subject: Subject[IosSite]) -> Iterator[Said]:
    site = subject.site
    for shown in subject.scenes:
        for layer in shown.layers:
            if isinstance(layer, Unknown) and layer.cause is Cause.UNDECIDED:
                hint = "Give it constraints for its middle (or edges) and its size."
                yield broken(
                    f"the layout is ambiguous: {layer.reason}", hint, Place(site.storyboard or site.project_file)
                )


@BOOK.rule("IOS10")
def inside_the_safe_area(subject: Subject[IosSite]) -> Iterator[Said]:
    """What is not the backdrop stays clear of the notch and the home indicator."""
    yield from once(_outside(subject))


def _outside(subject: Subject[IosSite]) -> Iterator[Said]:
    site = subject.site
    for shown in subject.every_scene:
        if shown.look != "light":
            continue
        screen, area = shown.screen, shown.screen.safe_area
        for picture in shown.pictures:
            rect, frame = picture.rect, screen.frame
            is_backdrop = (
                rect.x <= _TOLERANCE
                and rect.right >= frame.right - _TOLERANCE
                and rect.bottom >= frame.bottom - _TOLERANCE
            )
            if is_backdrop:
                continue
            over = max(area.y - rect.y, rect.bottom - area.bottom, area.x - rect.x, rect.right - area.right)
            if over > _TOLERANCE:
                name = picture.source.rpartition("/")[2].partition("@")[0]
                hint = "Constrain it to the safe area, or make it smaller."
                yield broken(
                    f"{name} reaches out of the safe area, on {screen.system} among others",
                    hint,
                    Place(site.storyboard or picture.source),
                )
                return


@BOOK.rule("IOS11")
def nothing_is_distorted(subject: Subject[IosSite]) -> Iterator[Said]:
    """Images keep their shape."""
    yield from once(_distorted(subject))


def _distorted(subject: Subject[IosSite]) -> Iterator[Said]:
    for shown in subject.scenes:
        for picture in shown.pictures:
            size = picture.image.size
            if size is None or not picture.rect.height:
                continue
            factor = (picture.rect.width / picture.rect.height) / (size.width / size.height)
            if abs(factor - 1) > 0.02:
                hint = "Use the content mode scaleAspectFit or scaleAspectFill."
                message = (
                    f"{picture.source.rpartition('/')[2]} is stretched by {abs(factor - 1):.0%} on {shown.screen.name}"
                )
                yield broken(message, hint, Place(picture.source))


@BOOK.rule("IOS12")
def light_enough_to_be_shown(subject: Subject[IosSite]) -> Iterator[Said]:
    """Launch images that take too much memory are not shown."""
    limit = ios_facts().most_decoded
    yield from once(_heavy(subject, limit))


def _heavy(subject: Subject[IosSite], limit: int) -> Iterator[Said]:
    for shown in subject.scenes:
        sizes = {picture.source: picture.image.size for picture in shown.pictures}
        total = sum(size.width * size.height * _BYTES_PER_PIXEL for size in sizes.values() if size)
        if total > limit:
            message = f"the launch images take {total / 1e6:.0f} MB decoded on {shown.screen.name}: above {limit / 1e6:.0f} MB some devices show black"
            yield broken(message, "Make them smaller, or run `rivelt apply`.", Place(max(sizes)))
