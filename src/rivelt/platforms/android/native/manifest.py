"""AndroidManifest.xml: the launcher activity and the theme it starts with."""

from __future__ import annotations

from dataclasses import dataclass, replace

from rivelt.edit.xml import Document, Node
from rivelt.errors import Place
from rivelt.project.project import Project, remembered
from rivelt.project.snapshot import join, parent

ANDROID = "http://schemas.android.com/apk/res/android"
MAIN = "android.intent.action.MAIN"
LAUNCHER = "android.intent.category.LAUNCHER"


@dataclass(frozen=True)
class Manifest:
    """A manifest. `launchers`: the activities that the launcher starts (an alias is followed to its activity), usually one."""

    document: Document
    application: Node | None
    launchers: tuple[Node, ...]

    @property
    def launcher(self) -> Node | None:
        """The first activity that the launcher starts."""
        return next(iter(self.launchers), None)

    def only(self, activity: str) -> Manifest:
        """The manifest as if the launcher started one activity alone, named as in the file or with its full name."""
        names = {activity, activity.removeprefix(self.package) if self.package else activity}
        return replace(self, launchers=tuple(node for node in self.launchers if attribute(node, "name") in names))

    @property
    def package(self) -> str:
        """The package that names with a leading dot belong to, if the file says it; "" when a build decides it."""
        package = self.document.root.get("package") or ""
        return "" if "$" in package else package

    @property
    def min_sdk(self) -> int | None:
        """The lowest API level, where the manifest itself says it."""
        uses = self.document.root.first("uses-sdk")
        level = attribute(uses, "minSdkVersion") or ""
        return int(level) if level.isdigit() else None

    @property
    def normal_theme(self) -> str | None:
        """The theme that a framework's engine activity switches to by itself, named in a `<meta-data>` of the launcher activity."""
        for node in self.launcher.all("meta-data") if self.launcher else ():
            resource = attribute(node, "resource") or ""
            if resource.startswith("@style/"):
                return resource
        return None

    @property
    def place_of_launcher(self) -> Place | None:
        """Where the launcher activity begins."""
        return self.document.place(self.launcher) if self.launcher else None

    @property
    def activity_name(self) -> str:
        """The launcher activity's class as the manifest writes it."""
        return attribute(self.launcher, "name") or ""

    @property
    def theme(self) -> str | None:
        """The theme the launcher activity starts with: its own, else the application's."""
        return attribute(self.launcher, "theme") or attribute(self.application, "theme")

    @property
    def prefix(self) -> str:
        """The prefix that this file gives Android's attributes."""
        for found in self.document.data.split(ANDROID.encode())[:-1]:
            name = found.rpartition(b"xmlns:")[2].partition(b"=")[0].strip()
            if name:
                return name.decode()
        return "android"


def launcher_theme(project: Project, manifest: Manifest, res: str) -> str | None:
    """Return the theme that the launcher activity starts with, where a source set's own manifest may override the main one.

    Args:
        project: the project.
        manifest: the main manifest.
        res: the resources' folder of the source set, beside which its manifest lies.

    Raises:
        BadInput: that manifest is not well-formed XML.
    """
    path = join(parent(res), "AndroidManifest.xml")
    if path == manifest.document.path or path not in project:
        return manifest.theme
    application = read_manifest(project, path).application
    activities = application.all("activity") if application else []
    name = manifest.activity_name
    found = next((attribute(node, "theme") for node in activities if attribute(node, "name") == name), None)
    return found or manifest.theme


def attribute(node: Node | None, name: str) -> str | None:
    """The value of an `android:` attribute, or None."""
    return node.get(name, ANDROID) if node is not None else None


@remembered
def read_manifest(project: Project, path: str) -> Manifest:
    """Return a manifest.

    Raises:
        BadInput: it is not well-formed XML.
    """
    document = project.xml(path)
    application = document.root.first("application")
    return Manifest(document, application, tuple(_launchers(application)) if application else ())


def _launchers(application: Node) -> list[Node]:
    """The activities that the launcher starts, each once: those that are switched on, or all when none is."""
    entrances = [
        node
        for node in application.children
        if node.local in {"activity", "activity-alias"} and any(map(_starts_app, node.all("intent-filter")))
    ]
    entrances = [node for node in entrances if attribute(node, "enabled") != "false"] or entrances
    by_name = {attribute(node, "name"): node for node in application.all("activity")}
    found = [node if node.local == "activity" else by_name.get(attribute(node, "targetActivity")) for node in entrances]
    return list(dict.fromkeys(node for node in found if node is not None))


def _starts_app(intent_filter: Node) -> bool:
    actions = {attribute(node, "name") for node in intent_filter.all("action")}
    categories = {attribute(node, "name") for node in intent_filter.all("category")}
    return MAIN in actions and LAUNCHER in categories
