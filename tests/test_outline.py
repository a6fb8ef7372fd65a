"""Outlines against their source: whatever is converted must draw the same picture, whatever is not must be reported."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Command
from rivelt.art.outline.convert import outline_of
from rivelt.art.outline.draw import outline_svg
from rivelt.art.outline.model import Matrix
from rivelt.art.outline.path import bounds_of, parse_path, path_data, transformed
from rivelt.art.outline.prove import difference
from rivelt.art.source import read_art

ART = Path(__file__).parent.parent / "src/rivelt/demo/skerryline/art"
GRADIENT = '<stop offset="10%" stop-color="navy"/><stop offset=".6" stop-color="gold" stop-opacity=".5"/><stop offset="1" style="stop-color:#f06"/>'
BOX = '<rect x="10" y="15" width="70" height="50" {}/>'

HELD = {
    "shapes": '<rect x="5" y="5" width="30" height="20" rx="6" ry="3"/><circle cx="70" cy="20" r="15"/><ellipse cx="30" cy="60" rx="25" ry="9"/>'
    '<polygon points="60,50 90,60 70,85"/><polyline points="5,90 20,75 35,90" fill="none" stroke="red" stroke-width="3"/><line x1="50" y1="5" x2="50" y2="45" stroke="blue"/>',
    "path commands": '<path d="M10 10h30v20l-10,10H10zm50,0c10-10 20 20 30 10s-5 20-15 25q-10 10-20-5t-10,20-5-5"/>',
    "arcs": '<path d="M10 50a20 30 30 0 1 40 0A20,10 0 1,0 90 60a5 5 0 01-3 4"/><path d="M5 95a1 1 0 1130 0z" fill="teal"/>',
    "even-odd": '<path fill-rule="evenodd" d="M10 10H90V90H10zM30 30H70V70H30z"/>',
    "transforms": '<g transform="translate(20 10) rotate(30 40 40) skewX(10)"><rect width="40" height="30" transform="scale(1.2,.8)"/></g>',
    "inheritance": '<g fill="tomato" stroke="#024" stroke-width="4" stroke-linejoin="round"><path d="M20 20H80V50z"/><g fill="gold"><circle cx="30" cy="70" r="15"/></g></g>',
    "style sheet": "<style>.a,#b{fill:#080;stroke:none} rect.a{fill:orange} /* x */ *{stroke-width:2}</style>"
    '<rect class="a" width="30" height="30"/><circle class="a x" cx="60" cy="20" r="15"/><path id="b" style="fill: rgb(200 0 0)" d="M0 50h40v40z"/>',
    "currentColor": '<g color="purple"><rect width="50" height="50" fill="currentColor"/></g>',
    "use": '<defs><path id="p" d="M0 0h20v10z"/></defs><use href="#p" x="5" y="9"/><use xlink:href="#p" transform="scale(3)" y="10" fill="red"/>',
    "symbol": '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="20"/></symbol><use href="#s" x="10" y="20" width="40" height="30"/>',
    "nested svg": '<svg x="20" y="10" width="50" height="60" viewBox="0 0 10 10" preserveAspectRatio="xMaxYMin slice"><circle cx="5" cy="5" r="5"/></svg>',
    "percentages and units": '<rect x="10%" y="15pt" width="50%" height="10mm"/><circle cx="50%" cy="80%" r="10%"/>',
    "linear gradient": f'<linearGradient id="g" x1="0" y1="0" x2="1" y2="1">{GRADIENT}</linearGradient>'
    + BOX.format('fill="url(#g)"'),
    "gradient in user space, turned and skewed": f'<linearGradient id="g" gradientUnits="userSpaceOnUse" x1="10" y1="20" x2="40" y2="30" spreadMethod="reflect" gradientTransform="rotate(20) skewX(30)">{GRADIENT}</linearGradient>'
    + BOX.format('fill="url(#g)" transform="rotate(10)"'),
    "gradient that refers": f'<linearGradient id="a">{GRADIENT}</linearGradient><linearGradient id="g" href="#a" x2="0" y2="100%"/>'
    + BOX.format('fill="url(#g)"'),
    "radial gradient": f'<radialGradient id="g" cx="40%" r="60%">{GRADIENT}</radialGradient>'
    + BOX.format('fill="url(#g)"'),
    "gradient stroke": f'<linearGradient id="g">{GRADIENT}</linearGradient>'
    + BOX.format('fill="none" stroke="url(#g)" stroke-width="8"'),
    "opacity": BOX.format('fill="red" opacity=".5"')
    + BOX.format('fill="#0000ff80" fill-opacity=".5" transform="translate(15 15)"'),
    "group opacity without overlap": '<g opacity=".4"><rect width="20" height="20"/><rect x="40" width="20" height="20" fill="red"/></g>',
    "clip": '<clipPath id="c"><circle cx="50" cy="50" r="30"/></clipPath><g clip-path="url(#c)"><rect width="60" height="60"/><rect x="50" y="50" width="60" height="60" fill="red"/></g>',
    "clip in box units": '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".5"/></clipPath>'
    + BOX.format('clip-path="url(#c)"'),
    "off the page": '<rect x="-50" y="-50" width="90" height="90"/>',
    "strokes": '<g fill="none" stroke="black" stroke-width="6"><path d="M10 10l20 30 20-30" stroke-linecap="round"/><path d="M10 60l20 30 20-30" stroke-linejoin="bevel" stroke-linecap="square"/>'
    '<path d="M60 60l5 30 5-30" stroke-miterlimit="20"/><path d="M0 0h9" transform="translate(70 10) rotate(40) scale(2)"/></g>',
    "hidden": '<rect width="9" height="9" display="none"/><g visibility="hidden"><rect width="50" height="9"/></g>'
    + BOX.format(""),
    "switch and a": '<switch><g systemLanguage="de"><rect width="9" height="9"/></g><a href="https://example.org"><rect x="40" width="30" height="30"/></a></switch>',
    "broken path": '<path d="M10 10L50 50L70 oops 20"/>',
}


def vector(content: str) -> bytes:
    head = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="120" height="100" viewBox="0 0 100 100">'
    return f"{head}{content}</svg>".encode()


@pytest.mark.parametrize("content", HELD.values(), ids=HELD)
def test_what_is_held_is_the_same_picture(content: str) -> None:
    art = read_art(vector(content), "a.svg")
    outline = outline_of(art)
    assert not outline.unsupported
    assert outline.shapes
    assert difference(outline, art) < 0.3


@pytest.mark.parametrize("name", ["mark.svg", "mark-dark.svg", "imprint.svg"])
def test_the_art_of_the_demo_is_held_as_plain_outlines(name: str) -> None:
    art = read_art((ART / name).read_bytes(), name)
    assert difference(outline_of(art), art) < 0.2


NOT_HELD = {
    "text": ("<text>Tern</text>", "text"),
    "bitmap": ('<image href="data:image/png;base64,iVBORw0KGgo=" width="9" height="9"/>', "image"),
    "filter": ('<filter id="f"/>' + BOX.format('filter="url(#f)"'), "a filter"),
    "mask": ('<mask id="m"/>' + BOX.format('style="mask:url(#m)"'), "a mask"),
    "pattern": ('<pattern id="p"/>' + BOX.format('fill="url(#p)"'), "a paint of <pattern>"),
    "blend mode": (BOX.format('style="mix-blend-mode: multiply"'), "a blend mode"),
    "focal gradient": (
        f'<radialGradient id="g" fx=".2">{GRADIENT}</radialGradient>' + BOX.format('fill="url(#g)"'),
        "focal point",
    ),
    "dashes": (BOX.format('stroke="red" stroke-dasharray="3 2"'), "dashed"),
    "skewed stroke": (BOX.format('stroke="red" transform="scale(1 2)"'), "not alike in all directions"),
    "overlapping opacity": ('<g opacity=".5">' + BOX.format("") + '<circle cx="50" cy="50" r="20"/></g>', "overlap"),
    "opacity over fill and stroke": (BOX.format('stroke="red" opacity=".5"'), "a fill and a stroke together"),
    "markers": (BOX.format('marker-end="url(#m)"'), "markers"),
    "selectors": ("<style>g > rect { fill: red }</style>" + BOX.format(""), "the selector"),
    "even-odd clip": (
        '<clipPath id="c"><path clip-rule="evenodd" d="M0 0h9v9z"/></clipPath>' + BOX.format('clip-path="url(#c)"'),
        "even-odd",
    ),
}


@pytest.mark.parametrize(("content", "reason"), NOT_HELD.values(), ids=NOT_HELD)
def test_what_is_not_held_is_told(content: str, reason: str) -> None:
    outline = outline_of(read_art(vector(content), "a.svg"))
    assert any(reason in f"{found.element}: {found.reason}" for found in outline.unsupported), outline.unsupported


numbers = st.floats(-50, 150, allow_nan=False).map(lambda value: round(value, 2))
commands = st.one_of(
    st.tuples(st.sampled_from("LlTtMm"), numbers, numbers),
    st.tuples(st.sampled_from("HhVv"), numbers),
    st.tuples(st.sampled_from("Cc"), *[numbers] * 6),
    st.tuples(st.sampled_from("SsQq"), *[numbers] * 4),
    st.tuples(
        st.sampled_from("Aa"),
        numbers,
        numbers,
        numbers,
        st.sampled_from([0, 1]),
        st.sampled_from([0, 1]),
        numbers,
        numbers,
    ),
    st.tuples(st.sampled_from("Zz")),
)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(commands, min_size=1, max_size=8), st.tuples(*[st.floats(-2, 2).map(lambda value: round(value, 2))] * 6)
)
def test_any_path_under_any_transform_is_drawn_as_the_renderer_does(
    parts: list[tuple[object, ...]], matrix: tuple[float, ...]
) -> None:
    data = "M20 20" + "".join(f"{part[0]}{' '.join(map(str, part[1:]))}" for part in parts)
    content = (
        f'<path fill-rule="evenodd" d="{data}" transform="translate(40 40) matrix({" ".join(map(str, matrix))})"/>'
    )
    art = read_art(vector(content), "a.svg")
    outline = outline_of(art)
    assert not outline.unsupported
    assert difference(outline, art) < 0.5


@given(st.lists(commands, min_size=1, max_size=8), numbers, numbers)
def test_paths_keep_their_shape_as_text_and_moved(parts: list[tuple[object, ...]], dx: float, dy: float) -> None:
    path = parse_path("M20 20" + "".join(f"{part[0]}{' '.join(map(str, part[1:]))}" for part in parts))
    again = parse_path(path_data(path, 6))
    assert [segment.command for segment in again] == [segment.command for segment in path]
    box, moved = bounds_of(path), bounds_of(transformed(path, Matrix(e=dx, f=dy)))
    assert box is not None
    assert moved == pytest.approx((box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy), abs=1e-6)


wild = st.sampled_from(["0", "1", "-7.5", "1e-320", "1e-9", "-1e9", "9e8", "1e308", "1e999", "0.0000001"])


@given(st.lists(st.tuples(st.sampled_from("MLHVCSQTAZmlhvcsqtaz"), st.lists(wild, max_size=9)), max_size=8))
def test_no_number_is_too_wild_for_a_path(parts: list[tuple[str, list[str]]]) -> None:
    path = parse_path("M1 1" + "".join(command + " ".join(values) for command, values in parts))
    assert all(math.isfinite(value) for segment in path for point in segment.points for value in point)


def test_a_wrong_outline_is_noticed() -> None:
    art = read_art((ART / "mark.svg").read_bytes(), "mark.svg")
    outline = outline_of(art)
    lost = type(outline)(outline.size, outline.shapes[:-3], ())
    assert difference(lost, art) > 1
    assert "<path" in outline_svg(outline, 10, 10, 1)


def test_measure_tells_whether_outlines_hold_the_art(sample: Path, rivelt: Command) -> None:
    mark = rivelt("measure", "--json", cwd=sample).json["art"][0]["outline"]
    assert (mark["faithful"], mark["unsupported"]) == (True, [])
    (sample / "art/mark.svg").write_bytes(vector(NOT_HELD["dashes"][0]))
    told = rivelt("measure", cwd=sample)
    assert "no: <rect>: a dashed stroke" in told.out
