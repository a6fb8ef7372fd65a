"""The theme that an app uses after launch: what the launcher has, or what its launch theme gives way to."""

from __future__ import annotations

import re

from rivelt.errors import BadInput
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.names import is_generated
from rivelt.platforms.android.native.manifest import Manifest
from rivelt.platforms.android.native.resources import Resources, split_reference, style_parent
from rivelt.platforms.android.native.theme import POST_LAUNCH
from rivelt.project.project import Project

# What Android gives an activity without a theme, for apps that target API 24 or later (frameworks/base, Resources.java).
DEFAULT_THEME = "@android:style/Theme.DeviceDefault.Light.DarkActionBar"

_LONGEST_CHAIN = 30


def theme_after_launch(project: Project, manifest: Manifest, resources: Resources) -> str:
    """Return the theme, by reference, that the app uses after launch.

    Raises:
        BadInput: it is not known before the build, is defined nowhere, or the launch themes lead in a circle.
    """
    theme = _after(project, manifest, resources)
    _refuse_missing(project, manifest, resources, theme)
    return theme


def _after(project: Project, manifest: Manifest, resources: Resources) -> str:
    theme = manifest.theme
    if theme is None:
        return DEFAULT_THEME
    for _ in range(_LONGEST_CHAIN):
        reference = split_reference(theme)
        if reference is None:
            hint = "Name the theme as @style/..., so that the launch theme can inherit from it."
            message = f"the launcher's theme is not known before the build: {theme}"
            raise BadInput(message, place=manifest.place_of_launcher, hint=hint)
        after = _given_way_to(project, reference[1], resources) if reference[0] == "style" else None
        if after is None:
            return theme
        theme = after
    raise BadInput(f"the launch themes give way to each other in a circle: {theme}", place=manifest.place_of_launcher)


def _given_way_to(project: Project, style: str, resources: Resources) -> str | None:
    """The theme that a launch theme gives way to; None for a theme that is not a launch theme."""
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
    """Refuse a theme that neither the module, nor the rest of the project, nor a library known to have themes defines."""
    kind, _, name = theme.removeprefix("@").partition("/")
    if kind != "style" or resources.defined("style", name) or name.startswith(android_facts().library_themes):
        return
    wanted = re.compile(rf"""<style\b[^>]*\bname\s*=\s*["']{re.escape(name)}["']""".encode())
    values = (path for path in project.find("*/values*/*.xml") if "/res" in f"/{path}")
    if any(wanted.search(project.read(path)) for path in values):
        return
    message = f"the launcher's theme {theme} is defined nowhere in the project"
    raise BadInput(message, place=manifest.place_of_launcher, hint="Correct android:theme, or add the style.")
