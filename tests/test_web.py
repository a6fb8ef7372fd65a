"""Web apps: manifests and pages of every manner, and what a real browser makes of the result."""

from __future__ import annotations

import json
import os
import random
import re
from pathlib import Path
from typing import Any

import pytest
import pyvips

from chromium import browser, open_page
from conftest import BRIEF, MARK, Command, read_tree, write_tree
from rivelt.platforms.web.facts import every_screen
from rivelt.platforms.web.native.media import matches
from rivelt.scene.model import Screen
from rivelt.units import LOOKS

needs_browser = pytest.mark.skipif(
    browser() is None and not os.environ.get("CI"), reason="needs Chromium: apt-get install chromium"
)
PLAIN = BRIEF + '[dark]\nground = "#13212B"\n[web]\nscreens = ["iPhone 15", "iPad mini"]\n'
TWO_LOOKS = PLAIN + "icons = true\ntheme = true\nstartup = true\n"
MANIFEST = '{\n  "name": "Tern",\n  "start_url": ".",\n  "display": "standalone"\n}\n'
PAGE = """<!doctype html>
<html>
<head>
  <title>Tern</title>
  <link rel="manifest" href="{}">
</head>
</html>
"""

# The tree; the manifest; the page (None: there is none); what the links begin with.
SHAPES: dict[str, tuple[dict[str, str | bytes], str, str | None, str]] = {
    "side by side": (
        {"index.html": PAGE.format("app.webmanifest"), "app.webmanifest": MANIFEST},
        "app.webmanifest",
        "index.html",
        "rivelt/",
    ),
    "static folder, from the root": (
        {"index.html": PAGE.format("/manifest.json?v=2"), "public/manifest.json": MANIFEST},
        "public/manifest.json",
        "index.html",
        "/rivelt/",
    ),
    "placeholder": (
        {"public/index.html": PAGE.format("%PUBLIC_URL%/manifest.json"), "public/manifest.json": MANIFEST},
        "public/manifest.json",
        "public/index.html",
        "%PUBLIC_URL%/rivelt/",
    ),
    "template": (
        {"src/index.html": PAGE.format("<%= base %>assets/m.json"), "src/assets/m.json": MANIFEST},
        "src/assets/m.json",
        "src/index.html",
        "<%= base %>assets/rivelt/",
    ),
    "CRLF, tabs, BOM, no last line end, void elements closed": (
        {
            "w/index.html": b"\xef\xbb\xbf"
            + PAGE.format("m.json")
            .replace('json">', 'json" />')
            .replace("  <", "\t<")
            .rstrip()
            .replace("\n", "\r\n")
            .encode(),
            "w/m.json": b"\xef\xbb\xbf" + MANIFEST.replace("  ", "\t").rstrip().replace("\n", "\r\n").encode(),
        },
        "w/m.json",
        "w/index.html",
        "rivelt/",
    ),
    "minified": (
        {
            "index.html": "<!doctype html><head><meta name=theme-color content=#000000><link rel=manifest href=m.json></head>",
            "m.json": '{"name":"Tern","display":"standalone","icons":[{"src":"a.png","sizes":"192x192 512x512"},{"src":"b.svg","sizes":"any"}]}',
        },
        "m.json",
        "index.html",
        "rivelt/",
    ),
    "theme colours, startup links and a capable meta already there": (
        {
            "index.html": PAGE.format("m.json").replace(
                "<title>",
                '<meta name="theme-color" media="(prefers-color-scheme: dark)" content="#000000">\n  <meta name="apple-mobile-web-app-capable" content="yes">\n'
                '  <link rel="apple-touch-startup-image" href="old.png">\n  <title>',
            ),
            "m.json": MANIFEST.replace('"display"', '"theme_color" : "#fff",\n  "display"'),
            "old.png": b"x",
        },
        "m.json",
        "index.html",
        "rivelt/",
    ),
    "not linked": (
        {"index.html": "<html><head></head></html>", "manifest.json": MANIFEST},
        "manifest.json",
        "index.html",
        "rivelt/",
    ),
    "no page": ({"static/manifest.webmanifest": MANIFEST}, "static/manifest.webmanifest", None, "rivelt/"),
    "copies and extensions are not sites": (
        {
            "index.html": PAGE.format("app.webmanifest"),
            "app.webmanifest": MANIFEST,
            "dist/index.html": PAGE.format("app.webmanifest"),
            "dist/app.webmanifest": MANIFEST,
            "android/app/src/main/assets/public/manifest.json": MANIFEST,
            "extension/manifest.json": '{"manifest_version": 3, "name": "x", "icons": {}}',
            "data/manifest.json": '{"name": "not ours"}',
        },
        "app.webmanifest",
        "index.html",
        "rivelt/",
    ),
}


