"""Rules on the launcher's theme: its items, its folders, and the call that goes with it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from rivelt.colour import Colour
from rivelt.errors import RiveltError
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.activity import INSTALL_CALL, find_activity, heading, installs, is_whole
from rivelt.platforms.android.native.effective import manifest_of
from rivelt.platforms.android.native.resources import split_reference
from rivelt.platforms.android.native.theme import (
    BEHAVIOUR,
    DISC,
    GROUND,
    LAUNCH_ITEM,
    LIGHT_STATUS_BAR,
    POST_LAUNCH,
    Definition,
    LaunchTheme,
    boolean,
    devices,
    launch_theme,
    theme_items,
    without_window,
)
from rivelt.platforms.android.rules import BOOK
from rivelt.platforms.android.site import AndroidSite
from rivelt.rules.rulebook import Said, Subject, broken, unknown

LEAST_CONTRAST = 3.0
"""What WCAG 2.2 asks of graphics."""


def theme_of(subject: Subject[AndroidSite]) -> LaunchTheme:
    """The launcher's theme of a subject."""
    return launch_theme(subject.project, subject.site)


@BOOK.rule("AND01")
def theme_without_call(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The library's theme is set, and nothing installs it."""
    theme = theme_of(subject)
    if not theme.is_of_library():
        return
    source = theme.site.source
    if source is None:
        yield unknown(f"the source of {theme.site.activity} is not in the project")
    elif not installs(subject.project, source):
        if not is_whole(source):
            yield unknown(
                f"{source.base or 'what it inherits from'}, which may call {INSTALL_CALL}(), is not in the project"
            )
            return
        hint = f"Call {INSTALL_CALL}() first in onCreate, or run `rivelt apply`."
        message = (
            f"{theme.site.activity} starts with a theme of the compatibility library and never calls {INSTALL_CALL}()"
        )
        yield broken(message, hint, heading(subject.project, source))


@BOOK.rule("AND02")
def call_without_theme(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The library is called, and the theme does not inherit from it."""
    theme = theme_of(subject)
    source = theme.site.source
    if source is None or theme.is_of_library() or not installs(subject.project, source):
        return
    hint = f'Give the launch theme a parent of "Theme.SplashScreen", with {POST_LAUNCH}.'
    message = (
        f"{theme.site.activity} calls {INSTALL_CALL}(), but starts with {theme.site.theme or 'no theme of its own'}"
    )
    yield broken(message, hint, heading(subject.project, source))


@BOOK.rule("AND03")
def post_launch_theme(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The theme for after launch is missing, or does not exist."""
    theme = theme_of(subject)
    if not theme.is_of_library():
        return
    values = list(theme.values_of(POST_LAUNCH))
    hint = f'Add <item name="{POST_LAUNCH}">@style/...</item>: the theme that the app has after launch.'
    if not values:
        yield broken(f"the launch theme has no {POST_LAUNCH}", hint, next((d.place for d in theme.definitions), None))
    for value, place in values:
        reference = split_reference(value)
        if reference and reference[0] == "style" and not theme.resources.defined(*reference):
            if value.startswith("@style/Theme."):
                yield unknown(f"{value} is not in the project: it may come from a library")
            else:
                yield broken(
                    f"{POST_LAUNCH} is {value}, which does not exist", "Name the theme that the app has.", place
                )


@BOOK.rule("AND04")
def items_in_every_folder(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """A style repeated in another folder replaces the whole style: every item must be there again."""
    theme = theme_of(subject)
    definitions = theme.definitions
    for one in definitions:
        for other in definitions:
            if one.is_night and not other.is_night:  # no device looks for these items there
                continue
            lost = [
                name for name in one.launch_items if name not in other.launch_items and _must_have(one, other, name)
            ]
            if lost:
                hint = f"Repeat {'it' if len(lost) == 1 else 'them'} in {other.folder}: a style there replaces the one in {one.folder}."
                yield broken(f"{other.folder} lacks {', '.join(lost)}, which {one.folder} has", hint, other.place)


def _must_have(one: Definition, other: Definition, item: str) -> bool:
    """Whether a device that is given `other` misses an item that only `one` has."""
    if item.endswith(DISC) and one.is_night != other.is_night:  # a look may do without
        return False
    if item == f"android:{BEHAVIOUR}":
        return one.version <= other.version and other.version >= android_facts().attributes[BEHAVIOUR]
    if item.startswith("android:"):
        return other.version >= android_facts().levels.system_launch_screen and one.version <= other.version
    return one.version <= other.version


@BOOK.rule("AND05")
def night_shadows_system_level(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Night comes before the API level: without values-night-v31, dark devices are given values-night."""
    definitions = theme_of(subject).definitions
    levels = sorted(
        {
            one.version
            for one in definitions
            if one.version >= android_facts().levels.system_launch_screen and not one.is_night and one.launch_items
        }
    )
    nights = {one.version: one for one in definitions if one.is_night}
    for level in levels:
        if nights and level not in nights:
            shadow = nights[max(nights)]
            message = f"on dark devices {shadow.folder} wins over values-v{level}: its items are never used there"
            yield broken(message, f"Repeat the style in values-night-v{level}.", shadow.place)


@BOOK.rule("AND06")
def names_and_levels(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """Items of the system belong to its level; those of the library have no prefix."""
    theme = theme_of(subject)
    is_of_library = theme.is_of_library()
    for definition in theme.definitions:
        for name in definition.launch_items:
            place = definition.place_of(name)
            if name == f"android:{POST_LAUNCH}":
                yield broken(f"there is no {name}", f"It is the library's, without the prefix: {POST_LAUNCH}.", place)
            elif name.startswith(f"android:{LAUNCH_ITEM}"):
                level = (
                    android_facts().attributes[BEHAVIOUR]
                    if name.endswith(BEHAVIOUR)
                    else android_facts().levels.system_launch_screen
                )
                if definition.version < level:
                    hint = f"Move it to values-v{level}" + (
                        ", or write it without the prefix." if is_of_library else "."
                    )
                    yield broken(f"{name} in {definition.folder}: older systems do not know it", hint, place)
            elif name.startswith(LAUNCH_ITEM) and not is_of_library:
                hint = f"Write android:{name} in values-v{android_facts().levels.system_launch_screen}, or inherit from Theme.SplashScreen."
                yield broken(
                    f"{name} without a prefix is the compatibility library's, and the theme is not", hint, place
                )


@BOOK.rule("AND17")
def theme_of_all_activities(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The library's theme on the application is the theme of every activity without one of its own."""
    site = subject.site
    manifest = manifest_of(subject.project, site)
    application = manifest.application
    reference = split_reference(application.value("theme") or "") if application is not None else None
    theme = theme_of(subject)
    if application is None or reference is None or not theme.is_of_library(reference[1]):
        return
    for activity in manifest.activities:
        name = activity.written_name
        if activity.value("theme") is not None or activity == manifest.launcher:
            continue
        source = find_activity(subject.project, site.module, manifest.package, name)
        place = activity.place
        if source is None:
            yield unknown(f"{name} has the launch theme of the application, and its source is not in the project")
            continue
        try:
            called = installs(subject.project, source)
        except RiveltError as error:
            yield unknown(str(error))
            continue
        if not called and not is_whole(source):
            yield unknown(
                f"{source.base or 'what it inherits from'}, which may call {INSTALL_CALL}(), is not in the project"
            )
        elif not called:
            hint = "Set the launch theme on the launcher activity alone, and the app's own on <application>."
            yield broken(
                f"{name} inherits the application's launch theme and never calls {INSTALL_CALL}()", hint, place
            )


@BOOK.rule("AND21")
def a_window_is_shown(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """With some flags in its theme an activity has no launch screen at all."""
    theme = theme_of(subject)
    said: set[tuple[str, str]] = set()
    for device in devices():
        items = theme_items(theme.resources, theme.site.theme or "", device, theme.site.versions).items
        hidden = without_window(items, partial(boolean, theme.resources, device))
        if hidden is None or (hidden.flag, hidden.source) in said:
            continue
        said.add((hidden.flag, hidden.source))
        if not hidden.is_certain:
            yield unknown(
                f"android:{hidden.flag}, which may hide the launch screen, has an unknown value in {hidden.source}"
            )
            continue
        message = f"no launch screen is shown: android:{hidden.flag} is true in {theme.site.theme or 'the theme'}"
        hint = "Give the launcher activity a launch theme in which it is false; `rivelt apply` makes one."
        yield broken(message, hint, theme.place_of_item(f"android:{hidden.flag}", hidden.source))


@BOOK.rule("AND28")
def icons_of_bars_can_be_read(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """The system's icons at the top stand out from the colour that they are on, where the theme says how they are drawn."""
    theme = theme_of(subject)
    said: dict[tuple[str, str], Said] = {}
    for device in devices():
        found = theme_items(theme.resources, theme.site.theme or "", device, theme.site.versions)
        flag = found.items.get(f"android:{LIGHT_STATUS_BAR}")
        is_new = device.version >= android_facts().levels.system_launch_screen
        bar = found.item(f"android:{GROUND}" if is_new else "android:statusBarColor")
        colour = theme.resources.colour(bar[0], device) if bar is not None else None
        if flag is not None and bar is not None and colour is None and bar[0] != "@android:color/transparent":
            reason = f"the colour behind the status bar, {bar[0]}, is unknown"
            said.setdefault((bar[0], flag[1]), unknown(reason))
        if flag is None or bar is None or colour is None or not colour[0].is_opaque:
            continue
        icons = Colour(0, 0, 0) if flag[0] == "true" else Colour(255, 255, 255)
        contrast = colour[0].contrast(icons)
        if contrast < LEAST_CONTRAST:
            shade, look = ("black" if flag[0] == "true" else "white"), ("dark" if device.is_night else "light")
            message = f"the icons of the status bar are {shade} on {colour[0].hex} ({look}): {contrast:.1f}:1"
            wanted = "false" if flag[0] == "true" else "true"
            hint = f"Set android:{LIGHT_STATUS_BAR} to {wanted} there."
            place = theme.place_of_item(f"android:{LIGHT_STATUS_BAR}", flag[1])
            said.setdefault((message, flag[1]), broken(message, hint, place, look=look))
    yield from said.values()
