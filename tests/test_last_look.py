"""Apply's last look: what would leave an app with a new error is not done, and says why."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import BRIEF, Command, read_tree, small_android, write_tree

WINDOWS = (
    '<Package xmlns:u="urn:u"><Applications><Application><u:VisualElements/></Application></Applications></Package>'
)
# The mark has the colour of the dark ground: Android shows both looks, Windows only the light one.
UNSEEN = f'{BRIEF}\n[dark]\nground = "#1F6E7D"\n'
AS_ERROR = f'{UNSEEN}\n[check]\nseverity = {{ SCN01 = "error" }}\n'


def app(tmp_path: Path, brief: str) -> Path:
    return write_tree(tmp_path / "tern", {**small_android(brief=brief), "win/Package.appxmanifest": WINDOWS})


@pytest.mark.parametrize("flags", [(), ("--dry-run",), ("--force", "--prune")])
def test_a_site_that_would_be_broken_is_stopped_and_the_others_go_on(
    tmp_path: Path, rivelt: Command, flags: tuple[str, ...]
) -> None:
    root = app(tmp_path, AS_ERROR)
    before = read_tree(root)
    done = rivelt("apply", *flags, cwd=root)
    assert done.code == 1
    assert "left alone: android app\n" in done.err
    assert "rivelt_mark.xml: apply would break it: this image is hard to tell from #1F6E7D (dark)" in done.err
    assert "(SCN01: The image does not stand out from its ground)" in done.err
    assert "Give another ground in that look" in done.err
    changed = {path for path, content in read_tree(root).items() if before.get(path) != content}
    ours = {path for path in changed if not path.startswith((".rivelt/", "win/"))}
    assert ours == (set() if "--dry-run" in flags else {"rivelt.lock"})
    assert rivelt("check", "--planned", "--select", "SCN01", cwd=root).code == 1, (
        "what is looked at is what is reported"
    )


def test_where_every_site_would_be_broken_nothing_is_done(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, AS_ERROR)
    before = read_tree(root)
    refused = rivelt("apply", "--only", "android", cwd=root)
    assert (refused.code, refused.out) == (3, "")
    assert "apply would break it" in refused.err
    assert read_tree(root) == before


@pytest.mark.parametrize(
    "brief",
    [
        pytest.param(UNSEEN, id="a warning stops nothing"),
        pytest.param(AS_ERROR.replace("severity", "ignore"), id="a rule that the brief leaves out is not asked"),
    ],
)
def test_what_is_no_error_stops_nothing(tmp_path: Path, rivelt: Command, brief: str) -> None:
    done = rivelt("apply", cwd=app(tmp_path, brief))
    assert (done.code, "left alone" in done.err) == (0, False)


def test_an_error_that_was_there_before_stops_nothing(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, UNSEEN)
    assert rivelt("apply", cwd=root).code == 0
    (root / "rivelt.toml").write_text(AS_ERROR.replace("#F3EBDD", "#FFFFFF"))
    done = rivelt("apply", cwd=root)
    assert (done.code, done.err) == (0, "")


def test_the_error_of_another_site_is_not_this_ones(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, AS_ERROR)
    assert rivelt("apply", "--only", "windows", cwd=root).code == 0
    assert "RiveltLaunch" in (root / "win/Package.appxmanifest").read_text()


@pytest.mark.parametrize(
    ("command", "item"),
    [
        ("apply --dry-run", "left_alone"),
        ("proof --out ../p.png", "left_alone"),
        ("survey", "sites"),
        ("apply other/rivelt.toml --dry-run", "left_alone"),
    ],
)
@pytest.mark.parametrize("here", [".", "app/src", ".."])
def test_the_brief_that_is_to_blame_is_named_relative_to_the_root(
    tmp_path: Path, rivelt: Command, command: str, item: str, here: str
) -> None:
    """Whatever the current folder is, and whether it is one project or several."""
    brief = f'{BRIEF}\n[android]\nactivity = "skerryline.Nothing"\n'
    root, other = (app(tmp_path / name, brief) for name in ("a", "b"))
    name, *flags = command.split()
    given = root if name == "survey" else root / "rivelt.toml"
    second = [str(other / "rivelt.toml")] if flags[:1] == ["other/rivelt.toml"] else []
    done = rivelt(name, str(given), *second, *flags[len(second) :], "--json", cwd=root / here)
    assert done.code in {1, 3}
    reasons = [one.get("reason", one.get("blocked")) for one in done.json[item]]
    paths = {reason["path"] for reason in reasons if reason}
    expected = {"a/tern/rivelt.toml", "b/tern/rivelt.toml"} if second else {"rivelt.toml"}
    assert paths == expected
    assert done.json["summary"].get("left_alone", 1) == len(expected)
    assert all((Path(done.json["root"]) / path).is_file() for path in paths)
