"""The project file: what it is built for, and the item that the launch screens are made from."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.edit.xml import Document, Node
from rivelt.patterns import regex
from rivelt.platforms.dotnet.facts import dotnet_facts
from rivelt.platforms.dotnet.site import FED
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.units import Size

_FRAMEWORK = regex(r"net(\d+)\.\d+-(android|ios|windows)([\d.]*)")
_SIZE = regex(r"\s*(\d+(?:\.\d+)?)\s*[,;]\s*(\d+(?:\.\d+)?)\s*")


class SplashItem(Struct, frozen=True):
    """The item: its element, and the picture as written and as a path (None: with a wildcard or a variable)."""

    node: Node
    written: str
    path: str | None

    @property
    def colour(self) -> Colour | None:
        """The colour behind the picture; None where it is missing or not understood."""
        try:
            return Colour.parse(_argb(self.node.get("Color") or ""))
        except ValueError:
            return None

    @property
    def base_size(self) -> Size | None:
        """The picture's size in dp; None where it is missing or not understood."""
        found = _SIZE.fullmatch(self.node.get("BaseSize") or "")
        return Size(float(found[1]), float(found[2])) if found and float(found[1]) and float(found[2]) else None


class SingleProject(Struct, frozen=True):
    """A project file with its items and properties."""

    document: Document
    items: tuple[SplashItem, ...]
    properties: dict[str, tuple[str, ...]]

    @property
    def path(self) -> str:
        """The project file."""
        return self.document.path

    @property
    def home(self) -> str:
        """The folder of the project file."""
        return parent(self.path)

    @property
    def item(self) -> SplashItem | None:
        """The item that counts."""
        return self.items[0] if self.items else None

    @property
    def feeds(self) -> tuple[str, ...]:
        """The platforms that it is built for."""
        named = {found[2] for found in self._frameworks()}
        return tuple(target for target in FED if target in named)

    @property
    def compile_sdk(self) -> int | None:
        """The API level that its Android part is compiled with."""
        for found in self._frameworks():
            if found[2] == "android":
                level = re.match(r"\d+", found[3])
                return int(level[0]) if level else dotnet_facts().compile_sdk.get(found[1])
        return None

    @property
    def min_sdk(self) -> int:
        """The lowest API level that its Android part runs on."""
        for value in self.properties.get("SupportedOSPlatformVersion@android", ()):
            if found := re.match(r"\d+", value):
                return int(found[0])
        return dotnet_facts().lowest_android

    def _frameworks(self) -> Iterator[re.Match[str]]:
        for key, values in self.properties.items():
            if key.partition("@")[0] in {"TargetFrameworks", "TargetFramework"}:
                for value in values:
                    yield from _FRAMEWORK.finditer(value)


def single_projects(project: Project) -> Iterator[str]:
    """Yield the paths of the single projects."""
    for path in project.find("*.csproj"):
        if path in project and b"<SingleProject>" in project.read(path):
            yield path


@remembered
def read_single_project(project: Project, path: str) -> SingleProject:
    """Return a project file.

    Raises:
        BadInput: it is not well-formed.
    """
    document = project.xml(path)
    properties: dict[str, tuple[str, ...]] = {}
    items = []
    for group in document.root.children:
        for node in group.children:
            if group.local == "PropertyGroup":
                system = next((one for one in FED if one in (node.get("Condition") or "").lower()), "")
                key = f"{node.local}@{system}" if system else node.local
                properties[key] = (*properties.get(key, ()), node.text.strip())
            elif node.local == dotnet_facts().item and (written := node.get("Include")) is not None:
                is_plain = not any(mark in written for mark in "*$;")
                picture = join(parent(path), *written.replace("\\", "/").split("/")) if is_plain else None
                items.append(SplashItem(node, written, picture))
    return SingleProject(document, tuple(items), properties)


def is_single(project: Project, path: str) -> bool:
    """Return whether a project file says that it is a single project."""
    values = read_single_project(project, path).properties.get("SingleProject", ())
    return any(value.lower() == "true" for value in values)


def _argb(text: str) -> str:
    """A colour of the item as CSS writes it: with four bytes, alpha comes first."""
    plain = text.strip()
    return f"#{plain[3:]}{plain[1:3]}" if re.fullmatch(r"#[0-9A-Fa-f]{8}", plain) else plain
