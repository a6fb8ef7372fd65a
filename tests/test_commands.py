"""The commands that look and begin: demo, survey, brief, measure; and what all commands share."""

from __future__ import annotations

import importlib.util
import json
import os
import re
import signal
import subprocess
import sys
import tomllib
from importlib.resources import files
from pathlib import Path
from typing import Any

import jsonschema
import pytest
import typer
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from conftest import BRIEF, MARK, Command, quick_sample, read_tree, small_android, write_tree
from rivelt.brief.schema import json_schema
from rivelt.cli.commands import SUMMARIES, command
from rivelt.colour import Colour
from rivelt.demo.layout import lay_out
from rivelt.platforms import platform_tables

SHEETS = ("proof.png", "proof.html")


@pytest.fixture
def quick_demo(monkeypatch: pytest.MonkeyPatch) -> None:
    """The demo lays out the sample app with fewer images."""
    monkeypatch.setattr("rivelt.demo.layout.sample_files", quick_sample)


def test_what_is_typed_is_what_the_library_for_it_makes_of_it(monkeypatch: pytest.MonkeyPatch) -> None:
    """Parameters are converted without Pydantic, which Typer loads: the same values, for every parameter of every command."""
    for name in SUMMARIES:
        context = typer.Context(command(name))
        light = {one.name: one for one in command(name).get_params(context)}
        for parameter in command(name).params:
            monkeypatch.setattr(parameter, "callback", None)
            monkeypatch.setattr(light[parameter.name], "callback", None)
            is_many = parameter.multiple or parameter.nargs == -1
            for typed in (parameter.default, None, "text", "art/mark.svg"):
                value = [typed, typed] if is_many and typed is not None else typed
                made = [_outcome(one, context, value) for one in (light[parameter.name], parameter)]
                assert made[0] == made[1], (name, parameter.name, value)


def _outcome(parameter: Any, context: typer.Context, value: object) -> object:
    try:
        made = parameter.process_value(context, value)
    except typer.TyperException as error:
        return type(error)
    return type(made), made


@pytest.mark.parametrize(
    "arguments",
    [("survey", "."), ("check", "--select", "ICO", "--format", "json"), ("apply", "--dry-run", "rivelt.toml")],
)
def test_no_command_loads_what_typer_converts_with(applied: Path, arguments: tuple[str, ...]) -> None:
    code = f"import sys; from rivelt.cli.main import run; code = run({list(arguments)!r}); print('pydantic' in sys.modules, file=sys.stderr)"
    done = subprocess.run([sys.executable, "-c", code], cwd=applied, capture_output=True, text=True, check=True)
    assert done.stderr.splitlines()[-1] == "False"


def test_a_word_that_an_option_does_not_have(rivelt: Command) -> None:
    done = rivelt("check", "--format", "table")
    assert (done.code, done.out) == (2, "")
    assert done.err.startswith("error: invalid value for '--format': 'table' is not one of 'text', 'json', 'sarif'")


@pytest.mark.slow
def test_the_demo_is_drawn_at_its_full_scale_and_can_be_run_again(tmp_path: Path, process: Command) -> None:
    done = process("demo", "--json")
    assert done.code == 0, done.err
    root = tmp_path / "skerryline-demo"
    told = done.json
    assert (told["root"], told["sheet"], told["page"]) == (str(root), "proof.png", "proof.html")
    assert [step["exit_code"] for step in told["steps"]] == [0] * 6
    assert all((root / name).is_file() for name in SHEETS)
    with Image.open(root / "proof.png") as sheet:
        assert sheet.width == 2560
    assert len(list((root / "web/rivelt").glob("start-*.png"))) == 88, "22 sizes upright and on the side, in both looks"
    assert process("apply", cwd=root).out.startswith("Nothing to do")
    assert process("check", cwd=root).code == 0
    before = read_tree(root)
    assert process("demo").code == 0
    assert read_tree(root) == before


