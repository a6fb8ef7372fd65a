"""What the platform's own themes and colours are, asked of the framework at each level: makes `platform.json`.

python tests/android_framework/tables.py
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

import pyvips

sys.path.insert(0, str(Path(__file__).parents[1]))

from android_framework.judge import (
    COMPILED_AGAINST,
    DRAWN_FROM,
    Drawing,
    Framework,
    Linker,
    Phone,
    Question,
    java,
    level_jar,
    levels,
)

OUT = Path(__file__).parents[2] / "src" / "rivelt" / "platforms" / "android" / "platform.json"
COLOURS = ("colorBackground", "statusBarColor", "navigationBarColor", "textColorPrimary")
FLAGS = (
    "windowIsTranslucent",
    "windowIsFloating",
    "windowDisablePreview",
    "windowNoDisplay",
    "windowDrawsSystemBarBackgrounds",
    "windowLightStatusBar",
)
WINDOW = "windowBackground"
FLAT = {
    "android:drawable/screen_background_selector_dark": "#FF000000",
    "android:drawable/screen_background_selector_light": "#FFFFFFFF",
    "android:drawable/screen_background_dark": "#FF000000",
    "android:drawable/screen_background_light": "#FFFFFFFF",
}
"""Drawables that are one colour, for the level that cannot draw: `@android:color/background_dark` and `_light`."""

ABOUT = (
    'What the platform\'s own themes and colours are, by API level: [[23, "#FFFFFFFF"], [31, "#FF000000"]] is white from 23 on and black '
    "from 31 on. Asked of Android's own framework at levels {levels} by tests/android_framework/tables.py, which makes this file; below "
    "{first} nothing was asked. Themes whose look is the device maker's (DeviceDefault) are left out."
)


def names(kind: str) -> list[str]:
    """Return the public resources of a kind, as the class `android.R` has them: "Theme_Material" for "Theme.Material"."""
    kit = java()
    assert kit is not None
    command = [kit("javap"), "-cp", str(level_jar(COMPILED_AGAINST)), f"android.R${kind}"]
    shown = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    return re.findall(r"static (?:final )?int (\w+);", shown)


def changes(found: Mapping[int, Any]) -> list[list[Any]]:
    """Return the levels at which a value begins."""
    listed: list[list[Any]] = []
    for level, value in sorted(found.items()):
        if not listed or listed[-1][1] != value:
            listed.append([level, value])
    return listed


def flat(path: Path) -> str:
    """Return the one colour of a drawing; "" where it has several or is not there."""
    if not path.exists():
        return ""
    image = pyvips.Image.new_from_file(str(path)).colourspace("srgb")
    image = image if image.hasalpha() else image.addalpha()
    pixels = set(map(tuple, image.numpy().reshape(-1, 4).tolist()))
    if len(pixels) != 1:
        return ""
    red, green, blue, alpha = pixels.pop()
    return f"#{alpha:02X}{red:02X}{green:02X}{blue:02X}"


def at_level(value: Any, level: int) -> Any:
    """Return what a value of the table is at a level; a table of values for a table."""
    if isinstance(value, dict):
        return {name: at_level(inner, level) for name, inner in value.items()}
    return next((changed for since, changed in reversed(value) if since <= level), value[0][1])


def asked(
    framework: Framework, package: str, work: Path, every: int = 1, at: Sequence[int] = ()
) -> dict[str, dict[str, Any]]:
    """Return the table as the framework of this machine gives it: the levels at which each value begins.

    `every`: how many themes are passed over for one that is asked for, and one more. `at`: the levels to ask; all when empty.
    """
    at = at or levels()
    themes = [
        name.replace("_", ".")
        for name in names("style")
        if re.match("Theme(_|$)", name) and "DeviceDefault" not in name
    ]
    values = [f"?android:attr/{name}" for name in (*COLOURS, *FLAGS, WINDOW)]
    questions = [
        Question(
            package,
            level,
            Phone(),
            f"@android:style/{theme}",
            values,
            [Drawing("?android:attr/windowBackground", 4, 4, str(work / f"{theme}-{level}.png"))],
        )
        for theme in themes[::every]
        for level in at
    ]
    by_theme: dict[str, dict[str, dict[int, Any]]] = {theme: {} for theme in themes}
    for question, answer in zip(questions, framework.ask(questions), strict=True):
        if "error" in answer:
            continue
        theme = question.theme.rpartition("/")[2]
        given = {name: answer["values"][f"?android:attr/{name}"] or {} for name in (*COLOURS, *FLAGS, WINDOW)}
        found = {name: given[name].get("colour", "") for name in COLOURS}
        found |= {name: bool(given[name].get("number")) for name in FLAGS}
        window = given[WINDOW].get("colour")
        found[WINDOW] = window if window else flat(work / f"{theme}-{question.level}.png")
        if window is None and question.level < DRAWN_FROM and given[WINDOW].get("resource") in FLAT:
            found[WINDOW] = FLAT[given[WINDOW]["resource"]]
        for name, value in found.items():
            by_theme[theme].setdefault(name, {})[question.level] = value
    return {"themes": dict(_said(by_theme)), "colours": dict(_colours(framework, package, at))}


def _said(themes: Mapping[str, Mapping[str, Mapping[int, Any]]]) -> Iterator[tuple[str, Any]]:
    """What themes set. A value that nothing sets is left out, and a theme that sets none."""
    for theme, values in themes.items():
        listed = {name: changes(found) for name, found in values.items()}
        shown = {name: found for name, found in listed.items() if [value for _, value in found] not in ([""], [False])}
        if shown:
            yield theme, shown


def _colours(framework: Framework, package: str, at: Sequence[int]) -> Iterator[tuple[str, Any]]:
    colours = [name for name in names("color") if not name.startswith("system_")]  # those come from the wallpaper
    questions = [Question(package, level, values=[f"@android:color/{name}" for name in colours]) for level in at]
    answers = framework.ask(questions)
    for name in colours:
        by_level = {
            question.level: (answer["values"][f"@android:color/{name}"] or {}).get("colour", "")
            for question, answer in zip(questions, answers, strict=True)
        }
        if any(by_level.values()):
            yield name, changes(by_level)


def text_of(found: Mapping[str, Mapping[str, Any]]) -> str:
    """Return the table as JSON, a theme or a colour to a line."""
    about = ABOUT.format(levels=", ".join(map(str, levels())), first=levels()[0])
    parts = [f'"about": {json.dumps(about)}']
    for kind, values in found.items():
        lines = ",\n".join(f"{json.dumps(name)}: {json.dumps(value)}" for name, value in values.items())
        parts.append(f"{json.dumps(kind)}: {{\n{lines}\n}}")
    return "{\n" + ",\n".join(parts) + "\n}\n"


def made() -> str:
    """Return the table as the framework of this machine gives it."""
    with tempfile.TemporaryDirectory() as temporary:
        work = Path(temporary)
        package = Linker(work / "link").link({"values/a.xml": "<resources><color name='a'>#FFF</color></resources>"})
        framework = Framework(work / "framework")
        try:
            return text_of(asked(framework, package, work))
        finally:
            framework.close()


if __name__ == "__main__":
    OUT.write_text(made())
