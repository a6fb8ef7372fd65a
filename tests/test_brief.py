"""The brief as a file: where its keys and values stand, and what is reported of one that is wrong."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tomllib
from pathlib import Path
from typing import Any

import pytest
import tomlkit
from hypothesis import given
from hypothesis import strategies as st

from conftest import Command, small_android, write_tree
from rivelt.brief.places import key_places
from rivelt.brief.schema import shipped_schema
from rivelt.platforms import TARGETS


def test_every_key_of_a_brief_has_its_line_and_column() -> None:
    text = 'a = 1\n[t]\n  b = [\n  "x]", # y\n]\n"c d" = """\nq = 1\n"""\ne.f = 2\n[[u]]\ng = \'#\'\nh = { i = 1.5, j = [2, { k = "}" }] }\n'
    places = {key: (place.line, place.column) for key, place in key_places(text, "f").items()}
    values = {key[:-1]: places.pop(key) for key in list(places) if key.endswith("=")}
    assert values == {
        "a": (1, 5),
        "t.b": (3, 7),
        "t.b[0]": (4, 3),
        "t.c d": (6, 9),
        "t.e.f": (9, 7),
        "u.g": (11, 5),
        "u.h": (12, 5),
        "u.h.i": (12, 11),
        "u.h.j": (12, 20),
        "u.h.j[0]": (12, 21),
        "u.h.j[1]": (12, 24),
        "u.h.j[1].k": (12, 30),
    }
    assert places == {
        "u.h": (12, 1),
        "u.h.i": (12, 7),
        "u.h.j": (12, 16),
        "u.h.j[1].k": (12, 26),
        "a": (1, 1),
        "t": (2, 2),
        "t.b": (3, 3),
        "t.c d": (6, 1),
        "t.e.f": (9, 1),
        "u": (10, 3),
        "u.g": (11, 1),
    }


_SIMPLE = st.one_of(
    st.integers(-9, 9),
    st.booleans(),
    st.text("aé\"'\\#]}=,\n ", max_size=6),
    st.dates(),
    st.floats(allow_nan=False, width=16),
)
_VALUES = st.recursive(
    _SIMPLE,
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text("ab. #'", max_size=3), inner, max_size=3),
    max_leaves=8,
)


@given(st.dictionaries(st.sampled_from("abc"), _VALUES, max_size=3), st.booleans())
def test_the_place_of_every_value_is_where_it_begins(table: dict[str, Any], is_inline: bool) -> None:
    """Against another writer of TOML: what stands at the place of a value is that value, when it is read on its own."""
    document = tomlkit.document()
    for key, value in table.items():
        document[key] = tomlkit.item(value)
        if is_inline and isinstance(value, dict):
            document[key] = tomlkit.inline_table()
            document[key].update(value)
    text = tomlkit.dumps(document)
    lines = text.split("\n")
    places = key_places(text, "f")
    for key, value in tomllib.loads(text).items():
        if f"{key}=" not in places:
            assert isinstance(value, dict | list), key
            continue
        place = places[f"{key}="]
        rest = "\n".join([lines[(place.line or 0) - 1][(place.column or 0) - 1 :], *lines[place.line or 0 :]])
        ends = [found.end() for found in re.finditer(r"(?s).", rest)]
        assert any(_loads(f"x = {rest[:end]}") == {"x": value} for end in ends), (text, key)
        if isinstance(value, list):
            assert all(f"{key}[{number}]=" in places for number in range(len(value)))


def _loads(text: str) -> Any:
    try:
        return tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError):
        return None


def test_all_that_is_wrong_with_a_brief_is_said_at_once(tmp_path: Path, rivelt: Command) -> None:
    brief = """[light]
ground = "sandy"
mark = "lost.svg"

[layout]
centre = "cirle"

[check]
ignore = { and8 = "old phones", AND = "all of these" }
severity = { WEB03 = "fatal", IOS4 = "note" }

[uploads]
sizes = ["1080x1920", "1080by1920"]
looks = "drak"

