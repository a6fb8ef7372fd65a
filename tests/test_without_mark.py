"""Launch screens of a colour or a picture alone: a mark is optional wherever the platform can do without."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import MARK, Command, read_tree, small_android, write_tree
from rivelt import opening
from rivelt.platforms import platform
from test_apple_options import sound
from test_apple_projects import FILES
from test_web import MANIFEST, PAGE
from test_windows import TEN

GROUNDS = '[app]\nname = "Tern"\n[light]\nground = "#F3EBDD"\n{}[dark]\nground = "#13212B"\n'
PICTURE = 'backdrop = "sound.jpg"\n'
IMPRINT = 'imprint = "mark.svg"\n'
XCODE = {path: content for path, content in FILES.items() if path != "rivelt.toml"}
WINDOWS = {"win/Package.appxmanifest": TEN.format("")}
WEB = {"web/manifest.json": MANIFEST, "web/index.html": PAGE}


def laid_out(root: Path, brief: str, **more: str | bytes) -> Path:
    return write_tree(
        root / "tern", {**small_android(brief=brief), **XCODE, "mark.svg": MARK, "sound.jpg": sound(), **more}
    )


WEB_SCREENS = '[web]\nscreens = ["iPhone 15"]\n'
PLIST_SCREEN = '[ios]\nscreen = "plist"\n'
WAITING = "[android]\nwaiting = true\n[ios]\nwaiting = true\n"
CASES = {
    "colour": ("", ""),
    "colour in a dictionary": ("", PLIST_SCREEN),
    "colour, with waiting screens": ("", WAITING),
    "picture": (PICTURE, ""),
    "imprint, with waiting screens": (IMPRINT, WAITING),
    "both": (PICTURE + IMPRINT, ""),
}


@pytest.mark.parametrize("case", CASES)
def test_ground_and_picture_are_enough(tmp_path: Path, rivelt: Command, case: str) -> None:
    more, options = CASES[case]
    root = laid_out(tmp_path, GROUNDS.format(more) + options + WEB_SCREENS, **WEB)
    before = read_tree(root)
    assert rivelt("measure", cwd=root).code in {0, 1}
    assert rivelt("plates", "--out", "plates", cwd=root).code == 0
    done = rivelt("apply", cwd=root)
    assert done.code in {0, 1}, done.err
    assert not list(root.glob("App/**/RiveltMark*"))
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    broken = {
        one["code"]
        for one in rivelt("check", "--json", cwd=root).json["findings"]
        if one["verdict"] == "broken" and one["severity"] == "error"
    }
    assert not broken
    job = opening.open_folder(root)
    for site in job.sites:
        for screen in platform(site.target).screens():
            scene = platform(site.target).scene(job.project, site, screen, "dark")
            assert not scene.unknowns or site.target == "web"  # its manifest has no icon, and none is made
            shown = {picture.source for picture in scene.pictures if picture.image.size != (0, 0)}
            assert not any("mark.png" in source or "launcher" in source for source in shown)
    assert rivelt("undo", cwd=root).code == 0
    assert {path: data for path, data in read_tree(root).items() if not path.startswith("plates/")} == before


def test_a_package_cannot_do_without(tmp_path: Path, rivelt: Command) -> None:
    root = laid_out(tmp_path, GROUNDS.format(""), **WINDOWS)
    done = rivelt("apply", cwd=root)
    assert done.code == 1
    assert "rivelt.toml:4:10: a Windows package cannot do without a mark" in done.err
    assert (root / "App/RiveltLaunch.storyboard").exists()


REFUSED = {
    "a disc under nothing": ('disc = "#FFF"\n', "`light.disc` needs a mark to stand under"),
    "a mark for the dark alone": ('[dark]\nmark = "mark.svg"\n', "`dark.mark` stands alone"),
    "derived from nothing": ('[dark]\nmark = "derive"\n', "`dark.mark` stands alone"),
}


@pytest.mark.parametrize("shape", REFUSED)
def test_what_needs_a_mark_says_so(tmp_path: Path, rivelt: Command, shape: str) -> None:
    lines, said = REFUSED[shape]
    root = laid_out(tmp_path, f'[light]\nground = "#F3EBDD"\n{lines}')
    refused = rivelt("apply", cwd=root)
    assert (refused.code, said in refused.err) == (2, True)


def test_a_starter_brief_without_a_mark(tmp_path: Path, rivelt: Command) -> None:
    write_tree(tmp_path, {path: text for path, text in small_android().items() if path != "rivelt.toml"})
    assert rivelt("brief", "--ground", "navy").code == 0
    assert '# mark = "art/mark.svg"' in (tmp_path / "rivelt.toml").read_text()
    assert rivelt("apply").code == 0
