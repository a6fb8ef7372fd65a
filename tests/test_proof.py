"""The proof is evidence: scenes come from the native files, and a wrong project looks wrong."""

from __future__ import annotations

import io
import re
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import BRIEF, MANIFEST, Command, read_tree, small_android, write_tree
from rivelt import opening
from rivelt.colour import Colour
from rivelt.picture import ImageFile
from rivelt.platforms import platform
from rivelt.project.project import Project
from rivelt.scene.draw import draw_scene
from rivelt.scene.model import Layer, Picture, Scene, Screen, TextBox
from rivelt.units import Look, Rect
from rivelt.values import replace

SAND, NIGHT = Colour.parse("#F3EBDD"), Colour.parse("#13212B")


def scenes(root: Path, *, now: bool = True) -> dict[tuple[str, Look], Scene]:
    return {
        (scene.screen.system.split(" (")[0], scene.look): scene for _, scene in opening.open(root).prove(now=now).scenes
    }


def pixels(scene: Scene, scale: float = 1.0) -> np.ndarray:
    return np.asarray(draw_scene(scene, scale))


def painted(scene: Scene) -> tuple[int, int, int, int]:
    """The box, in dp or pt, of all pixels that differ from the ground: left, top, right, bottom."""
    ground = scene.ground
    assert ground is not None
    drawn = pixels(scene)
    different = (np.abs(drawn[..., :3].astype(int) - ground[:3]).max(axis=2) > 24) & (drawn[..., 3] == 255)
    ys, xs = np.nonzero(different)
    return int(xs.min()), int(ys.min()), int(xs.max()) + 1, int(ys.max()) + 1


@pytest.fixture(scope="module")
def real(applied: Path) -> Mapping[tuple[str, Look], Scene]:
    return scenes(applied)


