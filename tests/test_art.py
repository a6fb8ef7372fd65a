"""The art: hull and circle against brute force, the fit as a property, sources refused."""

from __future__ import annotations

import io
import itertools
import math
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from PIL import Image

from rivelt.art.extent import convex_hull, extent_of, smallest_circle
from rivelt.art.measure import MeasuredArt
from rivelt.art.source import read_art
from rivelt.art.visible import VISIBLE_ALPHA, visible_outline
from rivelt.brief.model import Brief, LayoutTable, LookBrief
from rivelt.colour import Colour
from rivelt.errors import BadInput
from rivelt.layout.context import PlanContext
from rivelt.picture import Art
from rivelt.pixels.render import render
from rivelt.plan.model import Placement, Recipe
from rivelt.units import Look, PixelSize, Point, Rect, Size, round_half_up

coordinates = st.floats(-100, 100, allow_nan=False).map(lambda value: round(value, 3))
points = st.lists(st.builds(Point, coordinates, coordinates), min_size=1, max_size=12)


@given(points)
def test_smallest_circle_is_the_best_of_all_circles_through_two_or_three_points(cloud: list[Point]) -> None:
    circle = smallest_circle(cloud)
    assert all(math.dist(circle.centre, point) <= circle.radius + 1e-6 for point in cloud)
    assert circle.radius <= brute_force_radius(cloud) + 1e-6


def brute_force_radius(cloud: list[Point]) -> float:
    """The least radius over every candidate: each pair's and each triple's circle that holds all points."""
    if len(set(cloud)) == 1:
        return 0.0
    candidates = []
    for a, b in itertools.combinations(cloud, 2):
        candidates.append((np.add(a, b) / 2, math.dist(a, b) / 2))
    for a, b, c in itertools.combinations(cloud, 3):
        matrix = 2 * np.array([np.subtract(b, a), np.subtract(c, a)])
        if abs(np.linalg.det(matrix)) < 1e-6:
            continue
        right = [np.dot(b, b) - np.dot(a, a), np.dot(c, c) - np.dot(a, a)]
        centre = np.linalg.solve(matrix, right)
        candidates.append((centre, math.dist(centre, a)))
    return min(radius for centre, radius in candidates if all(math.dist(centre, p) <= radius + 1e-6 for p in cloud))


@given(points)
def test_hull_holds_every_point_and_is_made_of_them(cloud: list[Point]) -> None:
    hull = convex_hull(cloud)
    assert set(hull) <= set(cloud)
    if len(hull) < 3:
        return
    for a, b in zip(hull, (*hull[1:], hull[0]), strict=True):
        assert all((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) >= -1e-6 for p in cloud)


SHAPES = st.one_of(
    st.builds(
        '<rect x="{}" y="{}" width="{}" height="{}" rx="{}"/>'.format,
        st.integers(0, 60),
        st.integers(0, 60),
        st.integers(8, 40),
        st.integers(8, 40),
        st.integers(0, 20),
    ),
    st.builds('<circle cx="{}" cy="{}" r="{}"/>'.format, st.integers(20, 80), st.integers(20, 80), st.integers(4, 20)),
    st.builds(
        '<path d="M{} {}L{} {}" stroke="black" stroke-width="{}" stroke-linecap="round"/>'.format,
        st.integers(10, 90),
        st.integers(10, 90),
        st.integers(10, 90),
        st.integers(10, 90),
        st.integers(3, 10),
    ),
)


def context(art: Art, **layout: object) -> PlanContext:
    extent = extent_of(visible_outline(art))
    assert extent is not None
    look = LookBrief(Colour(255, 255, 255), art.name)
    table = msgspec.convert(layout, LayoutTable)
    brief = Brief(Path("rivelt.toml"), "Tern", Path(), None, {"light": look, "dark": look}, layout=table)
    measured = MeasuredArt(art, extent)
    masks: dict[Look, tuple[float, ...]] = {"light": (192.0,), "dark": (192.0,)}
    return PlanContext(brief, {("light", "mark"): measured, ("dark", "mark"): measured}, masks, Size(393, 852))


