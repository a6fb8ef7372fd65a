"""Rules on the oldest system that a target runs on: what it does not know, it does not show."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.native.declared import declared
from rivelt.platforms.ios.rules import BOOK
from rivelt.platforms.ios.rules.screen import first_screen
from rivelt.platforms.ios.site import Declaration, IosSite
from rivelt.rules.rulebook import Said, Subject, broken


def _older_than(subject: Subject[IosSite], level: int) -> Iterator[tuple[Declaration, int]]:
    """The configurations that run on systems before a major version, each with the oldest one."""
    for one in subject.site.declarations:
        oldest = one.deployment
        if oldest is not None and oldest < level:
            yield one, oldest


@BOOK.rule("IOS18")
def named_colours_are_known(subject: Subject[IosSite]) -> Iterator[Said]:
    """A storyboard for systems before iOS 11 holds its colours itself."""
    path, level = subject.site.storyboard, ios_facts().levels.named_colours
    old = next(_older_than(subject, level), None)
    if old is None or path is None or path not in subject.project:
        return
    document = subject.project.xml(path)
    for node in document.root.walk():
        if node.local == "color" and node.get("key") and (name := node.get("name")):
            message = (
                f"the named colour {name} needs iOS {level}, and configuration {old[0].name} runs from iOS {old[1]} on"
            )
            hint = "Give the colour by its values; `rivelt apply` does, and keeps the dark look in an image."
            yield broken(message, hint, document.place(node))
            return


@BOOK.rule("IOS19")
def the_dictionary_is_known(subject: Subject[IosSite]) -> Iterator[Said]:
    """Systems before iOS 14 do not read UILaunchScreen."""
    level = ios_facts().levels.dictionary
    for one, oldest in _older_than(subject, level):
        (found,) = declared(subject.project, (one,), subject.site.project_file)
        if found.dictionary is not None and found.storyboard is None:
            message = f"UILaunchScreen is read from iOS {level} on, and configuration {one.name} runs from iOS {oldest} on: there the app runs letterboxed"
            yield broken(message, 'Use a launch storyboard: screen = "storyboard" under [ios].', found.place)


@BOOK.rule("IOS20")
def the_dark_look_is_known(subject: Subject[IosSite]) -> Iterator[Said]:
    """Systems before iOS 13 have no dark look."""
    level = ios_facts().levels.dark
    old = next(_older_than(subject, level), None)
    if old is None:
        return
    light, dark = first_screen(subject)
    if light.layers != dark.layers:
        message = f"there is no dark look before iOS {level}, and configuration {old[0].name} runs from iOS {old[1]} on: there the light one is shown"
        yield broken(
            message, "Nothing need be done; see that the light one suits there.", Place(subject.site.project_file)
        )
