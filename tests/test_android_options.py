"""What a brief may say to Android, through the real command."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path

import numpy as np
import pytest
import pyvips
from PIL import Image

from aapt import SYSTEM_ATTRIBUTES, Table, compile_app
from chromium import browser, open_page
from conftest import MANIFEST, Command, read_tree, write_tree
from rivelt.platforms.android.names import MADE_BY
from rivelt.platforms.android.options import MANNERS
from test_android_shapes import BRIEF, GRADLE, GROOVY, JAVA, JAVA_SOURCE, MAIN, SOURCE, TWO_LAUNCHERS, Shape, tree

RES = "app/src/main/res"
MOTION = """<animated-vector xmlns:android="http://schemas.android.com/apk/res/android" xmlns:aapt="http://schemas.android.com/aapt">
  <aapt:attr name="android:drawable">
    <vector android:width="288dp" android:height="288dp" android:viewportWidth="48" android:viewportHeight="48">
      <path android:name="hull" android:pathData="M16,16h16v16h-16z" android:fillColor="#1F6E7D"/>
    </vector>
  </aapt:attr>
  <target android:name="hull">
    <aapt:attr name="android:animation"><set android:ordering="sequentially">ANIMATORS</set></aapt:attr>
  </target>
</animated-vector>
"""
ANIMATOR = '<objectAnimator android:propertyName="fillColor" android:duration="{}" android:startOffset="50" android:valueFrom="#FF1F6E7D" android:valueTo="#FFC8452F"/>'
GRADIENT_MARK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="80"><linearGradient id="g"><stop stop-color="#1F6E7D"/>'
    '<stop offset="1" stop-color="#12414F"/></linearGradient><rect width="100" height="80" rx="4" fill="url(#g)"/></svg>'
)
TEXT_MARK = '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="80"><filter id="f"><feOffset/></filter><rect width="90" height="80" filter="url(#f)"/></svg>'

BITMAP_FOLDERS = {f"drawable-{density}" for density in ("mdpi", "hdpi", "xhdpi", "xxhdpi", "xxxhdpi")}


def project(tmp_path: Path, options: str = "", **files: str | bytes | None) -> Path:
    short = {
        "gradle": GRADLE,
        "source": SOURCE,
        "java": JAVA_SOURCE,
        "manifest": MAIN,
        "mark": "mark.svg",
        "motion": "motion.xml",
    }
    return write_tree(
        tmp_path / "tern",
        tree(Shape({short.get(name, name): content for name, content in files.items()}, options=options)),
    )


def compiled(root: Path, tmp_path: Path, stubs: tuple[Path, Path], level: int = 21) -> Table:
    return compile_app(root / RES, root / MAIN, tmp_path / "work", stubs, level)


@pytest.mark.parametrize(
    ("mark", "level", "options", "folders"),
    [
        (None, 24, "", {"drawable-anydpi"}),
        (GRADIENT_MARK, 24, "", {"drawable-anydpi"}),
        (GRADIENT_MARK, 21, "", {"drawable-anydpi-v24", *BITMAP_FOLDERS}),
        (None, 24, 'mark_form = "bitmaps"', BITMAP_FOLDERS),
        (TEXT_MARK, 24, "ldpi = true", {"drawable-ldpi", *BITMAP_FOLDERS}),
    ],
)
def test_the_mark_is_a_vector_where_it_can_be_one(
    tmp_path: Path,
    rivelt: Command,
    stubs: tuple[Path, Path],
    mark: str | None,
    level: int,
    options: str,
    folders: set[str],
) -> None:
    files = {"mark": mark} if mark else {}
    gradle = str(tree(Shape({}))[GRADLE]).replace("minSdk 21", f"minSdk {level}")
    root = project(tmp_path, options, gradle=gradle, **files)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert ("is written as bitmaps: <rect>" in done.out) == (mark == TEXT_MARK)
    assert {path.parent.name for path in (root / RES).glob("*/rivelt_mark.*")} == folders
    table = compiled(root, tmp_path, stubs, level)
    for version in (level, 23, 30, 33):
        chosen = table.resolve("drawable/rivelt_mark", night=True, version=max(level, version)) or ""
        assert chosen.endswith(".xml") == (
            "drawable-anydpi" in folders or ("drawable-anydpi-v24" in folders and version >= 24)
        )


def seen(path: Path) -> np.ndarray:
    """What an image shows, as another library reads it: premultiplied, height x width x 4."""
    with Image.open(path) as image:
        pixels = np.asarray(image.convert("RGBA")).astype(float)
    pixels[..., :3] *= pixels[..., 3:] / 255
    return pixels


def photograph() -> bytes:
    """A picture of many colours, round, with soft edges."""
    y, x = np.mgrid[:600, :600] / 600
    waves = [128 + 90 * np.sin(9 * x + k) * np.cos(7 * y - k) + 9 * np.sin(400 * x * y + k) for k in range(3)]
    alpha = np.clip(6 * (0.5 - np.hypot(x - 0.5, y - 0.5)), 0, 1) * 255
    out = io.BytesIO()
    Image.fromarray(np.stack([*waves, alpha], axis=-1).astype(np.uint8)).save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize("mark", [TEXT_MARK, None], ids=["vector", "photograph"])
def test_bitmaps_as_webp_show_the_same_and_weigh_less(
    tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path], mark: str | None
) -> None:
    art = {"mark": mark} if mark else {"mark.svg": None, "mark.png": photograph()}
    brief = BRIEF if mark else BRIEF.replace("mark.svg", "mark.png")
    root = project(tmp_path, **art, **{"rivelt.toml": brief + '[android]\nmark_form = "bitmaps"\n'})
    assert rivelt("apply", cwd=root).code == 0
    pngs = {path.parent.name: path.read_bytes() for path in (root / RES).glob("drawable*/rivelt_mark.png")}
    weights = {"png": sum(map(len, pngs.values()))}
    shown = {folder: seen(root / RES / folder / "rivelt_mark.png") for folder in pngs}
    assert set(pngs) == BITMAP_FOLDERS
    for form in ("webp", "lossy-webp"):
        (root / "rivelt.toml").write_text(f'{brief}[android]\nmark_form = "bitmaps"\nimage_form = "{form}"\n')
        assert rivelt("apply", cwd=root).code == 0
        images = {path.parent.name: path for path in (root / RES).glob("drawable*/rivelt_mark.*")}
        assert {path.suffix for path in images.values()} == {".webp"}, "the PNG files have gone"
        weights[form] = sum(path.stat().st_size for path in images.values())
        for folder, path in images.items():
            with Image.open(path) as image:
                assert image.format == "WEBP"
            difference = np.abs(seen(path) - shown[folder])
            is_lossy = form == "lossy-webp" and mark is None
            assert difference.max() == 0 if not is_lossy else 0 < difference.mean() < 3
            assert difference[..., 3].max() == 0, "an alpha is never lossy"
        assert compiled(root, tmp_path, stubs).resolve("drawable/rivelt_mark", night=False, version=30)
        assert rivelt("check", "--select", "AND", cwd=root).code == 0
        assert rivelt("apply", "--dry-run", cwd=root).code == 0
    assert weights["webp"] < 0.85 * weights["png"]
    assert (weights["lossy-webp"] < 0.4 * weights["webp"]) == (mark is None)
    assert rivelt("undo", "3", cwd=root).code == 0
    assert not list((root / RES).glob("drawable*/rivelt_*"))


def test_webp_is_refused_where_systems_cannot_read_it(tmp_path: Path, rivelt: Command) -> None:
    gradle = str(tree(Shape({}))[GRADLE]).replace("minSdk 21", "minSdk 16")
    root = project(tmp_path, 'image_form = "webp"', gradle=gradle)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert (done.code, read_tree(root)) == (2, before)
    assert "WebP with transparency needs API 18, and the app runs from API 16 on" in done.err


def test_a_vector_that_cannot_be_is_refused(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path, 'mark_form = "vector"', mark=TEXT_MARK)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert (done.code, read_tree(root)) == (2, before)
    assert "rivelt.toml:13:13: android app: the light mark cannot be a vector drawable: <rect>" in done.err


def test_a_disc_has_its_own_geometry_in_each_look(tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path]) -> None:
    brief = BRIEF.replace("[dark]", "[dark]\ndisc = '#FFFFFF'")
    root = project(tmp_path, **{"rivelt.toml": brief + '[android]\nmark_form = "bitmaps"\n'})
    assert rivelt("apply", cwd=root).code == 0
    table = compiled(root, tmp_path, stubs)
    for version in (21, 30, 33):
        light, dark = (table.style("rivelt_launch", night=night, version=version) for night in (False, True))
        assert "windowSplashScreenIconBackgroundColor" not in light
        assert (
            table.resolve(dark["windowSplashScreenIconBackgroundColor"][1:], night=True, version=version) == "#ffffffff"
        )
    for night, side, circle in (("", 288, 192), ("night-", 240, 160)):
        with Image.open(root / RES / f"drawable-{night}mdpi/rivelt_mark.png") as image:
            assert image.size == (side, side)
            rows, columns = np.nonzero(np.asarray(image.convert("RGBA"))[..., 3])
            reach = np.hypot(rows + 0.5 - side / 2, columns + 0.5 - side / 2).max()
            assert circle / 2 * 0.88 - 1.5 <= reach <= circle / 2 * 0.88 + 1


@pytest.mark.parametrize(
    ("animators", "message"),
    [
        (ANIMATOR.format(400) * 2, None),
        (ANIMATOR.format(600) * 2, "the motion runs 1300 ms; the system shows 1000 ms of it"),
        (ANIMATOR.format('300" android:repeatCount="-1'), "the motion runs without end"),
        (ANIMATOR.format("quick"), "android:duration is not a whole number: quick"),
        ("", "nothing moves in it"),
    ],
)
def test_a_motion_is_measured_and_shown_from_android_12(
    tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path], animators: str, message: str | None
) -> None:
    root = project(tmp_path, 'motion = "motion.xml"', motion=MOTION.replace("ANIMATORS", animators))
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    if message is not None:
        assert (done.code, read_tree(root)) == (2, before)
        assert message in done.err
        return
    assert done.code == 0, done.err
    table = compiled(root, tmp_path, stubs)
    for version, icon in ((30, "mark"), (31, "motion"), (35, "motion")):
        items = table.style("rivelt_launch", night=True, version=version)
        assert items["windowSplashScreenAnimatedIcon"] == f"@drawable/rivelt_{icon}"
        assert items.get("windowSplashScreenAnimationDuration") == ("900" if version > 30 else None)


@pytest.mark.parametrize(
    ("language", "condition", "line"),
    [
        ("kotlin", "!model.isReady", "installSplashScreen().setKeepOnScreenCondition { riveltHolds() } "),
        ("kotlin", '"https://" == home', 'val isWaiting: Boolean = "https://" == home '),
        ("kotlin", "ready", "val isWaiting: Boolean = ready "),
        ("kotlin", "jobs.any { it.isActive }", "val isWaiting: Boolean = jobs.any { it.isActive } "),
        ("kotlin", "when (step) { 1 -> true; else -> false }", "val isWaiting: Boolean = when (step) "),
        (
            "java",
            "!model.isReady()",
            "            .setKeepOnScreenCondition(this::riveltHolds); ",
        ),
        ("java", '"https://" == home', 'boolean isWaiting = "https://" == home;'),
        ("java", "ready", "boolean isWaiting = ready;"),
        *(
            ("kotlin", text, None)
            for text in (
                "} exit(",
                "while(true){}",
                "return",
                "a || return",
                "a) || (b",
                "a // b",
                "{ a }",
                "x = 1",
                "break",
                "throw X()",
            )
        ),
        *(("java", text, None) for text in ("x; y", "a) || (b", "a /* b */", "x -> x", "return", "x = 1", "A::b")),
    ],
)
def test_the_launch_screen_is_held_but_never_for_good(
    tmp_path: Path, rivelt: Command, language: str, condition: str, line: str | None
) -> None:
    files = {"source": None, "java": JAVA} if language == "java" else {}
    root = project(tmp_path, f"hold_while = '{condition}'\nhold_limit_ms = 1500", **files)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    if line is None:
        assert (done.code, read_tree(root)) == (2, before)
        assert f"`android.hold_while` is not a valid {language.capitalize()} expression: {condition}" in done.err
        return
    assert done.code == 0, done.err
    source = (root / (JAVA_SOURCE if language == "java" else SOURCE)).read_text()
    assert source.count(line) == 1
    assert source.count(" < 1500") == 1
    assert max(map(len, source.splitlines())) < 120
    is_name = condition[0] != '"'
    assert ("which the activity neither declares nor imports" in done.out) == is_name
    # Without it the same call continues without its condition; the other way takes all of Rivelt's out of the code again.
    for options, left in (("", "installSplashScreen"), ('way = "platform"', "setTheme(R.style.Tern)")):
        (root / "rivelt.toml").write_text(f"{BRIEF}\n[android]\n{options}\n")
        assert rivelt("apply", cwd=root).code == 0
        source = (root / (JAVA_SOURCE if language == "java" else SOURCE)).read_text()
        assert source.count(left) == 1 + (left == "installSplashScreen" and language == "kotlin")
        assert "riveltStarted" not in source
    assert "splashscreen" not in source.lower()


@pytest.mark.parametrize(
    ("condition", "change", "more"),
    [
        ("model.isReady", ("{\n", "{\n    private val model = Model()\n"), {}),
        ("isReady()", ("{\n", "{\n    private fun isReady() = true\n"), {}),
        ("model.isReady", ("class Main", "class Main(val model: Model)"), {}),
        ("Model.isReady", ("class Main", "object Model { val isReady = true }\n\nclass Main"), {}),
        ("State.isReady", ("import android.os.Bundle", "import android.os.Bundle\nimport example.model.State"), {}),
        (
            "Now.isReady",
            ("import android.os.Bundle", "import android.os.Bundle\nimport example.model.State as Now"),
            {},
        ),
        ("anything", ("import android.os.Bundle", "import android.os.Bundle\nimport example.model.*"), {}),
        ("Sibling.isReady", None, {"Sibling.kt": "package example.tern\n\nobject Sibling { val isReady = true }\n"}),
        (
            "above",
            (": AppCompatActivity()", ": Base()"),
            {"Base.kt": "package example.tern\n\nopen class Base : AppCompatActivity() {\n    val above = true\n}\n"},
        ),
        ("true", None, {}),
        ("this.isFinishing", None, {}),
    ],
)
def test_a_condition_of_names_that_the_activity_knows_is_taken_as_it_is(
    tmp_path: Path, rivelt: Command, condition: str, change: tuple[str, str] | None, more: dict[str, str]
) -> None:
    root = project(tmp_path, f"hold_while = '{condition}'")
    source = root / SOURCE
    if change is not None:
        text = source.read_text()
        assert change[0] in text
        source.write_text(text.replace(*change, 1))
    for name, text in more.items():
        source.with_name(name).write_text(text)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert "neither declares nor imports" not in done.out
    assert f"val isWaiting: Boolean = {condition} //" in source.read_text()


def test_hold_while_is_refused_without_the_library(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path, 'way = "platform"\nhold_while = "x"')
    done = rivelt("apply", cwd=root)
    assert (done.code, "`android.hold_while` needs the compatibility library" in done.err) == (2, True)


FREE = "app/src/free/AndroidManifest.xml"
HEAD = '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n    <application>\n{}    </application>\n</manifest>\n'


@pytest.mark.parametrize(
    "overriding",
    [None, HEAD.format(""), HEAD.format('        <activity android:name=".Main" android:label="Free"/>\n')],
)
def test_a_flavour_gets_its_own_launch_screen_and_the_others_keep_theirs(
    tmp_path: Path, rivelt: Command, overriding: str | None
) -> None:
    flavours = "\nandroid { flavorDimensions 'price'; productFlavors { free {}; paid {} } }\n"
    root = project(tmp_path, 'source_set = "free"', gradle=f"{GROOVY}{flavours}", **{FREE: overriding})
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    after = read_tree(root)
    # The activity that calls the library is shared: the other variants get a plain launch theme.
    assert [path for path in after if path.startswith(RES) and "rivelt" in path] == [f"{RES}/values/rivelt_launch.xml"]
    assert after[MAIN].decode().count("@style/rivelt_launch") == 1
    assert "app/src/free/res/values-night-v31/rivelt_launch.xml" in after
    if overriding is None:
        assert FREE not in after
    else:  # the flavour says itself how it starts
        manifest = after[FREE].decode()
        activity = re.search(r'<activity\s[^>]*"\.Main"[^>]*>', manifest)
        assert activity is not None
        assert 'android:theme="@style/rivelt_launch"' in activity[0]
        assert 'tools:replace="android:theme"' in activity[0]
        assert 'xmlns:tools="http://schemas.android.com/tools"' in manifest
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_names_modules_and_activities_are_chosen(tmp_path: Path, rivelt: Command) -> None:
    taken = f"{RES}/values/mine.xml"
    files: dict[str, str | bytes | None] = {
        "manifest": TWO_LAUNCHERS,
        "wharf/AndroidManifest.xml": MANIFEST,
        "wharf/build.gradle": "// com.android.application",
        taken: '<resources><color name="rivelt_ground">#123</color></resources>',
    }
    root = project(tmp_path, 'module = "app"\nactivity = ".Main"\nprefix = "tern_"', **files)
    assert rivelt("apply", cwd=root).code == 0
    assert (root / RES / "values-night/tern_launch.xml").exists()
    assert (root / MAIN).read_text().count("@style/tern_launch") == 1
    (root / "rivelt.toml").write_text(f'{BRIEF}\n[android]\nmodule = "wharf"\nway = "platform"\n')
    told = rivelt("apply", cwd=root)
    assert told.code == 0, told.err
    assert (root / "wharf/res/values/rivelt_launch.xml").exists()
    (root / "rivelt.toml").write_text(f'{BRIEF}\n[android]\nmodule = "quay"\n')
    lost = rivelt("apply", cwd=root)
    assert (lost.code, "rivelt.toml:13:10: there is no app module quay" in lost.err) == (2, True)


def test_old_launch_images_are_listed_and_pruned_on_request(tmp_path: Path, rivelt: Command) -> None:
    old = [f"{RES}/drawable-{kind}/launch_screen.png" for kind in ("hdpi", "land-hdpi", "nodpi")] + [
        f"{RES}/mipmap-mdpi/splash.jpg"
    ]
    used = f"{RES}/drawable/splash_logo.png"
    files: dict[str, str | bytes | None] = {
        **dict.fromkeys(old, b"old"),
        used: b"used",
        f"{RES}/layout/main.xml": '<a b="@drawable/splash_logo"/>',
    }
    root = project(tmp_path, "", **files)
    before = read_tree(root)
    told = rivelt("apply", "--json", cwd=root).json
    assert told["unused"] == sorted(old)
    assert (root / old[0]).exists()
    pruned = rivelt("apply", "--prune", cwd=root)
    assert pruned.code == 0
    assert [path for path in (*old, used) if (root / path).exists()] == [used]
    assert rivelt("undo", cwd=root).code == rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


@pytest.mark.parametrize(("mark", "is_unused"), [(MADE_BY.decode(), True), ("by hand", False)])
def test_what_only_a_generated_file_names_is_unused(
    tmp_path: Path, rivelt: Command, mark: str, is_unused: bool
) -> None:
    note = f'<!-- {mark} -->\n<resources><string name="n">launch_screen</string></resources>'
    files: dict[str, str | bytes | None] = {
        f"{RES}/drawable-hdpi/launch_screen.png": b"old",
        f"{RES}/values/note.xml": note,
    }
    told = rivelt("apply", "--json", cwd=project(tmp_path, "", **files)).json
    assert told["unused"] == [f"{RES}/drawable-hdpi/launch_screen.png"] * is_unused


def test_the_launcher_icon_is_never_called_unused(tmp_path: Path, rivelt: Command) -> None:
    window = (
        '<layer-list xmlns:android="http://schemas.android.com/apk/res/android">'
        '<item android:drawable="@drawable/old_ground"/><item android:drawable="@drawable/ic_launcher_front"/></layer-list>'
    )
    files: dict[str, str | bytes | None] = {
        f"{RES}/drawable/launch_screen.xml": window,
        f"{RES}/drawable/old_ground.png": b"old",
        f"{RES}/drawable/ic_launcher_front.png": b"icon",
    }
    told = rivelt("apply", "--json", cwd=project(tmp_path, "", **files)).json
    assert told["unused"] == [f"{RES}/drawable/launch_screen.xml", f"{RES}/drawable/old_ground.png"]


def test_imprint_and_bars_follow_the_ground(tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path]) -> None:
    root = project(tmp_path, **{"rivelt.toml": BRIEF.replace("#13212B", "#FFFFFF")})
    assert rivelt("apply", cwd=root).code == 0
    table = compiled(root, tmp_path, stubs)
    for night in (False, True):
        for version in (21, 23, 26, 27, 33):
            items = table.style("rivelt_launch", night=night, version=version)
            for bar, since in (("statusBar", 23), ("navigationBar", 27)):
                colour = table.resolve(items[SYSTEM_ATTRIBUTES[f"{bar}Color"][0]][1:], night=night, version=version)
                assert colour == ("#ff000000" if version < since else "#ffffffff" if night else "#fff3ebdd")
    with Image.open(root / RES / "drawable-xhdpi/rivelt_imprint.png") as image:
        assert image.size == (400, 160)
        assert image.convert("RGBA").getchannel("A").getbbox() == (100, 0, 300, 160)  # 5:4 in 200 x 80 dp: letterboxed


@pytest.mark.parametrize("disc", ["", 'disc = "#FFFFFF"\n'])
def test_the_waiting_layout_equals_the_launch_screen(
    tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path], disc: str
) -> None:
    brief = BRIEF.replace("mark =", f"{disc}mark =") + "[android]\nwaiting = true\n"
    root = project(tmp_path, **{"rivelt.toml": brief})
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert "setContentView(R.layout.rivelt_waiting)" in done.out
    compiled(root, tmp_path, stubs)
    text = (root / RES / "layout/rivelt_waiting.xml").read_text()
    side, below = (
        (240, 80.0) if disc else (288, 54.1)
    )  # 100 x 80 in a circle of 168.96 dp: 135.2 x 108.2, its corners rounded
    assert text.count(f'android:layout_width="{side}dp"') == 1
    shift = re.search(r'translationY="([\d.]+)dp"', text)
    assert shift is not None
    assert float(shift[1]) == pytest.approx(below + 16 + 16, abs=0.15)
    assert ("@drawable/rivelt_disc" in text) == bool(disc)
    assert "Nothing to do" in rivelt("apply", cwd=root).out


FEATURE = '    <uses-feature android:name="{}"/>\n    <application'


@pytest.mark.parametrize(
    ("feature", "device", "screens"),
    [
        ("android.hardware.type.watch", "watch", {"Wear OS 3 (API 30)", "Wear OS 4 (API 33)", "Wear OS 5 (API 34)"}),
        ("android.software.leanback", "television", {"Android TV 11 (API 30)", "Android TV 14 (API 34)"}),
        ("android.hardware.type.automotive", "car", {"Android Automotive 13 (API 33)"}),
    ],
)
def test_devices_that_are_no_phones(
    tmp_path: Path, rivelt: Command, feature: str, device: str, screens: set[str]
) -> None:
    category = "LEANBACK_LAUNCHER" if device == "television" else "LAUNCHER"
    manifest = MANIFEST.replace("    <application", FEATURE.format(feature)).replace("LAUNCHER", category)
    root = write_tree(tmp_path / device, tree(Shape({MAIN: manifest}, options='mark_form = "bitmaps"')))
    assert f"made for               {device}" in rivelt("survey", cwd=root).out
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    shown = json.loads(rivelt("proof", "--json", cwd=root).out)["scenes"]
    assert {scene["system"] for scene in shown} == screens
    images = {path.name for path in root.rglob("res/drawable*/*")}
    mark = Image.open(root / "app/src/main/res/drawable-mdpi/rivelt_mark.png").convert("RGBA").getchannel("A")
    box = mark.point(lambda alpha: 255 * (alpha > 127)).getbbox()
    assert box is not None
    if device == "watch":  # inside a circle of 48 dp, and no image at the foot
        assert 30 < box[2] - box[0] < 48
        assert "rivelt_imprint.png" not in images
        assert "a black ground is recommended" in json.loads(done.out)["notes"][-1]
    else:
        assert box[2] - box[0] > 100
        assert "rivelt_imprint.png" in images


def test_mark_and_imprint_keep_apart_on_low_screens(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", tree(Shape({})))
    assert rivelt("apply", cwd=root).code == 0
    told = json.loads(rivelt("check", "--select", "SCN05", "--json", cwd=root).out)
    assert {one["verdict"] for one in told["findings"]} == {"holds"}
    shown = json.loads(rivelt("proof", "--screens", "landscape", "--json", cwd=root).out)["scenes"]
    assert {scene["screen"].partition(" ")[0] for scene in shown} == {"landscape"}
    for path in root.glob("app/src/main/res/drawable-land-*/rivelt_imprint.png"):
        path.unlink()
    told = json.loads(rivelt("check", "--select", "SCN05", "--json", cwd=root).out)
    assert "landscape phone 800 x 360" in told["findings"][0]["message"]


SAILING = """<animated-vector xmlns:android="http://schemas.android.com/apk/res/android" xmlns:aapt="http://schemas.android.com/aapt">
  <aapt:attr name="android:drawable">
    <vector android:width="288dp" android:height="288dp" android:viewportWidth="288" android:viewportHeight="288">
      <group android:name="boat"><path android:pathData="M124,124h40v40h-40z" android:fillColor="#1F6E7D"/></group>
    </vector>
  </aapt:attr>
  <target android:name="boat">
    <aapt:attr name="android:animation">
      <objectAnimator android:propertyName="translateX" android:duration="800" android:valueFrom="0" android:valueTo="{}" android:interpolator="@android:interpolator/{}"/>
    </aapt:attr>
  </target>
