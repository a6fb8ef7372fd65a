"""apply and undo through the real command: the whole tree before and after."""

from __future__ import annotations

import io
import os
import plistlib
from pathlib import Path

import pytest
from openstep_parser import OpenStepDecoder
from PIL import Image

from conftest import BRIEF, MANIFEST, MARK, Command, read_tree, small_android, write_tree
from rivelt.workspace.lockfile import read_lock

RES = "android/app/src/main/res"
CATALOG = "ios/Skerryline/Assets.xcassets"
DENSITIES = {"mdpi": 1, "hdpi": 1.5, "xhdpi": 2, "xxhdpi": 3, "xxxhdpi": 4}
EDITED = {
    "android/app/build.gradle.kts",
    "android/app/src/main/AndroidManifest.xml",
    "android/app/src/main/java/example/skerryline/app/MainActivity.kt",
    "android/gradle/libs.versions.toml",
    "ios/Skerryline/Info.plist",
    "ios/Skerryline.xcodeproj/project.pbxproj",
    "windows/Package.appxmanifest",
    "windows/Skerryline.csproj",
    "web/manifest.webmanifest",
    "web/index.html",
}
CREATED = {
    "rivelt.lock",
    f"{RES}/drawable/rivelt_window.xml",
    f"{RES}/values-v27/rivelt_launch.xml",
    *(f"{RES}/values{night}{level}/rivelt_launch.xml" for night in ("", "-night") for level in ("", "-v31", "-v33")),
    *(f"{RES}/drawable-{night}anydpi-v24/rivelt_mark.xml" for night in ("", "night-")),
    *(
        f"{RES}/drawable-{night}{density}/rivelt_{name}.png"
        for night in ("", "night-")
        for density in DENSITIES
        for name in ("mark", "imprint")
    ),
    *(f"{RES}/drawable-land-{night}{density}/rivelt_imprint.png" for night in ("", "night-") for density in DENSITIES),
    *(
        f"{CATALOG}/{name}/Contents.json"
        for name in ("RiveltMark.imageset", "RiveltImprint.imageset", "RiveltGround.colorset")
    ),
    *(
        f"{CATALOG}/Rivelt{name}.imageset/Rivelt{name}{dark}@{scale}x.png"
        for name in ("Mark", "Imprint")
        for dark in ("", "-dark")
        for scale in (1, 2, 3)
    ),
    "ios/Skerryline/RiveltLaunch.storyboard",
    *(
        f"windows/Assets/RiveltLaunch.scale-{scale}{contrast}.png"
        for scale in (100, 125, 150, 200, 400)
        for contrast in ("", "_contrast-black", "_contrast-white")
    ),
    *(f"web/rivelt/icon-{kind}{side}.png" for kind in ("", "maskable-") for side in (192, 512)),
    *(
        f"web/rivelt/start-{size}{dark}.png"
        for size in ("1179x2556@3x", "2556x1179@3x", "1640x2360@2x", "2360x1640@2x")
        for dark in ("", "-dark")
    ),
    *(f"uploads/custom-{size}-{look}.png" for size in ("360x640", "512x683") for look in ("light", "dark")),
}


def project_files(root: Path) -> dict[str, bytes]:
    """The tree without Rivelt's own journal."""
    return {path: content for path, content in read_tree(root).items() if not path.startswith(".rivelt/")}


def test_apply_changes_these_files_and_no_other_and_undo_restores_every_byte(sample: Path, rivelt: Command) -> None:
    before = read_tree(sample)
    done = rivelt("apply", cwd=sample)
    assert done.code == 0, done.err
    after = project_files(sample)
    assert set(after) - set(before) == CREATED
    assert {path for path in before if after[path] != before[path]} == EDITED
    assert "the compat way" in done.out

    again = rivelt("apply", cwd=sample)
    assert again.code == 0
    assert "Nothing to do" in again.out
    assert project_files(sample) == after

    undone = rivelt("undo", cwd=sample)
    assert undone.code == 0, undone.err
    assert read_tree(sample) == before
    assert not (sample / ".rivelt").exists()
    assert not list(sample.rglob("drawable-night-*"))


def test_edits_only_insert_what_they_must(sample: Path, rivelt: Command) -> None:
    diff = rivelt("apply", "--diff", cwd=sample)
    assert diff.code == 1
    lines = diff.out.splitlines()
    for path, added, removed in (
        ("android/app/src/main/AndroidManifest.xml", 2, 1),
        ("android/app/build.gradle.kts", 1, 0),
        ("android/app/src/main/java/example/skerryline/app/MainActivity.kt", 2, 0),
        ("android/gradle/libs.versions.toml", 2, 0),
        ("ios/Skerryline/Info.plist", 1, 1),
        ("ios/Skerryline.xcodeproj/project.pbxproj", 4, 0),
        ("windows/Package.appxmanifest", 1, 1),
        ("windows/Skerryline.csproj", 15, 0),
        ("web/manifest.webmanifest", 7, 2),
        ("web/index.html", 13, 0),
    ):
        start = lines.index(f"+++ b/{path}") + 1
        ends = (index for index, line in enumerate(lines[start:], start) if line.startswith(("--- ", "create ")))
        part = lines[start : next(ends, len(lines))]
        assert sum(line.startswith("+") for line in part) == added, path
        assert sum(line.startswith("-") for line in part) == removed, path


