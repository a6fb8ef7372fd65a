"""Apps whose activity is a framework's: the framework's own means are used, and nobody is told to edit a library's class."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from android_framework.compilers import Compilers
from android_framework.judge import missing
from conftest import MANIFEST, Command, read_tree, write_tree
from test_android_shapes import GRADLE, GROOVY, MAIN, SOURCE, Shape, tree
from test_compilers import generated_class

FLUTTER = (
    "package example.tern\n\nimport io.flutter.embedding.android.FlutterActivity\n\nclass Main : FlutterActivity()\n"
)
REACT = 'package example.tern\n\nimport com.facebook.react.ReactActivity\n\nclass Main : ReactActivity() {\n    override fun getMainComponentName(): String = "tern"\n}\n'
QT = "org.qtproject.qt.android.bindings.QtActivity"
META = '<meta-data android:name="{}" android:resource="@style/Tern"'


def applied(root: Path, rivelt: Command) -> dict[str, Any]:
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    told: dict[str, Any] = json.loads(done.out)
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    return told


@pytest.mark.parametrize(
    ("files", "meta"),
    [
        ({SOURCE: FLUTTER}, "io.flutter.embedding.android.NormalTheme"),
        ({SOURCE: None, MAIN: MANIFEST.replace(".Main", "com.tns.NativeScriptActivity")}, "SET_THEME_ON_LAUNCH"),
    ],
)
def test_a_framework_that_switches_the_theme_is_told_to(
    tmp_path: Path, rivelt: Command, files: dict[str, str | bytes | None], meta: str
) -> None:
    root = write_tree(tmp_path / "tern", tree(Shape(files)))
    before = read_tree(root)
    told = applied(root, rivelt)
    (gap,) = told["manual_steps"]
    assert "draws its first picture, people see the window of @style/Tern: #FFFFFF (light)" in gap["title"]
    assert gap["lines"] == ['<item name="android:windowBackground">@color/rivelt_ground</item>']
    text = (root / MAIN).read_text()
    assert META.format(meta) in text
    assert 'android:theme="@style/rivelt_launch"' in text
    for path in (SOURCE, GRADLE):
        assert path not in before or (root / path).read_bytes() == before[path]
    results = json.loads(rivelt("check", "--select", "AND", "--json", cwd=root).out)["findings"]
    assert {one["verdict"] for one in results} <= {"holds", "unknown"}
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


@pytest.mark.parametrize("activity", [QT, "org.kivy.android.PythonActivity", "net.maker.shell.ShellActivity"])
def test_nobody_is_told_to_edit_a_librarys_class(tmp_path: Path, rivelt: Command, activity: str) -> None:
    files: dict[str, str | bytes | None] = {SOURCE: None, MAIN: MANIFEST.replace(".Main", activity)}
    root = write_tree(tmp_path / "tern", tree(Shape(files)))
    step = applied(root, rivelt)["manual_steps"][0]
    assert step["title"].startswith(
        f"{activity} is a class of a library: let the launcher start a class of the app's own"
    )
    assert f"public class LaunchActivity extends {activity} {{" in step["lines"]
    assert "        setTheme(R.style.Tern);" in step["lines"]
    assert any('android:name=".LaunchActivity" in place of' in line for line in step["lines"])
    shown = '<meta-data android:name="android.app.splash_screen_drawable" android:resource="@drawable/rivelt_window" />'
    assert (shown in (root / MAIN).read_text()) == (activity == QT)


@pytest.mark.slow
@pytest.mark.skipif(missing() is not None, reason=missing() or "")
def test_the_class_that_is_proposed_compiles(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", tree(Shape({SOURCE: None, MAIN: MANIFEST.replace(".Main", QT)})))
    lines = applied(root, rivelt)["manual_steps"][0]["lines"]
    package, _, name = QT.rpartition(".")
    sources = {
        "LaunchActivity.java": "\n".join(lines[: lines.index("}") + 1]),
        "QtActivity.java": f"package {package};\npublic class {name} extends android.app.Activity {{ @Override public void onCreate(android.os.Bundle state) {{ super.onCreate(state); }} }}",
        "R.java": generated_class(root, "example.tern"),
    }
    assert Compilers(tmp_path / "compilers").compiled(sources, tmp_path / "compiled") == ""


def test_the_gap_until_the_first_picture_is_named_until_it_is_closed(tmp_path: Path, rivelt: Command) -> None:
    files: dict[str, str | bytes | None] = {SOURCE: REACT}
    root = write_tree(tmp_path / "tern", tree(Shape(files)))
    (step,) = applied(root, rivelt)["manual_steps"]
    assert step["title"].startswith("Until React Native draws its first picture")
    path = root / step["path"]
    path.write_text(path.read_text().replace("#FFFFFF", "@color/rivelt_ground"))
    assert not applied(root, rivelt)["manual_steps"]
    own = REACT.replace(
        "    override",
        "    override fun createRootView() = RootView(this).apply { setBackgroundColor(WHITE) }\n    override",
    )
    (root / SOURCE).write_text(own)
    assert rivelt("apply", cwd=root).code == 0
    (step,) = applied(root, rivelt)["manual_steps"]
    assert "sets a background in code, which is seen until React Native draws" in step["title"]
    assert step["lines"] == ["R.color.rivelt_ground"]


def test_a_waiting_screen_would_take_a_frameworks_view_away(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", tree(Shape({SOURCE: REACT}, options="waiting = true")))
    before = read_tree(root)
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert (
        "`android.waiting` would remove the app's view: React Native's activity sets its content view itself"
        in refused.err
    )
    assert read_tree(root) == before


@pytest.mark.parametrize(
    ("kept", "activity", "line"),
    [
        (
            "config.xml",
            "class MainActivity : org.apache.cordova.CordovaActivity()",
            '    <resource-file src="platforms/android/app/src/main/res/values/rivelt_launch.xml" target="app/src/main/res/values/rivelt_launch.xml" />',
        ),
        (
            "App_Resources/Android/src/main/AndroidManifest.xml",
            "class MainActivity : com.tns.NativeScriptActivity()",
            "platforms/android/app/src/main/res/values/rivelt_launch.xml -> App_Resources/Android/src/main/res/values/rivelt_launch.xml",
        ),
    ],
)
def test_a_folder_that_is_made_again_is_named_with_what_stays(
    tmp_path: Path, rivelt: Command, kept: str, activity: str, line: str
) -> None:
    plain = tree(
        Shape({SOURCE: f"package example.tern\n\n{activity.replace('MainActivity', 'Main')}\n", GRADLE: GROOVY})
    )
    files = {
        path if path in {"rivelt.toml", "mark.svg"} else f"platforms/android/{path}": text
        for path, text in plain.items()
    }
    root = write_tree(tmp_path / "tern", {**files, kept: '<widget xmlns="http://www.w3.org/ns/widgets"/>'})
    told = " ".join(rivelt("survey", cwd=root).out.split())
    assert (
        f"regenerated platforms/android, by the framework's tool, from {kept.removesuffix('/AndroidManifest.xml')}"
        in told
    )
    steps = applied(root, rivelt)["manual_steps"]
    step = next(
        one for one in steps if one["title"].startswith("platforms/android is regenerated by the framework's tool")
    )
    assert line in step["lines"]


@pytest.mark.parametrize(
    ("folder", "kept", "said"),
    [
        (
            ".buildozer/android",
            "buildozer.spec",
            "In buildozer.spec: presplash.filename = %(source.dir)s/mark.png; android.presplash_color =",
        ),
        (".cache/shell", "notes.txt", "is in the hidden folder .cache, which a tool makes"),
    ],
)
def test_nothing_is_written_into_a_hidden_folder(
    tmp_path: Path, rivelt: Command, folder: str, kept: str, said: str
) -> None:
    plain = tree(Shape({}))
    files = {path if path in {"rivelt.toml", "mark.svg"} else f"{folder}/{path}": text for path, text in plain.items()}
    root = write_tree(tmp_path / "tern", {**files, kept: ""})
    before = read_tree(root)
    refused = rivelt("apply", cwd=root)
    assert refused.code in {2, 3}
    assert said in refused.err
    assert read_tree(root) == before
