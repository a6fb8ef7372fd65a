"""Android manifests: one file, and what a build merges several into: which activity starts the app, and its theme.

https://developer.android.com/build/manage-manifests
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct, field

from rivelt.edit.xml import Document, Node
from rivelt.errors import Place
from rivelt.platforms.android.facts import android_facts
from rivelt.project.project import Project, remembered
from rivelt.values import replace

ANDROID = "http://schemas.android.com/apk/res/android"
TOOLS = "http://schemas.android.com/tools"
MAIN = "android.intent.action.MAIN"
LAUNCHER = "android.intent.category.LAUNCHER"
LEANBACK = "android.intent.category.LEANBACK_LAUNCHER"
_COMPONENTS = frozenset({"activity", "activity-alias"})


def attribute(node: Node | None, name: str) -> str | None:
    """Return the value of an `android:` attribute, or None."""
    return node.get(name, ANDROID) if node is not None else None


def prefix_of(document: Document) -> str:
    """Return the prefix that a file gives Android's attributes."""
    return document.prefix_of(ANDROID) or "android"


def full_name(name: str, package: str) -> str:
    """Return the full name of a class: one that begins with a dot, or has none, belongs to the package."""
    if not package or "$" in name:
        return name
    return package + name if name.startswith(".") else name if "." in name else f"{package}.{name}"


class Written(Struct, frozen=True):
    """An element as one file writes it."""

    document: Document
    node: Node

    @property
    def place(self) -> Place:
        """Where it begins."""
        return self.document.place(self.node)


class Component(Struct, frozen=True):
    """An element of the merged manifest: `name` is the full class name; `written` how each file has it, the highest priority first."""

    name: str
    written: tuple[Written, ...]

    @property
    def local(self) -> str:
        """The element's name: "activity", "activity-alias" or "application"."""
        return self.written[0].node.local

    @property
    def written_name(self) -> str:
        """Its class as the file of the lowest priority writes it."""
        return attribute(self.written[-1].node, "name") or ""

    @property
    def place(self) -> Place:
        """Where the file of the lowest priority has it."""
        return self.written[-1].place

    def value(self, name: str) -> str | None:
        """Return the value of an `android:` attribute as merged."""
        for one in self.written:
            found = attribute(one.node, name)
            if found is not None:
                return found
            if name in _names(one.node, "remove"):
                return None
        return None

    def children(self, local: str) -> Iterator[Node]:
        """Yield the children of one kind, of all files, but for those that a file of higher priority takes out."""
        taken: set[object] = set()
        for one in self.written:
            here = list(one.node.all(local))
            for node in here:
                if not _operation(node).startswith("remove") and _key(node) not in taken:
                    yield node
            if any(_operation(node) == "removeAll" for node in here):
                return
            taken |= {_key(node) for node in here if attribute(node, "name") or _operation(node) == "remove"}

    def in_file(self, path: str) -> Written | None:
        """Return how one file has it, or None."""
        return next((one for one in self.written if one.document.path == path), None)


def _key(node: Node) -> object:
    """What an element is known by in several files: its name; of a filter, the actions and categories that it names."""
    if node.local != "intent-filter":
        return attribute(node, "name")
    return tuple(frozenset(attribute(one, "name") for one in node.all(kind)) for kind in ("action", "category"))


def _operation(node: Node) -> str:
    return node.get("node", TOOLS) or "merge"


def _names(node: Node, marker: str) -> set[str]:
    """The attributes that a `tools:` marker names, without prefix."""
    return {name.strip().partition(":")[2] for name in (node.get(marker, TOOLS) or "").split(",")}