@pytest.mark.usefixtures("quick_demo")
def test_the_demo_does_the_whole_job(tmp_path: Path, rivelt: Command) -> None:
    done = rivelt("demo")
    assert done.code == 0, done.err
    root = tmp_path / "skerryline-demo"
    assert "skerryline-demo/proof.png" in done.out.splitlines()[-2]
    assert len(done.out.splitlines()) <= 40
    shown = [line.split()[1:] for line in done.out.splitlines() if line.startswith("$ ")]
    assert [command[1] for command in shown] == ["survey", "measure", "proof", "apply", "proof", "check"]
    undo = (
        next(line for line in done.out.splitlines() if "take it back" in line).partition("with: rivelt ")[2].rstrip(".")
    )
    drawn = (root / "proof.png").read_bytes()
    for _, *words in shown[-2:]:  # what was shown works from where the person stands, and gives the same
        assert rivelt(*words).code == 0
    assert (root / "proof.png").read_bytes() == drawn
    assert len(rivelt("demo", "--verbose").out.splitlines()) > 150
    assert rivelt(*undo.split()).code == 0
    assert rivelt("apply", root).code == 0
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")


def test_the_demo_refuses_a_folder_with_something_else_in_it(tmp_path: Path, rivelt: Command) -> None:
    write_tree(tmp_path, {"mine/notes.txt": "keep", "demo/rivelt.toml": "# The brief of another app\n"})
    before = read_tree(tmp_path)
    for folder in ("mine", "demo"):
        refused = rivelt("demo", folder)
        assert refused.code == 3
        assert "is not empty" in refused.err
    assert read_tree(tmp_path) == before


def test_the_demo_refuses_to_lose_what_was_changed_in_it(tmp_path: Path, rivelt: Command) -> None:
    lay_out(tmp_path / "d")
    assert rivelt("apply", "--only", "windows", cwd=tmp_path / "d").code == 0
    brief = tmp_path / "d/rivelt.toml"
    brief.write_text(brief.read_text().replace("#F3EBDD", "#FFEEDD"))
    refused = rivelt("demo", "d")
    assert refused.code == 3
    assert "was changed: rivelt.toml" in refused.err
    assert "#FFEEDD" in brief.read_text()


def test_survey_tells_sites_and_today(sample: Path, rivelt: Command) -> None:
    found = rivelt("survey", "--json", cwd=sample)
    assert found.code == 0
    android, ios, windows, web = found.json["sites"]
    assert android["site"] == "android/app"
    assert android["facts"]["launcher activity"] == ".MainActivity"
    assert android["facts"]["starts with theme"] == "@style/Theme.Skerryline"
    assert android["facts"]["way"].startswith("compat: AndroidX")
    assert android["facts"]["build"] == "Kotlin, version catalog; minSdk 23, compileSdk 35"
    assert [path.rpartition("/")[2] for path in android["touches"]] == [
        "AndroidManifest.xml",
        "libs.versions.toml",
        "build.gradle.kts",
        "MainActivity.kt",
    ]
    assert ios["today"] == "storyboard LaunchScreen.storyboard"
    assert ios["touches"] == ["ios/Skerryline/Info.plist", "ios/Skerryline.xcodeproj/project.pbxproj"]
    assert windows["facts"]["launch element"] == "uap, Windows 10"
    assert windows["facts"]["files"] == "windows/Assets/Start.scale-200.png"
    assert web["today"] == "a white screen: no startup image matches"
    assert web["touches"] == ["web/manifest.webmanifest", "web/index.html"]
    told = rivelt("survey", cwd=sample)
    assert "\x1b" not in told.out  # no colours in a pipe
    assert told.out.splitlines()[-1].startswith("Next: rivelt")


def test_survey_leaves_out_what_is_no_app(tmp_path: Path, rivelt: Command) -> None:
    app = small_android()
    manifest = app["app/src/main/AndroidManifest.xml"]
    others = {
        "lib/src/main/AndroidManifest.xml": manifest,
        "lib/build.gradle": 'apply plugin: "com.android.library"\n',
        "app/src/debug/AndroidManifest.xml": manifest,
        "app/src/androidTest/AndroidManifest.xml": manifest,
        "app/build/intermediates/AndroidManifest.xml": manifest,
        "node_modules/x/src/main/AndroidManifest.xml": manifest,
    }
    root = write_tree(tmp_path / "tern", app | others)
    assert [site["site"] for site in rivelt("survey", root, "--json").json["sites"]] == ["app"]


