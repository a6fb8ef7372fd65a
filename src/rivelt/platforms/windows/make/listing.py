"""Project files that list a package's images, edited: new ones are listed the way their siblings are, old ones taken out."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from rivelt.edit.splice import Splice, indent_at, newline_at, spliced
from rivelt.edit.xml import Document, Node
from rivelt.patterns import regex
from rivelt.platforms.windows.native.listing import HOME, Item, listed
from rivelt.project.project import Project
from rivelt.project.snapshot import parent
from rivelt.xmltext import quoted

_INCLUDE = regex(rb"""\bInclude\s*=\s*(["'])(.*?)\1""", re.DOTALL)
_TIED = {"Link", "DependentUpon"}


def relisted(
    project: Project, path: str, added: Sequence[str], removed: Iterable[str], siblings: Iterable[str]
) -> bytes:
    """Return a project file that lists new images and no longer lists others.

    Args:
        project: the project.
        path: the project file.
        added: the paths of the new images. Those that a wildcard covers, or that are listed already, are left alone.
        removed: the paths of images that are to go.
        siblings: the paths of images whose entries are the best examples, as far as there are any.

    Raises:
        BadInput: it is not well-formed.
    """
    document = project.xml(path)
    items = listed(project, path)
    gone = {name.lower() for name in removed}
    splices = [document.remove(item.node) for item in items if len(item.paths) == 1 and item.paths[0] in gone]
    missing = [name for name in added if not any(item.covers(name) for item in items)]
    examples = [item for item in items if item.is_image and item.paths[0] not in gone]
    if missing and examples:
        splices += _beside(document, examples, missing, parent(path), {name.lower() for name in siblings})
    elif missing and document.root.get("Sdk") is None:
        splices.append(_new_group(document, missing, path))
    return spliced(document.data, splices)


def _beside(
    document: Document, examples: list[Item], missing: list[str], folder: str, siblings: set[str]
) -> list[Splice]:
    """New entries after the best example: an image beside it, else the last image of the same folder, else the last image."""
    home = parent(missing[0]).lower()
    near = [item for item in examples if item.paths[0] in siblings]
    near = near or [item for item in examples if parent(item.paths[0]) == home] or examples
    example = near[-1]
    node = example.node
    data = document.data
    lead = newline_at(data, node.start) + indent_at(data, node.start)
    root = HOME.match(example.written[0])
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
