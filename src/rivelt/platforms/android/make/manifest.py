"""The manifest, edited so that the launcher activity starts with the launch theme: the main one, or that of another source set."""

from __future__ import annotations

from rivelt.edit.splice import Splice, spliced
from rivelt.errors import BadInput, Place
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.android.names import Names, is_generated
from rivelt.platforms.android.native.manifest import attribute, read_manifest
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.project.snapshot import join, parent
from rivelt.templating import Templates

_TEMPLATES = Templates("rivelt.platforms.android")
_TOOLS = "http://schemas.android.com/tools"


def main_manifest(project: Project, site: AndroidSite, names: Names) -> list[EditFile]:
    """Return the edit that lets the launcher activity start with the launch theme; none when it does."""
    manifest = read_manifest(project, site.manifest)
    chosen = manifest.only(site.activity) if len(manifest.launchers) > 1 else manifest
    assert chosen.launcher is not None
    document = manifest.document
    splice = document.set_attribute(chosen.launcher, f"{manifest.prefix}:theme", f"@style/{names.launch}")
    after = spliced(document.data, [splice])
    summary = f"{site.activity} starts with @style/{names.launch}"
    return [EditFile(site.manifest, document.data, after, summary)] if after != document.data else []


def source_set_manifest(project: Project, site: AndroidSite, names: Names) -> tuple[list[EditFile], list[WriteFile]]:
    """Return the manifest of a flavour or build type, which overrides the main one: edited when it is there, else made."""
    path = join(parent(site.res), "AndroidManifest.xml")
    summary = f"{site.activity} starts with @style/{names.launch}"
    if path not in project or is_generated(project.read(path)):
        text = _TEMPLATES.render("manifest.xml.j2", activity=site.activity, names=names)
        return [], [WriteFile(path, text.encode(), f"{summary} in this source set")]
    before = project.read(path)
    after = _edited(project, path, site.activity, f"@style/{names.launch}")
    return [EditFile(path, before, after, summary)] if after != before else [], []


def _edited(project: Project, path: str, activity: str, theme: str) -> bytes:
    manifest = read_manifest(project, path)
    document, prefix = manifest.document, manifest.prefix
    if manifest.application is None:
        at = Place(path, document.root.line)
        raise BadInput("the manifest of the source set has no <application>", place=at, hint="Add an empty one.")
    node = next((node for node in manifest.application.all("activity") if attribute(node, "name") == activity), None)
    splices: list[Splice] = []
    if f'"{_TOOLS}"'.encode() not in document.data:
        splices.append(document.set_attribute(document.root, "xmlns:tools", _TOOLS))
    if node is None:
        line = f'<activity {prefix}:name="{activity}" {prefix}:theme="{theme}" tools:replace="{prefix}:theme" />'
        splices.append(document.append_child(manifest.application, [line], document.indent_unit()))
        return spliced(document.data, splices)
    replaced = node.get("replace", _TOOLS)
    marked = bool(replaced and f"{prefix}:theme" in replaced)
    wanted = replaced if replaced and marked else ",".join(filter(None, (replaced, f"{prefix}:theme")))
    # Two new attributes meet at one spot: they keep the order in which they are given.
    splices.append(document.set_attribute(node, f"{prefix}:theme", theme))
    if replaced != wanted:
        splices.append(document.set_attribute(node, "tools:replace", wanted))
    return spliced(document.data, splices)