def test_a_survey_that_finds_nothing_says_so(rivelt: Command) -> None:
    done = rivelt("survey", "--json")
    assert (done.code, done.json["sites"]) == (1, [])


def test_brief_writes_a_starter_that_works_and_never_overwrites(tmp_path: Path, rivelt: Command) -> None:
    files_ = small_android()
    del files_["rivelt.toml"]
    root = write_tree(tmp_path / "tern", files_ | {"art/wide mark.svg": MARK})
    done = rivelt(
        "brief", "--mark", "art/wide mark.svg", "--ground", "oklch(0.9 0.03 80)", "--dark-ground", "navy", cwd=root
    )
    assert done.code == 0, done.err
    text = (root / "rivelt.toml").read_text()
    table = tomllib.loads(text)
    assert table["app"] == {"name": "tern", "project": ".", "targets": ["android"]}
    assert table["light"] == {"ground": "oklch(0.9 0.03 80)", "mark": "art/wide mark.svg"}
    assert table["dark"] == {"ground": "navy"}
    jsonschema.validate(table, json_schema(platform_tables()))
    assert rivelt("apply", cwd=root).code == 0
    refused = rivelt("brief", "--mark", "art/wide mark.svg", cwd=root)
    assert refused.code == 3
    assert (root / "rivelt.toml").read_text() == text


@pytest.mark.parametrize(
    ("option", "value", "message"),
    [("--ground", "sandy", "not a CSS colour"), ("--imprint", "lost.svg", "does not exist")],
)
def test_brief_with_bad_input_writes_nothing(
    tmp_path: Path, rivelt: Command, option: str, value: str, message: str
) -> None:
    write_tree(tmp_path, {"mark.svg": MARK})
    done = rivelt("brief", "--mark", "mark.svg", option, value)
    assert done.code == 2
    assert message in done.err
    assert not (tmp_path / "rivelt.toml").exists()


def test_measure_tells_bounds_and_circle(sample: Path, rivelt: Command) -> None:
    art = {report["file"]: report for report in rivelt("measure", "--json", cwd=sample).json["art"]}
    mark = art["art/mark.svg"]
    assert (mark["kind"], mark["width"], mark["height"], mark["looks"]) == ("SVG", 250, 200, ["light"])
    assert list(mark["bounds"].values()) == pytest.approx([0, 0, 250, 200], abs=0.1)
    assert mark["circle"]["diameter"] == pytest.approx(320.16, abs=0.3)  # its corners are filled: the diagonal
    alone = rivelt("measure", "art/mark.svg", "--json", cwd=sample).json["art"][0]
    assert alone["bounds"] == mark["bounds"]
    assert "art/mark.svg" in rivelt("measure", cwd=sample).out


def test_the_brief_is_found_in_the_nearest_folder_above(sample: Path, rivelt: Command) -> None:
    deep = sample / "android/app/src"
    assert rivelt("apply", cwd=deep).code == 0
    assert (sample / "rivelt.lock").is_file()
    assert rivelt("undo", cwd=deep).code == 0
    assert not (sample / "rivelt.lock").exists()


@pytest.mark.parametrize("command", ["survey", "measure", "apply --dry-run", "proof", "plates --out p"])
def test_quiet_says_nothing_and_json_only_json(sample: Path, rivelt: Command, command: str) -> None:
    assert rivelt(*command.split(), "--quiet", cwd=sample).out == ""
    json.loads(rivelt(*command.split(), "--json", cwd=sample).out)


