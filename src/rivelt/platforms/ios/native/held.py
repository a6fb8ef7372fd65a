"""How devices are held for an app: the screens that its targets, its families of devices and its orientations allow."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from rivelt.platforms.ios.facts import every_screen, idiom_of, screens, splits, turned
from rivelt.platforms.ios.native.declared import Declared
from rivelt.platforms.ios.site import Declaration, Held, Idiom, Orientation
from rivelt.scene.model import Screen

_IDIOMS: tuple[Idiom, ...] = ("iphone", "ipad")
_ORIENTATIONS: tuple[Orientation, ...] = ("portrait", "landscape")
_FULL_SCREEN = "UIRequiresFullScreen"


def held(declarations: Iterable[Declaration], found: Iterable[Declared]) -> Held:
    """Return the kinds of device that an app is made for, each with the orientations it supports there, in any configuration."""
    families = {idiom for one in declarations for idiom in one.families}
    allowed = {(idiom, way) for one in found for idiom in families for way in one.orientations(idiom)}
    return tuple((idiom, way) for idiom in _IDIOMS for way in _ORIENTATIONS if (idiom, way) in allowed)


def shares_screen(found: Iterable[Declared]) -> bool:
    """Return whether an app can be launched beside another one: in all orientations of an iPad, and not in full screen alone."""
    return all(
        one.on("ipad").values.get(_FULL_SCREEN) is not True and set(one.orientations("ipad")) == set(_ORIENTATIONS)
        for one in found
    )


def held_screens(ways: Held) -> tuple[Screen, ...]:
    """Return the screens that a proof shows, as the app lets them be held."""
    return tuple(screen for one in screens() for screen in _ways(one, ways)) or screens()


def every_held_screen(ways: Held, *, is_shared: bool) -> tuple[Screen, ...]:
    """Return all screens that are known, as the app lets them be held; with `is_shared` also the parts of split views."""
    whole = [screen for one in every_screen() for screen in _ways(one, ways)] or list(every_screen())
    parts = [part for screen in whole for part in splits(screen)] if is_shared else []
    return (*whole, *parts)


def _ways(screen: Screen, ways: Held) -> Iterator[Screen]:
    for idiom, way in ways:
        if idiom == idiom_of(screen):
            yield screen if way == "portrait" else turned(screen)
