"""A brief edited by the live page: what is asked for and nothing else, however the file is written."""

from __future__ import annotations

import re
import tomllib
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rivelt.errors import BadInput
from rivelt.live.draft import Value, drafted

COLOURS = st.sampled_from(["#F3EBDD", "navy", "oklch(0.24 0.03 240)", "rgb(1 2 3)", 'ünï"code\\'])
KEYS: dict[str, st.SearchStrategy[Value]] = {
    "light.ground": COLOURS,
    "light.disc": st.none() | COLOURS,
    "dark.ground": COLOURS,
    "dark.mark": st.none() | st.just("derive"),
    "layout.mark_size": st.floats(24, 400).map(lambda one: round(one, 3)) | st.just("fit"),
    "layout.clearance": st.floats(0, 0.4).map(lambda one: round(one, 3)),
    "layout.focus": st.lists(st.floats(0, 1).map(lambda one: round(one, 3)), min_size=2, max_size=2),
    "light.imprint": st.none() | st.just("art/imprint.svg"),
    "edition.tern.light.ground": COLOURS,
    "edition.tern.layout.clearance": st.just(0.2),
}
CHANGES = st.fixed_dictionaries({}, optional=KEYS)
LINES = st.lists(
    st.sampled_from(
        [
            "[app]", 'name = "Tern" # as in the store', "[light]", 'ground = "#F3EBDD"   # sand', "ground='navy'", "# mark = 1",
            'mark = "art/mark.svg"', "[dark]", "dark.ground = 'x'", 'light = { ground = "#fff", mark = "m.svg" }', "",
            "[layout]", "focus = [", "  0.5, # across", "  0.5,", "]", "clearance = 0.06", 'light.disc = "red"', "[edition.tern]",
            'light.ground = "tan"', "[edition.tern.light]", "[check]", 'ignore = { AND09 = "old # phones" }', '"""', "[[x]]",
        ]
    ),
    max_size=14,
)  # fmt: skip


def reads(text: str) -> dict[str, Any] | None:
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError:
        return None


def put(table: dict[str, Any], key: str, value: Value) -> None:
    *path, last = key.split(".")
    for name in path:
        table = table.setdefault(name, {})
    if value is None:
        table.pop(last, None)
    else:
        table[last] = value


def full(table: dict[str, Any]) -> dict[str, Any]:
    found = {key: full(value) if isinstance(value, dict) else value for key, value in table.items()}
    return {key: value for key, value in found.items() if value != {}}


@given(LINES, CHANGES, st.sampled_from(["\n", "\r\n"]), st.booleans(), st.booleans())
def test_a_draft_says_what_is_asked_for_or_is_refused(
    lines: list[str], changes: dict[str, Value], end: str, bom: bool, is_open: bool
) -> None:
    text = end.join(lines) + ("" if is_open else end)
    before = (b"\xef\xbb\xbf" if bom else b"") + text.encode()
    table = reads(text)
    try:
        made = drafted(before, "rivelt.toml", changes)
    except BadInput:
        return
    assert table is not None or not changes
    after = made.data.decode("utf-8-sig")
    assert made.data.startswith(b"\xef\xbb\xbf") == bom
    if end == "\r\n" and "\r\n" in text:
        assert "\n" not in after.replace("\r\n", "")
    if table is not None:
        for key, value in changes.items():
            put(table, key, value)
        assert full(tomllib.loads(after)) == full(table)
        comments = re.findall(r"# (?:as in|sand|across|mark)", text)
        if not any(value is None for value in changes.values()):
            assert re.findall(r"# (?:as in|sand|across|mark)", after) == comments or "layout.focus" in changes
    if not changes:
        assert (made.data, made.diff) == (before, "")


@pytest.mark.parametrize(
    ("text", "changes", "after"),
    [
        ('[light]\nground = "#FFF" # white\n', {"light.ground": "navy"}, '[light]\nground = "navy" # white\n'),
        ('light.ground = "#FFF"\n', {"light.ground": "navy"}, 'light.ground = "navy"\n'),
        ('light = { ground = "#FFF" }\n', {"light.ground": "navy"}, 'light = { ground = "navy" }\n'),
        ("[light]\n# nothing yet\n", {"light.ground": "navy"}, '[light]\n# nothing yet\nground = "navy"\n'),
        (
            '[light]\nground = "#FFF"\n',
            {"layout.mark_size": 90.0},
            '[light]\nground = "#FFF"\n\n[layout]\nmark_size = 90\n',
        ),
        ('[light]\ndisc = "red"\nmark = "m.svg"\n', {"light.disc": None}, '[light]\nmark = "m.svg"\n'),
        ('[light]\nmark = "m.svg"\n', {"dark.mark": None}, '[light]\nmark = "m.svg"\n'),
    ],
)
def test_how_a_change_is_written(text: str, changes: dict[str, Value], after: str) -> None:
    assert drafted(text.encode(), "rivelt.toml", changes).data.decode() == after


def test_what_cannot_be_edited_is_said() -> None:
    for text in (b"[light\n", b"\xff", b"light = 3\n", b"[[light]]\n"):
        with pytest.raises(BadInput, match="the brief cannot be edited"):
            drafted(text, "rivelt.toml", {"light.ground": "navy"})
