"""What a build serves: the folders whose files reach the browser, and under which addresses."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, ClassVar

from msgspec import Struct, field

from rivelt.edit.jsontext import JsonNode
from rivelt.errors import RiveltError
from rivelt.patterns import regex
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.values import Keyed

_VITE = tuple(f"vite.config.{ending}" for ending in ("js", "ts", "mjs", "mts", "cjs", "cts"))
_LITERAL = regex(r"""\b(publicDir|root)\s*:\s*(?:(["'`])([^"'`$]*)\2|([^,\s}]+))""")

# The folder of static files by the package that builds an app, the first that is among its dependencies (their documentation).
_FRAMEWORKS: tuple[tuple[str, str], ...] = (
    ("next", "public"),
    ("nuxt", "public"),
    ("nuxt3", "public"),
    ("@sveltejs/kit", "static"),
    ("gatsby", "static"),
    ("astro", "public"),
    ("@remix-run/dev", "public"),
    ("@react-router/dev", "public"),
    ("react-scripts", "public"),
    ("@vue/cli-service", "public"),
    ("@11ty/eleventy", ""),
    ("vite", "public"),
)
_OLD_NUXT = regex(r"^[~^]?2\b")
_BUILDERS = ("webpack", "parcel", "rollup", "esbuild", "gulp", "@angular/cli", "ember-cli", "@stencil/core")


class Root(Struct, frozen=True):
    """A folder whose files are served below an address: "" is the app's own."""

    folder: str
    url: str


class Served(Keyed, frozen=True):
    """What a build serves. `by`: the file that says so, "" where no build stands in between. `files`: single files by their address.

    `unknown`: why it is not known. `assets`: the place of a list of assets that a folder can be added to.
    """

    by: str = ""
    roots: tuple[Root, ...] = ()
    files: Mapping[str, str] = field(default_factory=dict)
    unknown: str = ""
    assets: JsonNode | None = None
    source_root: str = ""
    not_in_key: ClassVar[frozenset[str]] = frozenset({"assets"})

    @property
    def is_plain(self) -> bool:
        """Whether every file is served where it is."""
        return not self.by and not self.unknown

    def url_of(self, path: str) -> str | None:
        """Return the address of a file, from the app's own on; None for one that is not served."""
        if path in self.files:
            return self.files[path]
        for root in sorted(self.roots, key=lambda root: -len(root.folder)):
            if not root.folder or path.startswith(f"{root.folder}/"):
                inside = path.removeprefix(f"{root.folder}/") if root.folder else path
                return f"{root.url}/{inside}" if root.url else inside
        return None


def file_at(project: Project, found: Served, url: str) -> str | None:
    """Return the file that is served at an address, from the app's own on; None where there is none."""
    for path, known in found.files.items():
        if known == url and path in project:
            return path
    for root in found.roots:
        if not root.url or url.startswith(f"{root.url}/"):
            path = join(root.folder, *url.removeprefix(f"{root.url}/" if root.url else "").split("/"))
            if path in project:
                return path
    return None


@remembered
def served(project: Project, path: str) -> Served:
    """Return what the build that a file belongs to serves: that of the nearest folder above it with a build."""
    folder = parent(path)
    while True:
        found = _of_folder(project, folder)
        if found is not None:
            return found
        if not folder:
            return Served()
        folder = parent(folder)


def _of_folder(project: Project, folder: str) -> Served | None:
    angular = join(folder, "angular.json")
    if angular in project:
        return _angular(project, angular)
    vite = next((path for name in _VITE if (path := join(folder, name)) in project), None)
    package = join(folder, "package.json")
    dependencies = _dependencies(project, package) if package in project else {}
    for name, static in _FRAMEWORKS:
        if name in dependencies and not (name == "vite" and vite is not None):
            is_old = name == "nuxt" and _OLD_NUXT.match(str(dependencies[name])) is not None
            return Served(package, (Root(join(folder, "static" if is_old else static), ""),))
    if vite is not None:
        return _vite(project, vite)
    builder = next((name for name in _BUILDERS if name in dependencies), None)
    if builder is not None:
        return Served(unknown=f"{package} builds with {builder}: which folders it serves is not read")
    return None


def _dependencies(project: Project, path: str) -> Mapping[str, Any]:
    try:
        value = project.json(path).value
    except RiveltError:
        return {}
    found: dict[str, Any] = {}
    for key in ("devDependencies", "dependencies"):
        named = value.get(key)
        found |= named if isinstance(named, dict) else {}
    return found


def _vite(project: Project, path: str) -> Served:
    text = project.read(path).decode("utf-8", "replace")
    folder, public = parent(path), "public"
    for name, _, literal, other in _LITERAL.findall(text):
        if other and other != "false":
            return Served(unknown=f"{name} in {path} is worked out by code")
        if name == "root" and literal:
            folder = join(folder, *literal.strip("/").split("/"))
        elif name == "publicDir":
            public = literal.strip("/")
    roots = (Root(join(folder, *public.split("/")), ""),) if public else ()
    return Served(path, roots)


def _angular(project: Project, path: str) -> Served:
    """The assets of the build of each app: folders, files and patterns."""
    try:
        document = project.json(path)
    except RiveltError as error:
        return Served(unknown=str(error))
    home = parent(path)
    roots: dict[Root, None] = {}
    files: dict[str, str] = {}
    listed: JsonNode | None = None
    source_root = ""
    for name, app in _members(document.root, "projects"):
        build = _inside(app, "architect", "build", "options") or _inside(app, "targets", "build", "options")
        assets = build.members.get("assets") if build is not None else None
        if assets is None:
            continue
        listed = listed or assets
        source = app.members.get("sourceRoot")
        source_root = join(home, str(source.value)) if source is not None else join(home, name, "src")
        for item in assets.items:
            _asset(project, home, source_root, item.value, roots, files)
    return Served(path, tuple(roots), files, assets=listed, source_root=source_root)


def _members(node: JsonNode, key: str) -> Iterator[tuple[str, JsonNode]]:
    found = node.members.get(key)
    yield from (found.members.items() if found is not None else ())


def _inside(node: JsonNode, *keys: str) -> JsonNode | None:
    found: JsonNode | None = node
    for key in keys:
        found = found.members.get(key) if found is not None else None
    return found


def _asset(
    project: Project, home: str, source: str, item: object, roots: dict[Root, None], files: dict[str, str]
) -> None:
    """One asset: a path, or a pattern with its input folder and its output address."""
    if isinstance(item, str):
        path = join(home, *item.rstrip("/").split("/"))
        url = path.removeprefix(f"{source}/")
        if path in project:
            files[path] = url
        else:
            roots[Root(path, url)] = None
    elif isinstance(item, dict) and isinstance(item.get("input"), str):
        folder = join(home, *str(item["input"]).rstrip("/").split("/"))
        url = str(item.get("output") or "").strip("/.")
        if str(item.get("glob", "**/*")).startswith("**"):
            roots[Root(folder, url)] = None
        else:
            name = str(item.get("glob"))
            files[join(folder, name)] = f"{url}/{name}" if url else name
