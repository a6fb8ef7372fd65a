"""Web app manifests and the head of pages that code makes: a framework's `manifest.ts`, a bundler plugin's options, `metadata` objects."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from rivelt.edit.source.script import Language
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.platforms.web.native.manifest import looks_like_manifest
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent

if TYPE_CHECKING:
    from tree_sitter import Node

_OF_ITS_OWN = regex(r"(?:^|/)app/manifest\.(?:ts|js|tsx|mjs)$")
_IN_OPTIONS = regex(r"(?:^|/)(?:vite|nuxt|astro|quasar|svelte|vue|rsbuild)\.config\.[cm]?[jt]s$")
_LAYOUTS = ("layout.tsx", "layout.jsx", "layout.ts", "layout.js")
CODE = (".ts", ".js", ".tsx", ".jsx", ".mjs", ".mts", ".cjs", ".cts")


class CodeManifest(Struct, frozen=True):
    """A manifest that is an object in code, with the members that a JSON document has."""

    source: Language
    node: Node
    value: Mapping[str, Any]

    @property
    def path(self) -> str:
        """The file."""
        return self.source.path

    @property
    def data(self) -> bytes:
        """Its bytes."""
        return self.source.data

    @property
    def is_whole(self) -> bool:
        """Whether all of its properties are written out here."""
        return not self.source.has_more(self.node)

    def place(self, key: str = "") -> Place:
        """Return where the value of a property begins; without it, where the object does."""
        node = self.source.pairs(self.node).get(key, self.node)
        return Place.at(self.path, self.data, node.start_byte)


def manifests_in_code(project: Project) -> Iterator[str]:
    """Yield the sources that make a web app manifest."""
    for path in project.paths:
        if (_OF_ITS_OWN.search(path) or _IN_OPTIONS.search(path)) and project.is_own(path):
            try:
                read_code_manifest(project, path)
            except RiveltError:
                continue
            yield path


def read_code_manifest(project: Project, path: str) -> CodeManifest:
    """Return the manifest that a source makes.

    Raises:
        BadInput: it makes none that is written out as an object.
    """
    source = project.script(path)
    own = _OF_ITS_OWN.search(path) is not None
    default = source.default_object()
    nodes = ([default] if default is not None else []) if own else list(source.objects_called("manifest"))
    for node in nodes:
        value = source.value(node)
        if isinstance(value, dict) and (own or looks_like_manifest(value)):
            return CodeManifest(source, node, value)
    raise BadInput("no web app manifest is written out in it", place=Place(path))


def layout_of(project: Project, path: str) -> str | None:
    """Return the layout beside a framework's `manifest.ts`, whose `metadata` is the head of every page."""
    if not _OF_ITS_OWN.search(path):
        return None
    return next((found for name in _LAYOUTS if (found := join(parent(path), name)) in project), None)


def page_of(project: Project, path: str) -> str | None:
    """Return the page into which a bundler's plugin puts the link to its manifest."""
    page = join(parent(path), "index.html")
    return page if _IN_OPTIONS.search(path) and page in project else None


def metadata(project: Project, path: str) -> Mapping[str, Any]:
    """Return the `metadata` of a layout as plain values, with what its `viewport` says of the theme."""
    source = project.script(path)
    found: dict[str, Any] = {}
    for name in ("metadata", "viewport"):
        node = source.constant(name)
        value = source.value(node) if node is not None else {}
        found |= value if isinstance(value, dict) else {}
    return found
