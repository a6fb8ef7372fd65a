"""The variants of an app module: which source sets each is built from, the highest priority first.

https://developer.android.com/build/build-variants#sourceset-build
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import ClassVar

from msgspec import Struct

from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.android.native.source_sets import Declared, declared, library_folders
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent
from rivelt.values import Keyed

MAIN = "main"
MANIFEST = "AndroidManifest.xml"
_TESTS = ("test", "androidTest")


class SourceSet(Keyed, frozen=True):
    """A source set: its manifest, its resource folders (later ones win), and its folders of code. `problem`: why they are unknown."""

    name: str
    manifest: str
    res: tuple[str, ...]
    code: tuple[str, ...]
    problem: RiveltError | None = None
    code_problem: RiveltError | None = None
    not_in_key: ClassVar[frozenset[str]] = frozenset({"problem", "code_problem"})

    def exists(self, project: Project) -> bool:
        """Return whether anything of it is there."""
        return self.manifest in project or any(project.below(folder) for folder in (*self.res, *self.code))


class Variant(Struct, frozen=True):
    """One variant of the app, such as "freeDebug". `sets`: its source sets, the highest priority first, the main one last."""

    name: str
    build_type: str
    flavours: tuple[str, ...]
    sets: tuple[SourceSet, ...]

    def rank(self, source_set: str) -> int | None:
        """Return how high a source set stands in it (0: the highest); None if it is not one of its own."""
        return next((rank for rank, one in enumerate(self.sets) if one.name == source_set), None)

    @property
    def manifests(self) -> tuple[str, ...]:
        """The manifests, the highest priority first."""
        return tuple(one.manifest for one in self.sets)

    @property
    def res(self) -> tuple[str, ...]:
        """The resource folders, the highest priority first."""
        return tuple(folder for one in self.sets for folder in reversed(one.res))

    @property
    def code(self) -> tuple[str, ...]:
        """The folders of code, the highest priority first."""
        return tuple(folder for one in self.sets for folder in one.code)


class Variants(Struct, frozen=True):
    """The variants of a module. `libraries`: resource folders of the project's own library modules. `problem`: why these may not be all."""

    every: tuple[Variant, ...]
    main: SourceSet
    libraries: tuple[str, ...] = ()
    problem: RiveltError | None = None

    @property
    def source_sets(self) -> tuple[str, ...]:
        """The names of all source sets, the main one first."""
        return tuple(dict.fromkeys((MAIN, *(one.name for variant in self.every for one in reversed(variant.sets)))))

    def with_set(self, name: str) -> tuple[Variant, ...]:
        """Return the variants that a source set is a part of."""
        return tuple(variant for variant in self.every if variant.rank(name) is not None)


@remembered
def variants_of(project: Project, module: str, build_path: str | None, manifest: str) -> Variants:
    """Return the variants of a module.

    Args:
        project: the project.
        module: the module's folder.
        build_path: its build file; None without one.
        manifest: its main manifest.
    """
    found = declared(project, module, build_path)
    main = _source_set(found, MAIN, parent(manifest), manifest)
    libraries = tuple(
        res
        for folder in library_folders(project, module, build_path)
        if project.below(res := join(folder, "src/main/res"))
    )
    if build_path is None:
        return Variants((Variant("", "", (), (main,)),), main)
    return Variants(tuple(_variants(module, found, main)), main, libraries, found.problem)


def _variants(module: str, found: Declared, main: SourceSet) -> Iterator[Variant]:
    by_dimension = [
        [name for name, dimension in found.flavours.items() if dimension == wanted] for wanted in found.dimensions
    ]
    for flavours in itertools.product(*(names for names in by_dimension if names)):
        for build_type in found.build_types:
            name = _joined([*flavours, build_type])
            names = [build_type, *([_joined(flavours)] if len(flavours) > 1 else []), *flavours]
            names = [name, *names] if flavours else names
            sets = (_source_set(found, one, join(module, "src", one)) for one in dict.fromkeys(names))
            yield Variant(name, build_type, flavours, (*sets, main))


def _joined(names: Sequence[str]) -> str:
    """Names in camel case: "freeDebug"."""
    return names[0] + "".join(name[:1].upper() + name[1:] for name in names[1:])


def _source_set(found: Declared, name: str, usual: str, manifest: str | None = None) -> SourceSet:
    its = found.folders_of(name)
    root = its.root or usual
    res = (join(root, "res"),) if its.res is None else its.res
    code = (join(root, "java"), join(root, "kotlin")) if its.code is None else its.code
    return SourceSet(
        name,
        its.manifest or (manifest if its.root is None else None) or join(root, MANIFEST),
        tuple(dict.fromkeys((*res, *its.added_res))),
        tuple(dict.fromkeys((*code, *its.added))),
        its.problem,
        its.code_problem,
    )


def source_set(variants: Variants, name: str, module: str, place: Place | None) -> SourceSet:
    """Return a source set by its name.

    Raises:
        BadInput: no variant is built from it, or the build does not say where it is.
    """
    for variant in variants.every:
        for one in variant.sets:
            if one.name == name:
                if one.problem is not None:
                    raise one.problem
                return one
    if variants.problem is not None or all(not variant.build_type for variant in variants.every):
        root = join(module, "src", name)
        return SourceSet(name, join(root, MANIFEST), (join(root, "res"),), (join(root, "java"), join(root, "kotlin")))
    hint = f"There are: {', '.join(variants.source_sets)}."
    raise BadInput(f"{module or '.'} has no source set {name}: nothing is built from it", place=place, hint=hint)


def unused_sets(project: Project, module: str, variants: Variants) -> Iterator[str]:
    """Yield the folders that look like source sets and that no variant is built from."""
    src = join(module, "src")
    known = {*variants.source_sets, "androidMain", "commonMain"}
    for name in dict.fromkeys(path.removeprefix(f"{src}/").split("/")[0] for path in project.below(src)):
        folder = join(src, name)
        has_resources = join(folder, MANIFEST) in project or any(True for _ in project.below(join(folder, "res")))
        if name not in known and not name.startswith(_TESTS) and has_resources:
            yield folder