def app(tmp_path: Path, files: dict[str, str | bytes], brief: str = TWO_LOOKS) -> Path:
    return write_tree(tmp_path / "tern", {"rivelt.toml": brief, "mark.svg": MARK, **files})


@pytest.mark.parametrize("shape", SHAPES)
def test_every_web_root_is_edited_once_and_back(tmp_path: Path, rivelt: Command, shape: str) -> None:
    files, manifest, page, base = SHAPES[shape]
    root = app(tmp_path, files)
    before = read_tree(root)
    found = rivelt("survey", "--json", cwd=root).json["sites"]
    assert [site["site"] for site in found] == [manifest]
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    after = read_tree(root)
    old, new = (json.loads(tree[manifest].decode("utf-8-sig")) for tree in (before, after))
    assert {key: value for key, value in new.items() if key not in {"background_color", "theme_color", "icons"}} == {
        key: value for key, value in old.items() if key not in {"theme_color", "icons"}
    }
    assert (new["background_color"], new["theme_color"]) == ("#F3EBDD", "#F3EBDD")
    folder = manifest.rpartition("/")[0]
    assert_icons(root / folder, new["icons"])
    target = page or f"{folder}/rivelt/head.html"
    text = after[target].decode("utf-8-sig")
    assert text.count("apple-touch-startup-image") == text.count(f'href="{base}start-') == 8
    assert text.count("apple-mobile-web-app-capable") == 1
    for content in (after[manifest], after[target]):
        assert content.count(b"\n") == content.count(b"\r\n") if b"\r\n" in before[manifest] else b"\r" not in content
    for path in (manifest, target):
        assert after[path].startswith(b"\xef\xbb\xbf") == before.get(path, b"").startswith(b"\xef\xbb\xbf")
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")
    changed = {path for path in before if before[path] != after[path]}
    assert changed == {manifest, *([page] if page else [])}
    shown = rivelt("proof", "--now", "--json", "--screens", "iPhone 15", "--out", tmp_path / "p.png", cwd=root)
    if page:
        assert {scene["ground"] for scene in shown.json["scenes"] if scene["look"] == "dark"} == {"#13212B"}
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def assert_icons(folder: Path, icons: list[dict[str, str]]) -> None:
    ours = [icon for icon in icons if icon["src"].startswith("rivelt/")]
    assert [(icon["sizes"], icon["purpose"]) for icon in ours] == [
        (f"{side}x{side}", purpose) for side in (192, 512) for purpose in ("any", "maskable")
    ]
    assert not [icon for icon in icons if icon["src"] == "a.png"], "an icon of the same sizes gives way"
    for icon in ours:
        image = pyvips.Image.new_from_file(str(folder / icon["src"]))
        side = int(icon["sizes"].partition("x")[0])
        assert (image.width, image.height) == (side, side)
        if icon["purpose"] == "maskable":
            assert image.bands == 3
            # Outside the circle that no mask cuts there is only ground.
            ring = pyvips.Image.xyz(side, side) - [(side - 1) / 2] * 2
            outside = ((ring[0] ** 2 + ring[1] ** 2) ** 0.5 > side * 0.4).ifthenelse(255, 0)
            marked = (image - [0xF3, 0xEB, 0xDD]).abs().bandmean() > 2
            assert (marked & outside).max() == 0
            assert marked.avg() > 20
        else:
            assert image.bands == 4 or image.interpretation == "srgb"


