"""App targets: their build settings, and the files that are members of them."""

from __future__ import annotations

import re
import shlex
from collections.abc import Collection, Iterable, Iterator, Mapping
from fnmatch import fnmatchcase
from functools import cached_property
from typing import Protocol

from msgspec import Struct

from rivelt.edit.openstep import Plain
from rivelt.edit.xcode import XcodeProject
from rivelt.patterns import regex
from rivelt.platforms.ios.native.xcconfig import xcconfig
from rivelt.platforms.ios.site import Declaration
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent

_VARIABLE = regex(r"\$\((\w+)(?::[\w,]+)?\)|\$\{(\w+)(?::[\w,]+)?\}")
_APPLICATION = "com.apple.product-type.application"
_WATCH = ("com.apple.product-type.application.watchapp", "com.apple.product-type.watchkit2-extension")
_SYSTEMS = {"appletvos": "tvOS", "watchos": "watchOS", "xros": "visionOS", "macosx": "macOS"}
_MAX_GROUPS = 10_000
_FOR_IOS = regex(r"^(\w+)\[sdk=(?:iphone\w*|\*)\*?\]$")
DECLARING = "INFOPLIST_KEY_"


class Group(Struct, frozen=True):
    """A group of the project navigator, and the folder it stands for."""

    id: str
    folder: str
    is_synchronised: bool


class Target(Protocol):
    """What is asked of an app target, whatever describes it."""

    @property
    def path(self) -> str:
        """The file that describes it."""

    @property
    def name(self) -> str:
        """Its name."""

    @property
    def folder(self) -> str:
        """The folder that its paths are relative to."""

    @property
    def other_platforms(self) -> tuple[str, ...]:
        """What it is built for besides iPhone and iPad."""

    @property
    def catalogs(self) -> tuple[str, ...]:
        """The asset catalogs of the shipped app, the one with its icon first."""

    @property
    def groups(self) -> tuple[Group, ...]:
        """Its groups, the main group first."""

    def declarations(self) -> tuple[Declaration, ...]:
        """Return how each configuration declares its Info.plist and its launch screen."""

    def members(self, phase: str = "Resources") -> frozenset[str]:
        """Return the paths of the files in a build phase."""

    def own_synchronised_folders(self) -> tuple[str, ...]:
        """Return the folders whose files are members of this target alone, by themselves."""

    def phase(self, isa: str) -> str | None:
        """Return the id of a build phase, by its class."""

    def group_of(self, path: str) -> Group | None:
        """Return the group that holds a file reference to a path."""


