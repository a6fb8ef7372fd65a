"""The theme that an app uses after launch: what the launcher has, or what its launch theme gives way to."""

from __future__ import annotations

import re
from difflib import get_close_matches

from msgspec import Struct

from rivelt.errors import BadInput
from rivelt.patterns import regex
from rivelt.platforms.android.names import is_generated
from rivelt.platforms.android.native.libraries import is_of_family
from rivelt.platforms.android.native.manifest import Manifest
from rivelt.platforms.android.native.resources import Resources, split_reference, style_parent
from rivelt.platforms.android.native.theme import LIBRARY_THEMES, POST_LAUNCH, devices
from rivelt.project.project import Project

# What Android gives an activity without a theme, for apps that target API 24 or later (frameworks/base, Resources.java).
DEFAULT_THEME = "@android:style/Theme.DeviceDefault.Light.DarkActionBar"

_LONGEST_CHAIN = 30
_OF_LIBRARY = regex(r"(?:^|[._])(?:Theme|ThemeOverlay|Base|Platform)(?=[._A-Z0-9]|$)")
_ALIKE = 0.88
"""From which likeness of two names one is taken for a slip of the other (difflib's ratio)."""


class AfterLaunch(Struct, frozen=True):
    """The theme, by reference, that the app uses after launch; "" with the reason (`problem`) where the native files leave it open."""

    theme: str
    problem: BadInput | None = None


def theme_after_launch(
    project: Project, manifest: Manifest, resources: Resources, given: str | None, set_in_code: str | None
) -> AfterLaunch:
    """Return the theme that the app uses after launch.

    The one that the brief gives; else what a framework's `<meta-data>` or the activity's own `setTheme` names; else what the launch theme
    gives way to; else the application's own. Never a theme that is a launch theme itself.

    Args:
        project: the project.
        manifest: its merged manifest.
        resources: its resources.
        given: the theme that the brief names, None for none.
        set_in_code: the style that the activity sets, as a constant of `R`, None for none.

    Raises:
        BadInput: the theme is not known before the build, is defined nowhere, or the launch themes lead in a circle.
    """
    found = AfterLaunch(given) if given else _after(project, manifest, resources, set_in_code)
    if found.theme:
        _refuse_missing(project, manifest, resources, found.theme)
    return found


def _after(project: Project, manifest: Manifest, resources: Resources, set_in_code: str | None) -> AfterLaunch:
    styles = (name for kind, name in sorted(resources.entries) if kind == "style")
    in_code = next((f"@style/{name}" for name in styles if re.sub(r"[.-]", "_", name) == set_in_code), None)
    application = manifest.application.value("theme") if manifest.application is not None else None
    for theme in (manifest.normal_theme, in_code, manifest.theme or DEFAULT_THEME, application):
        left = _left_for(project, manifest, resources, theme) if theme is not None else None
        if left is not None:
            return AfterLaunch(left)
    hint = f'Add <item name="{POST_LAUNCH}"> to it, or say it: app_theme = "@style/..." under [android].'
    message = f"the theme after launch is unknown: {manifest.theme} is a launch theme that names none"
    return AfterLaunch("", BadInput(message, place=manifest.place_of_launcher, hint=hint))


def _left_for(project: Project, manifest: Manifest, resources: Resources, theme: str) -> str | None:
    """The theme that one gives way to, itself if it is not a launch theme; None for a launch theme that names none."""
    for _ in range(_LONGEST_CHAIN):
        reference = split_reference(theme)
        if reference is None:
            hint = "Name the theme as @style/..., so that the launch theme can inherit from it."
            message = f"the launcher's theme is not known before the build: {theme}"
            raise BadInput(message, place=manifest.place_of_launcher, hint=hint)
        after = _given_way_to(project, reference[1], resources) if reference[0] == "style" else None
        if after is None:
            return None if reference[0] == "style" and _is_of_library(reference[1], resources) else theme
        theme = after
    raise BadInput(f"the launch themes give way to each other in a circle: {theme}", place=manifest.place_of_launcher)


def _is_of_library(style: str, resources: Resources) -> bool:
    """Whether a style is one of the compatibility library's launch themes, or inherits from one."""
    for device in devices():
        found = resources.style(style, device)
        if (found.missing_parent if found is not None else style) in LIBRARY_THEMES:
            return True
    return False


def _given_way_to(project: Project, style: str, resources: Resources) -> str | None:
    """The theme that a launch theme gives way to; None for a theme that names none."""
    wanted: str | None = style
    for _ in range(_LONGEST_CHAIN):
        entries = resources.defined("style", wanted or "")
        entry = min(entries, key=lambda entry: len(entry.qualifiers), default=None)
        if entry is None or entry.node is None:
            return None
        for item in entry.node.all("item"):
            if item.get("name") in {POST_LAUNCH, f"android:{POST_LAUNCH}"}:
                return item.text.strip()
        wanted = style_parent(entry.node)
        if is_generated(project.read(entry.path)):
            return _as_reference(wanted) if wanted else None
    return None


def _as_reference(name: str) -> str:
    return f"@android:style/{name.removeprefix('android:')}" if name.startswith("android:") else f"@style/{name}"


def _refuse_missing(project: Project, manifest: Manifest, resources: Resources, theme: str) -> None:
    """Refuse a theme that the project does not define, and that cannot be a library's: misspelt, or not named as themes are."""
    kind, _, name = theme.removeprefix("@").partition("/")
    if kind != "style" or resources.defined("style", name):
        return
    wanted = re.compile(rf"""<style\b[^>]*\bname\s*=\s*["']{re.escape(name)}["']""".encode())
    values = (path for path in project.find("*/values*/*.xml") if "/res" in f"/{path}")
    if any(wanted.search(project.read(path)) for path in values):
        return
    if is_of_family(name):
        return
    close = get_close_matches(name, [own for kind, own in resources.entries if kind == "style"], 1, _ALIKE)
    if _OF_LIBRARY.search(name) and not close:
        return
    message = f"the launcher's theme {theme} is defined nowhere in the project"
    hint = f"Did you mean @style/{close[0]}?" if close else "Correct android:theme, or add the style."
    raise BadInput(message, place=manifest.place_of_launcher, hint=hint)
