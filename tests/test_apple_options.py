"""What a brief may say to iOS, and how launch screens are declared, through the real command and independent readers."""

from __future__ import annotations

import io
import json
import plistlib
import re
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from openstep_parser import OpenStepDecoder
from PIL import Image

from conftest import MARK, Command, read_tree, small_android, write_tree
from rivelt import opening
from rivelt.colour import Colour
from rivelt.edit.xml import parse_xml
from rivelt.platforms import platform
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Picture, Screen
from rivelt.units import Rect
from rivelt.workspace import commit, history
from rivelt.workspace.change import Changes
from test_apple_projects import FILES, PLIST, project
from test_storyboards import laid_out_on

PROJECT = "X.xcodeproj/project.pbxproj"
CATALOG = "App/Assets.xcassets"
BRIEF = """[app]
name = "Tern"

[light]
ground = "#F3EBDD"
mark = "mark.svg"
imprint = "mark.svg"

[dark]
ground = "#13212B"
"""
GENERATED = "GENERATE_INFOPLIST_FILE = YES; "


@cache
def sound() -> bytes:
    buffer = io.BytesIO()
    Image.effect_noise((900, 1200), 40).convert("RGB").save(buffer, "JPEG")
    return buffer.getvalue()


def laid_out(tmp_path: Path, options: str = "", brief: str = BRIEF, **more: Any) -> Path:
    short = {"project": PROJECT, "plist": "App/Info.plist"}
    files = {short.get(name, name): content for name, content in more.items()}
    return write_tree(
        tmp_path / "tern", {**FILES, "rivelt.toml": f"{brief}\n[ios]\n{options}\n", "sound.jpg": sound(), **files}
    )


def objects(root: Path) -> dict[str, Any]:
    found: dict[str, Any] = OpenStepDecoder.ParseFromString((root / PROJECT).read_text())["objects"]
    return found


def settings(root: Path) -> list[dict[str, str]]:
    """The build settings of the target's configurations."""
    found = objects(root)
    return [found[name]["buildSettings"] for name in ("D1", "D2")]


def applied(root: Path, rivelt: Command, *flags: str) -> str:
    """Apply with the real command; a second time there is nothing to do, and undo restores every byte; then all of it once more."""
    before = read_tree(root)
    done = rivelt("apply", *flags, cwd=root)
    assert done.code == 0, done.err
    after = read_tree(root)
    assert not changes(root).files
    history.undo(root)
    assert read_tree(root) == before
    commit.apply(changes(root))
    assert {path: data for path, data in read_tree(root).items() if not path.startswith(".rivelt/")} == {
        path: data for path, data in after.items() if not path.startswith(".rivelt/")
    }
    return done.out


def changes(root: Path) -> Changes:
    return opening.open_brief(root).changes()


FULL = BRIEF.replace('ground = "#F3EBDD"', 'ground = "#F3EBDD"\ndisc = "#FFFFFF"\nbackdrop = "sound.jpg"')


@pytest.mark.parametrize("brief", [BRIEF, FULL], ids=["plain", "disc and backdrop"])
def test_the_storyboard_holds_on_every_screen_and_on_its_side(tmp_path: Path, rivelt: Command, brief: str) -> None:
    root = laid_out(tmp_path, "pad_scale = 1.5", brief)
    applied(root, rivelt)
    path = root / "App/RiveltLaunch.storyboard"
    document = parse_xml(path.read_bytes(), "s")
    assert document.root.get("launchScreen") == "YES"
    assert not {node.local for node in document.root.walk()} & {"label", "userDefinedRuntimeAttributes", "connections"}
    assert not any(node.get("customClass") for node in document.root.walk())
    upright = platform("ios").every_screen()
    sideways = [
        Screen("ios", found.name, found.system, found.height, found.width, found.scale, 17, 0, 21) for found in upright
    ]
    for screen in (*upright, *sideways):
        layout = laid_out_on(document, screen)
        assert not layout.unknown
        assert not layout.open
        frames = layout.frames
        is_pad = min(screen.width, screen.height) >= 700
        side = 160 if brief == FULL else None
        mark = frames["rvl-mk-0001"]
        assert mark.centre == pytest.approx(screen.frame.centre, abs=0.5)
        assert mark.width == pytest.approx((side or 136) * (1.5 if is_pad else 1), abs=0.5)
        safe = screen.safe_area
        imprint = frames["rvl-im-0001"]
        assert inside(mark, safe)
        assert inside(imprint, safe)
        assert imprint.centre.x == pytest.approx(screen.width / 2, abs=0.5)
        assert not overlap(mark, imprint)
        if brief == FULL:
            assert frames["rvl-dc-0001"] == pytest.approx(mark, abs=0.5)
            assert frames["rvl-bd-0001"] == pytest.approx(screen.frame, abs=0.01)


