"""What Android app modules a project holds, and what each shows at launch today."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.platforms.android.make.frameworks import is_switched_by_meta
from rivelt.platforms.android.make.library import library_edits
from rivelt.platforms.android.make.method import choose_way
from rivelt.platforms.android.names import Names, is_generated
from rivelt.platforms.android.native.activity import INSTALL_CALL, ActivitySource
from rivelt.platforms.android.native.build import BUILD_FILES, Build, read_build
from rivelt.platforms.android.native.effective import (
    NoLauncher,
    manifest_of,
    resolved,
    sets_with_launcher,
    variants_of_site,
)
from rivelt.platforms.android.native.frameworks import regenerated
from rivelt.platforms.android.native.leftovers import launch_items, reachable, unused_launch_images
from rivelt.platforms.android.native.resources import Entry, Resources, resources_of
from rivelt.platforms.android.native.source_sets import declared
from rivelt.platforms.android.native.variants import MAIN, MANIFEST, Variants, source_set, unused_sets
from rivelt.platforms.android.options import AndroidTable
from rivelt.platforms.android.reader.scene import today
from rivelt.platforms.android.site import AndroidSite, Way
from rivelt.platforms.choose import listed
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.values import replace

_SOURCE_SET = regex(r"(?:^|/)src/(?P<name>[^/]+)/AndroidManifest\.xml$")
_MAIN_SETS = frozenset({"main", "androidMain"})  # Kotlin Multiplatform has its own name for it


def survey(project: Project, brief: Brief | None = None) -> list[AndroidSite]:
    """Return the app modules of a project: not its libraries, nor the manifests of flavours, build types and tests."""
    options = brief.table("android", AndroidTable) if brief else AndroidTable()
    places = (brief.place("android.activity"), brief.place("android.source_set")) if brief else (None, None)
    # The editions of a brief mostly have the same options, which may hold lists.
    return project.remember(("android survey", repr(options), places), lambda: _surveyed(project, options, *places))


def _surveyed(
    project: Project, options: AndroidTable, activity: Place | None, source_set: Place | None
) -> list[AndroidSite]:
    """The app modules. `activity`, `source_set`: where a brief says these."""
    modules = [
        _Module(project, folder, path, options, activity, source_set) for folder, path in _main_manifests(project)
    ]
    found = [site for module in modules if (site := module.site()) is not None]
    # A manifest without a launcher is a part of something, unless there is nothing else.
    sites = [site for site in found if not _is_part(site)] or [site for site in found if _declares_app(project, site)]
    return [site for site in sites if not _is_stray(project, site)] or sites


def _is_part(site: AndroidSite) -> bool:
    """Whether it has no launcher, and nothing says that it is an app's."""
    return isinstance(site.blocked, NoLauncher) and not site.blocked.is_app


def _main_manifests(project: Project) -> list[tuple[str, str]]:
    """The folder and the main manifest of each module, sorted; where its build says that they are elsewhere, those."""
    modules: dict[str, str] = {}
    others: set[str] = set()
    for build in (path for path in project.find("*build.gradle*") if path.rpartition("/")[2] in BUILD_FILES):
        found = declared(project, parent(build), build)
        for name in found.folders:
            its = found.folders_of(name)
            manifest = its.manifest or (join(its.root, MANIFEST) if its.root else None)
            if name == MAIN and manifest is not None:
                modules[parent(build)] = manifest
            elif manifest is not None:
                others.add(manifest)
    # One in a source set comes before one that merely is in the module's folder.
    paths = sorted(
        filter(_is_main_manifest, project.find(f"*{MANIFEST}")), key=lambda path: not _SOURCE_SET.search(path)
    )
    for path in paths:
        source_set = _SOURCE_SET.search(path)
        if path not in others and path not in modules.values():
            modules.setdefault(path[: source_set.start()] if source_set else parent(path), path)
    return sorted((folder, path) for folder, path in modules.items() if path in project)


def _declares_app(project: Project, site: AndroidSite) -> bool:
    """Whether a manifest has an application at all: without one it is a library's, or a part of something."""
    try:
        return project.xml(site.manifest).root.first("application") is not None
    except RiveltError:
        return True