[edition.festival.light]
mark = "broken.svg"
"""
    root = write_tree(tmp_path, small_android(brief=brief) | {"broken.svg": "<svg"})
    for command in (("apply",), ("check",), ("proof",), ("plates",), ("measure",)):
        refused = rivelt(*command, cwd=root)
        assert refused.code == 2
        assert [line for line in refused.err.splitlines() if line.startswith("error: ") or "Did you mean" in line] == [
            "error: rivelt.toml:2:10: `light.ground`: 'sandy' is not a CSS colour",
            "error: rivelt.toml:3:8: lost.svg does not exist",
            'error: rivelt.toml:6:10: `layout.centre` must be what is centred: "circle" (the smallest round it), "box" (its bounds) or "mass"; found \'cirle\'',
            '  Did you mean "circle"?',
            "error: rivelt.toml:9:12: there is no rule and8",
            "  Did you mean AND08?",
            'error: rivelt.toml:10:22: `check.severity.WEB03` must be "error", "warning" or "note"; found \'fatal\'',
            "error: rivelt.toml:13:23: '1080by1920' is not a size",
            'error: rivelt.toml:14:9: `uploads.looks` must be "both", "light" or "dark"; found \'drak\'',
            '  Did you mean "dark"?',
            "error: rivelt.toml:17:8: broken.svg:1:1: not well-formed XML: unclosed token",
        ]
    assert rivelt("check", "mark.svg", cwd=root).err.startswith("error: mark.svg is not a brief\n")


def taplo(*command: str, cwd: Path) -> subprocess.CompletedProcess[str]:
    program = Path(sys.executable).with_name("taplo")
    return subprocess.run([str(program), *command], cwd=cwd, capture_output=True, text=True, timeout=60)


@pytest.mark.parametrize("options", [(), ("--dark-mark", "mark.svg", "--imprint", "mark.svg", "--name", 'a "b" \\ c')])
def test_editors_know_what_a_brief_may_hold(tmp_path: Path, rivelt: Command, options: tuple[str, ...]) -> None:
    """The judge is the language server that editors run for TOML."""
    root = write_tree(tmp_path, small_android())
    (root / "rivelt.toml").unlink()
    assert rivelt("brief", "--mark", "mark.svg", *options, cwd=root).code == 0
    text = (root / "rivelt.toml").read_text()
    assert text.startswith("#:schema rivelt.schema.json\n")
    assert taplo("lint", "rivelt.toml", cwd=root).returncode == 0
    assert taplo("fmt", "--check", "rivelt.toml", cwd=root).returncode == 0
    for wrong in ('mark_size = "fat"', "clearance = 3", "marc_size = 4"):
        (root / "rivelt.toml").write_text(re.sub("(?m)^mark_size = .*$", wrong, text))
        assert taplo("lint", "rivelt.toml", cwd=root).returncode != 0, wrong
    every = re.sub(r"(?m)^# (?=\w+ = |\[[a-z]+\]$)", "", text)
    (root / "rivelt.toml").write_text(every)
    assert taplo("lint", "rivelt.toml", cwd=root).returncode == 0, "what is commented out may be used as it stands"
    shown = rivelt("brief", "--mark", "mark.svg", *options, "--out", "-", cwd=root)
    assert (shown.code, shown.out) == (0, text.removeprefix("#:schema rivelt.schema.json\n"))


def test_somebody_elses_schema_is_left_alone_and_an_older_one_renewed(tmp_path: Path, rivelt: Command) -> None:
    theirs = '{"$id": "urn:example:other"}'
    root = write_tree(tmp_path, small_android() | {"rivelt.schema.json": theirs})
    (root / "rivelt.toml").unlink()
    assert rivelt("brief", "--mark", "mark.svg", cwd=root).code == 0
    assert (root / "rivelt.schema.json").read_text() == theirs
    assert "#:schema" not in (root / "rivelt.toml").read_text()
    (root / "rivelt.toml").unlink()
    (root / "rivelt.schema.json").write_text('{"$id": "urn:rivelt:brief:1"}')
    assert rivelt("brief", "--mark", "mark.svg", cwd=root).code == 0
    assert json.loads((root / "rivelt.schema.json").read_text()) == json.loads(rivelt("brief", "--schema").out)


def test_the_schema_says_what_each_property_is_where_it_stands() -> None:
    schema = json.loads(shipped_schema())
    assert schema["$id"] == "urn:rivelt:brief:1"
    assert "null" not in json.dumps(schema)
    tables = {name: table for name, table in schema["$defs"].items() if name not in {"Brief", "Edition"}}
    for name, table in tables.items():
        assert table["additionalProperties"] is False
        assert all("description" in value for value in table["properties"].values()), name
    assert schema["$defs"]["AppTable"]["properties"]["targets"]["items"] == {"enum": list(TARGETS)}


def test_art_in_the_project_is_not_blamed_for_what_else_is_wrong(tmp_path: Path, rivelt: Command) -> None:
    """The brief is below its project, the art beside it, and no repository holds them together."""
    brief = '[app]\nproject = "../.."\n\n[light]\nground = "sandy"\nmark = "../../art/mark.svg"\n'
    files = small_android()
    root = write_tree(tmp_path, {**files, "brands/tern/rivelt.toml": brief, "art/mark.svg": files["mark.svg"]})
    refused = rivelt("check", "brands/tern/rivelt.toml", cwd=root)
    assert refused.err.count("error: ") == 1
    assert "'sandy' is not a CSS colour" in refused.err
