"""Text-preserving edits: every byte outside the changed spot stays, whatever the file looks like."""

from __future__ import annotations

import plistlib

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openstep_parser import OpenStepDecoder

from rivelt.edit.lines import Lines
from rivelt.edit.openstep import parse_openstep
from rivelt.edit.plist import Plist
from rivelt.edit.splice import Splice, spliced
from rivelt.edit.xcode import NewMember, XcodeEdit, XcodeProject
from rivelt.edit.xml import parse_xml
from rivelt.errors import BadInput, Place
from rivelt.platforms.android.make.manifest import main_manifest
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.native.manifest import merged_manifest
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project
from rivelt.values import replace

NS = 'xmlns:android="http://schemas.android.com/apk/res/android"'
FILTER = (
    "<intent-filter><action android:name='android.intent.action.MAIN'/>"
    "<category android:name='android.intent.category.LAUNCHER'/></intent-filter>"
)


def manifest(activity: str, before: str = "") -> str:
    return f"<manifest {NS} package='a.b'><application>{before}{activity}</application></manifest>"


# The launcher's start tag as it is, and as it shall be once it starts with @style/X.
ACTIVITIES = {
    "one line": ('<activity android:name=".M">', '<activity android:name=".M" android:theme="@style/X">'),
    "present": (
        '<activity android:theme="@style/Old" android:name=".M">',
        '<activity android:theme="@style/X" android:name=".M">',
    ),
    "single quotes": (
        "<activity android:name='.M' android:theme='@style/Old' >",
        "<activity android:name='.M' android:theme='@style/X' >",
    ),
    "one per line": (
        '<activity\n\t\tandroid:name=".M"\n\t\tandroid:exported="true">',
        '<activity\n\t\tandroid:name=".M"\n\t\tandroid:exported="true"\n\t\tandroid:theme="@style/X">',
    ),
    "end on its own line": (
        '<activity\r\n    android:name=".M"\r\n    >',
        '<activity\r\n    android:name=".M"\r\n    android:theme="@style/X"\r\n    >',
    ),
    "blank line inside": (
        '<activity\n    android:name=".M"\n\n    android:label="a &gt; b">',
        '<activity\n    android:name=".M"\n\n    android:label="a &gt; b"\n    android:theme="@style/X">',
    ),
    "spaces round equals": (
        '<activity android:name = ".M">',
        '<activity android:name = ".M" android:theme="@style/X">',
    ),
}


def themed(data: bytes) -> bytes:
    """The manifest with the theme of its launcher set."""
    project = Project.of_files({"m.xml": data})
    site = AndroidSite("android", "app", manifest="m.xml", activity=".M")
    edits = main_manifest(project, site, replace(Names.of(), launch="X"))
    return edits[0].after if edits else data


@pytest.mark.parametrize(("start", "wanted"), ACTIVITIES.values(), ids=ACTIVITIES)
@pytest.mark.parametrize("bom", [b"", b"\xef\xbb\xbf"])
def test_the_launcher_gets_the_theme_and_nothing_else_changes(start: str, wanted: str, bom: bytes) -> None:
    other = '<activity android:name=".Other" android:theme="@style/Other"/>'
    before = bom + manifest(f"{start}{FILTER}</activity>", other).encode()
    after = bom + manifest(f"{wanted}{FILTER}</activity>", other).encode()
    assert themed(before) == after
    assert themed(after) == after


def test_an_alias_is_followed_to_its_activity() -> None:
    text = manifest(
        f'<activity-alias android:name=".A" android:targetActivity=".M">{FILTER}</activity-alias>',
        '<activity android:name=".M"></activity>',
    )
    assert merged_manifest(Project.of_files({"m.xml": text.encode()}), ("m.xml",), None).activity_name == ".M"


@pytest.mark.parametrize("prefix", ["android", "a"])
def test_the_prefix_of_the_file_is_used(prefix: str) -> None:
    text = (
        manifest(f'<activity android:name=".M">{FILTER}</activity>')
        .replace("android:", f"{prefix}:")
        .replace("xmlns:android", f"xmlns:{prefix}")
    )
    assert f'{prefix}:theme="@style/X"'.encode() in themed(text.encode())


