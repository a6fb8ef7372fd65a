"""What a change does to the launch screens, by the real command on real repositories."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from markdown_it import MarkdownIt
from PIL import Image

from conftest import BRIEF, Command, read_tree, small_android, write_tree
from repository import commit, git, repository

DARK = '[dark]\nground = "#13212B"\n'
STYLES = "app/src/main/res/values/styles.xml"


def document(rivelt: Command, root: Path, *options: str, since: str = "HEAD") -> Any:
    return rivelt("proof", "--since", since, *options, "--json", cwd=root).json


@pytest.fixture
def app(tmp_path: Path, rivelt: Command) -> Path:
    """A small Android app, applied and committed."""
    root = write_tree(tmp_path / "app", small_android(brief=BRIEF + DARK))
    assert rivelt("apply", cwd=root).code == 0
    repository(root)
    commit(root)
    return root


def test_nothing_differs_where_nothing_was_changed(app: Path, rivelt: Command) -> None:
    found = document(rivelt, app)
    assert (found["screens"], found["summary"]["same"], found["summary"]["unknown"]) == ([], 4, 0)
    run = rivelt("proof", "--since", "HEAD", "--out", "same.png", cwd=app)
    assert (run.code, "no screen is different; 4 the same" in run.out) == (0, True)
    commit(app, {"README.md": "words"})
    assert document(rivelt, app, "--at", "HEAD", since="HEAD~1")["screens"] == []


def test_a_change_of_art_alone_shows_what_apply_would_make_of_it(app: Path, rivelt: Command) -> None:
    mark = (app / "mark.svg").read_text()
    write_tree(app, {"mark.svg": mark.replace("#1F6E7D", "#AA2222")})
    found = document(rivelt, app)
    assert [(one["kind"], one["planned"], one["ground_difference"], one["shift"]) for one in found["screens"]] == [
        ("changed", True, 0.0, None)
    ] * 4
    assert [one["code"] for one in found["findings_added"]] == ["DRF01"]
    assert document(rivelt, app, "--now")["screens"] == []
    assert rivelt("apply", cwd=app).code == 0
    applied = document(rivelt, app)
    assert {one["planned"] for one in applied["screens"]} == {False}
    assert (len(applied["screens"]), applied["findings_added"]) == (4, [])
    assert applied["weights"][0]["before"] > 0


def test_how_far_a_mark_moves_and_how_much_it_grows_is_measured(tmp_path: Path, rivelt: Command) -> None:
    bitmap = (
        '<layer-list xmlns:android="http://schemas.android.com/apk/res/android"><item android:drawable="#204060"/>'
        '<item android:width="{size}dp" android:height="{size}dp" android:left="{left}dp" android:top="100dp" '
        'android:gravity="top|start" android:drawable="@drawable/mark"/></layer-list>'
    )
    files = small_android(styles=STYLE.replace("#FFFFFF", "@drawable/launch"))
    files |= {"app/src/main/res/drawable/launch.xml": bitmap.format(size=80, left=100), **MARK_PNG}
    del files["rivelt.toml"]
    root = repository(tmp_path / "app", files)
    write_tree(root, {"app/src/main/res/drawable/launch.xml": bitmap.format(size=120, left=90)})
    found = [one for one in document(rivelt, root)["screens"] if one["system"].startswith("Android 11")]
    assert found
    for one in found:  # from a middle at 140, 140 to one at 150, 160
        assert one["shift"]["across"] == pytest.approx(10, abs=0.3)
        assert one["shift"]["down"] == pytest.approx(20, abs=0.3)
        assert one["shift"]["scaled"] == pytest.approx(1.5, abs=0.01)
        union = 120 * 120 + 80 * 80 - 80 * 80  # the smaller square lies in the larger one
        assert one["pixels"] == pytest.approx((union - 80 * 80) / (360 * 800), rel=0.02)
        assert one["ground_difference"] == 0


def png(colour: tuple[int, int, int], level: int = 6) -> bytes:
    data = io.BytesIO()
    Image.new("RGB", (96, 96), colour).save(data, "PNG", compress_level=level)
    return data.getvalue()


MARK_PNG = {"app/src/main/res/drawable-nodpi/mark.png": png((255, 204, 0))}
STYLE = """<resources>
    <style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">#FFFFFF</item></style>
