"""check and explain: every rule holds on the applied sample, and each one sees what is corrupt for it."""

from __future__ import annotations

import json
import re
import shutil
import xml.etree.ElementTree as ET
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from types import SimpleNamespace
from typing import cast
from urllib.parse import quote, unquote

import jsonschema
import pytest
import pyvips

from conftest import BRIEF as SMALL
from conftest import MARK, STYLES, Command, read_tree, small_android, write_tree
from rivelt import opening
from rivelt.errors import BadInput, Place
from rivelt.platforms.rulebooks import catalogue, explain
from rivelt.rules.books import SITES
from rivelt.rules.rulebook import Rulebook, Said, broken
from rivelt.rules.runner import Choice, judge
from rivelt.scene.model import Picture
from rivelt.values import replace

RES = "android/app/src/main/res"
MANIFEST = "android/app/src/main/AndroidManifest.xml"
ACTIVITY = "android/app/src/main/java/example/skerryline/app/MainActivity.kt"
PLIST = "ios/Skerryline/Info.plist"
STORYBOARD = "ios/Skerryline/RiveltLaunch.storyboard"
XCODE = "ios/Skerryline.xcodeproj/project.pbxproj"
SETS = "ios/Skerryline/Assets.xcassets"
PACKAGE, PROJECT = "windows/Package.appxmanifest", "windows/Skerryline.csproj"
WEB, PAGE = "web/manifest.webmanifest", "web/index.html"
BRIEF = "rivelt.toml"
Spoil = Callable[[Path], object]


def png(width: int, height: int) -> bytes:
    flat = pyvips.Image.black(width, height, bands=4).linear([1, 1, 1, 1], [200, 40, 40, 255])
    return bytes(flat.cast("uchar").copy(interpretation="srgb").pngsave_buffer())


def swap(path: str, old: str, new: str) -> Spoil:
    """Replace a pattern in every file that a glob finds; it must be there."""

    def corrupt(root: Path) -> None:
        found = [file for file in root.glob(path) if re.search(old, file.read_text())]
        assert found, (path, old)
        for file in found:
            file.write_bytes(re.sub(old, new, file.read_bytes().decode()).encode())

    return corrupt


def put(path: str, content: bytes | str) -> Spoil:
    def corrupt(root: Path) -> None:
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_bytes(content if isinstance(content, bytes) else content.encode())

    return corrupt


def repaint(path: str, change: Callable[[pyvips.Image], pyvips.Image]) -> Spoil:
    def corrupt(root: Path) -> None:
        for file in root.glob(path):
            changed = change(pyvips.Image.new_from_buffer(file.read_bytes(), "").colourspace("srgb"))
            file.write_bytes(changed.cast("uchar").pngsave_buffer())

    return corrupt


def drop(*paths: str) -> Spoil:
    def corrupt(root: Path) -> None:
        for path in paths:
            shutil.rmtree(root / path) if (root / path).is_dir() else (root / path).unlink()

    return corrupt


def both(*corrupts: Spoil) -> Spoil:
    def corrupt(root: Path) -> None:
        for one in corrupts:
            one(root)

    return corrupt


ITEM = r'\s*<item name="postSplashScreenTheme">[^<]*</item>'
IN_ONCREATE = r"super\.onCreate\(savedInstanceState\)"
ICON = swap(f"{RES}/values*/rivelt_launch.xml", "@drawable/rivelt_mark", "@drawable/other")
VECTOR = '<vector xmlns:android="http://schemas.android.com/apk/res/android" android:width="{}dp" android:height="{}dp" android:viewportWidth="9" android:viewportHeight="9"><path android:pathData="M0,0h9v9h-9z" android:fillColor="#FF0000"/></vector>'
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="80">{}</svg>'
GIF = pyvips.Image.black(400, 400, bands=3).bandjoin(255).copy(interpretation="srgb")


def verdicts_of(root: Path, code: str) -> set[str]:
    return {one.verdict for one in opening.open(root).check(select=[code]).results}


def light_alone(contents: Path) -> None:
    value = json.loads(contents.read_text())
    value["images"] = [entry for entry in value["images"] if "appearances" not in entry]
    contents.write_text(json.dumps(value))


def moving(root: Path) -> None:
    frames = pyvips.Image.arrayjoin([GIF, GIF.draw_circle([200, 0, 0, 255], 200, 200, 90, fill=True)], across=1).copy()
    frames.set_type(pyvips.GValue.gint_type, "page-height", 400)
    (root / "art/mark.webp").write_bytes(frames.webpsave_buffer(lossless=True))
    swap(BRIEF, r"art/mark\.svg", "art/mark.webp")(root)


