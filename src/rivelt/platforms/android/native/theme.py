"""The launcher's theme as rules look at it: its definitions in each folder, with their launch items and places."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

from msgspec import Struct

from rivelt.edit.xml import Node
from rivelt.errors import Place
from rivelt.platforms.android.facts import BASE_DPI, android_facts
from rivelt.platforms.android.native.libraries import compatibility_style, family_items
from rivelt.platforms.android.native.platform import platform_theme
from rivelt.platforms.android.native.qualifiers import NIGHT, VERSION, Device
from rivelt.platforms.android.native.resources import MAX_REFERENCES, Entry, Resources, resources_of, split_reference
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project, remembered

LIBRARY_THEME, LIBRARY_THEME_WITH_DISC = "Theme.SplashScreen", "Theme.SplashScreen.IconBackground"
LIBRARY_THEMES = frozenset({LIBRARY_THEME, LIBRARY_THEME_WITH_DISC, "Theme.SplashScreen.Common"})
"""The themes of the compatibility library."""

LAUNCH_ITEM = "windowSplashScreen"
"""What the names of all items of the system's launch screen begin with."""

GROUND = "windowSplashScreenBackground"
ICON = "windowSplashScreenAnimatedIcon"
DURATION = "windowSplashScreenAnimationDuration"
DISC = "windowSplashScreenIconBackgroundColor"
IMPRINT = "windowSplashScreenBrandingImage"
ICON_SIZE = "splashScreenIconSize"
BEHAVIOUR = "windowSplashScreenBehavior"
LIGHT_STATUS_BAR = "windowLightStatusBar"
LIGHT_NAVIGATION_BAR = "windowLightNavigationBar"
POST_LAUNCH = "postSplashScreenTheme"
WINDOW_BACKGROUND = "windowBackground"
CONTENT = "windowSplashscreenContent"
NO_WINDOW = ("windowIsTranslucent", "windowIsFloating", "windowDisablePreview", "windowNoDisplay")
"""Flags of a theme with which an activity has no launch screen at all (com.android.server.wm.ActivityRecord)."""


class Definition(Struct, frozen=True):
    """One definition of a style: its entry, its folder ("values-night-v31"), and what it asks of a device."""

    entry: Entry
    folder: str
    version: int
    is_night: bool

    @property
    def node(self) -> Node:
        """The style's element."""
        assert self.entry.node is not None
        return self.entry.node

    @property
    def items(self) -> dict[str, Node]:
        """Its own items by name, as written."""
        return {item.get("name") or "": item for item in self.node.all("item")}

    @property
    def launch_items(self) -> dict[str, Node]:
        """Those that a launch screen is made of."""
        return {name: node for name, node in self.items.items() if LAUNCH_ITEM in name or name.endswith(POST_LAUNCH)}

    @property
    def place(self) -> Place:
        """Where it begins."""
        return Place(self.entry.path, self.node.line)

    def place_of(self, item: str) -> Place:
        """Return where an item stands."""
        return Place(self.entry.path, self.items[item].line)


class LaunchTheme(Struct, frozen=True):
    """The theme that the launcher starts with. `name` is None where the app does not define it."""

    site: AndroidSite
    resources: Resources
    name: str | None

    @property
    def definitions(self) -> list[Definition]:
        """Its definitions, one for each folder."""
        return self.definitions_of(self.name) if self.name else []

    def definitions_of(self, name: str) -> list[Definition]:
        """Return the definitions of any style of the app's."""
        found = []
        for entry in self.resources.defined("style", name):
            if entry.node is not None:
                known = dict(entry.qualifiers)
                version = known.get(VERSION, 0)
                folder = entry.path.rpartition("/")[0].rpartition("/")[2]
                found.append(
                    Definition(entry, folder, version if isinstance(version, int) else 0, known.get(NIGHT) == "night")
                )
        return found

    def is_of_library(self, name: str | None = None) -> bool:
        """Whether the theme (or another style) inherits from one of the compatibility library's."""
        wanted = name or self.name
        for device in devices():
            style = self.resources.style(wanted, device) if wanted else None
            if style is not None and style.missing_parent in LIBRARY_THEMES:
                return True
        return wanted in LIBRARY_THEMES

    def values_of(self, item: str) -> Iterator[tuple[str, Place | None]]:
        """Yield the values of an item, with or without prefix, in the theme and what it inherits; each once."""
        seen: set[str] = set()
        for device in devices():
            style = self.resources.style(self.name, device) if self.name else None
            for name in (f"android:{item}", item):
                if style is not None and name in style.items and style.items[name][0] not in seen:
                    value, path = style.items[name]
                    seen.add(value)
                    yield value, self._place(path, name)

    def place_of_item(self, item: str, path: str) -> Place | None:
        """Return where an item of the theme stands in a file; the file where that is a style it inherits from, None outside the app."""
        return self._place(path, item) if "/" in path else None

    def _place(self, path: str, item: str) -> Place:
        for definition in self.definitions:
            if definition.entry.path == path and item in definition.items:
                return definition.place_of(item)
        return Place(path)

    def files_of(self, value: str) -> list[Entry]:
        """Return the files of a drawable that a value names."""
        reference = split_reference(value)
        return [entry for entry in self.resources.defined(*reference) if entry.node is None] if reference else []