class AppTarget(Struct, frozen=True, dict=True):
    """An application target of an Xcode project (`pbx`); see `Target`."""

    pbx: XcodeProject
    id: str
    name: str
    project: Project

    @property
    def path(self) -> str:
        """The project file."""
        return self.pbx.path

    @property
    def folder(self) -> str:
        """The folder that holds the `.xcodeproj` (`$(SRCROOT)`)."""
        return parent(parent(self.pbx.path))

    @property
    def _object(self) -> Mapping[str, Plain]:
        return self.pbx.object(self.id)

    @cached_property
    def configurations(self) -> tuple[Mapping[str, str], ...]:
        """The build settings of each configuration: the project's, overlaid with the target's, variables filled in."""
        return tuple(self._filled({**inherited, **own}) for _, _, own, inherited in self._layers)

    @cached_property
    def _layers(self) -> tuple[tuple[str, str, Mapping[str, str], Mapping[str, str]], ...]:
        """Of each configuration its id, its name, its own settings, and those below them: configuration files and the project's."""
        below = {
            name: {**files, **own}
            for _, name, own, files in self._settings(self.pbx.root.get("buildConfigurationList"))
        }
        return tuple(
            (object_id, name, own, {**below.get(name, {}), **files})
            for object_id, name, own, files in self._settings(self._object.get("buildConfigurationList"))
        )

    def _settings(self, list_id: object) -> Iterator[tuple[str, str, dict[str, str], Mapping[str, str]]]:
        """Id, name, settings and configuration file of each configuration of a list."""
        ids = self.pbx.object(list_id).get("buildConfigurations", [])
        for configuration_id in ids if isinstance(ids, list) else []:
            configuration = self.pbx.object(configuration_id)
            if not configuration:
                continue
            settings = configuration.get("buildSettings", {})
            own = (
                {key: value for key, value in settings.items() if isinstance(value, str)}
                if isinstance(settings, dict)
                else {}
            )
            path = self._xcconfig_of(configuration)
            yield (
                str(configuration_id),
                str(configuration.get("name")),
                own,
                xcconfig(self.project, path) if path else {},
            )

    def _xcconfig_of(self, configuration: Mapping[str, Plain]) -> str | None:
        """The configuration file that a configuration is based on: by its reference, or by its path in a synchronised folder."""
        reference = str(configuration.get("baseConfigurationReference"))
        if reference in self._file_paths:
            return self._file_paths[reference][0]
        anchor, relative = (
            configuration.get("baseConfigurationReferenceAnchor"),
            configuration.get("baseConfigurationReferenceRelativePath"),
        )
        folder = next((group.folder for group in self.groups if group.id == anchor), None)
        return join(folder, relative) if folder is not None and isinstance(relative, str) else None

    @property
    def other_platforms(self) -> tuple[str, ...]:
        """What the target is built for besides iPhone and iPad."""
        built_for = {
            name for settings in self.configurations for name in settings.get("SUPPORTED_PLATFORMS", "").split()
        }
        return tuple(sorted(name for name in built_for if not name.startswith(("iphone", "$"))))

    def declarations(self) -> tuple[Declaration, ...]:
        """Return how each configuration declares its Info.plist and its launch screen."""
        found = []
        for object_id, name, own, inherited in self._layers:
            filled = self._filled({**inherited, **own})
            plist = filled.get("INFOPLIST_FILE")
            found.append(
                Declaration(
                    object_id,
                    name,
                    join(self.folder, plist) if plist else None,
                    is_generated=filled.get("GENERATE_INFOPLIST_FILE") == "YES",
                    own=tuple(sorted(item for item in own.items() if item[0].startswith(DECLARING))),
                    inherited=tuple(sorted(item for item in inherited.items() if item[0].startswith(DECLARING))),
                    settings=filled,
                )
            )
        return tuple(found)

    def _filled(self, settings: Mapping[str, str]) -> Mapping[str, str]:
        return filled(settings, self.name)

    @property
    def is_for_ios(self) -> bool:
        """Whether any configuration builds for iPhone or iPad; where none says what it builds for, it does."""
        told = [
            settings.get("SUPPORTED_PLATFORMS") or settings["SDKROOT"]
            for settings in self.configurations
            if settings.get("SUPPORTED_PLATFORMS") or settings.get("SDKROOT")
        ]
        return not told or any("iphoneos" in platforms or platforms == "auto" for platforms in told)

    def phase(self, isa: str) -> str | None:
        """Return the id of a build phase, by its class."""
        phases = self._object.get("buildPhases", [])
        for phase in phases if isinstance(phases, list) else []:
            if self.pbx.object(phase).get("isa") == isa:
                return str(phase)
        return None

    @cached_property
    def groups(self) -> tuple[Group, ...]:
        """Every group below the main group, the main group first."""
        return tuple(group for group, _ in self._tree())

    @cached_property
    def _file_paths(self) -> Mapping[str, tuple[str, Group]]:
        """The path and the group of every file reference (and variant group) by its id."""
        return {object_id: (path, group) for group, files in self._tree() for object_id, path in files}

    def _tree(self) -> Iterator[tuple[Group, list[tuple[str, str]]]]:
        waiting = [(str(self.pbx.root.get("mainGroup")), self.folder)]
        seen: set[str] = set()
        while waiting and len(seen) < _MAX_GROUPS:
            group_id, outer = waiting.pop(0)
            group = self.pbx.object(group_id)
            if group_id in seen or not group:
                continue
            seen.add(group_id)
            folder = self._path_of(group, outer)
            files: list[tuple[str, str]] = []
            children = group.get("children", [])
            for child in children if isinstance(children, list) else []:
                found = self.pbx.object(child)
                if found.get("isa") in {"PBXGroup", "PBXFileSystemSynchronizedRootGroup"}:
                    waiting.append((str(child), folder))
                elif found.get("isa") == "PBXVariantGroup":
                    variants = found.get("children", [])
                    inner = self._path_of(found, folder)
                    for variant in variants if isinstance(variants, list) else []:
                        files.append((str(child), self._path_of(self.pbx.object(variant), inner)))
                        files.append((str(variant), self._path_of(self.pbx.object(variant), inner)))
                else:
                    files.append((str(child), self._path_of(found, folder)))
            yield Group(group_id, folder, group.get("isa") == "PBXFileSystemSynchronizedRootGroup"), files

    def _path_of(self, found: Mapping[str, Plain], outer: str) -> str:
        base = self.folder if found.get("sourceTree") == "SOURCE_ROOT" else outer
        return join(base, str(found.get("path") or ""))

    def synchronised_folders(self) -> tuple[str, ...]:
        """Return the folders whose files are all members of this target."""
        return tuple(group.folder for group in self._synchronised())

    def own_synchronised_folders(self) -> tuple[str, ...]:
        """Return those of them that no other target has: what is put there is in this target alone."""
        targets = self.pbx.root.get("targets", [])
        others = [self.pbx.object(one) for one in targets if str(one) != self.id] if isinstance(targets, list) else []
        shared = {str(one) for other in others for one in _listed(other.get("fileSystemSynchronizedGroups"))}
        return tuple(group.folder for group in self._synchronised() if group.id not in shared)

    def _synchronised(self) -> tuple[Group, ...]:
        ids = self._object.get("fileSystemSynchronizedGroups", [])
        wanted = set(map(str, ids)) if isinstance(ids, list) else set()
        return tuple(group for group in self.groups if group.id in wanted)

    def members(self, phase: str = "Resources") -> frozenset[str]:
        """Return the paths of the files and folders in a build phase, whether they exist or not."""
        found: set[str] = set()
        files = self.pbx.object(self.phase(f"PBX{phase}BuildPhase")).get("files", [])
        for build_file in files if isinstance(files, list) else []:
            if not _is_for_ios(self.pbx.object(build_file)):
                continue
            reference = str(self.pbx.object(build_file).get("fileRef"))
            if reference in self._file_paths:
                found.add(self._file_paths[reference][0])
            variants = self.pbx.object(reference).get("children", [])
            for variant in variants if isinstance(variants, list) else []:
                if str(variant) in self._file_paths:
                    found.add(self._file_paths[str(variant)][0])
        for group in self._synchronised():
            left_out = tuple(join(group.folder, path) for path in self._membership_exceptions(group))
            inside = self.project.below(group.folder)
            found.update(path for path in inside if not any(_is_at_or_below(path, one) for one in left_out))
        return frozenset(found)

    def _membership_exceptions(self, group: Group) -> Iterator[str]:
        """What of a synchronised folder is not a member of this target on an iPhone or iPad, relative to the folder."""
        for found in self._exceptions(group):
            yield from map(str, _listed(found.get("membershipExceptions")))
            for path, platforms in _entries(found.get("platformFiltersByRelativePath")).items():
                if not {"ios", "iphoneos"} & set(map(str, _listed(platforms))):
                    yield path

    def _exceptions(self, group: Group) -> Iterator[Mapping[str, Plain]]:
        """The exception sets of a synchronised folder for this target."""
        for exception in _listed(self.pbx.object(group.id).get("exceptions")):
            found = self.pbx.object(exception)
            if str(found.get("target")) == self.id:
                yield found

    def is_filtered(self, path: str) -> bool:
        """Return whether a file of a synchronised folder is built for some platforms of the target alone."""
        return any(
            join(group.folder, inside) == path
            for group in self._synchronised()
            for found in self._exceptions(group)
            for inside in _entries(found.get("platformFiltersByRelativePath"))
        )

    def synchronised_group(self, folder: str) -> Group | None:
        """Return the synchronised folder of this target with a path."""
        return next((group for group in self._synchronised() if group.folder == folder), None)

    @cached_property
    def catalogs(self) -> tuple[str, ...]:
        """The asset catalogs of the shipped app, the one with its icon first: none that is for previews, or left out of the build."""
        members = self.members()
        found = {path for path in members if path.endswith(".xcassets")}
        found = found or {f"{path.partition('.xcassets/')[0]}.xcassets" for path in members if ".xcassets/" in path}
        return shipped_catalogs(self.project, self.folder, found, self.configurations)

    def reference_of(self, path: str) -> str | None:
        """Return the id of the file reference to `path`, or of the variant group that it belongs to."""
        found = [object_id for object_id, (known, _) in self._file_paths.items() if known == path]
        return next(
            (one for one in found if self.pbx.object(one).get("isa") == "PBXVariantGroup"), next(iter(found), None)
        )

    def group_of(self, path: str) -> Group | None:
        """Return the group that holds a file reference to `path`."""
        return next((group for found, group in self._file_paths.values() if found == path), None)