def test_a_second_apply_replaces_just_its_own_lines(tmp_path: Path, rivelt: Command) -> None:
    files, _, _, _ = SHAPES["side by side"]
    root = app(tmp_path, files)
    assert rivelt("apply", cwd=root).code == 0
    page = root / "index.html"
    page.write_text(page.read_text().replace("<title>Tern", '<meta name="author" content="us">\n  <title>Terns'))
    (root / "rivelt.toml").write_text(TWO_LOOKS.replace('"iPhone 15", ', "").replace("#13212B", "#F3EBDD"))
    assert rivelt("apply", cwd=root).code == 0
    text = page.read_text()
    assert text.count("apple-touch-startup-image") == 2
    assert text.count("theme-color") == 1
    assert "prefers-color-scheme" not in text
    assert '<meta name="author" content="us">\n  <title>Terns' in text
    assert len(list(root.glob("rivelt/start-*"))) == 2
    page.write_text(text.replace("<!-- rivelt: end of the launch screen -->", ""))
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert "index.html:7: " in refused.err
    assert "one of the two comments round Rivelt's lines is missing" in refused.err


@pytest.mark.parametrize(
    ("files", "message"),
    [
        ({"index.html": PAGE.format("m.json"), "m.json": '{"name": "x",}'}, "m.json:1:"),
        ({"index.html": PAGE.format("m.json"), "m.json": "[]"}, "the file holds no JSON object"),
        ({"a.webmanifest": "<html>"}, "a.webmanifest:1:1: "),
        ({"index.html": PAGE.format("m.json").encode("utf-16"), "m.json": MANIFEST, "m.webmanifest": "{"}, "not JSON"),
    ],
)
def test_what_is_no_manifest_is_told_and_the_rest_goes_on(
    tmp_path: Path, rivelt: Command, files: dict[str, str | bytes], message: str
) -> None:
    root = app(tmp_path, files)
    done = rivelt("apply", cwd=root)
    assert done.code in (1, 2)
    assert message in done.err
    write_tree(root, {"other/app.webmanifest": MANIFEST})
    assert rivelt("apply", cwd=root).code == 1
    assert "#F3EBDD" in (root / "other/app.webmanifest").read_text()


def test_screens_bound_the_number_of_files_and_the_weight_is_said_first(tmp_path: Path, rivelt: Command) -> None:
    files, _, _, _ = SHAPES["side by side"]
    counts = {}
    for screens in ('"all"', '"current"', '["iPhone Air"]'):
        root = app(tmp_path, files, BRIEF + f"[web]\nscreens = {screens}\n")
        told = rivelt("apply", "--dry-run", "--json", cwd=root).json["weights"][0]
        counts[screens] = told["images"]
        assert told["bytes"] > 10_000
    assert counts['"all"'] > counts['"current"'] > counts['["iPhone Air"]'] == 6
    root = app(tmp_path, files, BRIEF + '[web]\nscreens = ["iFone"]\n')
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert "rivelt.toml:8:11: " in refused.err
    assert "no iPhone or iPad is called iFone" in refused.err


USUAL = re.compile(r"((screen|all) and )?\([a-z-]+: [a-z0-9-]+\)( and \([a-z-]+: [a-z0-9-]+\))*")
PHONE = Screen("web", "", "", 390, 844, 3, 17, variant="home screen")
SIDE = Screen("web", "", "", 844, 390, 3, 17, variant="home screen")


