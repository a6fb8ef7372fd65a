"""What a launch theme says, in each folder it is needed in: by look, and by the API level from which the folder counts.

A style in a folder replaces the style of that name in every folder it beats, with all its items; and `night` beats the API level. So
each folder's style is complete.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from msgspec import Struct

from rivelt.brief.model import Brief
from rivelt.colour import Colour
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.native.theme import (
    BEHAVIOUR,
    DISC,
    DURATION,
    GROUND,
    ICON,
    IMPRINT,
    LIBRARY_THEME,
    LIBRARY_THEME_WITH_DISC,
    LIGHT_NAVIGATION_BAR,
    LIGHT_STATUS_BAR,
    POST_LAUNCH,
    WINDOW_BACKGROUND,
)
from rivelt.platforms.android.site import Way
from rivelt.units import Look

WHITE, BLACK = Colour(255, 255, 255), Colour(0, 0, 0)
_WINDOW = f"android:{WINDOW_BACKGROUND}"


class Folder(Struct, frozen=True):
    """A values folder: the look it is for, and the API level from which it counts (0: all)."""

    look: Look
    level: int

    @property
    def name(self) -> str:
        """Its name, qualifiers in Android's order."""
        night = "-night" if self.look == "dark" else ""
        return f"values{night}-v{self.level}" if self.level else f"values{night}"

    @property
    def has_system_screen(self) -> bool:
        """Whether the system draws the launch screen on the devices that it counts for."""
        return self.level >= android_facts().levels.system_launch_screen


