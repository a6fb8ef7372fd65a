"""Editions, owners and variants through the real command: who made what, in which variant, and who may take it back."""

from __future__ import annotations

import itertools
import json
import shutil
import subprocess
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

import pytest
from PIL import Image

from aapt import compile_app
from conftest import BRIEF, MANIFEST, MARK, Command, read_tree, small_android, write_tree
from rivelt import opening
from rivelt.colour import Colour
from rivelt.platforms.android.native.manifest import merged_manifest
from rivelt.platforms.android.native.variants import MANIFEST as MANIFEST_NAME
from rivelt.platforms.android.native.variants import Variants, variants_of
from rivelt.project.project import Project
from rivelt.watch import stamps
from rivelt.workspace import commit
from rivelt.workspace.lockfile import lock_of, read_lock
from test_android_shapes import GRADLE, GROOVY, MAIN, SOURCE, TWO_LAUNCHERS, Shape, tree

FLAVOURS = ("festival", "harbour", "winter")
GROUNDS = {"main": "#F3EBDD", "festival": "#E8D5C0", "harbour": "#D5E5EE", "winter": "#E2E8E0"}
DECLARED = "\nandroid { flavorDimensions 'brand'; productFlavors { festival {}; harbour {}; winter {} } }\n"
RES = "app/src/main/res"


def brief_of(ground: str, source_set: str = "main", more: str = "") -> str:
    chosen = f'\n[android]\nsource_set = "{source_set}"\n' if source_set != "main" else ""
    return f'[app]\nname = "Tern"\n\n[light]\nground = "{ground}"\nmark = "mark.svg"\n{chosen}{more}'


def flavoured(tmp_path: Path, briefs: Mapping[str, str], **more: str | bytes) -> Path:
    """A module with three flavours, and some briefs by their file's name."""
    files = tree(Shape({GRADLE: f"{GROOVY}{DECLARED}", **more}))
    del files["rivelt.toml"]
    return write_tree(tmp_path / "tern", {**files, **briefs})


def kept(root: Path) -> dict[str, bytes]:
    """The tree without the journals."""
    return {path: data for path, data in read_tree(root).items() if not path.startswith((".rivelt/", ".git/"))}


BRIEFS = {f"{name}.toml": brief_of(ground, name) for name, ground in GROUNDS.items()}
EDITIONS = brief_of(
    "#F3EBDD",
    more="".join(
        f'\n[edition.{name}]\nandroid.source_set = "{name}"\nlight.ground = "{GROUNDS[name]}"\n'
        for name in ("festival", "winter")
    ),
)
ORDERS = list(itertools.permutations(BRIEFS))


def grounds(root: Path, work: Path, stubs: tuple[Path, Path]) -> dict[str, str | None]:
    """The ground of the launch theme in each flavour, as the resource compiler links it."""
    found: dict[str, str | None] = {}
    for name in ("main", *FLAVOURS):
        overlay = [folder] if (folder := root / f"app/src/{name}/res").is_dir() and name != "main" else []
        table = compile_app(root / RES, root / MAIN, work / name, stubs, overlays=overlay)
        style = table.style("rivelt_launch", night=False, version=34)
        found[name] = table.resolve(style["windowSplashScreenBackground"][1:], night=False, version=34)
    return found


@pytest.mark.parametrize("order", [ORDERS[9], ORDERS[23]])
def test_flavours_with_a_brief_each_are_made_in_any_order_and_none_costs_another(
    tmp_path: Path, rivelt: Command, stubs: tuple[Path, Path], order: Sequence[str]
) -> None:
    root, at_once = flavoured(tmp_path / "one", BRIEFS), flavoured(tmp_path / "two", BRIEFS)
    before = kept(root)
    assert all(one["why"] for one in rivelt("apply", *BRIEFS, "--dry-run", "--json", cwd=root).json["changes"])
    for brief in order:
        done = rivelt("apply", brief, cwd=root)
        assert done.code == 0, done.err
    assert rivelt("apply", *BRIEFS, cwd=at_once).code == 0
    assert kept(root) == kept(at_once)
    for brief in order:
        assert "Nothing to do" in rivelt("apply", brief, cwd=root).out
        assert "DRF" not in rivelt("check", root / brief, cwd=root).out
    linked = grounds(root, tmp_path / "work", stubs)
    assert {name: (value or "")[-6:].upper() for name, value in linked.items()} == {
        name: ground[1:] for name, ground in GROUNDS.items()
    }
    # One goes: the others keep theirs, and what they share stays until the last one.
    assert rivelt("remove", "harbour.toml", cwd=root).code == 0
    assert grounds(root, tmp_path / "later", stubs)["harbour"] == linked["main"]
    assert not [path for path in kept(root) if "src/harbour" in path]
    assert b"core-splashscreen" in kept(root)[GRADLE]
    for brief in ("main.toml", "festival.toml", "winter.toml"):
        assert "Nothing to do" in rivelt("apply", brief, cwd=root).out
    assert rivelt("remove", cwd=root).code == 0
    assert kept(root) == before