@pytest.mark.parametrize(
    ("query", "upright", "side"),
    [
        ("(device-width: 390px) and (orientation: portrait)", True, False),
        ("screen and (device-width: 390px) and (device-height: 844px) and (-webkit-device-pixel-ratio: 3)", True, True),
        ("(orientation: landscape), (min-device-width: 391px)", False, True),
        ("(-webkit-min-device-pixel-ratio: 2) and (max-device-width: 400px)", True, True),
        ("print", False, False),
        ("(hover: hover)", None, None),
        ("(hover: hover) and (orientation: landscape)", False, None),
        ("(prefers-color-scheme: light)", True, True),
        ("not all", False, False),
        ("(device-width: 390)", False, False),
        ("(prefers-color-scheme)", True, True),
        ("not (orientation: landscape)", True, False),
        ("(390px <= width < 844px)", True, False),
        ("(hover) or (not (hover))", True, True),
        ("(min-width: calc(20em + 70px)) and (resolution: 288dpi)", True, True),
        ("(aspect-ratio: 390/844), (aspect-ratio > 2)", True, True),
        ("screen and and (width)", False, False),
        (f"(min-width: {'9' * 9000}px)", False, False),
    ],
)
def test_media_queries_match_as_browsers_do(query: str, upright: bool | None, side: bool | None) -> None:
    assert [matches([query], screen, "light")[0] for screen in (PHONE, SIDE)] == [upright, side]


NUMBERS = ("0", "1", "2", "3", "390", "844", "-1", "1.5", "0.5", "calc(1 + 2)", "calc(3)")
LENGTHS = (
    "390px",
    "844px",
    "0",
    "390",
    "24.375em",
    "10cm",
    "4in",
    "292.5pt",
    "calc(300px + 90px)",
    "calc(2 * 195px)",
    "calc(844px - 1em)",
    "-1px",
    "5q",
    "calc(390)",
)
RESOLUTIONS = ("3dppx", "2x", "288dpi", "1dpcm", "96dpi", "3", "calc(1x + 2x)", "0dpi")
RATIOS = ("390/844", "844/390", "1/1", "16 / 9", "1.5", "0/1", "390px/844px", "1/0", "2")
VALUES = {
    "width": LENGTHS,
    "height": LENGTHS,
    "device-width": LENGTHS,
    "device-height": LENGTHS,
    "aspect-ratio": RATIOS,
    "device-aspect-ratio": RATIOS,
    "resolution": RESOLUTIONS,
    "-webkit-device-pixel-ratio": NUMBERS,
    "color": NUMBERS,
    "monochrome": NUMBERS,
    "orientation": ("portrait", "landscape", "square", "PORTRAIT"),
    "prefers-color-scheme": ("light", "dark", "no-preference"),
    "grid": ("0", "1", "2"),
    "tide": ("high", "1"),
}


def feature_text(dice: random.Random) -> str:
    name = dice.choice(list(VALUES))
    value = dice.choice(VALUES[name])
    shape = dice.random()
    if shape < 0.12:
        return f"({name})"
    if shape < 0.5 or name in {"orientation", "prefers-color-scheme", "grid", "tide"}:
        return f"({name}: {value})"
    if shape < 0.75:
        bound = dice.choice(("min-", "max-"))
        return f"({name.replace('-webkit-', f'-webkit-{bound}') if '-webkit-' in name else bound + name}: {value})"
    sign = dice.choice(("<", "<=", ">", ">=", "=", " < ", " >= ", "< ="))
    if shape < 0.85:
        return f"({name} {sign} {value})"
    if shape < 0.92:
        return f"({value} {sign} {name})"
    return f"({value} {sign} {name} {dice.choice((sign, '<', '>='))} {dice.choice(VALUES[name])})"


def query_text(dice: random.Random, depth: int = 0) -> str:
    shape = dice.random()
    if depth > 2 or shape < 0.45:
        inner = feature_text(dice)
    elif shape < 0.6:
        inner = f"not {dice.choice((feature_text(dice), f'({query_text(dice, depth + 1)})'))}"
    else:
        joint = dice.choice((" and ", " and ", " or "))
        inner = joint.join(
            dice.choice((feature_text(dice), f"({query_text(dice, depth + 1)})")) for _ in range(dice.randint(2, 3))
        )
    if depth == 0 and dice.random() < 0.3:
        kind = dice.choice(
            ("screen", "all", "only screen", "not all", "print", "not print", "tide", "only", "not screen")
        )
        inner = dice.choice((kind, f"{kind} and {inner}"))
    if depth == 0 and dice.random() < 0.1:
        inner = dice.choice(
            (
                f"{inner}, {query_text(dice, 1)}",
                f"{inner} and",
                f"{inner} ()",
                f"/* x */ {inner}",
                inner.upper(),
                f"({inner}",
                "",
            )
        )
    return inner