class ThemeItems(Struct, frozen=True):
    """All that a theme sets: each item's value, and the file or the theme outside the project that it comes from.

    `parent`: where the chain of parents leaves the project; the name of the theme itself when it is not there, None when nothing is
    inherited. `is_known`: whether what it sets of a launch screen is known all the same, but for colours. `is_of_library`: whether it is
    one of the compatibility library's.
    """

    items: Mapping[str, tuple[str, str]]
    parent: str | None
    is_known: bool
    is_of_library: bool = False

    def item(self, name: str) -> tuple[str, str] | None:
        """Return an item by its name; where it takes over another ("?attr/name"), as the library's theme does, that one."""
        found = self.items.get(name)
        for _ in range(MAX_REFERENCES):
            own = found[0].removeprefix("?attr/") if found is not None else ""
            if found is None or own == found[0]:
                break
            found = self.items.get(own)
        return found


def theme_items(resources: Resources, theme: str, device: Device, versions: Mapping[str, str]) -> ThemeItems:
    """Return all that a theme sets on a device, what the themes of the platform and of known libraries set included.

    Args:
        resources: the app's resources.
        theme: a reference, such as `@style/Launch` or `@android:style/Theme.Light`; "" for the system's default.
        device: the device.
        versions: the versions of the project's libraries, by "group:name".
    """
    reference = split_reference(theme)
    if reference is None or reference[0] not in {"style", "android:style"}:
        return ThemeItems({}, theme or "the system's default theme", is_known=not theme)
    style = resources.style(reference[1], device) if reference[0] == "style" else None
    parent = style.missing_parent if style else reference[0].removesuffix("style") + reference[1]
    items = dict(style.items) if style else {}
    library = compatibility_style(parent or "", device.version)
    if library is not None and parent is not None:
        _fill(items, library[0], parent)
        parent = library[1]
    if parent is None:
        return ThemeItems(items, None, is_known=True)
    found = platform_theme(parent, device.version) if parent.startswith("android:") else None
    if found is None:
        found = family_items(parent, device, versions)
    _fill(items, found or {}, parent)
    return ThemeItems(items, parent, is_known=found is not None, is_of_library=library is not None)


def _fill(items: dict[str, tuple[str, str]], more: Mapping[str, str], source: str) -> None:
    for name, value in more.items():
        items.setdefault(name, (value, source))


class Hidden(NamedTuple):
    """A flag of a theme (without prefix) that hides the launch screen, or (not `is_certain`) may do so: its value is unknown."""

    flag: str
    source: str
    is_certain: bool


def without_window(items: Mapping[str, tuple[str, str]], is_set: Callable[[str], bool | None]) -> Hidden | None:
    """Return the flag of a theme with which no launch screen is shown, a certain one first; None without such a flag.

    Args:
        items: what the theme sets, as `theme_items` gives it.
        is_set: what a boolean value comes to, None where that is unknown.
    """
    present = ((name, *items[f"android:{name}"]) for name in NO_WINDOW if f"android:{name}" in items)
    found = [
        Hidden(name, source, is_certain=is_set(value) is True)
        for name, value, source in present
        if is_set(value) is not False
    ]
    return min(found, key=lambda one: not one.is_certain, default=None)


def boolean(resources: Resources, device: Device, value: str) -> bool | None:
    """Return what a boolean value, or a reference to one, comes to on a device; None where that is unknown."""
    for _ in range(MAX_REFERENCES):
        if value in {"true", "false"}:
            return value == "true"
        reference = split_reference(value)
        entry = (
            resources.best("bool", reference[1], device) if reference is not None and reference[0] == "bool" else None
        )
        if entry is None or entry.node is None:
            return None
        value = entry.node.text.strip()
    return None


@remembered
def launch_theme(project: Project, site: AndroidSite) -> LaunchTheme:
    """Return the launcher's theme.

    Raises:
        BadInput: a resource that it needs cannot be read.
    """
    resources = resources_of(project, site.all_res)
    reference = split_reference(site.theme or "")
    name = reference[1] if reference and reference[0] == "style" else None
    return LaunchTheme(site, resources, name)


def device_at(level: int, *, is_night: bool) -> Device:
    """Return an ordinary phone at an API level, in one look."""
    screen = android_facts().screens[0]
    return Device(level, is_night, round(screen.scale * BASE_DPI), screen.width, screen.height)


def devices() -> Iterator[Device]:
    """Yield devices that choose differently: before and after the system's launch screen, light and dark."""
    levels = android_facts().levels
    for level in (levels.system_launch_screen - 1, levels.system_launch_screen, android_facts().attributes[BEHAVIOUR]):
        for is_night in (False, True):
            yield device_at(level, is_night=is_night)