class Manifest(Struct, frozen=True):
    """The manifest that a build merges for a variant.

    `documents`: its files, the highest priority first, the main one last. `package`: what names with a leading dot belong to, "" when that
    is unknown. `launchers`: the activities that the launcher starts (an alias is followed to its activity), usually one.
    `aliases`: by the activity's name, the alias that starts it in its place.
    """

    documents: tuple[Document, ...]
    package: str
    application: Component | None
    activities: tuple[Component, ...]
    launchers: tuple[Component, ...]
    aliases: Mapping[str, Component] = field(default_factory=dict)

    @property
    def document(self) -> Document:
        """The main file."""
        return self.documents[-1]

    @property
    def launcher(self) -> Component | None:
        """The first activity that the launcher starts."""
        return next(iter(self.launchers), None)

    def only(self, activity: str) -> Manifest:
        """Return the manifest as if the launcher started one activity alone, named as in a file or with its full name."""
        wanted = full_name(activity, self.package)
        return replace(
            self,
            launchers=tuple(
                one for one in self.launchers if wanted == one.name or activity in {one.written_name, one.name}
            ),
        )

    @property
    def min_sdk(self) -> int | None:
        """The lowest API level, where a manifest itself says it."""
        for document in self.documents:
            level = attribute(document.root.first("uses-sdk"), "minSdkVersion") or ""
            if level.isdigit():
                return int(level)
        return None

    @property
    def normal_theme(self) -> str | None:
        """The theme that a framework's engine activity switches to by itself, named in a `<meta-data>` of the launcher activity."""
        for node in self.launcher.children("meta-data") if self.launcher else ():
            resource = attribute(node, "resource") or ""
            if resource.startswith("@style/"):
                return resource
        return None

    @property
    def is_on_televisions(self) -> bool:
        """Whether the launcher of televisions starts one of its activities."""
        return any(_starts_app(it, LEANBACK) for one in self.activities for it in one.children("intent-filter"))

    @property
    def place_of_launcher(self) -> Place | None:
        """Where the launcher activity begins."""
        return self.launcher.place if self.launcher else None

    @property
    def activity_name(self) -> str:
        """The launcher activity's class as a file writes it."""
        return self.launcher.written_name if self.launcher else ""

    @property
    def theme(self) -> str | None:
        """The theme the launcher activity starts with: its own, else the application's."""
        own = self.launcher.value("theme") if self.launcher else None
        return own or (self.application.value("theme") if self.application else None)

    @property
    def icon(self) -> str | None:
        """The icon that the launcher shows: the alias's, else the activity's, else the app's."""
        launcher = self.launcher
        alias = self.aliases.get(launcher.name) if launcher is not None else None
        found = (one.value("icon") for one in (alias, launcher, self.application) if one is not None)
        return next((icon for icon in found if icon is not None), None)

    @property
    def device(self) -> str:
        """The kind of device that it is made for alone ("watch", "television", "car"); "" for phones and tablets."""
        features = [node for document in self.documents for node in document.root.all("uses-feature")]
        asked = {attribute(node, "name") for node in features if attribute(node, "required") != "false"}
        kinds = android_facts().devices.items()
        return next((kind for kind, facts in kinds if facts.feature in asked), "")


@remembered
def merged_manifest(project: Project, paths: tuple[str, ...], namespace: str | None) -> Manifest:
    """Return the manifest that some files are merged into.

    Args:
        project: the project.
        paths: the files, the highest priority first, the main one last; those that are not there are left out.
        namespace: the package of the generated `R` class as the build says it; None when it does not.

    Raises:
        BadInput: a file is not well-formed XML.
    """
    documents = tuple(project.xml(path) for path in paths if path in project) or (project.xml(paths[-1]),)
    written = documents[-1].root.get("package") or ""
    package = namespace or ("" if "$" in written else written)
    applications = [
        Written(document, node) for document in documents if (node := document.root.first("application")) is not None
    ]
    if not applications:
        return Manifest(documents, package, None, (), ())
    components = _merged(applications, package)
    activities = tuple(one for one in components if one.local == "activity")
    entrances = list(_launchers(components, activities, package))
    launchers = tuple(target for _, target in entrances)
    aliases = {target.name: entrance for entrance, target in entrances if entrance is not target}
    return Manifest(documents, package, Component("", _kept(applications)), activities, launchers, aliases)


def _merged(applications: Sequence[Written], package: str) -> list[Component]:
    """The activities and aliases of several `<application>` elements, one for each class, in the order of the lowest one that has it."""
    found: dict[tuple[str, str], list[Written]] = {}
    for application in applications:
        for node in application.node.children:
            if node.local in _COMPONENTS:
                name = full_name(attribute(node, "name") or "", package)
                found.setdefault((node.local, name), []).append(Written(application.document, node))
    order = {id(node): index for index, node in enumerate(applications[-1].node.children)}
    kept = [Component(name, its) for (_, name), all_of in found.items() if (its := _kept(all_of))]
    return sorted(kept, key=lambda one: order.get(id(one.written[-1].node), len(order)))


def _kept(written: Sequence[Written]) -> tuple[Written, ...]:
    """Return what is left of an element: nothing below a file that replaces it, nothing at all where one removes it.

    What the platform's merger does when more than two files have it: the highest file that has a `tools:node` decides.
    """
    decides = next((index for index, one in enumerate(written) if one.node.get("node", TOOLS)), None)
    operation = _operation(written[decides].node) if decides is not None else "merge"
    if operation.startswith("remove"):
        return ()
    return tuple(written[: decides + 1] if decides is not None and operation == "replace" else written)


def _launchers(
    components: Sequence[Component], activities: Sequence[Component], package: str
) -> Iterator[tuple[Component, Component]]:
    """What the launcher shows and the activity that it starts, each of these once: those switched on, or all when none is."""
    entrances = [one for one in components if any(_starts_app(it, LAUNCHER) for it in one.children("intent-filter"))]
    if not entrances:  # an app for televisions alone
        entrances = [
            one for one in components if any(_starts_app(it, LEANBACK) for it in one.children("intent-filter"))
        ]
    entrances = [one for one in entrances if one.value("enabled") != "false"] or entrances
    by_name = {one.name: one for one in activities}
    seen: set[str] = set()
    for one in entrances:
        target = one if one.local == "activity" else by_name.get(full_name(one.value("targetActivity") or "", package))
        if target is not None and target.name not in seen:
            seen.add(target.name)
            yield one, target


def _starts_app(intent_filter: Node, category: str) -> bool:
    actions = {attribute(node, "name") for node in intent_filter.all("action")}
    categories = {attribute(node, "name") for node in intent_filter.all("category")}
    return MAIN in actions and category in categories
