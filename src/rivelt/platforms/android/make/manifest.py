"""The manifest, edited so that the launcher activity starts with the launch theme: the main one, or that of another source set."""

from __future__ import annotations

from rivelt.edit.splice import Splice, spliced
from rivelt.errors import BadInput, Place
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.android.names import Names, is_generated
from rivelt.platforms.android.native.effective import manifest_of
from rivelt.platforms.android.native.manifest import TOOLS, attribute, full_name, prefix_of
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.templating import Templates

_TEMPLATES = Templates("rivelt.platforms.android")


def main_manifest(project: Project, site: AndroidSite, names: Names) -> list[EditFile]:
    """Return the edit that lets the launcher activity start with the launch theme; one that changes nothing when it does.

    Raises:
        BadInput: the main manifest does not declare the activity.
    """
    manifest = manifest_of(project, site)
    launcher = manifest.launcher.in_file(site.manifest) if manifest.launcher is not None else None
    if launcher is None:
        at = manifest.place_of_launcher
        hint = "Give that source set an edition of its own: source_set under [edition.NAME.android]."
        raise BadInput(f"{site.activity} is not declared in {site.manifest}", place=at, hint=hint)
    document = launcher.document
    splice = document.set_attribute(launcher.node, f"{prefix_of(document)}:theme", f"@style/{names.launch}")
    after = spliced(document.data, [splice])
    summary = f"{site.activity} starts with @style/{names.launch}"
    return [EditFile(site.manifest, document.data, after, summary, is_shared=True)]


def source_set_manifest(project: Project, site: AndroidSite, names: Names) -> tuple[list[EditFile], list[WriteFile]]:
    """Return the manifest of a flavour or build type, which overrides the main one: edited when it is there, else made."""
    path = site.manifests[0]
    summary = f"{site.activity} starts with @style/{names.launch}"
    if path not in project or is_generated(project.read(path)):
        text = _TEMPLATES.render("manifest.xml.j2", activity=site.activity, names=names)
        return [], [WriteFile(path, text.encode(), f"{summary} in this source set")]
    before = project.read(path)
    after = _edited(project, site, path, f"@style/{names.launch}")
    return [EditFile(path, before, after, summary)], []


def _edited(project: Project, site: AndroidSite, path: str, theme: str) -> bytes:
    manifest = manifest_of(project, site)
    document = project.xml(path)
    prefix = prefix_of(document)
    application = document.root.first("application")
    if application is None:
        at = Place(path, document.root.line)
        raise BadInput("the manifest of the source set has no <application>", place=at, hint="Add an empty one.")
    # The same class may be written in another way here: the merged manifest has one entry for it.
    wanted = full_name(site.activity, manifest.package)
    named = (node for node in application.all("activity"))
    node = next((node for node in named if full_name(attribute(node, "name") or "", manifest.package) == wanted), None)
    splices: list[Splice] = []
    tools = document.prefix_of(TOOLS)
    if tools is None:
        tools = "tools"
        splices.append(document.set_attribute(document.root, f"xmlns:{tools}", TOOLS))
    if node is None:
        line = f'<activity {prefix}:name="{site.activity}" {prefix}:theme="{theme}" {tools}:replace="{prefix}:theme" />'
        splices.append(document.append_child(application, [line], document.indent_unit()))
        return spliced(document.data, splices)
    replaced = node.get("replace", TOOLS)
    marked = bool(replaced and f"{prefix}:theme" in replaced)
    wants = replaced if replaced and marked else ",".join(filter(None, (replaced, f"{prefix}:theme")))
    # Two new attributes meet at one spot: they keep the order in which they are given.
    splices.append(document.set_attribute(node, f"{prefix}:theme", theme))
    is_declared_below = any(
        one.document.path != path for one in (manifest.launcher.written if manifest.launcher else ())
    )
    if replaced != wants and is_declared_below:
        splices.append(document.set_attribute(node, f"{tools}:replace", wants))
    return spliced(document.data, splices)