PLIST = '<?xml version="1.0" encoding="UTF-8"?>\n<!-- hand-made -->\n<plist version="1.0">\n<dict>\n{}</dict>\n</plist>'
PLISTS = {
    "set": (
        "\t<key>UILaunchStoryboardName</key>\n\t<string>Old</string>\n",
        "\t<key>UILaunchStoryboardName</key>\n\t<string>New</string>\n",
    ),
    "empty element": (
        "\t<key>UILaunchStoryboardName</key>\n\t<string/>\n",
        "\t<key>UILaunchStoryboardName</key>\n\t<string>New</string>\n",
    ),
    "next to its relatives": (
        "  <key>UIA</key>\r\n  <true/>\r\n  <!-- z -->\r\n  <key>Z</key>\r\n  <true/>\r\n",
        "  <key>UIA</key>\r\n  <true/>\r\n  <key>UILaunchStoryboardName</key>\r\n  <string>New</string>\r\n  <!-- z -->\r\n  <key>Z</key>\r\n  <true/>\r\n",
    ),
    "at the end": (
        "\t<key>A</key>\n\t<string>a &amp; b</string>\n",
        "\t<key>A</key>\n\t<string>a &amp; b</string>\n\t<key>UILaunchStoryboardName</key>\n\t<string>New</string>\n",
    ),
    "key and value on one line": (
        "\t<key>UIA</key><true/>\n",
        "\t<key>UIA</key><true/>\n\t<key>UILaunchStoryboardName</key><string>New</string>\n",
    ),
}


def test_bare_words_of_old_project_files_are_read() -> None:
    text = "// !$*UTF8*$!\n{ a = +x@y-z; b = App/Main+Pier@2x.png; c = (-ObjC, $SRC:1, a_b.c); @d = +; }\n"
    found = parse_openstep(text, "p").plain
    assert found == {"a": "+x@y-z", "b": "App/Main+Pier@2x.png", "c": ["-ObjC", "$SRC:1", "a_b.c"], "@d": "+"}


GAPS = st.sampled_from(["", " ", "\n\t", "/* a = b; */", " // } ;\n", "/**/ /* { */ "])
WRITTEN = {
    "tern": "tern",
    "a/b@2x.png": "a/b@2x.png",
    '"a \\"b\\" {;"': 'a "b" {;',
    "'it = (x,'": "it = (x,",
    "<00 fF>": "<00 fF>",
    '""': "",
    '"\\U00e9\\n"': "\u00e9\n",
}


@st.composite
def openstep(draw: st.DrawFn, depth: int = 0) -> tuple[str, object]:
    """A property list as text, with anything between its words (a bare word takes in a slash that follows it), and what it means."""
    kind = draw(st.integers(0, 2)) if depth < 3 else 0
    if kind == 0:
        word = draw(st.sampled_from(sorted(WRITTEN)))
        return word, WRITTEN[word]
    parts, values = [], []
    for _ in range(draw(st.integers(0, 3))):
        text, value = draw(openstep(depth + 1))
        parts.append(draw(GAPS) + text + " " + draw(GAPS))
        values.append(value)
    if kind == 1:
        return "(" + ",".join(parts) + draw(GAPS) + ")", values
    keys = draw(st.lists(st.sampled_from(sorted(WRITTEN)), min_size=len(parts), max_size=len(parts), unique=True))
    entries = [f"{draw(GAPS)}{key} {draw(GAPS)}={part};" for key, part in zip(keys, parts, strict=True)]
    meant = {WRITTEN[key]: value for key, value in zip(keys, values, strict=True)}
    return "{" + "".join(entries) + draw(GAPS) + "}", meant


@given(openstep())
def test_every_value_of_a_project_file_stands_where_it_is_said_to(given_one: tuple[str, object]) -> None:
    text, meant = given_one
    found = parse_openstep(text, "p")
    assert found.plain == meant
    values = [found]
    for value in values:
        assert parse_openstep(text[value.start : value.end], "p").plain == value.plain
        for key, start in value.entry_starts.items():
            written = next(word for word in sorted(WRITTEN, key=len, reverse=True) if text.startswith(word, start))
            assert WRITTEN[written] == key
        values += [*(value.items or ()), *(value.entries or {}).values()]


@pytest.mark.parametrize(("before", "after"), PLISTS.values(), ids=PLISTS)
def test_a_key_of_a_property_list(before: str, after: str) -> None:
    changed = Plist(PLIST.format(before).encode(), "Info.plist").edited({"UILaunchStoryboardName": "New"}, near="UI")
    assert changed == PLIST.format(after).encode()
    assert plistlib.loads(changed)["UILaunchStoryboardName"] == "New"


def test_a_key_goes_with_its_value() -> None:
    text = PLIST.format(
        "\t<key>A</key>\n\t<true/>\n\t<key>UILaunchScreen</key>\n\t<dict>\n\t\t<key>UIColorName</key>\n\t\t<string/>\n\t</dict>\n\t<key>B</key>\n\t<true/>\n"
    )
    removed = Plist(text.encode(), "Info.plist").edited({"UILaunchScreen": None}, near="UI")
    assert removed == PLIST.format("\t<key>A</key>\n\t<true/>\n\t<key>B</key>\n\t<true/>\n").encode()


