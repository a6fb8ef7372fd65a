"""The app's own first screen: where its ground is written, in Swift, Objective-C or the main storyboard.

Only what is plain is read: the root view of a cross-platform framework, the first `Color` of a SwiftUI app, the view of the first view
controller, the window. Everything else is unknown, and says why.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping
from typing import Literal, TypeAlias

from msgspec import Struct

from rivelt.edit.source.apple import AppleClass, Assigned
from rivelt.edit.source.language import walk
from rivelt.edit.xml import Node
from rivelt.errors import Place, RiveltError
from rivelt.platforms.ios.native.declared import Declared
from rivelt.project.project import Project

Syntax: TypeAlias = Literal["uikit", "objective-c", "swiftui", "storyboard"]
_ENDINGS = (".swift", ".m", ".mm")
_PROPERTY = "backgroundColor"
_VIEWS = frozenset({"view", "self.view", "tableView", "self.tableView", "collectionView", "self.collectionView"})
_WINDOWS = frozenset({"window", "self.window"})
_ROOT_VIEWS = frozenset({"rootView", "self.rootView"})
_DEEPEST = 6
_NO_GROUND = "nothing that Rivelt reads sets its ground"


class Written(Struct, frozen=True):
    """Where a ground is written: the file, the bytes and the text of the expression (or `<color>`), and its language."""

    path: str
    start: int
    end: int
    text: str
    syntax: Syntax
    place: Place
    node: Node | None = None


class FirstScreen(Struct, frozen=True):
    """What the app shows first: what it is, and where its ground is written, for the system's newest versions; or why that is unknown."""

    moment: str
    written: Written | None = None
    reason: str = ""


def first_screen(project: Project, members: Collection[str], sources: Collection[str], found: Declared) -> FirstScreen:
    """Return the first screen of a target.

    Args:
        project: the project.
        members: the target's resources.
        sources: the files that it compiles.
        found: what a configuration declares.
    """
    code = _Code(project, sources)
    root = [one for one in code.assigned(_PROPERTY) if one[1].receiver in _ROOT_VIEWS]
    if root:
        return code.chosen("root view", root)
    for path in code.files("main"):
        if (name := code.main_scene(path)) is not None:
            return code.of_swiftui(path, name)
    storyboard = _main_storyboard(found)
    if storyboard is not None:
        return _of_storyboard(project, members, storyboard, code)
    return code.of_window()


def in_code(project: Project, path: str, moment: str) -> FirstScreen:
    """Return a view of SwiftUI that a file declares: its ground is the first `Color` in it."""
    from rivelt.edit.source.swift import Language

    source = project.apple_source(path)
    assert isinstance(source, Language)
    colour = next(
        (node for name, node in source.views(source.root) if name == "Color" and source.is_ground(node)), None
    )
    if colour is None:
        return FirstScreen(moment, reason=f"{path} shows no Color that could be its ground")
    text, place = source.text(colour), Place.at(path, source.data, colour.start_byte)
    return FirstScreen(moment, Written(path, colour.start_byte, colour.end_byte, text, "swiftui", place))


def _main_storyboard(found: Declared) -> str | None:
    name = found.values.get("UIMainStoryboardFile")
    if not isinstance(name, str) or not name:
        name = next(_named_by_scenes(found.values.get("UIApplicationSceneManifest")), None)
    return name.removesuffix(".storyboard") if isinstance(name, str) and name else None