# For each rule: what breaks it, and a word of what is reported.
BROKEN: dict[str, tuple[Spoil, str]] = {
    "AND01": (swap(ACTIVITY, r"installSplashScreen\(\)[^\n]*", ""), "never calls installSplashScreen"),
    "AND02": (
        swap(MANIFEST, "@style/rivelt_launch", "@style/Theme.Skerryline"),
        "but starts with @style/Theme.Skerryline",
    ),
    "AND03": (swap(f"{RES}/values*/rivelt_launch.xml", ITEM, ""), "has no postSplashScreenTheme"),
    "AND04": (swap(f"{RES}/values-night/rivelt_launch.xml", ITEM, ""), "values-night lacks postSplashScreenTheme"),
    "AND05": (drop(f"{RES}/values-night-v31", f"{RES}/values-night-v33"), "values-night wins over values-v31"),
    "AND06": (
        swap(f"{RES}/values/rivelt_launch.xml", 'name="windowSplash', 'name="android:windowSplash'),
        "older systems do not know it",
    ),
    "AND07": (
        both(ICON, put(f"{RES}/drawable/other.xml", VECTOR.format(288, 200))),
        "the launch icon is 288dp x 200dp",
    ),
    "AND08": (both(ICON, put(f"{RES}/drawable/other.xml", VECTOR.format(288, 288))), "all beyond 96 dp is cut away"),
    "AND09": (both(ICON, put(f"{RES}/drawable/other.png", png(288, 288))), "blurred on every newer phone"),
    "AND10": (put(f"{RES}/drawable-mdpi/rivelt_imprint.png", png(100, 100)), "the image at the foot is 100 x 100"),
    "AND11": (
        swap(
            f"{RES}/values/rivelt_launch.xml",
            '(<item name="postSplash)',
            r'<item name="windowSplashScreenAnimationDuration">1500</item>\1',
        ),
        "1500 ms",
    ),
    "AND12": (
        swap(
            ACTIVITY,
            IN_ONCREATE,
            "super.onCreate(savedInstanceState)\n        list.postDelayed({ startActivity(next); finish() }, 900)",
        ),
        "a second launch screen",
    ),
    "AND13": (
        swap(ACTIVITY, IN_ONCREATE, "super.onCreate(savedInstanceState)\n        Thread.sleep(2000)"),
        "the launcher sleeps",
    ),
    "AND14": (put(f"{RES}/drawable/Logo-Big.xml", VECTOR.format(9, 9)), "refused at build time"),
    "AND15": (put(f"{RES}/drawable-mdpi/rivelt_imprint.xml", VECTOR.format(9, 9)), "two resources of one name"),
    "AND16": (
        both(swap(f"{RES}/drawable/rivelt_window.xml", 'android:gravity="[^"]*"', 'android:gravity="fill"')),
        "is stretched",
    ),
    "AND17": (
        swap(MANIFEST, 'android:theme="@style/Theme.Skerryline"', 'android:theme="@style/rivelt_launch"'),
        ".TicketActivity inherits",
    ),
    "AND18": (
        swap(ACTIVITY, r"installSplashScreen\(\)", "installSplashScreen().setKeepOnScreenCondition { true }"),
        "never goes",
    ),
    "AND19": (
        lambda root: write_tree(root, {f"{RES.replace('main', 'spring')}/values/names.xml": "<resources/>"}),
        "no variant has a source set spring",
    ),
    "AND20": (
        swap(ACTIVITY, r"(\s+)installSplashScreen\(\)([^\n]*)", r"\1enableEdgeToEdge()\1installSplashScreen()\2"),
        "enableEdgeToEdge comes before installSplashScreen(...)",
    ),
    "AND21": (
        swap(
            f"{RES}/values/rivelt_launch.xml",
            "(<style[^>]*>)",
            r'\1<item name="android:windowDisablePreview">true</item>',
        ),
        "no launch screen is shown: android:windowDisablePreview is true in @style/rivelt_launch",
    ),
    "AND22": (
        swap(f"{RES}/values-v31/rivelt_launch.xml", "@drawable/rivelt_mark", "@drawable/rivelt_mrak"),
        "@drawable/rivelt_mrak does not exist",
    ),
    "AND23": (
        swap(f"{RES}/values-v31/rivelt_launch.xml", "windowSplashScreenBrandingImage", "windowSplashScreenBrandImage"),
        "there is no attribute android:windowSplashScreenBrandImage",
    ),
    "AND24": (
        swap(f"{RES}/values-v31/rivelt_launch.xml", 'parent="Theme.SplashScreen"', 'parent="Theme.Skerryline"'),
        "values-v31 makes the launch screen without the compatibility library",
    ),
    "AND25": (
        put(f"{RES}/drawable-xhdpi-night/other.xml", VECTOR.format(9, 9)),
        "the qualifiers of drawable-xhdpi-night are unknown, or not in Android's order",
    ),
    "AND26": (
        swap(f"{RES}/values/rivelt_launch.xml", "#FFF3EBDD", "#CCF3EBDD"),
        "the ground #CCF3EBDD is not opaque",
    ),
    "AND27": (
        both(
            ICON,
            put(
                f"{RES}/drawable/other.xml",
                VECTOR.format(288, 288).replace("<path ", '<path android:fillType="evenOdd" '),
            ),
        ),
        "the holes are filled there",
    ),
    "AND28": (
        swap(f"{RES}/values-v31/rivelt_launch.xml", '(name="android:windowLightStatusBar">)true', r"\1false"),
        "the icons of the status bar are white on #F3EBDD (light): 1.2:1",
    ),
    "IOS01": (
        swap(PLIST, r"<key>UILaunchStoryboardName</key>\s*<string>[^<]*</string>", ""),
        "the app runs letterboxed",
    ),
    "IOS02": (swap(PLIST, "(<key>UILaunchStoryboardName)", r"<key>UILaunchScreen</key><dict/>\1"), "declares both"),
    "IOS03": (swap(PLIST, "<string>RiveltLaunch</string>", "<string>Nowhere</string>"), "is not in target Skerryline"),
    "IOS04": (
        swap(
            STORYBOARD,
            "</subviews>",
            '<label text="Ahoy" id="x"><rect key="frame" x="0" y="0" width="9" height="9"/></label></subviews>',
        ),
        "'Ahoy'",
    ),
    "IOS05": (
        swap(STORYBOARD, "<viewController id", '<viewController customClass="Opening" id'),
        "cannot use the class Opening",
    ),
    "IOS06": (drop(f"{SETS}/RiveltMark.imageset/RiveltMark@3x.png"), "RiveltMark@3x.png is listed, but is not there"),
    "IOS07": (put(f"{SETS}/RiveltMark.imageset/RiveltMark@2x.png", png(200, 160)), "2x is 100 x 80 points"),
    "IOS08": (
        lambda root: light_alone(root / f"{SETS}/RiveltMark.imageset/Contents.json"),
        "the image on it is the light one",
    ),
    "IOS09": (
        swap(
            STORYBOARD,
            r'(<constraint firstItem="rvl-mk-0001" firstAttribute="centerX"[^>]*?) id=',
            r'\1 constant="-40" id=',
        ),
        "40 points left of the middle",
    ),
    "IOS14": (
        swap(STORYBOARD, r'<constraint firstItem="rvl-mk-0001" firstAttribute="centerX"[^>]*>', ""),
        "leave open where it is horizontally",
    ),
    "IOS15": (
        swap(PLIST, "<string>RiveltLaunch</string>", "<string>RiveltLaunch.storyboard</string>"),
        "RiveltLaunch.storyboard is named with its extension",
    ),
    "IOS16": (swap(STORYBOARD, 'image="RiveltMark"', 'image="RiveltMrak"'), "the image RiveltMrak is named"),
    "IOS17": (
        both(
            swap(STORYBOARD, 'image="RiveltMark"', 'image="Harbour"'),
            put("ios/Aside.xcassets/Harbour.imageset/Contents.json", '{"images": []}'),
        ),
        "the image Harbour is in ios/Aside.xcassets, which is not part of the shipped app",
    ),
    "IOS18": (
        swap(XCODE, r"IPHONEOS_DEPLOYMENT_TARGET = [\d.]+", "IPHONEOS_DEPLOYMENT_TARGET = 10.3"),
        "the named colour RiveltGround needs iOS 11, and configuration Debug runs from iOS 10 on",
    ),
    "IOS19": (
        both(
            swap(XCODE, r"IPHONEOS_DEPLOYMENT_TARGET = [\d.]+", "IPHONEOS_DEPLOYMENT_TARGET = 13.0"),
            swap(
                PLIST,
                r"<key>UILaunchStoryboardName</key>\s*<string>RiveltLaunch</string>",
                "<key>UILaunchScreen</key><dict/>",
            ),
        ),
        "runs from iOS 13 on: there the app runs letterboxed",
    ),
    "IOS20": (
        swap(XCODE, r"IPHONEOS_DEPLOYMENT_TARGET = [\d.]+", "IPHONEOS_DEPLOYMENT_TARGET = 12.4"),
        "no dark look before iOS 13, and configuration Debug runs from iOS 12 on",
    ),
    "IOS10": (swap(STORYBOARD, 'constant="24"', 'constant="-30"'), "reaches out of the safe area"),
    "IOS11": (
        both(swap(STORYBOARD, "scaleAspectFit", "scaleToFill"), swap(STORYBOARD, 'constant="106"', 'constant="180"')),
        "is stretched by",
    ),
    "IOS12": (put(f"{SETS}/RiveltMark.imageset/RiveltMark@3x.png", png(2800, 2800)), "MB decoded"),
    "IOS13": (
        swap(
            PLIST,
            "(<key>UILaunchStoryboardName)",
            r"<key>UIStatusBarStyle</key><string>UIStatusBarStyleLightContent</string>\1",
        ),
        "cannot be read",
    ),
    "WIN01": (swap(PACKAGE, "RiveltLaunch.png", "Lost.png"), r"Assets\Lost.png has no file"),
    "WIN02": (put("windows/Assets/RiveltLaunch.scale-200.png", png(620, 300)), "at 200 % it must be 1240 x 600"),
    "WIN03": (put("windows/Assets/RiveltLaunch.scale-400.png", png(9, 9) + b" " * 200_000), "at most 200 kB"),
    "WIN04": (swap(PACKAGE, "#F3EBDD", "#F3EBD"), "#F3EBD is not a colour"),
    "WIN05": (swap(PROJECT, r".*RiveltLaunch\.scale-400\.png.*\n", ""), "scale-400.png is not listed"),
    "WIN06": (drop(*(f"windows/Assets/RiveltLaunch.scale-{scale}.png" for scale in (200, 400))), "for 150 %"),
    "WEB01": (swap(WEB, r'"background_color": "[^"]*",\n', ""), "has no background_color"),
    "WEB02": (swap(WEB, '("theme_color": )"[^"]*"', r'\1"sand"'), "theme_color is 'sand'"),
    "WEB03": (put("web/rivelt/icon-512.png", png(64, 64)), "is 64 x 64, not 512x512"),
    "WEB04": (swap(PAGE, r" and \(prefers-color-scheme: (?:light|dark)\)", ""), "several startup images match"),
    "WEB05": (put("web/rivelt/start-1179x2556@3x.png", png(100, 100)), "is 100 x 100"),
    "WEB06": (swap(WEB, "standalone", "browser"), "opens in the browser"),
    "UPL01": (drop("uploads/custom-360x640-dark.png"), "custom-360x640-dark.png is not there"),
    "SIT01": (swap(MANIFEST, "</application>", ""), "not well-formed XML"),
    "SIT02": (
        swap(BRIEF, r"\[web\]", "[check]\nmost_bytes = { web = 9_000 }\n\n[web]"),
        "bytes, ",
    ),
    "ART01": (put("art/mark.svg", SVG.format('<text y="40" font-size="40">Ahoy</text>')), "holds text"),
    "ART02": (
        both(put("art/mark.png", png(300, 300)), swap(BRIEF, r"art/mark\.svg", "art/mark.png")),
        "too few pixels",
    ),
    "ART03": (
        put("art/mark.svg", SVG.format('<rect width="100" height="80" rx="4" fill="#F0E8DA"/>')),
        "is hard to see on #F3EBDD",
    ),
    "ART04": (
        put(
            "art/mark.svg",
            SVG.format('<rect width="100" height="80" fill="#fff"/><circle cx="50" cy="40" r="20" fill="#123"/>'),
        ),
        "baked in",
    ),
    "ART05": (moving, "2 frames"),
    "ART06": (
        both(
            put("art/b.png", png(400, 3000)),
            swap(BRIEF, r'imprint = "art/imprint\.svg"', r'imprint = "art/imprint.svg"\nbackdrop = "art/b.png"'),
            swap(BRIEF, r"\[layout\]", "[layout]\nfocus = [0.5, 0.01]"),
        ),
        "the focus of",
    ),
    "ART11": (
        swap(
            BRIEF,
            r"\Z",
            '\n[edition.gala]\nlight.mark = "art/imprint.svg"\nandroid.module = "android/app"\nandroid.source_set = "debug"\n',
        ),
        "edition gala has a mark of its own",
    ),
    "ART12": (
        put(
            "art/mark.svg",
            SVG.format('<path d="M5 5h90v70h-90zM5 40h90" fill="none" stroke="#123" stroke-width=".4"/>'),
        ),
        "mark.svg has strokes of",
    ),
    "ART08": (swap(BRIEF, 'mark_size = "fit"', "mark_size = 400"), "is drawn"),
    "ART09": (swap("art/mark.svg", "</svg>", "<!--" + "x" * 5_100_000 + "--></svg>"), "weighs 5.1 MB"),
    "ART10": (drop("art/mark.svg"), "does not exist"),
    "SCN01": (
        swap(f"{RES}/drawable-night-anydpi-v24/rivelt_mark.xml", "(?i)#[0-9a-f]{6,8}", "#13222C"),
        "this image is hard to tell from #13212B (dark): 0% of its outline",
    ),
    "SCN02": (
        repaint(f"{SETS}/RiveltImprint.imageset/RiveltImprint-dark@*.png", lambda image: image.flatten(background=255)),
        "stands in a box of #FFFFFF on #13212B (dark)",
    ),
    "SCN03": (
        lambda root: [
            path.write_bytes((root / RES / "drawable-mdpi/rivelt_imprint.png").read_bytes())
            for path in root.glob(f"{RES}/drawable-*/rivelt_imprint.png")
        ],
        "this image is shown 3.0 times as large as its pixels allow, on Android",
    ),
    "SCN04": (
        repaint(f"{RES}/drawable-*/rivelt_imprint.png", lambda image: image * 0),
        "this image shows nothing (light)",
    ),
    "SCN05": (
        repaint(f"{RES}/drawable-land*/rivelt_imprint.png", lambda image: image * 0 + [31, 110, 125, 255]),
        "rivelt_mark.xml and rivelt_imprint.png overlap by",
    ),
    "HND01": (
        lambda root: put(BRIEF, (root / BRIEF).read_text() + '\n[handoff]\nfirst_ground = "#FF0000"\n')(root),
        "a flash (light): the first screen is #FF0000",
    ),
    "DRF01": (swap(BRIEF, "#F3EBDD", "#FFEEDD"), "apply would change "),
    "DRF02": (
        swap(f"{RES}/values/rivelt_launch.xml", "</resources>", "<!-- mine --></resources>"),
        "a person has edited",
    ),
    "DRF03": (lambda _root: None, "nothing uses this launch image"),
}
SINGLE = {"NET01", "NET02", "NET03", "NET04"}  # tests/test_dotnet.py: the sample is not a single project
RECORDED = {f"REP{number:02}" for number in range(1, 12)}  # tests/test_replay.py: they judge recordings
SEEN_ELSEWHERE = {
    "ART07",
    "HND02",
    "WEB07",
    "WIN07",
    *SINGLE,
    *RECORDED,
}  # a derived mark is in tests/test_art_colour.py, a waiting screen below


