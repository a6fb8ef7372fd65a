"""The rules of Windows."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place, RiveltError
from rivelt.platforms.windows.facts import windows_facts
from rivelt.platforms.windows.native.images import Variant, variants
from rivelt.platforms.windows.native.listing import is_listed
from rivelt.platforms.windows.native.manifest import Manifest, parsed_colour, read_manifest
from rivelt.platforms.windows.rules import BOOK
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.snapshot import parent
from rivelt.rules.rulebook import Said, Subject, broken, unknown
from rivelt.units import Size

_PERCENT = 100
_SHARP_SCALE = 200  # percent: what most current screens have


def _manifest(subject: Subject[WindowsSite]) -> Manifest:
    return read_manifest(subject.project, subject.site.manifest)


def _images(subject: Subject[WindowsSite]) -> list[Variant]:
    home = parent(_manifest(subject).document.path)
    names = dict.fromkeys(launch.image for launch in _manifest(subject).launches if launch.image)
    return [variant for name in names for variant in variants(subject.project, home, name)]


@BOOK.rule("WIN01")
def an_image_is_named(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """A launch element with an image that is there."""
    manifest = _manifest(subject)
    for launch in manifest.launches:
        place = manifest.document.place(launch.element or launch.visual)
        if not launch.image:
            yield broken("no launch image is named", "Name one in the launch element, or run `rivelt apply`.", place)
        elif not variants(subject.project, parent(manifest.document.path), launch.image):
            yield broken(f"the launch image {launch.image} has no file", "Add the files, or run `rivelt apply`.", place)


@BOOK.rule("WIN02")
def images_have_their_sizes(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """620 x 300 at 100 %, and the same at every scale."""
    facts = windows_facts()
    for variant in _images(subject):
        size = subject.project.image(variant.path).size
        wanted = Size(facts.width, facts.height).pixels(variant.scale / _PERCENT)
        if size is None:
            yield broken("the file is not an image", "Export it again as PNG or JPEG.", Place(variant.path))
        elif size != wanted:
            message = f"the launch image is {size.width} x {size.height}, at {variant.scale} % it must be {wanted.width} x {wanted.height}"
            yield broken(message, "Export it at that size, or run `rivelt apply`.", Place(variant.path))


@BOOK.rule("WIN03")
def images_are_light(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """Each file below the limit."""
    limit = windows_facts().most_bytes
    for variant in _images(subject):
        weight = len(subject.project.read(variant.path))
        if weight > limit:
            message = f"the launch image weighs {weight / 1000:.0f} kB; at most {limit / 1000:.0f} kB are allowed"
            yield broken(message, "Reduce its colours, or run `rivelt apply`.", Place(variant.path))


@BOOK.rule("WIN04")
def the_colour_is_valid(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """A colour as `#RRGGBB` or a name."""
    manifest = _manifest(subject)
    for launch in manifest.launches:
        text = launch.background
        place = manifest.document.place(launch.element or launch.visual)
        if text is None:
            yield broken("no background colour is set", "Set BackgroundColor on the launch element.", place)
        elif text.lower() != "transparent" and parsed_colour(text) is None:
            yield broken(f"{text} is not a colour", "Write #RRGGBB, or the name of a CSS colour.", place)


@BOOK.rule("WIN05")
def images_are_listed(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """A file that the project does not list is not in the package."""
    site = subject.site
    projects = [path for path in site.project_files if not path.endswith(".filters")]
    if not projects:
        yield unknown("no project file lies beside the manifest")
    for path in projects:
        for variant in _images(subject):
            try:
                listed = is_listed(subject.project, path, variant.path)
            except RiveltError as error:
                yield unknown(str(error))
                break
            if not listed:
                hint = "Add it to the project as content, or run `rivelt apply`."
                yield broken(f"{variant.path} is not listed: it is not in the package", hint, Place(path))


@BOOK.rule("WIN06")
def every_scale_is_there(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """One file alone is scaled, and blurred."""
    have = {variant.scale for variant in _images(subject) if not variant.contrast}
    if have and max(have) < _SHARP_SCALE:
        manifest = _manifest(subject)
        message = f"the largest launch image is for {max(have)} %: at 200 % and more it is enlarged and blurred"
        yield broken(message, "Add files for 200 % and 400 %, or run `rivelt apply`.", Place(manifest.document.path))
