"""Colours of the art: OKLCH against another library, contrast along the outline, the derived dark mark, every kind of bitmap."""

from __future__ import annotations

import base64
import gzip
import io
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import pyvips
from coloraide import Color
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image, ImageCms, ImageDraw

from conftest import BRIEF, MARK, Command, small_android, write_tree
from rivelt.art.contrast import baked_background, outline_contrast
from rivelt.art.derive import curve_for, recoloured, recoloured_svg
from rivelt.art.oklch import contrast, from_oklch, to_oklch
from rivelt.art.sample import recoloured_bitmap, sampled
from rivelt.art.source import read_art
from rivelt.art.strokes import thinnest_stroke
from rivelt.colour import Colour
from rivelt.picture import Art
from rivelt.pixels.canvas import decoded, with_alpha

NIGHT = Colour.parse("#13212B")
colours = arrays(np.float64, (8, 3), elements=st.floats(0, 1, width=16))


@settings(max_examples=30, deadline=None)
@given(colours)
def test_oklch_is_that_of_another_library(srgb: np.ndarray) -> None:
    for ours, colour in zip(to_oklch(srgb), srgb, strict=True):
        theirs = Color("srgb", list(colour)).convert("oklch")
        lightness, chroma = theirs["lightness"], theirs["chroma"]
        assert ours[:2] == pytest.approx((lightness, chroma), abs=1e-4)
        if chroma > 0.01:
            assert np.degrees(ours[2]) % 360 == pytest.approx(theirs["hue"] % 360, abs=0.1)
    assert from_oklch(to_oklch(srgb)) == pytest.approx(srgb, abs=2e-3)


channels = st.tuples(*[st.integers(0, 255)] * 3)


@given(channels, channels | st.integers(0, 255).map(lambda grey: (grey,) * 3))
def test_differences_and_common_notations_are_those_of_another_library(
    one: tuple[int, int, int], other: tuple[int, int, int]
) -> None:
    a, b = Colour(*one), Colour(*other)
    assert a.difference(b) == pytest.approx(Color(a.hex).delta_e(Color(b.hex), method="2000"), abs=1e-4)
    assert a.difference(a) == 0
    for space in ("hsl", "hwb", "srgb"):
        assert Colour.parse(Color(a.hex).convert(space).to_string(precision=8, color=False)) == a
    assert Colour.parse(f"rgb({','.join(map(str, one))})") == a


@pytest.mark.parametrize(
    ("text", "colour"),
    [
        ("rebeccapurple", "#663399"),
        ("transparent", "#00000000"),
        ("rgb(300 0 0)", "#FF0000"),  # beyond its range, a channel is at its end
        ("hsl(120 150% 50% / 0)", "#00FF0000"),
        ("lab(50% 0 0)", "#777777"),
    ],
)
def test_colours_are_read_as_in_css(text: str, colour: str) -> None:
    assert Colour.parse(text).hex == colour


@pytest.mark.parametrize("text", ["rgb(1,2,3", "hwb(120, 10%, 10%)", "currentcolor", "", "rgb(1 2)"])
def test_what_is_no_colour_in_css_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="is not a CSS colour"):
        Colour.parse(text)


@settings(max_examples=40, deadline=None)
@given(colours, st.tuples(st.integers(0, 255), st.integers(0, 255), st.integers(0, 255)))
def test_derived_colours_stand_out_keep_their_hue_and_their_order(
    srgb: np.ndarray, ground: tuple[int, int, int]
) -> None:
    behind = Colour(*ground)
    curve = curve_for(srgb, behind)
    moved = recoloured(srgb, curve)
    assert (contrast(moved, np.array(ground) / 255) >= 3).all()
    before, after = to_oklch(srgb), to_oklch(moved)
    order = np.argsort(before[:, 0], kind="stable")
    assert (np.diff(curve(before[order, 0])) >= 0).all()
    ramp = curve(np.linspace(0, 1, 50))
    assert (np.diff(ramp) > 0).all()  # different lightnesses stay different
    vivid = (before[:, 1] > 0.02) & (after[:, 1] > 0.02)
    turned = np.abs(np.angle(np.exp(1j * (before[vivid, 2] - after[vivid, 2]))))
    assert (turned < 0.03).all()
    if (contrast(srgb, np.array(ground) / 255) >= 3.06).all():
        assert moved == pytest.approx(srgb, abs=2e-3)  # nothing is moved without need


def test_the_curve_is_the_gentlest_that_is_enough() -> None:
    palette = np.array([[0.1, 0.2, 0.3], [0.8, 0.3, 0.2]])
    curve = curve_for(palette, NIGHT)
    assert contrast(recoloured(palette, curve), np.array(NIGHT[:3]) / 255).min() == pytest.approx(3.06, abs=0.01)


SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="60" height="40"><style>.a {{ fill: #123; stroke-width: 2 }}</style>
<linearGradient id="g"><stop offset="0"/><stop offset="1" style="stop-color: navy"/></linearGradient>
<rect class="a" width="20" height="40"/><rect x="20" width="20" height="40" fill="url(#g)"/><rect x="40" width="20" height="40" {}/></svg>"""


def test_a_vector_is_recoloured_in_every_place_where_colours_stand() -> None:
    art = read_art(SVG.format('fill="rgb(10% 20% 30% / 0.5)" stroke="none"').encode(), "mark.svg")
    derived = recoloured_svg(art, curve_for(np.zeros((1, 3)), NIGHT))
    assert derived.svg is not None
    text = derived.svg.nested()
    for gone in ("#123", "navy", "rgb(10%"):
        assert gone not in text
    for kept in ("stroke-width: 2", 'fill="url(#g)"', 'stroke="none"', "rgba("):
        assert kept in text
    assert text.count("stop-color") == 2  # the stop that named none is black no more
    before, after = sampled(art)[0], sampled(derived)[0]
    assert (before[..., 3] == after[..., 3]).all()
    assert outline_contrast(after[:, : after.shape[1] // 3], NIGHT, 1).least >= 2.9  # type: ignore[union-attr]


def test_what_names_no_colour_is_black_and_is_recoloured_too() -> None:
    art = read_art(
        b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="9" height="9"/></svg>', "m.svg"
    )
    derived = recoloured_svg(art, curve_for(np.zeros((1, 3)), NIGHT))
    assert sampled(derived)[0][200, 200, :3].min() > 100


def bitmap(image: Image.Image, form: str = "PNG", **options: object) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, form, **options)
    return buffer.getvalue()


def logo(mode: str = "RGBA", size: int = 120) -> Image.Image:
    image = Image.new("RGBA", (size, size))
    ImageDraw.Draw(image).ellipse((10, 10, size - 10, size - 30), fill=(20, 60, 90, 255))
    return image.convert(mode)


def test_a_bitmap_goes_through_the_same_curve_and_keeps_its_alpha() -> None:
    art = read_art(bitmap(logo().resize((97, 97))), "m.png")
    curve = curve_for(np.array([[20, 60, 90]]) / 255, NIGHT)
    derived = Art("d", "PNG", recoloured_bitmap(art, curve), art.size)
    before, after = decoded(art.data).numpy(), decoded(derived.data).numpy()
    assert (before[..., 3] == after[..., 3]).all()
    wanted = np.rint(recoloured(np.array([[20, 60, 90]]) / 255, curve)[0] * 255)
    assert tuple(after[40, 48, :3]) == tuple(wanted)


def test_contrast_along_the_outline_is_that_of_its_colours() -> None:
    image = Image.new("RGBA", (200, 100))
    ImageDraw.Draw(image).rectangle((20, 20, 99, 79), fill=(0, 0, 0, 255))
    ImageDraw.Draw(image).rectangle((100, 20, 179, 79), fill=(230, 230, 230, 255))
    found = outline_contrast(np.asarray(image), Colour(255, 255, 255), art_units=0.5)
    assert found is not None
    assert found.share == pytest.approx(0.5, abs=0.02)
    assert found.least == pytest.approx(Colour(230, 230, 230).contrast(Colour(255, 255, 255)), abs=0.01)
    assert found.weakest.x >= 49  # the right half, in art units
    assert outline_contrast(np.zeros((9, 9, 4), np.uint8), Colour(0, 0, 0), 1) is None


def test_a_mark_that_is_half_transparent_lets_its_ground_through() -> None:
    image = Image.new("RGBA", (60, 60), (0, 0, 0, 140))
    found = outline_contrast(np.asarray(image), Colour(255, 255, 255), 1)
    assert found is not None
    assert found.median == pytest.approx(
        Colour(0, 0, 0, 140).over(Colour(255, 255, 255)).contrast(Colour(255, 255, 255)), rel=0.02
    )


@pytest.mark.parametrize(
    ("background", "box", "is_baked"),
    [((255, 255, 255, 255), None, True), ((0, 0, 0, 0), None, False), ((200, 30, 30, 255), (0, 0, 120, 120), False)],
)
def test_a_background_baked_in_is_recognised(
    background: tuple[int, ...], box: tuple[int, ...] | None, is_baked: bool
) -> None:
    image = Image.new("RGBA", (120, 120), background)
    if box is None:
        image.alpha_composite(logo())
    assert (baked_background(np.asarray(image)) is not None) is is_baked


BLUE = (20, 60, 90)
KINDS: dict[str, tuple[str, bytes]] = {
    "palette": ("m.png", bitmap(logo("RGB").quantize(16))),
    "interlaced": ("m.png", bitmap(logo(), optimize=False)),
    "16 bit grey": ("m.png", bitmap(Image.fromarray((np.asarray(logo("L"), np.uint32) * 257).astype(np.uint16)))),
    "grey": ("m.png", bitmap(logo("L"))),
    "grey with alpha": ("m.png", bitmap(logo("LA"))),
    "one bit": ("m.png", bitmap(logo("L").point(lambda value: 255 if value > 20 else 0, "1"))),
    "tRNS": ("m.png", bitmap(logo("RGB"), transparency=(0, 0, 0))),
    "profile": (
        "m.png",
        bitmap(logo("RGB"), icc_profile=ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()),
    ),
    "broken profile": ("m.png", bitmap(logo("RGB"), icc_profile=b"nonsense" * 20)),
    "JPEG": ("m.jpg", bitmap(logo("RGB"), "JPEG", quality=95)),
    "CMYK": ("m.jpg", bitmap(logo("RGB").convert("CMYK"), "JPEG", quality=95)),
    "WebP": ("m.webp", bitmap(logo(), "WEBP", lossless=True)),
    "moving WebP": (
        "m.webp",
        bitmap(logo(), "WEBP", save_all=True, append_images=[Image.new("RGBA", (120, 120), "red")], lossless=True),
    ),
}


@pytest.mark.parametrize(("name", "data"), KINDS.values(), ids=KINDS)
def test_every_kind_of_bitmap_is_drawn_in_its_colours(name: str, data: bytes) -> None:
    art = read_art(data, name)
    assert tuple(art.size) == (120, 120)
    middle = with_alpha(decoded(art.data)).numpy()[50, 60]
    expected = np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")).astype(int)[50, 60]
    if "16 bit" in str(Image.open(io.BytesIO(data)).mode) or Image.open(io.BytesIO(data)).mode.startswith("I"):
        expected = np.asarray(logo("L").convert("RGBA")).astype(int)[50, 60]
    # Without a profile, what CMYK inks look like is anybody's choice: near is enough.
    assert np.abs(middle.astype(int) - expected).max() <= (60 if name == "m.jpg" and data == KINDS["CMYK"][1] else 3)


def test_a_photograph_held_sideways_is_turned_upright() -> None:
    image = Image.new("RGB", (60, 30), (200, 0, 0))
    exif = image.getexif()
    exif[0x0112] = 6
    art = read_art(bitmap(image, "JPEG", exif=exif), "m.jpg")
    assert tuple(art.size) == (30, 60)
    assert decoded(art.data).width == 30


def test_a_zipped_vector_is_the_same_art_and_a_bomb_is_refused() -> None:
    assert read_art(gzip.compress(MARK.encode()), "m.svgz").size == read_art(MARK.encode(), "m.svg").size
    bomb = gzip.compress(b"<svg>" + b" " * (80 << 20) + b"</svg>")
    with pytest.raises(Exception, match="more than 64 MB"):
        read_art(bomb, "m.svgz")
    with pytest.raises(Exception, match="cut short"):
        read_art(gzip.compress(MARK.encode())[:-9], "m.svgz")


def test_measure_tells_what_should_be_mended(tmp_path: Path, rivelt: Command) -> None:
    files: dict[str, str | bytes] = {
        "text.svg": MARK.replace("</svg>", '<text x="5" y="20">Tern</text></svg>'),
        "baked.png": bitmap(Image.alpha_composite(Image.new("RGBA", (120, 120), "white"), logo())),
        "moving.webp": KINDS["moving WebP"][1],
    }
    write_tree(tmp_path, files)
    done = rivelt("measure", *files, "--json")
    assert done.code == 1
    codes = {finding["path"]: finding["code"] for finding in done.json["findings"]}
    assert codes == {"text.svg": "ART01", "baked.png": "ART04", "moving.webp": "ART05"}
    assert "warning ART04: baked.png is a full rectangle" in rivelt("measure", "baked.png").out


def test_too_small_a_bitmap_is_told_and_refused(tmp_path: Path, rivelt: Command) -> None:
    brief = BRIEF.replace("mark.svg", "mark.png").replace("[light]", 'targets = ["android", "ios"]\n[light]', 1)
    root = write_tree(tmp_path / "tern", small_android(brief=brief) | {"mark.png": bitmap(logo(size=240))})
    measured = rivelt("measure", "--json", cwd=root)
    assert measured.code == 1
    sharpness = measured.json["art"][0]["sharpness"]
    assert [path.split("/")[1] for path in sharpness["sharp"]] == ["drawable-mdpi", "RiveltMark.imageset"]
    assert sharpness["largest"] == pytest.approx(
        4 * sharpness["enlarged"]["android/drawable-hdpi/rivelt_mark.png"] / 1.5, rel=0.01
    )
    told = rivelt("measure", cwd=root).out
    assert "android: drawable-mdpi/rivelt_mark.png, ios: RiveltMark.imageset/RiveltMark@1x.png" in told
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert "rivelt.toml:7:8: mark.png has too few pixels: it is enlarged" in refused.err
    wanted = sharpness["wanted"]
    assert f"Ask for {wanted['width']} x {wanted['height']} pixels" in refused.err
    (root / "rivelt.toml").write_text(brief + "\n[layout]\nenlarge = true\n")
    assert rivelt("apply", cwd=root).code == 0


def test_a_dark_mark_can_be_derived(tmp_path: Path, rivelt: Command) -> None:
    brief = BRIEF.replace("#F3EBDD", "white") + '[dark]\nground = "black"\n'
    root = write_tree(tmp_path / "tern", small_android(brief=brief, mark=MARK.replace("#1F6E7D", "#102030")))
    told = rivelt("measure", cwd=root)
    assert told.code == 1
    assert "is hard to see on #000000 (dark): 0% of its outline reaches 3:1" in told.out
    assert 'mark = "derive"' in told.out
    (root / "rivelt.toml").write_text(brief + 'mark = "derive"\n')
    mended = rivelt("measure", "--json", cwd=root)
    assert mended.code == 0, mended.out
    assert mended.json["art"][1]["contrast"]["dark"]["share"] == 1
    assert rivelt("apply", cwd=root).code == 0
    res = root / "app/src/main/res"
    light, dark = (
        np.asarray(Image.open(res / f"drawable-{night}xhdpi/rivelt_mark.png").convert("RGBA"))
        for night in ("", "night-")
    )
    assert (light[..., 3] == dark[..., 3]).all()
    assert dark[288, 288, :3].min() > light[288, 288, :3].max()


@pytest.mark.parametrize(("centre", "point"), [("circle", None), ("box", (50, 40)), ("mass", (36.5, 40))])
def test_what_is_centred_can_be_chosen(
    tmp_path: Path, rivelt: Command, centre: str, point: tuple[float, float] | None
) -> None:
    lopsided = '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="80"><path d="M10 10H60V70H10z"/><path d="M60 38H90V42H60z"/></svg>'
    brief = BRIEF + f'\n[layout]\ncentre = "{centre}"\n'
    root = write_tree(tmp_path / "tern", small_android(brief=brief, mark=lopsided))
    assert rivelt("apply", cwd=root).code == 0
    alpha = np.asarray(Image.open(root / "app/src/main/res/drawable-xxxhdpi/rivelt_mark.png").convert("RGBA"))[..., 3]
    ys, xs = np.nonzero(alpha > 127)
    assert np.hypot(xs + 0.5 - 576, ys + 0.5 - 576).max() <= 384 * 0.88 + 1.5
    if point is not None:
        scale = (xs.max() + 1 - xs.min()) / 80
        assert xs.min() + (point[0] - 10) * scale == pytest.approx(576, abs=4 if centre == "mass" else 1.5)


def test_margins_are_left_out_unless_they_are_asked_for(tmp_path: Path, rivelt: Command) -> None:
    small = MARK.replace('width="100" height="80">', 'width="300" height="300">', 1)
    sides = {}
    for trim in ("true", "false"):
        root = write_tree(tmp_path / trim, small_android(brief=BRIEF + f"\n[layout]\ntrim = {trim}\n", mark=small))
        assert rivelt("apply", cwd=root).code == 0
        alpha = np.asarray(Image.open(root / "app/src/main/res/drawable-mdpi/rivelt_mark.png").convert("RGBA"))[..., 3]
        sides[trim] = int((alpha > 127).any(axis=0).sum())
    assert sides["true"] == pytest.approx(2 * 50 * 84.48 / (np.hypot(46, 36) + 4), abs=2)  # its corners are rounded
    assert sides["false"] == pytest.approx(100 * 168.96 / (300 * 2**0.5), abs=2)


def test_a_finished_imprint_keeps_its_margins(tmp_path: Path, rivelt: Command) -> None:
    """One of exactly 5:2, as the system shows it, is neither trimmed nor enlarged; another shape is."""
    foot = '<svg xmlns="http://www.w3.org/2000/svg" width="{}" height="320"><rect x="300" y="120" width="200" height="80" fill="#1F6E7D"/></svg>'
    for width, trim, share in ((800, "true", 0.25), (801, "true", 1.0), (801, '["mark"]', 0.25)):
        files = small_android(
            brief=BRIEF.replace('"mark.svg"\n', '"mark.svg"\nimprint = "foot.svg"\n', 1)
            + f"\n[layout]\ntrim = {trim}\n"
        )
        root = write_tree(tmp_path / f"{width}{trim[0]}", {**files, "foot.svg": foot.format(width)})
        assert rivelt("apply", cwd=root).code == 0
        path = root / "app/src/main/res/drawable-xxxhdpi/rivelt_imprint.png"
        alpha = np.asarray(Image.open(path).convert("RGBA"))[..., 3]
        assert int((alpha > 127).any(axis=0).sum()) == pytest.approx(share * 800, abs=2)
        assert "ART02" not in rivelt("check", cwd=root).out


def test_the_chart_shows_each_piece_of_art_on_its_grounds_and_is_always_the_same(sample: Path, rivelt: Command) -> None:
    told = rivelt("measure", "--chart", "a.png", cwd=sample)
    assert told.code == 0, told.err
    assert "The chart: a.png" in told.out
    rivelt("measure", "--chart", "b.png", cwd=sample)
    assert (sample / "a.png").read_bytes() == (sample / "b.png").read_bytes()
    with Image.open(sample / "a.png") as chart:
        panels = [chart.getpixel((int(0.5 * (64 + index * (346 + 29.333))) + 2, 150 // 2 + 2)) for index in range(4)]
    assert panels == [(0xF3, 0xEB, 0xDD), (0xF3, 0xEB, 0xDD), NIGHT[:3], NIGHT[:3]]
    assert rivelt("measure", "art/mark.svg", "--chart", "c.png", cwd=sample).code == 0
    assert rivelt("measure", "--chart", "c.gif", cwd=sample).code == 2


@pytest.mark.parametrize("harness", ["mutate_art.py", "mutate_projects.py"])
@pytest.mark.slow
def test_a_short_run_of_spoilt_files_gives_clear_errors_only(harness: str) -> None:
    import subprocess
    import sys

    script = Path(__file__).parent.parent / "fuzz" / harness
    done = subprocess.run([sys.executable, str(script), "50", "90000"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout


@settings(max_examples=30, deadline=None)
@given(
    arrays(
        np.uint8,
        st.tuples(st.integers(1, 9), st.integers(1, 9), st.just(4)),
        elements=st.sampled_from([0, 7, 128, 255]),
    )
)
def test_plates_hold_exactly_the_pixels_they_were_made_of(pixels: np.ndarray) -> None:
    import pyvips

    from rivelt.pixels.encode import png

    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels), interpretation="srgb")
    assert (np.asarray(Image.open(io.BytesIO(png(image))).convert("RGBA")) == pixels).all()


def test_art_of_one_ink_is_stored_as_its_alpha(applied: Path) -> None:
    res = applied / "android/app/src/main/res/drawable-xxhdpi"
    with Image.open(res / "rivelt_imprint.png") as imprint, Image.open(res / "rivelt_mark.png") as mark:
        assert (imprint.mode, mark.mode) == ("P", "RGBA")
        assert imprint.convert("RGBA").getchannel("A").getextrema() == (0, 255)


def test_bitmaps_are_reduced_as_exactly_as_in_float64() -> None:
    """Against a Lanczos-3 reduction in linear light with premultiplied alpha, worked out in float64 (on whole multiples)."""
    from rivelt.art.oklch import encoded, linear
    from rivelt.pixels.render import render
    from rivelt.plan.model import Placement, Recipe
    from rivelt.units import PixelSize, Rect

    y, x = np.mgrid[0:240, 0:240]
    alpha = np.clip(110 - np.hypot(x - 119.5, y - 119.5), 0, 1)
    source = np.dstack([x, y, 255 - x, alpha * 255]).round().astype(np.uint8)
    art = read_art(bitmap(Image.fromarray(source)), "m.png")
    ours = np.asarray(
        Image.open(io.BytesIO(render(Recipe(PixelSize(60, 60), (Placement(art, Rect(0, 0, 60, 60)),))))).convert("RGBA")
    )
    premultiplied = np.dstack([linear(source[..., :3] / 255) * source[..., 3:] / 255, source[..., 3] / 255])
    reduced = lanczos(lanczos(premultiplied, 60).swapaxes(0, 1), 60).swapaxes(0, 1)
    coverage = np.clip(reduced[..., 3:], 0, 1)
    colour = encoded(np.where(coverage > 1e-4, np.clip(reduced[..., :3], 0, 1) / np.maximum(coverage, 1e-4), 0))
    expected = np.dstack([colour, coverage]) * 255
    visible = expected[..., 3] > 8
    assert np.abs(ours[visible].astype(float) - expected[visible]).mean() < 0.5
    assert np.abs(ours[..., 3] - expected[..., 3]).mean() < 0.5


def lanczos(rows: np.ndarray, size: int) -> np.ndarray:
    """Reduce the first axis to `size` with a normalised Lanczos-3 kernel, edges repeated."""
    factor = rows.shape[0] / size
    result = np.empty((size, *rows.shape[1:]))
    for index in range(size):
        centre = (index + 0.5) * factor - 0.5
        taps = np.arange(int(np.ceil(centre - 3 * factor)), int(np.floor(centre + 3 * factor)) + 1)
        at = (taps - centre) / factor
        weights = np.sinc(at) * np.sinc(at / 3)
        result[index] = np.tensordot(weights / weights.sum(), rows[np.clip(taps, 0, rows.shape[0] - 1)], 1)
    return result


def test_a_ground_is_exact_in_every_pixel_of_it() -> None:
    from rivelt.pixels.render import render
    from rivelt.plan.model import Placement, Recipe
    from rivelt.units import PixelSize, Rect

    art = read_art(MARK.encode(), "m.svg")
    for data in (art, read_art(bitmap(logo()), "m.png")):
        plate = render(
            Recipe(
                PixelSize(90, 80), (Placement(data, Rect(30, 30, 40, 40 * data.size.height / data.size.width)),), NIGHT
            )
        )
        image = Image.open(io.BytesIO(plate))
        assert not image.has_transparency_data
        pixels = np.asarray(image.convert("RGB"))
        assert (pixels[:28] == NIGHT[:3]).all()
        assert (pixels[:, 74:] == NIGHT[:3]).all()


@pytest.mark.parametrize("is_opaque", [True, False])
def test_a_photograph_in_a_drawing_is_stored_as_one(is_opaque: bool) -> None:
    from rivelt.pixels.encode import png
    from rivelt.pixels.render import render, unencoded
    from rivelt.plan.model import Placement, Recipe
    from rivelt.units import PixelSize, Rect

    y, x = np.mgrid[:300, :300] / 300
    waves = np.stack([128 + 90 * np.sin(9 * x + k) * np.cos(7 * y - k) for k in range(3)], axis=-1).astype(np.uint8)
    held = base64.b64encode(bitmap(Image.fromarray(waves))).decode()
    drawing = f'<svg xmlns="http://www.w3.org/2000/svg" width="300" height="300"><image width="300" height="300" href="data:image/png;base64,{held}"/></svg>'
    placed = (Placement(read_art(drawing.encode(), "m.svg"), Rect(10, 10, 300, 300)),)
    recipe = Recipe(PixelSize(320, 320), placed, NIGHT if is_opaque else None)
    data, image = render(recipe), unencoded(recipe)
    assert len(data) < 0.8 * len(png(image))
    mode = "RGB" if is_opaque else "RGBA"
    assert (np.asarray(Image.open(io.BytesIO(data)).convert(mode)) == image.numpy()).all()


def test_small_files_hold_the_same_pixels_in_fewer_bytes(tmp_path: Path, rivelt: Command) -> None:
    brief = BRIEF.replace('name = "Tern"', 'name = "Tern"\nsmall_files = true')
    root = write_tree(tmp_path / "tern", small_android())
    assert rivelt("apply", cwd=root).code == 0
    plate = root / "app/src/main/res/drawable-xxxhdpi/rivelt_mark.png"
    usual = plate.read_bytes()
    (root / "rivelt.toml").write_text(brief)
    assert rivelt("apply", cwd=root).code == 0
    assert len(plate.read_bytes()) < len(usual)
    assert (
        np.asarray(Image.open(plate).convert("RGBA")) == np.asarray(Image.open(io.BytesIO(usual)).convert("RGBA"))
    ).all()
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")


# Reduced to 256 colours, the narrow noise differs by 1.05 in the mean, the patches by 3.4 and less than 13 in nearly all pixels.
@pytest.mark.parametrize("kind", ["noise", "narrow noise", "patches", "spots", "gradient", "flat", "fine noise"])
def test_a_picture_is_only_reduced_as_far_as_nobody_sees_it(kind: str) -> None:
    import pyvips

    from rivelt.pixels.encode import photograph_png, png, smaller_png

    ramp = np.mgrid[0:150, 0:200]
    random = np.random.default_rng(7)
    spots = 128 + random.integers(-2, 3, (150, 200, 3)) + np.where(random.random((150, 200, 1)) < 0.003, (90, 0, 0), 0)
    pixels = {
        "noise": random.integers(0, 256, (150, 200, 3)),
        "narrow noise": 128 + random.integers(-8, 9, (150, 200, 3)),
        "patches": np.kron(random.integers(40, 200, (15, 20, 3)), np.ones((10, 10, 1)))
        + random.integers(-3, 4, (150, 200, 3)),
        "spots": spots,
        "fine noise": 128 + random.integers(-3, 4, (150, 200, 3)),
        "gradient": np.stack([ramp[0] * 1.6, ramp[1] * 1.2, 255 - (ramp[0] + ramp[1]) * 0.7], axis=-1),
        "flat": np.full((150, 200, 3), (243, 235, 221)),
    }[kind].astype(np.uint8)
    image = pyvips.Image.new_from_array(pixels, interpretation="srgb")
    reduced = smaller_png(image, png(image), 1)
    with Image.open(io.BytesIO(reduced)) as found:
        difference = np.abs(np.asarray(found.convert("RGB")).astype(int) - pixels).max(axis=-1)
    assert {found[0] for found in chunks_of(reduced)} <= {b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND"}
    is_lighter = len(reduced) < min(len(png(image, is_small=True)), len(photograph_png(image))) - 1000
    assert is_lighter == (kind == "fine noise")  # of 256 colours and fewer, nothing is lost anyway
    # In the mean by less than the smallest step between two colours that an eye tells apart, and nowhere by much.
    assert difference.mean() <= 0.7
    assert np.percentile(difference, 99.9) <= 12


def chunks_of(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    """The chunks of a PNG: their type and what they hold."""
    position = 8
    while position < len(data):
        end = position + 12 + int.from_bytes(data[position : position + 4])
        yield data[position + 4 : position + 8], data[position + 8 : end - 4]
        position = end


def huge_png() -> bytes:
    """A header that promises more pixels than anyone has memory for."""
    import struct
    import zlib

    header = b"IHDR" + struct.pack(">IIBBBBB", 20_000, 20_000, 8, 6, 0, 0, 0)
    empty = zlib.compress(b"")
    chunks = [header, b"IDAT" + empty, b"IEND"]
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(chunk) - 4) + chunk + struct.pack(">I", zlib.crc32(chunk)) for chunk in chunks
    )


def test_twenty_bad_files_at_once_each_get_their_message(tmp_path: Path, rivelt: Command) -> None:
    from test_art import BAD_ART, png

    more = {
        "nothing visible": ("x.png", png((9, 9, 9, 0)), "shows nothing"),
        "nothing drawn": ("x.svg", b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>', "shows nothing"),
        "too many pixels": ("x.png", huge_png(), "20000 x 20000 pixels, more than 100 million"),
        "no size that a drawing has": ("x.svg", b'<svg width="1e300" height="9"/>', "a size that no drawing has"),
        "cut JPEG": ("x.jpg", bitmap(logo("RGB"), "JPEG")[:40], "broken"),
        "cut WebP": ("x.webp", bitmap(logo(), "WEBP")[:30], "broken"),
        "zipped nonsense": ("x.svgz", gzip.compress(b"nonsense"), "is not a SVG file"),
    }
    files = {
        f"{index:02d}-{name}": (data, message)
        for index, (name, data, message) in enumerate({**BAD_ART, **more}.values())
    }
    assert len(files) >= 20
    write_tree(tmp_path, {name: data for name, (data, _) in files.items()})
    done = rivelt("measure", *files)
    assert (done.code, done.out) == (2, "")
    for name, (_, message) in files.items():
        line = next((line for line in done.err.splitlines() if line.startswith("error:") and name in line), "")
        assert message in line, (name, message, line)


def test_colours_of_a_wide_profile_are_brought_to_srgb() -> None:
    import pyvips

    colour = [200, 60, 90]
    image = (pyvips.Image.black(32, 32, bands=3) + colour).cast("uchar").copy(interpretation="srgb")
    wide = bytes(image.icc_transform("p3", input_profile="srgb", intent="relative").pngsave_buffer(profile="p3"))
    stored = np.asarray(Image.open(io.BytesIO(wide)))[16, 16]
    assert np.abs(stored.astype(int) - colour).max() > 8  # the file's own numbers are others
    assert np.abs(decoded(wide).numpy()[16, 16, :3].astype(int) - colour).max() <= 2


def test_plates_that_are_there_are_not_rendered_again(applied: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from rivelt import opening
    from rivelt.pixels import render

    def never(*_: object, **__: object) -> bytes:
        raise AssertionError("rendered again")

    monkeypatch.setattr(render, "render", never)
    assert opening.open_brief(applied).changes().files == ()


def test_a_bitmap_inside_a_derived_vector_is_told(tmp_path: Path, rivelt: Command) -> None:
    import base64

    inner = base64.b64encode(bitmap(logo())).decode()
    mark = MARK.replace("#1F6E7D", "#102030").replace(
        "</svg>", f'<image width="20" height="20" href="data:image/png;base64,{inner}"/></svg>'
    )
    brief = BRIEF.replace("#F3EBDD", "white") + '[dark]\nground = "black"\nmark = "derive"\n'
    root = write_tree(tmp_path / "tern", small_android(brief=brief, mark=mark))
    done = rivelt("measure", cwd=root)
    assert done.code == 1
    assert "ART07" in done.out


@pytest.mark.parametrize(
    ("targets", "codes", "width"),
    [(["windows"], [], 250), (["ios"], [], 250), (["android", "windows"], ["ART08"], 136)],
)
def test_only_the_masks_of_the_briefs_own_targets_count(
    tmp_path: Path, rivelt: Command, targets: list[str], codes: list[str], width: int
) -> None:
    text = BRIEF.replace("[app]", f"[app]\ntargets = {targets}") + "[layout]\nmark_size = 250\n"
    root = write_tree(tmp_path / "tern", small_android(brief=text))
    told = rivelt("measure", "--json", cwd=root).json["findings"]
    assert [one["code"] for one in told if one["look"] in {"", "light"}] == codes
    made = rivelt("plates", "--only", targets[0], "--out", "made", "--json", cwd=root)
    smallest = next(
        path
        for path in sorted(one["path"] for one in made.json["plates"])
        if "1x" in path or "100.p" in path or "-mdpi" in path
    )
    with Image.open(root / "made" / smallest) as plate:
        rgb = np.asarray(plate.convert("RGBA")).astype(int)
    drawn = np.abs(rgb - rgb[0, 0]).max(axis=-1) > 60
    assert np.ptp(np.nonzero(drawn)[1]) + 1 == pytest.approx(width, abs=2)


def test_the_package_offers_the_use_cases(sample: Path) -> None:
    import rivelt as package

    changes = package.open(sample).changes()
    package.apply(changes)
    assert len(package.undo(sample)) == len(changes.files)
    assert all(callable(getattr(package, name)) for name in package.__all__)


def test_a_platform_may_have_a_size_of_its_own(sample: Path, rivelt: Command) -> None:
    """One size everywhere, unless a platform's own table gives another; a mask that is not there makes nothing smaller."""
    brief = sample / "rivelt.toml"
    text = brief.read_text()
    storyboard = sample / "ios/Skerryline/RiveltLaunch.storyboard"
    assert rivelt("apply", cwd=sample).code == 0
    one_size = storyboard.read_bytes()
    mark = (sample / "android/app/src/main/res/drawable-mdpi/rivelt_mark.png").read_bytes()
    brief.write_text(
        text.replace("[ios]", "[ios]\nmark_size = 280") if "[ios]" in text else f"{text}\n[ios]\nmark_size = 280\n"
    )
    assert rivelt("apply", cwd=sample).code == 0
    assert (sample / "android/app/src/main/res/drawable-mdpi/rivelt_mark.png").read_bytes() == mark
    assert 'constant="280"' in storyboard.read_text()
    assert storyboard.read_bytes() != one_size
    told = rivelt("check", "--select", "ART08", "--json", cwd=sample).json["findings"]
    assert {one["verdict"] for one in told} == {"holds"}
    brief.write_text(text.replace('mark_size = "fit"', "mark_size = 280"))
    told = rivelt("check", "--select", "ART08", "--json", cwd=sample).json["findings"]
    said = [one["message"] for one in told if one["verdict"] == "broken"]
    assert said
    assert all(message.endswith("on android") for message in said)


@pytest.mark.parametrize(
    ("body", "width"),
    [
        ('<path d="M10,10.5H400" stroke="#000" stroke-width="3"/>', 3),
        ('<path d="M10,10L400,170" stroke="#000" stroke-width="6"/>', 6),
        ('<path d="M10,10L400,400" stroke="#000" stroke-width="5"/>', 5),
        ('<circle cx="200" cy="200" r="150" fill="none" stroke="#000" stroke-width="8"/>', 8),
        ('<circle cx="200" cy="200" r="150"/><path d="M10,500H400" stroke="#000" stroke-width="2"/>', 2),
        ('<rect x="50" y="50" width="300" height="300"/>', None),
        ('<path d="M256,20L300,200L490,256L300,300L256,490L210,300L20,256L210,200Z"/>', None),
        ("", None),
    ],
)
def test_the_thinnest_stroke(body: str, width: int | None) -> None:
    """Lines at every angle, to a pixel; corners, tips and solid shapes have none."""
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="512" height="512">{body}</svg>'
    found = thinnest_stroke(pyvips.Image.svgload_buffer(svg.encode()).numpy())
    assert found is None if width is None else found == pytest.approx(width, abs=1)