_PLATFORM_WORDS = ("android:", "values", "display", "background", "mark", "install", "set", "window", "iOS")


def test_catalogue_code_and_samples_hold_together() -> None:
    assert set(BROKEN) | SEEN_ELSEWHERE == set(catalogue())
    for code, rule in catalogue().items():
        words = rule.words
        for text in (words.means, words.sees, words.why, words.fix, words.title):
            assert text[0].isupper() or text.startswith(_PLATFORM_WORDS), code
            assert "!" not in text


def test_a_budget_is_for_a_platform_that_there_is_and_unknown_before_anything_is_made(
    sample: Path, rivelt: Command
) -> None:
    brief = sample / BRIEF
    text = brief.read_text()
    brief.write_text(f"{text}\n[check]\nmost_bytes = {{ andriod = 5 }}\n")
    refused = rivelt("check", cwd=sample)
    assert refused.code == 2
    assert "andriod" in refused.err
    assert "android" in refused.err.partition("andriod")[2]
    brief.write_text(f"{text}\n[check]\nmost_bytes = {{ android = 5_000_000, ios = 5 }}\n")
    now = rivelt("check", "--select", "SIT02", "--json", cwd=sample).json["findings"]
    assert {one["site"].split()[0] for one in now if one["verdict"] == "unknown"} == {"android", "ios"}
    planned = rivelt("check", "--planned", "--select", "SIT02", "--json", cwd=sample)
    assert planned.code == 1
    broken = [one for one in planned.json["findings"] if one["verdict"] == "broken"]
    assert len(broken) == 1
    assert rivelt("apply", cwd=sample).code == 0
    after = rivelt("check", "--select", "SIT02", "--json", cwd=sample)
    assert [one["message"] for one in after.json["findings"] if one["verdict"] == "broken"] == [broken[0]["message"]]


