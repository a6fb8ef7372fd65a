"""Xcode projects as they are: which targets, which launch screen, where new files go."""

from __future__ import annotations

import json
import plistlib
from pathlib import Path

import pytest
from openstep_parser import OpenStepDecoder

from conftest import BRIEF, MARK, Command, read_tree, write_tree
from rivelt import opening
from rivelt.colour import Colour
from rivelt.platforms import platform
from rivelt.platforms.ios.native.catalog import find_colour, find_image
from rivelt.project.project import Project
from rivelt.scene.model import Screen

PHONE = Screen("ios", "phone", "iOS", 390, 844, 3, 17)
PAD = Screen("ios", "pad", "iPadOS", 820, 1180, 2, 17)


def project(
    *,
    group: str = 'G1 = {isa = PBXGroup; children = (F1, F2); path = App; sourceTree = "<group>"; };',
    files: str = "B1",
    target: str = "",
    settings: str = 'INFOPLIST_FILE = "$(SRCROOT)/App/Info.plist";',
    sdk: str = "iphoneos",
    product: str = "application",
    more: str = "",
) -> str:
    return f"""// !$*UTF8*$!
{{
	objectVersion = 54;
	objects = {{
		A1 = {{isa = PBXProject; buildConfigurationList = C0; mainGroup = G0; targets = (T1); }};
		B1 = {{isa = PBXBuildFile; fileRef = F1; }};
		F1 = {{isa = PBXFileReference; path = Assets.xcassets; sourceTree = "<group>"; }};
		F2 = {{isa = PBXFileReference; path = Info.plist; sourceTree = "<group>"; }};
		G0 = {{isa = PBXGroup; children = (G1); sourceTree = "<group>"; }};
		{group}
		T1 = {{isa = PBXNativeTarget; name = "My App"; productType = "com.apple.product-type.{product}"; buildConfigurationList = C1; buildPhases = (R1); {target} }};
		R1 = {{isa = PBXResourcesBuildPhase; files = ({files}); }};
		C0 = {{isa = XCConfigurationList; buildConfigurations = (D0); }};
		D0 = {{isa = XCBuildConfiguration; name = Debug; buildSettings = {{SDKROOT = {sdk}; }}; }};
		C1 = {{isa = XCConfigurationList; buildConfigurations = (D1, D2); }};
		D1 = {{isa = XCBuildConfiguration; name = Debug; buildSettings = {{{settings} }}; }};
		D2 = {{isa = XCBuildConfiguration; name = Release; buildSettings = {{{settings} }}; }};
		{more}
	}};
	rootObject = A1;
}}
"""


PLIST = '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n<dict>\n\t<key>A</key>\n\t<string>b</string>\n{}</dict>\n</plist>\n'
FILES: dict[str, str | bytes] = {
    "rivelt.toml": BRIEF,
    "mark.svg": MARK,
    "X.xcodeproj/project.pbxproj": project(),
    "App/Info.plist": PLIST.format(""),
    "App/Assets.xcassets/Contents.json": "{}",
}

SYNCHRONISED = 'G1 = {isa = PBXFileSystemSynchronizedRootGroup; path = App; %s sourceTree = "<group>"; };'
IN_SYNC = "fileSystemSynchronizedGroups = (G1);"
PLAIN_SETTINGS = 'INFOPLIST_FILE = "$(SRCROOT)/App/Info.plist"; '
TWO_CATALOGS: dict[str, str | bytes] = {"App/A Preview/Preview Assets.xcassets/Contents.json": "{}"}
EXCEPTIONS = 'E1 = {isa = PBXFileSystemSynchronizedBuildFileExceptionSet; membershipExceptions = (Info.plist, "A Preview"); target = T1; };'


def synchronised(
    settings: str = "", exceptions: str = "", more: str = "", target: str = IN_SYNC
) -> dict[str, str | bytes]:
    group = SYNCHRONISED % exceptions
    text = project(group=group, target=target, files="", settings=PLAIN_SETTINGS + settings, more=more)
    return {**TWO_CATALOGS, "X.xcodeproj/project.pbxproj": text}