def inside(inner: Rect, outer: Rect) -> bool:
    slack = 0.01
    return (
        inner.x >= outer.x - slack
        and inner.y >= outer.y - slack
        and inner.right <= outer.right + slack
        and inner.bottom <= outer.bottom + slack
    )


def overlap(a: Rect, b: Rect) -> bool:
    return a.x < b.right and b.x < a.right and a.y < b.bottom and b.y < a.bottom


def test_the_backdrop_fits_every_idiom_and_the_memory(tmp_path: Path, rivelt: Command) -> None:
    root = laid_out(tmp_path, "pad_scale = 3", FULL)
    applied(root, rivelt)
    weights: dict[tuple[str, str, str], dict[str, int]] = {}
    for contents in (root / CATALOG).glob("Rivelt*.imageset/Contents.json"):
        for entry in json.loads(contents.read_text())["images"]:
            with Image.open(contents.parent / entry["filename"]) as image:
                idioms = ["iphone", "ipad"] if entry["idiom"] == "universal" else [entry["idiom"]]
                for idiom in idioms:
                    for height in [entry["height-class"]] if "height-class" in entry else ["regular", "compact"]:
                        key = (idiom, height, entry["scale"])
                        weights.setdefault(key, {})[contents.parent.name] = image.width * image.height * 4
    assert all(sum(images.values()) <= 25_000_000 for images in weights.values())
    for screen in platform("ios").screens():
        (site,) = opening.open_folder(root).sites
        scene = platform("ios").scene(Project.of_folder(root), site, screen, "dark")
        assert not scene.unknowns
        backdrop = next(layer for layer in scene.layers if isinstance(layer, Picture))
        assert "RiveltBackdrop" in backdrop.source
        assert inside(screen.frame, backdrop.rect)


DECLARED = {
    "nothing": ({}, {}),
    "generated, dictionary made": (
        {"project": project(settings=f"{GENERATED}INFOPLIST_KEY_UILaunchScreen_Generation = YES;")},
        {},
    ),
    "generated, with conditions": (
        {
            "project": project(
                settings=GENERATED
                + '"INFOPLIST_KEY_UILaunchScreen_Generation[sdk=iphoneos*]" = YES; "INFOPLIST_KEY_UILaunchStoryboardName[sdk=iphonesimulator*]" = Old;'
            )
        },
        {},
    ),
    "generated beside a file": (
        {
            "project": project(settings=f"{GENERATED}INFOPLIST_FILE = App/Info.plist;"),
            "plist": PLIST.format("\t<key>UILaunchScreen</key>\n\t<dict/>\n"),
        },
        {},
    ),
    "generated by the project's settings": (
        {
            "project": project(settings=GENERATED).replace(
                "SDKROOT = iphoneos;", "SDKROOT = iphoneos; INFOPLIST_KEY_UILaunchScreen_Generation = YES;"
            )
        },
        {"INFOPLIST_KEY_UILaunchScreen_Generation": "NO"},
    ),
    "file named in a configuration file": (
        {
            "project": project(
                settings="A = b;", more='X1 = {isa = PBXFileReference; path = app.xcconfig; sourceTree = "<group>"; };'
            )
            .replace("children = (G1)", "children = (G1, X1)")
            .replace(
                "name = Debug; buildSettings = {A", "name = Debug; baseConfigurationReference = X1; buildSettings = {A"
            )
            .replace(
                "name = Release; buildSettings = {A",
                "name = Release; baseConfigurationReference = X1; buildSettings = {A",
            ),
            "app.xcconfig": '// launch\n#include "more.xcconfig"\n',
            "more.xcconfig": "INFOPLIST_FILE = $(SRCROOT)/App/Info.plist // here\n",
        },
        {},
    ),
    "for one of several devices": (
        {
            "plist": PLIST.format(
                "\t<key>UILaunchStoryboardName~ipad</key>\n\t<string>Pad</string>\n\t<key>UILaunchScreen</key>\n\t<dict/>\n"
            )
        },
        {},
    ),
    "UTF-16": ({"plist": PLIST.format("").replace("UTF-8", "UTF-16").encode("utf-16")}, {}),
    "binary": ({"plist": plistlib.dumps({"CFBundleName": "Tern", "A": 1}, fmt=plistlib.FMT_BINARY)}, {}),
}