def test_queries_of_the_usual_form_are_read_as_all_others_are() -> None:
    dice = random.Random(21)
    queries = list(dict.fromkeys(query_text(dice) for _ in range(3000)))
    usual = [query for query in queries if USUAL.fullmatch(query)]
    assert len(usual) > 100
    assert any(" and " in query and query.startswith("screen and (") for query in usual)
    # One that begins with a comment is taken apart into tokens.
    for screen in (PHONE, SIDE):
        assert matches(usual, screen, "light") == matches([f"/**/{query}" for query in usual], screen, "light")


@needs_browser
def test_random_media_queries_match_as_in_chromium(tmp_path: Path) -> None:
    dice = random.Random(20)
    queries = [query_text(dice) for _ in range(3000)]
    (tmp_path / "empty.html").write_text('<!doctype html><meta name="viewport" content="width=device-width">')
    decided = 0
    with open_page(tmp_path / "empty.html", tmp_path / "profile") as page:
        for width, height, scale, look in ((390, 844, 3, "light"), (844, 390, 3, "dark"), (820, 1180, 2, "dark")):
            short, long = sorted((width, height))
            page.call(
                "Emulation.setDeviceMetricsOverride",
                width=width,
                height=height,
                screenWidth=short,
                screenHeight=long,
                deviceScaleFactor=scale,
                mobile=True,
            )
            page.call("Emulation.setEmulatedMedia", features=[{"name": "prefers-color-scheme", "value": look}])
            theirs = page.run(f"{json.dumps(queries)}.map((query) => matchMedia(query).matches)")
            screen = Screen("web", "", "", width, height, scale, 17, variant="home screen")
            ours = matches(queries, screen, "dark" if look == "dark" else "light")
            wrong = [
                (query, mine, its)
                for query, mine, its in zip(queries, ours, theirs, strict=True)
                if mine is not None and mine != its
            ]
            assert not wrong, (len(wrong), wrong[:12])
            decided += sum(mine is not None for mine in ours)
    assert decided == 3 * len(queries), "nothing in them depends on the person"


@needs_browser
def test_on_every_screen_exactly_one_startup_image_matches_and_has_its_size(tmp_path: Path, rivelt: Command) -> None:
    files, _, _, _ = SHAPES["side by side"]
    root = app(tmp_path, files, BRIEF + '[dark]\nground = "#13212B"\n')
    assert rivelt("apply", cwd=root).code == 0
    links = "[...document.querySelectorAll('link[rel=apple-touch-startup-image]')].filter((l) => matchMedia(l.media).matches).map((l) => l.href)"
    theme = "[...document.querySelectorAll('meta[name=theme-color]')].find((m) => !m.media || matchMedia(m.media).matches).content"
    seen: dict[Any, int] = {}
    with open_page(root / "index.html", tmp_path / "profile") as page:
        for screen in every_screen():
            if screen.variant != "home screen":
                continue
            short, long = sorted((int(screen.width), int(screen.height)))
            page.call(
                "Emulation.setDeviceMetricsOverride",
                width=int(screen.width),
                height=int(screen.height),
                screenWidth=short,
                screenHeight=long,
                deviceScaleFactor=screen.scale,
                mobile=True,
            )
            for look in LOOKS:
                page.call("Emulation.setEmulatedMedia", features=[{"name": "prefers-color-scheme", "value": look}])
                matching = page.run(links)
                assert len(matching) == 1, (screen, look, matching)
                image = pyvips.Image.new_from_file(matching[0].removeprefix("file://"))
                assert (image.width, image.height) == screen.frame.size.pixels(screen.scale)
                assert image.bands == 3
                ground = {"light": [0xF3, 0xEB, 0xDD], "dark": [0x13, 0x21, 0x2B]}[look]
                assert image.getpoint(0, 0) == ground
                assert page.run(theme).upper() == "#" + bytes(ground).hex().upper()
                seen[matching[0]] = seen.get(matching[0], 0) + 1
    assert len(seen) == len(list(root.glob("rivelt/start-*"))), "every file is shown by some screen"