# What differs from the plain project; where the storyboard goes; where the image set goes; how many lines the project file gains.
SHAPES: dict[str, tuple[dict[str, str | bytes], str, str, int]] = {
    "plain": ({}, "App", "App/Assets.xcassets", 4),
    "CRLF": ({"X.xcodeproj/project.pbxproj": project().replace("\n", "\r\n")}, "App", "App/Assets.xcassets", 4),
    "no catalog": ({"X.xcodeproj/project.pbxproj": project(files="")}, "App", "App/Rivelt.xcassets", 8),
    "catalog named but not there": (
        {"X.xcodeproj/project.pbxproj": project(), "App/Assets.xcassets/Contents.json": ""},
        "App",
        "App/Assets.xcassets",
        4,
    ),
    "folder in sync with the project": (
        {
            "X.xcodeproj/project.pbxproj": project(
                group='G1 = {isa = PBXFileSystemSynchronizedRootGroup; path = App; sourceTree = "<group>"; };',
                target="fileSystemSynchronizedGroups = (G1);",
                files="",
            )
        },
        "App",
        "App/Assets.xcassets",
        0,
    ),
    "a catalog for previews": (
        synchronised('DEVELOPMENT_ASSET_PATHS = "\\"App/A Preview\\"";'),
        "App",
        "App/Assets.xcassets",
        0,
    ),
    "a catalog that is excluded": (
        synchronised('EXCLUDED_SOURCE_FILE_NAMES = "\\"Preview*\\" Old.swift";'),
        "App",
        "App/Assets.xcassets",
        0,
    ),
    "a catalog that is not a member": (
        synchronised(exceptions="exceptions = (E1);", more=EXCEPTIONS),
        "App",
        "App/Assets.xcassets",
        0,
    ),
    "the catalog with the icon": (
        {**synchronised(), "App/Assets.xcassets/AppIcon.appiconset/Contents.json": "{}"},
        "App",
        "App/Assets.xcassets",
        0,
    ),
    "a catalog that the brief names": (
        {**synchronised(), "rivelt.toml": BRIEF + '\n[ios]\ncatalog = "App/A Preview/Preview Assets.xcassets"\n'},
        "App",
        "App/A Preview/Preview Assets.xcassets",
        0,
    ),
    "a folder that a watch app has too": (
        {
            "X.xcodeproj/project.pbxproj": project(
                group=SYNCHRONISED.replace("G1", "G2").replace("path = App", "path = Shared") % ""
                + (SYNCHRONISED % ""),
                target="fileSystemSynchronizedGroups = (G2, G1);",
                files="",
                more='T2 = {isa = PBXNativeTarget; name = Watch; productType = "com.apple.product-type.application.watchapp2"; buildConfigurationList = C1; buildPhases = (); fileSystemSynchronizedGroups = (G2); };',
            )
            .replace("targets = (T1)", "targets = (T1, T2)")
            .replace("children = (G1)", "children = (G2, G1)"),
            "Shared/Colours.swift": "",
        },
        "App",
        "App/Assets.xcassets",
        0,
    ),
    "group without a folder": (
        {
            "X.xcodeproj/project.pbxproj": project(
                group='G1 = {isa = PBXGroup; children = (F1, F2); name = App; sourceTree = "<group>"; };'
            ),
            "Assets.xcassets/Contents.json": "{}",
        },
        "",
        "Assets.xcassets",
        4,
    ),
    "variable for the target": (
        {
            "X.xcodeproj/project.pbxproj": project(settings='INFOPLIST_FILE = "App/${TARGET_NAME}.plist";'),
            "App/My App.plist": PLIST.format(""),
        },
        "App",
        "App/Assets.xcassets",
        4,
    ),
    "the other kind declared": (
        {
            "App/Info.plist": PLIST.format(
                "\t<key>UILaunchScreen</key>\n\t<dict>\n\t\t<key>UIColorName</key>\n\t\t<string>C</string>\n\t</dict>\n"
            )
        },
        "App",
        "App/Assets.xcassets",
        4,
    ),
}


