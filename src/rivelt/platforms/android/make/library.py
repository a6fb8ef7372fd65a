"""The compatibility library as a dependency, added the way the project writes its own."""

from __future__ import annotations

import re

from rivelt.edit.gradle import Block, GradleFile
from rivelt.edit.splice import spliced
from rivelt.edit.toml import add_key
from rivelt.errors import BadInput
from rivelt.plan.model import EditFile
from rivelt.platforms.android.facts import LibraryFacts, android_facts
from rivelt.platforms.android.native.build import FOREIGN, Build, Catalog, accessor
from rivelt.project.project import Project, remembered


@remembered
def library_edits(project: Project, build: Build) -> tuple[EditFile, ...]:
    """Return the edits that make the compatibility library a dependency of a module; none when it is one.

    Raises:
        BadInput: the build file, or the version catalog, cannot be understood.
    """
    if build.problem is not None:
        raise build.problem
    if build.path is None:
        raise BadInput("the module has no build.gradle", hint='Use way = "platform" under [android].')
    if build.has_library:
        return ()
    library = android_facts().library
    file = project.gradle(build.path)
    edits: list[EditFile] = []
    notation = f"{library.module}:{library.version}"
    if build.catalog is not None:
        project.toml(build.catalog.path)
        alias = next((alias for alias, module in build.catalog.modules.items() if module == library.module), None)
        if alias is None:
            alias, edit = _catalogued(project, build.catalog, library)
            edits.append(edit)
        reference = f"libs.{accessor(alias)}"
        call = f"implementation({reference})" if _calls_with_brackets(file) else f"implementation {reference}"
    else:
        call = _call(file, notation)
    block = _dependencies(file)
    splice = (
        file.add_block("dependencies", call) if block is None else file.add_statement(block, call, "implementation")
    )
    after = spliced(file.data, [splice])
    project.parsed_as("gradle", file.path, after)
    return (*edits, EditFile(file.path, file.data, after, f"needs {notation}"))


def _calls_with_brackets(file: GradleFile) -> bool:
    return file.is_kotlin or next(file.find(r"\bimplementation\s*\("), None) is not None


def _call(file: GradleFile, notation: str) -> str:
    if file.is_kotlin:
        return f'implementation("{notation}")'
    first = next(file.find(r"""\b(?:implementation|api|\w+Implementation)\s*\(?\s*(?:platform\s*\(\s*)?["']"""), None)
    quote = first[0][-1:].decode() if first else "'"
    quoted = f"{quote}{notation}{quote}"
    return f"implementation({quoted})" if _calls_with_brackets(file) else f"implementation {quoted}"


def _dependencies(file: GradleFile) -> Block | None:
    """The block of the module's own dependencies: at the top of the file, else inside another that allows it."""
    blocks = [
        block for block in file.root.walk() if block.name == "dependencies" and not set(block.trail[:-1]) & FOREIGN
    ]
    multiplatform = [block for block in file.root.walk() if block.name == "androidMain.dependencies"]
    if multiplatform:
        return multiplatform[0]
    outer = [block for block in blocks if len(block.trail) == 1]
    nested = [block for block in blocks if block.trail[:-1] == ("android",)]
    return next(iter(outer or nested), None)


def _catalogued(project: Project, catalog: Catalog, library: LibraryFacts) -> tuple[str, EditFile]:
    """A new alias for the library, and the catalog with it."""
    data = project.read(catalog.path)
    alias = f"{library.group.replace('.', '-')}-{library.name.removeprefix('core-')}"
    while alias in catalog.modules:
        alias += "-x"
    versions = catalog.table.get("versions", {})
    is_camel = any(re.search(r"[a-z][A-Z]", key) for key in versions)
    key = "coreSplashscreen" if is_camel else library.name
    while key in versions and versions[key] != library.version:
        key += "-x"
    entry = f'{alias} = {{ module = "{library.module}", version.ref = "{key}" }}'
    splices = [add_key(data, "libraries", entry)]
    if key not in versions:
        splices.insert(0, add_key(data, "versions", f'{key} = "{library.version}"'))
    after = spliced(data, splices)
    project.parsed_as("toml", catalog.path, after)
    return alias, EditFile(catalog.path, data, after, f"knows {library.module}")
