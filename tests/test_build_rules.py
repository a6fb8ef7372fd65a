"""What makes a build fail: said by the rules where Android's own resource compiler refuses it, and nowhere else."""

from __future__ import annotations

from pathlib import Path

import pytest

from aapt import compile_app
from conftest import MANIFEST, write_tree
from rivelt import opening
from test_android_shapes import GRADLE, GROOVY, MAIN, NEEDS, SOURCE, Shape, tree

NS = 'xmlns:android="http://schemas.android.com/apk/res/android"'
RES = "app/src/main/res"
INSTALLING = "package example.tern\n\nimport androidx.core.splashscreen.SplashScreen.Companion.installSplashScreen\n\nclass Main : AppCompatActivity() {\n    override fun onCreate(savedInstanceState: Bundle?) {\n        installSplashScreen()\n        super.onCreate(savedInstanceState)\n    }\n}\n"
LAUNCH = """<resources>
    <color name="ground">#F3EBDD</color>
    <style name="Tern" parent="Theme.AppCompat.Light.NoActionBar"/>
    <style name="Launch" parent="Theme.SplashScreen">
        <item name="windowSplashScreenBackground">@color/ground</item>
        <item name="windowSplashScreenAnimatedIcon">@drawable/mark</item>
        <item name="postSplashScreenTheme">@style/Tern</item>
    </style>
</resources>
"""
VECTOR = f'<vector {NS} android:width="288dp" android:height="288dp" android:viewportWidth="9" android:viewportHeight="9"><path android:pathData="M3,3h3v3h-3z" android:fillColor="#14283C"/></vector>'
PLAIN: dict[str, str | bytes | None] = {
    MAIN: MANIFEST.replace('".Main"', '".Main" android:theme="@style/Launch"'),
    SOURCE: INSTALLING,
    GRADLE: GROOVY.replace("androidx.appcompat:appcompat:1.7.0", NEEDS),
    f"{RES}/values/styles.xml": LAUNCH,
    f"{RES}/drawable/mark.xml": VECTOR,
}


def changed(old: str, new: str) -> dict[str, str | bytes | None]:
    assert old in LAUNCH
    return {f"{RES}/values/styles.xml": LAUNCH.replace(old, new)}


LIST = f'<layer-list {NS}><item android:drawable="{{}}"/></layer-list>'
REFUSED: dict[str, tuple[dict[str, str | bytes | None], str]] = {
    "a parent that is misspelt": (changed('"Theme.SplashScreen"', '"Theme.Splashscreen"'), "AND22"),
    "a picture that is not there": (changed("@drawable/mark", "@drawable/logo"), "AND22"),
    "a colour that is not there": (changed("@color/ground", "@color/grund"), "AND22"),
    "a picture in a drawable that is not there": ({f"{RES}/drawable/mark.xml": LIST.format("@drawable/inner")}, "AND22"),
    "an attribute that is misspelt": (changed("windowSplashScreenBackground", "windowSplashScreenBackgroud"), "AND23"),
    "an attribute of the system that is misspelt": (
        changed('"windowSplashScreenBackground"', '"android:windowSplashScreenBackgroud"'), "AND23"),
    "a style defined twice": ({f"{RES}/values/more.xml": '<resources><style name="Tern"/></resources>'}, "AND25"),
    "a colour defined twice in one file": (changed("</resources>", '<color name="ground">#FFF</color></resources>'), "AND25"),
    "a folder with qualifiers in another order": ({f"{RES}/drawable-xhdpi-night/mark.xml": VECTOR}, "AND25"),
    "a folder with a qualifier that is unknown": ({f"{RES}/values-dark/more.xml": "<resources/>"}, "AND25"),
    "a folder of no kind": ({f"{RES}/drawables/mark.xml": VECTOR}, "AND25"),
    "a drawable that is not well-formed": ({f"{RES}/drawable/mark.xml": "<vector>"}, "AND25"),
    "a picture that is none": ({f"{RES}/drawable/mark.xml": None, f"{RES}/drawable-xhdpi/mark.png": b"\xff\xd8\xff\xe0 a photograph"}, "AND25"),
    "values that are not well-formed": ({f"{RES}/values/more.xml": "<resources><color></resources>"}, "AND25"),
}  # fmt: skip
REFUSED["a parent of the app's that is misspelt"] = (changed('"Theme.SplashScreen"', '"Launch.Bas"') | {f"{RES}/values/more.xml": '<resources><style name="Launch.Base" parent="Theme.SplashScreen"/></resources>'}, "AND22")  # fmt: skip
TAKEN: dict[str, dict[str, str | bytes | None]] = {
    "as it is": {},
    "a colour in two looks": {f"{RES}/values-night/more.xml": '<resources><color name="ground">#13212B</color></resources>'},
    "a theme of a library": changed("Theme.AppCompat.Light.NoActionBar", "Theme.MaterialComponents.NoActionBar"),
    "folders in Android's order": {f"{RES}/drawable-land-night-xhdpi-v31/mark.xml": VECTOR},
    "a string for each region": {f"{RES}/values-b+sr+Latn/more.xml": '<resources><string name="a">a</string></resources>', f"{RES}/values/more.xml": '<resources><string name="a">a</string></resources>'},
    "a picture as a colour": changed("@drawable/mark", "@color/ground"),
}  # fmt: skip


