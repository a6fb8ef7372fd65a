"""The sheet: packed, each row named, and screens that look the same drawn once."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from conftest import Command, small_android, write_tree
from rivelt import opening
from rivelt.proof.sheet import _laid_out, _pairs, draw_sheet
from rivelt.proof.shelves import Box, shelved

WIDTH, GAP, HEADING = 1152.0, 26.0, 26.0
BOXES = st.lists(
    st.builds(Box, st.sampled_from("abc"), st.floats(20, 700), st.floats(60, 400)), min_size=1, max_size=40
).map(lambda boxes: sorted(boxes, key=lambda box: box.group))


@given(BOXES)
def test_boxes_never_touch_and_stay_on_the_sheet_and_each_shelf_names_its_groups(boxes: list[Box]) -> None:
    spots, height = shelved(boxes, WIDTH, GAP, HEADING)
    assert sorted(spot.index for spot in spots) == list(range(len(boxes)))
    areas = [(spot, boxes[spot.index]) for spot in spots]
    for spot, box in areas:
        assert spot.x >= 0
        assert spot.x + box.width <= WIDTH + 1e-6
        assert spot.y >= HEADING
        assert spot.y + box.height <= height + 1e-6
        beside = [
            (one, other)
            for one, other in areas
            if one.index != spot.index
            and one.x < spot.x + box.width
            and spot.x < one.x + other.width
            and one.y < spot.y + box.height
            and spot.y < one.y + other.height
        ]
        assert not beside
        named = [one for one, other in areas if one.room and other.group == box.group and one.y <= spot.y + 1e-6]
        assert named  # the name of its group stands above it, on its shelf
    for spot, _ in areas:
        if spot.room:
            others = [one.x for one, _ in areas if one.room and one.y == spot.y and one.x > spot.x]
            assert spot.x + spot.room <= min(others, default=WIDTH)


def test_no_large_part_of_the_demos_sheet_is_empty(applied: Path) -> None:
    proof = opening.open(applied).prove()
    pairs, bottom = _laid_out(_pairs(proof, proof.pictures))
    image = Image.open(io.BytesIO(draw_sheet(proof))).convert("RGB")
    pixels = np.asarray(image)
    scale = image.width / 1280
    used = (pixels != pixels[0, 0]).any(axis=-1)
    side = int(150 * scale)
    blocks = [
        used[top : top + side, left : left + side].any()
        for top in range(int(90 * scale), int(bottom * scale) - side, side)
        for left in range(int(64 * scale), image.width - int(64 * scale) - side + 1, side)
    ]
    assert np.mean(blocks) > 0.85
    assert bottom < 2100
    assert {pair.heading.partition("  ·  ")[0] for pair in pairs if pair.heading} == {
        "Android",
        "iOS and iPadOS",
        "Windows",
        "Web",
        "Uploads",
    }
    uploads = [pair for pair in pairs if not pair.scenes[0].screen.is_device]
    assert max(pair.height for pair in uploads) <= 210


def test_screens_that_look_the_same_are_drawn_once_with_their_number(applied: Path) -> None:
    proof = opening.open(applied).prove()
    pairs = _pairs(proof, proof.pictures)
    (windows,) = [pair for pair in pairs if pair.scenes[0].screen.target == "windows"]
    assert [screen.system for screen in windows.alike] == ["Windows, 200 %", "Windows, 400 %"]
    assert sum(1 + len(pair.alike) for pair in pairs) == len({(site, scene.screen) for site, scene in proof.scenes})
    assert all(not pair.alike for pair in _pairs(proof, None))
    every = opening.open(applied).prove(all_screens=True, screens=["Windows"])
    assert every.is_all


@pytest.mark.parametrize(("night", "count"), [("#FFFFFF", 1), ("#204060", 2)])
def test_screens_that_differ_in_one_look_are_not_the_same(
    tmp_path: Path, rivelt: Command, night: str, count: int
) -> None:
    style = '<resources><style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">{}</item></style></resources>'
    files = small_android(styles=style.format("#FFFFFF"))
    del files["rivelt.toml"]
    files["app/src/main/res/values-night-v24/styles.xml"] = style.format(night)
    root = write_tree(tmp_path / "app", files)
    proof = opening.open(root).prove(screens=["API 23", "API 28"])
    assert len(_pairs(proof, proof.pictures)) == count
    assert rivelt("proof", "--screens", "API 23", "--screens", "API 28", cwd=root).code == 0
