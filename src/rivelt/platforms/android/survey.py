"""What Android app modules a project holds, and what each shows at launch today."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.android.facts import screens
from rivelt.platforms.android.make.library import library_edits
from rivelt.platforms.android.make.method import choose_way
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.native.activity import INSTALL_CALL, ActivitySource, find_activity
from rivelt.platforms.android.native.after_launch import theme_after_launch
from rivelt.platforms.android.native.build import Build, read_build
from rivelt.platforms.android.native.leftovers import launch_items, reachable, unused_launch_images
from rivelt.platforms.android.native.manifest import Manifest, attribute, launcher_theme, read_manifest
from rivelt.platforms.android.native.resources import Entry, Resources, resources_of
from rivelt.platforms.android.options import AndroidTable
from rivelt.platforms.android.reader.scene import scene
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent

_SOURCE_SET = re.compile(r"(?:^|/)src/(?P<name>[^/]+)/AndroidManifest\.xml$")
_MAIN_SETS = frozenset({"main", "androidMain"})  # Kotlin Multiplatform has its own name for it
_TEST_SETS = re.compile(r"^(?:test|androidTest)")


class NoLauncher(BadInput):
    """The manifest declares no launcher activity, and nothing says that it is an app's."""


def survey(project: Project, brief: Brief | None = None) -> list[AndroidSite]:
    """The app modules of a project: not its libraries, nor the manifests of flavours, build types and tests.

    With a brief, its module; what would have to be guessed is reported in `blocked`.
    """
    options = brief.table("android", AndroidTable) if brief else AndroidTable()
    modules = [
        _Module(project, path, options, brief)
        for path in project.find("*AndroidManifest.xml")
        if _is_main_manifest(path)
    ]
    found = [site for module in modules if (site := module.site()) is not None]
    # A manifest without a launcher is a part of something, unless there is nothing else.
    sites = [site for site in found if not isinstance(site.blocked, NoLauncher)] or found
    sites = [site for site in sites if not _is_stray(project, site)] or sites
    return sites if brief is None else _chosen(sites, options, brief)


def _is_stray(project: Project, site: AndroidSite) -> bool:
    """Whether it is a manifest that merely lies there: nothing builds it, and no resources are beside it."""
    has_build = site.build is not None and site.build.path is not None
    return not has_build and not project.below(join(parent(site.manifest), "res"))


def _is_main_manifest(path: str) -> bool:
    source_set = _SOURCE_SET.search(path)
    return path.rpartition("/")[2] == "AndroidManifest.xml" and (source_set is None or source_set["name"] in _MAIN_SETS)


def _chosen(sites: list[AndroidSite], options: AndroidTable, brief: Brief) -> list[AndroidSite]:
    """The module that the brief means."""
    names = ", ".join(site.name for site in sites)
    if options.module is not None:
        wanted = join(options.module)
        chosen = [site for site in sites if site.module == wanted]
        if not chosen and sites:
            at = brief.place("android.module")
            raise BadInput(f"there is no app module {options.module}", place=at, hint=f"There are: {names}.")
        return chosen
    phones = [site for site in sites if not site.is_for_watch]
    if len(phones) <= 1:
        return phones or sites
    problem = BadInput(
        f"there are several app modules: {names}", hint=f'Choose one: module = "{phones[0].name}" under [android].'
    )
    return [replace(site, blocked=problem) for site in phones]