def filled(settings: Mapping[str, str], target: str) -> Mapping[str, str]:
    """Return build settings with their variables filled in, those of iOS in place of the plain ones."""
    for_ios = {found[1]: value for key, value in settings.items() if (found := _FOR_IOS.match(key))}
    own = {"TARGET_NAME": target, "SRCROOT": ".", "PROJECT_DIR": ".", "inherited": ""}
    known = {**settings, **for_ios, **own}
    known["PRODUCT_NAME"] = known.get("PRODUCT_NAME", target)

    def fill(found: re.Match[str]) -> str:
        return known.get(found[1] or found[2], found[0])

    for _ in range(5):  # a variable may stand for another one; five steps are more than projects have
        known = {key: _VARIABLE.sub(fill, value) for key, value in known.items()}
    return known


def shipped_catalogs(
    project: Project, folder: str, catalogs: Collection[str], configurations: Iterable[Mapping[str, str]]
) -> tuple[str, ...]:
    """Return the asset catalogs that are shipped, the one with the app's icon first: none for previews, none left out of the build."""
    settings = list(configurations)
    shipped = (path for path in catalogs if not any(_leaves_out(path, folder, one) for one in settings))
    return tuple(sorted(shipped, key=lambda path: (not _holds_icon(project, path), path)))