@pytest.mark.slow
@pytest.mark.parametrize("order", ORDERS)
def test_every_order_gives_the_same(tmp_path: Path, rivelt: Command, order: Sequence[str]) -> None:
    root, usual = flavoured(tmp_path / "one", BRIEFS), flavoured(tmp_path / "two", BRIEFS)
    for brief, other in zip(order, BRIEFS, strict=True):
        assert rivelt("apply", brief, cwd=root).code == rivelt("apply", other, cwd=usual).code == 0
    assert kept(root) == kept(usual)


def test_a_brief_makes_its_editions_and_each_command_can_be_narrowed(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": EDITIONS})
    before = kept(root)
    surveyed = rivelt("survey", "--json", cwd=root).json["sites"]
    assert {site["site"]: [one["edition"] for one in site["owners"]] for site in surveyed} == {
        "app": [""],
        "app: festival": ["festival"],
        "app: winter": ["winter"],
    }
    alone = rivelt("apply", "--edition", "festival", "--dry-run", "--json", cwd=root).json["changes"]
    assert {path.split("/")[2] for change in alone if "/res/" in (path := change["path"])} == {"festival", "main"}
    assert rivelt("apply", cwd=root).code == 0
    applied = kept(root)
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    shown = rivelt("proof", "--json", "--out", tmp_path / "p.png", cwd=root).json["scenes"]
    assert {(scene["edition"], scene["ground"]) for scene in shown} == {
        ("" if name == "main" else name, ground) for name, ground in GROUNDS.items() if name != "harbour"
    }
    assert "edition" in rivelt("proof", "--out", tmp_path / "p.png", cwd=root).out.split("\n")[0]
    only = rivelt("proof", "--edition", "winter", "--json", "--out", tmp_path / "p.png", cwd=root).json["scenes"]
    assert {scene["edition"] for scene in only} == {"winter"}
    plates = rivelt("plates", "--edition", "main", "--edition", "winter", "--out", tmp_path / "plates", cwd=root)
    assert plates.code == 0
    assert {path.name for path in (tmp_path / "plates").iterdir()} <= {"android", "winter"}
    assert {path["site"] for path in rivelt("check", "--edition", "festival", "--json", cwd=root).json["findings"]} <= {
        "",
        "android app: festival",
    }
    unknown = rivelt("check", "--edition", "festivl", cwd=root)
    assert (unknown.code, "Did you mean festival?" in unknown.err) == (2, True)
    # An edition that the brief has no more goes with the next apply; a renamed one is the same files for another owner.
    (root / "rivelt.toml").write_text(EDITIONS.replace("[edition.winter]", "[edition.snow]"))
    assert rivelt("apply", cwd=root).code == 0
    assert {**kept(root), "rivelt.lock": b"", "rivelt.toml": b""} == {**applied, "rivelt.lock": b"", "rivelt.toml": b""}
    (root / "rivelt.toml").write_text(EDITIONS.partition("\n[edition.winter]")[0])
    assert rivelt("apply", cwd=root).code == 0
    gone = {path for path in applied if path not in kept(root)}
    assert gone == {path for path in applied if "src/winter" in path}
    assert {owner.edition for owner in read_lock((root / "rivelt.lock").read_bytes()).owners} == {"", "festival"}
    (root / "rivelt.toml").write_text(EDITIONS)
    assert rivelt("remove", cwd=root).code == 0
    assert kept(root) == before


@pytest.mark.parametrize(
    ("written", "said"),
    [
        ('[edition.festival]\nlight.gronud = "#123456"', "rivelt.toml:9:1: unknown key `light.gronud`"),
        ('[edition.festival]\nlight.ground = "red-ish"', "rivelt.toml:9:16: `light.ground`"),
        (
            '[edition.festival]\nandroid.source_set = "fest"',
            "rivelt.toml:9:22: app has no source set fest",
        ),
        ('[edition.festival]\nlight.ground = "#123456"', "rivelt.toml:8:2: edition festival has no app of its own"),
        ('[edition."a b"]\nlight.ground = "#123456"', "an edition cannot be called 'a b'"),
        ("[edition.main]\nlight.ground = 1", "an edition cannot be called 'main'"),
        ("[edition]\nfestival = 3", "`edition.festival` must be a table"),
        ('[edition.festival]\napp.project = "x"', "an edition cannot have an `app.project` of its own"),
        (
            '[edition.festival.light]\nmark = "lost.svg"\n[edition.festival.android]\nsource_set = "festival"',
            "rivelt.toml:9:8: lost.svg does not exist",
        ),
    ],
)
def test_errors_name_the_line_of_the_edition(tmp_path: Path, rivelt: Command, written: str, said: str) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": brief_of("#F3EBDD", more=f"\n{written}\n")})
    before = kept(root)
    done = rivelt("apply", cwd=root)
    assert said in done.err, done.err
    assert done.code in {1, 2}
    if done.code == 2:
        assert kept(root) == before


def test_each_edition_is_made_from_the_art_that_it_names_alone(tmp_path: Path, rivelt: Command) -> None:
    """Also where another edition has read its art before, as in a watch."""
    text = EDITIONS.replace("[edition.festival]", '[edition.festival]\nlight.mark = "lantern.svg"')
    root = flavoured(tmp_path, {"rivelt.toml": text, "lantern.svg": MARK.replace("1F6E7D", "7D1F6E")})
    assert rivelt("apply", cwd=root).code == 0
    used = {edition: "lantern.svg" if edition == "festival" else "mark.svg" for edition in ("", "festival", "winter")}

    def inputs() -> dict[str, set[str]]:
        return {owner.edition: set(its) for owner, its in lock_of(Project.of_folder(root)).inputs.items()}

    assert inputs() == {edition: {name} for edition, name in used.items()}
    first = opening.open(root)
    first.changes()
    (root / "rivelt.toml").write_text(text.replace("#F3EBDD", "#102030"))
    second = opening.open(root)
    second.follow(first)
    commit.apply(second.changes())
    assert inputs() == {edition: {name} for edition, name in used.items()}
    assert rivelt("apply", "--dry-run", cwd=root).code == 0, "nothing is left to do"
    (root / "mark.svg").write_text(MARK.replace("<svg", "<svg data-x='1'"))
    stale = [one["site"] for one in rivelt("check", "--select", "DRF", "--json", cwd=root).json["findings"]]
    assert not [site for site in stale if "festival" in site]


def test_two_owners_that_would_make_one_file_differently_are_both_named(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, {"a.toml": brief_of("#F3EBDD"), "b.toml": brief_of("#13212B")})
    before = kept(root)
    at_once = rivelt("apply", "a.toml", "b.toml", cwd=root)
    assert (at_once.code, "a.toml (android app), and b.toml (android app)" in at_once.err) == (3, True)
    assert kept(root) == before
    assert rivelt("apply", "a.toml", cwd=root).code == 0
    applied = kept(root)
    later = rivelt("apply", "b.toml", cwd=root)
    assert (later.code, "a.toml (android app), and b.toml (android app)" in later.err) == (3, True)
    assert kept(root) == applied


def test_two_owners_that_would_edit_one_file_differently_are_both_named(tmp_path: Path, rivelt: Command) -> None:
    held = '\n[android]\nhold_while = "isFinishing"\n'
    other = brief_of("#AA3300", "festival") + 'hold_while = "isDestroyed"\n'
    root = flavoured(tmp_path, {"main.toml": brief_of("#F3EBDD", more=held), "festival.toml": other})
    before = kept(root)
    for briefs in (("main.toml", "festival.toml"), ("main.toml",), ("festival.toml",)):
        done = rivelt("apply", *briefs, cwd=root)
        if briefs == ("main.toml",):
            assert done.code == 0
            before = kept(root)
            continue
        assert done.code == 3, done.err
        assert f"{SOURCE} would be edited differently by two: main.toml (android app), and festival.toml" in done.err
        assert kept(root) == before


def test_a_flavour_with_a_class_of_its_own_needs_no_launch_theme_in_main(tmp_path: Path, rivelt: Command) -> None:
    own = "app/src/festival/java/example/tern/Main.kt"
    files = tree(Shape({}))
    root = flavoured(
        tmp_path,
        {"festival.toml": brief_of("#AA3300", "festival")},
        **{own: files[SOURCE], **{f"app/src/{name}/java/example/tern/Main.kt": files[SOURCE] for name in FLAVOURS[1:]}},
    )
    (root / SOURCE).unlink()
    before = kept(root)
    assert rivelt("apply", "festival.toml", cwd=root).code == 0
    after = kept(root)
    assert b"installSplashScreen" in after[own]
    assert {path for path in after if after[path] != before.get(path) and "src/main" in path} == set()
    assert "tools:replace" in after["app/src/festival/AndroidManifest.xml"].decode()


def test_each_flavour_may_have_a_launcher_of_its_own(tmp_path: Path, rivelt: Command) -> None:
    source = str(tree(Shape({}))[SOURCE])
    more: dict[str, str | bytes] = {
        MAIN: '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:theme="@style/Tern"/></manifest>'
    }
    for name in FLAVOURS:
        start = f"{name.title()}Activity"
        more[f"app/src/{name}/AndroidManifest.xml"] = MANIFEST.replace(".Main", f".{start}")
        more[f"app/src/{name}/java/example/tern/{start}.kt"] = source.replace("class Main", f"class {start}")
    root = flavoured(tmp_path, {"rivelt.toml": brief_of("#F3EBDD")}, **more)
    (root / SOURCE).unlink()
    before = kept(root)
    alone = rivelt("apply", cwd=root)
    assert (
        alone.code,
        "The launcher starts activities of festival, harbour, winter: give each an edition" in alone.err,
    ) == (2, True)
    editions = "".join(f'\n[edition.{name}]\nandroid.source_set = "{name}"\n' for name in FLAVOURS)
    (root / "rivelt.toml").write_text(brief_of("#F3EBDD") + editions)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    after = kept(root)
    assert after[MAIN] == before[MAIN]
    for name in FLAVOURS:
        assert b"installSplashScreen" in after[f"app/src/{name}/java/example/tern/{name.title()}Activity.kt"]
        assert b"@style/rivelt_launch" in after[f"app/src/{name}/AndroidManifest.xml"]
    assert rivelt("check", "--select", "AND", "--select", "SIT", cwd=root).code == 0
    assert rivelt("remove", cwd=root).code == 0
    assert {**kept(root), "rivelt.toml": b""} == {**before, "rivelt.toml": b""}


def test_every_variant_is_judged_and_those_that_show_the_same_are_one(tmp_path: Path, rivelt: Command) -> None:
    icon = '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:icon="@drawable/i"/></manifest>'
    drawn = '<vector xmlns:android="http://schemas.android.com/apk/res/android" android:width="24dp" android:height="24dp" android:viewportWidth="24" android:viewportHeight="24"><path android:pathData="M4,4h16v16h-16z" android:fillColor="#123456"/></vector>'
    root = flavoured(
        tmp_path,
        {},
        **{"app/src/festival/AndroidManifest.xml": icon, "app/src/festival/res/drawable/i.xml": drawn},
        **{"app/src/debug/res/values/names.xml": '<resources><string name="a">b</string></resources>'},
    )
    found = rivelt("survey", "--json", cwd=root).json["sites"]
    groups = {tuple(site["variants"]) for site in found}
    assert groups == {
        ("festivalDebug", "festivalRelease"),
        ("harbourDebug", "winterDebug", "harbourRelease", "winterRelease"),
    }
    sites = {one["site"] for one in rivelt("check", root, "--json", cwd=root).json["findings"] if one["site"]}
    assert "android app (festivalDebug, festivalRelease)" in sites


# A clone has no journal


def cloned(root: Path, to: Path) -> Path:
    shutil.copytree(root, to, ignore=shutil.ignore_patterns(".rivelt"))
    return to


def test_a_clone_without_a_journal_takes_out_what_stands_and_names_what_was_changed(
    tmp_path: Path, rivelt: Command
) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": EDITIONS})
    before = kept(root)
    assert rivelt("apply", cwd=root).code == 0
    clone = cloned(root, tmp_path / "clone")
    told = rivelt("remove", "--dry-run", cwd=clone)
    assert told.code == 1
    assert kept(clone) == kept(root)
    assert rivelt("remove", cwd=clone).code == 0
    assert kept(clone) == before
    assert rivelt("undo", cwd=clone).code == 0
    assert kept(clone) == kept(root)
    # What a person has changed since stays.
    changed = cloned(root, tmp_path / "changed")
    style = changed / RES / "values/rivelt_launch.xml"
    style.write_text(style.read_text().replace("</resources>", '    <color name="mine">#123456</color>\n</resources>'))
    gradle = changed / GRADLE
    gradle.write_text(gradle.read_text().replace("core-splashscreen:1.0.1", "core-splashscreen:1.2.0"))
    (changed / SOURCE).write_text("// mine\n" + (changed / SOURCE).read_text())
    done = rivelt("remove", cwd=changed)
    assert done.code == 1, done.err
    assert f"left: {RES}/values/rivelt_launch.xml: this generated file was edited since" in done.err
    assert f"left: {GRADLE}: this edit was changed since" in done.err
    left = kept(changed)
    assert {path for path in left if left[path] != before.get(path)} == {
        f"{RES}/values/rivelt_launch.xml",
        GRADLE,
        SOURCE,
    }
    assert left[SOURCE] == b"// mine\n" + before[SOURCE]
    assert "core-splashscreen:1.2.0" in left[GRADLE].decode()
    assert rivelt("remove", cwd=changed).code == 2  # nothing of Rivelt is left


def test_what_others_need_is_not_taken_from_them(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, BRIEFS)
    assert rivelt("apply", "main.toml", "festival.toml", cwd=root).code == 0
    applied = kept(root)
    refused = rivelt("remove", "main.toml", cwd=root)
    assert refused.code == 3, refused.out
    assert "festival.toml (android app: festival)" in refused.err
    assert kept(root) == applied


def test_an_app_without_a_lock_file_has_nothing_to_take_out(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": EDITIONS})
    done = rivelt("remove", cwd=root)
    assert (done.code, "there is no rivelt.lock here or above" in done.err) == (2, True)


# Edits that are not needed any more


def test_edits_are_taken_back_where_another_method_or_activity_is_chosen(tmp_path: Path, rivelt: Command) -> None:
    other = "app/src/main/java/example/tern/Two.kt"
    source = str(tree(Shape({}))[SOURCE])
    files = tree(
        Shape({MAIN: TWO_LAUNCHERS, other: source.replace("class Main", "class Two")}, options='activity = ".Main"')
    )
    root = write_tree(tmp_path / "tern", files)
    before = kept(root)
    assert rivelt("apply", cwd=root).code == 0
    first = kept(root)
    brief = root / "rivelt.toml"
    brief.write_text(brief.read_text().replace('".Main"', '".Two"'))
    assert rivelt("apply", cwd=root).code == 0
    moved = kept(root)
    assert moved[SOURCE] == before[SOURCE]
    assert b"installSplashScreen" in moved[other]
    assert moved[MAIN].count(b"@style/rivelt_launch") == 1
    brief.write_text(brief.read_text().replace('".Two"', '".Main"') + '\nway = "platform"\n')
    assert rivelt("apply", cwd=root).code == 0
    plain = kept(root)
    assert plain[GRADLE] == before[GRADLE]
    assert plain[other] == before[other]
    assert b"setTheme" in plain[SOURCE]
    brief.write_bytes(first["rivelt.toml"])
    assert rivelt("apply", cwd=root).code == 0
    assert kept(root) == first
    assert rivelt("remove", cwd=root).code == 0
    assert kept(root) == before


def test_a_person_may_move_what_was_put_and_apply_leaves_it_there(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": EDITIONS})
    before = kept(root)
    assert rivelt("apply", cwd=root).code == 0
    gradle = root / GRADLE
    line = next(line for line in gradle.read_text().split("\n") if "core-splashscreen" in line)
    theirs = "    implementation 'example:theirs:1'"
    gradle.write_text(
        gradle.read_text().replace(f"{line}\n", "").replace("dependencies {\n", f"dependencies {{\n{line}\n{theirs}\n")
    )
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    assert rivelt("remove", cwd=root).code == 0
    assert kept(root) == {
        **before,
        GRADLE: before[GRADLE].replace(b"dependencies {\n", f"dependencies {{\n{theirs}\n".encode()),
    }


# Lock files


def test_a_lock_file_of_the_first_format_is_read_and_carried_over(tmp_path: Path, rivelt: Command) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": brief_of("#F3EBDD")})
    before = kept(root)
    assert rivelt("apply", cwd=root).code == 0
    applied, lock = kept(root), read_lock((root / "rivelt.lock").read_bytes())
    ((owner, files),) = lock.files.items()
    old = [
        f'"{path}" = {{site = "{owner.site}", sha256 = "{one.sha256}"{f", recipe = {json.dumps(one.recipe)}" if one.recipe else ""}}}'
        for path, one in files.items()
    ]
    inputs = ", ".join(f'"{name}" = "{digest}"' for name, digest in lock.inputs[owner].items())
    text = "\n".join(["format = 1", "", "[inputs]", f'"{owner.site}" = {{{inputs}}}', "", "[files]", *old, ""])
    (root / "rivelt.lock").write_text(text)
    assert {path: data for path, data in kept(root).items() if path != "rivelt.lock"} == {
        path: data for path, data in applied.items() if path != "rivelt.lock"
    }
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert read_lock((root / "rivelt.lock").read_bytes()).files == lock.files
    assert rivelt("check", "--select", "DRF", cwd=root).code == 0
    (root / "rivelt.toml").write_text(brief_of("#13212B"))
    assert rivelt("apply", cwd=root).code == 0
    # The journal of this machine still knows what stood there before.
    assert rivelt("remove", cwd=root).code == 0
    assert {**kept(root), "rivelt.toml": b""} == {**before, "rivelt.toml": b""}


def git(root: Path, *arguments: str) -> str:
    identity = ("-c", "user.name=Tern", "-c", "user.email=tern@example.com", "-c", "commit.gpgsign=false")
    done = subprocess.run(["git", *identity, *arguments], cwd=root, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


@pytest.mark.parametrize("is_new", [False, True], ids=["both changed", "both new"])
def test_two_branches_merge(tmp_path: Path, rivelt: Command, *, is_new: bool) -> None:
    root = flavoured(tmp_path, BRIEFS)
    git(root, "init", "-q", "-b", "trunk")
    assert rivelt("apply", *(["main.toml"] if is_new else BRIEFS), cwd=root).code == 0
    git(root, "add", "-A")
    git(root, "commit", "-qm", "made")
    for name in ("festival", "winter"):
        git(root, "checkout", "-q", "-b", name, "trunk")
        if not is_new:
            brief = root / f"{name}.toml"
            brief.write_text(brief.read_text().replace(GROUNDS[name], "#C0FFEE"))
        assert rivelt("apply", f"{name}.toml", cwd=root).code == 0
        git(root, "add", "-A")
        git(root, "commit", "-qm", name)
    git(root, "checkout", "-q", "trunk")
    for name in ("festival", "winter"):
        git(root, "merge", "-q", "--no-edit", name)
    read_lock((root / "rivelt.lock").read_bytes())
    for name in ("main", "festival", "winter"):
        assert "Nothing to do" in rivelt("apply", f"{name}.toml", cwd=root).out
    (root / "rivelt.lock").write_text("<<<<<<< ours\n=======\n>>>>>>> theirs\n")
    told = rivelt("apply", "main.toml", cwd=root)
    assert (told.code, "merge conflict" in told.err) == (2, True)


# What a Gradle build says


def built(text: str, path: str = "app/build.gradle", **more: str) -> Variants:
    files = {path: text, MAIN: "<manifest/>", **more}
    project = Project.of_files({name: content.encode() for name, content in files.items()})
    return variants_of(project, "app", path, MAIN)


def names_of(variants: Variants) -> Iterator[str]:
    return (variant.name for variant in variants.every)


@pytest.mark.parametrize(
    ("text", "path", "names"),
    [
        ("android {}", "app/build.gradle", ["debug", "release"]),
        (
            'android {\n  flavorDimensions "a", "b"\n  productFlavors {\n    x { dimension "a" }\n    y { dimension "b" }\n  }\n}',
            "app/build.gradle",
            ["xYDebug", "xYRelease"],
        ),
        (
            'android { flavorDimensions += listOf("a")\n productFlavors { create("x") { dimension = "a" }; register("y") }\n buildTypes { create("beta") } }',
            "app/build.gradle.kts",
            ["xDebug", "xRelease", "xBeta", "yDebug", "yRelease", "yBeta"],
        ),
        (
            'android { productFlavors { val x by creating { } } }\nandroid.buildTypes.create("beta") { }',
            "app/build.gradle.kts",
            ["xDebug", "xRelease", "xBeta"],
        ),
        ("// productFlavors { x {} }\nandroid { /* buildTypes { b {} } */ }", "app/build.gradle", ["debug", "release"]),
    ],
)
def test_variants_are_flavours_times_build_types(text: str, path: str, names: list[str]) -> None:
    found = built(text, path)
    assert list(names_of(found)) == names
    assert found.problem is None


@pytest.mark.parametrize(
    ("text", "more", "why"),
    [
        ("android { productFlavors { ['a'].each { n -> create(n) {} } } }", {}, "not a literal"),
        ("android { productFlavors { if (x) { a {} } } }", {}, "under a condition"),
        ("android { flavorDimensions(dims)\n productFlavors { a { dimension 'x' } } }", {}, "dimensions"),
        (
            "android { flavorDimensions 'x', 'y'\n productFlavors { a { dimension 'z' } } }",
            {},
            "dimension of flavour a",
        ),
        ("apply from: '../gone.gradle'", {}, "not in the project"),
        (
            "plugins { id 'x.app' }",
            {"build-logic/P.kt": "fun f() { productFlavors { create(n) } }"},
            "convention plugin",
        ),
    ],
)
def test_flavours_that_cannot_be_read_are_unknown(text: str, more: dict[str, str], why: str) -> None:
    problem = built(text, **more).problem
    assert problem is not None
    assert why in problem.message


@pytest.mark.parametrize(
    ("text", "res", "manifest", "code"),
    [
        ("sourceSets { main { res.srcDirs = ['r', 's'] } }", ("app/r", "app/s"), MAIN, ()),
        ("sourceSets { main.res.srcDirs += 'r' }", (RES, "app/r"), MAIN, ()),
        ("sourceSets { main { res { srcDir 'r' } } }", (RES, "app/r"), MAIN, ()),
        ("sourceSets { main { manifest.srcFile 'A.xml' } }", (RES,), "app/A.xml", ()),
        ("sourceSets { main { setRoot('m') } }", ("app/m/res",), "app/m/AndroidManifest.xml", ()),
        ('sourceSets["main"].res.srcDirs("r", "$projectDir/s")', (RES, "app/r", "app/s"), MAIN, ()),
        (
            'sourceSets.getByName("main") { java.srcDir("k"); res.setSrcDirs(listOf("r")) }',
            ("app/r",),
            MAIN,
            ("app/k",),
        ),
        ('sourceSets { named("main") { kotlin.srcDirs += files("k") } }', (RES,), MAIN, ("app/k",)),
        ('sourceSets.all { java.srcDir("src/$name/own") }', (RES,), MAIN, ("app/src/main/own",)),
    ],
)
def test_source_sets_lie_where_the_build_says(
    text: str, res: tuple[str, ...], manifest: str, code: tuple[str, ...]
) -> None:
    for path in ("app/build.gradle", "app/build.gradle.kts"):
        if path.endswith(".kts") and "'" in text:
            continue
        main = built(f"android {{ {text} }}", path).main
        assert (main.res, main.manifest, main.code[2:]) == (res, manifest, code)
        assert main.problem is None


@pytest.mark.parametrize(
    "text", ["main.res.srcDirs = computed()", "main { manifest.srcFile where }", "main.setRoot(root)"]
)
def test_places_that_are_not_literals_are_refused(tmp_path: Path, rivelt: Command, text: str) -> None:
    root = flavoured(
        tmp_path, {"rivelt.toml": brief_of("#F3EBDD")}, **{GRADLE: f"{GROOVY}\nandroid {{ sourceSets {{ {text} }} }}\n"}
    )
    before = kept(root)
    done = rivelt("apply", cwd=root)
    assert (done.code, f"{GRADLE}:19:" in done.err, "not literals in the build" in done.err) == (2, True, True)
    assert kept(root) == before


def test_sources_that_lie_elsewhere_are_read_and_written_there(tmp_path: Path, rivelt: Command) -> None:
    files = tree(
        Shape(
            {
                GRADLE: f"{GROOVY}\nandroid {{ sourceSets {{ main {{ manifest.srcFile 'AndroidManifest.xml'; java.srcDirs = ['code']; res.srcDirs = ['look'] }} }} }}\n"
            }
        )
    )
    moved = {
        path.replace("src/main/res", "look").replace("src/main/java", "code").replace("src/main/", ""): data
        for path, data in files.items()
    }
    root = write_tree(tmp_path / "tern", moved)
    before = kept(root)
    assert rivelt("apply", cwd=root).code == 0
    assert (root / "app/look/values-v31/rivelt_launch.xml").exists()
    assert "@style/rivelt_launch" in (root / "app/AndroidManifest.xml").read_text()
    assert rivelt("check", "--select", "AND", cwd=root).code == 0
    assert rivelt("remove", cwd=root).code == 0
    assert kept(root) == before


HEAD = '<manifest xmlns:android="http://schemas.android.com/apk/res/android" xmlns:tools="http://schemas.android.com/tools"><application>{}</application></manifest>'


@pytest.mark.parametrize(
    ("over", "theme", "launchers"),
    [
        ('<activity android:name=".Main" android:theme="@style/X" tools:replace="android:theme"/>', "@style/X", 1),
        ('<activity android:name="example.tern.Main" android:theme="@style/X"/>', "@style/X", 1),
        ('<activity android:name="Main" tools:remove="android:theme"/>', "@style/Tern", 1),
        ('<activity android:name=".Main" tools:node="remove"/>', "@style/Tern", 0),
        ('<activity android:name=".Main" tools:node="replace"/>', "@style/Tern", 0),
        ('<activity android:name=".Other"/>', "@style/Tern", 1),
    ],
)
def test_a_manifest_is_merged_with_one_entry_for_a_class(over: str, theme: str, launchers: int) -> None:
    files = {"over.xml": HEAD.format(over), "main.xml": MANIFEST}
    project = Project.of_files({path: text.encode() for path, text in files.items()})
    merged = merged_manifest(project, ("over.xml", "missing.xml", "main.xml"), "example.tern")
    assert (merged.theme, len(merged.launchers)) == (theme, launchers)
    assert len({activity.name for activity in merged.activities}) == len(merged.activities)


def test_an_entry_for_the_class_is_not_made_twice(tmp_path: Path, rivelt: Command) -> None:
    own = f"app/src/festival/{MANIFEST_NAME}"
    root = flavoured(
        tmp_path,
        {"festival.toml": brief_of("#AA3300", "festival")},
        **{own: HEAD.format('<activity android:name="example.tern.Main" android:label="F"/>')},
    )
    assert rivelt("apply", "festival.toml", cwd=root).code == 0
    text = (root / own).read_text()
    assert text.count("<activity") == 1
    assert 'android:theme="@style/rivelt_launch"' in text


# Colours from design tokens


TOKENS = {
    "color": {
        "$type": "color",
        "sand": {"$value": "#F3EBDD"},
        "sea": {"$value": {"colorSpace": "srgb", "components": [0.0745, 0.1294, 0.1686]}},
        "deep": {"$value": {"colorSpace": "oklch", "components": [0.24, 0.03, 240]}},
        "brand": {"ground": {"$value": "{color.sand}"}, "night": {"$ref": "#/color/sea/$value"}},
        "round": {"$value": "{color.trip}"},
        "trip": {"$value": "{color.round}"},
    },
    "size": {"$type": "dimension", "gap": {"$value": "4px"}},
}


@pytest.mark.parametrize(
    ("name", "wanted"),
    [
        ("color.sand", "#F3EBDD"),
        ("color.brand.ground", "#F3EBDD"),
        ("color.brand.night", "#13212B"),
        ("color.deep", None),
        ("color.gone", "tokens.json has no token color.gone"),
        ("color.brand", "color.brand is a group"),
        ("size.gap", "size.gap is a dimension"),
        ("color.round", "color.round -> color.trip -> color.round"),
    ],
)
def test_a_colour_comes_from_a_design_token(tmp_path: Path, rivelt: Command, name: str, wanted: str | None) -> None:
    brief = brief_of("#F3EBDD").replace('"#F3EBDD"', f'{{ tokens = "tokens.json", name = "{name}" }}')
    root = flavoured(tmp_path, {"rivelt.toml": brief, "tokens.json": json.dumps(TOKENS)})
    done = rivelt("measure", "--json", cwd=root)
    if wanted is not None and not wanted.startswith("#"):
        assert (done.code, wanted in done.err, "rivelt.toml:5:1" in done.err) == (2, True, True), done.err
        return
    assert done.code in {0, 1}, done.err
    assert rivelt("apply", cwd=root).code == 0
    values = (root / RES / "values/rivelt_launch.xml").read_text()
    assert wanted is None or f"#FF{wanted[1:]}" in values
    tokens = root / "tokens.json"
    assert tokens.resolve() in stamps([root / "rivelt.toml"]), "a watch looks at it"
    tokens.write_text(tokens.read_text().replace("#F3EBDD", "#EEEEEE"))
    drifted = rivelt("check", "--select", "DRF01", cwd=root)
    assert "tokens.json has changed since the last apply" in drifted.out


@pytest.mark.parametrize(
    "path",
    [".github/workflows/ci.yml", "scripts/release.sh", "app/.hidden/A.kt", "../other/A.kt", ".git/config", "gradlew"],
)
def test_a_lock_file_cannot_have_anything_edited(tmp_path: Path, rivelt: Command, path: str) -> None:
    root = flavoured(tmp_path, {"rivelt.toml": brief_of("#F3EBDD")}, **{path.removeprefix("../"): "echo safe\n"})
    line = (
        f'{{ brief = "rivelt.toml", site = "android app", edit = "{path}", before = "echo evil", put = "echo safe" }}'
    )
    (root / "rivelt.lock").write_text(f"format = 2\nmade = [\n  {line},\n]\n")
    before = kept(root)
    for command in ("apply", "remove"):
        done = rivelt(command, cwd=root)
        assert (done.code, "the lock file names" in done.err) == (2, True), done.err
    assert kept(root) == before


def test_the_chart_shows_art_on_the_ground_of_its_edition(tmp_path: Path, rivelt: Command) -> None:
    brief = BRIEF + '\n[edition.free]\nandroid.source_set = "free"\nlight.ground = "#1B0F2A"\n'
    root = write_tree(tmp_path / "tern", {**small_android(), "rivelt.toml": brief})
    assert rivelt("measure", "--chart", "chart.png", cwd=root).code in {0, 1}
    with Image.open(root / "chart.png") as chart:
        colours = {colour for _, colour in chart.getcolors(1 << 24) or ()}
    assert {Colour.parse(ground)[:3] for ground in ("#F3EBDD", "#1B0F2A")} <= colours
