"""What a module's Gradle build says, and how the compatibility library is added to it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from rivelt.edit.gradle import Block, GradleFile, read_gradle
from rivelt.edit.splice import spliced
from rivelt.edit.toml import add_key, read_toml
from rivelt.errors import BadInput, RiveltError
from rivelt.plan.model import EditFile
from rivelt.platforms.android.facts import LibraryFacts, android_facts
from rivelt.project.snapshot import Snapshot, join, parent

_APPLICATION = re.compile(r"com\.android\.application|plugins\.android\.application\b|plugins\.androidApplication\b")
_LIBRARY = re.compile(r"com\.android\.(?:library|test|dynamic-feature|asset-pack)|plugins\.(?:android\.)?library\b")
_NUMBER = re.compile(r"^[\"']?(?:android-)?(\d{1,3})[\"']?$")
_RELEASE = re.compile(r"release\((\d+)\)")
_NAME = re.compile(r"([A-Za-z_]\w*)[\"')\]]*(?:\.(?:get|toInt|toInteger|asInt|intValue)\(\))*(?:\s+as\s+\w+)?$")
_VARIABLE_FILES = (
    "*.gradle",
    "*.gradle.kts",
    "*gradle.properties",
    "*.versions.toml",
    "*buildSrc/*.kt",
    "*build-logic/*.kt",
)
_FOREIGN = frozenset({"buildscript", "pluginManagement", "allprojects", "subprojects", "plugins", "constraints"})


@dataclass(frozen=True)
class Build:
    """A module's build. `problem`: why its build file cannot be understood; then the rest is what a text search can tell."""

    snapshot: Snapshot
    module: str
    path: str | None
    file: GradleFile | None
    problem: RiveltError | None = None

    @property
    def text(self) -> str:
        """The build file's text; "" when there is none."""
        return self.snapshot.read(self.path).decode("utf-8", "replace") if self.path else ""

    @property
    def is_application(self) -> bool:
        """Whether it says that it builds an app."""
        return _APPLICATION.search(self.text) is not None

    @property
    def is_library(self) -> bool:
        """Whether it says that it builds something else than an app."""
        return _LIBRARY.search(self.text) is not None and not self.is_application

    @property
    def dialect(self) -> str:
        """The build language, for people."""
        if self.path is None:
            return "no build file"
        language = "Kotlin" if self.path.endswith(".kts") else "Groovy"
        return f"{language}, version catalog" if self.catalog else language

    @cached_property
    def namespace(self) -> str | None:
        """The package of the generated `R` class."""
        found = re.search(r"""\bnamespace\b\s*[=(]?\s*["']([\w.]+)["']""", self.text)
        return found[1] if found else None

    @cached_property
    def min_sdk(self) -> int | None:
        """The lowest API level that the app runs on, if it can be read."""
        return self._level("minSdk")

    @cached_property
    def compile_sdk(self) -> int | None:
        """The API level that the app is compiled with, if it can be read."""
        return self._level("compileSdk")

    def _level(self, name: str) -> int | None:
        if self.file is None:
            return None
        found = [
            (tuple(self.file.block_at(match.start()).trail), match["value"].decode("utf-8", "replace").strip())
            for match in self.file.find(rf"\b{name}(?:Version)?\b[ \t]*(?:=|\(|\{{|[ \t])[ \t]*(?P<value>[^\n;]+)")
        ]
        # Flavours and build types may have levels of their own: what holds for all comes first.
        found.sort(key=lambda pair: pair[0] not in {("android", "defaultConfig"), ("android",)})
        for _, value in found:
            if level := self._number(value.removesuffix(")") if value.count(")") > value.count("(") else value):
                return level
        return None if found else self._named(f"{name}(?:Version)?")

    def _number(self, text: str) -> int | None:
        text = text.partition("//")[0].strip().rstrip("}").strip()
        if plain := _NUMBER.match(text) or _RELEASE.search(text):
            return int(plain[1])
        name = _NAME.search(text.removesuffix(".toInt()"))
        return self._named(re.escape(name[1])) if name else None

    def _named(self, pattern: str) -> int | None:
        """The number that a variable has, wherever the project sets it, if all places agree."""
        assigned = re.compile(rf"""\b{pattern}\b["']?\]?\s*[:=]\s*["']?(?:android-)?(\d{{1,3}})\b""")
        values = {
            found[1]
            for path in dict.fromkeys(path for glob in _VARIABLE_FILES for path in self.snapshot.find(glob))
            for found in assigned.finditer(self.snapshot.read(path).decode("utf-8", "replace"))
        }
        return int(values.pop()) if len(values) == 1 else None

    @cached_property
    def uses_androidx(self) -> bool:
        """Whether the project uses AndroidX libraries."""
        for folder in _upwards(self.module):
            path = join(folder, "gradle.properties")
            if path in self.snapshot:
                text = self.snapshot.read(path).decode("utf-8", "replace")
                if found := re.search(r"(?m)^\s*android\.useAndroidX\s*=\s*(\w+)", text):
                    return found[1] == "true"
        if "com.android.support" in self.text:
            return False
        return "androidx" in self.text or "com.google.android.material" in self.text or self._catalog_has_androidx

    @property
    def _catalog_has_androidx(self) -> bool:
        return any("androidx." in module for module in self._catalog_modules.values())

    # The compatibility library

    @cached_property
    def catalog(self) -> str | None:
        """The version catalog that the module's dependencies come from."""
        if not re.search(r"\blibs\.[a-z]", self.text):
            return None
        paths = (join(folder, "gradle/libs.versions.toml") for folder in _upwards(self.module))
        return next((path for path in paths if path in self.snapshot), None)

    @cached_property
    def _catalog_table(self) -> Mapping[str, Any]:
        try:
            return read_toml(self.snapshot.read(self.catalog), self.catalog) if self.catalog else {}
        except RiveltError:
            return {}

    @cached_property
    def _catalog_modules(self) -> dict[str, str]:
        """Alias -> coordinates without the version."""
        libraries = self._catalog_table.get("libraries", {})
        return {alias: _module_of(entry) for alias, entry in libraries.items()} if isinstance(libraries, dict) else {}

    @cached_property
    def has_library(self) -> bool:
        """Whether the compatibility library is a dependency already, by name or by alias, alone or in a bundle."""
        library = android_facts().library
        if self.file is None:
            return library.name in self.text
        if next(self.file.find(rf"[\"'](?:{library.group}:)?{library.name}[:\"']|[\"']{library.module}"), None):
            return True
        aliases = [alias for alias, module in self._catalog_modules.items() if module == library.module]
        bundles = self._catalog_table.get("bundles", {})
        names = [f"libs.{_accessor(alias)}" for alias in aliases]
        names += [f"libs.bundles.{_accessor(name)}" for name, members in bundles.items() if set(members) & set(aliases)]
        return any(next(self.file.find(rf"\b{re.escape(name)}(?![\w.])"), None) is not None for name in names)

    def with_library(self) -> list[EditFile]:
        """The edits that make the compatibility library a dependency, in the project's own manner; none when it is one.

        Raises:
            BadInput: the build file, or the version catalog, cannot be understood.
        """
        if self.problem is not None:
            raise self.problem
        if self.file is None:
            raise BadInput("the module has no build.gradle", hint='Use way = "platform" under [android].')
        if self.has_library:
            return []
        library = android_facts().library
        edits: list[EditFile] = []
        notation = f"{library.module}:{library.version}"
        if self.catalog:
            read_toml(self.snapshot.read(self.catalog), self.catalog)
            alias = next((alias for alias, module in self._catalog_modules.items() if module == library.module), None)
            if alias is None:
                alias, edit = self._catalogued(library)
                edits.append(edit)
            call = (
                f"implementation(libs.{_accessor(alias)})"
                if self._calls_with_brackets
                else f"implementation libs.{_accessor(alias)}"
            )
        else:
            call = self._call(notation)
        block = self._dependencies()
        file = self.file
        splice = (
            file.add_block("dependencies", call) if block is None else file.add_statement(block, call, "implementation")
        )
        after = spliced(file.data, [splice])
        read_gradle(after, file.path)
        edits.append(EditFile(file.path, file.data, after, f"needs {notation}"))
        return edits

    @property
    def _calls_with_brackets(self) -> bool:
        assert self.file is not None
        return self.file.is_kotlin or next(self.file.find(r"\bimplementation\s*\("), None) is not None

    def _call(self, notation: str) -> str:
        assert self.file is not None
        if self.file.is_kotlin:
            return f'implementation("{notation}")'
        first = next(
            self.file.find(r"""\b(?:implementation|api|\w+Implementation)\s*\(?\s*(?:platform\s*\(\s*)?["']"""), None
        )
        quote = first[0][-1:].decode() if first else "'"
        return (
            f"implementation({quote}{notation}{quote})"
            if self._calls_with_brackets
            else f"implementation {quote}{notation}{quote}"
        )

    def _dependencies(self) -> Block | None:
        """The block of the module's own dependencies: at the top of the file, else inside another that allows it."""
        assert self.file is not None
        blocks = [
            block
            for block in self.file.root.walk()
            if block.name == "dependencies" and not set(block.trail[:-1]) & _FOREIGN
        ]
        multiplatform = [block for block in self.file.root.walk() if block.name == "androidMain.dependencies"]
        if multiplatform:
            return multiplatform[0]
        outer = [block for block in blocks if len(block.trail) == 1]
        nested = [block for block in blocks if block.trail[:-1] == ("android",)]
        return next(iter(outer or nested), None)

    def _catalogued(self, library: LibraryFacts) -> tuple[str, EditFile]:
        """A new alias for the library, and the catalog with it."""
        assert self.catalog is not None
        data = self.snapshot.read(self.catalog)
        alias = f"{library.group.replace('.', '-')}-{library.name.removeprefix('core-')}"
        while alias in self._catalog_modules:
            alias += "-x"
        versions = self._catalog_table.get("versions", {})
        is_camel = any(re.search(r"[a-z][A-Z]", key) for key in versions)
        key = "coreSplashscreen" if is_camel else library.name
        while key in versions and versions[key] != library.version:
            key += "-x"
        after = data
        if key not in versions:
            after = spliced(after, [add_key(after, "versions", f'{key} = "{library.version}"')])
        entry = f'{alias} = {{ module = "{library.module}", version.ref = "{key}" }}'
        after = spliced(after, [add_key(after, "libraries", entry)])
        table = read_toml(after, self.catalog)
        assert _module_of(table["libraries"][alias]) == library.module
        return alias, EditFile(self.catalog, data, after, f"knows {library.module}")


def read_build(snapshot: Snapshot, module: str) -> Build:
    """The build of a module's folder. A build file that cannot be understood is told in `problem`."""
    path = next(
        (path for name in ("build.gradle.kts", "build.gradle") if (path := join(module, name)) in snapshot), None
    )
    if path is None:
        return Build(snapshot, module, None, None)
    try:
        return Build(snapshot, module, path, read_gradle(snapshot.read(path), path))
    except RiveltError as error:
        return Build(snapshot, module, path, None, error)


def _upwards(folder: str) -> Iterator[str]:
    """A folder and those above it, up to the project's root."""
    while folder:
        yield folder
        folder = parent(folder)
    yield ""


def _module_of(entry: object) -> str:
    if isinstance(entry, str):
        return ":".join(entry.split(":")[:2])
    if isinstance(entry, dict):
        return str(entry.get("module") or f"{entry.get('group')}:{entry.get('name')}")
    return ""


def _accessor(alias: str) -> str:
    """The name under which a build file reaches a catalog's alias."""
    return re.sub(r"[-_]", ".", alias)