# The app's identity is the app's: what is there stays, unless the brief asks for it


ICONS = '"icons": [{"src": "launcher-icon-192.png", "sizes": "192x192"}, {"src": "app-512.png", "sizes": "512x512"}]'
OWN = MANIFEST.replace('"display"', f'"theme_color": "#AA0000",\n  {ICONS},\n  "display"')
THEMED = PAGE.format("m.json").replace("<title>", '<meta name="theme-color" content="#AA0000">\n  <title>')


def icons_of(root: Path) -> list[str]:
    return [icon["src"] for icon in json.loads((root / "m.json").read_text())["icons"]]


def test_icons_and_theme_colours_that_are_there_stay(tmp_path: Path, rivelt: Command) -> None:
    files: dict[str, str | bytes] = {
        "index.html": THEMED,
        "m.json": OWN,
        "launcher-icon-192.png": b"x",
        "app-512.png": b"x",
    }
    root = app(tmp_path, files, PLAIN)
    done = rivelt("apply", "--json", cwd=root)
    assert done.code == 0, done.err
    assert done.json["unused"] == []
    assert icons_of(root) == ["launcher-icon-192.png", "app-512.png"]
    assert json.loads((root / "m.json").read_text())["theme_color"] == "#AA0000"
    page = (root / "index.html").read_text()
    assert page.count("theme-color") == 1
    assert page.count("apple-touch-startup-image") == 8
    assert "keeps its theme_color #AA0000; theme = true under [web]" in " ".join(done.json["notes"])
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    (root / "rivelt.toml").write_text(TWO_LOOKS)
    asked = rivelt("apply", "--json", cwd=root)
    assert "launcher-icon-192.png, app-512.png give way to the brief's icons" in " ".join(asked.json["notes"])
    assert all(src.startswith("rivelt/") for src in icons_of(root))
    page = (root / "index.html").read_text()
    assert (page.count("theme-color"), "#AA0000" in page) == (2, False)
    assert "Nothing to do" in rivelt("apply", cwd=root).out


def test_what_is_missing_is_added_and_follows_the_brief(tmp_path: Path, rivelt: Command) -> None:
    one = OWN.replace(', {"src": "app-512.png", "sizes": "512x512"}', "").replace('"theme_color": "#AA0000",\n  ', "")
    root = app(tmp_path, {"index.html": PAGE.format("m.json"), "m.json": one}, PLAIN)
    assert rivelt("apply", cwd=root).code == 0
    assert icons_of(root) == ["launcher-icon-192.png", "rivelt/icon-512.png", "rivelt/icon-maskable-512.png"]
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    (root / "rivelt.toml").write_text(PLAIN.replace("#F3EBDD", "#E0EBDD"))
    assert rivelt("apply", cwd=root).code == 0
    after = json.loads((root / "m.json").read_text())
    assert (after["background_color"], after["theme_color"]) == ("#E0EBDD", "#E0EBDD")


def test_a_manifest_without_a_page_gets_nothing_that_nothing_links(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, {"static/m.webmanifest": MANIFEST}, PLAIN)
    done = rivelt("apply", cwd=root)
    assert "no page links static/m.webmanifest: no startup images are made" in done.out + done.err
    assert not list(root.glob("static/rivelt/start-*"))
    assert not (root / "static/rivelt/head.html").exists()
    assert "#F3EBDD" in (root / "static/m.webmanifest").read_text()


BASED = PAGE.format("m.json").replace("<title>", '<base href="/app/">\n  <title>')
INERT = PAGE.format("m.json").replace(
    "<title>",
    '<template><link rel="manifest" href="other.json"></template><noscript><meta name="theme-color" content="#000"></noscript>\n  <title>',
)