@pytest.mark.parametrize("screen", ["storyboard", "plist"])
@pytest.mark.parametrize(("files", "extra"), DECLARED.values(), ids=DECLARED)
def test_exactly_one_kind_is_declared(
    tmp_path: Path, rivelt: Command, screen: str, files: dict[str, Any], extra: dict[str, str]
) -> None:
    root = laid_out(tmp_path, f'screen = "{screen}"', **files)
    said = applied(root, rivelt)
    assert ("UILaunchScreen cannot show the imprint" in said) == (screen == "plist")
    for index, found in enumerate(settings(root)):
        is_generated = found.get("GENERATE_INFOPLIST_FILE") == "YES"
        keys = {key: value for key, value in found.items() if key.startswith("INFOPLIST_KEY_UILaunch")}
        values: dict[str, Any] = {}
        file = found.get("INFOPLIST_FILE", None if is_generated else "App/Info.plist")
        if file:
            values = plistlib.loads((root / file.replace("$(SRCROOT)/", "")).read_bytes())
        declared = {key for key in values if key.startswith("UILaunch")}
        if screen == "plist":
            assert declared == {"UILaunchScreen"}
            assert values["UILaunchScreen"] == {"UIColorName": "RiveltGround", "UIImageName": "RiveltMark"}
            assert not keys
        elif is_generated:
            assert not declared
            assert keys == {"INFOPLIST_KEY_UILaunchStoryboardName": "RiveltLaunch", **(extra if index == 0 else {})}
        else:
            assert values["UILaunchStoryboardName"] == "RiveltLaunch"
            assert declared == {"UILaunchStoryboardName"}
            assert not keys
        if values and "plist" in files and isinstance(files["plist"], bytes) and files["plist"].startswith(b"bplist"):
            assert (values["CFBundleName"], values["A"]) == ("Tern", 1)
    scenes = opening.open(root).prove(now=True).scenes
    assert {scene.ground for _, scene in scenes if scene.look == "dark"} == {Colour.parse("#13212B")}
    assert not any(scene.unknowns for _, scene in scenes)
    for _, scene in scenes:
        mark = next(layer for layer in scene.layers if isinstance(layer, Picture) and "RiveltMark" in layer.source)
        assert mark.rect.centre == pytest.approx(scene.screen.frame.centre, abs=0.5)


BARS = [
    ("auto", "#F3EBDD", "#13212B", {}),
    ("auto", "#13212B", "#13212B", {"UIStatusBarStyle": "UIStatusBarStyleLightContent"}),
    ("auto", "#F3EBDD", "#FFFFFF", {"UIStatusBarStyle": "UIStatusBarStyleDarkContent"}),
    ("light", "#F3EBDD", "#13212B", {"UIStatusBarStyle": "UIStatusBarStyleLightContent"}),
    ("dark", "#F3EBDD", "#13212B", {"UIStatusBarStyle": "UIStatusBarStyleDarkContent"}),
    ("hidden", "#F3EBDD", "#13212B", {"UIStatusBarHidden": True}),
]


