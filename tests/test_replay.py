"""Recordings of launches: what is read of them is held against a stand-in device, whose truth is known."""

from __future__ import annotations

import io
import json
import struct
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from chromium import browser, open_page
from conftest import Command, write_tree
from rivelt import opening
from rivelt.colour import Colour
from rivelt.demo.layout import sample_files
from rivelt.recordings.chance import launch_by_chance, mistakes
from rivelt.recordings.device import (
    Part,
    app_picture,
    blank_picture,
    home_picture,
    mark_picture,
    picture,
    play,
    scene_picture,
)
from rivelt.recordings.moments import Film, moments
from rivelt.recordings.recording import open_recording
from rivelt.recordings.seen import small_size
from rivelt.rules.books import LAUNCHES
from rivelt.rules.runner import Choice, judge
from rivelt.scene.launch import Against, Kind, Launch, Moment
from rivelt.units import PixelSize, Point, Rect

SIZE = PixelSize(270, 600)
BOX = Rect(0.3, 0.42, 0.4, 0.16)
LAUNCH = mark_picture(SIZE, "#F3EBDD", "#1F6E7D", BOX)
HOME = home_picture(SIZE, 5)
APP = app_picture(SIZE, "#FFFFFF", 5)
START = [Part("home", 300, HOME), Part("opening", 250), Part("launch", 500, LAUNCH)]
END = Part("first", 500, APP)


def saved(folder: Path, parts: list[Part], name: str = "launch.mp4", **options: Any) -> Path:
    path = folder / name
    path.write_bytes(play(parts, SIZE, form=path.suffix[1:], **options).data)
    return path


def read(path: Path) -> tuple[Moment, ...]:
    recording = open_recording(path)
    return moments(Film(recording.frames(small_size(recording.size))), recording.end)


def kinds(found: tuple[Moment, ...]) -> list[Kind]:
    return [one.kind for one in found]


def by_chance(folder: Path, seed: int) -> list[str]:
    chance = launch_by_chance(seed)
    path = folder / "launch.mp4"
    path.write_bytes(chance.played.data)
    return mistakes(chance, read(path))


@pytest.mark.parametrize("seed", range(12))
def test_moments_of_random_launches_are_read_to_a_frame_and_20_ms(tmp_path: Path, seed: int) -> None:
    assert by_chance(tmp_path, seed) == []


@pytest.mark.slow
def test_of_many_random_launches_hardly_any_is_read_wrongly(tmp_path: Path) -> None:
    wrong = {seed: what for seed in range(5000, 5120) if (what := by_chance(tmp_path, seed))}
    assert len(wrong) <= 2, wrong


def drawn(*parts: str) -> np.ndarray:
    return picture(parts, SIZE)


def plain(ground: str, *boxes: tuple[int, int, int, int, str]) -> np.ndarray:
    rects = (f'<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="{fill}"/>' for x, y, w, h, fill in boxes)
    return drawn(f'<rect width="270" height="600" fill="{ground}"/>', *rects)


ICONS = [
    (22 + 60 * column, 70 + 85 * row, 42, 42, f"hsl({40 * (4 * row + column)},60%,50%)")
    for row in range(4)
    for column in range(4)
]
FLAT_HOME = plain("#EEEEEE", *ICONS)
BAR = (0, 0, 270, 69, "#1F6E7D")
FLAT_APP = plain("#FFFFFF", BAR, (15, 92, 170, 16, "#888888"), (15, 123, 240, 46, "#DDDDDD"))
LOGIN = plain("#FFFFFF", (97, 138, 76, 76, "#1F6E7D"), (30, 323, 210, 34, "#CCCCCC"), (30, 430, 210, 38, "#1F6E7D"))
NIGHT = mark_picture(SIZE, "#13212B", "#E86A4A", Rect(0.32, 0.43, 0.36, 0.14))
WHITE = blank_picture(SIZE, "#FFFFFF")
OPENED = [Part("home", 400, FLAT_HOME), Part("opening", 250), Part("launch", 500, NIGHT)]
ODD: dict[str, list[Part]] = {
    "flat home and app": [*OPENED, Part("first", 400, FLAT_APP)],
    "a flash under a navigation bar": [
        *OPENED, Part("flash", 60, plain("#FFFFFF", (0, 563, 270, 37, "#000000"))), Part("first", 400, FLAT_APP)
    ],
    "a first screen like a launch screen": [*OPENED, Part("flash", 100, WHITE), Part("first", 400, LOGIN)],
    "a first screen that fills by and by": [*OPENED, Part("first", 200, plain("#FFFFFF", BAR)), Part("first", 400, FLAT_APP)],
    "a mark that fades in": [
        *OPENED[:2], Part("launch", 150, blank_picture(SIZE, "#13212B")), Part("launch", 400, NIGHT, fade=120), Part("first", 400, FLAT_APP)
    ],
    "a launch screen without a mark": [*OPENED[:2], Part("launch", 400, blank_picture(SIZE, "#13212B")), Part("first", 400, FLAT_APP)],
    "no opening": [OPENED[0], OPENED[2], Part("first", 400, FLAT_APP)],
    "another mark on the same ground": [
        *OPENED, Part("second", 400, mark_picture(SIZE, "#13212B", "#FFFFFF", Rect(0.2, 0.2, 0.6, 0.1))), Part("first", 400, FLAT_APP)
    ],
    "no home screen": [OPENED[2], Part("flash", 100, WHITE), Part("first", 400, FLAT_APP)],
}  # fmt: skip


