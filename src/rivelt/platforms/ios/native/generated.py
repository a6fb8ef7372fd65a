"""Xcode projects that are not in the repository, but made from a description that is: what such a description says of its app targets.

A description in YAML (`project.yml` with `targets`) is read; of the others (`Project.swift`, `Package.swift`, Bazel's `BUILD`) only that
they describe an iOS app.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt.edit.plist import Value
from rivelt.errors import RiveltError
from rivelt.patterns import regex
from rivelt.platforms.ios.native.targets import DECLARING, Group, filled, shipped_catalogs
from rivelt.platforms.ios.site import Declaration, Generator
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent

if TYPE_CHECKING:
    from rivelt.edit.yamltext import YamlDocument, YamlValue

DESCRIPTIONS: Mapping[str, Generator] = {
    "project.yml": "project.yml",
    "Project.swift": "Project.swift",
    "Package.swift": "Package.swift",
    "BUILD": "Bazel",
    "BUILD.bazel": "Bazel",
}
_IOS_APP: Mapping[Generator, re.Pattern[str]] = {
    "Project.swift": regex(r"product:\s*\.app\b"),
    "Package.swift": regex(r"\.iOSApplication\s*\("),
    "Bazel": regex(r"(?m)^\s*ios_application\s*\("),
}
_NAME = regex(r'\bname\s*[:=]\s*"([^"]+)"')
_CONFIGURATIONS = ("Debug", "Release")
_SOURCES = (".swift", ".m", ".mm", ".c", ".cpp", ".h", ".metal")


def descriptions(project: Project) -> Iterator[tuple[str, Generator]]:
    """Yield the descriptions of iOS apps whose Xcode project is not in the repository, with their kinds."""
    made = {parent(parent(path)) for path in project.own("*.xcodeproj/project.pbxproj")}
    for name, generator in DESCRIPTIONS.items():
        for path in project.own(f"*{name}"):
            if path.rpartition("/")[2] == name and parent(path) not in made and _is_of_app(project, path, generator):
                yield path, generator


def _is_of_app(project: Project, path: str, generator: Generator) -> bool:
    try:
        if generator == "project.yml":
            return bool(project.yaml(path).members(project.yaml(path).node("targets")))
        return _IOS_APP[generator].search(project.read(path).decode("utf-8", "replace")) is not None
    except RiveltError:
        # What cannot be read may be one: that is reported, not passed over.
        return generator == "project.yml" and b"targets:" in project.read(path)


class DescribedTarget(Struct, frozen=True, dict=True):
    """An app target of a description; see `rivelt.platforms.ios.native.targets.Target`."""

    path: str
    name: str
    project: Project
    generator: Generator

    id = ""
    is_for_ios = True

    @property
    def folder(self) -> str:
        """The folder of the description, in which the project is made."""
        return parent(self.path)

    @cached_property
    def _document(self) -> YamlDocument | None:
        return self.project.yaml(self.path) if self.generator == "project.yml" else None

    def _values(self, *keys: str) -> Mapping[str, YamlValue]:
        value = self._document.value(*keys) if self._document is not None else None
        return value if isinstance(value, dict) else {}

    @property
    def other_platforms(self) -> tuple[str, ...]:
        """What the target is built for besides iPhone and iPad."""
        if self._document is None:
            return ()
        named = self._document.value("targets", self.name, "supportedDestinations")
        return tuple(sorted(_XCODE[str(one)] for one in named if str(one) in _XCODE)) if isinstance(named, list) else ()

    def declarations(self) -> tuple[Declaration, ...]:
        """Return how each configuration declares its Info.plist and its launch screen."""
        if self._document is None:
            reason = f"what {self.path} declares is not read"
            return tuple(
                Declaration(name, name, None, is_generated=False, own=(), inherited=(), unread=reason)
                for name in _CONFIGURATIONS
            )
        names = tuple(self._values("configs")) or _CONFIGURATIONS
        return tuple(self._declaration(name) for name in names)

    def _declaration(self, configuration: str) -> Declaration:
        own = self._settings(("targets", self.name), configuration)
        inherited = self._settings((), configuration)
        known = filled({**inherited, **own, **self._deployment()}, self.name)
        properties = self._values("targets", self.name, "info", "properties")
        has_list = bool(self._values("targets", self.name, "info"))
        plist = known.get("INFOPLIST_FILE") if not has_list else None
        return Declaration(
            configuration,
            configuration,
            join(self.folder, plist) if plist else None,
            is_generated=known.get("GENERATE_INFOPLIST_FILE") == "YES",
            own=tuple(sorted(item for item in own.items() if item[0].startswith(DECLARING))),
            inherited=tuple(sorted(item for item in inherited.items() if item[0].startswith(DECLARING))),
            settings=known,
            properties={key: _as_plist(value) for key, value in properties.items()} if has_list else None,
        )

    def _settings(self, keys: tuple[str, ...], configuration: str) -> dict[str, str]:
        """The settings of a target, or of the project, in one configuration."""
        whole = self._values(*keys, "settings")
        parts: list[YamlValue] = [whole.get("base"), (_mapping(whole.get("configs"))).get(configuration)]
        if not any(key in whole for key in ("base", "configs", "groups")):
            parts = [dict(whole)]
        return {
            key: "YES" if value is True else "NO" if value is False else str(value)
            for part in parts
            for key, value in _mapping(part).items()
            if isinstance(value, str | bool)
        }

    def _deployment(self) -> dict[str, str]:
        assert self._document is not None
        for keys in (("targets", self.name, "deploymentTarget"), ("options", "deploymentTarget")):
            value = self._document.value(*keys)
            value = value.get("iOS") if isinstance(value, dict) else value
            if isinstance(value, str):
                return {"IPHONEOS_DEPLOYMENT_TARGET": value}
        return {}

    # Files

    @cached_property
    def source_folders(self) -> tuple[str, ...]:
        """The folders whose files are all members."""
        if self._document is None:
            catalogs = sorted({_catalog(path) for path in self.project.below(self.folder) if ".xcassets/" in path})
            return (parent(catalogs[0]) if catalogs else self.folder,)
        listed = [
            *_listed(self._document.value("targets", self.name, "sources")),
            *_listed(self._document.value("targets", self.name, "resources")),
        ]
        paths = [one if isinstance(one, str) else _mapping(one).get("path") for one in listed]
        folders = [join(self.folder, path) for path in paths if isinstance(path, str)]
        return tuple(folder for folder in dict.fromkeys(folders) if any(True for _ in self.project.below(folder)))

    def members(self, phase: str = "Resources") -> frozenset[str]:
        """Return the paths of the files in a build phase."""
        inside = (path for folder in self.source_folders for path in self.project.below(folder))
        wants_sources = phase == "Sources"
        return frozenset(path for path in inside if path.endswith(_SOURCES) == wants_sources)

    @cached_property
    def catalogs(self) -> tuple[str, ...]:
        """The asset catalogs of the shipped app, the one with its icon first."""
        found = {_catalog(path) for path in self.members() if ".xcassets/" in path}
        return shipped_catalogs(self.project, self.folder, found, [one.settings for one in self.declarations()])

    def own_synchronised_folders(self) -> tuple[str, ...]:
        """Return the folders whose files are members by themselves."""
        return self.source_folders

    def phase(self, _isa: str) -> str | None:
        """Return None: build phases are made with the project."""
        return None

    def group_of(self, _path: str) -> Group | None:
        """Return None: groups are made with the project."""
        return None

    @property
    def groups(self) -> tuple[Group, ...]:
        """The description's folder, whose files are members by themselves."""
        return (Group("", self.folder, is_synchronised=True),)