@pytest.mark.parametrize("is_generated", [False, True])
@pytest.mark.parametrize(("bar", "light", "dark", "wanted"), BARS)
def test_the_status_bar_is_readable(
    tmp_path: Path, rivelt: Command, bar: str, light: str, dark: str, wanted: dict[str, Any], *, is_generated: bool
) -> None:
    files: dict[str, Any] = {"project": project(settings=GENERATED)} if is_generated else {}
    root = laid_out(
        tmp_path, f'status_bar = "{bar}"', BRIEF.replace("#F3EBDD", light).replace("#13212B", dark), **files
    )
    assert rivelt("apply", cwd=root).code == 0
    if is_generated:
        found = {
            key.removeprefix("INFOPLIST_KEY_"): value for key, value in settings(root)[1].items() if "StatusBar" in key
        }
        assert found == {key: "YES" if value is True else value for key, value in wanted.items()}
    else:
        values = plistlib.loads((root / "App/Info.plist").read_bytes())
        assert {key: value for key, value in values.items() if "StatusBar" in key} == wanted


def test_a_status_bar_setting_with_a_condition_does_not_win_over_ours(tmp_path: Path, rivelt: Command) -> None:
    own = f'{GENERATED}"INFOPLIST_KEY_UIStatusBarStyle[sdk=iphoneos*]" = UIStatusBarStyleDarkContent; OTHER = "a[b]";'
    root = laid_out(tmp_path, 'status_bar = "light"', project=project(settings=own))
    applied(root, rivelt)
    for found in settings(root):
        bars = {key: value for key, value in found.items() if "StatusBar" in key}
        assert bars == {"INFOPLIST_KEY_UIStatusBarStyle": "UIStatusBarStyleLightContent"}
        assert found["OTHER"] == "a[b]"


@pytest.mark.parametrize(
    ("mark", "is_left"), [(' launchScreen="YES"', True), (' launchScreen="NO"', False), ("", False)]
)
def test_only_a_storyboard_marked_as_a_launch_screen_is_told_as_left_over(
    tmp_path: Path, rivelt: Command, mark: str, is_left: bool
) -> None:
    old = f'<?xml version="1.0"?>\n<document type="com.apple.InterfaceBuilder3.CocoaTouch.Storyboard.XIB"{mark}/>'
    text = (
        project(files="B1, B3", more="B3 = {isa = PBXBuildFile; fileRef = F3; };")
        .replace("children = (F1, F2)", "children = (F1, F2, F3)")
        .replace(
            "\t\tG0 =", '\t\tF3 = {isa = PBXFileReference; path = Old.storyboard; sourceTree = "<group>"; };\n\t\tG0 ='
        )
    )
    root = laid_out(tmp_path, project=text, **{"App/Old.storyboard": old})
    told = rivelt("apply", "--prune", "--json", cwd=root)
    assert told.code == 0, told.err
    assert (root / "App/Old.storyboard").exists() != is_left


def test_fresh_names_follow_the_content_and_old_ones_go(tmp_path: Path, rivelt: Command) -> None:
    root = laid_out(tmp_path, "fresh_names = true")
    before = objects(root)
    applied(root, rivelt)
    (first,) = (root / "App").glob("RiveltLaunch-*.storyboard")
    (root / "rivelt.toml").write_text((root / "rivelt.toml").read_text().replace("#13212B", "#101820"))
    assert rivelt("apply", cwd=root).code == 0
    (second,) = (root / "App").glob("RiveltLaunch-*.storyboard")
    assert first.name != second.name
    assert not [path for path in (root / CATALOG).iterdir() if path.is_dir() and not list(path.iterdir())]
    assert len(objects(root)) == len(before) + 2
    text = (root / PROJECT).read_text()
    assert (first.name in text, text.count(second.name)) == (False, 1)
    assert re.fullmatch(
        r"RiveltLaunch-[0-9a-f]{8}", plistlib.loads((root / "App/Info.plist").read_bytes())["UILaunchStoryboardName"]
    )