@pytest.mark.parametrize("name", ODD)
def test_plain_home_screens_bars_and_first_screens_are_taken_for_what_they_are(tmp_path: Path, name: str) -> None:
    played = play(ODD[name], SIZE)
    path = tmp_path / "launch.mp4"
    path.write_bytes(played.data)
    found = read(path)
    assert kinds(found) == [kind for kind, _, _ in played.truth]
    for one, (_, start, _) in zip(found, played.truth, strict=True):
        assert one.start == pytest.approx(start, abs=37)


# Containers


def as_gif(path: Path) -> Path:
    """A launch as an animation, 25 frames a second."""
    frames = [Image.fromarray(pixels) for pixels in [HOME] * 8 + [LAUNCH] * 15 + [APP] * 12]
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=40, loop=0)
    return path


def as_pictures(folder: Path) -> Path:
    folder.mkdir()
    for number, pixels in enumerate([HOME] * 9 + [LAUNCH] * 30 + [APP] * 20):
        Image.fromarray(pixels).save(folder / f"frame-{number}.png")  # 10 comes after 9, not after 1
    return folder


def turned(path: Path) -> Path:
    """A recording whose frames lie on their side, with the flag that says so (ISO 14496-12, the matrix of a track)."""
    sideways = [
        Part(one.kind, one.length, np.ascontiguousarray(np.rot90(one.picture)))
        for one in (*START, END)
        if one.picture is not None
    ]
    data = play(sideways, PixelSize(SIZE.height, SIZE.width)).data
    plain = struct.pack(">9i", 0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000)
    flagged = struct.pack(">9i", 0, 0x10000, 0, -0x10000, 0, 0, 0, 0, 0x40000000)
    head = data.index(b"tkhd")
    at = data.index(plain, head)
    path.write_bytes(data[:at] + flagged + data[at + 36 :])
    return path


@pytest.mark.parametrize(
    "make",
    [
        lambda folder: saved(folder, [*START, END], "launch.mp4"),
        lambda folder: saved(folder, [*START, END], "launch.mov", jitter=0.8),
        lambda folder: saved(folder, [*START, END], "launch.webm"),
        lambda folder: as_gif(folder / "launch.gif"),
        lambda folder: as_pictures(folder / "frames"),
        lambda folder: turned(folder / "turned.mp4"),
    ],
    ids=["mp4", "mov", "webm", "gif", "pictures", "turned"],
)
def test_every_kind_of_recording_is_read(tmp_path: Path, rivelt: Command, make: Callable[[Path], Path]) -> None:
    path = make(tmp_path)
    run = rivelt("replay", path, "--json", cwd=tmp_path)
    found = run.json["recordings"][0]
    shown = [one["kind"] for one in found["moments"]]
    assert [one for one in shown if one != "opening"] == ["home", "launch", "first"]
    assert (found["width"], found["height"]) == SIZE
    (launch,) = [one for one in found["moments"] if one["kind"] == "launch"]
    assert Colour.parse(launch["ground"]).difference(Colour.parse("#F3EBDD")) < 2
    mark = launch["mark"]
    assert (mark["x"], mark["width"]) == (pytest.approx(BOX.x * 270, abs=3), pytest.approx(BOX.width * 270, abs=5))
    assert found["moments"][0]["start_ms"] == 0
    ends = [one["end_ms"] for one in found["moments"]]
    assert [one["start_ms"] for one in found["moments"][1:]] == ends[:-1]
    if path.name == "turned.mp4":
        assert "turned" in found["notes"][0]


