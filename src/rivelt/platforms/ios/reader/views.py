"""The views of a storyboard or nib as a tree: which of them a screen has, and what is known of their classes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from enum import Enum, auto

from msgspec import Struct, field

from rivelt.edit.xml import Document, Node
from rivelt.platforms.ios.reader.traits import Traits

_MOST_VIEWS = 400
_PLAIN = frozenset({"view", "imageView", "label", "stackView", "scrollView", "containerView", "visualEffectView"})
_CONTROLLERS = frozenset({"viewController", "tableViewController", "collectionViewController", "glkViewController"})
INDICATOR = "activityIndicatorView"


class Bar(Enum):
    """The bar that a container controller lays over its content."""

    TOP = auto()
    BOTTOM = auto()


class View(Struct, eq=False):
    """A view: its element, and the views in it from the back to the front.

    `id`: unique in the document. `unread`: why what it shows is unknown; its frame may still be known. `is_hidden`: it and all in it is
    not shown. `opacity`: 0 to 1.
    """

    node: Node
    id: str
    parent: View | None = None
    children: list[View] = field(default_factory=list)
    unread: str | None = None
    is_hidden: bool = False
    opacity: float = 1.0

    @property
    def kind(self) -> str:
        """The element's name, such as "imageView"."""
        return self.node.local

    def walk(self) -> Iterator[View]:
        """Yield the view and everything in it, from the back to the front."""
        yield self
        for child in self.children:
            yield from child.walk()

    def is_below(self, other: View) -> bool:
        """Return whether it is somewhere in `other`."""
        parent = self.parent
        while parent is not None and parent is not other:
            parent = parent.parent
        return parent is other


class Tree(Struct, frozen=True):
    """What a storyboard shows first: the root view, the bars over it, and the controller's element (None in a nib)."""

    root: View
    bars: tuple[Bar, ...] = ()
    controller: Node | None = None


def read_tree(document: Document, traits: Traits) -> Tree | str:
    """Return the views that a storyboard or nib shows first, or why they are unknown."""
    found = _first(document)
    if isinstance(found, str):
        return found
    root, bars, controller = found
    views = _Views(document, traits)
    tree = Tree(views.read(root, None), bars, controller)
    return f"it has more than {_MOST_VIEWS} views" if views.count > _MOST_VIEWS else tree


def _first(document: Document) -> tuple[Node, tuple[Bar, ...], Node | None] | str:
    """The root view's element, the bars over it, and its controller."""
    by_id = {node.get("id"): node for node in document.root.walk() if node.get("id")}
    if not any(node.local == "scene" for node in document.root.walk()):
        view = next((node for node in document.root.walk() if node.local == "view"), None)
        return (view, (), None) if view is not None else "it has no view"
    start = document.root.get("initialViewController")
    controllers = [node for node in document.root.walk() if node.local in _CONTROLLERS]
    controller = by_id.get(start) if start else controllers[0] if len(controllers) == 1 else None
    if controller is None:
        return "no view controller is the initial one" if controllers or start else "it has no view"
    bars: list[Bar] = []
    seen: set[int] = set()
    while controller is not None and controller.local in {"navigationController", "tabBarController"}:
        if controller.start in seen:
            return "its view controllers contain each other"
        seen.add(controller.start)
        is_top = controller.local == "navigationController"
        bars += [Bar.TOP if is_top else Bar.BOTTOM] if not _hides_bar(controller) else []
        segue = next((node for node in controller.walk() if _leads_to_content(node)), None)
        controller = by_id.get(segue.get("destination")) if segue is not None else None
    if controller is None or controller.local not in _CONTROLLERS:
        return f"its initial view controller is a {controller.local}" if controller is not None else "it has no view"
    view = next((child for child in controller.children if child.get("key") == "view"), None)
    return (view, tuple(bars), controller) if view is not None else "it has no view"


def _hides_bar(controller: Node) -> bool:
    return controller.get("navigationBarHidden") == "YES"


def _leads_to_content(node: Node) -> bool:
    return node.local == "segue" and node.get("relationship") in {"rootViewController", "viewControllers"}


class _Views:
    """The reading of one tree."""

    def __init__(self, document: Document, traits: Traits) -> None:
        self._traits = traits
        self._by_id: Mapping[str | None, Node] = {node.get("id"): node for node in document.root.walk()}
        self._embedded: set[int] = set()
        self.count = 0

    def read(self, node: Node, parent: View | None) -> View:
        """Return the view of an element, with those in it that are installed."""
        self.count += 1
        view = View(node, node.get("id") or f"@{node.start}", parent)
        view.is_hidden = self._traits.attribute(node, "hidden") == "YES"
        view.opacity = _share(node.get("alpha"))
        view.unread = self._unread(node)
        left_out = self._traits.excluded(node, "subviews")
        for child in self._inside(node, view):
            if child.get("id") not in left_out and self.count <= _MOST_VIEWS:
                view.children.append(self.read(child, view))
        return view

    def _unread(self, node: Node) -> str | None:
        if (kind := node.get("customClass")) is not None:
            return f"a view of the app's own class {kind}: launch screens run no code"
        if node.local == "visualEffectView" and any(child.local.endswith("Effect") for child in node.children):
            return "an effect over what is behind it"
        return None if node.local in _PLAIN else f"a {node.local}, which is not drawn"

    def _inside(self, node: Node, view: View) -> Iterator[Node]:
        if node.local not in _PLAIN:
            return
        if node.local == "containerView":
            yield from self._embedded_view(node, view)
        for holder in node.children:
            if holder.local == "subviews":
                yield from holder.children
            elif node.local == "visualEffectView" and holder.get("key") == "contentView":
                yield holder

    def _embedded_view(self, node: Node, view: View) -> Iterator[Node]:
        segue = next((found for found in node.walk() if found.get("kind") == "embed"), None)
        controller = self._by_id.get(segue.get("destination")) if segue is not None else None
        content = (
            next((child for child in controller.children if child.get("key") == "view"), None) if controller else None
        )
        if content is None or content.start in self._embedded:
            view.unread = "a container view whose content is not in this file"
            return
        self._embedded.add(content.start)
        yield content


def _share(text: str | None) -> float:
    """An `alpha`; what is not a number is opaque, as the attribute's default is."""
    try:
        return min(max(float(text or 1), 0.0), 1.0)
    except ValueError:
        return 1.0