@settings(max_examples=20)
@given(
    shapes=st.lists(SHAPES, min_size=1, max_size=4),
    size=st.tuples(st.integers(60, 400), st.integers(60, 400)),
    density=st.sampled_from([1, 1.5, 2, 3, 4]),
    clearance=st.sampled_from([0.0, 0.06, 0.15]),
    is_bitmap=st.booleans(),
)
def test_a_fitted_mark_stays_in_the_circle_and_touches_the_allowed_ring(
    shapes: list[str], size: tuple[int, int], density: float, clearance: float, is_bitmap: bool
) -> None:
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]}" height="{size[1]}" viewBox="0 0 100 100">{"".join(shapes)}</svg>'
    art = read_art(svg.encode(), "mark.svg")
    if is_bitmap:
        seen = extent_of(visible_outline(art))
        assert seen is not None
        factor = 1.5 * 192 * density / (2 * seen.circle.radius)  # enough pixels: it is reduced, as it should be
        large = PixelSize(round(size[0] * factor), round(size[1] * factor))
        assume(max(large) <= 2500)
        drawn = render(Recipe(large, (Placement(art, Rect(0, 0, *large)),)))
        art = read_art(drawn, "mark.png")
    plate = render(context(art, mark_size="fit", clearance=clearance).mark_in_circle("light", 288, 192, density))
    alpha = np.asarray(Image.open(io.BytesIO(plate)).convert("RGBA"))[..., 3].astype(float) / 255
    side = alpha.shape[0]
    assert alpha.shape == (288 * density, 288 * density)
    rows, columns = np.nonzero(alpha >= VISIBLE_ALPHA / 255)
    x, y = np.abs(columns + 0.5 - side / 2), np.abs(rows + 0.5 - side / 2)
    inner = np.hypot(x - 0.5, y - 0.5).max()  # the corner next to the middle: nearer than any paint in that pixel
    outer = np.hypot(x + 0.5, y + 0.5).max()
    allowed = 192 * density * (1 - 2 * clearance) / 2
    # The edges of a vector are known to a third of a pixel. A bitmap is on whole pixels, and its edges ring when it is resized.
    slack = 2.5 if is_bitmap else 0.35
    assert inner <= allowed + slack
    assert outer >= allowed - 1.0 - slack
    if clearance > 0 and not is_bitmap:
        assert np.hypot(x, y).max() <= 192 * density / 2


@pytest.mark.parametrize(
    ("value", "rounded"), [(0.5, 1), (1.5, 2), (2.5, 3), (37.5, 38), (-0.5, 0), (-1.5, -1), (2.49, 2), (2.51, 3)]
)
def test_halves_are_rounded_up_as_the_systems_do(value: float, rounded: int) -> None:
    assert round_half_up(value) == rounded
    assert Size(abs(value), 1).pixels() == (round_half_up(abs(value)), 1)


def test_true_bounds_leave_out_what_is_transparent() -> None:
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100"><rect x="20" y="30" width="80" height="40"/></svg>'
    extent = extent_of(visible_outline(read_art(svg, "mark.svg")))
    assert extent is not None
    assert extent.bounds == pytest.approx((20, 30, 80, 40), abs=0.1)
    assert extent.circle.radius == pytest.approx(math.hypot(80, 40) / 2, abs=0.1)


@pytest.mark.parametrize(
    ("root", "size"),
    [
        ('width="120" height="60"', (120, 60)),
        ('width="1in" height="25.4mm"', (96, 96)),
        ('viewBox="0 0 250 200"', (250, 200)),
        ('width="50" viewBox="0 0 250 200"', (50, 40)),
        ('width="100%" height="100%" viewBox="0 0 30 10"', (30, 10)),
        ("", (300, 150)),
        ('xmlns:x="http://example.org" width="7" height="9"', (7, 9)),
    ],
)
def test_an_svg_has_the_size_it_says_or_that_of_its_view_box(root: str, size: tuple[float, float]) -> None:
    art = read_art(
        f'<svg xmlns="http://www.w3.org/2000/svg" {root}><rect width="9" height="9"/></svg>'.encode(), "a.svg"
    )
    assert art.size == pytest.approx(size)


def test_a_placed_vector_is_the_same_picture_at_any_offset() -> None:
    """Nesting must not move, scale or recolour: the plate shows what the file alone shows."""
    import pyvips

    svg = (Path(__file__).parent.parent / "src/rivelt/demo/skerryline/art/mark.svg").read_bytes()
    art = read_art(svg, "mark.svg")
    placed = np.asarray(
        Image.open(io.BytesIO(render(Recipe(PixelSize(600, 500), (Placement(art, Rect(50, 50, 500, 400)),)))))
    )
    alone = pyvips.Image.svgload_buffer(svg, scale=2).numpy()
    assert np.abs(placed[50:450, 50:550].astype(int) - alone.astype(int)).max() <= 1


def png(colour: tuple[int, int, int, int], size: tuple[int, int] = (8, 8)) -> bytes:
    buffer = io.BytesIO()
    Image.new("RGBA", size, colour).save(buffer, "PNG")
    return buffer.getvalue()


SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">%s</svg>'
BAD_ART = {
    "wrong ending": ("logo.gif", b"GIF89a", "not art that Rivelt reads"),
    "empty": ("a.svg", b"", "is empty"),
    "no picture": ("a.png", b"plain text", "is not a PNG file"),
    "mislabelled": ("a.jpg", png((1, 2, 3, 255)), "is really a PNG file"),
    "cut short": ("a.png", png((1, 2, 3, 255))[:20], "broken"),
    "not well-formed": ("a.svg", b"<svg><g></svg>", "not well-formed XML"),
    "not an svg": ("a.svg", b"<html/>", "root element is <html>"),
    "zero size": ("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg" width="0" height="9"/>', "zero size"),
    "empty viewBox": ("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 0 9"/>', "empty viewBox"),
    "entity": ("a.svg", b'<!DOCTYPE svg [<!ENTITY x "y">]>' + SVG % b"", "declares an entity"),
    "script": ("a.svg", SVG % b"<script>1</script>", "holds a script"),
    "event": ("a.svg", SVG % b'<g onclick="x()"/>', "holds a script"),
    "picture from outside": ("a.svg", SVG % b'<image href="file:///etc/hostname"/>', "outside the file"),
    "url from outside": ("a.svg", SVG % b'<g style="fill:url(https://example.org/a#b)"/>', "outside the file"),
    "style sheet": ("a.svg", SVG % b"<style>@import 'x.css';</style>", "imported from outside"),
    "deep nesting": ("a.svg", SVG % (b"<g>" * 300 + b"</g>" * 300), "nested more than"),
    "encoding": ("a.svg", b'<?xml version="1.0" encoding="nonsense"?><svg/>', "encoding"),
}


@pytest.mark.parametrize(("name", "data", "message"), BAD_ART.values(), ids=BAD_ART)
def test_bad_art_is_refused_with_its_reason(name: str, data: bytes, message: str) -> None:
    with pytest.raises(BadInput, match=message) as caught:
        read_art(data, name)
    assert caught.value.hint


def test_nothing_visible_has_no_extent() -> None:
    assert extent_of(visible_outline(read_art(png((9, 9, 9, 0)), "a.png"))) is None


def test_a_white_disc_on_nothing_is_reduced_without_a_dark_fringe() -> None:
    y, x = np.mgrid[0:400, 0:400]
    disc = np.zeros((400, 400, 4), np.uint8)
    disc[np.hypot(x - 199.5, y - 199.5) < 180] = 255
    buffer = io.BytesIO()
    Image.fromarray(disc).save(buffer, "PNG")
    art = read_art(buffer.getvalue(), "disc.png")
    small = np.asarray(Image.open(io.BytesIO(render(Recipe(PixelSize(61, 61), (Placement(art, Rect(0, 0, 61, 61)),))))))
    seen = small[small[..., 3] > 8]
    assert seen[:, :3].min() >= 250


def test_circle_of_a_square_is_that_of_its_diagonal() -> None:
    corners = [Point(0, 0), Point(2, 0), Point(2, 2), Point(0, 2), Point(1, 1)]
    circle = smallest_circle(corners)
    assert (*circle.centre, circle.radius) == pytest.approx((1, 1, math.sqrt(2)))


SQUARE = '<{0}rect x="10" y="10" width="20" height="20"/>'
WRITTEN: dict[str, bytes] = {
    "prefixed": f'<s:svg xmlns:s="http://www.w3.org/2000/svg" xmlns="urn:x" width="40" height="40">{SQUARE.format("s:")}</s:svg>'.encode(),
    "no namespace": f'<svg width="40" height="40">{SQUARE.format("")}</svg>'.encode(),
    "UTF-16": f'<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40">{SQUARE.format("")}</svg>'.encode(
        "utf-16"
    ),
    "Latin-1": f'<?xml version="1.0" encoding="ISO-8859-1"?><svg width="40" height="40"><title>é</title>{SQUARE.format("")}</svg>'.encode(
        "latin-1"
    ),
    "viewBox off the origin": b'<svg viewBox="-20 -20 40 40"><rect x="-10" y="-10" width="20" height="20"/></svg>',
    "percentages": b'<svg width="40" height="40"><rect x="25%" y="25%" width="50%" height="50%"/></svg>',
    "stretched": b'<svg width="40" height="40" viewBox="0 0 20 40" preserveAspectRatio="none"><rect x="5" y="10" width="10" height="20"/></svg>',
    "off the page": f'<svg width="40" height="40">{SQUARE.format("")}<rect x="60" width="9" height="9"/></svg>'.encode(),
    "links inside": b'<svg width="40" height="40"><defs><rect id="r" width="20" height="20"/></defs><use xlink:href="#r" x="10" y="10"/></svg>',
    "style sheet": b'<svg width="40" height="40"><style><![CDATA[ .a{fill:#f00} ]]></style><rect class="a" x="10" y="10" width="20" height="20"/></svg>',
}


@pytest.mark.parametrize("data", WRITTEN.values(), ids=WRITTEN)
def test_a_square_is_a_square_however_it_is_written(data: bytes) -> None:
    extent = extent_of(visible_outline(read_art(data, "a.svg")))
    assert extent is not None
    assert tuple(extent.bounds) == pytest.approx((10, 10, 20, 20), abs=0.05)