def test_every_rule_holds_on_the_applied_sample(applied: Path) -> None:
    report = opening.open(applied).check()
    states = {(one.code, one.verdict) for one in report.results}
    held = {code for code in catalogue() if code != "DRF03"} - SINGLE - RECORDED
    assert states == {(code, "holds") for code in held} | {("DRF03", "broken")}


@pytest.mark.parametrize("code", BROKEN)
def test_each_rule_sees_what_is_spoilt_for_it(applied: Path, tmp_path: Path, code: str) -> None:
    root = tmp_path / "skerryline"
    shutil.copytree(applied, root)
    corrupt, word = BROKEN[code]
    corrupt(root)
    before = read_tree(root)
    report = opening.open(root).check(select=[code])
    assert report.findings, report.results
    assert word in "\n".join(finding.message for finding in report.findings)
    assert all(finding.code == code for finding in report.findings)
    assert read_tree(root) == before, "a check writes nothing"


@pytest.mark.parametrize("code", ["SCN01", "SCN02", "SCN03", "SCN04", "SCN05", "AND08"])
def test_a_proof_marks_what_is_wrong_on_each_screen_alone(applied: Path, tmp_path: Path, code: str) -> None:
    """After a check, whose results are used again; held against every rule asked of every screen."""
    root = tmp_path / "skerryline"
    shutil.copytree(applied, root)
    BROKEN[code][0](root)
    job = opening.open(root)
    job.check()
    proof = job.prove(now=True)
    found, expected = [], []
    alone = opening.open(root)
    for (site, scene), (_, its) in zip(alone.prove(now=True).scenes, proof.scenes, strict=True):
        sources = {layer.source for layer in scene.layers if isinstance(layer, Picture)}
        here = alone.now.judge_by(SITES, site, alone.choice(), (scene,))
        expected.append({one.code for one in here if one.verdict == "broken" and one.path in sources})
        found.append({one for mark in proof.marks_of(its) for one in mark.codes if one in SITES.rules})
    assert found == expected
    assert any(found) or code in {"SCN05", "AND08"}, "what is wrong with these is on screens that are not usual"


