"""Windows packages and web apps that Rivelt never touched: what they show, worked out from their files alone."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest
import pyvips

from conftest import Command, write_tree
from rivelt import opening
from rivelt.colour import Colour
from rivelt.platforms import platform
from rivelt.platforms.web.facts import HOME_SCREEN
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Picture, Scene, Screen, TextBox
from test_web import MANIFEST, PAGE
from test_windows import TEN

SPLASH = '<uap:SplashScreen Image="{}" BackgroundColor="{}"/>'


def png(width: int, height: int) -> bytes:
    return bytes(pyvips.Image.black(width, height, bands=3).copy(interpretation="srgb").pngsave_buffer())


def scene_of(target: str, files: Mapping[str, Any], screen: Screen, look: str = "light") -> Scene:
    snapshot = Project.of_files(
        {path: text if isinstance(text, bytes) else text.encode() for path, text in files.items()}
    )
    (site,) = platform(target).survey(snapshot)
    return platform(target).scene(snapshot, site, screen, "dark" if look == "dark" else "light")


def window(percent: int, variant: str = "") -> Screen:
    return Screen("windows", "window", "Windows", 960, 600, percent / 100, 10, variant=variant)


# The files of the images; percent; high contrast; the file that is shown; its size in effective px.
IMAGES: dict[str, tuple[dict[str, tuple[int, int]], int, str, str, tuple[float, float]]] = {
    "without a qualifier": ({"a.png": (620, 300)}, 200, "", "a.png", (620, 300)),
    "the exact scale": (
        {"a.scale-100.png": (620, 300), "a.scale-200.png": (1240, 600)},
        200,
        "",
        "a.scale-200.png",
        (620, 300),
    ),
    "the next larger": (
        {"a.scale-100.png": (620, 300), "a.scale-400.png": (2480, 1200)},
        150,
        "",
        "a.scale-400.png",
        (620, 300),
    ),
    "the largest there is": (
        {"a.scale-100.png": (620, 300), "a.scale-125.png": (775, 375)},
        400,
        "",
        "a.scale-125.png",
        (620, 300),
    ),
    "in a folder of its scale": ({"scale-200/a.png": (1240, 600)}, 200, "", "scale-200/a.png", (620, 300)),
    "of another size": ({"a.scale-200.png": (600, 600)}, 200, "", "a.scale-200.png", (300, 300)),
    "upper and lower case": ({"A.Scale-200.PNG": (1240, 600)}, 200, "", "A.Scale-200.PNG", (620, 300)),
    "high contrast": (
        {"a.scale-200.png": (9, 9), "a.scale-200_contrast-black.png": (1240, 600)},
        200,
        "black",
        "a.scale-200_contrast-black.png",
        (620, 300),
    ),
    "high contrast, none of its own": (
        {"a.scale-200.png": (1240, 600), "a.scale-200_contrast-white.png": (9, 9)},
        200,
        "black",
        "a.scale-200.png",
        (620, 300),
    ),
    "of other languages": (
        {"a.lang-de.png": (9, 9), "de-DE/a.png": (9, 9), "a.scale-100.png": (620, 300)},
        100,
        "",
        "a.scale-100.png",
        (620, 300),
    ),
}


@pytest.mark.parametrize("shape", IMAGES)
def test_the_image_that_windows_would_take_is_shown_at_its_own_size(shape: str) -> None:
    files, percent, variant, shown, size = IMAGES[shape]
    tree = {f"win/Assets/{path}": png(*pixels) for path, pixels in files.items()}
    manifest = TEN.format(SPLASH.format("Assets\\a.png", "navy"))
    found = scene_of("windows", {**tree, "win/Package.appxmanifest": manifest}, window(percent, variant))
    (picture,) = [layer for layer in found.layers if isinstance(layer, Picture)]
    assert picture.source == f"win/Assets/{shown}"
    assert picture.rect == ((960 - size[0]) / 2, (600 - size[1]) / 2, *size)


# The launch element; the ground; what is reported.
GROUNDS: dict[str, tuple[str, Colour | None, str]] = {
    "hex": (SPLASH.format("Assets\\a.png", "#102030"), Colour(16, 32, 48), "launch image"),
    "a name as the schema writes it": (
        SPLASH.format("Assets\\a.png", "lightGray"),
        Colour(211, 211, 211),
        "launch image",
    ),
    "transparent": (SPLASH.format("Assets\\a.png", "transparent"), None, "the system takes its accent colour"),
    "that of the tile": ('<uap:SplashScreen Image="Assets\\a.png"/>', None, "the system takes its accent colour"),
    "no colour": (SPLASH.format("Assets\\a.png", "sandy"), None, "not a colour that a package manifest may hold"),
    "no image": ('<uap:SplashScreen BackgroundColor="#102030"/>', Colour(16, 32, 48), "no launch image"),
    "an image that is not there": (
        SPLASH.format("Assets\\b.png", "#102030"),
        Colour(16, 32, 48),
        "has no file in the package",
    ),
    "an image that is none": (SPLASH.format("Assets\\c.png", "#102030"), Colour(16, 32, 48), "is not an image"),
}


@pytest.mark.parametrize("shape", GROUNDS)
def test_what_cannot_be_told_of_a_package_is_said(shape: str) -> None:
    element, ground, said = GROUNDS[shape]
    files = {"Package.appxmanifest": TEN.format(element), "Assets/a.png": png(620, 300), "Assets/c.png": b"no image"}
    found = scene_of("windows", files, window(100))
    assert found.ground == ground
    assert said in " ".join((found.title, *found.unknowns))


PHONE = Screen("web", "iPhone", "iOS", 390, 844, 3, 17, variant=HOME_SCREEN)
ANDROID = Screen("web", "phone", "Android", 412, 915, 2.625, 14, variant="phone")
DESKTOP = Screen("web", "window", "desktop", 960, 600, 1, 120, variant="window")
LINK = '<link rel="apple-touch-startup-image" href="{}"{}><title>'
EXACT = {"s.png": png(1170, 2532)}

# The page's title replaced by links; more files; the manifest; what is reported.
HOME: dict[str, tuple[str, dict[str, bytes], str, str]] = {
    "one for all": (LINK.format("s.png", ""), EXACT, MANIFEST, "startup image s.png"),
    "one that fits": (LINK.format("s.png", ' media="(device-width: 390px)"'), EXACT, MANIFEST, "startup image s.png"),
    "one for another": (
        LINK.format("s.png", ' media="(device-width: 391px)"'),
        EXACT,
        MANIFEST,
        "no startup image matches",
    ),
    "two": (
        LINK.format("s.png", "") + "</title>" + LINK.format("s.png", ""),
        EXACT,
        MANIFEST,
        "2 startup images match this screen",
    ),
    "a query of the future": (
        LINK.format("s.png", ' media="(hover: hover)"'),
        EXACT,
        MANIFEST,
        "the media query (hover: hover) is unknown",
    ),
    "of another size": (
        LINK.format("s.png", ""),
        {"s.png": png(10, 10)},
        MANIFEST,
        "s.png is 10 x 10, the screen 1170 x 2532",
    ),
    "not there": (LINK.format("s.png", ""), {}, MANIFEST, "s.png is not an image of the project"),
    "in the browser": (
        LINK.format("s.png", ""),
        EXACT,
        MANIFEST.replace("standalone", "browser"),
        "it opens in the browser",
    ),
    "an app by its own word": (
        LINK.format("s.png", "").replace("<title>", '<meta name="apple-mobile-web-app-capable" content="yes"><title>'),
        EXACT,
        MANIFEST.replace("standalone", "browser"),
        "startup image s.png",
    ),
}


@pytest.mark.parametrize("shape", HOME)
def test_a_home_screen_shows_the_one_image_that_matches(shape: str) -> None:
    links, more, manifest, said = HOME[shape]
    files = {"index.html": PAGE.format("m.webmanifest").replace("<title>", links), "m.webmanifest": manifest, **more}
    found = scene_of("web", files, PHONE)
    assert said in " ".join((found.title, *found.unknowns))
    assert any(isinstance(layer, Picture) for layer in found.layers) == said.startswith("startup image")


@pytest.mark.parametrize(
    ("more", "ground", "icon"),
    [
        ("", Colour(255, 255, 255), None),
        ('"background_color": "rebeccapurple", ', Colour(102, 51, 153), None),
        ('"background_color": "nothing", ', None, None),
        (
            '"icons": [{"src": "i.png", "sizes": "48x48"}, {"src": "j.png", "sizes": "512x512", "purpose": "maskable"}], ',
            Colour(255, 255, 255),
            "i.png",
        ),
        (
            '"icons": [{"src": "i.png", "sizes": "48x48"}, {"src": "j.png", "sizes": "512x512", "purpose": "any maskable"}], ',
            Colour(255, 255, 255),
            "j.png",
        ),
        ('"icons": [{"src": "lost.png", "sizes": "512x512"}], ', Colour(255, 255, 255), None),
    ],
)
def test_an_installed_app_starts_on_its_colour_with_icon_and_name(
    more: str, ground: Colour | None, icon: str | None
) -> None:
    files = {
        "m.webmanifest": MANIFEST.replace('"start_url"', more + '"start_url"'),
        "i.png": png(48, 48),
        "j.png": png(512, 512),
    }
    for look in ("light", "dark"):
        found = scene_of("web", files, ANDROID, look)
        assert found.ground == ground
        assert [layer.source for layer in found.layers if isinstance(layer, Picture)] == ([icon] if icon else [])
        assert [layer.text for layer in found.layers if isinstance(layer, TextBox)] == ["Tern"]
        assert bool(found.unknowns) == (icon is None or ground is None)
        desktop = scene_of("web", files, DESKTOP, look)
        assert all(isinstance(layer, Fill) for layer in desktop.layers) or ground is None


def test_both_are_surveyed_and_proved_without_a_brief(tmp_path: Path, rivelt: Command) -> None:
    files: dict[str, str | bytes] = {
        "web/index.html": PAGE.format("m.webmanifest"),
        "web/m.webmanifest": MANIFEST,
        "win/Package.appxmanifest": TEN.format(SPLASH.format("Assets\\a.png", "#102030")),
        "win/Assets/a.png": png(620, 300),
    }
    root = write_tree(tmp_path / "tern", files)
    told = rivelt("survey", cwd=root)
    assert told.code == 0
    assert "a white screen: no startup image matches" in told.out
    assert "uap, Windows 10" in told.out
    done = rivelt("proof", root, "--only", "windows", "--json", "--out", tmp_path / "p.png")
    assert {scene["ground"] for scene in done.json["scenes"]} == {"#102030"}
    assert [site.target for site in opening.open_folder(root, only=["web"]).sites] == ["web"]
    assert {finding.code for finding in opening.open(root).check().findings} == {"SCN03", "WEB01", "WEB03", "WIN06"}