@pytest.mark.parametrize("kind", ["true", '"swiftui"'])
def test_the_waiting_screen_equals_the_launch_screen(tmp_path: Path, rivelt: Command, kind: str) -> None:
    code = "S1 = {isa = PBXSourcesBuildPhase; files = (); };"
    root = laid_out(tmp_path, f"waiting = {kind}", project=project(more=code).replace("(R1)", "(S1, R1)"))
    said = applied(root, rivelt)
    found = objects(root)
    if kind == "true":
        assert 'UIStoryboard(name: "RiveltWaiting", bundle: nil)' in said
        launch, waiting = (
            parse_xml((root / f"App/Rivelt{name}.storyboard").read_bytes(), name) for name in ("Launch", "Waiting")
        )
        assert waiting.root.get("launchScreen") is None
        screen = platform("ios").every_screen()[3]
        frames = [laid_out_on(document, screen).frames for document in (launch, waiting)]
        assert frames[0]["rvl-mk-0001"] == frames[1]["rvl-mk-0001"]
        assert frames[1]["rvl-ai-0001"].y == pytest.approx(frames[0]["rvl-mk-0001"].bottom + 16)
        assert len(found["R1"]["files"]) == 3
    else:
        assert "RiveltWaiting()" in said
        text = (root / "App/RiveltWaiting.swift").read_text()
        assert 'Color("RiveltGround")' in text
        assert ".frame(width: 136, height: 109)" in text
        assert len(found["S1"]["files"]) == 1
    (root / "rivelt.toml").write_text(BRIEF)
    assert rivelt("apply", cwd=root).code == 0
    assert "Waiting" not in (root / PROJECT).read_text()
    assert not list((root / "App").glob("*Waiting*"))


def test_a_mark_kept_as_vector_looks_the_same(tmp_path: Path, rivelt: Command) -> None:
    root = laid_out(tmp_path, 'mark_form = "vector"')
    applied(root, rivelt)
    contents = json.loads((root / CATALOG / "RiveltMark.imageset/Contents.json").read_text())
    assert contents["properties"] == {"preserves-vector-representation": True}
    assert [entry["filename"] for entry in contents["images"]] == ["RiveltMark.svg"]
    scenes = opening.open(root).prove(now=True).scenes
    assert not any(scene.unknowns for _, scene in scenes)
    assert all(any(isinstance(layer, Fill) for layer in scene.layers) for _, scene in scenes)
    (root / "mark.svg").write_text(
        MARK.replace('rx="4"', 'filter="url(#f)"').replace("<rect", '<filter id="f"><feOffset/></filter><rect')
    )
    refused = rivelt("apply", cwd=root)
    assert (refused.code, "the light mark cannot be kept as a vector: <rect>: a filter" in refused.err) == (2, True)


OLD = '<?xml version="1.0"?><document launchScreen="YES"><scenes/></document>'