_XCODE = {"macOS": "macosx", "visionOS": "xros", "tvOS": "appletvos", "macCatalyst": "maccatalyst"}


def _catalog(path: str) -> str:
    return f"{path.partition('.xcassets/')[0]}.xcassets"


def _mapping(value: YamlValue) -> Mapping[str, YamlValue]:
    return value if isinstance(value, dict) else {}


def _listed(value: YamlValue) -> Sequence[YamlValue]:
    return value if isinstance(value, list) else [] if value is None else [value]


def _as_plist(value: YamlValue) -> Value:
    if isinstance(value, dict):
        return {key: _as_plist(one) for key, one in value.items()}
    if isinstance(value, list):
        return [_as_plist(one) for one in value]
    return "" if value is None else value


@remembered
def described_targets(project: Project, path: str, generator: Generator) -> tuple[DescribedTarget, ...]:
    """Return the iOS app targets of a description.

    Raises:
        BadInput: it cannot be read.
    """
    if generator != "project.yml":
        found = _NAME.search(project.read(path).decode("utf-8", "replace"))
        return (DescribedTarget(path, found[1] if found else "app", project, generator),)
    document = project.yaml(path)
    return tuple(
        DescribedTarget(path, name, project, generator)
        for name in document.members(document.node("targets"))
        if document.value("targets", name, "type") == "application" and _is_for_ios(document, name)
    )


def _is_for_ios(document: YamlDocument, name: str) -> bool:
    platforms = document.value("targets", name, "platform")
    destinations = document.value("targets", name, "supportedDestinations")
    return "iOS" in {str(one) for value in (platforms, destinations) for one in _listed(value)}


def generator_of(path: str) -> Generator | None:
    """Return what kind of description a file is by its name; None for a project file."""
    return DESCRIPTIONS.get(path.rpartition("/")[2])
