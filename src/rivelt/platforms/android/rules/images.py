"""Rules on the images of the launch screen: where they are, how large they are, what the circle leaves of them."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, NamedTuple

from rivelt.art.source import read_picture
from rivelt.art.visible import visible_outline
from rivelt.edit.xml import Node
from rivelt.errors import Place, RiveltError
from rivelt.patterns import regex
from rivelt.picture import ImageFile
from rivelt.plan.names import RESOURCE
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.leftovers import reachable
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.qualifiers import DENSITY
from rivelt.platforms.android.native.resources import TYPED_FOLDERS, Entry
from rivelt.platforms.android.native.theme import DURATION, ICON, IMPRINT, WINDOW_BACKGROUND, LaunchTheme
from rivelt.platforms.android.rules import BOOK
from rivelt.platforms.android.rules.theme import theme_of
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.rules.rulebook import Said, Subject, broken, once, unknown
from rivelt.scene.model import Picture, Unknown
from rivelt.units import Circle, Look, Point, Rect

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

_BITMAPS = (".png", ".jpg", ".jpeg", ".webp")
_NAME = regex(r"[a-z][a-z0-9_]*")
_FINE = 480  # dpi: what newer phones have at least
_TOLERANCE = 0.75  # dp: what a circle may cut of soft edges


def _launch_files(project: Project, theme: LaunchTheme) -> dict[str, Entry]:
    """The files of every drawable that the launch theme leads to, by path."""
    values = [value for item in (WINDOW_BACKGROUND, ICON, IMPRINT) for value, _ in theme.values_of(item)]
    keys = reachable(project, theme.resources, values)
    return {entry.path: entry for key in sorted(keys) for entry in theme.resources.defined(*key) if entry.node is None}


def _root(project: Project, entry: Entry) -> Node | None:
    return project.xml(entry.path).root if entry.path.endswith(".xml") else None


@BOOK.rule("AND07")
def icon_is_square(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """An icon that is not square is cropped or stretched."""
    theme = theme_of(subject)
    side = android_facts().icon.side
    for value, _ in theme.values_of(ICON):
        for entry in theme.files_of(value):
            root = _root(subject.project, entry)
            size: tuple[object, object] | None = subject.project.image(entry.path).size if root is None else None
            if root is not None and root.local == "vector":
                size = (attribute(root, "width"), attribute(root, "height"))
            if size is not None and size[0] != size[1]:
                hint = f"Centre it on a square of {side:g} x {side:g} dp, or run `rivelt apply`."
                yield broken(f"the launch icon is {size[0]} x {size[1]}", hint, Place(entry.path))


@BOOK.rule("AND08")
def icon_inside_circle(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """What is outside the circle is cut away."""
    yield from once(_cut(subject))


def _cut(subject: Subject[AndroidSite]) -> Iterator[Said]:
    outlines: dict[ImageFile, list[Point]] = {}
    farthest: dict[tuple[Look, str], tuple[float, Said]] = {}  # of an icon that moves, where it reaches farthest
    for look, mask, layer in dict.fromkeys(_icons(subject)):
        if isinstance(layer, Unknown):
            yield unknown(layer.reason, look=look)
            continue
        if _is_well_inside(subject.evidence.found(layer.image, _silhouette), layer.rect, mask):
            continue
        if layer.image not in outlines:
            outlines[layer.image] = _outline(layer.image)
        rect = layer.rect
        points = ((rect.x + x * rect.width, rect.y + y * rect.height) for x, y in outlines[layer.image])
        reach = max((math.dist(mask.centre, point) for point in points), default=0.0)
        if reach > mask.radius + _TOLERANCE:
            message = (
                f"the launch icon reaches {reach:.0f} dp from the middle, "
                f"and all beyond {mask.radius:.0f} dp is cut away ({look})"
            )
            fix = "Draw it smaller inside its square, or run `rivelt apply`."
            key = (look, layer.source)
            if key not in farthest or reach > farthest[key][0]:
                farthest[key] = (reach, broken(message, fix, Place(layer.source), look=look))
    yield from (said for _, said in farthest.values())


class _Silhouette(NamedTuple):
    """The rows of an image drawn small that show anything, and the first and the last pixel of each that does; its size in px."""

    rows: NDArray[np.intp]
    first: NDArray[np.intp]
    last: NDArray[np.intp]
    width: int
    height: int


def _silhouette(sample: NDArray[np.uint8]) -> _Silhouette:
    visible = sample[..., 3] != 0
    height, width = visible.shape
    rows = visible.any(axis=1).nonzero()[0]
    return _Silhouette(
        rows, visible[rows].argmax(axis=1), width - 1 - visible[rows, ::-1].argmax(axis=1), width, height
    )


def _is_well_inside(drawn: _Silhouette | None, rect: Rect, mask: Circle) -> bool:
    """Whether a picture drawn small already shows that all of it is inside, by more than its pixels could hide."""
    if drawn is None:
        return False
    if not len(drawn.rows):
        return True
    y = rect.y + (drawn.rows + 0.5) * rect.height / drawn.height - mask.centre.y
    pixel = math.hypot(rect.width / drawn.width, rect.height / drawn.height)
    ends = drawn.first, drawn.last  # of a row, one of these is farthest
    reach = (((rect.x + (end + 0.5) * rect.width / drawn.width - mask.centre.x) ** 2 + y**2).max() for end in ends)
    return bool(math.sqrt(max(reach)) + 1.5 * pixel <= mask.radius)


def _icons(subject: Subject[AndroidSite]) -> Iterator[tuple[Look, Circle, Picture | Unknown]]:
    """What every screen shows inside the circle, and what it shows that is unknown."""
    first = android_facts().levels.system_launch_screen
    for shown in subject.every_scene_on(lambda screen: screen.version >= first):
        for layer in shown.layers if shown.mask is not None else ():
            if isinstance(layer, Unknown) or (isinstance(layer, Picture) and layer.clip == shown.mask):
                assert shown.mask is not None
                yield shown.look, shown.mask, layer


def _outline(image: ImageFile) -> list[Point]:
    """The visible outline of a picture, each coordinate as a share of the picture's side."""
    art = read_picture(image.data, "the launch icon")
    return [Point(x / art.size.width, y / art.size.height) for x, y in visible_outline(art)]


