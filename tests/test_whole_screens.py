"""Whole screens, names, lists and choices: properties that hold for any input."""

from __future__ import annotations

import io
import re
import zlib
from pathlib import Path

import deflate
import numpy as np
import pytest
import pyvips
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from rivelt import opening
from rivelt.art.source import read_art
from rivelt.colour import Colour
from rivelt.layout.context import PlanContext
from rivelt.layout.fullscreen import Canvas, Foot, full_screen
from rivelt.pixels import canvas
from rivelt.pixels.encode import flat_png, png
from rivelt.pixels.sections import Sections
from rivelt.plan.names import ASSET, FILE, RESOURCE, NameRule, renamed, safe_name
from rivelt.platforms.windows.make.listing import relisted
from rivelt.platforms.windows.native.images import Variant, best
from rivelt.platforms.windows.native.listing import is_listed
from rivelt.project.project import Project
from rivelt.units import PixelSize, Rect, Size

FOOT = Foot(Size(200, 80), 24, 160)


@pytest.fixture(scope="module")
def context(applied: Path) -> PlanContext:
    return opening.open_brief(applied).editions[0].context


@settings(max_examples=60, deadline=None)
@given(
    st.integers(60, 3000),
    st.integers(60, 3000),
    st.floats(0.5, 4),
    st.floats(0, 0.35),
    st.floats(0, 0.35),
    st.sampled_from(["light", "dark"]),
)
def test_mark_and_imprint_stay_inside_apart_and_in_shape(
    context: PlanContext, width: int, height: int, density: float, left: float, top: float, look: str
) -> None:
    safe = Rect(width * left, height * top, width * (1 - 2 * left), height * (1 - 2 * top))
    assert look in ("light", "dark")
    recipe = full_screen(
        context, "light" if look == "light" else "dark", Canvas(PixelSize(width, height), density, safe), FOOT
    )
    mark, imprint = recipe.placed
    shown = []
    for placement, role in ((mark, "mark"), (imprint, "imprint")):
        scale = placement.box.width / placement.art.size.width
        assert placement.box.height / placement.art.size.height == pytest.approx(scale), "never distorted"
        bounds = context.art[
            "light" if look == "light" else "dark", "mark" if role == "mark" else "imprint"
        ].extent.bounds
        x, y = placement.box.x + bounds.x * scale, placement.box.y + bounds.y * scale
        shown.append(Rect(x, y, bounds.width * scale, bounds.height * scale))
    for rect in shown:
        assert rect.x >= safe.x - 0.01
        assert rect.y >= safe.y - 0.01
        assert rect.right <= safe.right + 0.01
        assert rect.bottom <= safe.bottom + 0.01
    assert shown[0].bottom <= shown[1].y + 0.01, "the imprint is below the mark"
    assert mark.box.width / mark.art.size.width <= density * context.mark_scale("light") * 1.0001, (
        "never larger than asked for"
    )


parts = st.lists(
    st.tuples(st.integers(0, 30), st.integers(0, 20), st.integers(1, 12), st.integers(1, 9), st.integers(0, 255)),
    max_size=4,
)


@settings(deadline=None)
@given(parts, st.tuples(*[st.integers(0, 255)] * 3), st.sampled_from([1, 2, 5, 17, 256]), st.booleans())
def test_a_flat_plate_is_the_picture_that_a_plain_encoder_gives(
    found: list[tuple[int, int, int, int, int]], ground: tuple[int, int, int], levels: int, is_grey: bool
) -> None:
    size = PixelSize(43, 31)
    ground = (ground[0],) * 3 if is_grey else ground
    expected = np.zeros((size.height, size.width, 3), np.uint8)
    expected[:] = ground
    images = []
    for x, y, width, height, seed in found:
        pixels = np.random.default_rng(seed).integers(0, levels, (height, width, 1 if is_grey else 3), np.uint8)
        pixels = np.broadcast_to(pixels, (height, width, 3)).copy()
        expected[y : y + height, x : x + width] = pixels
        images.append((pyvips.Image.new_from_array(pixels, interpretation="srgb"), x, y))
    data = flat_png(size, Colour(*ground), images)
    with Image.open(io.BytesIO(data)) as image:
        mode = image.mode
        assert (np.asarray(image.convert("RGB")) == expected).all()
    colours = len(np.unique(expected.reshape(-1, 3), axis=0))
    assert mode == ("RGB" if colours > 256 else "L" if colours > 16 and is_grey else "P")
    depth = data[24]
    assert depth == (8 if colours > 16 else 4 if colours > 4 else 2 if colours > 2 else 1)
    assert data == png(pyvips.Image.new_from_array(expected, interpretation="srgb")), "one picture, one file"


