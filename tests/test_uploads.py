"""Uploads: finished full-screen images at any size."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
import pyvips

from conftest import BRIEF, MARK, Command, read_tree, write_tree
from rivelt.platforms.uploads.facts import upload_facts
from rivelt.platforms.web.facts import wanted_screens

PICTURE = pyvips.Image.xyz(1600, 1000).linear([0.15, 0.2], 0).cast("uchar").bandjoin(90).copy(interpretation="srgb")


def brief_with(uploads: str, **changes: str) -> str:
    text = BRIEF + '[dark]\nground = "#13212B"\n'
    for old, new in changes.items():
        text = text.replace(f"[{old}]", f"[{old}]\n{new}")
    return f"{text}[uploads]\n{uploads}\n"


def app(tmp_path: Path, brief: str) -> Path:
    picture = PICTURE.pngsave_buffer()
    imprint = MARK.replace('height="80"', 'height="20"')
    return write_tree(
        tmp_path / "tern", {"rivelt.toml": brief, "mark.svg": MARK, "imprint.svg": imprint, "sound.png": picture}
    )


@pytest.mark.parametrize(
    "sets", [[], *(pytest.param([name], marks=pytest.mark.slow) for name in sorted(upload_facts().sets))]
)
def test_every_size_is_exact_opaque_undistorted_and_keeps_its_margin(
    tmp_path: Path, rivelt: Command, sets: list[str]
) -> None:
    margin = 0.1
    uploads = (
        f'sets = {sets}\nsizes = ["1000x1000", "2000x300", "300x2000", "320x480", "1080x1920"]\nsafe_margin = {margin}'
    )
    root = app(tmp_path, brief_with(uploads, light='imprint = "imprint.svg"'))
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    sizes = [(name, w, h) for name in sets for w, h, _ in upload_facts().sets[name]]
    sizes += [("custom", w, h) for w, h in ((1000, 1000), (2000, 300), (300, 2000), (320, 480), (1080, 1920))]
    paths = {f"uploads/{name}-{w}x{h}-{look}.png": (w, h) for name, w, h in sizes for look in ("light", "dark")}
    assert set(read_tree(root)) - set(before) - {"rivelt.lock"} == set(paths) | {
        path for path in read_tree(root) if path.startswith(".rivelt/")
    }
    for path, (width, height) in paths.items():
        image = pyvips.Image.new_from_file(str(root / path))
        assert (image.width, image.height, image.bands) == (width, height, 3)
        ground = [0x13, 0x21, 0x2B] if path.endswith("dark.png") else [0xF3, 0xEB, 0xDD]
        left, top, wide, high = (
            ((image - ground).abs().bandmean() > 3)
            .ifthenelse(255, 0)
            .cast("uchar")
            .find_trim(background=[0], threshold=1)
        )
        assert left >= width * margin - 1, path
        assert top >= height * margin - 1, path
        assert left + wide <= width * (1 - margin) + 1, path
        assert top + high <= height * (1 - margin) + 1, path
        assert abs(left + wide / 2 - width / 2) <= 1.5, "what is shown stands in the middle"
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")
    shown = rivelt("proof", "--now", "--json", "--out", tmp_path / "p.png", cwd=root)
    assert shown.code == 0
    assert len(shown.json["scenes"]) == len(paths)
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_the_focus_of_a_backdrop_stays_inside_the_margin(tmp_path: Path, rivelt: Command) -> None:
    dot = PICTURE.draw_circle([255, 0, 0], 1200, 300, 12, fill=True)
    focus = "[layout]\nmark_size = 20\nfocus = [0.75, 0.3]"
    sizes = ["300x600", "600x300", "500x500", "200x900"]
    brief = brief_with(f"sizes = {sizes}\nsafe_margin = 0.2\nlooks = 'light'", light='backdrop = "sound.png"').replace(
        "[dark]", f"{focus}\n[dark]"
    )
    root = app(tmp_path, brief)
    write_tree(root, {"sound.png": dot.pngsave_buffer()})
    assert rivelt("apply", cwd=root).code == 0
    for size in sizes:
        width, height = map(int, size.split("x"))
        image = pyvips.Image.new_from_file(str(root / f"uploads/custom-{size}-light.png"))
        red = (image[0] > 200) & (image[1] < 60) & (image[2] < 60)
        left, top, wide, high = red.find_trim(background=[0], threshold=1)
        assert 0.9 < wide / high < 1.1, "a circle stays one"
        assert width * 0.2 - 1 <= left + wide / 2 <= width * 0.8 + 1
        assert height * 0.2 - 1 <= top + high / 2 <= height * 0.8 + 1


def test_a_zip_holds_the_same_images_and_always_the_same_bytes(tmp_path: Path, rivelt: Command) -> None:
    plain = app(tmp_path / "a", brief_with('sizes = ["300x600"]'))
    packed = app(tmp_path / "b", brief_with('sizes = ["300x600"]\nout = "out/tern.zip"'))
    for root in (plain, packed):
        assert rivelt("apply", cwd=root).code == 0
    data = (packed / "out/tern.zip").read_bytes()
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.testzip() is None
        inside = {f"uploads/{name}": archive.read(name) for name in archive.namelist()}
    assert inside == {path: content for path, content in read_tree(plain).items() if path.startswith("uploads/")}
    assert rivelt("apply", cwd=packed).out.startswith("Nothing to do")
    assert rivelt("proof", "--now", "--out", tmp_path / "p.png", cwd=packed).code == 0
    assert rivelt("undo", cwd=packed).code == 0
    assert rivelt("apply", cwd=packed).code == 0
    assert (packed / "out/tern.zip").read_bytes() == data
    assert rivelt("plates", "--out", tmp_path / "p.zip", cwd=plain).code == 0
    with zipfile.ZipFile(tmp_path / "p.zip") as archive:
        assert {f"uploads/{Path(name).name}" for name in archive.namelist()} == set(inside)
    # From a folder to a ZIP: the old files go.
    (plain / "rivelt.toml").write_text(brief_with('sizes = ["300x600"]\nout = "tern.zip"'))
    assert rivelt("apply", cwd=plain).code == 0
    assert not (plain / "uploads").exists()


@pytest.mark.parametrize(
    ("uploads", "message"),
    [
        ('sizes = ["1080by1920"]', "rivelt.toml:10:10: '1080by1920' is not a size"),
        ('sizes = ["0x10", "99999x10"]', "'0x10' is not a size"),
        ("", "no size of an upload is given"),
        ('sizes = ["300x600"]\nname = "{size}.png"', "a name of an upload cannot hold {size}"),
        ('sizes = ["300x600"]\nname = "same.png"', "two uploads would be called same.png"),
        ('sizes = ["300x600"]\nout = "../away"', "`uploads.out` leads out of the project"),
        ('sizes = ["300x600"]\nout = "/else/where"', "`uploads.out` leads out of the project"),
    ],
)
def test_what_cannot_be_made_is_told_and_the_rest_goes_on(
    tmp_path: Path, rivelt: Command, uploads: str, message: str
) -> None:
    root = app(tmp_path, brief_with(uploads))
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert message in refused.err.replace("uploads rivelt.toml: ", "")
    write_tree(root, {"app.webmanifest": '{"name": "Tern"}'})
    # A wrong value is wrong whatever there is; what depends on the project leaves out this target alone.
    assert rivelt("apply", cwd=root).code == (1 if not uploads or "out" in uploads else 2)
    assert ("#F3EBDD" in (root / "app.webmanifest").read_text()) == (not uploads or "out" in uploads)


def test_the_ios_set_holds_every_screen_upright_and_on_its_side() -> None:
    held = {(width, height) for width, height, _ in upload_facts().sets["ios"]}
    screens = {(round(one.width * one.scale), round(one.height * one.scale)) for one in wanted_screens("current")}
    assert {*screens, *((height, width) for width, height in screens)} <= held


def test_sizes_and_names_are_taken_as_people_write_them(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, brief_with('sizes = ["1280X1920"]\nname = "tern-{width}-{look}"'))
    done = rivelt("apply", cwd=root)
    assert "'tern-1280-light' is written as 'tern-1280-light.png', because uploads are PNG files" in done.out
    assert (root / "uploads/tern-1280-dark.png").is_file()


def test_names_are_made_safe_and_the_change_is_said(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, brief_with('sizes = ["300x600"]\nname = "{look}/Straße {width}:{height}?.png"'))
    done = rivelt("apply", cwd=root)
    assert "'light/Straße 300:600?.png' is written as 'light/Strasse-300-600.png'" in done.out
    assert (root / "uploads/dark/Strasse-300-600.png").is_file()
    assert rivelt("apply", "--only", "web", cwd=root).code == 2
    assert (
        "There are: android, ios, windows, dotnet, web, uploads." in rivelt("apply", "--only", "desktop", cwd=root).err
    )