def _named_by_scenes(value: object) -> Iterator[str]:
    """The storyboards that a scene manifest names."""
    if isinstance(value, dict):
        for key, inner in value.items():
            if key == "UISceneStoryboardFile" and isinstance(inner, str):
                yield inner
            else:
                yield from _named_by_scenes(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _named_by_scenes(inner)


def _of_storyboard(project: Project, members: Collection[str], name: str, code: _Code) -> FirstScreen:
    path = next(
        (one for one in sorted(members) if one.rpartition("/")[2] == f"{name}.storyboard" and one in project), None
    )
    if path is None:
        return FirstScreen("first screen", reason=f"{name}.storyboard is not in the target")
    try:
        document = project.xml(path)
    except RiveltError as error:
        return FirstScreen("first screen", reason=str(error))
    controller = _initial(document.root)
    if controller is None:
        return FirstScreen("first screen", reason=f"{name}.storyboard has no initial view controller")
    kind = controller.get("customClass")
    if kind is not None:
        by_code = code.of_controller(kind)
        if by_code is not None:
            return by_code
    view = next((child for child in controller.children if child.get("key") in {"view", "tableView"}), None)
    colour = next((one for one in view.all("color") if one.get("key") == _PROPERTY), None) if view is not None else None
    if colour is None:
        return FirstScreen("first screen", reason=f"the first view of {name}.storyboard has no background colour")
    text = document.data[colour.start : colour.end].decode("utf-8", "replace")
    place = document.place(colour)
    return FirstScreen("first screen", Written(path, colour.start, colour.end, text, "storyboard", place, colour))


def _initial(root: Node) -> Node | None:
    """The view controller that a storyboard begins with; of a navigation or tab bar controller its first content."""
    by_id = {node.get("id"): node for node in root.walk() if node.get("id")}
    found = by_id.get(root.get("initialViewController") or "")
    for _ in range(_DEEPEST):
        if found is None or not found.local.endswith(("navigationController", "tabBarController")):
            return found
        segue = next((node for node in found.walk() if node.local == "segue" and node.get("relationship")), None)
        found = by_id.get(segue.get("destination")) if segue is not None else None
    return None


class _Code:
    """The sources of a target; those that cannot be read are left out."""

    def __init__(self, project: Project, sources: Collection[str]) -> None:
        self._project = project
        self._sources = frozenset(sources)

    def files(self, word: str) -> list[str]:
        """Return the sources that hold a word."""
        return sorted(one for one in self._project.naming(word) if one in self._sources and one.endswith(_ENDINGS))

    def assigned(self, name: str) -> list[tuple[str, Assigned]]:
        """Return what is assigned to properties of a name, each with its file."""
        found: list[tuple[str, Assigned]] = []
        setter = f"set{name[:1].upper()}{name[1:]}"
        for path in sorted({*self.files(name), *self.files(setter)}):
            try:
                found += [(path, one) for one in self._project.apple_source(path).assigned(name)]
            except RiveltError:
                continue
        return found

    def chosen(self, moment: str, found: list[tuple[str, Assigned]]) -> FirstScreen:
        """Return of several assignments the one that the newest systems run; unknown where several are left."""
        current = [one for one in found if one[1].until is None]
        newest = max((one.since for _, one in current), default=0)
        last = [one for one in current if one[1].since == newest]
        if len({one.value for _, one in last}) != 1:
            paths = ", ".join(sorted({path for path, _ in found}))
            return FirstScreen(moment, reason=f"its ground is set in several ways in {paths}")
        path, one = last[-1]
        syntax: Syntax = "uikit" if path.endswith(".swift") else "objective-c"
        return FirstScreen(moment, self._written(path, one.start, one.end, one.value, syntax))

    def _written(self, path: str, start: int, end: int, text: str, syntax: Syntax) -> Written:
        data = self._project.read(path)
        return Written(path, start, end, text, syntax, Place.at(path, data, start))

    # SwiftUI

    def main_scene(self, path: str) -> str | None:
        """Return the `@main` app of SwiftUI that a file declares."""
        from rivelt.edit.source.swift import Language

        try:
            source = self._project.apple_source(path)
        except RiveltError:
            return None
        return source.main_scene() if isinstance(source, Language) else None

    def of_swiftui(self, path: str, name: str) -> FirstScreen:
        """Return the first `Color` in the body of an app's first view, or of the views it begins with."""
        from rivelt.edit.source.swift import Language

        moment = "first screen"
        for _ in range(_DEEPEST):
            source = self._project.apple_source(path)
            assert isinstance(source, Language)
            body = source.body(name)
            views = source.views(body) if body is not None else []
            colour = next((node for found, node in views if found == "Color" and source.is_ground(node)), None)
            if colour is not None:
                text = source.text(colour)
                return FirstScreen(moment, self._written(path, colour.start_byte, colour.end_byte, text, "swiftui"))
            inner = next((found for found, _ in views if self._declaring(found) is not None and found != name), None)
            if inner is None:
                break
            path, name = self._declaring(inner) or path, inner
        return FirstScreen(moment, reason=f"the view {name} shows no Color that could be its ground")

    def _declaring(self, name: str) -> str | None:
        """The source that declares a class or struct."""
        for path in self.files(name):
            try:
                if name in self._project.apple_source(path).classes:
                    return path
            except RiveltError:
                continue
        return None

    # UIKit in code

    def of_controller(self, name: str) -> FirstScreen | None:
        """Return the ground that the class of a view controller gives its view; None where it gives none. A class from elsewhere is unknown."""
        for _ in range(_DEEPEST):
            path = self._declaring(name)
            if path is None:
                return FirstScreen("first screen", reason=f"its class {name} is not among the app's sources")
            own = [one for one in self.assigned(_PROPERTY) if one[1].class_name == name and one[1].receiver in _VIEWS]
            if own:
                return self.chosen("first screen", own)
            above = self._superclass(path, name)
            if above is None or re.fullmatch(r"UI\w*ViewController|UIViewController", above):
                return None
            name = above
        return None

    def _superclass(self, path: str, name: str) -> str | None:
        found: Mapping[str, AppleClass] = self._project.apple_source(path).classes
        above = found[name].inherits
        return above[0] if above else None

    def of_window(self) -> FirstScreen:
        """Return the view controller that code makes the window's first, else the window itself."""
        roots = self.assigned("rootViewController")
        for path, one in roots:
            names = self._classes_in(path, one)
            for name in reversed(names):
                if self._declaring(name) is not None:
                    found = self.of_controller(name)
                    if found is not None:
                        return found
        windows = [one for one in self.assigned(_PROPERTY) if one[1].receiver in _WINDOWS]
        return self.chosen("window", windows) if windows else FirstScreen("first screen", reason=_NO_GROUND)

    def _classes_in(self, path: str, one: Assigned) -> list[str]:
        """The classes that an expression makes objects of, in its order."""
        source = self._project.apple_source(path)
        names = []
        for node in walk(source.root):
            is_inside = one.start <= node.start_byte and node.end_byte <= one.end
            is_call = node.type == "call_expression" and node.named_children[0].type == "simple_identifier"
            is_made = node.type == "message_expression" and source.text(node).endswith((" alloc]", " new]"))
            if is_inside and (is_call or is_made):
                names.append(source.text(node.named_children[0]))
        return names
