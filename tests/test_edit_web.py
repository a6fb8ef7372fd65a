"""JSON and HTML: what is set is set, and every other byte stays."""

from __future__ import annotations

import json
from html.parser import HTMLParser
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rivelt.edit.html import parse_html
from rivelt.edit.jsontext import parse_json
from rivelt.edit.splice import spliced
from rivelt.errors import BadInput

scalars = st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | st.text()
values = st.recursive(
    scalars, lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(), inner, max_size=4), max_leaves=12
)
styles: st.SearchStrategy[dict[str, Any]] = st.fixed_dictionaries(
    {
        "indent": st.sampled_from([None, 2, 4, "\t"]),
        "separators": st.sampled_from([(",", ":"), (", ", ": "), (",", " : ")]),
        "ensure_ascii": st.booleans(),
    }
)


def written(value: object, style: dict[str, Any], newline: str, *, has_bom: bool) -> bytes:
    text = json.dumps(value, **style).replace("\n", newline)
    try:
        return (b"\xef\xbb\xbf" if has_bom else b"") + text.encode()
    except UnicodeEncodeError:  # a lone surrogate is not text
        return json.dumps(value).encode()


@pytest.mark.parametrize(
    ("near", "order"),
    [
        (("a", "b"), "abNc"),
        (("b", "a"), "aNbc"),
        (("c", "x"), "abcN"),
        (("a", "x", "y"), "aNbc"),
        (("x",), "abcN"),
        ((), "abcN"),
    ],
)
@pytest.mark.parametrize("text", ['{"a": 1, "b": [2, 3], "c": {}}', '{\n  "a": 1,\n  "b": [2, 3],\n  "c": {}\n}'])
def test_a_new_member_stands_after_the_last_of_those_it_belongs_to(
    text: str, near: tuple[str, ...], order: str
) -> None:
    after = spliced(text.encode(), parse_json(text.encode(), "m.json").set_member("N", True, near))
    assert "".join(json.loads(after)) == order
    assert after.count(b"\n") == text.count("\n") + ("\n" in text)


@given(
    st.dictionaries(st.text(), values, max_size=5),
    styles,
    st.sampled_from(["\n", "\r\n"]),
    st.booleans(),
    values,
    st.text(),
)
def test_one_member_is_set_and_nothing_else_moves(
    root: dict[str, Any], style: dict[str, Any], newline: str, has_bom: bool, value: object, key: str
) -> None:
    data = written(root, style, newline, has_bom=has_bom)
    value, key = json.loads(json.dumps(value)), json.loads(json.dumps(key))
    try:
        json.dumps([value, key], ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return
    after = spliced(data, parse_json(data, "m.json").set_member(key, value))
    assert json.loads(after.decode("utf-8-sig")) == {**json.loads(data.decode("utf-8-sig")), key: value}
    assert [*json.loads(after.decode("utf-8-sig"))] == list(dict.fromkeys([*json.loads(data.decode("utf-8-sig")), key]))
    assert spliced(after, parse_json(after, "m.json").set_member(key, value)) == after
    assert (b"\r\n" in after) <= (b"\r\n" in data)
    if key in root:
        node = parse_json(data, "m.json").root.members[key]
        assert after.startswith(data[: node.start])
        assert after.endswith(data[node.end :])


@given(st.lists(values, max_size=5), st.data(), styles, st.lists(values.filter(lambda v: v == v), max_size=3))
def test_items_are_kept_taken_out_and_added(
    items: list[Any], data: st.DataObject, style: dict[str, Any], added: list[Any]
) -> None:
    text = written({"a": 1, "icons": items, "z": {}}, style, "\n", has_bom=False)
    added = json.loads(json.dumps(added))
    try:
        json.dumps(added, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return
    document = parse_json(text, "m.json")
    nodes = document.root.members["icons"].items
    kept = [node for node in nodes if data.draw(st.booleans())]
    after = spliced(text, document.set_items("icons", kept, added))
    assert json.loads(after) == {"a": 1, "icons": [node.value for node in kept] + added, "z": {}}
    if len(kept) == len(nodes) and not added:
        assert after == text


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"[]", "m.json:1: the file holds no JSON object"),
        (b'{"a": 1,}', "not JSON: "),
        (b'{\n  "a": nope}', "m.json:2:8: not JSON: expecting value"),
        (b'{"a": NaN}', "NaN is not a JSON value"),
        (b'{"a": "\xff"}', "m.json:1:8: the file is not UTF-8 text"),
        (b'{"a": ' + b"[" * 100_000, "not JSON"),
        (b"<html>", "m.json:1:1: not JSON"),
    ],
)
def test_what_is_no_json_is_told_with_its_place(data: bytes, message: str) -> None:
    with pytest.raises(BadInput) as caught:
        parse_json(data, "m.json")
    assert message in f"{caught.value.place}: {caught.value.message}"


class _Reference(HTMLParser):
    """The standard library's parser, as an independent witness."""

    def __init__(self) -> None:
        super().__init__()
        self.seen: list[tuple[str, dict[str, str]]] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given: dict[str, str] = {}
        for name, value in attrs:
            given.setdefault(name, value or "")
        self.seen.append((tag, given))


PAGES = [
    '<!doctype html><html><head><link rel=manifest href="a.json"><META NAME="theme-color" content="#fff"></head></html>',
    "<head>\n<!-- <link rel=x> -->\n<script>if (a < b) document.write('<link rel=y>')</script><style>a > b {}</style>\n<link rel='z' disabled></head>",
    '<title>x</title><p title="a > b">x</p><br/><img src="x.png" />',
    '<a href="{{ base }}/x?a=1&amp;b=2">&lt;link&gt;</a><b data-x=\'"\'>y</b>',
    "<head><link\n  rel=\"manifest\"\r\n  href='m.json'\n></head>",
]


@pytest.mark.parametrize("text", PAGES)
def test_tags_are_those_that_a_parser_sees(text: str) -> None:
    reference = _Reference()
    reference.feed(text)
    page = parse_html(text.encode(), "p.html")
    assert [(tag.name, tag.attributes) for tag in page.tags if tag.name[0] not in "/!"] == reference.seen
    assert all(
        page.data[tag.start : tag.start + 1] == b"<" and page.data[tag.end - 1 : tag.end] == b">" for tag in page.tags
    )


@given(st.sampled_from(PAGES), st.text(max_size=12), st.integers(0, 9))
def test_an_attribute_is_set_and_nothing_else_moves(text: str, value: str, number: int) -> None:
    data = text.encode()
    page = parse_html(data, "p.html")
    tags = [tag for tag in page.tags if tag.attributes]
    tag = tags[number % len(tags)]
    value = value.encode("utf-8", "ignore").decode().replace("\r", "")
    for name in (next(iter(tag.attributes)), "data-new"):
        after = spliced(data, [page.set_attribute(tag, name, value)])
        again = next(found for found in parse_html(after, "p.html").tags if found.start == tag.start)
        assert again.attributes == {**tag.attributes, name: value}
        assert after[: tag.start] == data[: tag.start]
        assert after[again.end :] == data[tag.end :]


def test_a_page_without_end_is_read_in_no_time() -> None:
    for part in (b"<a ", b"<!--", b"<a b='", b'<a b="', b"<script>", b"<a b=\"'"):
        parse_html(part * 200_000, "p.html")
