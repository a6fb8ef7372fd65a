"""Android projects as they are: which module, which launcher, which theme, which resource."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import MANIFEST, STYLES, Command, small_android, write_tree
from rivelt.platforms import platform
from rivelt.platforms.android.native.qualifiers import Device, parse_qualifiers
from rivelt.platforms.android.native.resources import Resources
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project

PHONE = Device(version=30, is_night=False, density=480, width=411, height=891)
TABLET = Device(version=33, is_night=True, density=320, width=800, height=1280)
OLD = Device(version=23, is_night=False, density=120, width=360, height=640)

# What a device is given when these folders define the same resource.
CHOICES = [
    (PHONE, ["values", "values-night", "values-v31"], "values"),
    (TABLET, ["values", "values-night", "values-v31"], "values-night"),  # night comes before the API level
    (TABLET, ["values", "values-night", "values-v31", "values-night-v31"], "values-night-v31"),
    (TABLET, ["values-v21", "values-v29", "values-v33", "values-v34"], "values-v33"),
    (PHONE, ["values", "values-fr", "values-b+fr", "values-en-rGB", "values-car"], "values"),
    (TABLET, ["values-sw600dp", "values-sw720dp", "values-sw900dp", "values-night"], "values-sw720dp"),
    (PHONE, ["values-w400dp", "values-w320dp", "values-h1000dp"], "values-w400dp"),
    (PHONE, ["values-land", "values-port", "values"], "values-port"),
    (PHONE, ["values-notnight", "values-v23"], "values-notnight"),
    (PHONE, ["values-v31", "values-night"], None),
    (PHONE, ["values-mystery", "values"], "values"),
    (PHONE, ["drawable-mdpi", "drawable-hdpi", "drawable-xxhdpi", "drawable-xxxhdpi"], "drawable-xxhdpi"),
    (PHONE, ["drawable-hdpi", "drawable-xhdpi"], "drawable-xhdpi"),
    (OLD, ["drawable-hdpi", "drawable-xxhdpi"], "drawable-hdpi"),
    (PHONE, ["drawable", "drawable-hdpi"], "drawable-hdpi"),
    (PHONE, ["drawable-anydpi-v24", "drawable-xxhdpi"], "drawable-anydpi-v24"),
    (PHONE, ["drawable-480dpi", "drawable-anydpi"], "drawable-anydpi"),  # before the very density of the screen
    (OLD, ["drawable-anydpi-v24", "drawable-xxhdpi"], "drawable-xxhdpi"),
    (TABLET, ["drawable-night-mdpi", "drawable-xhdpi"], "drawable-night-mdpi"),  # density never contradicts
]


@pytest.mark.parametrize(("device", "folders", "chosen"), CHOICES)
def test_the_best_match_is_chosen(device: Device, folders: list[str], chosen: str | None) -> None:
    files = {
        f"res/{folder}/x.{'xml' if folder.startswith('values') else 'png'}": b'<resources><color name="x">#123</color></resources>'
        for folder in folders
    }
    kind = "color" if folders[0].startswith("values") else "drawable"
    best = Resources.of_folder(Project.of_files(files), "res").best(kind, "x", device)
    assert (best.path.split("/")[1] if best else None) == chosen


@pytest.mark.parametrize(
    ("suffix", "kinds"),
    [
        ("", ()),
        ("night-v31", ("night", "version")),
        ("en-rGB-land-xhdpi", ("language", "orientation", "density")),
        ("sw600dp-420dpi", ("smallest_width", "density")),
        ("hello", None),
    ],
)
def test_qualifiers_are_told_apart(suffix: str, kinds: tuple[str, ...] | None) -> None:
    parsed = parse_qualifiers(suffix)
    assert (None if parsed is None else tuple(qualifier.kind for qualifier in parsed)) == kinds


def test_styles_inherit_by_parent_and_by_their_dots() -> None:
    values = """<resources>
        <style name="Base" parent="@style/Root"><item name="a">base</item><item name="b">base</item></style>
        <style name="Base.Tern"><item name="a">tern</item></style>
        <style name="Alone" parent=""><item name="c">alone</item></style>
        <style name="Loop" parent="Loop.Two"/><style name="Loop.Two"/>
    </resources>"""
    table = Resources.of_folder(Project.of_files({"res/values/strings.xml": values.encode()}), "res")
    tern = table.style("Base.Tern", PHONE)
    assert tern is not None
    assert {name: value for name, (value, _) in tern.items.items()} == {"a": "tern", "b": "base"}
    assert tern.missing_parent == "Root"
    alone = table.style("Alone", PHONE)
    assert alone is not None
    assert alone.missing_parent is None
    assert table.style("Lost", PHONE) is None
    with pytest.raises(Exception, match="inherits from itself"):
        table.style("Loop", PHONE)


ALIAS = MANIFEST.replace(
    "</application>",
    '<activity-alias android:name=".Door" android:targetActivity=".Main"><intent-filter>'
    '<action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.LAUNCHER"/>'
    "</intent-filter></activity-alias></application>",
)
# Files besides those of the small project, and what the survey says of its one site: module, activity, theme, source.
SHAPES: dict[str, tuple[dict[str, str | bytes], tuple[str, str, str, str | None]]] = {
    "plain": ({}, ("app", ".Main", "@style/Tern", None)),
    "source elsewhere": (
        {
            "app/src/main/kotlin/Main.kt": "class Main",
            "app/src/main/java/Main.java": "package example.tern; class Main {}",
        },
        ("app", ".Main", "@style/Tern", "app/src/main/java/Main.java"),
    ),
    "theme on the activity": (
        {
            "app/src/main/AndroidManifest.xml": MANIFEST.replace(
                'name=".Main"', 'name=".Main" android:theme="@style/Own"'
            ),
            "lib/src/main/res/values/own.xml": '<resources><style name="Own"/></resources>',
        },
        ("app", ".Main", "@style/Own", None),
    ),
    "alias": (
        {"app/src/main/AndroidManifest.xml": ALIAS.replace("LAUNCHER", "INFO", 1)},
        ("app", ".Main", "@style/Tern", None),
    ),
    "flavour": (
        {"app/src/free/AndroidManifest.xml": MANIFEST, "app/src/free/res/values/s.xml": STYLES},
        ("app", ".Main", "@style/Tern", None),
    ),
    "broken resource file": (
        {"app/src/main/res/values/broken.xml": "<resources>"},
        ("app", ".Main", "@style/Tern", None),
    ),
}


@pytest.mark.parametrize(("more", "wanted"), SHAPES.values(), ids=SHAPES)
def test_the_survey_finds_the_module(more: dict[str, str | bytes], wanted: tuple[str, ...]) -> None:
    files = {
        path: content.encode() if isinstance(content, str) else content
        for path, content in {**small_android(), **more}.items()
    }
    (site,) = platform("android").survey(Project.of_files(files))
    assert isinstance(site, AndroidSite)
    assert site.blocked is None
    assert (site.name, site.activity, site.app_theme, site.source and site.source.path) == wanted


@pytest.mark.parametrize("root", ["", "app", "platforms/android/app", "My Ferries é/app"])
def test_the_module_may_lie_anywhere(tmp_path: Path, rivelt: Command, root: str) -> None:
    moved = {
        (f"{root}/{path.removeprefix('app/')}".lstrip("/") if path.startswith("app/") else path): content
        for path, content in small_android().items()
    }
    project = write_tree(tmp_path / "tern", moved)
    done = rivelt("apply", cwd=project)
    assert done.code == 0, done.err
    assert 'android:theme="@style/rivelt_launch"' in (project / root / "src/main/AndroidManifest.xml").read_text()


def test_the_hand_step_goes_once_it_is_done(tmp_path: Path, rivelt: Command) -> None:
    source = "app/src/main/java/example/tern/Main.java"
    broken = "package example.tern; class Main { void onCreate(Bundle b) { %s(( super.onCreate(b); } }"
    root = write_tree(tmp_path / "tern", small_android() | {source: broken % ""})
    told = rivelt("apply", cwd=root)
    assert (told.code, "setTheme(R.style.Tern);" in told.out, "Left for you" in told.out) == (0, True, True)
    (root / source).write_text(broken.replace("((", "") % "setTheme(R.style.Tern);")
    assert "Left for you" not in rivelt("apply", cwd=root).out