def test_wide_colours_of_high_dynamic_range_become_srgb(tmp_path: Path) -> None:
    import av

    path = tmp_path / "hdr.mp4"
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("libx265", rate=Fraction(60), options={"x265-params": "log-level=none"})
        stream.width, stream.height, stream.pix_fmt = 256, 256, "yuv420p10le"
        context = stream.codec_context
        context.color_trc, context.color_primaries, context.colorspace, context.color_range = 16, 9, 9, 1
        for _ in range(8):
            luma = np.full((256, 256), 64 + round(876 * 0.58), np.uint16)  # PQ 0.58 is 203 cd/m2: reference white
            chroma = np.full((128, 128), 512, np.uint16)
            frame = av.VideoFrame.from_ndarray(
                np.concatenate([luma, chroma.reshape(64, 256), chroma.reshape(64, 256)]), "yuv420p10le"
            )
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    recording = open_recording(path)
    frames = list(recording.frames(recording.size))
    assert any("high dynamic range (PQ)" in note for note in recording.notes)
    assert np.abs(frames[0].pixels.astype(int) - 255).max() <= 3


# Hostile files


def audio_alone(path: Path) -> None:
    import av

    with av.open(str(path), "w") as container:
        stream = container.add_stream("aac", rate=44100)
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 4096), np.float32), format="fltp", layout="mono")
        frame.rate = 44100
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


@pytest.mark.parametrize(
    ("name", "make", "word"),
    [
        ("none.mp4", lambda _: None, "there is no recording"),
        ("empty.mp4", lambda path: path.write_bytes(b""), "cannot be read"),
        ("noise.mp4", lambda path: path.write_bytes(np.random.default_rng(1).bytes(50_000)), "cannot be read"),
        ("text.webm", lambda path: path.write_text("#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n"), "cannot be read"),
        ("list.mp4", lambda path: path.write_text("ffconcat version 1.0\nfile /etc/passwd\n"), "cannot be read"),
        ("sound.mp4", audio_alone, "it has sound alone"),
        ("empty", lambda path: path.mkdir(), "there is no recording"),
        ("broken", lambda path: write_tree(path, {"1.png": b"\x89PNG\r\n\x1a\nnot"}), "the picture cannot be read"),
        ("two", lambda path: write_tree(path, {"1.png": png(10, 10), "2.png": png(11, 10)}), "it is of another size"),
        ("huge", lambda path: write_tree(path, {"1.png": png(9000, 8)}), "it is larger than"),
    ],
)
def test_what_is_no_recording_is_said_and_nothing_else_happens(
    tmp_path: Path, rivelt: Command, name: str, make: Callable[[Path], object], word: str
) -> None:
    make(tmp_path / name)
    run = rivelt("replay", name, cwd=tmp_path)
    assert (run.code, word in run.err) == (2, True), run.err
    assert len(run.err.splitlines()) <= 3


def png(width: int, height: int) -> bytes:
    data = io.BytesIO()
    Image.new("RGB", (width, height), "#F3EBDD").save(data, "PNG")
    return data.getvalue()


