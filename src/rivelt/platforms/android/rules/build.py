"""Rules on what makes a build fail, or an app crash at start: names that are not there, libraries and levels that are missing."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from difflib import get_close_matches

from rivelt.edit.xml import Node
from rivelt.errors import Place, RiveltError
from rivelt.patterns import regex
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.leftovers import reachable
from rivelt.platforms.android.native.libraries import is_of_family, library_table
from rivelt.platforms.android.native.platform import platform_table
from rivelt.platforms.android.native.qualifiers import parse_qualifiers
from rivelt.platforms.android.native.resources import TYPED_FOLDERS, Entry, split_reference, style_parent
from rivelt.platforms.android.native.theme import (
    BEHAVIOUR,
    CONTENT,
    DISC,
    DURATION,
    GROUND,
    ICON,
    IMPRINT,
    LIBRARY_THEMES,
    POST_LAUNCH,
    WINDOW_BACKGROUND,
    LaunchTheme,
)
from rivelt.platforms.android.rules import BOOK
from rivelt.platforms.android.rules.theme import theme_of
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.rules.rulebook import Said, Subject, broken, once, unknown

_ITEMS = (GROUND, ICON, DISC, IMPRINT, WINDOW_BACKGROUND, CONTENT)
_LAUNCH_ITEMS = (GROUND, ICON, DISC, IMPRINT, DURATION, BEHAVIOUR)
_LAUNCH = regex(r"^(?:android:)?(?:windowSplash|postSplash)", re.IGNORECASE)
_NAMED = regex(r"@(color|drawable|mipmap|dimen)/([\w.]+)")
_OF_LIBRARIES = regex(r"^(?:abc_|m3_|mtrl_|design_|material_|common_|compat_|cardview_|lb_)")
_ALIKE = 0.85
_FILES = {
    "drawable": (".xml", ".png", ".jpg", ".jpeg", ".webp", ".gif", ".bmp"),
    "mipmap": (".xml", ".png", ".jpg", ".jpeg", ".webp", ".gif"),
    "color": (".xml",),
    "values": (".xml",),
}
"""What a file of a folder may end with (com.android.ide.common.resources.FileResourceNameValidator)."""
_FOLDERS = TYPED_FOLDERS | {"values", "menu", "interpolator", "navigation"}
_SINGLE = frozenset({"bool", "color", "dimen", "drawable", "integer", "string", "style"})


@BOOK.rule("AND22")
def names_are_there(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Every style, colour and picture that the launch theme names exists."""
    theme = theme_of(subject)
    yield from once((*_parents(theme), *_references(subject.project, theme)))


def _parents(theme: LaunchTheme) -> Iterator[Said]:
    """Yield findings on the parents of the launch theme and of the app's styles that it inherits from."""
    waiting, seen = [theme.name], set[str]()
    while waiting:
        name = waiting.pop()
        if name is None or name in seen:
            continue
        seen.add(name)
        for definition in theme.definitions_of(name):
            parent = style_parent(definition.node)
            if parent is None:
                continue
            if theme.resources.defined("style", parent):
                waiting.append(parent)
                continue
            meant = _meant(theme, parent)
            if meant is not None:
                message = f"@style/{name} inherits from {parent}, which does not exist"
                yield broken(message, f"Did you mean {meant}?", definition.place)


def _meant(theme: LaunchTheme, parent: str) -> str | None:
    """The style that a misspelt name stands for; None for one that a library may have."""
    if parent.startswith("android:"):
        known: Iterable[str] = (f"android:{name}" for name in platform_table().themes)
    elif parent in LIBRARY_THEMES or (is_of_family(parent) and not parent.startswith("Theme.SplashScreen")):
        return None
    else:
        families = (family.name for family in library_table().families)
        own = (name for kind, name in theme.resources.entries if kind == "style")
        known = (*(style.name for style in library_table().styles), *families, *own)
    names = list(known)
    return None if parent in names else next(iter(get_close_matches(parent, names, 1, _ALIKE)), None)


def _references(project: Project, theme: LaunchTheme) -> Iterator[Said]:
    """Yield findings on the pictures and colours that the theme leads to."""
    for item in _ITEMS:
        for value, place in theme.values_of(item):
            yield from _missing(project, theme, value, place)
    values = [value for item in _ITEMS for value, _ in theme.values_of(item)]
    for key in sorted(reachable(project, theme.resources, values)):
        for entry in theme.resources.defined(*key):
            if entry.node is None and entry.path.endswith(".xml"):
                text = project.read(entry.path).decode("utf-8", "replace")
                for found in _NAMED.finditer(text):
                    place = Place(entry.path, text.count("\n", 0, found.start()) + 1)
                    yield from _missing(project, theme, found[0], place)


