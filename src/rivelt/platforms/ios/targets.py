"""App targets: their build settings, and the files that are members of them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from rivelt.edit.openstep import Plain
from rivelt.edit.xcode import XcodeProject
from rivelt.project.snapshot import Snapshot, join, parent

_VARIABLE = re.compile(r"\$\((\w+)(?::[\w,]+)?\)|\$\{(\w+)(?::[\w,]+)?\}")
_APPLICATION = "com.apple.product-type.application"
_MAX_GROUPS = 10_000


@dataclass(frozen=True)
class Group:
    """A group of the project navigator, and the folder it stands for."""

    id: str
    folder: str
    is_synchronised: bool


@dataclass(frozen=True)
class AppTarget:
    """An application target of an Xcode project."""

    project: XcodeProject
    id: str
    name: str

    @property
    def folder(self) -> str:
        """The folder that holds the `.xcodeproj` (`$(SRCROOT)`)."""
        return parent(parent(self.project.path))

    @property
    def _object(self) -> Mapping[str, Plain]:
        return self.project.object(self.id)

    @cached_property
    def configurations(self) -> tuple[Mapping[str, str], ...]:
        """The build settings of each configuration: the project's, overlaid with the target's, variables filled in."""
        return tuple(
            self._filled({**self._project_settings(name), **settings})
            for name, settings in _settings(self.project, self._object.get("buildConfigurationList"))
        )

    def _project_settings(self, name: str) -> Mapping[str, str]:
        lists = _settings(self.project, self.project.root.get("buildConfigurationList"))
        return dict(lists).get(name, {})

    def _filled(self, settings: Mapping[str, str]) -> Mapping[str, str]:
        known = {
            **settings,
            "TARGET_NAME": self.name,
            "SRCROOT": ".",
            "PROJECT_DIR": ".",
            "inherited": "",
        }
        known["PRODUCT_NAME"] = known.get("PRODUCT_NAME", self.name)

        def fill(found: re.Match[str]) -> str:
            return known.get(found[1] or found[2], found[0])

        for _ in range(5):  # a variable may stand for another one; five steps are more than projects have
            known = {key: _VARIABLE.sub(fill, value) for key, value in known.items()}
        return known

    @property
    def is_for_ios(self) -> bool:
        """Whether any configuration builds for iPhone or iPad; where none says what it builds for, it does."""
        told = [
            settings.get("SUPPORTED_PLATFORMS") or settings["SDKROOT"]
            for settings in self.configurations
            if settings.get("SUPPORTED_PLATFORMS") or settings.get("SDKROOT")
        ]
        return not told or any("iphoneos" in platforms or platforms == "auto" for platforms in told)

    def plists(self) -> tuple[str, ...]:
        """The different Info.plist paths of the configurations, relative to the project's root; variables may be left over."""
        named = [settings["INFOPLIST_FILE"] for settings in self.configurations if settings.get("INFOPLIST_FILE")]
        return tuple(dict.fromkeys(join(self.folder, path) for path in named))

    @property
    def resources_phase(self) -> str | None:
        """The id of the Resources build phase."""
        phases = self._object.get("buildPhases", [])
        for phase in phases if isinstance(phases, list) else []:
            if self.project.object(phase).get("isa") == "PBXResourcesBuildPhase":
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
        waiting = [(str(self.project.root.get("mainGroup")), self.folder)]
        seen: set[str] = set()
        while waiting and len(seen) < _MAX_GROUPS:
            group_id, outer = waiting.pop(0)
            group = self.project.object(group_id)
            if group_id in seen or not group:
                continue
            seen.add(group_id)
            folder = self._path_of(group, outer)
            files: list[tuple[str, str]] = []
            children = group.get("children", [])
            for child in children if isinstance(children, list) else []:
                found = self.project.object(child)
                if found.get("isa") in {"PBXGroup", "PBXFileSystemSynchronizedRootGroup"}:
                    waiting.append((str(child), folder))
                elif found.get("isa") == "PBXVariantGroup":
                    variants = found.get("children", [])
                    inner = self._path_of(found, folder)
                    for variant in variants if isinstance(variants, list) else []:
                        files.append((str(child), self._path_of(self.project.object(variant), inner)))
                        files.append((str(variant), self._path_of(self.project.object(variant), inner)))
                else:
                    files.append((str(child), self._path_of(found, folder)))
            yield Group(group_id, folder, group.get("isa") == "PBXFileSystemSynchronizedRootGroup"), files

    def _path_of(self, found: Mapping[str, Plain], outer: str) -> str:
        base = self.folder if found.get("sourceTree") == "SOURCE_ROOT" else outer
        return join(base, str(found.get("path") or ""))

    def synchronised_folders(self) -> tuple[str, ...]:
        """The folders whose files are all members of this target."""
        ids = self._object.get("fileSystemSynchronizedGroups", [])
        wanted = set(map(str, ids)) if isinstance(ids, list) else set()
        return tuple(group.folder for group in self.groups if group.id in wanted)

    def members(self, snapshot: Snapshot) -> frozenset[str]:
        """The paths of the files and folders in the Resources phase, whether they exist or not."""
        found: set[str] = set()
        files = self.project.object(self.resources_phase).get("files", [])
        for build_file in files if isinstance(files, list) else []:
            reference = str(self.project.object(build_file).get("fileRef"))
            found |= {path for object_id, (path, _) in self._file_paths.items() if object_id == reference}
            variants = self.project.object(reference).get("children", [])
            for variant in variants if isinstance(variants, list) else []:
                if str(variant) in self._file_paths:
                    found.add(self._file_paths[str(variant)][0])
        for folder in self.synchronised_folders():
            found.update(snapshot.below(folder))
        return frozenset(found)

    def group_of(self, path: str) -> Group | None:
        """The group that holds a file reference to `path`."""
        return next((group for found, group in self._file_paths.values() if found == path), None)


def _settings(project: XcodeProject, list_id: object) -> list[tuple[str, dict[str, str]]]:
    ids = project.object(list_id).get("buildConfigurations", [])
    found = []
    for configuration_id in ids if isinstance(ids, list) else []:
        configuration = project.object(configuration_id)
        settings = configuration.get("buildSettings", {})
        plain = (
            {key: value for key, value in settings.items() if isinstance(value, str)}
            if isinstance(settings, dict)
            else {}
        )
        found.append((str(configuration.get("name")), plain))
    return found


def app_targets(project: XcodeProject) -> list[AppTarget]:
    """The application targets of a project that are built for iPhone or iPad: no tests, extensions, watch or TV apps."""
    targets = [
        AppTarget(project, object_id, str(found.get("name", "")))
        for object_id, found in project.objects("PBXNativeTarget")
        if found.get("productType") == _APPLICATION
    ]
    return [target for target in targets if target.is_for_ios]