def _is_stray(project: Project, site: AndroidSite) -> bool:
    """Whether it is a manifest that is merely there: nothing builds it, and no resources are beside it."""
    has_build = site.build is not None and site.build.path is not None
    return not has_build and not project.below(join(parent(site.manifest), "res"))


def _is_main_manifest(path: str) -> bool:
    source_set = _SOURCE_SET.search(path)
    return path.rpartition("/")[2] == "AndroidManifest.xml" and (source_set is None or source_set["name"] in _MAIN_SETS)


def _with_levels(build: Build, options: AndroidTable) -> Build:
    """A build with the API levels that it leaves unknown and the brief says."""
    return replace(
        build, min_sdk=build.min_sdk or options.min_sdk, compile_sdk=build.compile_sdk or options.compile_sdk
    )


class _Module(Struct, frozen=True):
    """One module on its way to a site."""

    project: Project
    folder: str
    path: str
    options: AndroidTable
    activity_place: Place | None
    set_place: Place | None

    def site(self) -> AndroidSite | None:
        """Return the module as a site; None when it is not an app."""
        module, wanted = self.folder, self.options.source_set
        build = _with_levels(read_build(self.project, module), self.options)
        if build.is_library:
            return None
        homes = (module,) if module else ("src", "res")
        blank = AndroidSite(
            "android",
            (module or ".") if wanted == MAIN else f"{module or '.'}: {wanted}",
            module=module,
            manifest=self.path,
            source_set=wanted,
            build=build,
            given_theme=self.options.app_theme,
            homes=homes,
            path=self.path,
            names=(module or ".",),
        )
        again = (
            regenerated(self.project, module, None) if any(part.startswith(".") for part in module.split("/")) else None
        )
        if again is not None:
            lines = "; ".join(line.replace("{ground}", "the ground") for line in again.framework.lines)
            message = f"{again.folder} is regenerated by {again.framework.name}'s tool, from {again.kept}: nothing is written there"
            return replace(blank, blocked=BadInput(message, place=Place(self.path), hint=f"In {again.kept}: {lines}"))
        try:
            return self._described(blank)
        except NoLauncher as error:
            return replace(blank, blocked=self._without_launcher(blank, error))
        except RiveltError as error:
            return replace(blank, blocked=error.at(self.activity_place))

    def _without_launcher(self, blank: AndroidSite, error: NoLauncher) -> NoLauncher:
        """The error that the main manifest has no launcher; where flavours have one each, with what to do."""
        names = sets_with_launcher(self.project, blank, variants_of_site(self.project, blank))
        if names:
            error.is_app = True
            error.hint = f"The launcher starts activities of {listed(names)}: give each an edition, with source_set under [android]."
        return error

    def _described(self, blank: AndroidSite) -> AndroidSite:
        variants = variants_of_site(self.project, blank)
        own = source_set(variants, blank.source_set, blank.module, self.set_place)
        sets = (own,) if own.name == MAIN else (own, variants.main)
        site = resolved(self.project, replace(blank, res=own.res[0]), sets, variants.libraries, self.options.activity)
        # An activity that is not found in the module may be anywhere.
        site = replace(site, touches=(self.path,), homes=blank.homes if site.source is not None else (*blank.homes, ""))
        resources = resources_of(self.project, site.all_res)
        facts = self._facts(site, resources, variants)
        return replace(
            site, facts=facts, touches=self._touches(site, resources), shows=lambda: today(self.project, site)
        )

    # What the survey reports

    def _and_televisions(self, site: AndroidSite) -> str:
        manifest = manifest_of(self.project, site)
        return ", and televisions" if manifest.is_on_televisions else ""

    def _regenerated(self, site: AndroidSite) -> str:
        found = regenerated(self.project, site.module, site.framework)
        return f"{found.folder}, by the framework's tool, from {found.kept}" if found is not None else ""

    def _way(self, site: AndroidSite) -> tuple[Way | None, str]:
        """How a launch screen would be made, None where it cannot be, and why."""
        try:
            return choose_way(self.project, site, self.options)
        except RiveltError as error:
            return None, str(error)

    def _touches(self, site: AndroidSite, resources: Resources) -> tuple[str, ...]:
        """The person's files that apply would edit, as far as that is known without planning: none where there is no way."""
        way, _ = self._way(site)
        if way is None:
            return ()
        if way == "platform" and site.launch_style is not None:
            return self._styles_of(site, resources)
        edits = (
            (edit for build in site.builds for edit in library_edits(self.project, build)) if way == "compat" else ()
        )
        build = [edit.path for edit in edits if edit.before != edit.after]
        begun = [
            source.path
            for source in (site.source.everywhere if site.source is not None else ())
            if _begins(source, way)
        ]
        own = [path for path in (site.manifests[0], site.manifest) if path in self.project]
        manifests = [path for path in dict.fromkeys(own) if not is_generated(self.project.read(path))]
        return (*manifests, *build, *(() if is_switched_by_meta(site, way) else begun))

    def _styles_of(self, site: AndroidSite, resources: Resources) -> tuple[str, ...]:
        """The files that define the style with which a framework's activity starts."""
        found = (
            entry.path
            for entry in resources.defined("style", site.launch_style or "")
            if entry.node and parent(parent(entry.path)) == site.res and not is_generated(self.project.read(entry.path))
        )
        return tuple(dict.fromkeys(found))

    def _facts(self, site: AndroidSite, resources: Resources, variants: Variants) -> dict[str, str]:
        build = site.build
        assert build is not None
        way, reason = self._way(site)
        styles = resources.defined("style", (site.theme or "").removeprefix("@style/"))
        items = launch_items(styles)
        images = sorted(f"{kind}/{name}" for kind, name in reachable(self.project, resources, items))
        facts = {
            "manifest": site.manifest,
            "made for": site.device or "phones and tablets, upright and in landscape" + self._and_televisions(site),
            "made with": site.framework.name if site.framework else "",
            "regenerated": self._regenerated(site),
            "launcher activity": site.activity,
            "starts with theme": site.theme or "none (the system's default)",
            "theme is defined in": _defined_in(site.theme, resources),
            "theme after launch": site.app_theme or f"unknown: {site.app_theme_problem}",
            "activity source": f"{site.source.path} ({site.source.language})"
            if site.source
            else "not found in the project",
            "build": f"{build.dialect}; minSdk {build.min_sdk or 'not known'}, compileSdk {build.compile_sdk or 'not known'}",
            "compatibility library": _library_state(self.project, build, site.source),
            "launch images in use": ", ".join(images),
            "way": f"{way or 'none'}: {reason}",
            "resources": site.res,
        }
        named = [variant.name for variant in variants.every if variant.name]
        if any(variant.flavours for variant in variants.every):
            facts["variants"] = listed(named)
        if variants.problem is not None:
            facts["variants"] = f"not all known: {variants.problem.message}"
        if unused := list(unused_sets(self.project, site.module, variants)):
            facts["in no variant"] = ", ".join(unused)
        second = site.source.second if site.source is not None else None
        if second is not None:
            leads = listed(second.targets) or "what comes next"
            facts["second launch screen"] = f"{second.place}: {second.name}, {second.duration}, then {leads}"
        images_left = unused_launch_images(self.project, resources, Names.of(self.options.prefix), frozenset())
        if images_left:
            facts["launch images nothing uses"] = "\n".join(images_left)
        if resources.broken:
            facts["cannot be read"] = ", ".join(str(problem.place) for problem in resources.broken)
        return {key: value for key, value in facts.items() if value}


def _defined_in(theme: str | None, resources: Resources) -> str:
    name = (theme or "").removeprefix("@style/")
    entries: Sequence[Entry] = resources.defined("style", name)
    return "\n".join(f"{entry.path}:{entry.node.line}" for entry in entries if entry.node)


def _library_state(project: Project, build: Build, source: ActivitySource | None) -> str:
    is_called = source is not None and source.problem is None and project.source(source.path).calls(INSTALL_CALL)
    has_call = source.path if source and is_called else source.installs_itself if source else None
    dependency = "a dependency" if build.has_library else "no dependency"
    return f"{dependency}, {f'installed in {has_call}' if has_call else 'no install call'}"


def _begins(source: ActivitySource, way: Way) -> bool:
    """Whether an activity gets lines of its own."""
    if source.problem is not None:
        return False
    return source.installs_itself is None if way == "compat" else not source.sets_theme