@BOOK.rule("AND09")
def no_bitmap_without_density(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """A bitmap in plain `drawable` counts as mdpi."""
    for path, entry in _launch_files(subject.project, theme_of(subject)).items():
        kind = path.rpartition("/")[0].rpartition("/")[2]
        if path.endswith(_BITMAPS) and not path.endswith(".9.png") and not entry.names_density:
            hint = "Give it at every density, in drawable-mdpi to drawable-xxxhdpi."
            yield broken(f"a bitmap in {kind} is scaled up and blurred on every newer phone", hint, Place(path))
    yield from _without_fine_ones(_launch_files(subject.project, theme_of(subject)))


def _without_fine_ones(files: Mapping[str, Entry]) -> Iterator[Said]:
    """Yield findings on bitmaps that are given at some densities, and not at the finer ones that newer phones have."""
    finest: dict[tuple[object, ...], tuple[int, str]] = {}
    for path, entry in files.items():
        density = entry.density
        is_for_tablets = any(one.kind in {"smallest_width", "size"} for one in entry.qualifiers)  # coarser than phones
        if density is not None and entry.names_density and path.endswith(_BITMAPS) and not is_for_tablets:
            others = tuple(one for one in entry.qualifiers if one.kind != DENSITY)
            key = (path.rpartition("/")[2].partition(".")[0], others)
            finest[key] = max(finest.get(key, (0, "")), (density, path))
    for density, path in finest.values():
        if density < _FINE:
            name, folder = path.rpartition("/")[2], path.rpartition("/")[0].rpartition("/")[2]
            hint = "Give it at every density, in drawable-mdpi to drawable-xxxhdpi."
            yield broken(f"{name} is in no folder finer than {folder}: newer phones enlarge it", hint, Place(path))


@BOOK.rule("AND10")
def imprint_has_its_shape(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The image at the foot is stretched to 200 x 80 dp."""
    theme = theme_of(subject)
    facts = android_facts().imprint
    for value, _ in theme.values_of(IMPRINT):
        for entry in theme.files_of(value):
            root = _root(subject.project, entry)
            size = subject.project.image(entry.path).size if root is None else _vector_size(root)
            if size is None:
                yield unknown(f"{entry.path} has no size that can be read")
            elif abs(size[0] / max(size[1], 1e-6) - facts.width / facts.height) > 0.02:
                hint = f"Centre it on an image of {facts.width:g} x {facts.height:g} dp, or run `rivelt apply`."
                yield broken(
                    f"the image at the foot is {size[0]:g} x {size[1]:g}, not in the shape of {facts.width:g} x {facts.height:g}",
                    hint,
                    Place(entry.path),
                )


def _vector_size(root: Node) -> tuple[float, float] | None:
    sides = [re.match(r"\d+(?:\.\d+)?", attribute(root, name) or "") for name in ("width", "height")]
    return (float(sides[0][0]), float(sides[1][0])) if sides[0] and sides[1] else None


@BOOK.rule("AND11")
def motion_is_short(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The system shows a second of motion."""
    theme = theme_of(subject)
    longest = android_facts().motion.longest_ms
    for value, place in theme.values_of(DURATION):
        if not value.isdigit():
            yield unknown(f"the duration {value} is a reference")
        elif int(value) > longest:
            yield broken(
                f"the motion is declared to last {value} ms; {longest} ms are shown",
                f"Shorten it to {longest} ms.",
                place,
            )


@BOOK.rule("AND14")
def names_are_allowed(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Names of resources: lower case letters, digits and _, a letter first, no Java keyword."""
    for path, stem in _resource_files(subject):
        if not _NAME.fullmatch(stem):
            yield broken(
                f"{path.rpartition('/')[2]} is refused at build time",
                "Use lower case letters, digits and _ only, a letter first.",
                Place(path),
            )
        elif stem in RESOURCE.reserved:
            yield broken(f"{stem} is a Java keyword", "Give the file another name.", Place(path))


@BOOK.rule("AND15")
def one_resource_of_a_name(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Two files of one stem in one folder are two resources of one name."""
    seen: dict[str, str] = {}
    for path, stem in _resource_files(subject):
        key = f"{path.rpartition('/')[0]}/{stem}"
        if key in seen:
            hint = "Remove one of them, or give it another name."
            yield broken(
                f"{path.rpartition('/')[2]} and {seen[key].rpartition('/')[2]} are two resources of one name",
                hint,
                Place(path),
            )
        seen.setdefault(key, path)


def _resource_files(subject: Subject[AndroidSite]) -> Iterator[tuple[str, str]]:
    """The files that are resources each, with their names."""
    for res in subject.site.all_res:
        for path in subject.project.below(res):
            folder, _, name = path.removeprefix(f"{res}/").rpartition("/")
            if folder.partition("-")[0] in TYPED_FOLDERS and "/" not in folder and not name.startswith("."):
                yield path, name.removesuffix(".9.png").partition(".")[0]


@BOOK.rule("AND16")
def nothing_is_stretched(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """A bitmap as the whole window background is stretched to every screen."""
    theme = theme_of(subject)
    for value, place in theme.values_of(WINDOW_BACKGROUND):
        for entry in theme.files_of(value):
            if entry.path.endswith(_BITMAPS) and not entry.path.endswith(".9.png"):
                hint = 'Put it into a <layer-list> with gravity="center", on a colour.'
                yield broken(f"{value} is a bitmap as the whole window background: it is stretched", hint, place)
    for path, entry in _launch_files(subject.project, theme).items():
        try:
            root = _root(subject.project, entry)
        except RiveltError as error:
            yield unknown(str(error))
            continue
        for node in root.walk() if root is not None else ():
            if node.local == "bitmap" and (attribute(node, "gravity") or "fill") in {
                "fill",
                "fill_horizontal",
                "fill_vertical",
            }:
                hint = 'Give it gravity="center"; what is larger than the screen is then cut, not stretched.'
                yield broken("a bitmap fills what it is in, and is stretched", hint, Place(path, node.line))
