"""Which of the two ways a launch screen is made in: with the compatibility library, or the platform's own."""

from __future__ import annotations

from typing import NamedTuple

from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.android.activity import ActivitySource
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.install import install_lines
from rivelt.platforms.android.options import Options
from rivelt.platforms.android.site import AndroidSite, Way


class Choice(NamedTuple):
    """A way, and why it is the one."""

    way: Way
    reason: str


def choose_way(site: AndroidSite, options: Options, place: Place | None = None) -> Choice:
    """The way that the brief asks for or, with "auto", the one that suits the module.

    Args:
        site: the module.
        options: what the brief says.
        place: where the brief says it.

    Raises:
        BadInput: the brief asks for the library where it cannot be used.
    """
    if options.way == "platform":
        return Choice("platform", "the brief says so")
    obstacle = _obstacle(site, options)
    if obstacle is None:
        return Choice("compat", "AndroidX, API levels that allow it, and a launcher activity that can be edited")
    if options.way == "compat" and not _is_only_unsure(site, obstacle):
        hint = 'Use way = "platform" under [android].' if obstacle.hint is None else obstacle.hint
        message = f'the compatibility library cannot be used (`android.way = "compat"`): {obstacle.message}'
        raise BadInput(message, place=obstacle.place or place, hint=hint)
    if options.way == "compat":
        return Choice("compat", "the brief says so")
    return Choice("platform", obstacle.message)


def _is_only_unsure(site: AndroidSite, obstacle: RiveltError) -> bool:
    """Whether nothing speaks against the library but that the build does not tell its API levels."""
    return "cannot be read" in obstacle.message and site.build is not None and site.build.file is not None


def _obstacle(site: AndroidSite, options: Options) -> RiveltError | None:
    """The first reason why the library cannot be used."""
    build = site.build
    if site.launch_style is not None:
        return BadInput("the framework's activity changes the theme by <meta-data>")
    if site.source is None:
        return BadInput(f"the source of {site.activity} was not found in the project")
    if site.source.problem is not None:
        return site.source.problem
    if build is None or build.path is None:
        return BadInput("the module has no build.gradle")
    if build.problem is not None:
        return build.problem
    if not build.uses_androidx:
        return BadInput("the project does not use AndroidX", place=Place(build.path))
    return _edit_obstacle(site, site.source, options) or _level_obstacle(site, build.path)


def _edit_obstacle(site: AndroidSite, source: ActivitySource, options: Options) -> RiveltError | None:
    """Why the build or the activity could not be edited."""
    try:
        for build in site.builds:
            build.with_library()
        for each in source.everywhere:
            if each.installs_itself is None:
                each.with_first_lines(install_lines(each, options), "")
    except RiveltError as error:
        return error
    return None


def _level_obstacle(site: AndroidSite, path: str) -> RiveltError | None:
    library = android_facts().library
    for name, level, least in (
        ("minSdk", site.min_sdk, library.min_sdk),
        ("compileSdk", site.compile_sdk, library.compile_sdk),
    ):
        if level is None:
            return BadInput(f"{name} cannot be read from the build files", place=Place(path))
        if level < least:
            return BadInput(f"{name} is {level}, and the library needs {least}", place=Place(path))
    return None