@dataclass(frozen=True)
class _Module:
    """One manifest on its way to a site."""

    project: Project
    path: str
    options: AndroidTable
    brief: Brief | None

    def site(self) -> AndroidSite | None:
        """The module as a site; None when it is no app."""
        source_set = _SOURCE_SET.search(self.path)
        module = self.path[: source_set.start()] if source_set else parent(self.path)
        build = read_build(self.project, module)
        if build.is_library:
            return None
        homes = (module,) if module else ("src", "res")
        blank = AndroidSite("android", module or ".", module=module, manifest=self.path, build=build, homes=homes)
        try:
            manifest = read_manifest(self.project, self.path)
            return self._described(blank, self._with_one_launcher(manifest, is_application=build.is_application), build)
        except RiveltError as error:
            return replace(blank, blocked=error)

    def _with_one_launcher(self, manifest: Manifest, *, is_application: bool) -> Manifest:
        at = Place(manifest.document.path, manifest.document.root.line)
        if manifest.launcher is None:
            hint = "Give the activity that starts the app an intent filter with MAIN and LAUNCHER."
            kind = BadInput if is_application else NoLauncher
            raise kind("no activity of this manifest is started by the launcher", place=at, hint=hint)
        names = ", ".join(attribute(node, "name") or "?" for node in manifest.launchers)
        if self.options.activity is not None:
            chosen = manifest.only(self.options.activity)
            if chosen.launcher is None:
                message = f"the launcher does not start {self.options.activity}"
                raise BadInput(
                    message,
                    place=self.brief.place("android.activity") if self.brief else at,
                    hint=f"It starts {names}.",
                )
            return chosen
        if len(manifest.launchers) > 1:
            first = attribute(manifest.launchers[0], "name")
            hint = f'Choose one: activity = "{first}" under [android].'
            raise BadInput(f"the launcher starts several activities: {names}", place=at, hint=hint)
        return manifest

    def _described(self, blank: AndroidSite, manifest: Manifest, build: Build) -> AndroidSite:
        main_res = join(parent(self.path), "res")
        all_res: tuple[str, ...] = (main_res,)
        if self.options.source_set != "main":
            all_res = (join(blank.module, "src", self.options.source_set, "res"), main_res)
        resources = resources_of(self.project, all_res)
        app_theme = theme_after_launch(self.project, manifest, resources)
        package = manifest.package or build.namespace or ""
        activity = manifest.activity_name
        if "$" in activity:
            raise BadInput(
                f"the launcher activity's name is not known before the build: {activity}",
                place=manifest.place_of_launcher,
            )
        source = find_activity(self.project, blank.module, build.namespace or package, activity)
        source = source or (
            find_activity(self.project, blank.module, package, activity) if package != build.namespace else None
        )
        site = replace(
            blank,
            touches=(self.path,),
            res=all_res[0],
            all_res=all_res,
            activity=activity,
            theme=launcher_theme(self.project, manifest, all_res[0]),
            app_theme=app_theme,
            launch_style=_framework_style(manifest, resources),
            source=source,
            flavours=self._flavours(blank.module),
            is_for_watch=_is_for_watch(manifest),
            code_build=self._build_of(source, build),
            manifest_min_sdk=manifest.min_sdk,
            # An activity that is not found in the module may be anywhere.
            homes=blank.homes if source is not None else (*blank.homes, ""),
        )
        shown = [f"{screen.system}: {scene(self.project, site, screen, 'light').title}" for screen in screens()]
        return replace(site, facts=self._facts(site, resources), touches=self._touches(site), today="; ".join(shown))

    def _flavours(self, module: str) -> tuple[str, ...]:
        src = join(module, "src")
        sets = {path.removeprefix(f"{src}/").split("/")[0] for path in self.project.below(src)}
        mine = {name for name in sets if name not in _MAIN_SETS and not _TEST_SETS.match(name)}
        return tuple(sorted(name for name in mine if self._has_resources(join(src, name))))

    def _has_resources(self, folder: str) -> bool:
        return join(folder, "AndroidManifest.xml") in self.project or bool(self.project.below(join(folder, "res")))

    def _build_of(self, source: ActivitySource | None, build: Build) -> Build | None:
        """The build of the module that the activity's source belongs to, if it is another one."""
        if source is None or not build.module or source.path.startswith(f"{build.module}/"):
            return None
        folder = parent(source.path)
        while folder:
            found = read_build(self.project, folder)
            if found.path is not None:
                return found
            folder = parent(folder)
        return None

    # What people are told

    def _touches(self, site: AndroidSite) -> tuple[str, ...]:
        way, _ = choose_way(self.project, site, AndroidTable())
        touched = [] if site.launch_style else [site.manifest]
        if way == "compat":
            touched += [edit.path for build in site.builds for edit in library_edits(self.project, build)]
        if site.source is not None and not site.launch_style:
            touched += [source.path for source in site.source.everywhere]
        return tuple(touched)

    def _facts(self, site: AndroidSite, resources: Resources) -> dict[str, str]:
        build = site.build
        assert build is not None
        way, reason = choose_way(self.project, site, AndroidTable())
        styles = resources.defined("style", (site.theme or "").removeprefix("@style/"))
        items = launch_items(styles)
        images = sorted(f"{kind}/{name}" for kind, name in reachable(self.project, resources, items))
        facts = {
            "manifest": site.manifest,
            "launcher activity": site.activity,
            "starts with theme": site.theme or "none (the system's default)",
            "theme is defined in": _defined_in(site.theme, resources),
            "theme after launch": site.app_theme,
            "activity source": f"{site.source.path} ({site.source.language})"
            if site.source
            else "not found in the project",
            "build": f"{build.dialect}; minSdk {build.min_sdk or 'not known'}, compileSdk {build.compile_sdk or 'not known'}",
            "compatibility library": _library_state(self.project, build, site.source),
            "launch images in use": ", ".join(images),
            "way": f"{way}: {reason}",
            "resources": site.res,
        }
        if site.flavours:
            facts["other source sets"] = ", ".join(site.flavours)
        if site.source is not None and site.source.only_waits:
            facts["second launch screen"] = (
                f"{site.activity} waits, then starts another activity: from Android 12 on people see two launch screens"
            )
        unused = unused_launch_images(self.project, resources, Names.of(self.options.prefix), frozenset())
        if unused:
            facts["launch images nothing uses"] = "\n".join(unused)
        if resources.broken:
            facts["cannot be read"] = ", ".join(str(problem.place) for problem in resources.broken)
        return {key: value for key, value in facts.items() if value}


def _framework_style(manifest: Manifest, resources: Resources) -> str | None:
    """The style that a framework's engine activity starts with, if it names another in a `<meta-data>` that it switches to."""
    kind, _, name = (manifest.theme or "").removeprefix("@").partition("/")
    if kind != "style" or manifest.normal_theme in {None, manifest.theme} or not resources.defined("style", name):
        return None
    return name


def _is_for_watch(manifest: Manifest) -> bool:
    features = manifest.document.root.all("uses-feature")
    return any(
        attribute(node, "name") == "android.hardware.type.watch" and attribute(node, "required") != "false"
        for node in features
    )


def _defined_in(theme: str | None, resources: Resources) -> str:
    name = (theme or "").removeprefix("@style/")
    entries: Sequence[Entry] = resources.defined("style", name)
    return "\n".join(f"{entry.path}:{entry.node.line}" for entry in entries if entry.node)


def _library_state(project: Project, build: Build, source: ActivitySource | None) -> str:
    is_called = source is not None and source.problem is None and project.source(source.path).calls(INSTALL_CALL)
    has_call = source.path if source and is_called else source.installs_itself if source else None
    dependency = "a dependency" if build.has_library else "no dependency"
    return f"{dependency}, {f'installed in {has_call}' if has_call else 'no install call'}"
