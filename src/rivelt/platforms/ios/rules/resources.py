"""Rules on what a launch screen names: images, colours and files that must be in the app."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec import Struct

from rivelt.errors import Place
from rivelt.platforms.ios.native.catalog import find_loose, find_set
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.rules import BOOK
from rivelt.platforms.ios.site import IosSite
from rivelt.project.project import Project
from rivelt.rules.rulebook import Said, Subject, broken
from rivelt.scene.model import Screen

_ENDINGS = {"image": "imageset", "colour": "colorset"}
_NAMES = {"UIImageName": "image", "UIColorName": "colour"}


class _Name(Struct, frozen=True):
    """A name of an image or a colour ("image", "colour"), and where it stands."""

    kind: str
    name: str
    place: Place


@BOOK.rule("IOS15")
def the_storyboards_name_has_no_extension(subject: Subject[IosSite]) -> Iterator[Said]:
    """A launch storyboard is named without `.storyboard`."""
    for one in declared(subject.project, subject.site.declarations, subject.site.project_file):
        name = one.storyboard
        if name is not None and name.endswith((".storyboard", ".xib")):
            stem = name.rpartition(".")[0]
            hint = f"Write {stem}, or run `rivelt apply`."
            yield broken(
                f"{name} is named with its extension: the system looks for {name}.storyboardc", hint, one.place
            )


@BOOK.rule("IOS16")
def what_is_named_is_there(subject: Subject[IosSite]) -> Iterator[Said]:
    """Every image and colour that the launch screen names is in the app."""
    for said in _lost(subject):
        if _elsewhere(subject, said) is None:
            hint = "Add it to an asset catalog of the target, or name another."
            yield broken(
                f"the {said.kind} {said.name} is named, and is in no asset catalog of the target", hint, said.place
            )


@BOOK.rule("IOS17")
def its_catalog_is_in_the_target(subject: Subject[IosSite]) -> Iterator[Said]:
    """The asset catalog that holds them is compiled into the app."""
    for said in _lost(subject):
        if (catalog := _elsewhere(subject, said)) is not None:
            hint = "Tick the target in Xcode's file inspector, or move the set to a catalog of the target."
            message = f"the {said.kind} {said.name} is in {catalog}, which is not part of the shipped app"
            yield broken(message, hint, said.place)


def _lost(subject: Subject[IosSite]) -> Iterable[_Name]:
    """What is named and not in the target, each once."""
    site, project = subject.site, subject.project
    anywhere = [Screen("ios", "", "", 0, 0, scale, 0) for scale in (1, 2, 3)]
    found: dict[tuple[str, str], _Name] = {}
    for said in (*_in_dictionaries(subject), *_in_storyboard(subject)):
        is_in_catalog = find_set(project, site.catalogs, f"{said.name}.{_ENDINGS[said.kind]}") is not None
        is_loose = said.kind == "image" and any(find_loose(site.members, said.name, screen) for screen in anywhere)
        if not is_in_catalog and not is_loose:
            found.setdefault((said.kind, said.name), said)
    return found.values()


def _in_dictionaries(subject: Subject[IosSite]) -> Iterator[_Name]:
    site = subject.site
    for one in declared(subject.project, site.declarations, site.project_file):
        for idiom in ("iphone", "ipad"):
            dictionary = one.on(idiom).dictionary or {}
            for key, kind in _NAMES.items():
                name = dictionary.get(key)
                if isinstance(name, str) and name:
                    yield _Name(kind, name, one.place)


def _in_storyboard(subject: Subject[IosSite]) -> Iterator[_Name]:
    path = subject.site.storyboard
    if path is None or path not in subject.project:
        return
    document = subject.project.xml(path)
    for node in document.root.walk():
        if node.local == "imageView" and (name := node.get("image")) and node.get("catalog") != "system":
            yield _Name("image", name, document.place(node))
        elif node.local == "color" and node.get("key") and (name := node.get("name")):
            yield _Name("colour", name, document.place(node))


def _elsewhere(subject: Subject[IosSite], said: _Name) -> str | None:
    """The catalog that holds something that is not in the target's own."""
    wanted = f"{said.name}.{_ENDINGS[said.kind]}"
    return next(
        (catalog for catalog in _all_catalogs(subject.project) if find_set(subject.project, [catalog], wanted)), None
    )


def _all_catalogs(project: Project) -> list[str]:
    ending = ".xcassets/"
    paths = project.own("*.xcassets/*Contents.json")
    return sorted({path[: path.index(ending) + len(ending) - 1] for path in paths})
