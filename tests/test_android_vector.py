"""Vector drawables that the planner writes, read by the interpreter that knows nothing of it, against the source drawing."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rivelt.art.outline.convert import outline_of
from rivelt.art.source import read_art
from rivelt.demo.layout import sample_files
from rivelt.edit.xml import parse_xml
from rivelt.picture import Art
from rivelt.pixels.canvas import draw
from rivelt.platforms.android.make.vector_drawable import needs_new_features, vector_drawable
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources
from rivelt.platforms.android.reader.values import Values
from rivelt.platforms.android.reader.vector import read_vector
from rivelt.project.project import Project
from rivelt.units import PixelSize, Rect, Size

SIDE = 288
PHONE = Values(Project.of_files({}), Resources(), Device(30, False, 160, 360, 800))
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="120" height="100" viewBox="0 0 120 100">{}</svg>'
STOPS = '<stop offset="0" stop-color="#C8452F"/><stop offset=".4" stop-color="#FFF" stop-opacity=".5"/><stop offset="1" stop-color="#12414F"/>'
DRAWINGS = {
    "gradient along a line": f'<linearGradient id="g" x1=".1" y1="0" x2=".8" y2="1" spreadMethod="reflect">{STOPS}</linearGradient><rect width="100" height="90" fill="url(#g)"/>',
    "elliptic gradient": f'<radialGradient id="g" gradientTransform="rotate(20)">{STOPS}</radialGradient><rect x="5" width="110" height="60" fill="url(#g)" stroke="#123" stroke-width="3"/>',
    "gradient on a line": f'<linearGradient id="g" gradientUnits="userSpaceOnUse" x1="0" y1="0" x2="120" y2="0">{STOPS}</linearGradient><path d="M10 50Q60 0 110 50" fill="none" stroke="url(#g)" stroke-width="9" stroke-linecap="round"/>',
    "hole by the even-odd rule": '<path fill-rule="evenodd" d="M10 10h90v80h-90zM30 30h50v40h-50z" fill="#1F6E7D" fill-opacity=".7"/>',
    "clips within clips": '<clipPath id="a"><circle cx="50" cy="50" r="40"/></clipPath><clipPath id="b"><rect x="40" y="20" width="70" height="50"/></clipPath><g clip-path="url(#a)"><rect width="120" height="100" fill="#C8452F" clip-path="url(#b)"/></g>',
    "mitres and bevels": '<path d="M10 90L30 20L50 90L70 20L90 90" fill="none" stroke="#12414F" stroke-width="6" stroke-linejoin="miter" stroke-miterlimit="8"/><path d="M10 50h90v20" fill="none" stroke="#A3660C" stroke-width="7" stroke-linejoin="bevel"/>',
    "turned and mirrored": '<g transform="translate(60 50) rotate(33) scale(-1 1.0)"><path d="M-30-20h50l10 30z" fill="#1F6E7D"/><circle r="9" fill="#FFF"/></g>',
}


def apart(art: Art, box: Rect) -> float:
    """The mean difference, of 255, between a drawing and its vector drawable."""
    outline = outline_of(art)
    assert not outline.unsupported
    text = vector_drawable(outline, SIDE, box, "a test")
    picture = read_vector(parse_xml(text.encode(), "v.xml").root, PHONE, "v.xml")
    assert picture.size == Size(SIDE, SIDE)
    canvas = PixelSize(SIDE, SIDE)
    source = draw(art, canvas, box).premultiply()
    shown = draw(read_art(picture.svg.encode(), "v.svg"), canvas, Rect(0, 0, SIDE, SIDE)).premultiply()
    return float((source - shown).abs().avg())


@pytest.mark.parametrize("drawing", DRAWINGS.values(), ids=DRAWINGS)
def test_a_vector_drawable_shows_the_source(drawing: str) -> None:
    art = read_art(SVG.format(drawing).encode(), "a.svg")
    assert apart(art, Rect(54, 69, 180, 150)) < 0.4
    assert needs_new_features(outline_of(art)) == ("gradient" in drawing.lower() or "evenodd" in drawing)


@pytest.mark.parametrize("name", ["mark.svg", "mark-dark.svg"])
def test_the_demos_marks_as_vector_drawables(name: str) -> None:
    art = read_art(sample_files()[f"art/{name}"], name)
    scale = 160 / art.size.longer
    assert apart(art, Rect(60, 80, art.size.width * scale, art.size.height * scale)) < 0.4


@settings(max_examples=25, deadline=None)
@given(
    a=st.floats(0.3, 2),
    b=st.floats(-1, 1),
    c=st.floats(-1, 1),
    d=st.floats(0.3, 2),
    x=st.floats(0.2, 0.8),
    y=st.floats(0.2, 0.8),
)
def test_any_affine_gradient_becomes_a_group(a: float, b: float, c: float, d: float, x: float, y: float) -> None:
    if abs(a * d - b * c) < 0.1:
        return
    matrix = f"matrix({a} {b} {c} {d} 0 0)"
    gradient = f'<radialGradient id="g" cx="{x}" cy="{y}" r=".5" gradientTransform="{matrix}">{STOPS}</radialGradient>'
    art = read_art(
        SVG.format(f'{gradient}<rect x="10" y="10" width="100" height="80" fill="url(#g)"/>').encode(), "a.svg"
    )
    assert apart(art, Rect(24, 44, 240, 200)) < 0.6