def test_old_launch_storyboards_leave_target_and_disk_when_asked(tmp_path: Path, rivelt: Command) -> None:
    variant = (
        'B3 = {isa = PBXBuildFile; fileRef = V1; }; V1 = {isa = PBXVariantGroup; name = Old.storyboard; children = (V2); sourceTree = "<group>"; };'
        'V2 = {isa = PBXFileReference; path = Base.lproj/Old.storyboard; sourceTree = "<group>"; };'
    )
    text = project(more=variant, files="B1, B3").replace("(F1, F2)", "(F1, F2, V1)")
    files = {
        "App/Base.lproj/Old.storyboard": OLD,
        "plist": PLIST.format("\t<key>UILaunchStoryboardName</key>\n\t<string>Old</string>\n"),
    }
    root = laid_out(tmp_path, "", project=text, **files)
    before = read_tree(root)
    told = rivelt("apply", "--json", cwd=root).json
    assert told["unused"] == ["App/Base.lproj/Old.storyboard"]
    assert (root / told["unused"][0]).exists()
    assert "Old.storyboard" in (root / PROJECT).read_text()
    assert rivelt("apply", "--prune", cwd=root).code == 0
    assert not (root / "App/Base.lproj").exists()
    assert not {"B3", "V1", "V2"} & objects(root).keys()
    assert "Old" not in (root / PROJECT).read_text()
    assert rivelt("undo", cwd=root).code == rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_what_only_the_old_screen_used_goes_with_it(tmp_path: Path, rivelt: Command) -> None:
    """Its translations, its images and its colours; what code names, by name or by symbol, stays."""
    images = "".join(f'<imageView image="{name}"/>' for name in ("old-logo", "shared", "by-symbol"))
    old = f'<document launchScreen="YES"><scenes><view key="view">{images}<color key="backgroundColor" name="OldGround"/></view></scenes></document>'
    variant = (
        'B3 = {isa = PBXBuildFile; fileRef = V1; }; V1 = {isa = PBXVariantGroup; name = Old.storyboard; children = (V2, V3); sourceTree = "<group>"; };'
        'V2 = {isa = PBXFileReference; path = Base.lproj/Old.storyboard; sourceTree = "<group>"; };'
        'V3 = {isa = PBXFileReference; name = de; path = de.lproj/Old.strings; sourceTree = "<group>"; };'
    )
    sets = {
        f"{CATALOG}/{name}.imageset/Contents.json": '{"images": []}' for name in ("old-logo", "shared", "by-symbol")
    }
    root = laid_out(
        tmp_path,
        "",
        project=project(more=variant, files="B1, B3").replace("(F1, F2)", "(F1, F2, V1)"),
        plist=PLIST.format("\t<key>UILaunchStoryboardName</key>\n\t<string>Old</string>\n"),
        **{
            "App/Base.lproj/Old.storyboard": old,
            "App/de.lproj/Old.strings": '"a.text" = "b";',
            "App/de.lproj/Other.strings": "",
        },
        **{f"{CATALOG}/LaunchImage.launchimage/Contents.json": '{"images": []}'},
        **{**sets, f"{CATALOG}/OldGround.colorset/Contents.json": '{"colors": []}'},
        **{"App/A.swift": 'let one = UIImage(named: "shared")\nlet two = UIImage(resource: .bySymbol)\n'},
    )
    before = read_tree(root)
    assert rivelt("apply", "--json", cwd=root).json["unused"] == [
        "App/Base.lproj/Old.storyboard",
        "App/de.lproj/Old.strings",
        f"{CATALOG}/OldGround.colorset/Contents.json",
        f"{CATALOG}/old-logo.imageset/Contents.json",
        f"{CATALOG}/LaunchImage.launchimage/Contents.json",
    ]
    assert rivelt("apply", "--prune", cwd=root).code == 0
    assert not {"B3", "V1", "V2", "V3"} & objects(root).keys()
    assert (root / "App/de.lproj/Other.strings").exists()
    assert rivelt("undo", cwd=root).code == rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_targets_are_chosen_and_share_what_they_share(tmp_path: Path, rivelt: Command) -> None:
    second = (
        'T2 = {isa = PBXNativeTarget; name = Ferry; productType = "com.apple.product-type.application"; buildConfigurationList = C2; buildPhases = (R2); };'
        "R2 = {isa = PBXResourcesBuildPhase; files = (B2); }; B2 = {isa = PBXBuildFile; fileRef = F1; };"
        "C2 = {isa = XCConfigurationList; buildConfigurations = (D3); };"
        "D3 = {isa = XCBuildConfiguration; name = Debug; buildSettings = {INFOPLIST_FILE = App/Ferry.plist; }; };"
    )
    root = laid_out(tmp_path, "", project=project(more=second), **{"App/Ferry.plist": PLIST.format("")})
    unclear = rivelt("apply", cwd=root)
    assert (unclear.code, "there are several app targets: My App, Ferry;" in unclear.err) == (2, True)
    (root / "rivelt.toml").write_text(f'{BRIEF}\n[ios]\ntarget = "Quay"\n')
    lost = rivelt("apply", cwd=root)
    assert (lost.code, "there is no app target Quay" in lost.err) == (2, True)
    (root / "rivelt.toml").write_text(f'{BRIEF}\n[ios]\ntarget = ["My App", "Ferry"]\n')
    applied(root, rivelt)
    found = objects(root)
    assert [len(found[phase]["files"]) for phase in ("R1", "R2")] == [2, 2]
    assert sum(one.get("path") == "RiveltLaunch.storyboard" for one in found.values()) == 1
    for name in ("Info", "Ferry"):
        assert plistlib.loads((root / f"App/{name}.plist").read_bytes())["UILaunchStoryboardName"] == "RiveltLaunch"


