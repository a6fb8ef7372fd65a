"""Which kind of launch screen the app declares: keys of Info.plist, or build settings where Xcode makes the list from them.

https://developer.apple.com/documentation/xcode/specifying-your-apps-launch-screen
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from rivelt.brief.model import Brief
from rivelt.colour import Colour
from rivelt.edit.plist import Plist, Value
from rivelt.edit.xcode import XcodeProject
from rivelt.errors import BadInput, Place
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.ios.options import Options
from rivelt.platforms.ios.site import Declaration, IosSite, Names
from rivelt.project.snapshot import Snapshot, join
from rivelt.templating import Templates

STORYBOARD_KEY, DICTIONARY_KEY = "UILaunchStoryboardName", "UILaunchScreen"
SETTING = "INFOPLIST_KEY_"
_GENERATION = f"{SETTING}UILaunchScreen_Generation"
_LAUNCH_SETTING = re.compile(r"INFOPLIST_KEY_UILaunch(?:StoryboardName|Screen)\w*")
_STYLE_KEY, _HIDDEN_KEY = "UIStatusBarStyle", "UIStatusBarHidden"
_STYLES = {"light": "UIStatusBarStyleLightContent", "dark": "UIStatusBarStyleDarkContent"}
_DEFAULT_STYLE = "UIStatusBarStyleDefault"
_WHITE, _BLACK = Colour(255, 255, 255), Colour(0, 0, 0)
_TEMPLATES = Templates("rivelt.platforms.ios")

ProjectEdit = Callable[[XcodeProject], bytes]


@dataclass(frozen=True)
class Declared:
    """What declaring takes: edits of property lists, new files, changes of the project file, and what is said."""

    edits: tuple[EditFile, ...]
    files: tuple[WriteFile, ...]
    project: tuple[ProjectEdit, ...]
    notes: tuple[str, ...]


def declare(snapshot: Snapshot, site: IosSite, brief: Brief, options: Options, names: Names) -> Declared:
    """Declare one kind of launch screen in every configuration of the target, and take the other kind away."""
    bar, notes = _status_bar(snapshot, site, brief, options)
    edits: list[EditFile] = []
    files: list[WriteFile] = []
    project: list[ProjectEdit] = []
    own = join(site.folder, f"{names.prefix}Info.plist")
    for path in site.plists:
        if path == own:
            continue
        is_generated = all(found.is_generated for found in site.declarations if found.plist == path)
        before = snapshot.read(path)
        plist = Plist(before, path)
        changes = _plist_changes(options, names, bar, is_generated=is_generated, values=plist.values)
        after = plist.edited(changes, near="UI")
        if after != before:
            edits.append(EditFile(path, before, after, _summary(options, names)))
    for found in site.declarations:
        settings = _setting_changes(found, options, names, bar)
        if found.is_generated and found.plist in {None, own}:
            is_needed = options.screen == "plist"
            if is_needed:
                text = _TEMPLATES.render("info.xml.j2", colour=names.of("Ground"), image=names.of("Mark"))
                files = [WriteFile(own, text.encode(), "the launch screen's part of Info.plist")]
            settings["INFOPLIST_FILE"] = own.removeprefix(f"{site.folder}/") if is_needed else None
        project += [_setting(found.id, key, value) for key, value in settings.items()]
    return Declared(tuple(edits), tuple(files), tuple(project), notes)


def _summary(options: Options, names: Names) -> str:
    if options.screen == "plist":
        return f"{DICTIONARY_KEY} shows {names.of('Mark')}"
    return f"{STORYBOARD_KEY} is {names.of('Launch')}"


def _setting(configuration: str, key: str, value: str | None) -> ProjectEdit:
    return lambda project: project.with_setting(configuration, key, value)


def _plist_changes(
    options: Options, names: Names, bar: Mapping[str, Value], *, is_generated: bool, values: Mapping[str, Value]
) -> dict[str, Value]:
    """What becomes of the launch keys of an Info.plist; None takes a key away."""
    changes: dict[str, Value] = {key: None for key in values if _is_launch_key(key)}
    if options.screen == "plist":
        changes[DICTIONARY_KEY] = {"UIColorName": names.of("Ground"), "UIImageName": names.of("Mark")}
    elif not is_generated:
        changes[STORYBOARD_KEY] = names.of("Launch")
    return changes | (dict(bar) if not is_generated else {})


def _is_launch_key(key: str) -> bool:
    return key.partition("~")[0] in {STORYBOARD_KEY, DICTIONARY_KEY, "UILaunchScreens", "UILaunchStoryboards"}


def _setting_changes(
    found: Declaration, options: Options, names: Names, bar: Mapping[str, Value]
) -> dict[str, str | None]:
    """What becomes of the launch settings of a configuration; None takes a setting away."""
    changes: dict[str, str | None] = {key: None for key, _ in found.own if _LAUNCH_SETTING.match(key)}
    if not found.is_generated:
        return changes
    inherited = dict(found.inherited)
    if options.screen == "storyboard":
        changes[f"{SETTING}{STORYBOARD_KEY}"] = names.of("Launch")
        if any(key.startswith(_GENERATION) and value == "YES" for key, value in inherited.items()):
            changes[_GENERATION] = "NO"
    elif any(key.startswith(f"{SETTING}{STORYBOARD_KEY}") and value for key, value in inherited.items()):
        changes[f"{SETTING}{STORYBOARD_KEY}"] = ""
    for key, value in bar.items():
        # A setting with a condition would win over the plain one.
        changes |= {name: None for name, _ in found.own if name.startswith(f"{SETTING}{key}[")}
        changes[f"{SETTING}{key}"] = value if isinstance(value, str) else None if value is None else "YES"
    own = dict(found.own)
    return {key: value for key, value in changes.items() if own.get(key) != value}


# The status bar


def _status_bar(
    snapshot: Snapshot, site: IosSite, brief: Brief, options: Options
) -> tuple[dict[str, Value], tuple[str, ...]]:
    """The keys of the status bar, and what has to be said about them."""
    if options.status_bar == "hidden":
        return {_HIDDEN_KEY: True}, ()
    if options.status_bar != "auto":
        return {_STYLE_KEY: _STYLES[options.status_bar], _HIDDEN_KEY: None}, ()
    present = [Plist(snapshot.read(path), path).values for path in site.plists]
    if any(values.get("UIViewControllerBasedStatusBarAppearance") is False for values in present):
        return {}, ("the status bar is left as it is: Info.plist sets it for the whole app, not for the launch alone",)
    needs = {look: _text_on(brief.looks[look].ground) for look in ("light", "dark")}
    if needs == {"light": "dark", "dark": "light"}:
        has_style = any(_STYLE_KEY in values for values in present) or any(
            key == f"{SETTING}{_STYLE_KEY}" for found in site.declarations for key, _ in found.own
        )
        return ({_STYLE_KEY: _DEFAULT_STYLE} if has_style else {}), ()
    if needs["light"] == needs["dark"]:
        return {_STYLE_KEY: _STYLES[needs["light"]]}, ()
    note = "the status bar cannot be readable in both looks: its text follows the look, and the grounds do the opposite"
    return {}, (note,)


def _text_on(ground: Colour) -> str:
    """Whether text on a ground should be light or dark."""
    return "dark" if ground.contrast(_BLACK) > ground.contrast(_WHITE) else "light"


# What is there


def declared_kinds(snapshot: Snapshot, site: IosSite) -> Iterator[str]:
    """How the launch screen is declared today, in words, one for each place."""
    for path in site.plists:
        values = Plist(snapshot.read(path), path).values
        for key in values:
            if _is_launch_key(key):
                shown = (
                    values[key]
                    if isinstance(values[key], str)
                    else "a dictionary"
                    if values[key]
                    else "an empty dictionary"
                )
                yield f"{key} ({shown})"
    for found in site.declarations:
        if found.is_generated:
            for key, value in (*found.inherited, *found.own):
                if _LAUNCH_SETTING.match(key) and value not in {"", "NO"}:
                    yield f"build setting {key} = {value}"


def refuse_untold(declaration: Declaration, snapshot: Snapshot, target: str, project: str) -> None:
    """Refuse a configuration whose Info.plist is neither there nor made by Xcode.

    Raises:
        BadInput: with what to mend.
    """
    at = Place(project)
    if declaration.plist is None and not declaration.is_generated:
        hint = "Give the target an Info.plist file (INFOPLIST_FILE), or let Xcode make one (GENERATE_INFOPLIST_FILE)."
        raise BadInput(f"target {target} names no Info.plist file", place=at, hint=hint)
    if declaration.plist is not None and declaration.plist not in snapshot:
        message = f"the Info.plist of target {target} is not there: {declaration.plist}"
        raise BadInput(message, place=at, hint="Mend the build setting INFOPLIST_FILE.")