PROJECT = """// !$*UTF8*$!
{{
	objects = {{
{begin}		AA /* F */ = {{isa = PBXFileReference; path = F; sourceTree = "<group>"; }};
		BB /* G */ = {{
			isa = PBXGroup;
			children = {children};
			sourceTree = "<group>";
		}};
		CC /* R */ = {{
			isa = PBXResourcesBuildPhase;
			files = {files};
		}};
	}};
	rootObject = DD;
}}
"""
LISTS = {
    "own lines": "(\n\t\t\t\tAA /* F */,\n\t\t\t)",
    "empty": "(\n\t\t\t)",
    "empty on one line": "()",
    "one line": "(AA, EE)",
    "no last comma": "(\n\t\t\t\tAA /* F */\n\t\t\t)",
}


@pytest.mark.parametrize("children", LISTS.values(), ids=LISTS)
@pytest.mark.parametrize("files", LISTS.values(), ids=LISTS)
@pytest.mark.parametrize("newline", ["\n", "\r\n"])
@pytest.mark.parametrize("begin", ["", "/* Begin PBXFileReference section */\n"])
def test_a_new_member_adds_four_objects_to_the_same_ones(children: str, files: str, newline: str, begin: str) -> None:
    text = PROJECT.format(children=children, files=files, begin=begin).replace("\n", newline)
    member = NewMember("Launch Screen.storyboard", "file.storyboard")

    def added() -> str:
        edit = XcodeEdit(XcodeProject(text.encode(), "p"))
        edit.add(member, group="BB", phase="CC", target_name="T")
        return edit.result().decode()

    changed = added()
    assert changed == added()
    before, after = (OpenStepDecoder.ParseFromString(side.replace("\r\n", "\n"))["objects"] for side in (text, changed))
    new = {key: after[key] for key in after if key not in before}
    reference, build_file = (
        next(key for key, found in new.items() if found["isa"] == isa) for isa in ("PBXFileReference", "PBXBuildFile")
    )
    assert new[reference]["path"] == "Launch Screen.storyboard"
    assert after["BB"]["children"] == [*before["BB"]["children"], reference]
    assert after["CC"]["files"] == [*before["CC"]["files"], build_file]
    assert after["AA"] == before["AA"]
    assert (newline == "\r\n") == ("\r\n" in changed)
    assert changed.count("\n") == changed.count(newline)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("{ a = ; }", "expected a value"),
        ("{ a = b }", "expected ';'"),
        ("{", "expected a value"),
        ("{ a = (b", "expected ','"),
        ("x y", "something follows"),
    ],
)
def test_a_broken_project_file_is_told_with_its_place(text: str, message: str) -> None:
    with pytest.raises(BadInput, match=message) as caught:
        parse_openstep(text, "p")
    assert caught.value.place is not None
    assert caught.value.place.line == 1


@pytest.mark.parametrize(
    "text", ["<a>", "<a/><b/>", "<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>", "<a>" * 500 + "</a>" * 500, "<a b=c/>"]
)
def test_bad_xml_is_told_with_its_place(text: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_xml(text.encode(), "x.xml")
    assert caught.value.place is not None


@given(st.binary(max_size=40), st.lists(st.tuples(st.integers(0, 40), st.binary(max_size=5)), max_size=5))
def test_inserting_keeps_every_byte(data: bytes, insertions: list[tuple[int, bytes]]) -> None:
    splices = [Splice(min(at, len(data)), min(at, len(data)), text) for at, text in insertions]
    result = spliced(data, splices)
    assert len(result) == len(data) + sum(len(splice.text) for splice in splices)
    position = 0
    for byte in data:  # the bytes from before are all there, in their order
        position = result.index(byte, position) + 1


@pytest.mark.parametrize(
    ("inside", "line", "what"),
    [
        ("<key>A</key>\n<key>B</key>\n<string>b</string>", 2, "a key without a value"),
        ("<string>a</string>\n<key>B</key>\n<string>b</string>", 2, "a value without a key"),
        ("<key>A</key>\n<string>a</string>\n<key>B</key>", 4, "a key without a value"),
        ("<key>A</key><string>a</string>\n<string>b</string>", 3, "a value without a key"),
        ("<key>A</key>\n<dict>\n<key>B</key>\n</dict>", 4, "a key without a value"),
    ],
)
def test_a_property_list_whose_keys_and_values_do_not_pair_is_refused(inside: str, line: int, what: str) -> None:
    """Readers disagree on what such a list says; editing it would add a key again and again."""
    with pytest.raises(BadInput, match=what) as caught:
        Plist(f"<plist><dict>\n{inside}\n</dict></plist>".encode(), "Info.plist")
    assert caught.value.place is not None
    assert caught.value.place.line == line


@given(st.lists(st.sampled_from([b"\n", b"\r\n", b"ab", b"\xc3\xa9"]), max_size=30).map(b"".join), st.data())
def test_places_counted_once_are_those_counted_each_time(data: bytes, choose: st.DataObject) -> None:
    offset = choose.draw(st.integers(0, len(data)))
    assert Lines(data, "f").place(offset) == Place.at("f", data, offset)