@pytest.mark.parametrize("system", ["Android 11", "Android 14", "iOS, iPhone 15", 'iPadOS, iPad 10.9"'])
@pytest.mark.parametrize(("look", "ground"), [("light", SAND), ("dark", NIGHT)])
def test_after_apply_every_screen_shows_ground_mark_and_imprint(
    real: Mapping[tuple[str, Look], Scene], system: str, look: Look, ground: Colour
) -> None:
    scene = real[system, look]
    assert not scene.unknowns
    assert scene.ground == ground
    mark, imprint = (layer for layer in scene.layers if isinstance(layer, Picture))
    screen = scene.screen
    assert mark.rect.centre == pytest.approx(screen.frame.centre, abs=0.01)
    assert imprint.rect.centre.x == pytest.approx(screen.width / 2, abs=0.01)
    assert imprint.rect.bottom <= screen.height - screen.bottom
    left, _, right, bottom = painted(scene)
    assert (left + right) / 2 == pytest.approx(screen.width / 2, abs=1.5)
    assert right - left == pytest.approx(200, abs=2)  # the imprint, at its full width
    assert bottom <= screen.height - screen.bottom
    corner = pixels(scene)[int(screen.height) // 5, int(screen.width) // 2]
    assert tuple(corner[:3]) == ground[:3]


def test_a_finding_is_marked_on_the_screens_that_it_is_about_alone(
    applied: Path, tmp_path: Path, rivelt: Command
) -> None:
    """The mark and the imprint run into each other on the low screens."""
    root = write_tree(tmp_path / "app", read_tree(applied))
    storyboard = root / "ios/Skerryline/RiveltLaunch.storyboard"
    text = re.sub(r'<constraint firstItem="rvl-im-0001" firstAttribute="top".*?/>', "", storyboard.read_text())
    for name, size in (("w", 330), ("h", 265)):
        text = re.sub(rf'constant="\d+" id="rvl-mk-{name}001"', f'constant="{size}" id="rvl-mk-{name}001"', text)
    storyboard.write_text(text)
    made = rivelt(
        "proof", "--now", "--only", "ios", "--screens", "iPhone 15", "--out", tmp_path / "p.png", "--json", cwd=root
    )
    marked = {
        scene["screen"]: any("SCN05" in mark["codes"] for mark in scene["marks"]) for scene in made.json["scenes"]
    }
    assert marked == {"iPhone 393 x 852": False, "iPhone 393 x 852, landscape": True}


def bytes_of(layer: Layer) -> object:
    """A layer, its image as the bytes that are drawn."""
    return replace(layer, image=ImageFile(layer.image.data)) if isinstance(layer, Picture) else layer


def test_the_proof_before_apply_is_that_after_apply(sample: Path, real: Mapping[tuple[str, Look], Scene]) -> None:
    planned = scenes(sample, now=False)
    assert planned.keys() == real.keys()
    for key, scene in planned.items():
        assert [bytes_of(layer) for layer in scene.layers] == [bytes_of(layer) for layer in real[key].layers]


def test_the_proof_of_today_shows_the_old_launch_screens(sample: Path) -> None:
    today = scenes(sample)
    assert today["Android 11", "light"].ground == Colour.parse("#FFFFFF")
    assert today["Android 11", "dark"].ground == Colour.parse("#0E161C")
    (icon_layer,) = [layer for layer in today["Android 14", "light"].layers if isinstance(layer, Picture)]
    assert icon_layer.source.endswith("mipmap-xxhdpi/ic_launcher.png")
    assert icon_layer.rect == Rect(126, 377.5, 160, 160)
    label = next(layer for layer in today["iOS, iPhone 15", "dark"].layers if isinstance(layer, TextBox))
    assert (label.text, label.font_size) == ("Skerryline", 36)
    assert label.rect.centre == pytest.approx((196.5, 426), abs=0.5)


def icon(size: int, box: tuple[int, int, int, int]) -> bytes:
    image = Image.new("RGBA", (size, size))
    image.paste((200, 0, 0, 255), box)
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    return buffer.getvalue()


LAUNCH = '<style name="Tern" parent="@android:style/Theme"><item name="android:windowSplashScreen{}">{}</item></style>'


def v31(icon_reference: str, ground: str = "#FFFFFF") -> str:
    items = f'<item name="android:windowSplashScreenBackground">{ground}</item><item name="android:windowSplashScreenAnimatedIcon">{icon_reference}</item>'
    return f'<resources><style name="Tern" parent="@android:style/Theme">{items}</style></resources>'


def android_scene(files: dict[str, str | bytes], look: Look = "light", version: int = 34) -> Scene:
    snapshot = Project.of_files(
        {path: content.encode() if isinstance(content, str) else content for path, content in files.items()}
    )
    android = platform("android")
    (site,) = android.survey(snapshot)
    screen = Screen("android", "phone", f"API {version}", 412, 915, 3, version, 24, 24)
    return android.scene(snapshot, site, screen, look)


RES = "app/src/main/res"


def test_an_icon_that_fills_its_square_is_cut_by_the_circle() -> None:
    full = small_android() | {
        f"{RES}/values-v31/s.xml": v31("@drawable/logo"),
        f"{RES}/drawable-xxhdpi/logo.png": icon(864, (0, 0, 864, 864)),
    }
    scene = android_scene(full)
    left, top, right, bottom = painted(scene)
    assert (right - left, bottom - top) == pytest.approx((192, 192), abs=1)
    drawn = pixels(scene)
    assert tuple(drawn[457 - 90, 206 - 90, :3]) == (255, 255, 255)  # inside the square, outside the circle
    assert tuple(drawn[457, 206 - 90, :3]) == (200, 0, 0)


def test_night_values_shadow_those_of_api_31() -> None:
    night = '<resources><style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">#101010</item></style></resources>'
    files = small_android() | {
        f"{RES}/values-v31/s.xml": v31("@drawable/logo", "#00FF00"),
        f"{RES}/values-night/s.xml": night,
        f"{RES}/drawable-xxhdpi/logo.png": icon(864, (300, 300, 500, 500)),
    }
    assert android_scene(files).ground == Colour.parse("#00FF00")
    assert android_scene(files, "dark").ground == Colour.parse("#101010")
    assert not [layer for layer in android_scene(files, "dark").layers if isinstance(layer, Picture)]


def test_a_filling_bitmap_is_stretched_over_the_window() -> None:
    styles = '<resources><style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">@drawable/window</item></style></resources>'
    window = (
        '<layer-list xmlns:android="http://schemas.android.com/apk/res/android"><item android:drawable="#FFFFFFFF"/>'
        '<item><bitmap android:gravity="fill" android:src="@drawable/logo"/></item></layer-list>'
    )
    files = small_android(styles=styles) | {
        f"{RES}/drawable/window.xml": window,
        f"{RES}/drawable-xxhdpi/logo.png": icon(300, (0, 0, 300, 300)),
    }
    picture = next(layer for layer in android_scene(files, version=28).layers if isinstance(layer, Picture))
    assert picture.rect == Rect(0, 0, 412, 915)


@pytest.mark.parametrize(
    ("theme", "reason"),
    [
        ('android:theme="@style/Lost"', "Lost, which may set it, is not in the project"),
        ("", "the system's default theme"),
    ],
)
def test_what_cannot_be_known_is_said_and_not_guessed(theme: str, reason: str) -> None:
    scene = android_scene(small_android(manifest=MANIFEST.replace('android:theme="@style/Tern"', theme)), version=28)
    assert reason in scene.unknowns[0]
    assert scene.ground is None


def test_the_sheet_shows_every_scene_and_is_always_the_same(sample: Path, rivelt: Command) -> None:
    before = read_tree(sample)
    first = rivelt("proof", "--out", "a.png", "--json", cwd=sample)
    assert first.code == 0, first.err
    with Image.open(sample / "a.png") as sheet:
        assert sheet.mode == "RGB"
        assert sheet.width == 640
        colours = {colour for _, colour in sheet.getcolors(1 << 24) or []}
    assert {SAND[:3], NIGHT[:3]} <= colours
    assert len(first.json["scenes"]) == 12 + 3 + 10 + 4
    assert {scene["ground"] for scene in first.json["scenes"]} == {"#F3EBDD", "#13212B"}
    some = ("--only", "android", "--only", "ios")
    for name in ("b.png", "c.png"):
        again = rivelt("proof", *some, "--out", name, cwd=sample)
        assert again.out.splitlines()[-2] == f"The proof, as apply would leave it: {name}"
    assert (sample / "b.png").read_bytes() == (sample / "c.png").read_bytes()
    now = rivelt("proof", "--now", *some, "--out", "now.png", cwd=sample)
    assert now.code == 0, now.err
    assert (sample / "now.png").read_bytes() != (sample / "b.png").read_bytes()
    drawn = {"a.png", "b.png", "c.png", "now.png"}
    assert {path: content for path, content in read_tree(sample).items() if path not in drawn} == before


def test_one_broken_file_is_named_and_the_rest_is_proved(sample: Path, rivelt: Command) -> None:
    (sample / "ios/Skerryline/Info.plist").write_bytes(b"bplist00")
    done = rivelt("proof", "--now", "--json", cwd=sample)
    assert done.code == 1
    assert "ios" not in {scene["target"] for scene in done.json["scenes"]}
    told = rivelt("proof", "--now", cwd=sample)
    assert "not shown: ios" in told.err
    assert "the binary property list is damaged" in told.err


def test_a_project_without_a_brief_is_proved_as_it_is(tmp_path: Path, rivelt: Command) -> None:
    files = small_android()
    del files["rivelt.toml"]
    root = write_tree(tmp_path / "tern", files)
    done = rivelt("proof", root, "--out", tmp_path / "p.png", "--json")
    assert done.json["planned"] is False
    assert done.json["scenes"][0]["ground"] == "#FFFFFF"


def test_text_drawn_from_many_threads_at_once_is_always_the_same() -> None:
    from concurrent.futures import ThreadPoolExecutor

    from rivelt.pixels import type as typeface

    def drawn() -> set[str]:
        for cached in (typeface._font, typeface._names, typeface._outline, typeface._advance, typeface._units_per_em):
            cached.cache_clear()
        with ThreadPoolExecutor(16) as pool:
            faces: list[typeface.Face] = ["serif", "sans", "bold", "mono"] * 40
            return set(pool.map(lambda face: typeface.text_svg("Skerryline §23 °", 0, 0, 12, "#000", face), faces))

    first = drawn()
    assert len(first) == 4
    assert all(drawn() == first for _ in range(5))


def test_screens_are_chosen_by_words(sample: Path, rivelt: Command) -> None:
    def systems(*options: str) -> list[str]:
        done = rivelt("proof", "--only", "android", "--only", "ios", "--json", *options, cwd=sample)
        assert done.code == 0, done.err
        return list(dict.fromkeys(scene["system"] for scene in done.json["scenes"]))

    assert systems("--screens", "ipad 10.", "--screens", "API 34") == [
        "Android 14 (API 34)",
        'iPadOS, iPad 10.9"',
        'iPadOS, iPad 10.9", landscape',
        'iPadOS, iPad 10.2"',
        'iPadOS, iPad 10.2", landscape',
    ]
    everything = rivelt("proof", "--only", "ios", "--json", "--all", cwd=sample).json["scenes"]
    assert len(everything) == 2 * (23 * 2 + 4 * (2 + 3))
    lost = rivelt("proof", "--screens", "abacus", cwd=sample)
    assert (lost.code, "no screen is called abacus" in lost.err) == (2, True)
    assert rivelt("proof", "--only", "ios", cwd=sample).code == 0
    plain = (sample / "proof.png").read_bytes()
    with Image.open(sample / "proof.png") as alone:
        height = alone.height
    assert rivelt("proof", "--only", "ios", "--beside", cwd=sample).code == 0
    with Image.open(sample / "proof.png") as beside:
        assert beside.height > height * 1.5
    assert rivelt("proof", "--only", "ios", "--guides", cwd=sample).code == 0
    assert (sample / "proof.png").read_bytes() != plain


def test_the_handoff_tells_a_flash(tmp_path: Path, rivelt: Command) -> None:
    white = small_android(brief=BRIEF.replace("#F3EBDD", "#000000"))
    root = write_tree(tmp_path / "tern", white)
    told = rivelt("proof", "--json", cwd=root)
    (light, _) = told.json["handoffs"]
    assert [step["moment"] for step in light["steps"]] == ["launch screen", "window of Tern"]
    assert light["steps"][1] == {
        "moment": "window of Tern",
        "ground": "#FFFFFF",
        "source": "app/src/main/res/values/styles.xml",
        "difference": 100.0,  # black to white, by definition
        "flash": True,
    }
    assert "a flash from the launch screen to the window of Tern" in rivelt("proof", cwd=root).out
    brief = (root / "rivelt.toml").read_text() + '[handoff]\nfirst_ground = "#141F28"\ndark_first_ground = "sea"\n'
    (root / "rivelt.toml").write_text(brief)
    wrong = rivelt("proof", cwd=root)
    assert (wrong.code, "`handoff.dark_first_ground`" in wrong.err) == (2, True)
    (root / "rivelt.toml").write_text(brief.replace("sea", "#131F29"))
    rivelt("apply", cwd=root)
    steps = rivelt("proof", "--json", "--now", cwd=root).json["handoffs"][1]["steps"]
    assert [step["ground"] for step in steps] == ["#000000", "#FFFFFF", "#131F29"]
    assert [step["flash"] for step in steps] == [False, True, True]
    (root / "rivelt.toml").write_text(brief.replace("sea", "#131F29") + "[android]\nwaiting = true\n")
    (waits, _) = rivelt("proof", "--json", cwd=root).json["handoffs"]
    assert [step["moment"] for step in waits["steps"]][2:] == ["waiting screen", "first screen"]
    (root / "rivelt.toml").write_text(brief.replace("sea", "#131F29"))
    page = rivelt("proof", "--out", "p.html", cwd=root)
    assert page.code == 0
    assert (root / "p.html").read_text().count(", a flash") == 4


def test_findings_are_framed_where_they_are_with_their_codes(sample: Path, rivelt: Command) -> None:
    told = rivelt("proof", "--now", "--json", "--only", "android", "--only", "ios", "--out", "a.png", cwd=sample).json
    assert {(scene["system"], *scene["findings"]) for scene in told["scenes"]} == {
        ("Android 11 (API 30)",),
        ("Android 14 (API 34)", "SCN02", "SCN03"),
        ("iOS, iPhone 15", "IOS04"),
        ('iPadOS, iPad 10.9"', "IOS04"),
        ("iOS, iPhone 15, landscape", "IOS04"),
        ('iPadOS, iPad 10.9", landscape', "IOS04"),
    }
    table = rivelt("proof", "--now", "--only", "ios", "--out", "a.html", cwd=sample).out
    assert "storyboard LaunchScreen.storyboard (IOS04)" in table
    assert "Next: rivelt explain IOS04" in table
    assert (sample / "a.html").read_text().count('<rect class="tag"') == 8
    brief = sample / "rivelt.toml"
    without = 'IOS04 = "no", SCN02 = "no", SCN03 = "no"'
    brief.write_text(brief.read_text() + f"\n[check]\nignore = {{{without}}}\n")
    left_out = rivelt(
        "proof", "--now", "--json", "--only", "android", "--only", "ios", "--out", "b.png", cwd=sample
    ).json
    assert not any(scene["findings"] for scene in left_out["scenes"])
    with Image.open(sample / "a.png") as first, Image.open(sample / "b.png") as second:
        marked, plain = np.asarray(first.convert("RGB")), np.asarray(second.convert("RGB"))
    in_accent = (marked == (0xC2, 0x40, 0x2B)).all(axis=-1) & (marked != plain).any(axis=-1)
    assert in_accent.sum() > 100, "frames and tags in the sheet's accent"
    assert all(
        not rivelt("proof", "--json", "--only", target, "--out", "c.png", cwd=sample).json["scenes"][0]["findings"]
        for target in ("android", "ios")
    )
