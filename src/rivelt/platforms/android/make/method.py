"""How a launch screen is made: with the compatibility library, or with the platform's own means."""

from __future__ import annotations

from enum import Enum, auto
from typing import NamedTuple

from rivelt.errors import BadInput, Place, RiveltError
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.code import install_lines, with_first_lines
from rivelt.platforms.android.make.frameworks import is_of_library
from rivelt.platforms.android.make.library import library_edits
from rivelt.platforms.android.native.activity import ActivitySource
from rivelt.platforms.android.options import AndroidTable
from rivelt.platforms.android.site import AndroidSite, Way
from rivelt.project.project import Project


class Choice(NamedTuple):
    """A way, and the reason for it."""

    way: Way
    reason: str


class Doubt(Enum):
    """How much speaks against the library."""

    CERTAIN = auto()
    """It cannot be used."""
    UNSURE = auto()
    """The build does not say its API levels; a person who knows them may ask for it all the same."""


class Obstacle(NamedTuple):
    """A reason why the library cannot be used."""

    error: RiveltError
    doubt: Doubt = Doubt.CERTAIN


def choose_way(project: Project, site: AndroidSite, options: AndroidTable, place: Place | None = None) -> Choice:
    """Return the way that the brief asks for or, with "auto", the one that suits the module.

    Args:
        project: the project.
        site: the module.
        options: what the brief says.
        place: where the brief says it.

    Raises:
        BadInput: the brief asks for the library where it cannot be used, or the platform's means would break what the source does.
    """
    installing = site.source.installs_itself if site.source is not None else None
    if options.way == "platform":
        if installing is not None:
            raise _would_break(installing, "the brief asks for the platform way", place)
        return Choice("platform", "the brief says so")
    if installing is not None and any(build.has_library for build in site.builds):
        return Choice("compat", f"the library is a dependency, and {installing} installs it")
    obstacle = _obstacle(project, site, options)
    if obstacle is None:
        return Choice("compat", "AndroidX, API levels that allow it, and a launcher activity that can be edited")
    if options.way == "auto":
        if installing is None:
            return Choice("platform", obstacle.error.message)
        if obstacle.doubt is Doubt.CERTAIN:
            raise _would_break(installing, obstacle.error.message, obstacle.error.place or place)
        return Choice("compat", f"{installing} installs the library")
    if obstacle.doubt is Doubt.UNSURE:
        return Choice("compat", "the brief says so")
    error = obstacle.error
    hint = 'Use way = "platform" under [android].' if error.hint is None else error.hint
    message = f'the compatibility library cannot be used (`android.way = "compat"`): {error.message}'
    raise BadInput(message, place=error.place or place, hint=hint)


def _would_break(installing: str, reason: str, place: Place | None) -> BadInput:
    """The refusal to make a launch screen without the library for an activity that installs it."""
    message = f"{installing} installs the compatibility library, which crashes with a theme that is not the library's: {reason}"
    hint = 'Use way = "compat" under [android], or take the call out of the source.'
    return BadInput(message, place=place, hint=hint)


def _obstacle(project: Project, site: AndroidSite, options: AndroidTable) -> Obstacle | None:
    """The first reason why the library cannot be used."""
    build = site.build
    if site.launch_style is not None:
        return Obstacle(BadInput("the framework's activity changes the theme by <meta-data>"))
    if site.framework is not None and site.framework.theme_meta:
        return Obstacle(BadInput(f"{site.framework.name}'s activity changes the theme by <meta-data>"))
    if is_of_library(site):
        return Obstacle(BadInput(f"{site.activity} is a class of a library"))
    if site.source is None:
        return Obstacle(BadInput(f"the source of {site.activity} was not found in the project"))
    if site.source.problem is not None:
        return Obstacle(site.source.problem)
    if build is None or build.path is None:
        return Obstacle(BadInput("the module has no build.gradle"))
    if build.problem is not None:
        return Obstacle(build.problem)
    if not build.uses_androidx:
        return Obstacle(BadInput("the project does not use AndroidX", place=Place(build.path)))
    return _edit_obstacle(project, site, site.source, options) or _level_obstacle(site, build.path)


def _edit_obstacle(
    project: Project, site: AndroidSite, source: ActivitySource, options: AndroidTable
) -> Obstacle | None:
    """Why the build or the activity could not be edited."""
    try:
        for build in site.builds:
            library_edits(project, build)
        for each in source.everywhere:
            if each.installs_itself is None:
                with_first_lines(project, each, install_lines(project, each, options), "")
    except RiveltError as error:
        return Obstacle(error)
    return None


def _level_obstacle(site: AndroidSite, path: str) -> Obstacle | None:
    library = android_facts().library
    for name, level, least in (
        ("minSdk", site.min_sdk, library.min_sdk),
        ("compileSdk", site.compile_sdk, library.compile_sdk),
    ):
        if level is None:
            error = BadInput(f"{name} cannot be read from the build files", place=Place(path))
            return Obstacle(error, Doubt.UNSURE)
        if level < least:
            return Obstacle(BadInput(f"{name} is {level}, and the library needs {least}", place=Place(path)))
    return None
