"""What only an old launch screen used: storyboards and nibs that nothing names any more, their strings, images and colours."""

from __future__ import annotations

import re
from collections.abc import Iterator

from rivelt.errors import RiveltError
from rivelt.patterns import regex
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.site import IosSite, Names
from rivelt.project.project import Project
from rivelt.project.snapshot import parent

_LAUNCH_SCREEN = regex(rb'launchScreen=["\x27]YES')
_NAMED_BY_SETTING = regex(r"INFOPLIST_KEY_UI(?:Launch|Main)Storyboard\w*\"? = \"?([^;\"]+)")
_LAUNCH_IMAGES = regex(r"^.*\.launchimage(?=/)")
_SET = regex(r"^(.*\.xcassets/(?:[^/]+/)*?([^/]+)\.(?:imageset|colorset))/")


def unused_launch_files(
    project: Project, site: IosSite, names: Names, before: Project | None = None
) -> tuple[str, ...]:
    """Return the files of launch screens that no Info.plist, build setting or source names.

    Args:
        project: the project as it will be.
        site: the target.
        names: the names of what Rivelt generates, which stay.
        before: the project as it is, where another launch screen takes the place of the one that it declares: what that one used may go too.
    """
    if not project.is_all_read or site.generator not in {None, "project.yml"}:
        return ()
    candidates = [
        path
        for path in sorted(site.members)
        if path.endswith((".storyboard", ".xib"))
        and path in project
        and not path.rpartition("/")[2].startswith(names.prefix)
        if path == site.storyboard or _LAUNCH_SCREEN.search(project.read(path)[:2000])
    ]
    screens = [path for path in candidates if not _is_named(project, site, path)]
    strings = [one for path in screens for one in _strings_of(project, path)]
    gone = {*screens, *strings}
    old = {name for path in screens for name in _names_in(project, path)}
    if before is not None:
        old |= set(_names_in_dictionaries(before, site))
    sets = [path for path in _sets_of(project, site, names, old) if not _is_word(project, *path, gone)]
    folders = [*(folder for folder, _ in sets), *_launch_images(project, site)]
    return (*screens, *strings, *(path for folder in folders for path in project.below(folder)))


def _launch_images(project: Project, site: IosSite) -> list[str]:
    """The sets of launch images, from before there were storyboards, that no build setting names any more."""
    settings = project.read(site.project_file).decode("utf-8", "replace")
    if "LAUNCHIMAGE_NAME" in settings:
        return []
    inside = (path for catalog in site.catalogs for path in project.below(catalog))
    return sorted({found[0] for path in inside if (found := _LAUNCH_IMAGES.match(path))})


def _strings_of(project: Project, storyboard: str) -> Iterator[str]:
    """The translations of a storyboard: `de.lproj/Launch.strings` beside `Base.lproj/Launch.storyboard`."""
    folder, stem = parent(storyboard), storyboard.rpartition("/")[2].rpartition(".")[0]
    outer = parent(folder) if folder.endswith(".lproj") else folder
    for path in project.below(outer):
        if path.endswith((f"/{stem}.strings", f"/{stem}.xcstrings")):
            holder = parent(path)
            if holder == outer or (parent(holder) == outer and holder.endswith(".lproj")):
                yield path


def _names_in(project: Project, storyboard: str) -> Iterator[str]:
    """The images and colours that a storyboard or nib shows."""
    try:
        root = project.xml(storyboard).root
    except RiveltError:
        return
    for node in root.walk():
        if (node.local == "imageView" and (name := node.get("image"))) or (
            node.local == "color" and node.get("key") and (name := node.get("name"))
        ):
            yield name


def _names_in_dictionaries(project: Project, site: IosSite) -> Iterator[str]:
    """The images and colours that `UILaunchScreen` names."""
    try:
        found = declared(project, site.declarations, site.project_file)
    except RiveltError:
        return
    for one in found:
        for idiom in ("iphone", "ipad"):
            for key in ("UIImageName", "UIColorName"):
                name = (one.on(idiom).dictionary or {}).get(key)
                if isinstance(name, str):
                    yield name


def _sets_of(project: Project, site: IosSite, names: Names, wanted: set[str]) -> list[tuple[str, str]]:
    """The image sets and colour sets of some names in the target's catalogs: their folders and names; none that Rivelt makes."""
    found: dict[tuple[str, str], None] = {}
    for catalog in site.catalogs:
        for path in project.below(catalog):
            match = _SET.match(path)
            if match and match[2] in wanted and not match[2].startswith(names.prefix):
                found[match[1], match[2]] = None
    return list(found)


def _is_word(project: Project, folder: str, name: str, gone: set[str]) -> bool:
    """Whether a source names an image or colour: by its name, or by the symbol that Xcode makes of it (`harbourLogo` of "harbour-logo")."""
    symbol = re.sub(r"[^0-9A-Za-z]+(\w?)", lambda found: found[1].upper(), name)
    for word in {name, symbol}:
        pattern = re.compile(rf"(?<![\w.]){re.escape(word)}(?!\w)|\.{re.escape(word)}(?!\w)", re.IGNORECASE)
        for path in project.naming(word):
            if path in gone or path.startswith(f"{folder}/"):
                continue
            if pattern.search(project.read(path).decode("utf-8", "replace")):
                return True
    return False


def _is_named(project: Project, site: IosSite, path: str) -> bool:
    stem = path.rpartition("/")[2].rpartition(".")[0]
    settings = project.read(site.project_file).decode("utf-8", "replace")
    if any(found.removesuffix(".storyboard") == stem for found in _NAMED_BY_SETTING.findall(settings)):
        return True
    word = re.compile(rf"(?<![\w.]){re.escape(stem)}(?!\w)")
    # A list in UTF-16 has no words that the index could see.
    for other in dict.fromkeys((*project.naming(stem), *project.find("*.plist"))):
        if other == path:
            continue
        if other.endswith(".plist"):
            if _names_in_plist(project, other, stem):
                return True
        elif word.search(project.read(other).decode("utf-8", "replace")):
            return True
    return False


def _names_in_plist(project: Project, path: str, stem: str) -> bool:
    try:
        values = project.plist(path).values
    except RiveltError:
        return True  # what cannot be read may name it
    return any(isinstance(value, str) and value.removesuffix(".storyboard") == stem for value in values.values())