</animated-vector>
"""


@pytest.mark.parametrize(
    ("to", "interpolator", "reach"),
    [
        (60, "linear", None),
        (80, "linear", 102),
        (70, "overshoot", 101),
        (60, "fast_out_slow_in", None),
        (-80, "linear", 102),
    ],
)
def test_a_motion_is_measured_at_every_moment(
    tmp_path: Path, rivelt: Command, to: int, interpolator: str, reach: int | None
) -> None:
    """A square of 40 dp moves: its corner is at (20 + x, 20) from the middle, and the circle reaches to 96."""
    root = project(tmp_path, 'motion = "motion.xml"', motion=SAILING.format(to, interpolator))
    done = rivelt("apply", cwd=root)
    if reach is None:
        assert done.code == 0, done.err
    else:
        assert done.code == 3
        found = re.search(r"reaches (\d+) dp from the middle", done.err)
        assert found is not None
        assert abs(int(found[1]) - reach) <= 1


def test_a_motion_in_each_look_and_its_moments_on_the_proof(tmp_path: Path, rivelt: Command) -> None:
    options = 'motion = "motion.xml"\ndark_motion = "night.xml"\nmotion_ms = 500'
    root = project(tmp_path, options, motion=SAILING.format(60, "linear"))
    (root / "night.xml").write_text(SAILING.format(-60, "linear"))
    assert rivelt("apply", cwd=root).code == 0
    notes = json.loads(rivelt("apply", "--dry-run", "--json", cwd=root).out)["notes"]
    assert any("the moving icon is up to 40 dp long, and the still mark" in note for note in notes)
    measured = {one["file"]: one["circle"] for one in json.loads(rivelt("measure", "--json", cwd=root).out)["art"]}
    for name, x in (("first", 144), ("in the middle", 174), ("last", 204)):
        circle = measured[f"motion.xml, {name}"]
        assert (round(circle["x"]), round(circle["diameter"] / 2)) == (x, 28)
    for folder, to in (("drawable-anydpi-v31", "60"), ("drawable-night-anydpi-v31", "-60")):
        assert f'valueTo="{to}"' in (root / RES / folder / "rivelt_motion.xml").read_text()
    for folder in ("values-v31", "values-night-v31"):
        assert ">500<" in (root / RES / folder / "rivelt_launch.xml").read_text()
    shown = json.loads(rivelt("proof", "--json", cwd=root).out)["scenes"]
    names = [scene["screen"] for scene in shown if scene["look"] == "light"]
    assert names[-2:] == [
        "phone 360 x 800",
        "phone 412 x 915",
    ]
    motions = json.loads(rivelt("proof", "--json", cwd=root).out)["motions"]
    assert [(one["look"], one["length_ms"], one["unknown"]) for one in motions] == [
        ("light", 800, []),
        ("dark", 800, []),
    ]
    assert len(json.loads(rivelt("proof", "--all", "--json", cwd=root).out)["scenes"]) > 2 * 12


def test_an_icon_that_is_cut_on_its_way_is_marked_where_it_stands(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path, 'motion = "motion.xml"', motion=SAILING.format(60, "linear"))
    assert rivelt("apply", cwd=root).code == 0
    file = root / RES / "drawable-anydpi-v31" / "rivelt_motion.xml"
    file.write_text(file.read_text().replace('valueTo="60"', 'valueTo="80"'))
    scenes = rivelt("proof", "--now", "--json", cwd=root).json["scenes"]
    marked = {scene["screen"] for scene in scenes for mark in scene["marks"] if "AND08" in mark["codes"]}
    assert marked == {"phone 412 x 915"}


MOVING_MARK = """<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><rect x="10" y="10" width="30" height="80" fill="#1F6E7D"/>
  <path d="M50 20Q90 20 90 60M50 80H90" fill="none" stroke="#7A2B4B" stroke-width="6"/><circle cx="70" cy="60" r="12" fill="#C8452F"/>
  <path d="" fill="red"/><path d="M20 20" stroke="red"/><path d="M60 60Z" fill="none" stroke="#7A2B4B"/></svg>"""


@pytest.mark.parametrize("manner", MANNERS)
@pytest.mark.parametrize("clearance", [0, 0.06, 0.2])
def test_a_mark_moves_within_the_circle_and_ends_as_it_is(
    tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path], manner: str, clearance: float
) -> None:
    """At 60 frames a second; what stands still, in the file and at the end, is the mark that does not move."""
    options = f'motion = "{manner}"\nmotion_ms = 600\n[layout]\nclearance = {clearance}'
    root = project(tmp_path, options, mark=MOVING_MARK)
    brief = root / "rivelt.toml"
    brief.write_text(brief.read_text().replace("[dark]\n", '[dark]\nmark = "derive"\n'))
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    assert any("the mark stands still" in note for note in done.json["notes"])
    table = compiled(root, tmp_path, stubs)
    for version, icon in ((30, "mark"), (31, "motion"), (35, "motion")):
        items = table.style("rivelt_launch", night=True, version=version)
        assert items["windowSplashScreenAnimatedIcon"] == f"@drawable/rivelt_{icon}"
        assert items.get("windowSplashScreenAnimationDuration") == ("600" if version > 30 else None)
    found = rivelt("measure", "--json", cwd=root).json["motions"]
    assert [(one["look"], one["length_ms"], one["cut"], len(one["moments"])) for one in found] == [
        ("light", 600, False, 37),
        ("dark", 600, False, 37),
    ]
    for one in found:
        assert one["farthest"] <= one["radius"] + 0.25
        assert one["moments"][0]["bounds"] is None
        assert abs(one["moments"][-1]["reach"] - one["radius"] * (1 - 2 * clearance)) < 0.6
    shown = {
        scene["screen"]: scene
        for scene in rivelt("proof", "--all", "--json", cwd=root).json["scenes"]
        if scene["look"] == "dark"
    }
    before = rivelt("apply", cwd=root)
    assert "Nothing to do" in before.out
    for folder in ("drawable", "drawable-night"):
        still = next((root / RES).glob(f"{folder}-anydpi*/rivelt_mark.xml")).read_text()
        moving = (root / RES / f"{folder}-anydpi-v31/rivelt_motion.xml").read_text()
        for path in re.findall(r'pathData="([^"]+)"', still):
            assert path in moving
        assert "startOffset" not in moving  # what waits would be seen finished before its time
    assert "phone 412 x 915, 100% of the motion" in shown
    checked = rivelt("check", "--json", cwd=root)
    wrong = {one["code"] for one in checked.json["findings"] if one["verdict"] != "holds"}
    assert wrong <= {"ART03", "SCN01", "HND01"}, wrong  # of the imprint, and of what comes after


@pytest.mark.parametrize(
    ("options", "mark", "message"),
    [
        ('motion = "draw"', TEXT_MARK, "the light mark cannot move: <rect>: a filter"),
        ('motion = "rise"', "PNG", "the light mark cannot move: mark.png is a bitmap"),
        ('motion = "drew"', None, 'Did you mean "draw"?'),
        ('motion = "fade"\nmotion_ms = 1001', None, "`android.motion_ms` must be"),
        ('motion = "spin.xml"', None, "spin.xml does not exist"),
    ],
)
def test_a_mark_that_cannot_move_is_refused_with_the_reason(
    tmp_path: Path, rivelt: Command, options: str, mark: str | None, message: str
) -> None:
    picture = (
        pyvips.Image.black(600, 600, bands=4).copy(interpretation="srgb").linear(0, [10, 90, 120, 255]).cast("uchar")
    )
    root = project(tmp_path, options, **({"mark": mark} if mark not in {None, "PNG"} else {}))
    if mark == "PNG":
        picture.pngsave(str(root / "mark.png"))
        (root / "rivelt.toml").write_text((root / "rivelt.toml").read_text().replace("mark.svg", "mark.png"))
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 2
    assert message in done.err
    assert read_tree(root) == before
    measured = rivelt("measure", "--json", cwd=root)
    assert measured.code in {1, 2}
    if "cannot move" in message:
        assert {message.partition("cannot move: ")[2][:6]} <= {
            one["unknown"].partition("cannot move: ")[2][:6] for one in measured.json["motions"]
        }


def test_a_motion_on_the_sheet_and_played_on_the_page(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path, 'motion = "draw"', mark=MOVING_MARK)
    assert rivelt("apply", cwd=root).code == 0
    heights = {}
    for name in ("moving", "still"):
        assert rivelt("proof", "--only", "android", "--out", f"{name}.png", "--now", cwd=root).code == 0
        heights[name] = pyvips.Image.new_from_file(str(root / f"{name}.png")).height
        assert rivelt("proof", "--only", "android", "--out", f"{name}.html", "--now", cwd=root).code == 0
        for path in root.glob("app/src/main/res/drawable*/rivelt_motion.xml"):
            path.write_text(next((root / RES).glob("drawable-anydpi*/rivelt_mark.xml")).read_text())
    assert heights["moving"] > heights["still"]
    assert 'class="motion"' not in (root / "still.html").read_text()
    if browser() is None:
        return
    with open_page(root / "moving.html", tmp_path / "profile") as page:
        assert page.run("document.querySelectorAll('.motion').length") == 2
        page.run(
            "document.querySelector('.motion input').value = 1; document.querySelector('.motion input').dispatchEvent(new Event('input'))"
        )
        assert page.run("document.querySelector('.film').style.backgroundPositionX") == "0px"
        page.run("document.querySelector('.motion button').click()")
        while page.run("document.querySelector('.motion input').value") != "24":
            pass
        assert page.run("document.querySelector('.film').style.backgroundPositionX") == "-4600px"


@pytest.mark.parametrize("value", ["#12", "#GGGGGG", "#"])
def test_a_motion_with_a_colour_that_is_none(tmp_path: Path, rivelt: Command, value: str) -> None:
    motion = MOTION.replace("ANIMATORS", ANIMATOR.format(600)).replace("#FFC8452F", value)
    root = project(tmp_path, 'motion = "motion.xml"', motion=motion)
    before = read_tree(root)
    for command in ("measure", "apply", "proof", "check"):
        assert rivelt(command, cwd=root).code in {0, 1, 2, 3}
    refused = rivelt("apply", cwd=root)
    assert refused.code in {2, 3}
    assert f"{value} is not an Android colour" in refused.err
    assert {path: data for path, data in read_tree(root).items() if path in before} == before


def test_a_survey_sees_an_app_as_its_brief_does(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path, manifest=TWO_LAUNCHERS)
    assert rivelt("survey", cwd=root).code == 1, "the launcher starts several activities"
    root = project(tmp_path / "chosen", 'activity = ".Two"', manifest=TWO_LAUNCHERS)
    survey = rivelt("survey", "--json", cwd=root)
    (found,) = survey.json["sites"]
    assert (survey.code, found["blocked"], found["facts"]["launcher activity"]) == (0, None, ".Two")
    changed = rivelt("apply", "--dry-run", "--json", cwd=root).json["changes"]
    assert set(found["touches"]) <= {one["path"] for one in changed}