@pytest.mark.parametrize(("more", "home", "catalog", "lines"), SHAPES.values(), ids=SHAPES)
def test_each_shape_of_project_gets_its_launch_screen_and_is_undone(
    tmp_path: Path, rivelt: Command, more: dict[str, str | bytes], home: str, catalog: str, lines: int
) -> None:
    root = write_tree(tmp_path / "tern", FILES | more)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert (root / home / "RiveltLaunch.storyboard").is_file()
    assert (root / catalog / "RiveltMark.imageset/RiveltMark@3x.png").is_file()
    file = root / "X.xcodeproj/project.pbxproj"
    assert len(file.read_bytes().splitlines()) - len(
        before["X.xcodeproj/project.pbxproj"].splitlines()
    ) == pytest.approx(lines, abs=lines)
    objects = OpenStepDecoder.ParseFromString(file.read_text())["objects"]
    assert sum(found["isa"] == "PBXBuildFile" for found in objects.values()) == 1 + lines // 4
    old = OpenStepDecoder.ParseFromString(before["X.xcodeproj/project.pbxproj"].decode())["objects"]
    for key, was in old.items():  # what was there is there, and nothing but lists has grown
        for name, value in was.items():
            now = objects[key][name]
            assert now[: len(value)] == value if isinstance(value, list) else now == value
    plists = [plistlib.loads(path.read_bytes()) for path in (root / "App").glob("*.plist")]
    declared = [plist for plist in plists if plist.get("UILaunchStoryboardName") == "RiveltLaunch"]
    assert len(declared) == 1
    assert "UILaunchScreen" not in declared[0]
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")
    assert not opening.open(root).check(select=["IOS"]).findings
    scenes = opening.open(root).prove(now=True).scenes
    assert {scene.ground for _, scene in scenes} == {Colour.parse("#F3EBDD")}
    assert not any(scene.unknowns for _, scene in scenes)
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


BLOCKED = {
    "no plist named": (project(settings="A = b;"), "names no Info.plist file"),
    "plist not there": (project(settings="INFOPLIST_FILE = Lost.plist;"), "is not there: Lost.plist"),
    "unknown variable": (
        project(settings='INFOPLIST_FILE = "$(SOMEWHERE)/Info.plist";'),
        "is not there: $(SOMEWHERE)/Info.plist",
    ),
    "no resources phase": (project().replace("buildPhases = (R1)", "buildPhases = ()"), "has no Resources phase"),
    "not a project": ("not a project", "not a readable project file"),
    "dangling target list": (
        project().replace("buildConfigurationList = C1", "buildConfigurationList = LOST"),
        "names no Info.plist file",
    ),
}


@pytest.mark.parametrize(("text", "reason"), BLOCKED.values(), ids=BLOCKED)
def test_what_cannot_be_handled_is_told_and_left_alone(tmp_path: Path, rivelt: Command, text: str, reason: str) -> None:
    root = write_tree(tmp_path / "tern", FILES | {"X.xcodeproj/project.pbxproj": text})
    before = read_tree(root)
    survey = rivelt("survey", "--json", cwd=root)
    assert survey.code == 1
    assert reason in survey.json["sites"][0]["blocked"]["message"]
    done = rivelt("apply", cwd=root)
    assert done.code == 2
    assert reason in done.err
    assert read_tree(root) == before


@pytest.mark.parametrize(
    "text",
    [
        project(product="bundle.unit-test"),
        project(product="app-extension"),
        project(sdk="appletvos"),
        project(sdk="macosx"),
    ],
)
def test_other_targets_are_no_sites(text: str) -> None:
    assert not platform("ios").survey(Project.of_files({"X.xcodeproj/project.pbxproj": text.encode()}))


