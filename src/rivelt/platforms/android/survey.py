"""What Android app modules a project holds, and what each shows at launch today."""

from __future__ import annotations

import re
from dataclasses import replace

from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.android.facts import screens
from rivelt.platforms.android.manifest import Manifest, attribute, read_manifest
from rivelt.platforms.android.reader import scene
from rivelt.platforms.android.resources import Resources, split_reference, style_parent
from rivelt.platforms.android.site import LAUNCH_THEME, VALUES_FILE, AndroidSite, Language
from rivelt.project.snapshot import Snapshot, join, parent

# What Android gives an activity without a theme, for apps that target API 24 or later (frameworks/base, Resources.java).
DEFAULT_THEME = "@android:style/Theme.DeviceDefault.Light.DarkActionBar"

_SOURCE_SET = re.compile(r"(?:^|/)src/(?P<name>[^/]+)/AndroidManifest\.xml$")
_LIBRARY = re.compile(r"com\.android\.(?:library|test|dynamic-feature|asset-pack)|plugins\.(?:android\.)?library\b")
_APPLICATION = re.compile(r"com\.android\.application|plugins\.android\.application\b|plugins\.androidApplication\b")


def survey(snapshot: Snapshot) -> list[AndroidSite]:
    """The app modules of a project: not its libraries, nor the manifests of flavours, build types and tests."""
    found = [_site(snapshot, path) for path in snapshot.find("*AndroidManifest.xml") if _is_main_manifest(path)]
    return [site for site in found if site is not None]


def _is_main_manifest(path: str) -> bool:
    source_set = _SOURCE_SET.search(path)
    return path.rpartition("/")[2] == "AndroidManifest.xml" and (source_set is None or source_set["name"] == "main")


def _site(snapshot: Snapshot, path: str) -> AndroidSite | None:
    source_set = _SOURCE_SET.search(path)
    module = path[: source_set.start()] if source_set else parent(path)
    gradle = _gradle_text(snapshot, module)
    if _LIBRARY.search(gradle) and not _APPLICATION.search(gradle):
        return None
    name = module or "."
    res = join(parent(path), "res")
    try:
        manifest = read_manifest(snapshot.read(path), path)
        if manifest.launcher is None and not _APPLICATION.search(gradle):
            return None  # a part of something else: nothing of it is started from the launcher
        return _described(snapshot, manifest, name, res)
    except RiveltError as error:
        return AndroidSite("android", name, manifest=path, res=res, blocked=error)


def _gradle_text(snapshot: Snapshot, module: str) -> str:
    for name in ("build.gradle.kts", "build.gradle"):
        path = join(module, name)
        if path in snapshot:
            return snapshot.read(path).decode("utf-8", "replace")
    return ""


def _described(snapshot: Snapshot, manifest: Manifest, name: str, res: str) -> AndroidSite:
    path = manifest.document.path
    if manifest.launcher is None:
        at = Place(path, manifest.document.root.line)
        hint = "Give the activity that starts the app an intent filter with MAIN and LAUNCHER."
        raise BadInput("no activity of this manifest is started by the launcher", place=at, hint=hint)
    resources = Resources.of_folder(snapshot, res)
    app_theme = _app_theme(manifest, resources)
    source, language = _source(snapshot, manifest, parent(path))
    facts = {
        "launcher activity": manifest.activity_name,
        "starts with theme": manifest.theme or "none (the system's default)",
        "theme after launch": app_theme,
        "activity source": source or "not found in the project",
        "resources": res,
    }
    site = AndroidSite(
        "android",
        name,
        facts=facts,
        touches=(path,),
        manifest=path,
        res=res,
        activity=manifest.activity_name,
        theme=manifest.theme,
        app_theme=app_theme,
        source=source,
        language=language,
    )
    shown = [f"{screen.system}: {scene(snapshot, site, screen, 'light').title}" for screen in screens()]
    return replace(site, today="; ".join(shown))


def _app_theme(manifest: Manifest, resources: Resources) -> str:
    """The theme the launcher had before Rivelt: what it has now, or the parent of Rivelt's own launch theme."""
    theme = manifest.theme
    at = manifest.document.place(manifest.launcher) if manifest.launcher else None
    if theme is None:
        return DEFAULT_THEME
    reference = split_reference(theme)
    if reference is None:
        hint = "Name the theme as @style/..., so that the launch theme can inherit from it."
        raise BadInput(f"the launcher's theme cannot be told before the build: {theme}", place=at, hint=hint)
    if reference != ("style", LAUNCH_THEME):
        return theme
    own = [entry for entry in resources.defined("style", LAUNCH_THEME) if entry.path.endswith(f"/values/{VALUES_FILE}")]
    before = style_parent(own[0].node) if own and own[0].node else None
    if before is None:
        hint = "Set android:theme of the launcher activity back to the app's own theme."
        raise BadInput(f"the manifest names @style/{LAUNCH_THEME}, which no resource defines", place=at, hint=hint)
    platform = before.startswith("android:")
    return f"@android:style/{before.removeprefix('android:')}" if platform else f"@style/{before}"


def _source(snapshot: Snapshot, manifest: Manifest, folder: str) -> tuple[str | None, Language]:
    """The launcher activity's source file: the one of its class name in the module, in the right package if there are several."""
    full_name = manifest.activity_name
    simple = full_name.rpartition(".")[2]
    found = [
        path
        for end in (".kt", ".java")
        for path in snapshot.find(f"{folder}/*/{simple}{end}" if folder else f"*/{simple}{end}")
    ]
    package = attribute(manifest.document.root, "package") or manifest.document.root.get("package") or ""
    wanted = (full_name if not full_name.startswith(".") else package + full_name).replace(".", "/")
    found.sort(key=lambda path: not path.rpartition(".")[0].endswith(wanted))
    source = found[0] if found else None
    return source, "Java" if source and source.endswith(".java") else "Kotlin"