def test_every_hint_works_from_where_the_person_stands(tmp_path: Path, rivelt: Command) -> None:
    """From a folder beside the project: each next command that is named is run there as it stands."""
    write_tree(tmp_path, {"tern/" + path: content for path, content in small_android().items()})
    (tmp_path / "tern/rivelt.toml").rename(tmp_path / "kept.toml")
    (tmp_path / "beside").mkdir()
    here = tmp_path / "beside"

    def hinted(*command: str, code: int = 0) -> list[str]:
        done = rivelt(*command, cwd=here)
        assert done.code == code, done.err
        lines = (done.out + done.err).splitlines()
        found = [line.partition(": rivelt ")[2] for line in lines if re.match(r"(Next|Take it back).*: rivelt ", line)]
        assert found, done.out
        for words in found:
            if not words.startswith(("undo", "brief")):
                assert rivelt(*words.split(), cwd=here).code in {0, 1}
        return found

    assert hinted("survey", "../tern") == ["brief ../tern --mark FILE --ground COLOUR"]
    assert hinted("measure", "../tern/mark.svg") == ["brief --mark ../tern/mark.svg --ground COLOUR"]
    assert hinted("brief", "../tern", "--mark", "../tern/mark.svg") == ["proof ../tern/rivelt.toml"]
    assert hinted("survey", "../tern") == ["proof ../tern --now"]
    assert hinted("measure", "../tern") == ["proof ../tern"]
    assert hinted("apply", "../tern", "--dry-run", code=1) == ["apply ../tern"]
    assert rivelt("undo", "../tern", cwd=here).code == 0  # the hint has been followed
    assert hinted("proof", "../tern") == ["apply ../tern"]
    assert rivelt("undo", "../tern", cwd=here).code == 0
    assert hinted("apply", "../tern") == ["proof ../tern", "undo ../tern"]
    assert hinted("proof", "../tern", "--now") == ["check ../tern"]
    assert hinted("undo", "../tern", "--list") == ["undo ../tern N, to take back the first N of these"]
    edited = next((tmp_path / "tern").rglob("rivelt_launch.xml"))
    edited.write_text(edited.read_text() + "<!-- mine -->")
    refused = rivelt("undo", "../tern", cwd=here)
    assert (refused.code, "`rivelt undo ../tern --force` puts back" in refused.err) == (3, True)
    assert rivelt("undo", "../tern", "--force", cwd=here).code == 0


def test_help_describes_commands_and_rules(rivelt: Command) -> None:
    assert rivelt("help").out == rivelt("--help").out == rivelt("-h").out
    assert rivelt("help", "check").out == rivelt("check", "-h").out
    assert rivelt("help", "and08").out == rivelt("explain", "AND08").out
    assert "Did you mean 'check'?" in rivelt("help", "chek").err
    assert "Did you mean AND08?" in rivelt("help", "and8").err
    assert rivelt("-V").out == rivelt("--version").out


def test_verbose_names_every_file_and_every_rule_that_holds(sample: Path, rivelt: Command) -> None:
    changes = rivelt("apply", "--dry-run", "--json", cwd=sample).json["changes"]
    told = rivelt("apply", "--dry-run", "--verbose", cwd=sample).out
    assert all(f" {one['path']} " in told for one in changes)
    held = [one for one in rivelt("check", "--json", cwd=sample).json["findings"] if one["verdict"] == "holds"]
    listed = rivelt("check", "-v", cwd=sample).out.splitlines()
    assert {one["code"] for one in held} == {line.split()[0] for line in listed if re.match(r"[A-Z]{3}\d\d ", line)}


@pytest.mark.slow
def test_colour_only_on_a_terminal_and_not_against_the_persons_wish(sample: Path) -> None:
    import pty
    import subprocess
    import sys

    def on_a_terminal(**env: str) -> str:
        ours, theirs = pty.openpty()
        process = subprocess.Popen(
            [sys.executable, "-m", "rivelt", "survey"],
            cwd=sample,
            stdout=theirs,
            stderr=theirs,
            env={**os.environ, "TERM": "xterm-256color", "COLUMNS": "120", **env},
        )
        os.close(theirs)
        seen = b""
        try:
            while chunk := os.read(ours, 4096):
                seen += chunk
        except OSError:  # the other end is closed
            pass
        process.wait()
        os.close(ours)
        return seen.decode()

    assert "\x1b[" in on_a_terminal()
    assert "\x1b[3" not in on_a_terminal(NO_COLOR="1")


