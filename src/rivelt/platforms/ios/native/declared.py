"""What an app target declares: the kind of its launch screen and its status bar, for each build configuration.

The keys stand in Info.plist, in build settings where Xcode makes the list from them, or in both.
https://developer.apple.com/documentation/xcode/specifying-your-apps-launch-screen
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from rivelt.edit.plist import Value
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.platforms.ios.site import Declaration, Idiom, Orientation
from rivelt.project.project import Project
from rivelt.units import Look
from rivelt.values import replace

STORYBOARD_KEY, DICTIONARY_KEY = "UILaunchStoryboardName", "UILaunchScreen"
APPEARANCE_KEY, ORIENTATIONS_KEY = "UIUserInterfaceStyle", "UISupportedInterfaceOrientations"
STYLE_KEY, HIDDEN_KEY = "UIStatusBarStyle", "UIStatusBarHidden"
DEFAULT_STYLE, DARK_STYLE, LIGHT_STYLE = (
    "UIStatusBarStyleDefault",
    "UIStatusBarStyleDarkContent",
    "UIStatusBarStyleLightContent",
)
SETTING = "INFOPLIST_KEY_"
GENERATION = f"{SETTING}{DICTIONARY_KEY}_Generation"
LAUNCH_SETTING = regex(r"INFOPLIST_KEY_UILaunch(?:StoryboardName|Screen)\w*")
_VARIABLE = regex(r"\$\((\w+)(?::[\w,]+)?\)|\$\{(\w+)(?::[\w,]+)?\}")
_SUFFIXES = {"_iPhone": "~iphone", "_iPad": "~ipad"}
_BOOLEANS: Mapping[str, Value] = {"YES": True, "NO": False}


class Declared(Struct, frozen=True):
    """What one configuration declares.

    `values`: its Info.plist as the app gets it, as far as launch depends on it. `place`: where the launch screen is declared.
    """

    configuration: str
    values: Mapping[str, Value]
    place: Place

    def on(self, idiom: Idiom) -> Declared:
        """Return what holds on one kind of device: a key such as `UILaunchScreen~ipad` comes before the plain one."""
        ending = f"~{idiom}"
        own = {key.removesuffix(ending): value for key, value in self.values.items() if key.endswith(ending)}
        return replace(self, values={**self.values, **own})

    @property
    def storyboard(self) -> str | None:
        """The launch storyboard's name, if one is named; it should have no ending."""
        name = self.values.get(STORYBOARD_KEY)
        if name is None:
            name = _default(self.values.get("UILaunchStoryboards"), "UILaunchStoryboard", "UILaunchStoryboardFile")
        return name if isinstance(name, str) and name else None

    @property
    def storyboard_files(self) -> frozenset[str]:
        """The names of the files that the launch storyboard's name can mean."""
        stem = (self.storyboard or "").removesuffix(".storyboard").removesuffix(".xib")
        return frozenset({f"{stem}.storyboard", f"{stem}.xib"}) if stem else frozenset()

    @property
    def dictionary(self) -> Mapping[str, Value] | None:
        """The `UILaunchScreen` dictionary, or the default one of `UILaunchScreens`, if there is one."""
        found = self.values.get(DICTIONARY_KEY)
        if found is None:
            found = _default(self.values.get("UILaunchScreens"), "UILaunchScreen", None)
        return found if isinstance(found, dict) else {} if found is not None else None

    @property
    def look(self) -> Look | None:
        """The one look that the app always has; None where it follows the system (`UIUserInterfaceStyle`)."""
        style = str(self.values.get(APPEARANCE_KEY)).lower()
        return "light" if style == "light" else "dark" if style == "dark" else None

    def orientations(self, idiom: Idiom) -> tuple[Orientation, ...]:
        """Return the orientations that the app supports on a kind of device: portrait alone where it says nothing."""
        named = self.on(idiom).values.get(ORIENTATIONS_KEY)
        words = (
            named.split() if isinstance(named, str) else [str(one) for one in named] if isinstance(named, list) else []
        )
        found: list[Orientation] = []
        if not words or any("Portrait" in word for word in words):
            found.append("portrait")
        if any("Landscape" in word for word in words):
            found.append("landscape")
        return tuple(found) or ("portrait",)


def _default(screens: Value, kind: str, file_key: str | None) -> Value:
    """Of several launch screens, for URL schemes, the one that is shown usually."""
    if not isinstance(screens, dict):
        return None
    wanted, made = screens.get(f"UIDefault{kind.removeprefix('UI')}"), screens.get(f"{kind}Definitions")
    for one in made if isinstance(made, list) else []:
        if isinstance(one, dict) and one.get(f"{kind}Identifier") == wanted:
            return one.get(file_key) if file_key else one
    return None


def declared(project: Project, declarations: Sequence[Declaration], project_file: str) -> tuple[Declared, ...]:
    """Return what each configuration of a target declares.

    Raises:
        BadInput: an Info.plist cannot be read, or is missing where Xcode does not make it.
    """
    return tuple(_declared(project, found, project_file) for found in declarations)


def _declared(project: Project, found: Declaration, project_file: str) -> Declared:
    values: dict[str, Value] = {}
    place = Place(project_file)
    if found.unread:
        raise BadInput(found.unread, place=place)
    if found.properties is not None:
        values |= {key: _expanded(value, found.settings) for key, value in found.properties.items()}
    elif found.plist is not None and found.plist in project:
        plist = project.plist(found.plist)
        values |= {key: _expanded(value, found.settings) for key, value in plist.values.items()}
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
                values[_plist_key(plain)] = _BOOLEANS.get(value, value)
                place = Place(project_file) if plain == f"{SETTING}{STORYBOARD_KEY}" else place
    return Declared(found.name, values, place)


def _plist_key(setting: str) -> str:
    """The key of Info.plist that a build setting makes: `..._iPhone` one for that kind of device."""
    key = setting.removeprefix(SETTING)
    for ending, made in _SUFFIXES.items():
        if key.endswith(ending):
            return key.removesuffix(ending) + made
    return key


def _expanded(value: Value, settings: Mapping[str, str]) -> Value:
    """A value with its variables, such as `$(LAUNCH)`, filled in from the build settings; one that is not set stays."""
    if isinstance(value, str):
        return _VARIABLE.sub(lambda found: settings.get(found[1] or found[2], found[0]), value)
    if isinstance(value, dict):
        return {key: _expanded(one, settings) for key, one in value.items()}
    return [_expanded(one, settings) for one in value] if isinstance(value, list) else value


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
    for key, value in {key: value for one in declarations for key, value in (one.properties or {}).items()}.items():
        if is_launch_key(key):
            yield f"{key} ({value if isinstance(value, str) else 'a dictionary' if value else 'an empty dictionary'})"
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
    if declaration.unread or declaration.properties is not None:
        return
    if declaration.plist is None and not declaration.is_generated:
        hint = "Give the target an Info.plist file (INFOPLIST_FILE), or let Xcode make one (GENERATE_INFOPLIST_FILE)."
        raise BadInput(f"target {target} names no Info.plist file", place=at, hint=hint)
    if declaration.plist is not None and declaration.plist not in project:
        message = f"the Info.plist of target {target} is not there: {declaration.plist}"
        raise BadInput(message, place=at, hint="Correct the build setting INFOPLIST_FILE.")
