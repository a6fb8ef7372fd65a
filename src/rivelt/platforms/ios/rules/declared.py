"""Rules on what an app target declares: the kind of its launch screen, its storyboard's content, its status bar."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from rivelt.edit.xml import Document, Node
from rivelt.platforms.ios.native.declared import (
    DARK_STYLE,
    DEFAULT_STYLE,
    DICTIONARY_KEY,
    HIDDEN_KEY,
    STORYBOARD_KEY,
    STYLE_KEY,
    Declared,
    declared,
)
from rivelt.platforms.ios.rules import BOOK
from rivelt.platforms.ios.rules.screen import first_screen
from rivelt.platforms.ios.site import IosSite
from rivelt.rules.rulebook import Said, Subject, broken, once, unknown

_DARK_GROUND = 0.18  # relative luminance: black and white text are equally readable on it (WCAG 2.2)


def _declared(subject: Subject[IosSite]) -> Sequence[Declared]:
    return declared(subject.project, subject.site.declarations, subject.site.project_file)


@BOOK.rule("IOS01")
def something_is_declared(subject: Subject[IosSite]) -> Iterator[Said]:
    """An app that declares nothing runs letterboxed."""
    for one in _declared(subject):
        if one.storyboard is None and one.dictionary is None:
            hint = f"Name a launch storyboard in {STORYBOARD_KEY}, or run `rivelt apply`."
            yield broken(
                f"configuration {one.configuration} declares no launch screen: the app runs letterboxed",
                hint,
                one.place,
            )


@BOOK.rule("IOS02")
def one_kind_is_declared(subject: Subject[IosSite]) -> Iterator[Said]:
    """Of two kinds only one is used."""
    for one in _declared(subject):
        if one.storyboard is not None and one.dictionary is not None:
            message = f"configuration {one.configuration} declares both {STORYBOARD_KEY} ({one.storyboard}) and {DICTIONARY_KEY}"
            yield broken(message, "Remove one of them; `rivelt apply` leaves one.", one.place)


@BOOK.rule("IOS03")
def storyboard_is_in_the_target(subject: Subject[IosSite]) -> Iterator[Said]:
    """A storyboard that is named must be copied into the app."""
    site = subject.site
    files = {path.rpartition("/")[2] for path in site.members}
    for one in _declared(subject):
        if one.storyboard is not None:
            stem = one.storyboard.removesuffix(".storyboard")
            if not one.storyboard_files & files:
                hint = "Tick the target in Xcode's file inspector, or name another storyboard."
                yield broken(f"{stem}.storyboard is named, but is not in target {site.target_name}", hint, one.place)


def _storyboard(subject: Subject[IosSite]) -> Document | None:
    path = subject.site.storyboard
    return subject.project.xml(path) if path and path in subject.project else None


@BOOK.rule("IOS04")
def no_text(subject: Subject[IosSite]) -> Iterator[Said]:
    """A launch storyboard's text is not localised."""
    document = _storyboard(subject)
    for node in document.root.walk() if document else ():
        if document and node.local in {"label", "textView", "textField", "button"} and _text(node):
            hint = "Take the text away, or show it as an image; text that does not change is part of the mark."
            yield broken(
                f"the launch storyboard shows the text {_text(node)!r}: it is never translated",
                hint,
                document.place(node),
            )


def _text(node: Node) -> str:
    state = node.first("state")
    return (node.get("text") or (state.get("title") if state else None) or "").strip()


@BOOK.rule("IOS05")
def no_code(subject: Subject[IosSite]) -> Iterator[Said]:
    """No code runs while a launch storyboard is shown."""
    document = _storyboard(subject)
    for node in document.root.walk() if document else ():
        assert document is not None
        kind = node.get("customClass")
        if kind and node.local != "placeholder":  # every nib has a First Responder, of the class UIResponder
            yield broken(
                f"a launch storyboard cannot use the class {kind}", "Use plain UIKit views.", document.place(node)
            )
        if node.local in {"outlet", "action", "outletCollection"}:
            yield broken(
                f"a launch storyboard cannot have an {node.local}", "Remove the connection.", document.place(node)
            )
        if node.local == "userDefinedRuntimeAttribute":
            message = f"a launch storyboard cannot set {node.get('keyPath') or 'runtime attributes'}"
            yield broken(message, "Remove the attribute; draw it as an image.", document.place(node))


@BOOK.rule("IOS13")
def status_bar_is_readable(subject: Subject[IosSite]) -> Iterator[Said]:
    """The status bar's text on the ground of each look."""
    yield from once(_unreadable(subject))


def _unreadable(subject: Subject[IosSite]) -> Iterator[Said]:
    for one in _declared(subject):
        style = one.values.get(STYLE_KEY)
        if one.values.get(HIDDEN_KEY) is True or style is None or style == DEFAULT_STYLE:
            continue
        for shown in first_screen(subject):
            look, ground = shown.look, shown.ground
            if ground is None:
                yield unknown(f"the ground of the {look} look is unknown", look=look)
            elif (ground.luminance < _DARK_GROUND) == (style == DARK_STYLE):
                message = f"{style} on {ground.hex} ({look}): the status bar cannot be read"
                yield broken(message, f"Use {DEFAULT_STYLE}, which follows the look, or hide the bar.", one.place)