def test_the_schema_that_ships_is_that_of_the_model() -> None:
    shipped = json.loads((files("rivelt.brief") / "rivelt.schema.json").read_text(encoding="utf-8"))
    assert shipped == json.loads(json.dumps(json_schema(platform_tables())))
    jsonschema.Draft202012Validator.check_schema(shipped)
    jsonschema.validate(tomllib.loads(BRIEF), shipped)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"light": {"groud": "red"}}, shipped)


@settings(deadline=None)  # the colour library is loaded by the first case
@given(st.tuples(*[st.integers(0, 255)] * 4).map(lambda channels: Colour(*channels)))
def test_colours_survive_their_notations(colour: Colour) -> None:
    assert Colour.parse(colour.hex) == colour
    assert colour.android[3:] == colour.hex[1:7]
    red, green, blue, alpha = colour
    assert Colour.parse(f"rgb({red} {green} {blue} / {alpha / 255:.6f})") == colour


@pytest.mark.parametrize(
    ("one", "other", "ratio"), [("black", "white", 21.0), ("#777777", "white", 4.48), ("red", "#FF0000", 1.0)]
)
def test_contrast_is_that_of_wcag(one: str, other: str, ratio: float) -> None:
    assert Colour.parse(one).contrast(Colour.parse(other)) == pytest.approx(ratio, abs=0.005)


def test_the_pages_of_the_docs_are_those_of_the_code() -> None:
    script = Path(__file__).parent.parent / "docs/make_pages.py"
    spec = importlib.util.spec_from_file_location("make_pages", script)
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    for path, text in module.pages().items():
        assert (script.parent / path).read_text(encoding="utf-8") == text, f"run python docs/make_pages.py: {path}"


def test_the_schema_is_printed_for_editors(tmp_path: Path, rivelt: Command) -> None:
    printed = rivelt("brief", "--schema")
    assert json.loads(printed.out) == json.loads(files("rivelt.brief").joinpath("rivelt.schema.json").read_text())
    assert list(tmp_path.iterdir()) == []
    refused = rivelt("brief")
    assert (refused.code, "missing option '--mark'" in refused.err) == (2, True)


@pytest.mark.slow
def test_apply_watches_the_brief_and_the_art(tmp_path: Path) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    command = [sys.executable, "-m", "rivelt", "apply", "--watch", "--proof", "proof.png"]
    running = subprocess.Popen(command, cwd=root, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    assert running.stdout is not None
    said: list[str] = []

    def until(words: str) -> None:
        while not said or words not in said[-1]:
            line = running.stdout.readline()  # type: ignore[union-attr]
            assert line, said
            said.append(line)

    until("Ctrl-C ends it")
    values = root / "app/src/main/res/values/rivelt_launch.xml"
    assert "#FFF3EBDD" in values.read_text()
    first = (root / "proof.png").read_bytes()
    for text, words in (
        (BRIEF.replace("#F3EBDD", "#112233"), "edited"),
        (BRIEF.replace("#F3EBDD", "sandy"), "'sandy' is not a CSS colour"),
        (BRIEF, "edited"),
    ):
        (root / "rivelt.toml").write_text(text)
        until("Changed: rivelt.toml")
        until("Ctrl-C ends it")
        assert any(words in line for line in said)
        said.clear()
    assert (root / "proof.png").read_bytes() == first
    drawn = (root / "proof.png").stat().st_mtime_ns
    (root / "rivelt.toml").write_text(f"{BRIEF}\n# only a comment\n")
    until("Changed: rivelt.toml")
    until("Ctrl-C ends it")
    assert (root / "proof.png").stat().st_mtime_ns == drawn, "what has not changed is not drawn again"
    said.clear()
    (root / "mark.svg").unlink()
    until("Changed: mark.svg")
    until("Ctrl-C ends it")
    assert any("rivelt.toml:" in line and "mark.svg does not exist" in line for line in said), said
    running.send_signal(signal.SIGINT)
    rest, _ = running.communicate(timeout=60)
    assert (running.returncode, rest.strip()) == (0, "Stopped watching.")