def test_base_and_inert_parts_of_a_page_are_honoured(tmp_path: Path, rivelt: Command) -> None:
    root = app(tmp_path, {"index.html": BASED, "app/m.json": MANIFEST, "m.json": MANIFEST}, PLAIN)
    sites = rivelt("survey", "--json", cwd=root).json["sites"]
    assert "index.html" in next(site for site in sites if site["site"] == "app/m.json")["facts"]["pages that link it"]
    assert rivelt("apply", "--only", "web", cwd=root).code == 0
    scenes = rivelt("proof", "--now", "--json", "--screens", "iPhone 15", "--out", tmp_path / "p.png", cwd=root).json[
        "scenes"
    ]
    assert {scene["ground"] for scene in scenes if scene["site"] == "app/m.json"} == {"#F3EBDD", "#13212B"}
    root = app(tmp_path / "inert", {"index.html": INERT, "m.json": MANIFEST, "other.json": MANIFEST}, PLAIN)
    assert rivelt("apply", cwd=root).code == 0
    page = (root / "index.html").read_text()
    assert page.count('name="theme-color" media') == 2, "that in <noscript> is not a second one"


def test_an_app_in_the_browser_shows_no_launch_screen(tmp_path: Path, rivelt: Command) -> None:
    for keys, shows in (
        ('"display": "browser"', False),
        ('"display": "browser", "display_override": ["window-controls-overlay"]', True),
        ('"display": "minimal-ui"', True),
    ):
        manifest = MANIFEST.replace('"display": "standalone"', keys)
        root = app(tmp_path / str(len(keys)), {"index.html": PAGE.format("m.json"), "m.json": manifest}, PLAIN)
        scenes = rivelt("proof", "--now", "--json", "--out", tmp_path / "p.png", cwd=root).json["scenes"]
        assert all(bool(scene["layers"]) == shows for scene in scenes)
        assert (rivelt("check", "--select", "WEB06", "--fail-on", "note", cwd=root).code == 0) == shows


# What a build serves


ASSETS = (
    '{{"projects": {{"tern": {{"sourceRoot": "src", "architect": {{"build": {{"options": {{"assets": [{}]}}}}}}}}}}}}'
)
ANGULAR: dict[str, str | bytes] = {
    "src/index.html": PAGE.format("manifest.webmanifest"),
    "src/manifest.webmanifest": MANIFEST,
    "src/favicon.ico": b"x",
}


def package(**dependencies: str) -> str:
    return json.dumps(
        {"name": "tern", "dependencies": {name.replace("_", "/"): version for name, version in dependencies.items()}}
    )


