"""The lines that the launcher activity begins with, in its own language."""

from __future__ import annotations

from rivelt.edit.code import FirstLines
from rivelt.errors import BadInput, Place
from rivelt.platforms.android.activity import INSTALL_CALL, ActivitySource
from rivelt.platforms.android.options import Options

_LIBRARY_CLASS = "androidx.core.splashscreen.SplashScreen"
_CLOCK = "android.os.SystemClock.uptimeMillis()"
_STARTED = "riveltStarted"
_REASON = "must stay before super.onCreate"


def install_lines(source: ActivitySource, options: Options) -> FirstLines:
    """The install call of the compatibility library, with the condition that keeps the launch screen if the brief has one."""
    is_java = source.language == "Java"
    if is_java:
        is_taken = _names_another(source)
        name = _LIBRARY_CLASS if is_taken else "SplashScreen"
        call, imports = f"{name}.{INSTALL_CALL}(this)", () if is_taken else (_LIBRARY_CLASS,)
    else:
        call, imports = f"{INSTALL_CALL}()", (f"{_LIBRARY_CLASS}.Companion.{INSTALL_CALL}",)
    if options.hold_while is None:
        return FirstLines((call + (";" if is_java else ""),), _REASON, imports)
    return FirstLines(_holding(call, options.hold_while, options.hold_limit_ms, is_java=is_java), _REASON, imports)


def _holding(call: str, condition: str, limit: int, *, is_java: bool) -> tuple[str, ...]:
    waits = f"({condition}) && {_CLOCK} - {_STARTED} < {limit}"
    if is_java:
        return (f"final long {_STARTED} = {_CLOCK};", f"{call}.setKeepOnScreenCondition(() -> {waits});")
    return (f"val {_STARTED} = {_CLOCK}", f"{call}.setKeepOnScreenCondition {{ {waits} }}")


def theme_lines(source: ActivitySource, theme: str, r_package: str | None) -> FirstLines:
    """The line that gives the app its own theme back.

    Args:
        source: the activity.
        theme: the reference of the theme, such as `@style/Theme.Tern` or `@android:style/Theme`.
        r_package: the package of the generated `R` class, if it is known.
    """
    return FirstLines((theme_call(source, theme, r_package),), _REASON)


def theme_call(source: ActivitySource | None, theme: str, r_package: str | None) -> str:
    """`setTheme(...)` with a style, as the activity's language writes it."""
    package, _, style = theme.removeprefix("@").partition("style/")
    constant = f"R.style.{style.replace('.', '_').replace('-', '_')}"
    if package == "android:":
        constant = f"android.{constant}"
    elif source is not None and source.problem is None and r_package and not _sees_r(source, r_package):
        constant = f"{r_package}.{constant}"
    return f"setTheme({constant})" + (";" if source is not None and source.language == "Java" else "")


def _sees_r(source: ActivitySource, r_package: str) -> bool:
    """Whether plain `R` is the app's in this file."""
    imported = {source.source.imported(node) for node in source.source.imports}
    return source.source.package in {r_package, ""} or bool(imported & {f"{r_package}.R", f"{r_package}.*"})


def _names_another(source: ActivitySource) -> bool:
    """Whether `SplashScreen` already is the name of something else in a Java file."""
    imported = (source.source.imported(node) for node in source.source.imports)
    if any(name.endswith(".SplashScreen") and name != _LIBRARY_CLASS for name in imported):
        return True
    folder = source.path.rpartition("/")[0]
    return f"{folder}/SplashScreen.java" in source.snapshot or f"{folder}/SplashScreen.kt" in source.snapshot


def refuse_bad_condition(source: ActivitySource, condition: str, place: Place | None) -> None:
    """Refuse a condition that is no expression of the activity's language.

    Raises:
        BadInput: it would not parse.
    """
    kind = type(source.source)
    # In brackets of its own: what closes them, begins a comment or adds a statement does not parse.
    text = (
        f"class X {{ Object x = (\n{condition}\n); }}" if source.language == "Java" else f"val x = (\n{condition}\n)\n"
    )
    tree = kind(text.encode(), source.path).root
    if tree.has_error or "//" in condition or "/*" in condition or len(tree.named_children) != 1:
        message = f"`android.hold_while` is no {source.language} expression: {condition}"
        raise BadInput(
            message, place=place, hint="Write one expression that is true while the launch screen is to stay."
        )
