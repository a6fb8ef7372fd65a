"""What a module's Gradle build says: its kind, its API levels, its libraries."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, ClassVar

from msgspec import Struct, field

from rivelt.edit.gradle import GradleFile
from rivelt.errors import RiveltError
from rivelt.patterns import regex
from rivelt.platforms.android.facts import android_facts
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, upwards
from rivelt.values import Keyed

_APPLICATION = regex(r"com\.android\.application|plugins\.android\.application\b|plugins\.androidApplication\b")
_LIBRARY = regex(r"com\.android\.(?:library|test|dynamic-feature|asset-pack)|plugins\.(?:android\.)?library\b")
_NAMESPACE = regex(r"""\bnamespace\b\s*[=(]?\s*["']([\w.]+)["']""")
BUILD_FILES = ("build.gradle.kts", "build.gradle")
"""What a module's build file is called; the first one that is there counts."""

_ANDROIDX_SETTING = regex(r"(?m)^\s*android\.useAndroidX\s*=\s*(\w+)")
_NUMBER = regex(r"^[\"']?(?:android-)?(\d{1,3})[\"']?$")
_RELEASE = regex(r"release\((\d+)\)")
_NAME = regex(r"([A-Za-z_]\w*)[\"')\]]*(?:\.(?:get|toInt|toInteger|asInt|intValue)\(\))*(?:\s+as\s+\w+)?$")
_VARIABLE_FILES = (
    "*.gradle",
    "*.gradle.kts",
    "*gradle.properties",
    "*.versions.toml",
    "*buildSrc/*.kt",
    "*build-logic/*.kt",
)
_DEPENDENCY = regex(r"""["']([\w.-]+:[\w.-]+):(\d[\w.-]*)["']""")
_FOR_TESTS = regex(rb"\b(?:test|androidTest)\w*(?:[ \t]*\(?[^;{}\n]*|\s*\(\s*)$")
FOREIGN = frozenset({"buildscript", "pluginManagement", "allprojects", "subprojects", "plugins", "constraints"})
"""Blocks of a build file in which nothing is a dependency of the module itself."""


class Catalog(Struct, frozen=True):
    """A version catalog: its path, its table, and the coordinates (without versions) of its libraries by alias."""

    path: str
    table: Mapping[str, Any]
    modules: Mapping[str, str]


class Build(Keyed, frozen=True):
    """A module's build.

    `path`: its build file, None without one. `problem`: why that file cannot be understood; then the rest is what a text search finds.
    `is_application`, `is_library`: whether it says that it builds an app, or something else. `namespace`: the package of the generated
    `R` class. `min_sdk`, `compile_sdk`: the API levels, None when they cannot be read. `uses_androidx`: whether the project uses AndroidX.
    `catalog`: where its dependencies come from. `has_library`: whether the compatibility library is a dependency.
    `versions`: those of its libraries, by "group:name", as far as they are written as numbers.
    """

    module: str
    path: str | None = None
    problem: RiveltError | None = None
    is_application: bool = False
    is_library: bool = False
    namespace: str | None = None
    min_sdk: int | None = None
    compile_sdk: int | None = None
    uses_androidx: bool = False
    catalog: Catalog | None = None
    has_library: bool = False
    versions: Mapping[str, str] = field(default_factory=dict)
    not_in_key: ClassVar[frozenset[str]] = frozenset({"problem", "catalog"})

    @property
    def dialect(self) -> str:
        """The build language, for people."""
        if self.path is None:
            return "no build file"
        language = "Kotlin" if self.path.endswith(".kts") else "Groovy"
        return f"{language}, version catalog" if self.catalog else language


@remembered
def read_build(project: Project, module: str) -> Build:
    """Return the build of a module's folder; `problem` says why a build file cannot be understood."""
    path = next((path for name in BUILD_FILES if (path := join(module, name)) in project), None)
    if path is None:
        return _old_build(project, module)
    problem: RiveltError | None = None
    file: GradleFile | None = None
    try:
        text = project.read(path).decode("utf-8", "replace")
    except RiveltError as error:
        return Build(module, path, error)
    try:
        file = project.gradle(path)
    except RiveltError as error:
        problem = error
    is_application = _APPLICATION.search(text) is not None
    namespace = _NAMESPACE.search(text)
    catalog, lost = _catalog(project, module, text)
    problem = problem or lost
    return Build(
        module,
        path,
        problem,
        is_application=is_application,
        is_library=_LIBRARY.search(text) is not None and not is_application,
        namespace=namespace[1] if namespace else None,
        min_sdk=_level(project, file, "minSdk"),
        compile_sdk=_level(project, file, "compileSdk"),
        uses_androidx=_uses_androidx(project, module, text, catalog),
        catalog=catalog,
        has_library=_has_library(file, text, catalog),
        versions={**_catalogued_versions(catalog), **dict(_DEPENDENCY.findall(text))},
    )


_PROPERTIES = "project.properties"
_OLD_TARGET = regex(r"(?m)^\s*target\s*=\s*(?:android-|.*:)(\d{1,3})\s*$")
_OLD_LIBRARY = regex(r"(?m)^\s*android\.library\s*=\s*true\b")


def _old_build(project: Project, module: str) -> Build:
    """The build of a module without a build file: projects from before Gradle say in `project.properties` what they are."""
    path = join(module, _PROPERTIES)
    text = project.read(path).decode("utf-8", "replace") if path in project else ""
    target = _OLD_TARGET.search(text)
    return Build(
        module,
        is_library=_OLD_LIBRARY.search(text) is not None,
        compile_sdk=int(target[1]) if target else None,
        uses_androidx=_uses_androidx(project, module, "", None),
    )


# API levels


def _level(project: Project, file: GradleFile | None, name: str) -> int | None:
    if file is None:
        return None
    found = [
        (tuple(file.block_at(match.start()).trail), match["value"].decode("utf-8", "replace").strip())
        for match in file.find(rf"\b{name}(?:Version)?\b[ \t]*(?:=|\(|\{{|[ \t])[ \t]*(?P<value>[^\n;]+)")
    ]
    # Flavours and build types may have levels of their own: what holds for all comes first.
    found.sort(key=lambda pair: pair[0] not in {("android", "defaultConfig"), ("android",)})
    for _, value in found:
        if level := _number(project, value.removesuffix(")") if value.count(")") > value.count("(") else value):
            return level
    # What a convention plugin or another module says may be meant for others: it is unknown.
    return None


def _number(project: Project, text: str) -> int | None:
    text = text.partition("//")[0].strip().rstrip("}").strip()
    if plain := _NUMBER.match(text) or _RELEASE.search(text):
        return int(plain[1])
    name = _NAME.search(text.removesuffix(".toInt()"))
    return _named(project, re.escape(name[1])) if name else None


@remembered
def _named(project: Project, pattern: str) -> int | None:
    """The number that a variable has, wherever the project sets it, if all places agree."""
    assigned = re.compile(rf"""\b{pattern}\b["']?\]?\s*[:=]\s*["']?(?:android-)?(\d{{1,3}})\b""")
    values = {
        found[1]
        for path in dict.fromkeys(path for glob in _VARIABLE_FILES for path in project.find(glob))
        for found in assigned.finditer(project.read(path).decode("utf-8", "replace"))
    }
    return int(values.pop()) if len(values) == 1 else None


# Libraries


def _uses_androidx(project: Project, module: str, text: str, catalog: Catalog | None) -> bool:
    for folder in upwards(module):
        path = join(folder, "gradle.properties")
        if path in project:
            settings = project.read(path).decode("utf-8", "replace")
            if found := _ANDROIDX_SETTING.search(settings):
                return found[1] == "true"
    if "com.android.support" in text:
        return False
    in_catalog = catalog is not None and any("androidx." in name for name in catalog.modules.values())
    return "androidx" in text or "com.google.android.material" in text or in_catalog


def _catalog(project: Project, module: str, text: str) -> tuple[Catalog | None, RiveltError | None]:
    """The version catalog that the module's dependencies come from; one that cannot be read has an empty table, and is a problem."""
    if not re.search(r"\blibs\.[a-z]", text):
        return None, None
    paths = (join(folder, "gradle/libs.versions.toml") for folder in upwards(module))
    path = next((path for path in paths if path in project), None)
    if path is None:
        return None, None
    try:
        table = project.toml(path)
    except RiveltError as error:
        return Catalog(path, {}, {}), error
    libraries = table.get("libraries", {})
    named = {alias: module_of(entry) for alias, entry in libraries.items()} if isinstance(libraries, dict) else {}
    return Catalog(path, table, named), None


def _has_library(file: GradleFile | None, text: str, catalog: Catalog | None) -> bool:
    """Whether the compatibility library is a dependency of the app already, by name or by alias, alone or in a bundle.

    What only limits its version (`constraints`), or is for the build itself or for tests, is none.
    """
    library = android_facts().library
    if file is None:
        return library.name in text
    if _is_used(file, rf"[\"'](?:{library.group}:)?{library.name}[:\"']|[\"']{library.module}"):
        return True
    if catalog is None:
        return False
    aliases = [alias for alias, module in catalog.modules.items() if module == library.module]
    bundles = catalog.table.get("bundles", {})
    names = [f"libs.{accessor(alias)}" for alias in aliases]
    names += [f"libs.bundles.{accessor(name)}" for name, members in bundles.items() if set(members) & set(aliases)]
    return any(_is_used(file, rf"\b{re.escape(name)}(?![\w.])") for name in names)


def _is_used(file: GradleFile, pattern: str) -> bool:
    """Whether a pattern stands among the dependencies of the app itself."""
    for found in file.find(pattern):
        before = file.code[max(0, found.start() - 200) : found.start()]
        if not set(file.block_at(found.start()).trail) & FOREIGN and not _FOR_TESTS.search(before):
            return True
    return False


def _catalogued_versions(catalog: Catalog | None) -> dict[str, str]:
    """The versions of a catalog's libraries, by their coordinates."""
    table = catalog.table if catalog is not None else {}
    libraries, versions = table.get("libraries", {}), table.get("versions", {})
    found: dict[str, str] = {}
    for entry in libraries.values() if isinstance(libraries, dict) else ():
        if isinstance(entry, str):
            version: object = entry.split(":")[2] if entry.count(":") == 2 else None
        elif isinstance(entry, dict):
            version = entry.get("version")
            if isinstance(version, dict) and isinstance(versions, dict):
                version = versions.get(str(version.get("ref")))
        else:
            continue
        if isinstance(version, str) and version[:1].isdigit():
            found[module_of(entry)] = version
    return found


def module_of(entry: object) -> str:
    """Return the coordinates, without the version, of a library's entry in a version catalog."""
    if isinstance(entry, str):
        return ":".join(entry.split(":")[:2])
    if isinstance(entry, dict):
        return str(entry.get("module") or f"{entry.get('group')}:{entry.get('name')}")
    return ""


def accessor(alias: str) -> str:
    """Return the name under which a build file reaches a catalog's alias."""
    return re.sub(r"[-_]", ".", alias)
