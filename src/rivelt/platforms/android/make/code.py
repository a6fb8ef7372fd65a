"""The launcher activity's source, edited: the lines that it begins with, in its own language."""

from __future__ import annotations

import re

from rivelt.edit.source.language import FirstLines
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.plan.model import EditFile
from rivelt.platforms.android.native.activity import INSTALL_CALL, ActivitySource, persons_source
from rivelt.platforms.android.options import AndroidTable
from rivelt.project.project import Project

_LIBRARY_CLASS = "androidx.core.splashscreen.SplashScreen"
_STARTED, _HOLDS = "riveltStarted", "riveltHolds"
_REASON = "must stay first in onCreate"
_LONGEST_LINE = 80
_INSTALL_IMPORT = regex(
    rb"(?m)^import androidx\.core\.splashscreen\.SplashScreen(?:\.Companion\.installSplashScreen)?;?[ \t]*\r?\n"
)


def with_first_lines(
    project: Project, source: ActivitySource, first: FirstLines | None, summary: str
) -> list[EditFile]:
    """Return the edit that puts lines first in an activity's `onCreate`, or (None) takes Rivelt's away; none when nothing changes.

    Raises:
        BadInput: the source is not understood.
    """
    path = source.path
    before = project.read(path)
    if first is None:
        after = _tidied(project, path)
    else:
        found = project.source_of(path, before if first.imports else _tidied(project, path))
        after = found.with_first_lines(source.class_name, first, lambda data: project.source_of(path, data))
    return [] if after == before else [EditFile(path, before, after, summary)]


def _tidied(project: Project, path: str) -> bytes:
    """The file without lines of Rivelt's, and without the import that only they needed."""
    bare = persons_source(project, path)
    if not project.source(path).is_marked or bare.calls(INSTALL_CALL):
        return bare.data
    return _INSTALL_IMPORT.sub(b"", bare.data)


def install_lines(project: Project, source: ActivitySource, options: AndroidTable) -> FirstLines:
    """Return the install call of the compatibility library, with the condition that keeps the launch screen if the brief has one."""
    is_java = source.language == "Java"
    if is_java:
        is_taken = _names_another(project, source)
        name = _LIBRARY_CLASS if is_taken else "SplashScreen"
        call, imports = f"{name}.{INSTALL_CALL}(this)", () if is_taken else (_LIBRARY_CLASS,)
    else:
        call, imports = f"{INSTALL_CALL}()", (f"{_LIBRARY_CLASS}.Companion.{INSTALL_CALL}",)
    if options.hold_while is None:
        return FirstLines((call + (";" if is_java else ""),), _REASON, imports)
    keep = f"(this::{_HOLDS});" if is_java else f" {{ {_HOLDS}() }}"
    whole = (f"{call}.setKeepOnScreenCondition{keep}",)
    apart = (call, f"    .setKeepOnScreenCondition{keep}")
    statements = whole if len(whole[0]) <= _LONGEST_LINE else apart
    members = _holding(options.hold_while, options.hold_limit_ms, is_java=is_java)
    return FirstLines(statements, _REASON, imports, members)


def _holding(condition: str, limit: int, *, is_java: bool) -> tuple[tuple[str, str], ...]:
    """The members of the class that say whether the launch screen stays: the brief's condition, and an end to it."""
    late = f"(System.nanoTime() - {_STARTED}) / 1_000_000 < {limit}"
    if is_java:
        lines = (
            f"private final long {_STARTED} = System.nanoTime();",
            f"private boolean {_HOLDS}() {{",
            f"    boolean isWaiting = {condition};",
            f"    return isWaiting && {late};",
        )
    else:
        lines = (
            f"private val {_STARTED} = System.nanoTime()",
            f"private fun {_HOLDS}(): Boolean {{",
            f"    val isWaiting: Boolean = {condition}",
            f"    return isWaiting && {late}",
        )
    reasons = ("when the launch began", "whether the launch screen stays", "hold_while", "hold_limit_ms")
    return (*zip(lines, reasons, strict=True), ("}", "end"))


def theme_lines(project: Project, source: ActivitySource, theme: str, r_package: str | None) -> FirstLines:
    """Return the line that gives the app its own theme back.

    Args:
        project: the project.
        source: the activity.
        theme: the reference of the theme, such as `@style/Theme.Tern` or `@android:style/Theme`.
        r_package: the package of the generated `R` class, if it is known.
    """
    return FirstLines((theme_call(project, source, theme, r_package),), _REASON)


def theme_call(project: Project, source: ActivitySource | None, theme: str, r_package: str | None) -> str:
    """Return `setTheme(...)` with a style, as the activity's language writes it."""
    package, _, style = theme.removeprefix("@").partition("style/")
    constant = f"R.style.{style.replace('.', '_').replace('-', '_')}"
    if package == "android:":
        constant = f"android.{constant}"
    elif source is not None and source.problem is None and r_package and not _sees_r(project, source, r_package):
        constant = f"{r_package}.{constant}"
    return f"setTheme({constant})" + (";" if source is not None and source.language == "Java" else "")


def _sees_r(project: Project, source: ActivitySource, r_package: str) -> bool:
    """Whether plain `R` is the app's in this file."""
    parsed = project.source(source.path)
    return parsed.package in {r_package, ""} or bool({f"{r_package}.R", f"{r_package}.*"} & set(parsed.imported))


def _names_another(project: Project, source: ActivitySource) -> bool:
    """Whether `SplashScreen` already is the name of something else in a Java file."""
    imported = project.source(source.path).imported
    if any(name.endswith(".SplashScreen") and name != _LIBRARY_CLASS for name in imported):
        return True
    folder = source.path.rpartition("/")[0]
    return f"{folder}/SplashScreen.java" in project or f"{folder}/SplashScreen.kt" in project


def unknown_name(project: Project, source: ActivitySource, condition: str) -> str | None:
    """Return the name that a condition begins with, if neither the activity's class (or one above it in the project) nor its file knows it."""
    parsed = project.source(source.path)
    name = parsed.leading_name(condition)
    if name is None or parsed.declares(source.class_name, name):
        return None
    if any(project.source(path).declares(above, name) for path, above in source.chain):
        return None
    folder = source.path.rpartition("/")[0]
    declared = re.compile(rf"\b(?:class|object|interface|enum|record)\s+{re.escape(name)}\b".encode())
    siblings = (
        path for path in project.below(folder) if path.rpartition("/")[0] == folder and path.endswith((".kt", ".java"))
    )
    return None if any(declared.search(project.read(path)) for path in siblings) else name


def refuse_bad_condition(project: Project, source: ActivitySource, condition: str, place: Place | None) -> None:
    """Refuse a condition that is not an expression of the activity's language.

    Raises:
        BadInput: it would not parse.
    """
    if not project.source(source.path).is_expression(condition):
        message = f"`android.hold_while` is not a valid {source.language} expression: {condition}"
        hint = "Write one expression that is true while the launch screen is to stay."
        raise BadInput(message, place=place, hint=hint)