def test_dry_run_writes_nothing_and_tells_all(sample: Path, rivelt: Command) -> None:
    before = read_tree(sample)
    told = rivelt("apply", "--dry-run", "--json", cwd=sample)
    assert told.code == 1
    assert read_tree(sample) == before
    assert {change["path"] for change in told.json["changes"]} == CREATED | EDITED
    assert told.json["applied"] is False
    assert told.json["manual_steps"] == []


def test_apply_gives_the_same_bytes_on_every_run(sample: Path, applied: Path, rivelt: Command) -> None:
    rivelt("apply", cwd=sample)
    assert project_files(sample) == project_files(applied)


def test_plates_have_their_exact_sizes_and_the_mark_is_never_distorted(applied: Path) -> None:
    for density, factor in DENSITIES.items():
        for night in ("", "night-"):
            with Image.open(applied / RES / f"drawable-{night}{density}/rivelt_mark.png") as image:
                assert tuple(image.size) == (288 * factor, 288 * factor)
                assert image.mode == "RGBA"
                assert not image.info
                left, top, right, bottom = image.getchannel("A").getbbox() or (0, 0, 0, 0)
                assert (right - left) / (bottom - top) == pytest.approx(1.25, abs=0.03)
            with Image.open(applied / RES / f"drawable-{night}{density}/rivelt_imprint.png") as image:
                assert image.size == (200 * factor, 80 * factor)
    for scale in (1, 2, 3):
        with Image.open(applied / CATALOG / f"RiveltMark.imageset/RiveltMark@{scale}x.png") as image:
            assert image.size == (
                132 * scale,
                106 * scale,
            )  # 250 x 200 in a circle of 168.96: 131.9 x 105.5, rounded up


def test_apple_files_are_read_by_independent_parsers(applied: Path) -> None:
    plist = plistlib.loads((applied / "ios/Skerryline/Info.plist").read_bytes())
    assert plist["UILaunchStoryboardName"] == "RiveltLaunch"
    objects = OpenStepDecoder.ParseFromString((applied / "ios/Skerryline.xcodeproj/project.pbxproj").read_text())[
        "objects"
    ]
    reference = next(key for key, found in objects.items() if found.get("path") == "RiveltLaunch.storyboard")
    build_file = next(key for key, found in objects.items() if found.get("fileRef") == reference)
    phase = next(found for found in objects.values() if found["isa"] == "PBXResourcesBuildPhase")
    group = next(
        found for found in objects.values() if found.get("path") == "Skerryline" and found["isa"] == "PBXGroup"
    )
    assert build_file in phase["files"]
    assert reference in group["children"]


def test_a_generated_file_that_a_person_edited_is_refused_with_a_diff(sample: Path, rivelt: Command) -> None:
    rivelt("apply", cwd=sample)
    edited = sample / RES / "values/rivelt_launch.xml"
    edited.write_text(edited.read_text().replace("#FFF3EBDD", "#FF00FF00"))
    before = read_tree(sample)
    refused = rivelt("apply", cwd=sample)
    assert refused.code == 3
    assert '-    <color name="rivelt_ground">#FF00FF00</color>' in refused.err
    assert read_tree(sample) == before
    assert rivelt("apply", "--force", cwd=sample).code == 0
    assert "#FFF3EBDD" in edited.read_text()


