"""The rules of Windows."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place, RiveltError
from rivelt.platforms.windows.facts import windows_facts
from rivelt.platforms.windows.native.images import Variant, image_path, variants
from rivelt.platforms.windows.native.listing import SHARED_LISTS, is_listed, listed
from rivelt.platforms.windows.native.manifest import Manifest, parsed_colour, read_manifest
from rivelt.platforms.windows.rules import BOOK
from rivelt.platforms.windows.site import WindowsSite
from rivelt.project.snapshot import parent
from rivelt.rules.rulebook import Said, Subject, broken, unknown

_PERCENT = 100


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
    """620 x 300 at 100 %, on phones 480 x 800, and the same at every scale; none at a scale that the schema does not know."""
    kind = _manifest(subject).kind
    for variant in _images(subject):
        size = subject.project.image(variant.path).size
        wanted = kind.size.pixels(variant.scale / _PERCENT)
        if variant.scale not in kind.scales:
            known = ", ".join(f"{scale}" for scale in kind.scales)
            message = f"{kind.name} does not know the scale {variant.scale}: it has {known}"
            yield broken(message, "Remove the file, or run `rivelt apply`.", Place(variant.path))
        elif size is None:
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
    own = [path for path in projects if not path.endswith(SHARED_LISTS)] or projects
    shared = [path for path in projects if path not in own]
    if not own:
        yield unknown("no project file is beside the manifest")
    for path in own:
        for variant in _images(subject):
            try:
                has_it = any(is_listed(subject.project, one, variant.path) for one in (path, *shared))
            except RiveltError as error:
                yield unknown(str(error), error.place)
                break
            if not has_it:
                hint = "Add it to the project as content, or run `rivelt apply`."
                yield broken(f"{variant.path} is not listed: it is not in the package", hint, Place(path))


@BOOK.rule("WIN06")
def every_scale_is_there(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """One file alone is scaled, and blurred."""
    have = {variant.scale for variant in _images(subject) if not variant.contrast}
    manifest = _manifest(subject)
    sharp = manifest.kind.sharp
    if have and max(have) < sharp:
        message = f"the largest launch image is for {max(have)} %: at {sharp} % and more it is enlarged and blurred"
        larger = " and ".join(f"{scale} %" for scale in manifest.kind.scales if scale >= sharp)
        yield broken(message, f"Add files for {larger}, or run `rivelt apply`.", Place(manifest.document.path))


@BOOK.rule("WIN07")
def what_is_listed_is_there(subject: Subject[WindowsSite]) -> Iterator[Said]:
    """A launch image that a project file lists exists."""
    manifest = _manifest(subject)
    home = parent(manifest.document.path)
    named = [image_path(home, launch.image) for launch in manifest.launches if launch.image]
    stems = {path.rpartition(".")[0].lower() for path in named if path is not None}
    there = {path.lower() for path in subject.project.paths}
    for path in subject.site.project_files:
        try:
            items = listed(subject.project, path)
        except RiveltError as error:
            yield unknown(str(error), error.place)
            continue
        for item in items:
            if (
                item.is_image
                and item.paths[0] not in there
                and any(item.paths[0].startswith(f"{stem}.") for stem in stems)
            ):
                message = f"{item.written[0]} is listed, and is not there: the build fails"
                place = subject.project.xml(path).place(item.node)
                yield broken(message, "Add the file, or take the entry out.", place)
