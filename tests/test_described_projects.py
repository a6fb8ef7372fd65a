"""iOS projects that are made from a description: the Xcode project is not in the repository, or git ignores it."""

from __future__ import annotations

from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from conftest import MARK, Command, read_tree, write_tree
from rivelt.edit.yamltext import parse_yaml
from rivelt.errors import BadInput
from test_apple_projects import PLIST, project

BRIEF = '[app]\nname = "Tern"\n[light]\nground = "#F3EBDD"\nmark = "mark.svg"\n[dark]\nground = "#13212B"\nmark = "derive"\n'
ICON = {"App/Assets.xcassets/AppIcon.appiconset/Contents.json": '{"images": []}'}
OLD = '<document launchScreen="YES"><scenes/></document>'
TREE: dict[str, str | bytes] = {"rivelt.toml": BRIEF, "mark.svg": MARK, "App/Main.swift": "import UIKit\n", **ICON}
LISTED = """# The ferry app.
name: Tern
options:
  deploymentTarget: {iOS: "15.0"}
targets:
  Tern:   # the app itself
    type: application
    platform: iOS
    sources: [App]
    info:
      path: App/Info.plist
      properties:
        CFBundleName: Tern
        UILaunchStoryboardName: LaunchScreen   # the old one
        UISupportedInterfaceOrientations: [UIInterfaceOrientationPortrait]
  TernTests:
    type: bundle.unit-test
    platform: iOS
    sources: Tests
"""
WITH_FILE = """name: Tern
targets:
  Tern:
    type: application
    platform: iOS
    sources:
      - path: App
    settings:
      INFOPLIST_FILE: App/Info.plist
"""
WITH_SETTINGS = """name: Tern
targets:
  Tern:
    type: application
    platform: iOS
    deploymentTarget: "16.0"
    sources: App
    settings:
      base:
        GENERATE_INFOPLIST_FILE: YES
        INFOPLIST_KEY_UILaunchScreen_Generation: YES
"""
DESCRIBED: dict[str, tuple[str, dict[str, str | bytes], tuple[tuple[str, str], ...]]] = {
    "keys of the list": (
        LISTED,
        {},
        (("UILaunchStoryboardName: LaunchScreen ", "UILaunchStoryboardName: RiveltLaunch "),),
    ),
    "CRLF": (
        LISTED.replace("\n", "\r\n"),
        {},
        (("UILaunchStoryboardName: LaunchScreen ", "UILaunchStoryboardName: RiveltLaunch "),),
    ),
    "no keys yet": (
        LISTED[: LISTED.index("      properties")] + "  TernTests:\n    type: bundle.unit-test\n",
        {},
        (
            (
                "      path: App/Info.plist\n",
                "      path: App/Info.plist\n      properties:\n        UILaunchStoryboardName: RiveltLaunch\n",
            ),
        ),
    ),
    "on one line": (
        LISTED[: LISTED.index("    info:")] + "    info: {path: App/Info.plist, properties: {A: b}}\n",
        {},
        (("{A: b}", "{A: b, UILaunchStoryboardName: RiveltLaunch}"),),
    ),
    "a list of its own": (WITH_FILE, {"App/Info.plist": PLIST.format("")}, ()),
    "build settings": (
        WITH_SETTINGS,
        {},
        (
            (
                "        INFOPLIST_KEY_UILaunchScreen_Generation: YES\n",
                "        INFOPLIST_KEY_UILaunchStoryboardName: RiveltLaunch\n",
            ),
        ),
    ),
}


@pytest.mark.parametrize("shape", DESCRIBED)
def test_a_description_in_yaml_is_edited_in_place(tmp_path: Path, rivelt: Command, shape: str) -> None:
    text, files, changed = DESCRIBED[shape]
    root = write_tree(tmp_path, {**TREE, "project.yml": text, **files})
    before = read_tree(root)
    found = rivelt("survey", "--json", cwd=root).json
    (site,) = found["sites"]
    assert site["site"] == "project.yml: Tern"
    assert site["facts"]["project"] == "made from project.yml; no Xcode project is in the repository"
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert "make it again from project.yml" in done.out + done.err
    expected = text
    for old, new in changed:
        assert old in expected
        expected = expected.replace(old, new)
    assert (root / "project.yml").read_bytes() == expected.encode()
    assert (root / "App/RiveltLaunch.storyboard").exists()
    assert (root / "App/Assets.xcassets/RiveltMark.imageset/Contents.json").exists()
    if files:
        assert b"RiveltLaunch" in (root / "App/Info.plist").read_bytes()
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    broken = [one for one in rivelt("check", "--json", cwd=root).json["findings"] if one["verdict"] == "broken"]
    assert {one["code"] for one in broken} <= {"IOS08", "ART03"}
    scenes = rivelt("proof", "--now", "--json", "--out", tmp_path.parent / "p.png", cwd=root).json["scenes"]
    assert {scene["ground"] for scene in scenes} == {"#F3EBDD", "#13212B"}
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_an_ignored_project_is_never_edited_and_a_kept_one_is(tmp_path: Path, rivelt: Command) -> None:
    pbx = project()
    ignored = {**TREE, "project.yml": LISTED, ".gitignore": "*.xcodeproj/\n", "Tern.xcodeproj/project.pbxproj": pbx}
    root = write_tree(tmp_path / "ignored", ignored)
    assert rivelt("apply", cwd=root).code == 0
    assert (root / "Tern.xcodeproj/project.pbxproj").read_text() == pbx
    assert "RiveltLaunch" in (root / "project.yml").read_text()
    kept = {**TREE, "project.yml": LISTED, "Tern.xcodeproj/project.pbxproj": pbx, "App/Info.plist": PLIST.format("")}
    root = write_tree(tmp_path / "kept", kept)
    done = rivelt("apply", cwd=root)
    assert "project.yml may make Tern.xcodeproj/project.pbxproj again: give it the same keys" in done.out + done.err
    assert (root / "project.yml").read_text() == LISTED
    assert (root / "Tern.xcodeproj/project.pbxproj").read_text() != pbx