def test_a_recording_that_ends_in_the_middle_is_read_as_far_as_it_goes(tmp_path: Path, rivelt: Command) -> None:
    whole = saved(tmp_path, [*START, END], "whole.webm").read_bytes()
    (tmp_path / "cut.webm").write_bytes(whole[: len(whole) * 2 // 3])
    run = rivelt("replay", "cut.webm", "--json", cwd=tmp_path)
    assert run.json["recordings"][0]["moments"]
    cut = saved(tmp_path, [*START, END]).read_bytes()
    (tmp_path / "cut.mp4").write_bytes(cut[: len(cut) // 2])  # its table of frames stands at the end
    assert rivelt("replay", "cut.mp4", cwd=tmp_path).code == 2


def test_a_long_recording_is_read_for_two_minutes(tmp_path: Path, rivelt: Command) -> None:
    long = [*START, Part("first", 150_000, APP)]
    path = saved(tmp_path, long, rate=2)
    run = rivelt("replay", path, "--json", cwd=tmp_path)
    found = run.json["recordings"][0]
    assert found["notes"] == ["only the first 120 seconds were read"]
    assert found["length_ms"] <= 121_000


def test_nothing_that_is_a_launch_is_unknown(tmp_path: Path) -> None:
    still = saved(tmp_path, [Part("home", 500, HOME)])
    assert kinds(read(still)) == ["unknown"]
    begun = saved(tmp_path, [Part("launch", 600, LAUNCH), END], "begun.mp4")
    assert kinds(read(begun)) == ["launch", "first"]
    ends = saved(tmp_path, START, "ends.mp4")
    assert kinds(read(ends)) == ["home", "opening", "launch"]


# Rules

PLAIN = Launch(
    (
        Moment("home", 0, 300, 18, 9),
        Moment("launch", 300, 900, 36, 36, Colour.parse("#F3EBDD"), Rect(100, 250, 80, 60)),
        Moment("first", 900, 2000, 66, 90, Colour.parse("#FFFFFF")),
    ),
    Against("Android 14", "light", "dp", ground=1.0, moved=Point(0, 0), wide=1.0, high=1.0, other_look=80.0),
)


def with_moment(*added: Moment, launch: Moment | None = None) -> Launch:
    first = launch or PLAIN.moments[1]
    return Launch((PLAIN.moments[0], first, *added, PLAIN.moments[2]), PLAIN.against)


def against(**changes: Any) -> Launch:
    from rivelt.values import replace

    assert PLAIN.against is not None
    return replace(PLAIN, against=replace(PLAIN.against, **changes))


SAND = Colour.parse("#F3EBDD")
WRONG: dict[str, tuple[Launch, str]] = {
    "REP01": (
        with_moment(Moment("flash", 900, 950, 3, 55, Colour.parse("#000000"))),
        "a flash: 50 ms in #000000, from 900 ms on",
    ),
    "REP02": (
        with_moment(Moment("second", 900, 1400, 30, 70, Colour.parse("#204060"))),
        "a second launch screen: 500 ms",
    ),
    "REP03": (
        with_moment(Moment("waiting", 900, 1400, 30, 70, SAND, Rect(100, 310, 80, 60))),
        "the mark jumps by 0 px across and 60 px down",
    ),
    "REP04": (against(ground=40.0), "this is not the project's launch screen: its ground differs by 40"),
    "REP05": (against(wide=1.2), "the mark is distorted: 1.20 times too wide"),
    "REP06": (
        Launch(PLAIN.moments, Against("Android 14", "dark", "dp", ground=80.0, other_look=1.0), wanted_look="dark"),
        "the light launch screen was shown, not the dark one",
    ),
    "REP07": (
        with_moment(launch=Moment("launch", 300, 2300, 120, 90, SAND)),
        "a recording does not show whether the app was ready",
    ),
    "REP08": (with_moment(launch=Moment("launch", 300, 390, 6, 20, SAND)), "shown for 90 ms only"),
    "REP09": (
        Launch((*PLAIN.moments[:2], Moment("first", 900, 2000, 66, 90, Colour.parse("#204060"))), PLAIN.against),
        "the first screen is #204060",
    ),
    "REP10": (against(moved=Point(0, 12)), "the mark is not where it should be: +0.0 dp across, +12.0 dp down"),
    "REP11": (against(is_imprint_missing=True), "the imprint is missing"),
}


@pytest.mark.parametrize("code", WRONG)
def test_each_rule_sees_what_is_wrong_and_nothing_where_nothing_is(code: str) -> None:
    launch, word = WRONG[code]
    only = Choice(frozenset({code}))
    (found,) = judge(LAUNCHES, launch, only)
    assert (found.verdict, word in found.message) == ("broken", True), found
    assert [one.verdict for one in judge(LAUNCHES, PLAIN, only)] == ["holds"]


def test_every_rule_on_launches_is_tried() -> None:
    assert set(WRONG) == set(LAUNCHES.rules)


def test_a_recording_that_is_held_against_nothing_is_unknown() -> None:
    found = list(judge(LAUNCHES, Launch(PLAIN.moments, why="no project"), Choice(frozenset({"REP04"}))))
    assert [(one.verdict, one.message) for one in found] == [("unknown", "no project")]


# Against a project


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The sample app, not applied: the launch screens that its native files have."""
    import rivelt

    root = write_tree(tmp_path_factory.mktemp("demo"), sample_files())
    job = rivelt.open(root, only=["android", "ios"], editions=["main"])
    rivelt.apply(job.changes())
    return root


def test_the_demos_recordings_are_a_sound_and_a_faulty_one(demo: Path, rivelt: Command) -> None:
    sound = rivelt("replay", "recordings/launch.mp4", "--json", cwd=demo)
    assert sound.code == 0
    assert [one["kind"] for one in sound.json["moments"]] == ["home", "opening", "launch", "first"]
    assert sound.json["screen"]["system"] == "Android 14 (API 34)"
    assert sound.json["look"] == "light"
    compared = sound.json["recordings"][0]["compared"]
    assert compared["ground_difference"] < 2
    assert abs(compared["across"]) < 1
    assert abs(compared["down"]) < 1
    mark = sound.json["moments"][2]
    assert mark["mark_points"]["width"] == pytest.approx(mark["mark"]["width"] / 1.5, abs=0.1)
    assert mark["change"] is None
    second = rivelt("replay", "recordings/launch-faulty.mp4", "--json", cwd=demo).json["moments"][4]
    assert (second["kind"], second["change"]["scaled"]) == ("second", pytest.approx(1.06, abs=0.03))
    faulty = rivelt("replay", "recordings/launch-faulty.mp4", cwd=demo)
    assert faulty.code == 1
    assert "REP01: recordings/launch-faulty.mp4: a flash: 100 ms" in faulty.out
    assert "REP02: recordings/launch-faulty.mp4: a second launch screen: 417 ms" in faulty.out


@pytest.mark.parametrize(("system", "look"), [("iOS, iPhone 15", "dark"), ("Android 14", "dark"), ("iPadOS", "light")])
def test_screen_and_look_are_recognised_and_what_is_shifted_or_stretched_is_measured(
    demo: Path, tmp_path: Path, rivelt: Command, system: str, look: str
) -> None:
    job = opening.open(demo, only=["android", "ios"], editions=["main"])
    scene = next(
        one for _, one in job.prove(now=True).scenes if one.screen.system.startswith(system) and one.look == look
    )
    screen = scene.screen
    size = PixelSize(*(round(side * 0.75) // 2 * 2 for side in (screen.width, screen.height)))
    picture = scene_picture(scene, size, job.now.pictures)
    ends = [Part("first", 300, app_picture(size, "#FFFFFF", 1))]

    def shown(pixels: np.ndarray) -> Any:
        parts = [Part("home", 200, home_picture(size, 1)), Part("opening", 200), Part("launch", 400, pixels), *ends]
        (tmp_path / "x.mp4").write_bytes(play(parts, size).data)
        run = rivelt("replay", tmp_path / "x.mp4", demo, "--json", "--screen", screen.name, cwd=tmp_path)
        return run.json["recordings"][0]

    found = shown(picture)
    assert found["look"] == look
    assert found["screen"]["system"].startswith(system.split(",", maxsplit=1)[0])
    assert found["compared"]["pixels"] < 0.03
    down = round(size.height * 0.03)
    moved = np.roll(picture, down, axis=0)
    compared = shown(moved)["compared"]
    assert compared["down"] == pytest.approx(down / 0.75, abs=2)
    assert abs(compared["across"]) < 2


def test_an_old_launch_screen_is_not_taken_for_the_projects(demo: Path, tmp_path: Path, rivelt: Command) -> None:
    size = PixelSize(412, 914)
    old = mark_picture(size, "#FFCC00", "#000000", BOX)
    parts = [
        Part("home", 200, home_picture(size, 1)),
        Part("opening", 200),
        Part("launch", 400, old),
        Part("first", 300, app_picture(size, "#FFFFFF", 1)),
    ]
    (tmp_path / "old.mp4").write_bytes(play(parts, size).data)
    run = rivelt("replay", tmp_path / "old.mp4", demo, cwd=tmp_path)
    assert run.code == 1
    assert "REP04" in run.out
    assert "delete the app" in run.out


def test_the_wrong_look_is_named_where_the_look_is_said(demo: Path, rivelt: Command) -> None:
    run = rivelt("replay", "recordings/launch.mp4", "--look", "dark", "--screen", "API 34", cwd=demo)
    assert "REP06" in run.out
    assert "the light launch screen was shown, not the dark one" in run.out


def test_several_launches_are_summarised(tmp_path: Path, rivelt: Command) -> None:
    for number, length in enumerate((300, 500, 800)):
        saved(tmp_path, [*START[:2], Part("launch", length, LAUNCH), END], f"{number}.mp4")
    run = rivelt("replay", f"{tmp_path}/*.mp4", "--json", cwd=tmp_path)
    summary = run.json["summary"]
    assert summary["recordings"] == 3
    assert summary["launch_ms"]["median"] == pytest.approx(500, abs=40)
    text = rivelt("replay", f"{tmp_path}/*.mp4", "--out", "strip.png", cwd=tmp_path)
    assert "median of 3" in text.out


def test_strip_and_page_hold_the_moments_and_are_the_same_bytes_each_time(
    demo: Path, tmp_path: Path, rivelt: Command
) -> None:
    made = []
    for number in range(2):
        for name in (f"{number}.png", f"{number}.html"):
            assert rivelt("replay", "recordings/launch-faulty.mp4", "--out", tmp_path / name, cwd=demo).code == 1
        made.append(((tmp_path / f"{number}.png").read_bytes(), (tmp_path / f"{number}.html").read_text()))
    assert made[0] == made[1]
    strip = np.asarray(Image.open(io.BytesIO(made[0][0])).convert("RGB")).astype(int)
    for ground in ("#F2EBDB", "#12202A", "#1E6D7C"):
        assert (np.abs(strip - Colour.parse(ground)[:3]).max(axis=-1) <= 1).sum() > 400, ground
    assert "<script src" not in made[0][1]


@pytest.mark.skipif(browser() is None, reason="Chromium is not installed")
def test_arrow_keys_step_through_the_frames(demo: Path, tmp_path: Path, rivelt: Command) -> None:
    page = tmp_path / "launch.html"
    rivelt("replay", "recordings/launch-faulty.mp4", "--out", page, cwd=demo)
    with open_page(page, tmp_path / "profile") as shown:
        now = "document.querySelector('.frame .now').textContent"
        first = shown.run(now)
        for _ in range(3):
            shown.press("ArrowRight")
        assert "frame 4 of" in shown.run(now)
        shown.press("ArrowLeft")
        shown.press("Home")
        assert shown.run(now) == first
        shown.press("End")
        assert shown.run("document.querySelector('.axis i').style.left") != "0%"
        assert shown.requests == [page.as_uri()] or all(one.startswith(("file:", "data:")) for one in shown.requests)


# The command


@pytest.mark.parametrize("form", ["sarif", "junit", "annotations", "compiler", "markdown", "json"])
def test_findings_are_written_in_the_formats_of_check(demo: Path, rivelt: Command, form: str) -> None:
    run = rivelt("replay", "recordings/launch-faulty.mp4", "--format", form, cwd=demo)
    assert run.code == 1
    assert "REP01" in run.out
    if form in {"sarif", "json"}:
        assert json.loads(run.out)
    assert rivelt("replay", "recordings/launch-faulty.mp4", "--format", form, "--fail-on", "error", cwd=demo).code == 0


@pytest.mark.parametrize(
    ("arguments", "word"),
    [
        (("recordings/launch.mp4", "--out", "x.gif"), "a launch is drawn as a strip (.png) or a page (.html)"),
        (("recordings/launch.mp4", "--screen", "iPhnoe"), "no screen is called iPhnoe"),
        (("recordings/launch.mp4", "missing.toml"), "there is no missing.toml"),
        (("rivelt.toml",), "there is no recording"),
    ],
)
def test_bad_input(demo: Path, rivelt: Command, arguments: tuple[str, ...], word: str) -> None:
    run = rivelt("replay", *arguments, cwd=demo)
    assert (run.code, word in run.err) == (2, True), run.err


def test_without_the_extra_the_command_says_what_to_install(
    demo: Path, rivelt: Command, monkeypatch: pytest.MonkeyPatch
) -> None:
    import sys

    monkeypatch.setitem(sys.modules, "av", None)
    run = rivelt("replay", "recordings/launch.mp4", cwd=demo)
    assert (run.code, "pip install 'rivelt[replay]'" in run.err) == (2, True), run.err


def test_check_does_not_pass_for_rules_that_it_cannot_run(demo: Path, rivelt: Command) -> None:
    run = rivelt("check", "--select", "REP01", cwd=demo)
    assert (run.code, "these rules judge recordings of launches" in run.err) == (2, True)


def test_from_python(demo: Path) -> None:
    import rivelt

    found = rivelt.replay(demo / "recordings/launch.mp4", project=demo, look="light")
    assert found.to_dict()["moments"][2]["kind"] == "launch"
    assert found.replays[0].broken == ()
