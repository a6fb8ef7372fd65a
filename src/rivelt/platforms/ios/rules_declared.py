"""Rules on what an app target declares: the kind of its launch screen, its storyboard's content, its status bar."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from rivelt.edit.plist import Plist, Value
from rivelt.edit.xml import Document, Node, parse_xml
from rivelt.errors import Place
from rivelt.platforms.ios.facts import screens
from rivelt.platforms.ios.reader import scene
from rivelt.platforms.ios.site import IosSite
from rivelt.platforms.rules import Fault, Rulebook, Said, Subject, Untold, once
from rivelt.units import LOOKS

BOOK = Rulebook()
STORYBOARD, DICTIONARY = "UILaunchStoryboardName", "UILaunchScreen"
_SETTING = "INFOPLIST_KEY_"
_STYLE, _HIDDEN = "UIStatusBarStyle", "UIStatusBarHidden"
_DARK_GROUND = 0.18  # relative luminance: black and white text are equally readable on it (WCAG 2.2)


@dataclass(frozen=True)
class Declared:
    """What one configuration declares: the storyboard's name, the dictionary, the status bar, and where that stands."""

    configuration: str
    storyboard: str | None
    dictionary: Value
    values: Mapping[str, Value]
    place: Place


def declared(subject: Subject) -> Iterator[Declared]:
    """What each configuration of the target declares."""
    site = subject.site
    assert isinstance(site, IosSite)
    for found in site.declarations:
        values: dict[str, Value] = {}
        place = Place(site.project_file)
        if found.plist and found.plist in subject.snapshot:
            values |= Plist(subject.snapshot.read(found.plist), found.plist).values
            place = Place(found.plist)
        if found.is_generated:
            for key, value in {**dict(found.inherited), **dict(found.own)}.items():
                plain = key.partition("[")[0].removeprefix(_SETTING)
                if plain == f"{DICTIONARY}_Generation":
                    values |= {DICTIONARY: {}} if value == "YES" and DICTIONARY not in values else {}
                elif value:
                    values[plain] = {"YES": True, "NO": False}.get(value, value)
        name = values.get(STORYBOARD)
        yield Declared(
            found.name, name if isinstance(name, str) and name else None, values.get(DICTIONARY), values, place
        )


@BOOK.rule("IOS01")
def something_is_declared(subject: Subject) -> Iterator[Said]:
    """An app that declares nothing runs letterboxed."""
    for one in declared(subject):
        if one.storyboard is None and one.dictionary is None:
            hint = f"Name a launch storyboard in {STORYBOARD}, or run `rivelt apply`."
            yield Fault(
                f"configuration {one.configuration} declares no launch screen: the app runs letterboxed",
                hint,
                one.place,
            )


@BOOK.rule("IOS02")
def one_kind_is_declared(subject: Subject) -> Iterator[Said]:
    """Of two kinds only one is used."""
    for one in declared(subject):
        if one.storyboard is not None and one.dictionary is not None:
            message = (
                f"configuration {one.configuration} declares both {STORYBOARD} ({one.storyboard}) and {DICTIONARY}"
            )
            yield Fault(message, "Remove one of them; `rivelt apply` leaves one.", one.place)


@BOOK.rule("IOS03")
def storyboard_is_in_the_target(subject: Subject) -> Iterator[Said]:
    """A storyboard that is named must be copied into the app."""
    site = subject.site
    assert isinstance(site, IosSite)
    files = {path.rpartition("/")[2] for path in site.members}
    for one in declared(subject):
        if one.storyboard is not None:
            stem = one.storyboard.removesuffix(".storyboard")
            if not {f"{stem}.storyboard", f"{stem}.xib"} & files:
                hint = "Tick the target in Xcode's file inspector, or name another storyboard."
                yield Fault(f"{stem}.storyboard is named, but is not in target {site.target_name}", hint, one.place)


def _storyboard(subject: Subject) -> Document | None:
    assert isinstance(subject.site, IosSite)
    path = subject.site.storyboard
    return parse_xml(subject.snapshot.read(path), path) if path and path in subject.snapshot else None


@BOOK.rule("IOS04")
def no_text(subject: Subject) -> Iterator[Said]:
    """A launch storyboard's text is not localised."""
    document = _storyboard(subject)
    for node in document.root.walk() if document else ():
        if document and node.local in {"label", "textView", "textField", "button"} and _text(node):
            hint = "Take the text away, or show it as an image; text that does not change is part of the mark."
            yield Fault(
                f"the launch storyboard shows the text {_text(node)!r}: it is never translated",
                hint,
                document.place(node),
            )


def _text(node: Node) -> str:
    state = node.first("state")
    return (node.get("text") or (state.get("title") if state else None) or "").strip()


@BOOK.rule("IOS05")
def no_code(subject: Subject) -> Iterator[Said]:
    """No code runs while a launch storyboard is shown."""
    document = _storyboard(subject)
    for node in document.root.walk() if document else ():
        assert document is not None
        kind = node.get("customClass")
        if kind:
            yield Fault(
                f"a launch storyboard cannot use the class {kind}", "Use plain UIKit views.", document.place(node)
            )
        if node.local in {"outlet", "action", "outletCollection"}:
            yield Fault(
                f"a launch storyboard cannot have an {node.local}", "Remove the connection.", document.place(node)
            )
        if node.local == "userDefinedRuntimeAttribute":
            message = f"a launch storyboard cannot set {node.get('keyPath') or 'runtime attributes'}"
            yield Fault(message, "Remove the attribute; draw it as an image.", document.place(node))


@BOOK.rule("IOS13")
def status_bar_is_readable(subject: Subject) -> Iterator[Said]:
    """The status bar's text on the ground of each look."""
    yield from once(_unreadable(subject))


def _unreadable(subject: Subject) -> Iterator[Said]:
    for one in declared(subject):
        style = one.values.get(_STYLE)
        if one.values.get(_HIDDEN) is True or style is None or style == "UIStatusBarStyleDefault":
            continue
        for look in LOOKS:
            ground = scene(subject.snapshot, subject.site, screens()[0], look).ground
            if ground is None:
                yield Untold(f"the ground of the {look} look cannot be told")
            elif (ground.luminance < _DARK_GROUND) == (style == "UIStatusBarStyleDarkContent"):
                message = f"{style} on {ground.hex} ({look}): the status bar cannot be read"
                yield Fault(message, "Use UIStatusBarStyleDefault, which follows the look, or hide the bar.", one.place)
