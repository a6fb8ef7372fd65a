"""Project files that list a package's images: new ones are listed the way their sisters are, old ones taken out."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fnmatch import fnmatch

from rivelt.edit.splice import Splice, indent_at, newline_at, spliced
from rivelt.edit.xml import Document, Node, parse_xml
from rivelt.project.snapshot import join, parent
from rivelt.xmltext import quoted

PROJECT_FILES = (
    ".csproj",
    ".vbproj",
    ".fsproj",
    ".vcxproj",
    ".vcxproj.filters",
    ".jsproj",
    ".njsproj",
    ".wapproj",
    ".projitems",
)
_IMAGES = (".png", ".jpg", ".jpeg")
_HOME = re.compile(r"^\$\((?:ProjectDir|MSBuildThisFileDirectory|MSBuildProjectDirectory)\)[\\/]?", re.IGNORECASE)
_INCLUDE = re.compile(rb"""\bInclude\s*=\s*(["'])(.*?)\1""", re.DOTALL)
_TIED = {"Link", "DependentUpon"}


@dataclass(frozen=True)
class _Item:
    """One entry: its element, and the files or wildcards it includes, as written and as paths in lower case."""

    node: Node
    written: tuple[str, ...]
    paths: tuple[str, ...]
    excluded: tuple[str, ...]

    def covers(self, path: str) -> bool:
        low = path.lower()
        is_in = any(fnmatch(low, _pattern(found)) for found in self.paths)
        return is_in and not any(fnmatch(low, _pattern(found)) for found in self.excluded)

    @property
    def is_image(self) -> bool:
        return len(self.paths) == 1 and "*" not in self.paths[0] and self.paths[0].endswith(_IMAGES)


def relisted(data: bytes, path: str, added: Sequence[str], removed: Iterable[str], sisters: Iterable[str]) -> bytes:
    """A project file that lists new images and no longer lists others.

    Args:
        data: the file.
        path: its path in the project.
        added: the paths of the new images. Those that a wildcard covers, or that are listed already, are left alone.
        removed: the paths of images that are to go.
        sisters: the paths of images whose entries are the best examples, as far as there are any.

    Raises:
        BadInput: it is not well-formed.
    """
    document = parse_xml(data, path)
    items = _items(document, parent(path))
    gone = {name.lower() for name in removed}
    splices = [document.remove(item.node) for item in items if len(item.paths) == 1 and item.paths[0] in gone]
    missing = [name for name in added if not any(item.covers(name) for item in items)]
    examples = [item for item in items if item.is_image and item.paths[0] not in gone]
    if missing and examples:
        splices += _beside(document, examples, missing, parent(path), {name.lower() for name in sisters})
    elif missing and document.root.get("Sdk") is None:
        splices.append(_new_group(document, missing, path))
    return spliced(data, splices)


def _items(document: Document, folder: str) -> list[_Item]:
    found = []
    for group in document.root.all("ItemGroup"):
        for node in group.children:
            include = node.get("Include")
            if include is not None:
                written = tuple(part.strip() for part in include.split(";") if part.strip())
                excluded = (node.get("Exclude") or "").split(";")
                found.append(
                    _Item(
                        node,
                        written,
                        tuple(_path(folder, part) for part in written),
                        tuple(_path(folder, part.strip()) for part in excluded if part.strip()),
                    )
                )
    return found


def _path(folder: str, written: str) -> str:
    return join(folder, *_HOME.sub("", written).replace("\\", "/").split("/")).lower()


def _pattern(path: str) -> str:
    """A wildcard of MSBuild as one of `fnmatch`, whose `*` crosses folders; `**/` may also stand for nothing."""
    return path.replace("[", "[[]").replace("**/*", "*").replace("**", "*")


def _beside(
    document: Document, examples: list[_Item], missing: list[str], folder: str, sisters: set[str]
) -> list[Splice]:
    """New entries after the best example: a sister, else the last image of the same folder, else the last image."""
    home = parent(missing[0]).lower()
    near = [item for item in examples if item.paths[0] in sisters]
    near = near or [item for item in examples if parent(item.paths[0]) == home] or examples
    example = near[-1]
    node = example.node
    data = document.data
    lead = newline_at(data, node.start) + indent_at(data, node.start)
    root = _HOME.match(example.written[0])
    separator = "/" if "/" in example.written[0] and "\\" not in example.written[0] else "\\"
    text = b""
    for path in missing:
        relative = path[len(folder) + 1 :] if folder else path
        include = (root[0] if root else "") + relative.replace("/", separator)
        text += lead + _copied(data[node.start : node.end], node, include)
    return [Splice(node.end, node.end, text)]


def _copied(raw: bytes, node: Node, include: str) -> bytes:
    if any(child.local in _TIED for child in node.children):
        name = re.match(rb"<[^\s/>]+", raw)
        assert name is not None
        return name[0] + f" Include={quoted(include)} />".encode()
    return _INCLUDE.sub(lambda _: f"Include={quoted(include)}".encode(), raw, count=1)


def _new_group(document: Document, missing: list[str], path: str) -> Splice:
    folder = parent(path)
    name = "Image" if ".vcxproj" in path else "Content"
    paths = [(found[len(folder) + 1 :] if folder else found).replace("/", "\\") for found in missing]
    unit = document.indent_unit().decode()
    lines = ["<ItemGroup>", *(f"{unit}<{name} Include={quoted(found)} />" for found in paths), "</ItemGroup>"]
    return document.append_child(document.root, lines, document.indent_unit())


def is_listed(data: bytes, path: str, image: str) -> bool:
    """Whether a project file lists an image, by its name or by a wildcard; one that lists nothing itself leaves that to the SDK.

    Raises:
        BadInput: it is not well-formed.
    """
    document = parse_xml(data, path)
    items = _items(document, parent(path))
    is_left_to_sdk = document.root.get("Sdk") is not None and not any(item.is_image for item in items)
    return is_left_to_sdk or any(item.covers(image) for item in items)