def _leaves_out(path: str, folder: str, settings: Mapping[str, str]) -> bool:
    """Whether a configuration keeps a file for development alone, or excludes it."""
    for asset in _words(settings.get("DEVELOPMENT_ASSET_PATHS", "")):
        if _is_at_or_below(path, join(folder, asset)):
            return True
    inside = path.removeprefix(f"{folder}/") if folder else path
    name = path.rpartition("/")[2]
    patterns = _words(settings.get("EXCLUDED_SOURCE_FILE_NAMES", ""))
    return any(fnmatchcase(one, pattern) for pattern in patterns for one in (name, inside))


def _holds_icon(project: Project, catalog: str) -> bool:
    return any(".appiconset/" in path for path in project.below(catalog))


def _is_for_ios(build_file: Mapping[str, Plain]) -> bool:
    """Whether a build file is built for iPhone and iPad: without a filter, or with one that names them."""
    filters = _listed(build_file.get("platformFilters")) or [build_file.get("platformFilter") or "ios"]
    return any(str(one) in {"ios", "iphoneos"} for one in filters)


def _entries(value: object) -> Mapping[str, object]:
    return value if isinstance(value, dict) else {}


def _listed(value: object) -> list[object]:
    return list(value) if isinstance(value, list) else []


def _words(setting: str) -> list[str]:
    """The words of a build setting; those with spaces stand in quotes."""
    try:
        return shlex.split(setting)
    except ValueError:  # a quote that is not closed
        return setting.split()


def _is_at_or_below(path: str, folder: str) -> bool:
    return path == folder or path.startswith(f"{folder.rstrip('/')}/")


@remembered
def app_targets(project: Project, path: str) -> tuple[AppTarget, ...]:
    """Return the application targets of a project file that are built for iPhone or iPad: no tests, extensions, watch or TV apps.

    Raises:
        BadInput: the project file cannot be read.
    """
    pbx = project.pbx(path)
    targets = [
        AppTarget(pbx, object_id, str(found.get("name", "")), project)
        for object_id, found in pbx.objects("PBXNativeTarget")
        if found.get("productType") == _APPLICATION
    ]
    return tuple(target for target in targets if target.is_for_ios)


def app_target(project: Project, path: str, name: str) -> AppTarget | None:
    """Return the application target of a name, or None.

    Raises:
        BadInput: the project file cannot be read.
    """
    return next((target for target in app_targets(project, path) if target.name == name), None)


def other_apps(project: Project, path: str) -> tuple[str, ...]:
    """Return the apps of a project file for other systems, each with the system: "Tern TV (tvOS)"."""
    pbx = project.pbx(path)
    found = []
    for object_id, one in pbx.objects("PBXNativeTarget"):
        product, name = str(one.get("productType")), str(one.get("name", ""))
        target = AppTarget(pbx, object_id, name, project)
        if product.startswith(_WATCH):
            found.append(f"{name} (watchOS)")
        elif product == _APPLICATION and not target.is_for_ios:
            built_for = " ".join(
                settings.get("SUPPORTED_PLATFORMS") or settings.get("SDKROOT", "") for settings in target.configurations
            )
            system = next((shown for word, shown in _SYSTEMS.items() if word in built_for), "another system")
            found.append(f"{name} ({system})")
    return tuple(found)
