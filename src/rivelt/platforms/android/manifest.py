"""AndroidManifest.xml: the launcher activity and the theme it starts with."""

from __future__ import annotations

from dataclasses import dataclass

from rivelt.edit.xml import Document, Node, parse_xml

ANDROID = "http://schemas.android.com/apk/res/android"
MAIN = "android.intent.action.MAIN"
LAUNCHER = "android.intent.category.LAUNCHER"


@dataclass(frozen=True)
class Manifest:
    """A manifest, and the activity that the launcher starts (an alias is followed to its activity)."""

    document: Document
    application: Node | None
    launcher: Node | None

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

    def with_theme(self, theme: str) -> bytes:
        """The file with the theme of the launcher activity set; every other byte stays."""
        from rivelt.edit.splice import spliced

        assert self.launcher is not None
        splice = self.document.set_attribute(self.launcher, f"{self.prefix}:theme", theme)
        return spliced(self.document.data, [splice])


def attribute(node: Node | None, name: str) -> str | None:
    """The value of an `android:` attribute, or None."""
    return node.get(name, ANDROID) if node is not None else None


def read_manifest(data: bytes, path: str) -> Manifest:
    """Parse a manifest.

    Raises:
        BadInput: it is no well-formed XML.
    """
    document = parse_xml(data, path)
    application = document.root.first("application")
    return Manifest(document, application, _launcher(application) if application else None)


def _launcher(application: Node) -> Node | None:
    for node in application.children:
        if node.local not in {"activity", "activity-alias"} or not any(map(_starts_app, node.all("intent-filter"))):
            continue
        if node.local == "activity":
            return node
        wanted = attribute(node, "targetActivity")
        return next((other for other in application.all("activity") if attribute(other, "name") == wanted), None)
    return None


def _starts_app(intent_filter: Node) -> bool:
    actions = {attribute(node, "name") for node in intent_filter.all("action")}
    categories = {attribute(node, "name") for node in intent_filter.all("category")}
    return MAIN in actions and LAUNCHER in categories