def test_a_plate_that_a_person_edited_is_not_taken_for_ours(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    assert rivelt("apply", cwd=root).code == 0
    plate = root / "app/src/main/res/drawable-hdpi/rivelt_mark.png"
    made = plate.read_bytes()
    plate.write_bytes(made + b"mine")
    refused = rivelt("apply", cwd=root)
    assert refused.code == 3
    assert "edited by hand since they were generated: app/src/main/res/drawable-hdpi/rivelt_mark.png" in refused.err
    assert plate.read_bytes() == made + b"mine"
    assert rivelt("check", "--select", "DRF02", cwd=root).code == 1
    assert rivelt("apply", "--force", cwd=root).code == 0
    assert plate.read_bytes() == made


def test_a_file_of_the_persons_own_in_the_way_is_refused_and_not_called_generated(
    tmp_path: Path, rivelt: Command
) -> None:
    brief = f'{BRIEF}\n[uploads]\nsizes = ["300x600"]\nlooks = "light"\n'
    root = write_tree(
        tmp_path / "tern", {"rivelt.toml": brief, "mark.svg": MARK, "uploads/custom-300x600-light.png": "x"}
    )
    before = read_tree(root)
    refused = rivelt("apply", cwd=root)
    assert refused.code == 3
    assert "not made by Rivelt, and in the way of what it would write: uploads/custom-300x600-light.png" in refused.err
    assert "edited by hand" not in refused.err
    assert read_tree(root) == before
    assert rivelt("apply", "--force", cwd=root).code == 0
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


@pytest.mark.parametrize(
    ("dark", "ground"),
    [('ground = "#13212B"', "#FF13212B"), ('mark = "mark.svg"', "#FFF3EBDD"), ('ground = "navy"', "#FF000080")],
)
def test_the_dark_look_has_its_own_ground_or_else_that_of_the_light_one(
    tmp_path: Path, rivelt: Command, dark: str, ground: str
) -> None:
    root = write_tree(tmp_path / "tern", small_android(brief=f"{BRIEF}\n[dark]\n{dark}\n"))
    assert rivelt("apply", cwd=root).code == 0
    scenes = rivelt("proof", "--now", "--json", cwd=root).json["scenes"]
    grounds = {scene["look"]: scene["ground"] for scene in scenes}
    assert grounds == {"light": "#F3EBDD", "dark": f"#{ground[3:]}"}
    night = root / "app/src/main/res/values-night/rivelt_launch.xml"
    assert night.exists() == ("ground" in dark)
    assert not night.exists() or f'<color name="rivelt_ground">{ground}</color>' in night.read_text()


def test_undo_leaves_what_a_person_changed_since_unless_forced(sample: Path, rivelt: Command) -> None:
    before = read_tree(sample)
    rivelt("apply", cwd=sample)
    manifest = sample / "android/app/src/main/AndroidManifest.xml"
    manifest.write_text(manifest.read_text() + "<!-- mine -->\n")
    refused = rivelt("undo", cwd=sample)
    assert refused.code == 3
    assert "AndroidManifest.xml" in refused.err
    assert manifest.read_text().endswith("<!-- mine -->\n")
    assert rivelt("undo", "--force", cwd=sample).code == 0
    assert read_tree(sample) == before


def test_each_apply_is_undone_on_its_own(sample: Path, rivelt: Command) -> None:
    rivelt("apply", cwd=sample)
    first = project_files(sample)
    brief = sample / "rivelt.toml"
    brief.write_text(brief.read_text().replace("#13212B", "#000033"))
    assert rivelt("apply", cwd=sample).code == 0
    assert project_files(sample) != first
    assert rivelt("undo", cwd=sample).code == 0
    brief.write_text(brief.read_text().replace("#000033", "#13212B"))
    assert project_files(sample) == first


def test_the_lock_file_tells_what_each_site_was_made_from(sample: Path, rivelt: Command) -> None:
    from hashlib import sha256

    def recorded() -> dict[str, str]:
        lock = read_lock((sample / "rivelt.lock").read_bytes())
        return {owner.target: inputs["art/mark.svg"] for owner, inputs in lock.inputs.items()}

    art = sample / "art/mark.svg"
    assert rivelt("apply", cwd=sample).code == 0
    old = sha256(art.read_bytes()).hexdigest()
    assert recorded() == dict.fromkeys(("android", "ios", "web", "windows", "uploads"), old)
    art.write_bytes(art.read_bytes() + b"\n")
    told = rivelt("check", "--select", "DRF01", cwd=sample)
    assert (
        "warning DRF01: rivelt.toml:11:8: art/mark.svg has changed since the last apply: android android/app"
        in told.out
    )
    assert rivelt("apply", "--only", "android", cwd=sample).code == 0
    assert recorded() == {
        **dict.fromkeys(("ios", "web", "windows", "uploads"), old),
        "android": sha256(art.read_bytes()).hexdigest(),
    }
    assert rivelt("check", "--select", "DRF01", cwd=sample).code == 1
    assert rivelt("apply", cwd=sample).code == 0
    assert rivelt("check", "--select", "DRF01", cwd=sample).code == 0


def test_what_a_brief_no_longer_wants_goes(sample: Path, rivelt: Command) -> None:
    rivelt("apply", cwd=sample)
    brief = sample / "rivelt.toml"
    brief.write_text(
        "".join(line for line in brief.read_text().splitlines(keepends=True) if not line.startswith("imprint"))
    )
    assert rivelt("apply", cwd=sample).code == 0
    assert not list(sample.rglob("*mprint*.png"))
    assert "BrandingImage" not in (sample / RES / "values-v31/rivelt_launch.xml").read_text()
    assert "RiveltImprint" not in (sample / "ios/Skerryline/RiveltLaunch.storyboard").read_text()


@pytest.mark.parametrize("corrupt", sorted(EDITED))
def test_a_read_only_file_leaves_the_old_state(sample: Path, corrupt: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """The system's answer is played: the tests may run as root, who may write anywhere."""
    from rivelt import opening
    from rivelt.errors import BadInput
    from rivelt.workspace import commit

    before = read_tree(sample)
    changes = opening.open_brief(sample).changes()
    monkeypatch.setattr(os, "access", lambda path, _mode: Path(path) != sample / corrupt)
    with pytest.raises(BadInput, match="read-only") as caught:
        commit.apply(changes)
    assert str(caught.value.place) == corrupt
    assert read_tree(sample) == before


def test_a_file_that_changes_between_plan_and_commit_is_refused(sample: Path) -> None:
    from rivelt import opening
    from rivelt.errors import Refused
    from rivelt.workspace import commit

    changes = opening.open_brief(sample).changes()
    plist = sample / "ios/Skerryline/Info.plist"
    plist.write_bytes(plist.read_bytes() + b"\n")
    before = read_tree(sample)
    with pytest.raises(Refused, match=r"Info\.plist"):
        commit.apply(changes)
    assert read_tree(sample) == before


def test_a_site_that_cannot_be_handled_costs_the_others_nothing(sample: Path, rivelt: Command) -> None:
    (sample / "ios/Skerryline/Info.plist").write_bytes(b"<plist><dict></plist>")
    before = read_tree(sample / "ios")
    done = rivelt("apply", cwd=sample)
    assert done.code == 1
    assert "left alone: ios" in done.err
    assert "ios/Skerryline/Info.plist:1:16: not well-formed XML" in done.err
    assert read_tree(sample / "ios") == before
    assert (sample / RES / "values/rivelt_launch.xml").is_file()


def test_modes_and_links_are_kept(sample: Path, rivelt: Command) -> None:
    manifest = sample / "android/app/src/main/AndroidManifest.xml"
    real = sample / "shared-manifest.xml"
    manifest.rename(real)
    manifest.symlink_to(Path("../../../../shared-manifest.xml"))
    real.chmod(0o600)
    assert rivelt("apply", cwd=sample).code == 0
    assert manifest.is_symlink()
    assert b"rivelt_launch" in real.read_bytes()
    assert real.stat().st_mode & 0o777 == 0o600
    assert rivelt("undo", cwd=sample).code == 0
    assert manifest.is_symlink()
    assert b"rivelt_launch" not in real.read_bytes()


def test_one_look_makes_no_dark_files(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    assert rivelt("apply", cwd=root).code == 0
    assert not [path for path in project_files(root) if "night" in path]


@pytest.mark.parametrize(
    ("theme", "parent", "call"),
    [
        ('android:theme="@style/Tern"', "@style/Tern", "setTheme(R.style.Tern)"),
        (
            'android:theme="@android:style/Theme.Material"',
            "@android:style/Theme.Material",
            "setTheme(android.R.style.Theme_Material)",
        ),
        (
            "",
            "@android:style/Theme.DeviceDefault.Light.DarkActionBar",
            "android.R.style.Theme_DeviceDefault_Light_DarkActionBar",
        ),
    ],
)
def test_the_launch_theme_inherits_what_the_launcher_had(
    tmp_path: Path, rivelt: Command, theme: str, parent: str, call: str
) -> None:
    root = write_tree(tmp_path / "tern", small_android(manifest=MANIFEST.replace('android:theme="@style/Tern"', theme)))
    for _ in range(2):  # the second time it must still know the theme from before
        done = rivelt("apply", cwd=root)
        assert done.code == 0, done.err
        assert call in done.out
        assert f'parent="{parent}"' in (root / "app/src/main/res/values-v31/rivelt_launch.xml").read_text()


def test_plates_alone_are_those_of_apply_and_touch_nothing_else(sample: Path, applied: Path, rivelt: Command) -> None:
    before = read_tree(sample)
    done = rivelt("plates", "--out", "made", "--json", cwd=sample)
    assert done.code == 0, done.err
    made = read_tree(sample / "made")
    assert {one["path"]: one["bytes"] for one in done.json["plates"]} == {
        path: len(data) for path, data in made.items()
    }
    homes = {"android": RES, "ios": CATALOG, "windows": "windows/Assets", "web": "web", "uploads": "uploads"}
    for path, content in made.items():
        target, _, rest = path.partition("/")
        assert (applied / homes[target] / rest).read_bytes() == content
        Image.open(io.BytesIO(content)).verify()
    assert {path: content for path, content in read_tree(sample).items() if not path.startswith("made/")} == before