def test_what_is_broken_is_sound_as_apply_would_leave_it_and_fix_makes_it_so(sample: Path, rivelt: Command) -> None:
    before = read_tree(sample)
    found = rivelt("check", "--ignore", "DRF", cwd=sample)
    assert found.code == 1
    assert "IOS04" in found.out
    assert "<label opaque" in found.out
    planned = rivelt("check", "--planned", "--json", cwd=sample)
    assert planned.code == 0
    assert {one["verdict"] for one in planned.json["findings"]} == {"holds"}
    alone = rivelt("check", "--fix", "--select", "IOS", cwd=sample)
    assert alone.code == 0, alone.out
    changed = {path for path, content in read_tree(sample).items() if before.get(path) != content}
    assert {path.partition("/")[0] for path in changed} == {"ios", ".rivelt", "rivelt.lock"}
    assert rivelt("undo", cwd=sample).code == 0
    assert read_tree(sample) == before
    mended = rivelt("check", "--fix", "--json", cwd=sample)
    assert mended.code == 0, mended.out
    again = rivelt("check", "--json", cwd=sample)
    assert again.json == mended.json, "what is reported is what is there"
    assert "fixed: HND01, IOS04, SCN02, SCN03, WEB01, WEB03" in mended.err
    assert rivelt("undo", cwd=sample).code == 0
    assert read_tree(sample) == before


def test_a_waiting_screen_that_differs_is_seen(sample: Path, rivelt: Command) -> None:
    brief = sample / BRIEF
    brief.write_text(brief.read_text() + "\n[ios]\nwaiting = true\n")
    assert rivelt("apply", "--only", "ios", cwd=sample).code == 0
    assert verdicts_of(sample, "HND02") == {"holds"}
    swap("ios/Skerryline/RiveltWaiting.storyboard", 'constant="24"', 'constant="90"')(sample)
    (finding, *_) = opening.open(sample).check(select=["HND02"]).findings
    assert "RiveltImprint@3x.png jumps by 66 pt" in finding.message


LAYOUT = f"{RES}/layout/rivelt_waiting.xml"
_WRAPPED = (
    '<ImageView\n        android:layout_width="288dp"',
    '<LinearLayout android:layout_width="9dp"><View /></LinearLayout><ImageView\n        android:layout_width="288dp"',
)


@pytest.mark.parametrize(
    ("old", "new", "told"),
    [
        ('"center"', '"center|top"', "jumps by 256 dp"),
        ('"288dp"', '"200dp"', "jumps by 88 dp"),
        (
            'android:src="@drawable/rivelt_mark"',
            'android:src="@drawable/rivelt_mark" android:padding="10dp"',
            "jumps by 20 dp",
        ),
        ('android:src="@drawable/rivelt_mark"', 'android:src="@drawable/rivelt_mark" android:scaleType="center"', None),
        (
            'android:src="@drawable/rivelt_mark"',
            'android:src="@drawable/rivelt_mark" android:scaleType="matrix"',
            "scaleType",
        ),
        ('android:src="@drawable/rivelt_mark"', 'android:src="@drawable/rivelt_mark" android:visibility="gone"', None),
        ('"288dp"', '"wrap_content"', None),
        ('"288dp"', '"@dimen/nowhere"', "is unknown"),
        (*_WRAPPED, "<LinearLayout> in"),
        ("</FrameLayout>", "", "not well-formed"),
    ],
)
def test_a_layout_of_the_first_moment_is_worked_out(
    sample: Path, rivelt: Command, old: str, new: str, told: str | None
) -> None:
    brief = sample / BRIEF
    brief.write_text(brief.read_text() + "\n[android]\nwaiting = true\n")
    assert rivelt("apply", "--only", "android", cwd=sample).code == 0
    assert verdicts_of(sample, "HND02") == {"holds"}
    swap(LAYOUT, old, new)(sample)
    report = opening.open(sample).check(select=["HND02"])
    said = [one.message for one in (*report.findings, *report.unknown)]
    assert any(told in words for words in said) if told else not said