OTHERS: dict[str, tuple[str, str, tuple[str, ...]]] = {
    "Project.swift": (
        "Project.swift",
        'import ProjectDescription\nlet project = Project(name: "Tern", targets: [.target(name: "Tern", destinations: .iOS, product: .app, resources: ["App/**"])])\n',
        ('infoPlist: .extendingDefault(with: ["UILaunchStoryboardName": "RiveltLaunch"]),', 'resources: ["App/**"],'),
    ),
    "a package": (
        "Package.swift",
        'let package = Package(name: "Tern", products: [.iOSApplication(name: "Tern", targets: ["App"])])\n',
        ("<key>UILaunchStoryboardName</key>", "<string>RiveltLaunch</string>", 'resources: [.process("App")],'),
    ),
    "Bazel": (
        "BUILD.bazel",
        'ios_application(\n    name = "Tern",\n    bundle_id = "com.skerryline.tern",\n)\n',
        ('launch_storyboard = "App/RiveltLaunch.storyboard",', 'resources = glob(["App/*.xcassets/**"]),'),
    ),
}


@pytest.mark.parametrize("shape", OTHERS)
def test_other_descriptions_get_their_lines_as_a_manual_step(tmp_path: Path, rivelt: Command, shape: str) -> None:
    path, text, lines = OTHERS[shape]
    root = write_tree(tmp_path, {**TREE, path: text, "App/Base.lproj/LaunchScreen.storyboard": OLD})
    before = read_tree(root)
    assert f"unknown: what {path} declares is not read" in rivelt("survey", cwd=root).out
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    for line in lines:
        assert line in done.out
    assert (root / path).read_text() == text
    assert (root / "App/RiveltLaunch.storyboard").exists()
    assert (root / "App/Assets.xcassets/RiveltMark.imageset/Contents.json").exists()
    found = rivelt("check", "--select", "IOS01", "--json", cwd=root).json["findings"]
    assert {one["verdict"] for one in found} == {"unknown"}
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


BROKEN = {
    "not YAML": "targets: [a\n",
    "a tab": "targets:\n\tTern: 1\n",
    "nested without end": "targets: " + "[" * 3000,
}


@pytest.mark.parametrize("shape", BROKEN)
def test_descriptions_that_cannot_be_read_are_told(tmp_path: Path, rivelt: Command, shape: str) -> None:
    root = write_tree(tmp_path, {**TREE, "project.yml": BROKEN[shape]})
    assert "not readable YAML" in rivelt("survey", cwd=root).out
    refused = rivelt("apply", cwd=root)
    assert (refused.code, "project.yml" in refused.err) == (2, True)
    with pytest.raises(BadInput):
        parse_yaml(BROKEN[shape].encode(), "project.yml")


# Edits of YAML

KEYS = st.sampled_from(["a", "b", "c", "UIKey"])
VALUES = st.recursive(
    st.sampled_from(["x", "two words", "yes", "1", "", "#F3EBDD", "ä: b"]) | st.booleans(),
    lambda inner: st.dictionaries(KEYS, inner, min_size=1, max_size=3) | st.lists(inner, max_size=2),
    max_leaves=8,
)


@given(
    st.dictionaries(KEYS, VALUES, min_size=1, max_size=4),
    st.lists(KEYS, min_size=1, max_size=3),
    st.none() | st.sampled_from(["new", "a b", "no"]) | st.dictionaries(KEYS, st.just("v"), min_size=1, max_size=2),
    st.sampled_from([None, False, True]),
    st.sampled_from(["\n", "\r\n"]),
)
def test_an_edit_of_yaml_changes_what_it_should_and_nothing_else(
    document: dict[str, object], keys: list[str], value: object, flow: bool | None, newline: str
) -> None:
    text = (
        "# head\n" + yaml.safe_dump(document, default_flow_style=flow, sort_keys=False, allow_unicode=True) + "# foot\n"
    )
    data = text.replace("\n", newline).encode()
    parsed = parse_yaml(data, "p")
    node = parsed.root
    for key in keys[:-1]:
        inner = parsed.members(node).get(key)
        if inner is None:
            break
        if not isinstance(inner, yaml.MappingNode):
            return  # a value stands where a mapping would be needed
        node = inner
    if value is None and parsed.node(*keys) is None:
        assert parsed.edited({tuple(keys): None}) == data
        return
    if value is None and len(keys) == 1 and len(document) == 1:
        return  # nothing would be left to hold it
    expected = yaml.safe_load(data)
    holder = expected
    for key in keys[:-1]:
        holder = holder.setdefault(key, {})
    if value is None:
        del holder[keys[-1]]
    else:
        holder[keys[-1]] = value
    after = parsed.edited({tuple(keys): value})  # type: ignore[dict-item]
    assert yaml.safe_load(after) == (expected or {})
    assert after.startswith(f"# head{newline}".encode())
    assert after.endswith(f"# foot{newline}".encode())
    assert parse_yaml(after, "p").edited({tuple(keys): value}) == after  # type: ignore[dict-item]
