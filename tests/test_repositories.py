"""Whole repositories through the real command: many apps, many briefs, what git ignores, and what CI services are told."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from conftest import BRIEF, MANIFEST, MARK, STYLES, Command, read_tree, small_android, write_tree
from test_android_shapes import GROOVY, Shape, tree
from test_apple_options import PROJECT
from test_apple_projects import FILES, PLIST, project
from test_editions import git, kept

MODERN = "// com.android.application\nandroid { compileSdk 35 }\n"


def app(folder: str, gradle: str = MODERN) -> dict[str, str | bytes]:
    """A small app module in a folder."""
    return {
        f"{folder}/build.gradle": gradle,
        f"{folder}/src/main/AndroidManifest.xml": MANIFEST,
        f"{folder}/src/main/res/values/styles.xml": STYLES,
    }


def apps(count: int) -> dict[str, str | bytes]:
    return {path: data for number in range(count) for path, data in app(f"apps/a{number:02d}").items()}


def brand(number: int, modules: str) -> dict[str, str | bytes]:
    """A brief in a folder of its own, with its art, for some modules of the repository."""
    return {
        f"brands/b{number}/rivelt.toml": f'[app]\nproject = "../.."\n\n[light]\nground = "#F3EBD{number}"\nmark = "mark.svg"\n\n[android]\nmodule = {modules}\n',
        f"brands/b{number}/mark.svg": MARK.replace("#1F6E7D", f"#1F6E{number}D"),
    }


def test_fifteen_apps_with_three_brands(tmp_path: Path, rivelt: Command) -> None:
    files = apps(15) | brand(0, '["apps/a0*"]') | brand(1, '["apps/a10", "apps/a11"]') | brand(2, '"apps/a1[234]"')
    root = write_tree(tmp_path / "repo", files)
    before = kept(root)
    briefs = [f"brands/b{number}/rivelt.toml" for number in range(3)]
    done = rivelt("apply", *briefs, cwd=root)
    assert done.code == 0, done.err
    assert "using brands/b1/rivelt.toml" in done.err
    owned: dict[str, set[str]] = {}
    for path, data in kept(root).items():
        if path.endswith("values/rivelt_launch.xml"):
            owned.setdefault(path.split("/")[1], set()).add(data.decode().partition("#FFF3EBD")[2][:1])
    assert owned == {f"a{number:02d}": {str(0 if number < 10 else 1 if number < 12 else 2)} for number in range(15)}
    checked = rivelt("check", cwd=root)
    assert "using brands/b1/rivelt.toml for android apps/a10, android apps/a11" in checked.err
    assert rivelt("check", "--select", "DRF", cwd=root).code == 0
    assert {one["path"] for one in rivelt("check", "--json", cwd=root).json["findings"] if one["path"]} <= {*kept(root)}
    # One brand changes: one finding for each of its sites, on the line that names the art.
    (root / "brands/b1/mark.svg").write_text(MARK)
    drifted = rivelt("check", "--select", "DRF", "--json", cwd=root).json["findings"]
    found = [(one["path"], one["line"]) for one in drifted if one["verdict"] == "broken"]
    assert found == [("brands/b1/rivelt.toml", 6)] * 2
    assert rivelt("remove", "brands/b2/rivelt.toml", cwd=root).code == 0
    assert rivelt("remove", cwd=root).code == 0
    assert kept(root) == before | {"brands/b1/mark.svg": MARK.encode()}


def test_one_message_says_that_nothing_chooses_among_many(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(
        tmp_path / "repo", {**apps(15), "rivelt.toml": BRIEF, "mark.svg": MARK, **FILES, PROJECT: project()}
    )
    done = rivelt("apply", "--dry-run", cwd=root)
    assert done.code == 1  # the iOS app continues
    assert done.err.count("there are several app modules: apps/a00, ") == 1
    assert "apps/a07 and 7 more; the brief does not say which" in done.err
    assert 'module = "apps/a00", or a list of names and patterns' in done.err
    (root / "rivelt.toml").unlink()
    written = rivelt("brief", "--mark", "mark.svg", cwd=root)
    assert written.code == 0
    text = (root / "rivelt.toml").read_text()
    assert all(f'  "apps/a{number:02d}",\n' in text for number in range(15))
    assert rivelt("apply", "--dry-run", "-q", cwd=root).err == ""


def test_editions_are_proposed_from_flavours_and_targets(tmp_path: Path, rivelt: Command) -> None:
    second = (
        'T2 = {isa = PBXNativeTarget; name = "My App Festival"; productType = "com.apple.product-type.application"; buildConfigurationList = C2; buildPhases = (R2); };'
        "R2 = {isa = PBXResourcesBuildPhase; files = (); }; C2 = {isa = XCConfigurationList; buildConfigurations = (D3); };"
        "D3 = {isa = XCBuildConfiguration; name = Debug; buildSettings = {INFOPLIST_FILE = App/Ferry.plist; }; };"
    )
    flavours = f"{GROOVY}\nandroid {{ flavorDimensions 'b'; productFlavors {{ festival {{}}; winter {{}} }} }}\n"
    files = {**tree(Shape({"app/build.gradle": flavours})), **FILES, PROJECT: project(more=second)}
    root = write_tree(tmp_path / "tern", {**files, "App/Ferry.plist": PLIST.format("")})
    (root / "rivelt.toml").unlink()
    assert rivelt("brief", "--mark", "mark.svg", cwd=root).code == 0
    text = (root / "rivelt.toml").read_text()
    proposed = '# [edition.festival]\n# android.source_set = "festival"\n# ios.target = "My App Festival"\n'
    assert proposed in text
    assert '# android.source_set = "winter"\n' in text
    assert 'target = [\n  "My App",\n  "My App Festival",\n]' in text
    assert rivelt("apply", "--dry-run", cwd=root).code == 1
    # As proposed it works: the edition has the flavour and the target, the brief all else.
    own = text.replace(proposed, proposed.replace("# [", "[").replace("# android", "android").replace("# ios", "ios"))
    (root / "rivelt.toml").write_text(own[: own.index("[ios]")] + own[own.index("# screen =") :])
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    assert {one["site"] for one in done.json["weights"]} == {
        "android app",
        "ios X.xcodeproj: My App",
        "android app: festival",
        "ios X.xcodeproj: My App Festival",
    }
    names = {path.rpartition("/")[2] for path in kept(root)}
    assert {"RiveltLaunch.storyboard", "RiveltFestivalLaunch.storyboard"} <= names
    assert not rivelt("apply", "--dry-run", "--json", cwd=root).json["changes"]
    assert rivelt("check", "--select", "IOS", cwd=root).code == 0


# What is not an app of this repository


def test_ignored_generated_and_vendored_folders_are_no_apps(tmp_path: Path, rivelt: Command) -> None:
    files: dict[str, str | bytes] = {".gitignore": "gen/\n/native*\n!native-kept\n", "apps/.gitignore": "local\n"}
    for folder in (
        "apps/tern",
        "gen/app",
        "native-made",
        "native-kept",
        "apps/local",
        "vendor/x",
        "third_party/y",
        "dist/z",
        ".dart_tool/a",
        "samples/demo",
    ):
        files |= app(folder)
    files["apps/widgets/src/main/AndroidManifest.xml"] = '<manifest package="a.b"/>'  # without an application
    files["apps/widgets/build.gradle"] = "plugins { id 'com.android.library' }"
    files["apps/tern/src/androidTest/AndroidManifest.xml"] = MANIFEST
    root = write_tree(tmp_path / "repo", files)
    git(root, "init", "-q")
    (root / ".git/info/exclude").write_text("excluded/\n")
    write_tree(root, app("excluded/app"))
    found = rivelt("survey", "--json", cwd=root)
    assert found.code == 0
    assert [site["site"] for site in found.json["sites"]] == ["apps/tern", "native-kept", "samples/demo"]
    brief = f"{BRIEF.replace('[app]', '[app]' + chr(10) + 'exclude = [' + chr(34) + '**/samples/**' + chr(34) + ', ' + chr(34) + 'native-*' + chr(34) + ']')}"
    write_tree(root, {"rivelt.toml": brief, "mark.svg": MARK})
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    assert [one["site"] for one in done.json["weights"]] == ["android apps/tern"]
    # Who names a vendored app means it; and in an ignored folder one can still work.
    (root / "rivelt.toml").write_text(f'{brief}\n[android]\nmodule = "vendor/x"\n')
    assert rivelt("apply", "--dry-run", cwd=root).code == 1
    assert [site["site"] for site in rivelt("survey", "gen", "--json", cwd=root).json["sites"]] == ["app"]


def test_old_projects_say_their_level_and_unknown_levels_are_not_guessed(tmp_path: Path, rivelt: Command) -> None:
    old = {
        "AndroidManifest.xml": MANIFEST,
        "res/values/styles.xml": STYLES,
        "project.properties": "target=android-19\n",
    }
    library = {f"lib/{path}": data for path, data in old.items()} | {
        "lib/project.properties": "android.library=true\ntarget=android-19\n"
    }
    root = write_tree(tmp_path / "old", old | library)
    (site,) = rivelt("survey", "--json", cwd=root).json["sites"]
    assert (site["site"], "compileSdk 19" in site["facts"]["build"]) == (".", True)
    for number, level in enumerate(("libs.versions.sdk.get()", "sdk()", "")):
        text = (
            f"// com.android.application\nandroid {{ compileSdk {level}\n defaultConfig {{ minSdk = minimum() }} }}\n"
        )
        files = small_android(gradle=text) | {"build-logic/Plugin.kt": "val compileSdk = 35\nval minSdk = 24\n"}
        root = write_tree(tmp_path / str(number), files)
        (site,) = rivelt("survey", "--json", cwd=root).json["sites"]
        assert "minSdk not known, compileSdk not known" in site["facts"]["build"]
        told = rivelt("apply", cwd=root)
        assert "compileSdk is unknown" in told.out
        assert not [path for path in kept(root) if "-v31" in path]
        (root / "rivelt.toml").write_text(f"{BRIEF}\n[android]\ncompile_sdk = 35\nmin_sdk = 24\n")
        assert rivelt("apply", cwd=root).code == 0
        assert [path for path in kept(root) if "-v31" in path]


# Art, briefs and paths


def test_art_may_lie_anywhere_in_the_repository_and_nowhere_else(tmp_path: Path, rivelt: Command) -> None:
    files = {**app("mobile/tern/app"), "brand/mark.svg": MARK}
    root = write_tree(tmp_path / "repo", files)
    brief = BRIEF.replace("mark.svg", "../../brand/mark.svg")
    write_tree(root, {"mobile/tern/rivelt.toml": brief})
    outside = rivelt("apply", cwd=root / "mobile/tern")
    assert (outside.code, "is outside the project and its repository" in outside.err) == (2, True)
    git(root, "init", "-q")
    assert rivelt("apply", cwd=root / "mobile/tern").code == 0
    write_tree(tmp_path, {"mark.svg": MARK})
    (root / "mobile/tern/rivelt.toml").write_text(BRIEF.replace("mark.svg", "../../../mark.svg"))
    beyond = rivelt("apply", cwd=root / "mobile/tern")
    assert (beyond.code, "is outside the project and its repository" in beyond.err) == (2, True)


@pytest.fixture
def monorepo(tmp_path: Path, rivelt: Command) -> Path:
    """Two projects with a brief each, one of them drifted; and an app without a brief."""
    files: dict[str, str | bytes] = {}
    for name in ("ferry", "bus"):
        files |= app(f"{name}/app") | {f"{name}/rivelt.toml": BRIEF, f"{name}/mark.svg": MARK}
    root = write_tree(tmp_path / "repo", files | app("train/app"))
    git(root, "init", "-q")
    for name in ("ferry", "bus"):
        assert rivelt("apply", cwd=root / name).code == 0
    (root / "bus/mark.svg").write_text(MARK.replace("#1F6E7D", "#7D1F6E"))
    return root


def test_check_at_the_top_uses_each_brief_for_its_own_sites(monorepo: Path, rivelt: Command) -> None:
    told = rivelt("check", "--select", "DRF", cwd=monorepo)
    assert (told.code, told.out.count("warning DRF01")) == (1, 1)
    assert "warning DRF01: bus/rivelt.toml:6:8: mark.svg has changed since the last apply" in told.out
    assert "using bus/rivelt.toml for android app" in told.err
    assert "using ferry/rivelt.toml for android app" in told.err
    sites = {one["site"] for one in rivelt("check", "--json", cwd=monorepo).json["findings"]}
    assert "android train/app" in sites
    inside = rivelt("check", "--select", "DRF", cwd=monorepo / "bus/app")
    assert "warning DRF01: ../rivelt.toml:6:8:" in inside.out
    assert "using" in inside.err
    assert "using" not in rivelt("check", cwd=monorepo / "bus").err
    listed = rivelt("survey", cwd=monorepo / "bus/app")
    assert listed.code == 0


@pytest.mark.parametrize("folder", [".", "bus", "bus/app"])
def test_ci_formats_name_files_from_the_top_of_the_repository(monorepo: Path, rivelt: Command, folder: str) -> None:
    here = monorepo / folder
    lines = rivelt("check", "--select", "DRF01", "--format", "annotations", cwd=here).out.splitlines()
    (line,) = lines[lines.index("::endgroup::") + 1 :]
    assert line.startswith("::warning file=bus/rivelt.toml,line=6,title=DRF01,col=8::")
    sarif: Any = json.loads(rivelt("check", "--select", "DRF01", "--format", "sarif", cwd=here).out)
    (run,) = sarif["runs"]
    assert run["originalUriBaseIds"]["SRCROOT"]["uri"] == f"{monorepo.as_uri()}/"
    (found,) = (result for result in run["results"] if result["kind"] == "fail")
    place = found["locations"][0]["physicalLocation"]["artifactLocation"]
    assert place == {"uri": "bus/rivelt.toml", "uriBaseId": "SRCROOT"}
    inner = {"GITHUB_WORKSPACE": str(monorepo.parent)}
    *_, line = rivelt("check", "--select", "DRF01", "--format", "annotations", cwd=here, env=inner).out.splitlines()
    assert line.startswith("::warning file=repo/bus/rivelt.toml,")
    # Places in the project's own files too.
    (monorepo / "bus/app/src/main/res/values/styles.xml").write_text("<resources>")
    broken = rivelt("check", "--select", "SIT", "--format", "annotations", cwd=here).out
    assert "file=bus/app/src/main/" in broken


def test_errors_and_tables_name_files_as_they_are_from_here(monorepo: Path, rivelt: Command) -> None:
    told = rivelt("apply", "bus", "--dry-run", cwd=monorepo)
    assert "using bus/rivelt.toml" in told.err
    assert "bus/app/src/main/res/drawable" in told.out
    (monorepo / "bus/app/src/main/AndroidManifest.xml").write_text("<manifest")
    broken = rivelt("apply", cwd=monorepo / "bus/app")
    assert "error: src/main/AndroidManifest.xml:1" in broken.err


def test_a_check_ends_at_once_where_nothing_has_changed(monorepo: Path, rivelt: Command) -> None:
    home = monorepo / "ferry"
    command = ("check", "--if-changed", "--select", "DRF")
    assert "no findings" in rivelt(*command, cwd=home).out  # nothing is staged yet: it cannot be known
    assert "no findings" in rivelt(*command, cwd=home).out
    git(monorepo, "add", "-A")
    assert "no findings" in rivelt(*command, cwd=home).out
    assert rivelt(*command, cwd=home).out == "Nothing has changed since the last check, which found nothing.\n"
    assert "no findings" in rivelt("check", "--if-changed", "--select", "AND", cwd=home).out
    write_tree(monorepo, {"README.md": "# Ferries"})
    git(monorepo, "add", "-A")
    assert rivelt(*command, cwd=home).out.startswith("Nothing has changed")
    (home / "mark.svg").write_text(f"{MARK}\n")
    assert rivelt(*command, cwd=home).code == 1  # not staged
    git(monorepo, "add", "-A")
    assert rivelt(*command, cwd=home).code == 1
    assert rivelt(*command, cwd=home).code == 1  # what found something is judged again
    assert json.loads(rivelt(*command, "--json", cwd=home).out)["findings"]
    # Nobody else can say that a state is clean.
    (home / ".rivelt/checked").write_text("0" * 64)
    assert rivelt(*command, cwd=home).code == 1


def test_the_hooks_see_every_change() -> None:
    hooks = (Path(__file__).parent.parent / ".pre-commit-hooks.yaml").read_text()
    assert hooks.count("- id: ") == hooks.count("always_run: true") == 2
    assert "files:" not in hooks
    assert "entry: rivelt check --if-changed --select DRF" in hooks


# The configurations of Apple's targets


def test_configuration_files_are_found_by_reference_and_in_synchronised_folders(
    tmp_path: Path, rivelt: Command
) -> None:
    text = project(
        settings="GENERATE_INFOPLIST_FILE = YES; ",
        more='S1 = {isa = PBXFileSystemSynchronizedRootGroup; path = Config; sourceTree = "<group>"; };',
    )
    base = 'baseConfigurationReferenceAnchor = S1; baseConfigurationReferenceRelativePath = "Debug.xcconfig"; name = Debug; buildSettings = {GENERATE'
    text = text.replace("children = (G1)", "children = (G1, S1)").replace(
        "name = Debug; buildSettings = {GENERATE", base
    )
    files = {**FILES, PROJECT: text, "Config/Debug.xcconfig": "INFOPLIST_KEY_UILaunchStoryboardName = Start\n"}
    root = write_tree(tmp_path / "tern", files)
    sites = rivelt("survey", "--json", cwd=root).json["sites"]
    assert [(site["variants"], "Start.storyboard" in site["today"]) for site in sites] == [
        (["Debug"], True),
        (["Release"], False),
    ]
    found = rivelt("check", root, "--select", "IOS01", "--json", cwd=root).json["findings"]
    verdicts = {one["site"]: one["verdict"] for one in found}
    assert verdicts == {"ios X.xcodeproj: My App (Debug)": "holds", "ios X.xcodeproj: My App (Release)": "broken"}


def test_targets_of_one_name_are_told_apart_by_their_project(tmp_path: Path, rivelt: Command) -> None:
    files: dict[str, str | bytes] = {}
    for folder in ("one", "two"):
        files |= {
            f"{folder}/{path}": data for path, data in {**FILES, PROJECT: project()}.items() if path != "rivelt.toml"
        }
    root = write_tree(tmp_path / "repo", {**files, "mark.svg": MARK, "rivelt.toml": BRIEF})
    unclear = rivelt("apply", cwd=root)
    assert "there are several app targets: one/X.xcodeproj: My App, two/X.xcodeproj: My App" in unclear.err
    (root / "rivelt.toml").write_text(f'{BRIEF}\n[ios]\ntarget = "two/X.xcodeproj: My App"\n')
    assert rivelt("apply", cwd=root).code == 0
    changed = {path.split("/")[0] for path in read_tree(root) if "Rivelt" in path}
    assert changed == {"two"}
