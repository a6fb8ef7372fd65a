"""An app target of an Xcode project."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import ClassVar, Literal, TypeAlias

from msgspec import Struct, field

from rivelt.edit.plist import Value
from rivelt.plan.names import ASSET, safe_name
from rivelt.scene.site import Site
from rivelt.values import Keyed

PREFIX = "Rivelt"

Idiom: TypeAlias = Literal["iphone", "ipad"]
Orientation: TypeAlias = Literal["portrait", "landscape"]
Held: TypeAlias = tuple[tuple[Idiom, Orientation], ...]
"""Kinds of device, and how they can be held."""

Generator: TypeAlias = Literal["project.yml", "Project.swift", "Package.swift", "Bazel"]
"""What an Xcode project is made from: a description in YAML, or in a language that is not edited."""

_FAMILIES: Mapping[str, Idiom] = {"1": "iphone", "2": "ipad"}

Part: TypeAlias = Literal["Mark", "Imprint", "Disc", "Backdrop", "Ground", "Launch"]
"""What Rivelt generates, by the names that a prefix is put before."""


class Names(Struct, frozen=True):
    """The names of what Rivelt generates. `suffix`: a hash of the content, or nothing."""

    prefix: str = PREFIX
    suffix: str = ""

    @classmethod
    def safe(cls, prefix: str) -> Names:
        """Return the names with a prefix that a person chose, made safe for Xcode."""
        return cls(safe_name(prefix, ASSET))

    def of(self, part: Part) -> str:
        """Return the name of a part."""
        return f"{self.prefix}{part}{self.suffix}"

    @property
    def catalog(self) -> str:
        """The asset catalog of our own, for targets that have none."""
        return f"{self.prefix}.xcassets"

    @property
    def waiting(self) -> str:
        """The screen of the app's own first moment: code names it, so it never changes."""
        return f"{self.prefix}Waiting"


class Declaration(Keyed, frozen=True):
    """How one build configuration declares its Info.plist.

    `id`: of the XCBuildConfiguration. `plist`: the path of its Info.plist file, if it names one. `is_generated`: whether Xcode makes the
    list from build settings. `own`: the target's own launch settings, `inherited` those of the project and of configuration files.
    `settings`: all build settings, variables filled in. `properties`: what a project description puts into the list that it makes.
    `unread`: why it is not known what it declares, where that is so.
    """

    id: str
    name: str
    plist: str | None
    is_generated: bool
    own: tuple[tuple[str, str], ...]
    inherited: tuple[tuple[str, str], ...]
    settings: Mapping[str, str] = field(default_factory=dict)
    properties: Mapping[str, Value] | None = None
    unread: str = ""
    not_in_key: ClassVar[frozenset[str]] = frozenset({"settings", "properties"})

    @property
    def deployment(self) -> int | None:
        """The oldest major version of the system that it runs on; None where that is unknown."""
        found = re.match(r"(\d{1,3})(?:\.|$)", self.settings.get("IPHONEOS_DEPLOYMENT_TARGET", ""))
        return int(found[1]) if found else None

    @property
    def families(self) -> tuple[Idiom, ...]:
        """The kinds of device that it is made for; both where that is not said."""
        named = re.split(r"[,\s]+", self.settings.get("TARGETED_DEVICE_FAMILY", ""))
        found = tuple(idiom for number, idiom in _FAMILIES.items() if number in named)
        return found or tuple(_FAMILIES.values())


class IosSite(Site, frozen=True):
    """An app target. Paths are relative to the project's root.

    `project_file`: the `project.pbxproj`. `target_name`: the target. `declarations`: one for each build configuration.
    `storyboard`: the launch storyboard it names today, if that file exists. `catalogs`: its asset catalogs. `home`: the folder for new
    files, and `group` the id of the Xcode group for it; None when a synchronised folder includes new files by itself. `phase`, `sources`:
    the ids of its Resources and Sources phases. `other_platforms`: what else the target is built for ("macosx"). `members`: the files in them.
    `held`: the kinds of device that it is made for, and the orientations that it supports; all where nothing is known.
    `generator`: what the project file is made from, where that is what must be edited (`project_file`).
    """

    project_file: str = ""
    target_name: str = ""
    folder: str = ""
    declarations: tuple[Declaration, ...] = ()
    storyboard: str | None = None
    catalogs: tuple[str, ...] = ()
    home: str = ""
    group: str | None = None
    phase: str = ""
    sources: str = ""
    other_platforms: tuple[str, ...] = ()
    members: frozenset[str] = frozenset()
    held: Held = ()
    generator: Generator | None = None

    @property
    def oldest(self) -> int | None:
        """The oldest major version of the system that any configuration runs on; None where none says so."""
        return min((found.deployment for found in self.declarations if found.deployment is not None), default=None)

    @property
    def plists(self) -> tuple[str, ...]:
        """Its Info.plist files, each once."""
        return tuple(dict.fromkeys(found.plist for found in self.declarations if found.plist))
