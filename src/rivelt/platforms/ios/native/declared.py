"""What an app target declares: the kind of its launch screen and its status bar, for each build configuration.

The keys stand in Info.plist, in build settings where Xcode makes the list from them, or in both.
https://developer.apple.com/documentation/xcode/specifying-your-apps-launch-screen
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from rivelt.edit.plist import Value
from rivelt.errors import BadInput, Place
from rivelt.platforms.ios.site import Declaration
from rivelt.project.project import Project

STORYBOARD_KEY, DICTIONARY_KEY = "UILaunchStoryboardName", "UILaunchScreen"
STYLE_KEY, HIDDEN_KEY = "UIStatusBarStyle", "UIStatusBarHidden"
DEFAULT_STYLE, DARK_STYLE, LIGHT_STYLE = (
    "UIStatusBarStyleDefault",
    "UIStatusBarStyleDarkContent",
    "UIStatusBarStyleLightContent",
)
SETTING = "INFOPLIST_KEY_"
GENERATION = f"{SETTING}{DICTIONARY_KEY}_Generation"
LAUNCH_SETTING = re.compile(r"INFOPLIST_KEY_UILaunch(?:StoryboardName|Screen)\w*")
_BOOLEANS: Mapping[str, Value] = {"YES": True, "NO": False}


@dataclass(frozen=True)
class Declared:
    """What one configuration declares.

    `values`: its Info.plist as the app gets it, as far as launch depends on it. `storyboard`: the name of the launch storyboard, without
    an ending. `dictionary`: `UILaunchScreen`. `place`: where that stands.
    """

    configuration: str
    values: Mapping[str, Value]
    place: Place

    @property
    def storyboard(self) -> str | None:
        """The launch storyboard's name without its ending, if one is named."""
        name = self.values.get(STORYBOARD_KEY)
        return name.removesuffix(".storyboard") if isinstance(name, str) and name else None

    @property
    def dictionary(self) -> Mapping[str, Value] | None:
        """The `UILaunchScreen` dictionary, if there is one."""
        found = self.values.get(DICTIONARY_KEY)
        return found if isinstance(found, dict) else {} if found is not None else None


def declared(project: Project, declarations: Sequence[Declaration], project_file: str) -> tuple[Declared, ...]:
    """Return what each configuration of a target declares.

    Raises:
        BadInput: an Info.plist cannot be read, or is missing where Xcode does not make it.
    """
    return tuple(_declared(project, found, project_file) for found in declarations)


def _declared(project: Project, found: Declaration, project_file: str) -> Declared:
    values: dict[str, Value] = {}
    place = Place(project_file)
    if found.plist is not None and found.plist in project:
        plist = project.plist(found.plist)
        values |= plist.values
        place = plist.place(STORYBOARD_KEY) if STORYBOARD_KEY in values else plist.place(DICTIONARY_KEY)
    elif not found.is_generated:
        raise BadInput(f"configuration {found.name} has no Info.plist in the project", place=place)
    if found.is_generated:
        for key, value in {**dict(found.inherited), **dict(found.own)}.items():
            plain = key.partition("[")[0]
            if plain == GENERATION:
                if value == "YES":
                    values.setdefault(DICTIONARY_KEY, {})
            elif value:
                values[plain.removeprefix(SETTING)] = _BOOLEANS.get(value, value)
                place = Place(project_file) if plain == f"{SETTING}{STORYBOARD_KEY}" else place
    return Declared(found.name, values, place)


def is_launch_key(key: str) -> bool:
    """Return whether a key of Info.plist declares a launch screen, for all devices or some."""
    return key.partition("~")[0] in {STORYBOARD_KEY, DICTIONARY_KEY, "UILaunchScreens", "UILaunchStoryboards"}


def declared_kinds(project: Project, declarations: Sequence[Declaration]) -> Iterator[str]:
    """Yield how the launch screen is declared today, in words, one for each place."""
    for path in dict.fromkeys(found.plist for found in declarations if found.plist):
        for key, value in project.plist(path).values.items():
            if is_launch_key(key):
                shown = value if isinstance(value, str) else "a dictionary" if value else "an empty dictionary"
                yield f"{key} ({shown})"
    for found in declarations:
        if found.is_generated:
            for key, value in (*found.inherited, *found.own):
                if LAUNCH_SETTING.match(key) and value not in {"", "NO"}:
                    yield f"build setting {key} = {value}"


def refuse_missing(declaration: Declaration, project: Project, target: str, project_file: str) -> None:
    """Refuse a configuration whose Info.plist is neither there nor made by Xcode.

    Raises:
        BadInput: with what to fix.
    """
    at = Place(project_file)
    if declaration.plist is None and not declaration.is_generated:
        hint = "Give the target an Info.plist file (INFOPLIST_FILE), or let Xcode make one (GENERATE_INFOPLIST_FILE)."
        raise BadInput(f"target {target} names no Info.plist file", place=at, hint=hint)
    if declaration.plist is not None and declaration.plist not in project:
        message = f"the Info.plist of target {target} is not there: {declaration.plist}"
        raise BadInput(message, place=at, hint="Correct the build setting INFOPLIST_FILE.")