</resources>
"""


def test_a_change_of_native_files_alone(app: Path, rivelt: Command) -> None:
    (colours,) = [path for path in app.rglob("rivelt_launch.xml") if path.parent.name == "values"]
    colours.write_text(colours.read_text().replace("#FFF3EBDD", "#FF204060"))
    found = document(rivelt, app)
    told = {(one["look"], one["planned"], one["ground_before"], one["ground_after"]) for one in found["screens"]}
    assert told == {("light", False, "#F3EBDD", "#204060")}
    assert {one["code"] for one in found["findings_added"]} >= {"DRF01"}
    assert min(one["ground_difference"] for one in found["screens"]) > 30


def test_a_project_without_a_brief(tmp_path: Path, rivelt: Command) -> None:
    files = small_android()
    del files["rivelt.toml"]
    root = repository(tmp_path / "app", files)
    write_tree(root, {STYLES: STYLE.replace("#FFFFFF", "#204060")})
    found = document(rivelt, root)
    assert {(one["kind"], one["ground_after"]) for one in found["screens"]} == {("changed", "#204060")}
    commit(root, {"rivelt.toml": BRIEF})
    brought = document(rivelt, root, since="HEAD~1")
    assert brought["notes"][0] == "HEAD~1 has no rivelt.toml"
    assert {one["kind"] for one in brought["screens"]} == {
        "changed"
    }  # the site is known again, though it has an owner now


def test_a_merge_is_held_against_each_of_its_parents_and_against_where_they_parted(app: Path, rivelt: Command) -> None:
    git(app, "checkout", "-q", "-b", "dark")
    brief = (app / "rivelt.toml").read_text()
    commit(app, {"rivelt.toml": brief.replace("#13212B", "#000040")})
    git(app, "checkout", "-q", "main")
    commit(app, {"rivelt.toml": brief.replace("#F3EBDD", "#FFFFFF")})
    git(app, "merge", "-q", "--no-edit", "dark")
    looks = {
        since: {one["look"] for one in document(rivelt, app, since=since)["screens"]} for since in ("HEAD^1", "HEAD^2")
    }
    assert looks == {"HEAD^1": {"dark"}, "HEAD^2": {"light"}}
    git(app, "checkout", "-q", "dark")
    assert {one["look"] for one in document(rivelt, app, since="main")["screens"]} == {"light"}
    assert {one["look"] for one in document(rivelt, app, since="main~1...")["screens"]} == {"dark"}
    assert {one["look"] for one in document(rivelt, app, "--at", "main~1", since="dark...")["screens"]} == {"light"}


def test_a_file_that_was_renamed_and_a_project_that_was_moved_are_the_same(app: Path, rivelt: Command) -> None:
    git(app, "mv", "mark.svg", "logo.svg")
    write_tree(app, {"rivelt.toml": (app / "rivelt.toml").read_text().replace("mark.svg", "logo.svg")})
    assert document(rivelt, app)["screens"] == []
    git(app, "reset", "-q", "--hard")
    (app / "mobile").mkdir()
    for name in ("app", "mark.svg", "rivelt.toml", "rivelt.lock"):
        git(app, "mv", name, "mobile")
    moved = document(rivelt, app / "mobile")
    assert (moved["screens"], moved["summary"]["same"]) == ([], 4)
    (note,) = moved["notes"]  # which brief it was is said: it is only known by its name
    assert note.startswith("rivelt.toml is compared with ")
    module = git(app, "mv", "mobile/app", "mobile/phone")
    assert not module
    renamed = document(rivelt, app / "mobile", "--now")
    assert (renamed["screens"], renamed["summary"]["same"]) == ([], 4)


def test_a_first_commit_shows_every_screen_as_new_and_a_removed_app_as_gone(tmp_path: Path, rivelt: Command) -> None:
    root = repository(tmp_path / "app", {"README.md": "words"})
    commit(root, small_android())
    assert {one["kind"] for one in document(rivelt, root, since="HEAD~1")["screens"]} == {"added"}
    run = rivelt("proof", "--since", "HEAD~1", cwd=root)
    assert (run.code, "a new screen" in run.out) == (1, True)
    back = document(rivelt, root, "--at", "HEAD~1")
    assert {one["kind"] for one in back["screens"]} == {"gone"}


def test_images_written_anew_with_the_same_pixels_are_said_to_be_the_same(tmp_path: Path, rivelt: Command) -> None:
    path = "app/src/main/res/drawable-nodpi/mark.png"
    other = "app/src/main/res/drawable-nodpi/other.png"
    bitmap = (
        '<layer-list xmlns:android="http://schemas.android.com/apk/res/android"><item android:drawable="#204060"/>'
        '<item><bitmap android:src="@drawable/mark" android:gravity="center"/></item></layer-list>'
    )
    files = small_android(styles=STYLE.replace("#FFFFFF", "@drawable/launch"))
    files |= {"app/src/main/res/drawable/launch.xml": bitmap, path: png((9, 9, 9), 0), other: png((1, 1, 1))}
    del files["rivelt.toml"]
    root = repository(tmp_path / "app", files)
    write_tree(root, {path: png((9, 9, 9), 9), other: png((2, 2, 2))})
    found = document(rivelt, root)
    assert (found["screens"], found["repacked"]) == ([], [path])
    write_tree(root, {path: png((9, 9, 10))})  # one level of one channel is a difference
    changed = document(rivelt, root)
    assert changed["repacked"] == []
    assert {one["system"] for one in changed["screens"]} >= {"Android 11 (API 30)"}
    assert rivelt("proof", "--since", "HEAD", cwd=root).code == 1


def test_a_brief_that_the_commit_has_with_problems_stops_nothing(app: Path, rivelt: Command) -> None:
    good = (app / "rivelt.toml").read_text()
    commit(app, {"rivelt.toml": good + "colour = 1\n"})
    write_tree(app, {"rivelt.toml": good})
    found = document(rivelt, app)
    assert "unknown key `dark.colour` (in HEAD)" in found["notes"][0]
    assert found["screens"] == []
    run = rivelt("check", "--since", "HEAD", cwd=app)
    assert "unknown key `dark.colour` (in HEAD)" in run.err


def test_a_commit_that_cannot_be_judged_is_unknown_and_its_findings_are_not_new(
    app: Path, rivelt: Command, monkeypatch: pytest.MonkeyPatch
) -> None:
    from rivelt.errors import BadInput
    from rivelt.job import Job

    plain = Job.check

    def check(job: Job, **options: Any) -> Any:
        if not job.files.is_disk:
            raise BadInput("it cannot be listed")
        return plain(job, **options)

    (app / "mark.svg").write_text((app / "mark.svg").read_text().replace("#1F6E7D", "#AA2222"))
    monkeypatch.setattr(Job, "check", check)
    found = document(rivelt, app)
    assert found["unknown"] == ["HEAD cannot be judged: it cannot be listed"]
    assert found["findings_added"] == []


# Pictures


def test_the_difference_marks_the_pixels_that_differ_and_no_others() -> None:
    from rivelt.review.picture import MARKED, marked

    before = np.full((40, 30, 4), 255, np.uint8)
    after = before.copy()
    after[10:20, 5:9, :3] = 0
    found = marked(before, after)
    is_marked = (found[..., :3] == MARKED[:3]).all(axis=-1)
    assert np.array_equal(is_marked, (before != after).any(axis=-1))
    after[0, 0, 0] = 254
    assert (marked(before, after)[0, 0] != marked(before, before)[0, 0]).any()


def test_sheet_page_and_markdown_are_the_same_bytes_each_time_and_hold_every_change(app: Path, rivelt: Command) -> None:
    write_tree(app, {"rivelt.toml": (app / "rivelt.toml").read_text().replace("#F3EBDD", "#CFE3EE")})
    trees = []
    for number in range(2):
        for name in ("a.png", "a.html", "a.md"):
            out = app.parent / f"out{number}" / name
            out.parent.mkdir(exist_ok=True)
            assert rivelt("proof", "--since", "HEAD", "--out", out, cwd=app).code == 1
        trees.append(read_tree(app.parent / f"out{number}"))
    assert trees[0] == trees[1]
    files = trees[0]
    thumbnails = [name for name in files if name.startswith("a/")]
    assert len(thumbnails) == 2
    text = files["a.md"].decode()
    assert all(f"({name})" in text for name in thumbnails)
    assert files["a.html"].count(b"data:image/png") == 6
    sheet = np.asarray(Image.open(io.BytesIO(files["a.png"])).convert("RGB"))
    for ground in ((0xF3, 0xEB, 0xDD), (0xCF, 0xE3, 0xEE)):
        assert (sheet == ground).all(axis=-1).sum() > 5_000


def test_markdown_on_standard_output_and_beside_the_brief(app: Path, rivelt: Command) -> None:
    write_tree(app, {"rivelt.toml": (app / "rivelt.toml").read_text().replace("#F3EBDD", "#CFE3EE")})
    run = rivelt("proof", "--since", "HEAD", "--format", "markdown", cwd=app)
    assert run.code == 1
    assert (app / "proof.md").read_text() == run.out
    links = re.findall(r"!\[[^\]]*\]\(([^)]+)\)", run.out)
    assert links
    assert all((app / link).is_file() for link in links)
    alone = rivelt("proof", "--since", "HEAD", "--format", "markdown", "--out", "-", cwd=app)
    assert "![" not in alone.out
    assert "| screen | what is different |" in alone.out


HOSTILE = "</td><script>alert(1)</script> | `x` ![i](http://evil.example/x) @team #1 [l](javascript:x) ::error::"


def test_markdown_is_short_and_what_strangers_wrote_means_nothing_in_it(tmp_path: Path, rivelt: Command) -> None:
    name = "a|b`![x](y)<b>"
    files = small_android(brief=BRIEF.replace("Tern", HOSTILE.replace('"', "'")))
    moved = {path.replace("app/", f"{name}/"): text for path, text in files.items()}
    root = repository(tmp_path / "app", {"README.md": "words"})
    git(root, "branch", "a`|<b>@x")
    write_tree(root, moved)
    run = rivelt("proof", "--since", "a`|<b>@x", "--format", "markdown", cwd=root)
    assert len(run.out) < 60_000
    html = MarkdownIt("commonmark", {"html": True}).enable("table").render(run.out)
    assert ("<script" not in html and "javascript:" not in html.replace("\\", "")) or "href" not in html
    allowed = r"</?(?:h3|p|table|thead|tbody|tr|th|td|code|strong|blockquote|ul|li|details|summary|em)>|<br ?/?>|<img src=\"proof/[\w.-]+\" alt=\"[^\"]*\" ?/?>|<!-- -->"
    left = re.sub(allowed, "", html)
    assert "<" not in left, left


def test_markdown_of_a_thousand_changes_fits_into_a_comment() -> None:
    from rivelt.review.markdown import as_markdown
    from rivelt.review.model import Change, Difference, Review
    from rivelt.scene.model import Scene, Screen
    from rivelt.scene.site import Site

    screen = Screen("android", "phone", "Android " + "x" * 200, 360, 800, 3, 34)
    scene = Scene(screen, "light", (), "")
    change = Change(Site("android", "y" * 300), "as it is", scene, scene, Difference(0.5))
    paths = tuple("z" * 500 for _ in range(500))
    review = Review(
        "n", "s" * 300, "", (change,) * 1000, 0, repacked=paths, elsewhere=paths, unknown=paths, notes=paths
    )
    text = as_markdown(review, "proof")
    assert len(text) < 60_000
    assert "more are left out here" in text or "left out here" in text


@pytest.mark.parametrize(
    ("options", "message"),
    [
        (("--at", "HEAD"), "--at needs --since"),
        (("--format", "markdown"), "--format needs --since"),
        (("--since", "HEAD", "--beside"), "--since shows before and after by itself"),
        (("--since", "HEAD", "--guides"), "--since shows before and after by itself"),
        (("--since", "HEAD", "--out", "x.gif"), "a review is a sheet (.png), a page (.html) or Markdown (.md)"),
        (("--since", "HEAD", "--out", "x.png", "--format", "markdown"), "--format markdown writes Markdown"),
    ],
)
def test_options_that_do_not_go_together(app: Path, rivelt: Command, options: tuple[str, ...], message: str) -> None:
    run = rivelt("proof", *options, cwd=app)
    assert (run.code, message in run.err) == (2, True), run.err


# check


def test_check_counts_only_what_a_change_adds(tmp_path: Path, rivelt: Command) -> None:
    icon = '<item name="android:windowSplashScreenAnimatedIcon">@drawable/{}</item></style>'
    files = small_android(styles=STYLE.replace("</style>", icon.format("none")))
    del files["rivelt.toml"]
    root = repository(tmp_path / "app", files)
    before = rivelt("check", "--json", cwd=root).json
    assert before["summary"]["errors"] == 1
    run = rivelt("check", "--since", "HEAD", cwd=root)
    assert (run.code, "no new findings" in run.out) == (0, True)
    known = before["summary"]["broken"] + before["summary"]["unknown"]
    assert f"{known} known before (as the project is, since HEAD)" in run.out
    night = STYLE.replace("</style>", icon.format("night"))
    lower = "<!-- one line more -->\n" + str(files[STYLES])
    write_tree(root, {STYLES: lower, "app/src/main/res/values-night/styles.xml": night})
    worse = rivelt("check", "--since", "HEAD", "--json", cwd=root)
    added = {one["code"] for one in worse.json["findings"] if one["verdict"] != "holds"}
    assert worse.code == 1
    assert added
    assert worse.json["summary"]["known"] == len(worse.json["known"]) > 0
    assert worse.json["since"] == "HEAD"


def test_findings_in_files_that_were_renamed_are_known(tmp_path: Path, rivelt: Command) -> None:
    files = small_android()
    del files["rivelt.toml"]
    root = repository(tmp_path / "app", files)
    git(root, "mv", "app", "phone")
    git(root, "mv", "phone/src/main/res/values/styles.xml", "phone/src/main/res/values/looks.xml")
    run = rivelt("check", "--since", "HEAD", "--json", cwd=root)
    assert [one for one in run.json["findings"] if one["verdict"] != "holds"] == []
    assert run.code == 0


def test_a_finding_that_is_twice_there_is_one_more() -> None:
    from rivelt.findings import Finding
    from rivelt.rules.likeness import added, gone
    from rivelt.rules.report import Report

    def report(*places: tuple[str, int]) -> Report:
        found = (
            Finding("AND01", "error", "broken", f"wrong in {path} by {line}", path=path, line=line)
            for path, line in places
        )
        return Report(tuple(found), {})

    one, two = report(("a.xml", 1)), report(("a.xml", 5), ("a.xml", 9))
    assert len(added(two, one, "x", lambda _: True).findings) == 1
    assert len(gone(one, two, lambda _: True)) == 1
    other = report(("b.xml", 1))
    assert len(added(other, one, "x", lambda _: True).findings) == 1  # a.xml is still there: another place is wrong now
    assert added(other, one, "x", lambda path: path != "a.xml").findings == ()
    assert gone(other, one, lambda path: path != "a.xml") == ()


@pytest.mark.parametrize("form", ["sarif", "junit", "annotations", "compiler", "markdown"])
def test_formats_hold_what_is_added_alone(tmp_path: Path, rivelt: Command, form: str) -> None:
    files = small_android()
    del files["rivelt.toml"]
    root = repository(tmp_path / "app", files)
    run = rivelt("check", "--since", "HEAD", "--format", form, cwd=root)
    assert run.code == 0
    if form == "sarif":
        states = {one["baselineState"] for one in json.loads(run.out)["runs"][0]["results"]}
        assert states == {"unchanged"}
    else:
        known = rivelt("check", "--format", form, cwd=root)
        assert known.code == 1
        assert len(known.out) > len(run.out)


def test_fix_and_since_exclude_each_other(app: Path, rivelt: Command) -> None:
    assert rivelt("check", "--since", "HEAD", "--fix", cwd=app).code == 2