def _missing(project: Project, theme: LaunchTheme, value: str, place: Place | None) -> Iterator[Said]:
    reference = _NAMED.fullmatch(value.strip())
    if reference is None or _OF_LIBRARIES.match(reference[2]) or _is_made_by_build(project, reference[2]):
        return
    kinds = {reference[1]} | ({"color"} if reference[1] == "drawable" else set())
    if not any(theme.resources.defined(kind, reference[2]) for kind in kinds):
        near = get_close_matches(
            reference[2], [name for kind, name in theme.resources.entries if kind in kinds], 1, 0.8
        )
        hint = f"Did you mean @{reference[1]}/{near[0]}?" if near else "Add it, or name another."
        yield broken(f"{value.strip()} does not exist", hint, place)


def _is_made_by_build(project: Project, name: str) -> bool:
    """Whether a build file names a resource, which it may make itself (`resValue`)."""
    return any(
        path.endswith((".gradle", ".kts")) and name.encode() in project.read(path) for path in project.naming(name)
    )


@BOOK.rule("AND23")
def the_build_knows_the_theme(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The library and the API levels that the launch theme needs are there, and its items are spelt right."""
    theme, site = theme_of(subject), subject.site
    yield from once((*_spelling(theme), *_levels(theme), *_library(subject.project, theme, site)))


def _spelling(theme: LaunchTheme) -> Iterator[Said]:
    known = {
        *(f"android:{name}" for name in (*_LAUNCH_ITEMS, CONTENT)),
        *_LAUNCH_ITEMS,
        POST_LAUNCH,
        f"android:{POST_LAUNCH}",
    }
    for definition in theme.definitions:
        for name in definition.items:
            if _LAUNCH.match(name) and name not in known:
                near = get_close_matches(name, sorted(known), 1, 0.6)
                hint = f"Did you mean {near[0]}?" if near else "Correct it, or leave it out."
                yield broken(f"there is no attribute {name}", hint, definition.place_of(name))


def _levels(theme: LaunchTheme) -> Iterator[Said]:
    compiles = theme.site.compile_sdk
    since = android_facts().attributes
    for definition in theme.definitions:
        for name in definition.items:
            level = since.get(name.removeprefix("android:"), 0) if name.startswith("android:") else 0
            if compiles is None and level > android_facts().levels.lowest:
                yield unknown(f"compileSdk is unknown, and {name} needs {level}")
            elif compiles is not None and level > compiles:
                message = f"{name} needs compileSdk {level}; the module has {compiles}"
                yield broken(message, f"Compile with API {level} or later, or leave it out.", definition.place_of(name))


def _library(project: Project, theme: LaunchTheme, site: AndroidSite) -> Iterator[Said]:
    library = android_facts().library
    if not theme.is_of_library():
        return
    if site.build is None or site.build.path is None or site.build.problem is not None:
        yield unknown("the build file cannot be read, so that the library's dependency is unknown")
        return
    place = Place(site.build.path)
    named = any(library.name.encode() in project.read(path) for path in project.naming(library.name))
    if not named and not any(build.has_library for build in site.builds):
        message = f"{site.theme} inherits from the compatibility library, which is not a dependency"
        yield broken(
            message, f'Add implementation("{library.module}:{library.version}"), or run `rivelt apply`.', place
        )
    if site.min_sdk is not None and site.min_sdk < library.min_sdk:
        message = f"the compatibility library needs minSdk {library.min_sdk}; the module has {site.min_sdk}"
        yield broken(message, 'Raise minSdk, or use way = "platform" under [android].', place)


@BOOK.rule("AND24")
def one_way_in_all_folders(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The launch theme inherits from the compatibility library in all folders or in none."""
    theme = theme_of(subject)
    ways = [(one, _is_of_library(theme, style_parent(one.node))) for one in theme.definitions]
    first = next((one for one, is_of_library in ways if is_of_library), None)
    for other, is_of_library in ways:
        if first is not None and not is_of_library:
            message = (
                f"{other.folder} makes the launch screen without the compatibility library, {first.folder} with it"
            )
            hint = f"Give it the same parent in both: {style_parent(first.node)}."
            yield broken(message, hint, other.place)


def _is_of_library(theme: LaunchTheme, parent: str | None) -> bool:
    return parent is not None and (parent in LIBRARY_THEMES or theme.is_of_library(parent))


@BOOK.rule("AND25")
def the_compiler_takes_the_files(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Folders, files and values are such that the resource compiler takes them."""
    for res in subject.site.all_res:
        yield from _folders(subject.project, res)
    for problem in theme_of(subject).resources.broken:
        yield broken(problem.message, problem.hint or "Fix it; the resource compiler refuses it too.", problem.place)
    yield from _defined_twice(theme_of(subject))
    yield from _contents(subject.project, theme_of(subject))


def _folders(project: Project, res: str) -> Iterator[Said]:
    seen: set[str] = set()
    for path in project.below(res):
        folder, _, name = path.removeprefix(f"{res}/").rpartition("/")
        kind, _, suffix = folder.partition("-")
        if "/" in folder or not folder or name.startswith("."):
            continue
        if folder not in seen:
            seen.add(folder)
            if kind not in _FOLDERS:
                near = get_close_matches(kind, sorted(_FOLDERS), 1)
                hint = f"Did you mean {near[0]}?" if near else "Rename it."
                yield broken(f"{folder} is not a resource folder", hint, Place(f"{res}/{folder}"))
            elif project.derived("qualifiers", suffix, parse_qualifiers) is None:
                message = f"the qualifiers of {folder} are unknown, or not in Android's order"
                yield broken(
                    message,
                    "Write them in Android's order: night before density before version.",
                    Place(f"{res}/{folder}"),
                )
        if kind in _FILES and not name.lower().endswith(_FILES[kind]):
            yield broken(f"{name} is not a valid {kind} file", f"Use {', '.join(_FILES[kind])}.", Place(path))


def _contents(project: Project, theme: LaunchTheme) -> Iterator[Said]:
    """Yield findings on the files of the launch screen that are not what their names say."""
    values = [value for item in _ITEMS for value, _ in theme.values_of(item)]
    for key in sorted(reachable(project, theme.resources, values)):
        for entry in theme.resources.defined(*key):
            if entry.node is not None:
                continue
            if entry.path.endswith(".xml"):
                try:
                    project.xml(entry.path)
                except RiveltError as error:
                    yield broken(
                        error.message, error.hint or "Fix it; the resource compiler refuses it too.", error.place
                    )
            elif entry.path.endswith(".png") and not project.image(entry.path).is_png:
                message = f"{entry.path.rpartition('/')[2]} is not a PNG file"
                yield broken(message, "Save it as a PNG, or give it the ending of what it is.", Place(entry.path))


def _defined_twice(theme: LaunchTheme) -> Iterator[Said]:
    for (kind, name), entries in sorted(theme.resources.entries.items()):
        if kind not in _SINGLE:
            continue
        seen: dict[tuple[object, ...], Entry] = {}
        for entry in entries:
            node = entry.node
            if node is None or node.get("product"):
                continue
            key = (entry.qualifiers, entry.path.rpartition("/")[0])
            if key in seen:
                message = f"{kind} {name} is defined here and at {_place(seen[key])}"
                yield broken(message, "Remove one of them.", _place(entry))
            seen.setdefault(key, entry)


def _place(entry: Entry) -> Place:
    return Place(entry.path, entry.node.line if entry.node is not None else None)


@BOOK.rule("AND26")
def the_ground_is_opaque(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The system asks for a ground that lets nothing through."""
    theme = theme_of(subject)
    for value, place in theme.values_of(GROUND):
        for colour in _colours(theme, value):
            if (
                colour.startswith("#")
                and len(colour) in {5, 9}
                and int(colour[1 : 2 if len(colour) == 5 else 3], 16) < (15 if len(colour) == 5 else 255)
            ):
                message = f"the ground {colour} is not opaque"
                yield broken(message, "Give an opaque colour.", place)


def _colours(theme: LaunchTheme, value: str) -> Iterator[str]:
    """The values of a colour in every folder that defines it."""
    reference = split_reference(value)
    if reference is None:
        yield value.strip()
        return
    for entry in theme.resources.defined(*reference):
        if entry.node is not None:
            yield entry.node.text.strip()


@BOOK.rule("AND27")
def holes_stay_holes(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Vectors that old systems read do without the even-odd rule, which these do not know."""
    theme, least = theme_of(subject), subject.site.min_sdk
    level = android_facts().levels.vector_gradients
    if least is not None and least >= level:
        return
    values = [value for item in _ITEMS for value, _ in theme.values_of(item)]
    for key in sorted(reachable(subject.project, theme.resources, values)):
        for entry in theme.resources.defined(*key):
            if entry.node is not None or not entry.path.endswith(".xml") or _version(entry) >= level:
                continue
            try:
                root = subject.project.xml(entry.path).root
            except RiveltError as error:
                yield unknown(str(error), error.place)
                continue
            node = next((one for one in root.walk() if _is_even_odd(one)), None)
            if node is not None and least is None:
                yield unknown(f"minSdk is unknown, and the holes in {entry.path} need API {level}")
            elif node is not None:
                message = (
                    f"android:fillType needs API {level}, and the app runs from {least} on: the holes are filled there"
                )
                hint = f"Move it to a folder of level v{level} with bitmaps beside it, or draw the holes the other way round."
                yield broken(message, hint, Place(entry.path, node.line))


def _is_even_odd(node: Node) -> bool:
    return any(value == "evenOdd" for value in node.attributes.values())


def _version(entry: Entry) -> int:
    return next((value for kind, value in entry.qualifiers if kind == "version" and isinstance(value, int)), 0)