class Theme(Struct, frozen=True):
    """All that decides the launch theme's items.

    `app_theme`: what the app uses after launch. `needs_app_style`: whether that is a library's style that code must be able to name, for
    which the module's own `R` needs a style of the app. `hidden`: flags with which the style that the launch theme inherits from would show
    no launch screen. `has_window`: whether a window background of Rivelt's is shown up to Android 11.
    `motion_ms`: the length of the moving icon in each look that has one. `min_sdk`, `compile_sdk`: the module's levels, None when not known.
    """

    brief: Brief
    way: Way
    names: Names
    app_theme: str
    has_imprint: bool
    has_window: bool
    motion_ms: Mapping[Look, int]
    min_sdk: int
    compile_sdk: int | None
    needs_app_style: bool = False
    hidden: tuple[str, ...] = ()

    @property
    def app_theme_in_code(self) -> str:
        """The theme after launch as code can name it."""
        return f"@style/{self.names.app}" if self.needs_app_style else self.app_theme

    def folders(self) -> Iterator[Folder]:
        """Yield the folders that the theme is needed in."""
        facts = android_facts()
        compiles = self.compile_sdk or 0  # what is unknown may be too old for the attributes of Android 12
        for look in self.brief.shown_looks:
            for level in (0, facts.levels.system_launch_screen, facts.attributes[BEHAVIOUR]):
                if level <= compiles:
                    yield Folder(look, level)

    def parent(self, look: Look) -> str:
        """Return the style that a launch theme of our own inherits from."""
        if self.way == "platform":
            return self.app_theme
        return LIBRARY_THEME_WITH_DISC if self.brief.looks[look].disc else LIBRARY_THEME

    def items(self, folder: Folder) -> dict[str, str]:
        """Return the items of the theme in a folder, in the order in which they are written."""
        items: dict[str, str] = {}
        if self.way == "compat":
            items |= self._icon_items(folder, "")
            if self.has_window and not folder.has_system_screen:
                items[_WINDOW] = f"@drawable/{self.names.window}"
        elif folder.has_system_screen:
            items |= self._icon_items(folder, "android:")
        else:
            items[_WINDOW] = f"@drawable/{self.names.window}"
        if folder.has_system_screen and self.has_imprint:
            items[f"android:{IMPRINT}"] = f"@drawable/{self.names.imprint}"
        if folder.level >= android_facts().attributes[BEHAVIOUR]:
            items[f"android:{BEHAVIOUR}"] = "icon_preferred"
        if self.way == "compat":
            items[POST_LAUNCH] = self.app_theme
        items |= {f"android:{flag}": "false" for flag in self.hidden}
        return items | self._bar_items(folder.look)

    def _icon_items(self, folder: Folder, prefix: str) -> dict[str, str]:
        is_moving = folder.look in self.motion_ms and folder.has_system_screen
        icon = self.names.motion if is_moving else self.names.mark
        items = {
            f"{prefix}{GROUND}": f"@color/{self.names.ground}",
            f"{prefix}{ICON}": f"@drawable/{icon}",
        }
        if is_moving:
            items[f"{prefix}{DURATION}"] = str(self.motion_ms[folder.look])
        if self.brief.looks[folder.look].disc:
            items[f"{prefix}{DISC}"] = f"@color/{self.names.disc}"
        return items

    def target(self, item: str, folder: Folder) -> int | None:
        """Return the API level of an item that systems which read the folder may not know, for `tools:targetApi`; None when all know it."""
        since = android_facts().attributes.get(item.removeprefix("android:"), 1) if item.startswith("android:") else 1
        return since if since > max(folder.level, self.min_sdk) else None

    # The system's bars

    def _bar_items(self, look: Look) -> dict[str, str]:
        is_light = is_light_ground(self.brief.looks[look].ground)
        items = {
            "android:windowDrawsSystemBarBackgrounds": "true",
            "android:statusBarColor": f"@color/{self.names.status_bar if self.has_status_bar_colour else self.names.ground}",
            "android:navigationBarColor": f"@color/{self.names.navigation_bar if self.has_navigation_bar_colour else self.names.ground}",
        }
        shown = str(is_light).lower()
        compiles = self.compile_sdk or 0
        since = android_facts().attributes
        if self.compile_sdk is None or compiles >= since[LIGHT_STATUS_BAR]:
            items[f"android:{LIGHT_STATUS_BAR}"] = shown
        if compiles >= since[LIGHT_NAVIGATION_BAR]:
            items[f"android:{LIGHT_NAVIGATION_BAR}"] = shown
        return items

    @property
    def _has_light_ground(self) -> bool:
        return any(is_light_ground(self.brief.looks[look].ground) for look in self.brief.shown_looks)

    @property
    def has_status_bar_colour(self) -> bool:
        """Whether old systems, whose icons there are always white, need a colour of their own."""
        return self._has_light_ground and self.min_sdk < android_facts().attributes[LIGHT_STATUS_BAR]

    @property
    def has_navigation_bar_colour(self) -> bool:
        """The same for the bar at the foot."""
        return self._has_light_ground and self.min_sdk < android_facts().attributes[LIGHT_NAVIGATION_BAR]

    def colours(self) -> Iterator[tuple[Folder, dict[str, Colour]]]:
        """Yield the colours to be defined, by folder."""
        since = android_facts().attributes
        for look in self.brief.shown_looks:
            shown = self.brief.looks[look]
            ground = shown.ground
            base = {"ground": ground}
            if any(other.disc for other in self.brief.looks.values()):
                base["disc"] = shown.disc or Colour(0, 0, 0, 0)
            bars = (
                ("status_bar", self.has_status_bar_colour, since[LIGHT_STATUS_BAR]),
                ("navigation_bar", self.has_navigation_bar_colour, since[LIGHT_NAVIGATION_BAR]),
            )
            later: list[tuple[Folder, dict[str, Colour]]] = []
            for name, is_needed, level in bars:
                if is_needed:
                    base[name] = BLACK if is_light_ground(ground) else ground
                    if is_light_ground(ground):
                        later.append((Folder(look, level), {name: ground}))
            yield Folder(look, 0), base
            yield from later


def is_light_ground(ground: Colour) -> bool:
    """Whether black icons are easier to see on it than white ones."""
    return ground.contrast(BLACK) > ground.contrast(WHITE)