def test_a_picture_that_cannot_be_read_is_never_fine(applied: Path, tmp_path: Path) -> None:
    root = tmp_path / "skerryline"
    shutil.copytree(applied, root)
    for path in root.glob(f"{RES}/drawable-*/rivelt_imprint.png"):
        path.write_bytes(path.read_bytes()[:60])
    unknown = {one.site: one.message for one in opening.open(root).check(select=["SCN01"]).unknown}
    assert set(unknown) == {"android android/app"}
    assert "rivelt_imprint.png" in unknown["android android/app"]


def test_what_the_circle_leaves_of_a_bitmap_is_measured(applied: Path, tmp_path: Path) -> None:
    root = tmp_path / "skerryline"
    shutil.copytree(applied, root)
    for path in root.glob(f"{RES}/*anydpi*/rivelt_mark.xml"):
        path.unlink()
    assert verdicts_of(root, "AND08") == {"holds"}
    for path in root.glob(f"{RES}/drawable-*/rivelt_mark.png"):
        path.write_bytes(png(100, 100))
    (finding, *_) = opening.open(root).check(select=["AND08"]).findings
    assert "reaches 204 dp from the middle" in finding.message


def test_a_project_without_a_brief_is_judged(applied: Path, tmp_path: Path, rivelt: Command) -> None:
    root = tmp_path / "theirs"
    shutil.copytree(applied, root)
    (root / BRIEF).unlink()
    assert (
        rivelt("check", root, "--ignore", "WEB04").code == 0
    )  # startup images for one iPhone and one iPad were wanted
    swap(ACTIVITY, r"installSplashScreen\(\)[^\n]*", "")(root)
    told = rivelt("check", root)
    assert told.code == 1
    assert (
        f"error AND01: theirs/{ACTIVITY}:13:18: .MainActivity starts with a theme of the compatibility library"
        in told.out
    )
    assert "\n    override fun onCreate(savedInstanceState: Bundle?) {\n                 ^\n" in told.out
    for option in ("--planned", "--fix"):
        without = rivelt("check", root, option)
        assert (without.code, "without a brief" in without.err) == (2, True)
    assert rivelt("check", root, "--fail-on", "never").code == 0
    assert rivelt("check", root, "--ignore", "and", "--ignore", "WEB04").code == 0


# The parts of SARIF 2.1.0 that a log of Rivelt's may use, from the specification (OASIS, sections 3.13 to 3.30); nothing else is allowed.
SARIF = {
    "type": "object",
    "required": ["version", "runs"],
    "additionalProperties": False,
    "properties": {
        "$schema": {"type": "string", "format": "uri"},
        "version": {"const": "2.1.0"},
        "runs": {"type": "array", "items": {"$ref": "#/$defs/run"}},
    },
    "$defs": {
        "message": {
            "type": "object",
            "required": ["text"],
            "additionalProperties": False,
            "properties": {"text": {"type": "string"}},
        },
        "level": {"enum": ["none", "note", "warning", "error"]},
        "run": {
            "type": "object",
            "required": ["tool"],
            "additionalProperties": False,
            "properties": {
                "tool": {
                    "type": "object",
                    "required": ["driver"],
                    "additionalProperties": False,
                    "properties": {"driver": {"$ref": "#/$defs/driver"}},
                },
                "originalUriBaseIds": {"type": "object"},
                "columnKind": {"enum": ["utf16CodeUnits", "unicodeCodePoints"]},
                "results": {"type": "array", "items": {"$ref": "#/$defs/result"}},
            },
        },
        "driver": {
            "type": "object",
            "required": ["name"],
            "additionalProperties": False,
            "properties": {
                "name": {"type": "string"},
                "semanticVersion": {"type": "string"},
                "informationUri": {"type": "string", "format": "uri", "pattern": "^[a-z]+:"},
                "rules": {"type": "array", "uniqueItems": True, "items": {"$ref": "#/$defs/rule"}},
            },
        },
        "rule": {
            "type": "object",
            "required": ["id"],
            "additionalProperties": False,
            "properties": {
                "id": {"type": "string"},
                "helpUri": {"type": "string", "format": "uri", "pattern": "^[a-z]+:"},
                **{name: {"$ref": "#/$defs/message"} for name in ("shortDescription", "fullDescription", "help")},
                "defaultConfiguration": {
                    "type": "object",
                    "additionalProperties": False,
                    "properties": {"level": {"$ref": "#/$defs/level"}},
                },
            },
        },
        "result": {
            "type": "object",
            "required": ["message"],
            "additionalProperties": False,
            "if": {"properties": {"kind": {"const": "open"}}},
            "then": {"properties": {"level": {"const": "none"}}},
            "properties": {
                "ruleId": {"type": "string"},
                "ruleIndex": {"type": "integer", "minimum": 0},
                # Section 3.27.10: a result that is not a failure has the level "none".
                "kind": {"enum": ["pass", "open", "informational", "notApplicable", "review", "fail"]},
                "level": {"$ref": "#/$defs/level"},
                "message": {"$ref": "#/$defs/message"},
                "partialFingerprints": {"type": "object", "additionalProperties": {"type": "string"}},
                "locations": {"type": "array", "items": {"$ref": "#/$defs/location"}},
            },
        },
        "location": {
            "type": "object",
            "additionalProperties": False,
            "properties": {
                "physicalLocation": {
                    "type": "object",
                    "required": ["artifactLocation"],
                    "additionalProperties": False,
                    "properties": {
                        "artifactLocation": {
                            "type": "object",
                            "additionalProperties": False,
                            "properties": {
                                "uri": {"type": "string", "format": "uri-reference"},
                                "uriBaseId": {"type": "string"},
                            },
                        },
                        "region": {
                            "type": "object",
                            "additionalProperties": False,
                            "properties": {
                                name: {"type": "integer", "minimum": 1} for name in ("startLine", "startColumn")
                            },
                        },
                    },
                }
            },
        },
    },
}


