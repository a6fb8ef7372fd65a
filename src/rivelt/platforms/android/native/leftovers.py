"""Launch images that nothing uses any more."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from rivelt.patterns import regex
from rivelt.platforms.android.names import Names, is_generated
from rivelt.platforms.android.native.resources import Entry, Resources
from rivelt.project.project import Project

_LAUNCH_WORDS = regex(
    r"(?:^|_)(?:splash|launch|launchscreen|startup|start_screen|startscreen|loading|opening|welcome)(?:_|$|screen|image|logo|bg)"
)
_LAUNCH_ITEM = regex(r"windowBackground|windowSplashScreen")
_WORD = regex(rb"[a-z0-9_]+")


def unused_launch_images(
    project: Project, resources: Resources, names: Names, replaced: frozenset[tuple[str, str]]
) -> tuple[str, ...]:
    """Return the drawables and mipmaps that look like launch images and that no file of the project names.

    Args:
        project: the project as it will be.
        resources: the module's resources in it.
        names: the names of what Rivelt generates.
        replaced: drawables, as (kind, name), that the launch screen used before.
    """
    candidates = {
        key
        for key, entries in resources.entries.items()
        if key[0] in {"drawable", "mipmap"} and (_LAUNCH_WORDS.search(key[1]) or key in replaced)
    }
    if not candidates:
        return ()
    unused: dict[str, tuple[str, str]] = {}
    while True:
        more = {
            path: key
            for key in candidates
            if _may_go(key, resources, names) and key not in unused.values()
            if not is_named(project, key[1], {*_files(resources, key), *unused})
            for path in _files(resources, key)
        }
        if not more:
            return tuple(sorted(unused))
        unused |= more
        # What only they used is of no more use either.
        candidates |= reachable(project, resources, (f"@{kind}/{name}" for kind, name in set(more.values())))


def _may_go(key: tuple[str, str], resources: Resources, names: Names) -> bool:
    """Whether it is a file of the person's, and not the launcher icon."""
    is_file = all(entry.node is None for entry in resources.defined(*key))
    return is_file and not key[1].startswith((names.prefix, "ic_launcher"))


def _files(resources: Resources, key: tuple[str, str]) -> list[str]:
    return [entry.path for entry in resources.defined(*key)]


def is_named(project: Project, name: str, besides: set[str]) -> bool:
    """Return whether a source other than `besides`, and not generated, has the name as a word, or one that cannot be read may have it."""
    if not project.is_all_read:
        return True
    wanted = name.encode()
    for path in project.naming(name):
        if path not in besides:
            data = project.read(path)
            if not is_generated(data) and any(word.lstrip(b"0123456789_") == wanted for word in _WORD.findall(data)):
                return True
    return False


def launch_items(styles: Iterable[Entry]) -> Iterator[str]:
    """Yield the values of a theme's items that the launch screen is made of."""
    for style in styles:
        for item in style.node.all("item") if style.node else ():
            if _LAUNCH_ITEM.search(item.get("name") or ""):
                yield item.text


def reachable(project: Project, resources: Resources, values: Iterable[str]) -> frozenset[tuple[str, str]]:
    """Return the drawables and mipmaps that references lead to, those inside drawables included."""
    found: set[tuple[str, str]] = set()
    waiting = [match for value in values for match in re.findall(r"@(drawable|mipmap)/([a-z0-9_]+)", value)]
    while waiting:
        key = waiting.pop()
        if key in found:
            continue
        found.add(key)
        for entry in resources.defined(*key):
            if entry.path.endswith(".xml"):
                text = project.read(entry.path).decode("utf-8", "replace")
                waiting += re.findall(r"@(drawable|mipmap)/([a-z0-9_]+)", text)
    return frozenset(found)