@pytest.mark.parametrize(
    ("scales", "screen", "chosen"),
    [
        ((1, 2, 3), 2, 2),
        ((1, 2, 3), 1, 1),
        ((2, 3), 1, 2),
        ((1, 3), 2, 3),
        ((1, 2), 3, 2),
        ((2, 1), 3, 2),
        ((1,), 3, 1),
    ],
)
def test_of_the_scales_of_an_image_the_next_larger_is_shown_else_the_largest(
    scales: tuple[int, ...], screen: int, chosen: int
) -> None:
    entries = [{"idiom": "universal", "scale": f"{scale}x", "filename": f"m{scale}.png"} for scale in scales]
    files = {"A.xcassets/M.imageset/Contents.json": json.dumps({"images": entries}).encode()}
    device = Screen("ios", "phone", "iOS", 390, 844, screen, 17)
    found = find_image(Project.of_files(files), ["A.xcassets"], "M", device, "light")
    assert found is not None
    assert (found.path, found.scale) == (f"A.xcassets/M.imageset/m{chosen}.png", chosen)


SETS = {
    "A.xcassets/M.imageset/Contents.json": b"""{"images": [
        {"idiom": "universal", "scale": "1x", "filename": "m1.png"}, {"idiom": "universal", "scale": "2x", "filename": "m2.png"},
        {"idiom": "universal", "scale": "2x", "filename": "d2.png", "appearances": [{"appearance": "luminosity", "value": "dark"}]},
        {"idiom": "ipad", "scale": "2x", "filename": "pad2.png"}, {"idiom": "universal", "scale": "3x"}]}""",
    "A.xcassets/C.colorset/Contents.json": b"""{"colors": [
        {"idiom": "universal", "color": {"color-space": "srgb", "components": {"red": "0xF3", "green": "128", "blue": "0.500", "alpha": "1"}}},
        {"idiom": "universal", "appearances": [{"appearance": "luminosity", "value": "dark"}],
         "color": {"color-space": "display-p3", "components": {"red": "1.000", "green": "0.500", "blue": "0.000", "alpha": "1"}}}]}""",
    "A.xcassets/Broken.imageset/Contents.json": b"{",
}


def test_asset_catalogs_give_what_the_system_would() -> None:
    snapshot = Project.of_files(SETS)

    def image(screen: Screen, look: str) -> str:
        found = find_image(snapshot, ["A.xcassets"], "M", screen, "dark" if look == "dark" else "light")
        assert found is not None
        return found.path.rpartition("/")[2]

    assert image(PHONE, "light") == "m2.png"  # no file for 3x: the largest there is
    assert image(PHONE, "dark") == "d2.png"
    assert image(PAD, "light") == "pad2.png"
    assert find_image(snapshot, ["A.xcassets"], "Broken", PHONE, "light") is None
    light = find_colour(snapshot, ["A.xcassets"], "C", PHONE, "light")
    assert light is not None
    assert light[0] == Colour(0xF3, 128, 128)
    dark = find_colour(snapshot, ["A.xcassets"], "C", PHONE, "dark")
    assert dark is not None
    assert dark[0] == Colour(255, 118, 0)  # Display P3, brought into sRGB


def test_apps_for_other_systems_are_named_for_what_they_are() -> None:
    app = 'productType = "com.apple.product-type.application'
    more = (
        f'T2 = {{isa = PBXNativeTarget; name = "My TV"; {app}"; buildConfigurationList = C2; }};'
        f'T3 = {{isa = PBXNativeTarget; name = "My Watch"; {app}.watchapp2"; buildConfigurationList = C1; }};'
        f'T4 = {{isa = PBXNativeTarget; name = "My Mac"; {app}"; buildConfigurationList = C3; }};'
        "C2 = {isa = XCConfigurationList; buildConfigurations = (D3); };"
        "D3 = {isa = XCBuildConfiguration; name = Debug; buildSettings = {SDKROOT = appletvos; }; };"
        "C3 = {isa = XCConfigurationList; buildConfigurations = (D4); };"
        "D4 = {isa = XCBuildConfiguration; name = Debug; buildSettings = {SUPPORTED_PLATFORMS = macosx; }; };"
    )
    files = {**FILES, "X.xcodeproj/project.pbxproj": project(more=more)}
    tree = {path: text if isinstance(text, bytes) else text.encode() for path, text in files.items()}
    (site,) = platform("ios").survey(Project.of_files(tree))
    assert site.facts["apps for other systems"] == "My TV (tvOS), My Watch (watchOS), My Mac (macOS)"