def test_a_read_only_file_stops_its_site_alone(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(
        tmp_path / "tern", small_android() | {path: content for path, content in FILES.items() if path != "rivelt.toml"}
    )
    (root / "App/Info.plist").chmod(0o444)
    done = rivelt("apply", cwd=root)
    assert done.code == 1
    assert "left alone: ios X.xcodeproj: My App\n  App/Info.plist: the file is read-only" in done.err
    assert (root / "app/src/main/res/values/rivelt_launch.xml").exists()
    assert not (root / "App/RiveltLaunch.storyboard").exists()


def test_a_target_for_the_mac_too_gets_a_storyboard_for_ios_alone(tmp_path: Path, rivelt: Command) -> None:
    """By a filter on its build file, or in the exceptions of a synchronised folder."""
    both = (
        GENERATED
        + 'SUPPORTED_PLATFORMS = "iphoneos iphonesimulator macosx"; "INFOPLIST_KEY_UIStatusBarStyle[sdk=iphoneos*]" = Old;'
    )
    root = laid_out(tmp_path / "classic", 'status_bar = "dark"', project=project(settings=both))
    before = read_tree(root)
    assert rivelt("apply", cwd=root).code == 0
    text = (root / "X.xcodeproj/project.pbxproj").read_text()
    objects = OpenStepDecoder.ParseFromString(text)["objects"]
    filtered = [one for one in objects.values() if one.get("platformFilters") == ["ios"]]
    assert [objects[one["fileRef"]]["path"] for one in filtered] == ["RiveltLaunch.storyboard"]
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before

    group = 'G1 = {isa = PBXFileSystemSynchronizedRootGroup; path = App; %s sourceTree = "<group>"; };'
    target = "fileSystemSynchronizedGroups = (G1);"
    exceptions = "E1 = {isa = PBXFileSystemSynchronizedBuildFileExceptionSet; %s target = T1; };"
    filters = 'platformFiltersByRelativePath = {"Old.swift" = (macos, ); };'
    for name, has, more in (
        ("without exceptions", "", ""),
        ("with exceptions", "exceptions = (E1, );", exceptions % "membershipExceptions = (Info.plist, );"),
        ("with filters", "exceptions = (E1, );", exceptions % filters),
        ("with those of another target", "exceptions = (E1, );", (exceptions % filters).replace("T1", "T9")),
    ):
        shared = project(settings=both, group=group % has, target=target, files="", more=more)
        root = laid_out(tmp_path / name, 'status_bar = "dark"', project=shared)
        before = read_tree(root)
        done = rivelt("apply", cwd=root)
        assert (done.code, "because UILaunchScreen cannot show the imprint" in done.out + done.err) == (0, True)
        objects = OpenStepDecoder.ParseFromString((root / "X.xcodeproj/project.pbxproj").read_text())["objects"]
        (mine,) = [objects[one] for one in objects["G1"]["exceptions"] if objects[one]["target"] == "T1"]
        assert mine["platformFiltersByRelativePath"]["RiveltLaunch.storyboard"] == ["ios"]
        assert "Nothing to do" in rivelt("apply", cwd=root).out
        assert rivelt("check", "--fail-on", "error", cwd=root).code == 0
        assert rivelt("undo", cwd=root).code == 0
        assert read_tree(root) == before

    plain = BRIEF.replace('imprint = "mark.svg"\n', "")
    assert plain != BRIEF
    shared = project(settings=both, group=group % "", target=target, files="")
    root = laid_out(tmp_path / "the dictionary suffices", 'status_bar = "dark"', plain, project=shared)
    assert "UILaunchScreen shows all of it" in rivelt("apply", "--dry-run", cwd=root).out
    applied(root, rivelt)
    styles = {key: value for key, value in settings(root)[0].items() if "StatusBar" in key}
    assert styles == {"INFOPLIST_KEY_UIStatusBarStyle": "UIStatusBarStyleDarkContent"}


# The oldest system; whether the colour is named; whether an image keeps the dark look; whether there is a safe area; the findings after.
OLD_SYSTEMS = {
    "8.0": (False, True, False, {"IOS08", "IOS20"}),
    "10.3": (False, True, True, {"IOS08", "IOS20"}),
    "12.4": (True, False, True, {"IOS08", "IOS20"}),
    "13.0": (True, False, True, {"IOS08"}),
    "$(LOST)": (True, False, True, {"IOS08"}),
}


@pytest.mark.parametrize("oldest", OLD_SYSTEMS)
def test_old_systems_get_what_they_know_and_new_ones_keep_the_dark_look(
    tmp_path: Path, rivelt: Command, oldest: str
) -> None:
    is_named, has_image, has_safe_area, codes = OLD_SYSTEMS[oldest]
    settings = f'INFOPLIST_FILE = App/Info.plist; IPHONEOS_DEPLOYMENT_TARGET = "{oldest}";'
    root = laid_out(tmp_path, project=project(settings=settings))
    before = read_tree(root)
    applied(root, rivelt)
    document = parse_xml((root / "App/RiveltLaunch.storyboard").read_bytes(), "s")
    names = {node.local for node in document.root.walk()}
    assert ("namedColor" in names) == is_named
    assert (root / CATALOG / "RiveltGround.colorset").exists() == is_named
    assert (root / CATALOG / "RiveltGround.imageset").exists() == has_image
    assert ("viewLayoutGuide" in names) == has_safe_area
    assert ("viewControllerLayoutGuide" in names) != has_safe_area
    found = rivelt("check", "--select", "IOS", "--json", cwd=root).json
    assert {one["code"] for one in found["findings"] if one["verdict"] == "broken"} == codes
    job = opening.open_folder(root)
    screen = platform("ios").screens()[0]
    for look, ground in (("light", "#F3EBDD"), ("dark", "#13212B")):
        scene = platform("ios").scene(job.project, job.sites[0], screen, "dark" if look == "dark" else "light")
        assert not scene.unknowns
        assert scene.ground is not None
        assert scene.ground.hex == ground
        assert [picture.source.rpartition("/")[2].partition("@")[0] for picture in scene.pictures] == [
            "RiveltMark",
            "RiveltImprint",
        ]
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_a_dictionary_is_refused_where_the_oldest_system_does_not_read_it(tmp_path: Path, rivelt: Command) -> None:
    settings = "INFOPLIST_FILE = App/Info.plist; IPHONEOS_DEPLOYMENT_TARGET = 13.0;"
    root = laid_out(tmp_path, 'screen = "plist"', project=project(settings=settings))
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert (
        "rivelt.toml:13:10: ios X.xcodeproj: My App: target My App runs from iOS 13 on, and UILaunchScreen is read from iOS 14 on"
        in refused.err
    )


def test_a_new_list_is_in_a_group_and_goes_with_the_dictionary(tmp_path: Path, rivelt: Command) -> None:
    root = laid_out(tmp_path, 'screen = "plist"', project=project(settings=GENERATED))
    assert rivelt("apply", cwd=root).code == 0
    found = objects(root)
    (reference,) = [key for key, one in found.items() if one.get("path") == "RiveltInfo.plist"]
    assert reference in found["G0"]["children"]
    assert not any(one.get("fileRef") == reference for one in found.values())
    brief = root / "rivelt.toml"
    brief.write_text(brief.read_text().replace('screen = "plist"', 'screen = "storyboard"'))
    assert rivelt("apply", cwd=root).code == 0
    assert not any(one.get("path") == "RiveltInfo.plist" for one in objects(root).values())
    assert not (root / "RiveltInfo.plist").exists()
