"""Bad input through the real command: a clear message with its place, the right exit code, and nothing changed."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import BRIEF, MANIFEST, MARK, Command, read_tree, small_android, write_tree

PROJECTS: dict[str, tuple[dict[str, str | bytes], tuple[str, ...]]] = {
    "no brief": ({"app/x": ""}, ("there is no rivelt.toml",)),
    "not TOML": (
        small_android(brief="[light]\nground = #F3EBDD\n"),
        ("rivelt.toml:2:10: not valid TOML", "Text needs quotes"),
    ),
    "not UTF-8": (small_android(brief=b'[light]\nground = "\xff"\n'), ("rivelt.toml:2:11: the file is not UTF-8",)),
    "TOML without end": (
        small_android(brief=BRIEF + "a" + ".a" * 300_000 + " = 1\n"),
        ("rivelt.toml:7: not valid TOML: a name has more than a hundred parts",),
    ),
    "TOML without ground": (
        small_android(brief=BRIEF + "x = " + "[" * 100_000),
        ("rivelt.toml: not valid TOML: values are nested too deeply",),
    ),
    "lock without ground": (
        small_android() | {"rivelt.lock": "x = " + "[" * 100_000},
        ("rivelt.lock: not valid TOML: values are nested too deeply",),
    ),
    "unknown key": (
        small_android(brief=BRIEF + 'imprnt = "a.svg"\n'),
        ("rivelt.toml:7:1: unknown key `light.imprnt`", "Did you mean `light.imprint`?"),
    ),
    "unknown table": (small_android(brief=BRIEF + "[drak]\n"), ("rivelt.toml:7:2: unknown table `drak`", "`dark`")),
    "bad colour": (
        small_android(brief=BRIEF.replace("#F3EBDD", "sandy")),
        ("rivelt.toml:5:10: `light.ground`: 'sandy' is not a CSS colour",),
    ),
    "see-through ground": (
        small_android(brief=BRIEF.replace("#F3EBDD", "#F3EBDD80")),
        ("must be opaque", 'Use "#F3EBDD"'),
    ),
    "all problems at once": (
        small_android(
            brief='[app]\ntargets = ["andriod"]\n[light]\nground = 7\ndisc = "#FFF"\n[layout]\nclearance = 2\nmark_size = "big"\n'
        ),
        (
            "rivelt.toml:2:12: unknown target `andriod`",
            "rivelt.toml:5:8: `light.disc` needs a mark to stand under",
            "rivelt.toml:4:10: `light.ground` must be any CSS colour",
            "rivelt.toml:7:13: `layout.clearance` must be",
            "rivelt.toml:8:13: `layout.mark_size` must be",
        ),
    ),
    "art that Git LFS keeps": (
        small_android() | {"mark.svg": f"version https://git-lfs.github.com/spec/v1\noid sha256:{'0' * 64}\nsize 7\n"},
        ("mark.svg is a Git LFS pointer, not the file itself", "git lfs pull"),
    ),
    "imprint of one look": (
        small_android(brief=BRIEF + '[dark]\nimprint = "mark.svg"\n'),
        ("rivelt.toml:8:11: `dark.imprint` stands alone",),
    ),
    "light look derived": (
        small_android(brief=BRIEF.replace("mark.svg", "derive")),
        ("rivelt.toml:6:8: `light.mark` cannot be derived",),
    ),
    "no such art": (
        small_android(brief=BRIEF.replace("mark.svg", "lost.svg")),
        ("rivelt.toml:6:8: lost.svg does not exist",),
    ),
    "art outside": (
        small_android(brief=BRIEF.replace("mark.svg", "../mark.svg")),
        ("rivelt.toml:6:8: ../mark.svg is outside the project",),
    ),
    "art is a folder": (
        small_android(brief=BRIEF.replace("mark.svg", "app.svg")) | {"app.svg/x": ""},
        ("app.svg cannot be read",),
    ),
    "broken art": (small_android(mark="<svg><g></svg>"), ("rivelt.toml:6:8: mark.svg:1:11: not well-formed XML",)),
    "nothing visible": (
        small_android(mark=MARK.replace('fill="#1F6E7D"', 'fill="none"')),
        ("rivelt.toml:6:8: mark.svg shows nothing",),
    ),
    "broken bitmap": (
        small_android(brief=BRIEF.replace("mark.svg", "m.png")) | {"m.png": b"\x89PNG\r\n\x1a\nrest"},
        ("m.png is broken",),
    ),
    "no site": ({"rivelt.toml": BRIEF, "mark.svg": MARK}, ("no native project was found in .",)),
    "project elsewhere": (
        small_android(brief=BRIEF.replace('"Tern"', '"Tern"\nproject = "/usr"')),
        ("leads out of the brief's folder",),
    ),
    "project not there": (
        small_android(brief=BRIEF.replace('"Tern"', '"Tern"\nproject = "lost"')),
        ("is not a folder: lost",),
    ),
    "no launcher": (
        small_android(manifest=MANIFEST.replace("LAUNCHER", "INFO")),
        ("app/src/main/AndroidManifest.xml:1: android app: no activity of this manifest is started by the launcher",),
    ),
    "manifest not XML": (
        small_android(manifest="<manifest"),
        ("AndroidManifest.xml:1:1: android app: not well-formed XML",),
    ),
    "theme by placeholder": (
        small_android(manifest=MANIFEST.replace("@style/Tern", "${theme}")),
        ("is not known before the build: ${theme}",),
    ),
    "name taken": (
        small_android() | {"app/src/main/res/drawable/rivelt_mark.xml": "<shape/>"},
        ("app/src/main/res/drawable/rivelt_mark.xml: android app: the name drawable/rivelt_mark is taken by the app",),
    ),
    "launch theme lost": (
        small_android(manifest=MANIFEST.replace("@style/Tern", "@style/rivelt_launch")),
        ("the launcher's theme @style/rivelt_launch is defined nowhere in the project",),
    ),
    "Xcode project broken": (
        {"rivelt.toml": BRIEF, "mark.svg": MARK, "A.xcodeproj/project.pbxproj": "{ objects = ( }"},
        ("A.xcodeproj/project.pbxproj:1:15: ios A.xcodeproj: not a readable project file",),
    ),
    "damaged lock": (small_android() | {"rivelt.lock": "format = 1\n"}, ("rivelt.lock: the lock file is damaged",)),
}


@pytest.mark.parametrize(("files", "messages"), PROJECTS.values(), ids=PROJECTS)
def test_apply_refuses_bad_input_and_changes_nothing(
    tmp_path: Path, rivelt: Command, files: dict[str, str | bytes], messages: tuple[str, ...]
) -> None:
    root = write_tree(tmp_path / "tern", files)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 2, done.err
    for message in messages:
        assert message in done.err
    assert done.out == ""
    assert read_tree(root) == before
    # At most three lines an error.
    assert len(done.err.splitlines()) <= 3 * done.err.count("error:")


@pytest.mark.parametrize(
    ("table", "key", "value"),
    [
        ("layout", "clearance", '"0.06"'),
        ("layout", "enlarge", '"true"'),
        ("layout", "trim", "1"),
        ("app", "small_files", '"false"'),
        ("android", "hold_limit_ms", '"3000"'),
        ("ios", "pad_scale", "true"),
        ("web", "icons", "0"),
    ],
)
def test_a_value_of_another_kind_is_refused_and_never_converted(
    tmp_path: Path, rivelt: Command, table: str, key: str, value: str
) -> None:
    line = f"\n{key} = {value}\n"
    brief = BRIEF.replace("[app]", f"[app]{line}") if table == "app" else f"{BRIEF}\n[{table}]{line}"
    done = rivelt("apply", cwd=write_tree(tmp_path / "tern", small_android(brief=brief)))
    assert (done.code, done.err.count("error:")) == (2, 1)
    assert f"`{table}.{key}` must be " in done.err


@pytest.mark.parametrize(
    ("brief", "key", "meant"),
    [
        ('[light]\ngroud = "#F3EBDD"\nmark = "mark.svg"\n', "light.groud", "light.ground"),
        ('[light]\nground = "#F3EBDD"\nmrak = "mark.svg"\n', "light.mrak", "light.mark"),
    ],
)
def test_a_required_key_that_is_misspelt_is_one_error(
    tmp_path: Path, rivelt: Command, brief: str, key: str, meant: str
) -> None:
    done = rivelt("apply", cwd=write_tree(tmp_path / "tern", small_android(brief=brief)))
    assert (done.code, done.err.count("error:")) == (2, 1)
    assert f"unknown key `{key}`" in done.err
    assert f"Did you mean `{meant}`?" in done.err


USAGE: dict[str, tuple[tuple[str, ...], int, str]] = {
    "no command": ((), 2, ""),
    "unknown command": (("aply",), 2, "See: rivelt --help"),
    "unknown option": (("apply", "--dri"), 2, "See: rivelt apply --help"),
    "missing option": (("brief",), 2, "--mark"),
    "no such brief": (("apply", "lost.toml"), 2, "lost.toml: there is no such brief"),
    "no such folder": (("survey", "lost"), 2, "lost is not a folder"),
    "nothing to undo": (("undo",), 2, "there is no apply to take back here"),
    "no such art": (("measure", "lost.svg", "m.svg"), 2, "lost.svg does not exist"),
    "nothing to prove": (("proof", "."), 2, "no native project was found"),
    "no sheet's name": (("proof", "--out", "a.gif"), 2, ""),
}


@pytest.mark.parametrize(("arguments", "code", "message"), USAGE.values(), ids=USAGE)
def test_wrong_usage_is_told_and_writes_nothing(
    tmp_path: Path, rivelt: Command, arguments: tuple[str, ...], code: int, message: str
) -> None:
    done = rivelt(*arguments, cwd=tmp_path)
    assert done.code == code
    assert message in done.err
    assert read_tree(tmp_path) == {}


MISTAKES = {
    ("apply", "--proof", "p.txt"): "p.txt is neither",
    ("apply", "--watch", "--diff"): "--watch writes; --dry-run and --diff do not",
    ("apply", "--only", "ios"): "no iOS and iPadOS project was found",
    ("apply", "--only", "andriod"): "Did you mean android?",
    ("undo", "two"): "there is no folder two",
    ("undo", "0"): "N must be at least 1",
    ("undo", "-1"): "no such option: -1",
    ("proof", "--screens", "API 35"): None,
    ("proof", "--screens", "Andriod 14"): "Did you mean Android 14 (API 34)?",
    ("proof", "--out", "p.gif"): "Name it p.png or p.html",
    ("plates", "--out", "rivelt.toml"): "a file or a link is where a folder is needed",
    ("measure", "--chart", "c.jpg"): "Name it c.png",
    ("check", "--select", "XYZ"): "there is no rule XYZ",
    ("check", "--format", "xml"): "'sarif'",
    ("check", "--planned", "--fix"): "exclude each other",
    ("explain", "and8"): "Did you mean AND08?",
    ("brief", "--mark", "lost.svg", "--out", "b.toml"): "lost.svg does not exist",
    ("brief", "--mark", "mark.svg"): "rivelt.toml",
}


@pytest.mark.parametrize(("arguments", "message"), MISTAKES.items(), ids=map(" ".join, MISTAKES))
def test_mistakes_are_told_in_few_lines_before_anything_is_written(
    tmp_path: Path, rivelt: Command, arguments: tuple[str, ...], message: str | None
) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    before = read_tree(root)
    done = rivelt(*arguments, cwd=root)
    if message is None:
        assert done.code == 0
        return
    assert done.code in {2, 3}, done.err
    assert message in done.err
    assert len(done.err.splitlines()) <= 3
    assert all(len(line) < 200 for line in done.err.splitlines())
    assert read_tree(root) == before


def test_a_bug_is_told_as_one(tmp_path: Path, process: Command) -> None:
    write_tree(
        tmp_path,
        small_android() | {"sitecustomize.py": "import rivelt.job\nrivelt.job.Job.changes = lambda *_, **__: 1 / 0\n"},
    )
    done = process("apply", cwd=tmp_path, env={"PYTHONPATH": str(tmp_path)})
    assert done.code == 70
    assert "error: ZeroDivisionError: division by zero" in done.err
    assert "--debug" in done.err


def test_a_project_of_a_stranger_cannot_lead_outside(tmp_path: Path, rivelt: Command) -> None:
    """A link in the tree points outside; neither reading nor writing follows it."""
    outside = write_tree(tmp_path / "outside", {"styles.xml": "<resources/>", "keep.txt": "mine"})
    root = write_tree(tmp_path / "tern", small_android())
    (root / "app/src/main/res/values-v31").symlink_to(outside)
    before = read_tree(outside)
    done = rivelt("apply", cwd=root)
    assert done.code == 2
    assert "app/src/main/res/values-v31: android app: a link that leads out of the project" in done.err
    assert read_tree(outside) == before
    assert not (root / "rivelt.lock").exists()


def test_a_journal_of_a_stranger_cannot_lead_outside(tmp_path: Path, rivelt: Command) -> None:
    entry = '{"path": "../keep.txt", "before": null, "after": null}'
    journal = f'{{"format": 2, "entries": [{entry}], "made_folders": [], "signature": ""}}'
    write_tree(tmp_path, {"keep.txt": "mine", "tern/.rivelt/0001/applied.json": journal})
    done = rivelt("undo", "--force", cwd=tmp_path / "tern")
    assert done.code == 2
    assert "names what Rivelt never writes to: ../keep.txt" in done.err
    assert (tmp_path / "keep.txt").read_text() == "mine"
