"""Rules on the launcher's code: second launch screens, waiting, and conditions without end."""

from __future__ import annotations

import re
from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.platforms.android.activity import ActivitySource
from rivelt.platforms.android.site import AndroidSite
from rivelt.platforms.rules import Fault, Rulebook, Said, Subject, Untold, place_at

BOOK = Rulebook()
_SLEEP = re.compile(rb"\b(?:Thread|SystemClock)\s*\.\s*sleep\s*\(|\bTimeUnit\s*\.\s*\w+\s*\.\s*sleep\s*\(")
_ENDLESS = re.compile(
    rb"setKeepOnScreenCondition\s*(?:\{\s*true\s*\}|\(\s*(?:\(\s*\)\s*->\s*true|\{\s*true\s*\}|SplashScreen\.KeepOnScreenCondition\s*\{\s*true\s*\})\s*\))"
)
_COMMENT = re.compile(rb"//[^\n]*|/\*.*?\*/", re.DOTALL)


def heading(source: ActivitySource) -> Place:
    """Where an activity begins its work: its `onCreate`, or else the class."""
    return place_at(source.path, source.source.data, source.source.heading(source.class_name))


def _code(subject: Subject) -> Iterator[tuple[str, bytes] | Untold]:
    """The launcher's source, and those of the classes it inherits from, with comments blanked."""
    assert isinstance(subject.site, AndroidSite)
    source = subject.site.source
    if source is None:
        yield Untold(f"the source of {subject.site.activity or 'the launcher activity'} is not in the project")
        return
    for path in dict.fromkeys((source.path, *source.chain)):
        data = subject.snapshot.read(path)
        yield path, _COMMENT.sub(lambda found: re.sub(rb"[^\n]", b" ", found[0]), data)


@BOOK.rule("AND12")
def no_second_launch_screen(subject: Subject) -> Iterator[Said]:
    """An activity that waits and moves on is a launch screen after the launch screen."""
    assert isinstance(subject.site, AndroidSite)
    source = subject.site.source
    if source is None:
        yield Untold(f"the source of {subject.site.activity or 'the launcher activity'} is not in the project")
    elif source.only_waits:
        hint = "Start the real activity from the launcher; keep the system's screen with a hold condition while data loads."
        yield Fault(
            f"{source.class_name} waits, starts another activity and ends: a second launch screen",
            hint,
            heading(source),
        )


@BOOK.rule("AND13")
def nobody_sleeps(subject: Subject) -> Iterator[Said]:
    """A sleeping launcher freezes the launch screen, and the app with it."""
    message = "the launcher sleeps: nothing is drawn and nothing answers meanwhile"
    hint = "Load in the background; keep the launch screen with a hold condition until it is done."
    return _found(subject, _SLEEP, message, hint)


@BOOK.rule("AND18")
def holding_ends(subject: Subject) -> Iterator[Said]:
    """A hold condition that is always true never lets the app appear."""
    message = "the hold condition is always true: the launch screen never goes"
    hint = "Return what becomes false: whether data still loads, and a limit in time."
    return _found(subject, _ENDLESS, message, hint)


def _found(subject: Subject, pattern: re.Pattern[bytes], message: str, hint: str) -> Iterator[Said]:
    """A fault wherever a pattern stands in the launcher's code."""
    for part in _code(subject):
        if isinstance(part, Untold):
            yield part
            continue
        path, data = part
        for found in pattern.finditer(data):
            yield Fault(message, hint, place_at(path, data, found.start()))
