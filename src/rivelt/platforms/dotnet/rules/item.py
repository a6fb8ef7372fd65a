"""The rules of .NET single projects: the item, its picture, and the activity."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.patterns import regex
from rivelt.platforms.dotnet.facts import dotnet_facts
from rivelt.platforms.dotnet.native.android import find_activity, folder_of, framework_theme, picture_of
from rivelt.platforms.dotnet.native.project import SingleProject, read_single_project
from rivelt.platforms.dotnet.rules import BOOK
from rivelt.platforms.dotnet.site import DotnetSite
from rivelt.project.snapshot import join
from rivelt.rules.rulebook import Said, Subject, broken, unknown

_NAME = regex(r"[a-z][a-z0-9_]*")
_APPLY = "run `rivelt apply`"


def _single(subject: Subject[DotnetSite]) -> SingleProject:
    return read_single_project(subject.project, subject.site.project_file)


def _at(single: SingleProject) -> Place:
    node = single.item.node if single.item is not None else single.document.root
    return single.document.place(node)


@BOOK.rule("NET01")
def one_item_names_a_picture(subject: Subject[DotnetSite]) -> Iterator[Said]:
    """One item with a picture that is there."""
    single = _single(subject)
    item = single.item
    if item is None:
        yield broken(
            f"no {dotnet_facts().item} is in the project: no launch screen is made",
            f"Add one, or {_APPLY}.",
            _at(single),
        )
        return
    if len(single.items) > 1:
        yield broken(f"{len(single.items)} launch pictures are named, and one is used", "Leave one.", _at(single))
    if item.path is None:
        yield unknown(f"the picture {item.written} is named by a wildcard or a variable", _at(single))
    elif item.path not in subject.project:
        yield broken(f"the launch picture {item.written} is not there", f"Add the file, or {_APPLY}.", _at(single))
    elif picture_of(subject.project, single) is None:
        yield broken(f"the launch picture {item.written} cannot be read", f"Export it again, or {_APPLY}.", _at(single))


@BOOK.rule("NET02")
def every_platform_accepts_the_name(subject: Subject[DotnetSite]) -> Iterator[Said]:
    """Small letters, digits and underscores, a letter first."""
    single = _single(subject)
    if single.item is not None and single.item.path is not None:
        stem = single.item.path.rpartition("/")[2].rpartition(".")[0]
        if not _NAME.fullmatch(stem):
            message = f"the picture's name {stem} is refused at build time: Android allows small letters, digits and underscores"
            yield broken(message, f"Rename the file, or {_APPLY}.", _at(single))


@BOOK.rule("NET03")
def colour_and_size_are_given(subject: Subject[DotnetSite]) -> Iterator[Said]:
    """A colour behind the picture, and its size."""
    single = _single(subject)
    item = single.item
    if item is None:
        return
    if item.colour is None:
        written = item.node.get("Color")
        said = f"the colour {written} is not understood" if written else "no colour is given: the screen is white"
        yield broken(said, 'Set Color="#RRGGBB".', _at(single))
    if item.base_size is None:
        written = item.node.get("BaseSize")
        said = (
            f"the base size {written} is not two numbers"
            if written
            else "no base size is given: a picture of another size changes all screens"
        )
        yield broken(said, 'Set BaseSize="width,height" in dp.', _at(single))


@BOOK.rule("NET04")
def the_activity_starts_with_a_launch_theme(subject: Subject[DotnetSite]) -> Iterator[Said]:
    """The activity that starts the app names a theme that exists."""
    if "android" not in subject.site.feeds:
        return
    single = _single(subject)
    activity = find_activity(subject.project, single)
    if activity is None:
        yield unknown("no activity has MainLauncher = true")
        return
    name = (activity.theme or "").removeprefix("@style/")
    theirs = framework_theme(subject.project, single, activity)
    resources = join(folder_of(single), "Resources")
    files = [path for path in subject.project.below(resources) if path.endswith(".xml")]
    is_defined = any(f'<style name="{name}"'.encode() in subject.project.read(path) for path in files)
    if activity.theme is None:
        message = f"{activity.attribute.class_name} starts without a launch theme"
        yield broken(
            message, f'Give it Theme = "@style/{dotnet_facts().launch_theme}", or {_APPLY}.', Place(activity.path)
        )
    elif not is_defined and name != dotnet_facts().launch_theme and name == theirs:
        message = f"{activity.attribute.class_name} starts with @style/{name}, which is in no resource of the project"
        yield broken(message, f"Define it, or {_APPLY}.", Place(activity.path))
