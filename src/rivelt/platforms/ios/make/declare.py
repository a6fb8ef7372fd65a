"""How the launch screen is declared: keys of Info.plist, or build settings where Xcode makes the list from them.

https://developer.apple.com/documentation/xcode/specifying-your-apps-launch-screen
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field

from rivelt.brief.model import Brief
from rivelt.colour import Colour
from rivelt.edit.plist import Value
from rivelt.plan.model import EditFile, WriteFile
from rivelt.platforms.ios.native.declared import (
    DARK_STYLE,
    DEFAULT_STYLE,
    DICTIONARY_KEY,
    GENERATION,
    HIDDEN_KEY,
    LAUNCH_SETTING,
    LIGHT_STYLE,
    SETTING,
    STORYBOARD_KEY,
    STYLE_KEY,
    is_launch_key,
)
from rivelt.platforms.ios.options import IosTable
from rivelt.platforms.ios.site import Declaration, IosSite, Names
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.templating import Templates

_STYLES = {"light": LIGHT_STYLE, "dark": DARK_STYLE}
_WHITE, _BLACK = Colour(255, 255, 255), Colour(0, 0, 0)
_TEMPLATES = Templates("rivelt.platforms.ios")


class NewSetting(Struct, frozen=True):
    """A build setting of a configuration (by its id) with the value that it is to have; None takes it away."""

    configuration: str
    key: str
    value: str | None


class Declaring(Struct, frozen=True):
    """What declaring takes: edits of property lists, new files, changes of build settings, and notes.

    `properties`: the keys of the list that a project description makes.
    """

    edits: tuple[EditFile, ...]
    files: tuple[WriteFile, ...]
    settings: tuple[NewSetting, ...]
    notes: tuple[str, ...]
    properties: Mapping[str, Value] = field(default_factory=dict)


def declare(
    project: Project, site: IosSite, brief: Brief, options: IosTable, names: Names, image: str | None
) -> Declaring:
    """Declare one kind of launch screen in every configuration of the target, and take the other kind away.

    Args:
        project: the project.
        site: the target.
        brief: the brief, for its grounds.
        options: what it says to iOS; `screen` is decided.
        names: the names of what is generated.
        image: the image that a dictionary names, None for a ground alone.
    """
    bar, notes = _status_bar(project, site, brief, options)
    edits: list[EditFile] = []
    files: list[WriteFile] = []
    settings: list[NewSetting] = []
    own = join(site.folder, f"{names.prefix}Info.plist")
    for path in site.plists:
        if path == own:
            continue
        is_generated = all(found.is_generated for found in site.declarations if found.plist == path)
        plist = project.plist(path)
        before = plist.data
        changes = _plist_changes(options, names, image, bar, is_generated=is_generated, values=plist.values)
        after = plist.edited(changes, near="UI")
        if after != before:
            edits.append(EditFile(path, before, after, _summary(options, names)))
    properties: dict[str, Value] = {}
    for found in site.declarations:
        if found.properties is not None:
            values = found.properties
            properties |= _plist_changes(options, names, image, bar, is_generated=False, values=values)
        changed = _setting_changes(found, options, names, bar)
        if found.is_generated and found.plist in {None, own}:
            is_needed = options.screen == "plist"
            if is_needed:
                text = _TEMPLATES.render("info.xml.j2", colour=names.of("Ground"), image=image)
                files = [WriteFile(own, text.encode(), "the launch screen's part of Info.plist")]
            changed["INFOPLIST_FILE"] = own.removeprefix(f"{site.folder}/") if is_needed else None
        settings += [NewSetting(found.id, key, value) for key, value in changed.items()]
    return Declaring(tuple(edits), tuple(files), tuple(settings), notes, properties)


def launch_keys(options: IosTable, names: Names, image: str | None) -> dict[str, Value]:
    """Return the keys of Info.plist that declare the launch screen."""
    if options.screen != "plist":
        return {STORYBOARD_KEY: names.of("Launch")}
    shown: dict[str, Value] = {"UIColorName": names.of("Ground")}
    return {DICTIONARY_KEY: shown | ({"UIImageName": image} if image is not None else {})}


def _summary(options: IosTable, names: Names) -> str:
    if options.screen == "plist":
        return f"{DICTIONARY_KEY} names the ground and the mark"
    return f"{STORYBOARD_KEY} is {names.of('Launch')}"


def _plist_changes(
    options: IosTable,
    names: Names,
    image: str | None,
    bar: Mapping[str, Value],
    *,
    is_generated: bool,
    values: Mapping[str, Value],
) -> dict[str, Value]:
    """What becomes of the launch keys of an Info.plist; None takes a key away."""
    changes: dict[str, Value] = {key: None for key in values if is_launch_key(key)}
    if options.screen == "plist" or not is_generated:
        changes |= launch_keys(options, names, image)
    return changes | (dict(bar) if not is_generated else {})


def _setting_changes(
    found: Declaration, options: IosTable, names: Names, bar: Mapping[str, Value]
) -> dict[str, str | None]:
    """What becomes of the launch settings of a configuration; None takes a setting away."""
    changes: dict[str, str | None] = {key: None for key, _ in found.own if LAUNCH_SETTING.match(key)}
    if not found.is_generated:
        return changes
    inherited = dict(found.inherited)
    if options.screen == "storyboard":
        changes[f"{SETTING}{STORYBOARD_KEY}"] = names.of("Launch")
        if any(key.startswith(GENERATION) and value == "YES" for key, value in inherited.items()):
            changes[GENERATION] = "NO"
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
    project: Project, site: IosSite, brief: Brief, options: IosTable
) -> tuple[dict[str, Value], tuple[str, ...]]:
    """The keys of the status bar, and what has to be said about them."""
    if options.status_bar == "hidden":
        return {HIDDEN_KEY: True}, ()
    if options.status_bar != "auto":
        return {STYLE_KEY: _STYLES[options.status_bar], HIDDEN_KEY: None}, ()
    present = [project.plist(path).values for path in site.plists]
    if any(values.get("UIViewControllerBasedStatusBarAppearance") is False for values in present):
        return {}, ("the status bar is left as it is: Info.plist sets it for the whole app, not for the launch alone",)
    needs = {look: _text_on(brief.looks[look].ground) for look in ("light", "dark")}
    if needs == {"light": "dark", "dark": "light"}:
        has_style = any(STYLE_KEY in values for values in present) or any(
            key == f"{SETTING}{STYLE_KEY}" for found in site.declarations for key, _ in found.own
        )
        return ({STYLE_KEY: DEFAULT_STYLE} if has_style else {}), ()
    if needs["light"] == needs["dark"]:
        return {STYLE_KEY: _STYLES[needs["light"]]}, ()
    note = "the status bar cannot be readable in both looks: its text follows the look, and the grounds do the opposite"
    return {}, (note,)


def _text_on(ground: Colour) -> str:
    """Whether text on a ground should be light or dark."""
    return "dark" if ground.contrast(_BLACK) > ground.contrast(_WHITE) else "light"
