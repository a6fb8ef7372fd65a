"""Rules on the launcher's code: second launch screens, waiting, and conditions without end."""

from __future__ import annotations

import re
from collections.abc import Iterator

from rivelt.edit.lines import Lines
from rivelt.errors import Place
from rivelt.patterns import regex
from rivelt.platforms.android.native.activity import INSTALL_CALL, installs
from rivelt.platforms.android.rules import BOOK
from rivelt.platforms.android.site import AndroidSite
from rivelt.platforms.choose import listed
from rivelt.rules.rulebook import Said, Subject, broken, unknown

_SLEEP = regex(rb"\b(?:Thread|SystemClock)\s*\.\s*sleep\s*\(|\bTimeUnit\s*\.\s*\w+\s*\.\s*sleep\s*\(")
_ENDLESS = regex(
    rb"setKeepOnScreenCondition\s*(?:\{\s*true\s*\}|\(\s*(?:\(\s*\)\s*->\s*true|\{\s*true\s*\}|SplashScreen\.KeepOnScreenCondition\s*\{\s*true\s*\})\s*\))"
)
# What builds the window, or asks for it, with the theme of that moment (android.app.Activity, androidx.activity, androidx.core.view).
_BUILDS_WINDOW = frozenset(
    {
        "addContentView",
        "decorView",
        "enableEdgeToEdge",
        "getWindow",
        "requestWindowFeature",
        "setContent",
        "setContentView",
        "supportRequestWindowFeature",
        "window",
        "WindowCompat",
    }
)
_COMMENT = regex(rb"//[^\n]*|/\*.*?\*/", re.DOTALL)


def _code(subject: Subject[AndroidSite]) -> Iterator[tuple[str, bytes] | Said]:
    """The launcher's source, and those of the classes it inherits from, with comments blanked."""
    source = subject.site.source
    if source is None:
        yield unknown(f"the source of {subject.site.activity or 'the launcher activity'} is not in the project")
        return
    for path in dict.fromkeys(path for path, _ in source.classes):
        data = subject.project.read(path)
        yield path, _COMMENT.sub(lambda found: re.sub(rb"[^\n]", b" ", found[0]), data)


def _unread(subject: Subject[AndroidSite]) -> Said:
    """What is reported where the launcher's source is not there, or cannot be parsed."""
    source = subject.site.source
    if source is not None and source.problem is not None:
        return unknown(str(source.problem), source.problem.place)
    return unknown(f"the source of {subject.site.activity or 'the launcher activity'} is not in the project")


@BOOK.rule("AND12")
def no_second_launch_screen(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """An activity that waits and moves on is a launch screen after the launch screen."""
    source = subject.site.source
    if source is None:
        yield unknown(f"the source of {subject.site.activity or 'the launcher activity'} is not in the project")
    elif source.problem is not None:
        yield _unread(subject)
    elif source.second_problem is not None:
        yield unknown(
            f"whether a second launch screen follows is unknown: {source.second_problem}", source.second_problem.place
        )
    elif source.second is not None:
        second = source.second
        leads = listed(second.targets) or "what comes next"
        does = "starts" if second.kind == "activity" else "navigates to"
        message = f"a second launch screen: {second.name} is shown {second.duration}, then {does} {leads}"
        hint = f"Begin with {leads}; keep the system's screen with a hold condition while data loads."
        yield broken(message, hint, second.place)


@BOOK.rule("AND20")
def call_comes_first(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """What leaves the launch theme comes before all that builds the window from it."""
    source = subject.site.source
    if subject.site.launch_style is not None:
        return
    if source is None or source.problem is not None:
        yield _unread(subject)
        return
    is_installed = installs(subject.project, source)
    if not is_installed and not subject.project.source(source.path).calls("setTheme"):
        return
    call = INSTALL_CALL if is_installed else "setTheme"
    hint = f"Make {call}(...) the first statement of onCreate."
    for path, name in source.classes:
        parsed = subject.project.source(path)
        before = parsed.statements_before(name, call)
        is_here = before is not None
        for statement in before if before is not None else parsed.statements_before(name, "onCreate") or ():
            first = parsed.mentions(statement, _BUILDS_WINDOW)
            if first is not None:
                where = f"{call}(...)" if is_here else f"super.onCreate(...), where {call}(...) is called"
                at = Place.at(path, parsed.data, statement.start_byte)
                yield broken(f"{first} comes before {where}: the window is built from the launch theme", hint, at)
                return
        if is_here:
            return
    if is_installed:
        yield unknown(f"{call}() is not called in onCreate itself, so that what comes before it is unknown")


@BOOK.rule("AND13")
def nobody_sleeps(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """A sleeping launcher freezes the launch screen, and the app with it."""
    message = "the launcher sleeps: nothing is drawn and nothing answers meanwhile"
    hint = "Load in the background; keep the launch screen with a hold condition until it is done."
    return _found(subject, _SLEEP, message, hint)


@BOOK.rule("AND18")
def holding_ends(subject: Subject[AndroidSite]) -> Iterator[Said]:
    """A hold condition that is always true never lets the app appear."""
    message = "the hold condition is always true: the launch screen never goes"
    hint = "Return what becomes false: whether data still loads, and a limit in time."
    return _found(subject, _ENDLESS, message, hint)


def _found(subject: Subject[AndroidSite], pattern: re.Pattern[bytes], message: str, hint: str) -> Iterator[Said]:
    """A fault wherever a pattern stands in the launcher's code."""
    for part in _code(subject):
        if isinstance(part, Said):
            yield part
            continue
        path, data = part
        lines = Lines(data, path)
        for found in pattern.finditer(data):
            yield broken(message, hint, lines.place(found.start()))