# What the sample is found to have before anything is applied; the launcher icon stands in a box in both looks.
UNTOUCHED = ["HND01", "IOS04", "SCN02", "SCN02", "SCN03", "SCN03", "SCN03", "WEB01", "WEB03"]


def test_findings_are_written_for_machines(sample: Path, rivelt: Command) -> None:
    sarif = json.loads(rivelt("check", "--format", "sarif", cwd=sample).out)
    jsonschema.validate(sarif, SARIF)
    (run,) = sarif["runs"]
    for result in run["results"]:
        assert run["tool"]["driver"]["rules"][result["ruleIndex"]]["id"] == result["ruleId"]
    assert [result["ruleId"] for result in run["results"] if result["kind"] == "fail"] == UNTOUCHED
    assert {result["ruleId"] for result in run["results"] if result["kind"] == "open"} == {"DRF01", "DRF02", "DRF03"}
    assert all(re.match(r"https://|pkg:", rule["helpUri"]) for rule in run["tool"]["driver"]["rules"])
    prints = [result["partialFingerprints"]["rivelt/v1"] for result in run["results"]]
    assert len(set(prints)) == len(prints)
    board = sample / "ios/Skerryline/Base.lproj/LaunchScreen.storyboard"
    board.write_text(board.read_text().replace("\n", "\n\n", 3))
    moved = json.loads(rivelt("check", "--format", "sarif", cwd=sample).out)["runs"][0]["results"]
    assert [result["partialFingerprints"]["rivelt/v1"] for result in moved] == prints, "lines that move change nothing"
    assert moved != run["results"]
    board.write_text(board.read_text().replace("\n\n", "\n", 3))
    suites = ET.fromstring(rivelt("check", "--format", "junit", cwd=sample).out)
    cases = suites.findall("testsuite/testcase")
    assert len(cases) == int(suites.get("tests", "0"))
    assert sum(case.find("failure") is not None for case in cases) == int(suites.get("failures", "0")) == 9
    assert sum(case.find("skipped") is not None for case in cases) == int(suites.get("skipped", "0")) == 3
    lines = rivelt("check", "--format", "annotations", cwd=sample).out.splitlines()
    begin, end = 0, lines.index("::endgroup::")
    assert re.fullmatch(r"::group::rivelt: 9 warnings; \d+ passed, 3 unknown", lines[begin])
    assert lines[end + 2].startswith(
        "::warning file=ios/Skerryline/Base.lproj/LaunchScreen.storyboard,line=19,title=IOS04,col=29::"
    )
    assert len(lines) - end - 1 == len(UNTOUCHED)
    compiled = rivelt("check", "--format", "compiler", cwd=sample).out.splitlines()
    assert compiled == lines[begin + 1 : end]
    found = [
        re.fullmatch(r"([^:]+):(\d+):(\d+): (error|warning|note): (.+) \[([A-Z]{3}\d\d)\]", line) for line in compiled
    ]
    assert [one[6] for one in found if one is not None] == [*UNTOUCHED, "DRF01", "DRF02", "DRF03"]
    xcode = rivelt("check", "--format", "compiler", cwd=sample, env={"XCODE_VERSION_ACTUAL": "1640"}).out.splitlines()
    assert xcode == [f"{sample}/{line}" for line in compiled], "Xcode opens whole paths only"
    table = rivelt("check", "--format", "markdown", cwd=sample).out
    assert [line.split("`")[1] for line in table.splitlines() if line.startswith("| warning ")] == UNTOUCHED
    plain = rivelt("check", "--json", cwd=sample).json
    assert {one["verdict"] for one in plain["findings"]} == {"holds", "broken", "unknown"}


def test_a_rule_that_cannot_read_its_input_is_unknown_and_never_fine() -> None:
    def unreadable(_: object) -> Iterator[Said]:
        yield broken("the mark is upside down", "Turn it.")
        raise BadInput("not well-formed XML", place=Place("a.xml", 3, 9))

    rule = replace(catalogue()["SCN01"], check=unreadable)
    found = list(
        judge(cast("Rulebook[None]", SimpleNamespace(rules={"SCN01": rule})), None, Choice(), site="android app")
    )
    assert [(one.verdict, one.message, one.path, one.line) for one in found] == [
        ("broken", "the mark is upside down", None, None),
        ("unknown", "not well-formed XML", "a.xml", 3),
    ]
    assert {(one.code, one.site, one.severity) for one in found} == {("SCN01", "android app", "warning")}


def test_names_of_files_are_quoted_where_the_format_asks_for_it(tmp_path: Path, rivelt: Command) -> None:
    name = "märk 100%.svg"
    root = write_tree(
        tmp_path, small_android(brief=SMALL.replace("mark.svg", name).replace("#F3EBDD", "#1F6E7D")) | {name: MARK}
    )
    assert rivelt("apply", "-q", cwd=root).code == 0
    (root / name).write_text(f"{MARK}\n")
    said = rivelt("check", "--select", "DRF01", "--format", "sarif", cwd=root)
    places = {
        result["locations"][0]["physicalLocation"]["artifactLocation"]["uri"]
        for result in json.loads(said.out)["runs"][0]["results"]
    }
    assert places == {"rivelt.toml"}  # on the line that names the art
    assert all(quote(unquote(uri)) == uri for uri in places)
    annotated = rivelt("check", "--select", "DRF01", "--format", "annotations", cwd=root).out
    assert "file=rivelt.toml,line=6," in annotated
    assert ": märk 100%25.svg has changed since the last apply" in annotated


