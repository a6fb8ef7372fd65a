"""An app module as a build of some source sets sees it: the merged manifest, the merged resources, the launcher's source."""

from __future__ import annotations

from collections.abc import Sequence

from rivelt.errors import BadInput, Place
from rivelt.platforms.android.facts import every_screen
from rivelt.platforms.android.native.activity import ActivitySource, find_activity
from rivelt.platforms.android.native.after_launch import theme_after_launch
from rivelt.platforms.android.native.build import Build, read_build
from rivelt.platforms.android.native.frameworks import framework_of
from rivelt.platforms.android.native.manifest import Manifest, merged_manifest
from rivelt.platforms.android.native.motion import moments
from rivelt.platforms.android.native.resources import Resources, resources_of
from rivelt.platforms.android.native.variants import SourceSet, Variants, variants_of
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.project.snapshot import parent
from rivelt.values import replace


def variants_of_site(project: Project, site: AndroidSite) -> Variants:
    """Return the variants of the app module that a site is (a part of)."""
    return variants_of(project, site.module, site.build.path if site.build else None, site.manifest)


def manifest_of(project: Project, site: AndroidSite) -> Manifest:
    """Return the merged manifest that a site stands for, its launcher the one that is meant.

    Raises:
        BadInput: a file of it is not well-formed XML.
    """
    namespace = site.build.namespace if site.build else None
    manifest = merged_manifest(project, site.manifests or (site.manifest,), namespace)
    return manifest.only(site.activity) if len(manifest.launchers) > 1 and site.activity else manifest


def resolved(
    project: Project, site: AndroidSite, sets: Sequence[SourceSet], libraries: Sequence[str], activity: str | None
) -> AndroidSite:
    """Return a site as a build of some source sets sees it.

    Args:
        project: the project.
        site: the module, with its build.
        sets: the source sets, the highest priority first, the main one last.
        libraries: resource folders of the project's own libraries.
        activity: the launcher activity that is meant, where there are several.

    Raises:
        BadInput: the launcher or its theme is not there, or not known before the build.
        NoLauncher: no activity is started by the launcher, and nothing says that the module is an app's.
    """
    for one in sets:
        if one.problem is not None:
            raise one.problem
    build = site.build or Build(site.module)
    manifests = tuple(dict.fromkeys(one.manifest for one in sets))
    res = tuple(dict.fromkeys((*(folder for one in sets for folder in reversed(one.res)), *libraries)))
    merged = merged_manifest(project, manifests, build.namespace)
    manifest = _with_one_launcher(merged, activity, is_application=build.is_application)
    resources = resources_of(project, res)
    name = manifest.activity_name
    if "$" in name:
        message = f"the launcher activity's name is not known before the build: {name}"
        raise BadInput(message, place=manifest.place_of_launcher)
    source = _source(project, site, build, manifest, sets)
    unknown_code = next((one.code_problem for one in sets if one.code_problem is not None), None)
    if source is None and unknown_code is not None:
        raise unknown_code
    in_code = source.theme_set if source is not None else None
    after = theme_after_launch(project, manifest, resources, site.given_theme, in_code)
    return replace(
        site,
        manifests=manifests,
        all_res=res,
        activity=name,
        theme=manifest.theme,
        app_theme=after.theme,
        app_theme_problem=after.problem,
        launch_style=_framework_style(manifest, resources),
        source=source,
        code_build=_build_of(project, source, build),
        manifest_min_sdk=manifest.min_sdk,
        framework=framework_of(manifest.launcher.name if manifest.launcher else "", source),
        device=manifest.device,
        screens=every_screen(manifest.device) if manifest.device else (),
        moments=moments(project, resources, manifest.theme, build.versions) if not manifest.device else (),
        is_aside=bool(manifest.device),
    )


class NoLauncher(BadInput):
    """The manifest declares no launcher activity. `is_app`: whether the build says that it is an app's."""

    is_app = False


def _with_one_launcher(manifest: Manifest, activity: str | None, *, is_application: bool) -> Manifest:
    at = Place(manifest.document.path, manifest.document.root.line)
    if manifest.launcher is None:
        hint = "Give the activity that starts the app an intent filter with MAIN and LAUNCHER."
        error = NoLauncher("no activity of this manifest is started by the launcher", place=at, hint=hint)
        error.is_app = is_application and manifest.application is not None
        raise error
    names = ", ".join(one.written_name or "?" for one in manifest.launchers)
    if activity is not None:
        chosen = manifest.only(activity)
        if chosen.launcher is None:
            raise BadInput(f"the launcher does not start {activity}", hint=f"It starts {names}.")
        return chosen
    if len(manifest.launchers) > 1:
        hint = f'Choose one: activity = "{manifest.launchers[0].written_name}" under [android].'
        raise BadInput(f"the launcher starts several activities: {names}", place=at, hint=hint)
    return manifest


def sets_with_launcher(project: Project, site: AndroidSite, variants: Variants) -> tuple[str, ...]:
    """Return the source sets whose own manifest declares what the launcher starts, where the main one does not."""
    namespace = site.build.namespace if site.build else None
    sets = {one.name: one for variant in variants.every for one in variant.sets}
    return tuple(
        name
        for name, one in sets.items()
        if one.manifest in project and merged_manifest(project, (one.manifest,), namespace).launchers
    )


def _source(
    project: Project, site: AndroidSite, build: Build, manifest: Manifest, sets: Sequence[SourceSet]
) -> ActivitySource | None:
    """The launcher's source: of the same class in several source sets, the one that this build compiles first."""
    package = manifest.package
    written = manifest.document.root.get("package") or ""
    name = manifest.activity_name
    found = find_activity(project, site.module, build.namespace or package, name)
    if found is None and written and written != build.namespace and "$" not in written:
        found = find_activity(project, site.module, written, name)
    if found is None or not found.twins:
        return found
    folders = [folder for one in sets for folder in one.code]
    for folder in folders:
        for one in found.everywhere:
            if one.path.startswith(f"{folder}/"):
                # Of the main source set all are meant: each variant has the one of its own.
                others = tuple(other for other in found.everywhere if other != one) if len(sets) == 1 else ()
                return replace(one, twins=tuple(replace(other, twins=()) for other in others))
    return found


def _build_of(project: Project, source: ActivitySource | None, build: Build) -> Build | None:
    """The build of the module that the activity's source belongs to, if it is another one."""
    if source is None or not build.module or source.path.startswith(f"{build.module}/"):
        return None
    folder = parent(source.path)
    while folder:
        found = read_build(project, folder)
        if found.path is not None:
            return found
        folder = parent(folder)
    return None


def _framework_style(manifest: Manifest, resources: Resources) -> str | None:
    """The style that a framework's engine activity starts with, if it names another in a `<meta-data>` that it switches to."""
    kind, _, name = (manifest.theme or "").removeprefix("@").partition("/")
    if kind != "style" or manifest.normal_theme in {None, manifest.theme} or not resources.defined("style", name):
        return None
    return name