# The tree; where the images go; what icons in the manifest begin with; what is reported; other files that change.
BUILDS: dict[str, tuple[dict[str, str | bytes], str, str, str, set[str]]] = {
    "an older Angular app": (
        {
            **ANGULAR,
            "angular.json": ASSETS.format('"src/favicon.ico", "src/assets", "src/manifest.webmanifest"'),
            "src/assets/a.png": b"x",
        },
        "src/assets/rivelt",
        "assets/rivelt/",
        "",
        set(),
    ),
    "Angular, files alone": (
        {**ANGULAR, "angular.json": ASSETS.format('\n  "src/favicon.ico",\n  "src/manifest.webmanifest"\n')},
        "src/rivelt",
        "rivelt/",
        "",
        {"angular.json"},
    ),
    "a newer Angular app": (
        {
            "src/index.html": PAGE.format("manifest.webmanifest"),
            "public/manifest.webmanifest": MANIFEST,
            "angular.json": ASSETS.format('{"glob": "**/*", "input": "public"}'),
        },
        "public/rivelt",
        "rivelt/",
        "",
        set(),
    ),
    "Angular, a pattern with an output": (
        {
            **ANGULAR,
            "angular.json": ASSETS.format(
                '{"glob": "**/*", "input": "src/media", "output": "/m"}, "src/manifest.webmanifest"'
            ),
            "src/media/a.png": b"x",
        },
        "src/media/rivelt",
        "m/rivelt/",
        "",
        set(),
    ),
    "Vite": (
        {
            "index.html": PAGE.format("/m.webmanifest"),
            "public/m.webmanifest": MANIFEST,
            "vite.config.ts": "export default {}",
            "package.json": package(vite="5"),
        },
        "public/rivelt",
        "rivelt/",
        "",
        set(),
    ),
    "Vite with a folder of its own": (
        {
            "index.html": PAGE.format("/m.webmanifest"),
            "files/m.webmanifest": MANIFEST,
            "vite.config.js": "export default { publicDir: 'files' }",
        },
        "files/rivelt",
        "rivelt/",
        "",
        set(),
    ),
    "Vite, worked out by code": (
        {
            "index.html": PAGE.format("/m.webmanifest"),
            "files/m.webmanifest": MANIFEST,
            "vite.config.js": "export default { publicDir: dir }",
        },
        "files/rivelt",
        "rivelt/",
        "whether files/rivelt is served is not known: publicDir in vite.config.js is worked out by code",
        set(),
    ),
    "SvelteKit": (
        {
            "src/app.html": PAGE.format("%sveltekit.assets%/m.webmanifest"),
            "static/m.webmanifest": MANIFEST,
            "package.json": package(**{"@sveltejs_kit": "2"}),
            "vite.config.js": "",
        },
        "static/rivelt",
        "rivelt/",
        "",
        set(),
    ),
    "Nuxt 2": (
        {
            "app.html": PAGE.format("/m.webmanifest"),
            "static/m.webmanifest": MANIFEST,
            "package.json": package(nuxt="^2.15.0"),
        },
        "static/rivelt",
        "rivelt/",
        "",
        set(),
    ),
    "a builder that is not read": (
        {
            "src/index.html": PAGE.format("m.webmanifest"),
            "src/m.webmanifest": MANIFEST,
            "package.json": package(webpack="5"),
        },
        "src/rivelt",
        "rivelt/",
        "package.json builds with webpack: which folders it serves is not read",
        set(),
    ),
}


@pytest.mark.parametrize("shape", BUILDS)
def test_images_go_where_the_build_serves_them(tmp_path: Path, rivelt: Command, shape: str) -> None:
    files, folder, prefix, said, others = BUILDS[shape]
    root = app(tmp_path, files, PLAIN)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert said in done.out + done.err
    assert len(list(root.glob(f"{folder}/start-*"))) == 8
    manifest = next(path for path in files if path.endswith(".webmanifest"))
    icons = json.loads((root / manifest).read_text())["icons"]
    assert {icon["src"].rpartition("icon")[0] for icon in icons} == {
        prefix,
        f"{prefix}icon-maskable-".rpartition("icon")[0],
    }
    changed = {path for path, data in before.items() if (root / path).read_bytes() != data}
    assert changed == {manifest, next(path for path in files if path.endswith(".html")), *others}
    if others:
        assert '"src/manifest.webmanifest",\n  "src/rivelt"' in (root / "angular.json").read_text()
    verdicts = {one["verdict"] for one in rivelt("check", "--select", "WEB07", "--json", cwd=root).json["findings"]}
    assert verdicts == ({"unknown"} if said else {"holds"})
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    scenes = rivelt("proof", "--now", "--json", "--screens", "iPhone 15", "--out", tmp_path / "p.png", cwd=root).json[
        "scenes"
    ]
    assert {scene["ground"] for scene in scenes} == {"#F3EBDD", "#13212B"}
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_what_is_not_served_is_told(tmp_path: Path, rivelt: Command) -> None:
    icon = MANIFEST.replace('"display"', '"icons": [{"src": "icons/a.png", "sizes": "192x192"}],\n  "display"')
    tree = {**ANGULAR, "src/manifest.webmanifest": icon, "src/icons/a.png": b"x"}
    for assets, said in (
        ('"src/favicon.ico"', "src/manifest.webmanifest is not served: the app cannot be installed"),
        ('"src/manifest.webmanifest"', "src/icons/a.png is in no folder that the build serves"),
    ):
        root = app(tmp_path / said[:9].replace("/", "-"), {**tree, "angular.json": ASSETS.format(assets)}, PLAIN)
        told = rivelt("check", "--select", "WEB07", cwd=root)
        assert (told.code, said in told.out) == (1, True)