# By the older formula of 1976, the second is 12.4 away.
@pytest.mark.parametrize(
    ("first", "difference", "is_flash"), [("#D9D1C4", 5.8, False), ("#D0C8BA", 8.0, False), ("#BFB7AA", 12.3, True)]
)
def test_a_change_of_ten_and_more_is_a_flash(
    tmp_path: Path, rivelt: Command, first: str, difference: float, is_flash: bool
) -> None:
    ground = STYLES.replace("#FFFFFF", "#F3EBDD")
    handoff = f'{SMALL}\n[handoff]\nfirst_ground = "{first}"\n'
    root = write_tree(tmp_path, small_android(brief=handoff, styles=ground))
    assert rivelt("apply", "-q", cwd=root).code == 0
    steps = rivelt("proof", "--now", "--json", cwd=root).json["handoffs"][0]["steps"]
    assert (steps[-1]["difference"], steps[-1]["flash"]) == (pytest.approx(difference, abs=0.1), is_flash)
    told = rivelt("check", "--select", "HND01", "--json", cwd=root).json["summary"]
    assert (told["broken"] > 0) == is_flash


def test_measure_and_check_leave_out_the_same_rules(tmp_path: Path, rivelt: Command) -> None:
    unreadable = SMALL.replace("#F3EBDD", "#1F6E7D")
    root = write_tree(tmp_path, small_android(brief=unreadable))

    def told() -> tuple[list[str], list[str]]:
        measured = rivelt("measure", "--json", cwd=root).json["findings"]
        judged = rivelt("check", "--planned", "--select", "ART", "--json", cwd=root).json["findings"]
        return [one["code"] for one in measured], [one["code"] for one in judged if one["verdict"] == "broken"]

    assert told() == (["ART03"] * 2, ["ART03"] * 2)  # in both looks
    (root / "rivelt.toml").write_text(f'{unreadable}\n[check]\nignore = {{ ART03 = "a watermark" }}\n')
    assert told() == ([], [])
    assert rivelt("measure", cwd=root).code == 0
    (root / "rivelt.toml").write_text(f'{unreadable}\n[check]\nseverity = {{ ART03 = "error" }}\n')
    assert rivelt("measure", "--json", cwd=root).json["findings"][0]["severity"] == "error"


def test_a_brief_leaves_rules_out_with_a_reason_and_weighs_others(sample: Path, rivelt: Command) -> None:
    brief = sample / BRIEF
    brief.write_text(
        brief.read_text()
        + '\n[check]\nignore = { IOS04 = "a word mark" }\nseverity = { WEB01 = "error", WEB03 = "note" }\n'
    )
    told = rivelt("check", cwd=sample)
    assert "error WEB01" in told.out
    assert "left out by the brief: IOS04 (a word mark)" in told.out
    assert rivelt("check", "--fail-on", "error", "--ignore", "WEB01", cwd=sample).code == 0
    brief.write_text(brief.read_text().replace("IOS04", "ios4"))
    refused = rivelt("check", cwd=sample)
    assert (refused.code, "there is no rule ios4\n  Did you mean IOS04?" in refused.err) == (2, True)
    brief.write_text(brief.read_text().replace('"a word mark"', '""'))
    assert "`check.ignore` must be codes of rules, each with the reason" in rivelt("check", cwd=sample).err


def test_explain_tells_every_rule(rivelt: Command) -> None:
    listed = rivelt("explain", "--json").json["rules"]
    assert [rule["code"] for rule in listed] == list(catalogue())
    told = rivelt("explain", "and08")
    assert told.out.startswith("AND08  The circle cuts the launch icon\nerror; android\n")
    for title in ("What it means", "What a person sees", "Why it matters", "How to fix it"):
        assert f"\n{title}\n" in told.out
    lost = rivelt("explain", "AND8")
    assert (lost.code, "Did you mean AND" in lost.err) == (2, True)
    with pytest.raises(BadInput):
        explain("X")


def test_the_first_responder_of_a_nib_is_no_class_of_the_apps(applied: Path, tmp_path: Path) -> None:
    root = tmp_path / "skerryline"
    shutil.copytree(applied, root)
    swap(
        STORYBOARD,
        'placeholderIdentifier="IBFirstResponder"',
        'placeholderIdentifier="IBFirstResponder" customClass="UIResponder"',
    )(root)
    assert verdicts_of(root, "IOS05") == {"holds"}


def in_one_colour(colour: list[int], image: pyvips.Image) -> pyvips.Image:
    return (image[3:] * 0 + colour).bandjoin(image[3])


def test_one_mark_that_is_readable_on_both_grounds_needs_no_dark_one(applied: Path, tmp_path: Path) -> None:
    """The same set without its dark files: a mark in orange is readable on both grounds, one in ink is not."""
    for colour, verdict in (([200, 69, 47], "holds"), ([20, 40, 60], "broken")):
        root = tmp_path / verdict
        shutil.copytree(applied, root)
        for name in ("Mark", "Imprint"):
            light_alone(root / f"{SETS}/Rivelt{name}.imageset/Contents.json")
            repaint(f"{SETS}/Rivelt{name}.imageset/Rivelt{name}@*.png", partial(in_one_colour, colour))(root)
        report = opening.open(root).check(select=["IOS08"])
        assert {one.verdict for one in report.results} == {verdict}
        assert all(
            one.fix == "Run `rivelt apply`: the brief has an image for the dark look." for one in report.findings
        )