@settings(deadline=None)
@given(st.integers(1, 120), st.integers(1, 120), st.sampled_from([1, 2, 3, 4, 5, 17, 256]), st.integers(0, 99))
def test_a_plate_with_alpha_has_the_very_pixels_that_are_drawn(width: int, height: int, levels: int, seed: int) -> None:
    made = np.random.default_rng(seed)
    pixels = made.integers(0, levels, (height, width, 4), np.uint8) * (255 // max(1, levels - 1))
    pixels = np.repeat(np.repeat(pixels, 3, axis=0), 5, axis=1)
    data = png(pyvips.Image.new_from_array(pixels, interpretation="srgb"))
    with Image.open(io.BytesIO(data)) as image:
        assert (np.asarray(image.convert("RGBA")) == pixels).all()
    colours = len(np.unique(pixels.reshape(-1, 4), axis=0))
    depth, kind = data[24], data[25]
    if colours > 256:
        assert kind == 6
    elif pixels.shape[0] * pixels.shape[1] >= 10_000:
        assert (kind, depth) == (3, 8 if colours > 16 else 4 if colours > 4 else 2 if colours > 2 else 1)
    assert deflate.zlib_decompress(data[data.index(b"IDAT") + 4 : data.index(b"IEND") - 8], 10_000_000)


@settings(deadline=None)
@given(
    st.lists(st.tuples(st.integers(0, 3), st.integers(1, 60)), min_size=1, max_size=8),
    st.sampled_from([1, 85, 99, 100, 1000, 8191, 10922, 10923]),
    st.integers(0, 255),
)
def test_repeated_rows_are_read_as_they_are_by_every_decoder(
    found: list[tuple[int, int]], width: int, level: int
) -> None:
    """Runs of equal rows, up to as wide as Deflate can look back and beyond, by two decoders that share no code."""
    kinds = np.random.default_rng(level).integers(0, 256, (4, width, 3), np.uint8)
    kinds[0] = level
    pixels = np.repeat(kinds[[kind for kind, _ in found]], [count for _, count in found], axis=0)
    data = png(pyvips.Image.new_from_array(pixels, interpretation="srgb"))
    assert (np.asarray(Image.open(io.BytesIO(data)).convert("RGB")) == pixels).all()
    packed = data[data.index(b"IDAT") + 4 : data.index(b"IEND") - 8]
    rows = zlib.decompress(packed)
    assert deflate.zlib_decompress(packed, len(rows)) == rows  # which checks the checksum as well


@settings(deadline=None)
@given(st.lists(st.tuples(st.integers(1, 300), st.integers(0, 2), st.integers(0, 40)), min_size=1, max_size=6))
def test_a_plate_is_the_same_whatever_it_shares_with_others(found: list[tuple[int, int, int]]) -> None:
    """Plates of one width that show few drawings, tall ones among them, at several heights."""
    pack = Sections().packed
    for height, seed, y in found:
        pixels = np.random.default_rng(seed).integers(0, 3 + 40 * seed, (height, 120, 3), np.uint8)
        drawn = [(pyvips.Image.new_from_array(pixels, interpretation="srgb"), 9, y)]
        size = PixelSize(140, height + 60)
        assert flat_png(size, Colour(1, 2, 3), drawn, pack=pack) == flat_png(size, Colour(1, 2, 3), drawn)


def test_rows_with_the_same_checksum_are_told_apart_by_their_content() -> None:
    sections = Sections()
    rows = np.zeros((2, 2, 1000), np.uint8)
    rows[1, 1, 7] = 1
    for one in rows:
        packed = sections.packed([one, b"end"], 5)
        assert zlib.decompressobj(-zlib.MAX_WBITS).decompress(packed) == one.tobytes() + b"end"


@pytest.mark.parametrize(("width", "height"), [(1290, 2796), (2868, 1320), (640, 960)])
def test_flat_ground_takes_what_it_must(width: int, height: int) -> None:
    """Deflate copies 258 bytes at most, in two bits at least; one copy a row is from the row above."""
    mark = np.random.default_rng(1).integers(0, 256, (9, 100, 3), np.uint8)
    image = pyvips.Image.new_from_array(mark, interpretation="srgb")
    length = 1 + 3 * width
    limit = height * (2 * length / 258 + length.bit_length()) / 8
    assert len(flat_png(PixelSize(width, height), Colour(243, 235, 221), [(image, 50, 300)])) < mark.size + limit + 600


@pytest.mark.parametrize(
    ("rule", "allowed"),
    [(RESOURCE, r"[a-z][a-z0-9_]*"), (ASSET, r"[A-Z][A-Za-z0-9]*"), (FILE, r"[A-Za-z][A-Za-z0-9_-]*")],
    ids=["resource", "asset", "file"],
)
@given(wanted=st.text(min_size=1, max_size=30))
def test_every_name_is_made_safe_once_and_for_all(rule: NameRule, allowed: str, wanted: str) -> None:
    name = safe_name(wanted, rule)
    assert re.fullmatch(allowed, name)
    assert safe_name(name, rule) == name
    assert name.lower().rstrip("_") not in rule.reserved or name.lower() not in rule.reserved
    said = renamed(wanted, rule, "x.y")
    assert (said is None) == (name == wanted)
    assert said is None or (repr(name) in said and rule.who in said)


@pytest.mark.parametrize(
    ("wanted", "name"),
    [("class", "class_"), ("Fähre 7", "fahre_7"), ("7 Seas", "r7_seas"), ("ok_", "ok_"), ("Ærø-Line", "aero_line")],
)
def test_names_read_like_what_was_asked_for(wanted: str, name: str) -> None:
    assert safe_name(wanted, RESOURCE) == name


variants = st.lists(
    st.builds(
        Variant,
        st.text("abc", min_size=1, max_size=3),
        st.sampled_from([100, 125, 150, 200, 400]),
        st.sampled_from(["", "black", "white", "high"]),
    ),
    max_size=8,
)


@given(variants, st.sampled_from([100, 125, 150, 200, 250, 400]), st.sampled_from(["", "black", "white"]))
def test_the_nearest_image_is_taken(found: list[Variant], scale: int, contrast: str) -> None:
    chosen = best(found, scale, contrast)
    own = [one for one in found if one.contrast == contrast or (contrast and one.contrast == "high")]
    pool = own or [one for one in found if not one.contrast]
    assert (chosen is None) == (not pool)
    if chosen is not None:
        assert chosen in pool
        larger = [one.scale for one in pool if one.scale >= scale]
        assert chosen.scale == (min(larger) if larger else max(one.scale for one in pool))


items = st.lists(
    st.tuples(
        st.sampled_from(["Content", "Image", "None", "Compile"]),
        st.sampled_from(["Assets\\a.png", "Assets\\b.scale-200.png", "x\\c.jpg", "App.cs"]),
        st.booleans(),
    ),
    max_size=5,
)


@given(items, st.sampled_from(["\n", "\r\n"]), st.booleans(), st.sampled_from(["\t", "  ", "    "]))
def test_images_are_listed_once_and_taken_out_without_a_trace(
    found: list[tuple[str, str, bool]], newline: str, has_bom: bool, indent: str
) -> None:
    lines = ["<Project>", f"{indent}<ItemGroup>"]
    for tag, path, is_spread in found:
        lines += (
            [f'{indent * 2}<{tag} Include="{path}">', f"{indent * 3}<Copy>yes</Copy>", f"{indent * 2}</{tag}>"]
            if is_spread
            else [f'{indent * 2}<{tag} Include="{path}" />']
        )
    text = newline.join([*lines, f"{indent}</ItemGroup>", "</Project>"])
    data = (b"\xef\xbb\xbf" if has_bom else b"") + text.encode()
    added = ["win/Assets/RiveltLaunch.scale-100.png", "win/Assets/RiveltLaunch.scale-200.png"]

    def listing(data: bytes, added: list[str], removed: list[str]) -> bytes:
        return relisted(Project.of_files({"win/A.csproj": data}), "win/A.csproj", added, removed, [])

    after = listing(data, added, [])
    assert all(is_listed(Project.of_files({"win/A.csproj": after}), "win/A.csproj", path) for path in added)
    assert all(after.count(path.rpartition("/")[2].encode()) == 1 for path in added)
    assert listing(after, added, []) == after
    back = listing(after, [], added)
    if any(path.endswith((".png", ".jpg")) for _, path, _ in found):
        assert back == data
    assert (b"\r\n" in after) == (newline == "\r\n")


@pytest.mark.parametrize("bands", [3, 4])
def test_a_large_bitmap_is_decoded_once_and_drawn_as_if_it_were_each_time(
    bands: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    y, x = np.mgrid[:2048, :2560]
    pixels = np.stack([x / 10, y / 9, 128 + 120 * np.sin(x * y / 9e4), 255 * (np.hypot(x - 1280, y - 1024) < 900)], -1)
    data = pyvips.Image.new_from_array(pixels[..., :bands].astype(np.uint8), interpretation="srgb").pngsave_buffer()
    sizes = [PixelSize(400, 320), PixelSize(130, 104), PixelSize(600, 480), PixelSize(61, 49)]
    times: list[bytes] = []
    real = canvas.decoded

    def counting(data: bytes) -> pyvips.Image:
        times.append(data)
        return real(data)

    monkeypatch.setattr(canvas, "decoded", counting)

    def drawn(order: list[PixelSize]) -> dict[PixelSize, np.ndarray]:
        art = read_art(data, "tide.png")
        return {size: canvas.draw(art, size, Rect(0, 0, *size)).numpy() for size in order}

    found = drawn(sizes)
    assert len(times) == 1
    for size, other in drawn(sizes[::-1]).items():
        assert (found[size] == other).all(), "in any order, the same bytes"
        direct = canvas.resized(real(data), size).numpy().astype(float)
        difference = np.abs(direct[..., :3] * direct[..., 3:] - other[..., :3] * other[..., 3:].astype(float)) / 255
        assert difference.mean() < 0.3
        assert difference.max() < 8
