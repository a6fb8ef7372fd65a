"""The manifest of a source set, naming the launch theme for the launcher activity."""

from __future__ import annotations

from rivelt.edit.splice import Splice, spliced
from rivelt.errors import BadInput, Place
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.android.manifest import attribute, read_manifest
from rivelt.platforms.android.site import MADE_BY, AndroidSite, Names
from rivelt.project.snapshot import Snapshot, join, parent
from rivelt.templating import Templates

_TEMPLATES = Templates("rivelt.platforms.android")
_TOOLS = "http://schemas.android.com/tools"


def main_manifest(snapshot: Snapshot, site: AndroidSite, names: Names) -> list[EditFile]:
    """The edit that lets the launcher activity start with the launch theme; none when it does."""
    before = snapshot.read(site.manifest)
    manifest = read_manifest(before, site.manifest)
    after = (manifest.only(site.activity) if len(manifest.launchers) > 1 else manifest).with_theme(
        f"@style/{names.launch}"
    )
    summary = f"{site.activity} starts with @style/{names.launch}"
    return [EditFile(site.manifest, before, after, summary)] if after != before else []


def source_set_manifest(snapshot: Snapshot, site: AndroidSite, names: Names) -> tuple[list[EditFile], list[WriteFile]]:
    """The manifest of a flavour or build type, which overrides the main one: edited when it is there, else made."""
    path = join(parent(site.res), "AndroidManifest.xml")
    if path not in snapshot or MADE_BY in snapshot.read(path)[:300]:
        text = _TEMPLATES.render("manifest.xml.j2", activity=site.activity, names=names)
        return [], [
            WriteFile(path, text.encode(), f"{site.activity} starts with @style/{names.launch} in this source set")
        ]
    before = snapshot.read(path)
    after = _edited(before, path, site.activity, f"@style/{names.launch}")
    return (
        [EditFile(path, before, after, f"{site.activity} starts with @style/{names.launch}")] if after != before else []
    ), []


def _edited(data: bytes, path: str, activity: str, theme: str) -> bytes:
    manifest = read_manifest(data, path)
    document, prefix = manifest.document, manifest.prefix
    if manifest.application is None:
        at = Place(path, document.root.line)
        raise BadInput("the manifest of the source set has no <application>", place=at, hint="Add an empty one.")
    node = next((node for node in manifest.application.all("activity") if attribute(node, "name") == activity), None)
    splices: list[Splice] = []
    if f'"{_TOOLS}"'.encode() not in data:
        splices.append(document.set_attribute(document.root, "xmlns:tools", _TOOLS))
    if node is None:
        line = f'<activity {prefix}:name="{activity}" {prefix}:theme="{theme}" tools:replace="{prefix}:theme" />'
        return spliced(data, [*splices, document.append_child(manifest.application, [line], document.indent_unit())])
    replaced = node.get("replace", _TOOLS)
    wanted = (
        replaced
        if replaced and f"{prefix}:theme" in replaced
        else ",".join(filter(None, (replaced, f"{prefix}:theme")))
    )
    theme_edit = document.set_attribute(node, f"{prefix}:theme", theme)
    return spliced(
        spliced(data, [*splices, theme_edit]),
        _replace_marker(spliced(data, [*splices, theme_edit]), path, activity, wanted),
    )


def _replace_marker(data: bytes, path: str, activity: str, wanted: str) -> list[Splice]:
    """The merge rule, set in a second step: two new attributes would meet at one spot."""
    manifest = read_manifest(data, path)
    node = (
        next(node for node in manifest.application.all("activity") if attribute(node, "name") == activity)
        if manifest.application
        else None
    )
    return (
        [manifest.document.set_attribute(node, "tools:replace", wanted)]
        if node is not None and node.get("replace", _TOOLS) != wanted
        else []
    )