def judged(root: Path) -> set[str]:
    """The rules on builds that find something."""
    codes = [f"AND{number}" for number in (22, 23, 24, 25)]
    return {one.code for one in opening.open(root).check(select=codes).results if one.verdict == "broken"}


def is_taken(root: Path, work: Path, stubs: tuple[Path, Path]) -> bool:
    try:
        compile_app(root / RES, root / MAIN, work, stubs)
    except AssertionError:
        return False
    return True


@pytest.mark.parametrize("name", REFUSED)
def test_what_the_compiler_refuses_is_found(tmp_path: Path, stubs: tuple[Path, Path], name: str) -> None:
    files, code = REFUSED[name]
    root = write_tree(tmp_path / "tern", tree(Shape({**PLAIN, **files})))
    assert not is_taken(root, tmp_path / "work", stubs)
    assert judged(root) == {code}


@pytest.mark.parametrize("name", TAKEN)
def test_what_the_compiler_takes_is_not_accused(tmp_path: Path, stubs: tuple[Path, Path], name: str) -> None:
    root = write_tree(tmp_path / "tern", tree(Shape({**PLAIN, **TAKEN[name]})))
    assert is_taken(root, tmp_path / "work", stubs)
    assert judged(root) == set()


@pytest.mark.parametrize(
    ("build", "message"),
    [
        (GROOVY, "which is not a dependency"),
        (GROOVY.replace("androidx.appcompat:appcompat:1.7.0", NEEDS).replace("minSdk 21", "minSdk 19"), "needs minSdk 21"),
        (GROOVY.replace("androidx.appcompat:appcompat:1.7.0", NEEDS).replace("compileSdk 35", "compileSdk 30"), "needs compileSdk 31; the module has 30"),
    ],
)  # fmt: skip
def test_what_a_build_lacks_is_found(tmp_path: Path, build: str, message: str) -> None:
    night = (
        LAUNCH.replace("<color", "<!-- <color")
        .replace("</color>", "</color> -->")
        .replace(
            "    </style>",
            '    <item name="android:windowSplashScreenBehavior">icon_preferred</item><item name="android:windowSplashScreenBackground">@color/ground</item></style>',
        )
    )
    files = {
        **PLAIN,
        GRADLE: build,
        f"{RES}/values-v31/launch.xml": night.replace(
            '<style name="Tern" parent="Theme.AppCompat.Light.NoActionBar"/>', ""
        ),
    }
    root = write_tree(tmp_path / "tern", tree(Shape(files)))
    found = [one.message for one in opening.open(root).check(select=["AND23"]).results if one.verdict == "broken"]
    assert any(message in one for one in found), found


def test_a_superclass_that_is_not_there_may_install_the_launch_screen(tmp_path: Path) -> None:
    for base, verdict in (("AppCompatActivity", "broken"), ("ShellActivity", "unknown")):
        source = f"package example.tern\n\nclass Main : {base}()\n"
        root = write_tree(tmp_path / base, tree(Shape({**PLAIN, SOURCE: source})))
        assert {one.verdict for one in opening.open(root).check(select=["AND01"]).results} == {verdict}


@pytest.mark.parametrize(
    ("densities", "verdict"), [(("hdpi", "xhdpi"), "broken"), (("xxhdpi",), "holds"), (("mdpi", "xxxhdpi"), "holds")]
)
def test_densities_that_newer_phones_have_are_there(tmp_path: Path, densities: tuple[str, ...], verdict: str) -> None:
    picture = (Path(__file__).parents[1] / "docs/screenshots/undo.png").read_bytes()
    files = {f"{RES}/drawable-{density}/mark.png": picture for density in densities}
    root = write_tree(tmp_path / "tern", tree(Shape({**PLAIN, f"{RES}/drawable/mark.xml": None, **files})))
    assert {one.verdict for one in opening.open(root).check(select=["AND09"]).results} == {verdict}


def test_what_cannot_be_read_is_unknown_and_never_fine(tmp_path: Path) -> None:
    flag = '<item name="android:windowIsTranslucent">@bool/elsewhere</item>'
    composed: dict[str, str | bytes | None] = {
        SOURCE: INSTALLING.replace("super.onCreate", "setContent { App() }\n        super.onCreate"),
        SOURCE.rpartition("/")[0] + "/Routes.kt": b"package example.tern\n\nfun App() { NavHost() } // \xe9\n",
    }
    cases: list[tuple[str, dict[str, str | bytes | None]]] = [
        ("AND12", {SOURCE: INSTALLING.encode() + b"// \xe9"}),
        ("AND12", composed),
        ("AND20", {SOURCE: None}),
        ("AND21", changed('<item name="postSplash', f'{flag}<item name="postSplash')),
        ("AND23", {GRADLE: None}),
        ("AND27", {f"{RES}/drawable/mark.xml": "<vector"}),
    ]
    for number, (code, files) in enumerate(cases):
        root = write_tree(tmp_path / str(number), tree(Shape({**PLAIN, **files})))
        verdicts = {one.verdict for one in opening.open(root).check(select=[code]).results}
        assert verdicts == {"unknown"}, (code, verdicts)
