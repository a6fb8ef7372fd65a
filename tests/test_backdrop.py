"""The backdrop: what of it every screen shows, and the ground that is taken from it."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from conftest import BRIEF, Command, small_android, write_tree
from rivelt.art.border import border_colour
from rivelt.art.oklch import to_oklch
from rivelt.colour import Colour
from rivelt.layout.coverage import coverage, window_on
from rivelt.units import Size

sides = st.integers(50, 3000)


@given(sides, sides, sides, sides)
def test_a_picture_covers_a_screen_without_distortion(
    width: int, height: int, screen_width: int, screen_height: int
) -> None:
    window = window_on(Size(width, height), Size(screen_width, screen_height))
    assert window.width <= width + 1e-6
    assert window.height <= height + 1e-6
    assert window.width / window.height == pytest.approx(screen_width / screen_height)
    assert window.width == pytest.approx(width) or window.height == pytest.approx(height)  # nothing is cut without need


@given(sides, sides, st.lists(st.tuples(sides, sides), min_size=1, max_size=6), st.floats(0, 1), st.floats(0, 1))
def test_the_common_window_is_what_all_show(
    width: int, height: int, screens: list[tuple[int, int]], fx: float, fy: float
) -> None:
    found = coverage(
        Size(width, height), (fx, fy), [(str(index), Size(*screen)) for index, screen in enumerate(screens)]
    )
    windows = [window_on(Size(width, height), Size(*screen)) for screen in screens]
    assert found.common.x == pytest.approx(max(window.x for window in windows))
    assert found.common.right == pytest.approx(min(window.right for window in windows))
    x, y = fx * width, fy * height
    outside = [not (w.x <= x <= w.right and w.y <= y <= w.bottom) for w in windows]
    assert len(found.cut) == sum(outside)
    assert found.enlarged == pytest.approx(max(s[0] / w.width for s, w in zip(screens, windows, strict=True)))


def picture(noise: int = 0) -> Image.Image:
    dice = np.random.default_rng(1)
    pixels = np.full((300, 450, 3), (30, 60, 90)) + dice.integers(-noise, noise + 1, (300, 450, 3))
    pixels[220:] = (20, 110, 125)
    pixels[100:200, 150:300] = (250, 200, 80)
    return Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8))


@pytest.mark.parametrize("noise", [0, 6])
def test_the_ground_is_the_colour_most_of_the_border_has(noise: int) -> None:
    chosen = border_colour(np.asarray(picture(noise).convert("RGBA")))
    distance = to_oklch(np.array(chosen[:3]) / 255) - to_oklch(np.array([30, 60, 90]) / 255)
    assert np.abs(distance[:2]).max() < 0.01


def test_measure_and_apply_with_a_backdrop_and_no_ground(tmp_path: Path, rivelt: Command) -> None:
    buffer = io.BytesIO()
    picture().save(buffer, "PNG")
    brief = (
        BRIEF.replace('ground = "#F3EBDD"', 'backdrop = "sound.png"').replace(
            "[light]", 'targets = ["android", "ios"]\n[light]'
        )
        + "\n[layout]\nfocus = [0.95, 0.5]\n"
    )
    root = write_tree(tmp_path / "tern", small_android(brief=brief) | {"sound.png": buffer.getvalue()})
    told = rivelt("measure", "--chart", "c.png", "--json", cwd=root)
    assert told.code == 1
    (backdrop,) = told.json["backdrops"]
    assert backdrop["ground"] == "#1E3C5A"
    assert backdrop["screens"] == 64
    assert len(backdrop["cut"]) > 31  # every screen that stands upright cuts the sides, and some in landscape do
    assert {finding["code"] for finding in told.json["findings"] if finding["path"] == "sound.png"} == {
        "ART02",
        "ART06",
    }
    contrast = told.json["art"][0]["contrast"]["light"]
    yellow = Colour(250, 200, 80).contrast(Colour.parse("#1F6E7D"))
    assert contrast["median"] == pytest.approx(
        yellow, rel=0.1
    )  # it is looked at in front of the picture, not of the ground
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert "Note: Android 12 and later show no picture behind the mark" in done.out
    with Image.open(root / "app/src/main/res/drawable-sw600dp-land-xhdpi/rivelt_backdrop.jpg") as image:
        assert (image.format, image.size) == ("JPEG", (2732, 2048))
        # Enlarged by half, and no more, towards its focus at the right edge: of 450 columns the last 267 are left.
        assert image.getpixel((1150, 1024)) == pytest.approx((250, 200, 80), abs=12)
        assert image.getpixel((1250, 1024)) == pytest.approx((30, 60, 90), abs=12)
    assert "#FF1E3C5A" in (root / "app/src/main/res/values/rivelt_launch.xml").read_text()
    (root / "rivelt.toml").write_text(brief.replace("sound.png", "lost.png"))
    lost = rivelt("apply", cwd=root)
    assert (lost.code, "rivelt.toml:6:12: lost.png does not exist" in lost.err) == (2, True)
