"""Files from strangers: whatever is in them, there is a clear message, nothing outside the project is read or written, and no end is far."""

from __future__ import annotations

import io
import re
import shutil
import struct
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import BRIEF, MARK, Command, read_tree, small_android, write_tree
from test_apple_projects import FILES, project
from test_web import MANIFEST, PAGE
from test_windows import PROJECT, SISTER, TEN

UPLOADS = BRIEF + '[uploads]\nsizes = ["300x600"]\nout = "u.zip"\n'


def bomb_png(side: int) -> bytes:
    """A PNG whose header promises far more pixels than its data hold."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = chunk(b"IHDR", struct.pack(">IIBBBBB", side, side, 8, 6, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + header + chunk(b"IDAT", zlib.compress(bytes(10_000))) + chunk(b"IEND", b"")


def bomb_zip() -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("custom-300x600-light.png", bytes(200_000_000))
        archive.writestr("../../escaped.png", b"x")
    return buffer.getvalue()


def launch(image: str) -> bytes:
    return TEN.format(f'<uap:SplashScreen Image="{image}" BackgroundColor="white"/>').encode()


NESTED = b"<a>" * 100_000
WILD = '<Content Include="' + "**\\" * 60 + 'x.png" />'
# What the project holds besides a brief and a mark.
TROUBLE: dict[str, dict[str, str | bytes]] = {
    "image above the package": {"win/Package.appxmanifest": launch("..\\..\\..\\secret.png")},
    "image with a drive": {"win/Package.appxmanifest": launch("C:\\secret.png")},
    "image with a line end": {"win/Package.appxmanifest": launch("Assets\\a&#10;b.png")},
    "image without a name": {"win/Package.appxmanifest": launch("\\")},
    "images listed from above": {
        "win/Package.appxmanifest": launch("Assets\\a.png"),
        "win/App.csproj": PROJECT.format('<Content Include="..\\..\\..\\*.png;$(X)\\a.png" />'),
    },
    "wildcards without end": {
        "win/Package.appxmanifest": launch("a.png"),
        "win/App.csproj": PROJECT.format(WILD + SISTER),
    },
    "project file nested deeply": {"win/Package.appxmanifest": launch("a.png"), "win/App.csproj": NESTED},
    "manifest nested deeply": {"win/Package.appxmanifest": NESTED},
    "manifest that grows": {
        "win/Package.appxmanifest": b'<!DOCTYPE a [<!ENTITY b "x"><!ENTITY c "&b;&b;&b;">]><a>&c;</a>'
    },
    "manifest from elsewhere": {"win/Package.appxmanifest": b'<!DOCTYPE a SYSTEM "file:///etc/passwd"><a/>'},
    "launch image of a billion pixels": {
        "win/Package.appxmanifest": launch("Assets\\a.png"),
        "win/Assets/a.png": bomb_png(30_000),
    },
    "page above the root": {"index.html": PAGE.format("../../../secret.json"), "m.webmanifest": MANIFEST},
    "page of another origin": {"index.html": PAGE.format("//example.org/m.json"), "m.webmanifest": MANIFEST},
    "icons above the root": {
        "m.webmanifest": MANIFEST.replace(
            '"display"', '"icons": [{"src": "../../../secret.png", "sizes": "192x192"}, 7, {"src": 9}],\n  "display"'
        )
    },
    "manifest of other kinds": {
        "m.webmanifest": MANIFEST.replace(
            '"display"', '"icons": {"a": 1}, "background_color": [], "theme_color": 7,\n  "display"'
        )
    },
    "page without end": {"index.html": PAGE.format("m.webmanifest") + "<link " * 100_000, "m.webmanifest": MANIFEST},
    "manifest without end": {"m.webmanifest": "[" * 200_000},
    "page with our comment in it": {
        "index.html": PAGE.format("m.webmanifest").replace("<title>", "<!-- rivelt: launch screen --><title>"),
        "m.webmanifest": MANIFEST,
    },
    "startup image of a billion pixels": {
        "index.html": PAGE.format("m.webmanifest").replace(
            "<title>", '<link rel="apple-touch-startup-image" href="a.png"><title>'
        ),
        "m.webmanifest": MANIFEST,
        "a.png": bomb_png(30_000),
    },
    "archive that grows": {"rivelt.toml": UPLOADS, "u.zip": bomb_zip()},
    "archive that is none": {"rivelt.toml": UPLOADS, "u.zip": b"PK\x03\x04" + bytes(400)},
    "lock file that names what is outside": {
        **small_android(),
        "rivelt.lock": 'format = 1\n[files]\n"../../secret.png" = {site = "android app", sha256 = "0"}\n',
    },
    "check table of other kinds": {
        "rivelt.toml": BRIEF + "[check]\nignore = 7\nseverity = { AND01 = 3 }\n",
        "m.webmanifest": MANIFEST,
    },
}


CONFIGURED = (
    project(settings="A = b;", more='X1 = {isa = PBXFileReference; path = app.xcconfig; sourceTree = "<group>"; };')
    .replace("children = (G1)", "children = (G1, X1)")
    .replace("name = Debug; buildSettings = {A", "name = Debug; baseConfigurationReference = X1; buildSettings = {A")
)
APPLE = {**FILES, "X.xcodeproj/project.pbxproj": CONFIGURED}
TROUBLE |= {
    "configuration files in a circle": {
        **APPLE,
        "app.xcconfig": '#include "b.xcconfig"\n',
        "b.xcconfig": '#include "app.xcconfig"\nA = $(A)\n',
    },
    "configuration file from above": {
        **APPLE,
        "app.xcconfig": '#include "../../../secret.xcconfig"\n#include "/etc/passwd"\n',
    },
    "settings without ground": {**APPLE, "app.xcconfig": "INFOPLIST_FILE = " + "$(A" * 5_000 + ")" * 5_000 + "\n"},
    "project file nested without end": {**FILES, "X.xcodeproj/project.pbxproj": "{a = " * 100_000},
    "list nested without end": {**FILES, "App/Info.plist": "<plist>" + "<array>" * 50_000},
    "catalog nested without end": {
        **FILES,
        "App/Assets.xcassets/RiveltMark.imageset/Contents.json": '{"images": ' + "[" * 100_000,
    },
}


@pytest.mark.parametrize("trouble", TROUBLE)
def test_trouble_is_told_and_reaches_nothing_outside(tmp_path: Path, rivelt: Command, trouble: str) -> None:
    secret: dict[str, str | bytes] = {"secret.png": bomb_png(10), "secret.json": MANIFEST.replace("Tern", "Secret")}
    outside = write_tree(tmp_path / "outside", secret)
    files: dict[str, str | bytes] = {"rivelt.toml": BRIEF, "mark.svg": MARK, **TROUBLE[trouble]}
    root = write_tree(outside / "a/b/c", files)
    before = read_tree(outside)
    for command in (
        ("survey",),
        ("check", "--json"),
        ("proof", "--now", "--out", tmp_path / "p.png"),
        ("apply",),
    ):
        done = rivelt(*command, cwd=root)
        assert done.code in (0, 1, 2, 3), done.err
        assert "bug of Rivelt" not in done.err
        assert "Secret" not in done.out
        assert all(len(line) < 2000 for line in done.err.splitlines())
    if (root / ".rivelt").exists():
        assert rivelt("undo", cwd=root).code == 0
    assert read_tree(outside) == before


@pytest.mark.parametrize("name", ["rivelt.lock", "app/src/main/res/values/rivelt_launch.xml"])
def test_a_file_that_is_a_link_to_the_outside_is_not_written(tmp_path: Path, rivelt: Command, name: str) -> None:
    outside = write_tree(tmp_path / "outside", {"mine.txt": ""})
    root = write_tree(tmp_path / "tern", small_android())
    (root / name).parent.mkdir(parents=True, exist_ok=True)
    (root / name).symlink_to(outside / "mine.txt")
    before = read_tree(root)
    refused = rivelt("apply", cwd=root)
    assert refused.code in {2, 3}
    assert re.search("Rivelt writes only to files inside the project|a link that leads out of the project", refused.err)
    assert name in refused.err
    assert (read_tree(outside), read_tree(root)) == ({"mine.txt": b""}, before)


def test_links_that_lead_out_are_not_followed(tmp_path: Path, rivelt: Command) -> None:
    outside = write_tree(
        tmp_path / "outside",
        {
            "m.webmanifest": MANIFEST,
            "Package.appxmanifest": launch("a.png"),
            "pages/index.html": PAGE.format("m.webmanifest"),
        },
    )
    root = write_tree(tmp_path / "tern", {"rivelt.toml": BRIEF, "mark.svg": MARK, "web/m.webmanifest": MANIFEST})
    (root / "Package.appxmanifest").symlink_to(outside / "Package.appxmanifest")
    (root / "pages").symlink_to(outside / "pages")
    (root / "web/rivelt").symlink_to(outside)
    before = read_tree(outside)
    refused = rivelt("apply", cwd=root)
    assert refused.code == 2
    assert "Rivelt writes only to files inside the project" in refused.err
    assert read_tree(outside) == before
    (root / "web/rivelt").unlink()
    assert rivelt("apply", cwd=root).code == 0
    assert read_tree(outside) == before


RES, SETS, LAUNCH = (
    "android/app/src/main/res",
    "ios/Skerryline/Assets.xcassets",
    "ios/Skerryline/RiveltLaunch.storyboard",
)
# What an applied sample is corrupt with: a file, and what becomes of its content.
CORRUPT: dict[str, tuple[str, Callable[[bytes], bytes]]] = {
    "a scale of nothing": (f"{SETS}/RiveltMark.imageset/Contents.json", lambda data: data.replace(b'"3x"', b'"0x"')),
    "a scale below nothing": (
        f"{SETS}/RiveltMark.imageset/Contents.json",
        lambda data: data.replace(b'"3x"', b'"-2x"'),
    ),
    "a scale beyond numbers": (
        f"{SETS}/RiveltMark.imageset/Contents.json",
        lambda data: data.replace(b'"3x"', b'"1e999x"'),
    ),
    "a file above the set": (
        f"{SETS}/RiveltMark.imageset/Contents.json",
        lambda data: data.replace(b"RiveltMark@3x.png", b"../../../../../secret.png"),
    ),
    "a name with a line end": (
        f"{SETS}/RiveltMark.imageset/Contents.json",
        lambda data: data.replace(b"RiveltMark@3x.png", b"a\\nb.png"),
    ),
    "an image cut short": (f"{SETS}/RiveltMark.imageset/RiveltMark@3x.png", lambda data: data[:200]),
    "a constraint beyond screens": (LAUNCH, lambda data: data.replace(b'constant="24"', b'constant="1e300"')),
    "a constraint that is not a number": (LAUNCH, lambda data: data.replace(b'constant="24"', b'constant="nan"')),
    "a colour of itself": (
        f"{RES}/values/rivelt_launch.xml",
        lambda data: data.replace(b"#FFF3EBDD", b"@color/rivelt_ground"),
    ),
    "a theme of itself": (
        f"{RES}/values/rivelt_launch.xml",
        lambda data: data.replace(b"Theme.SplashScreen", b"@style/rivelt_launch"),
    ),
    "a layer beyond screens": (
        f"{RES}/drawable/rivelt_window.xml",
        lambda data: data.replace(b"<item ", b'<item android:left="1e300dp" android:width="9e99dp" '),
    ),
    "a path of wild numbers": (
        f"{RES}/drawable-anydpi-v24/rivelt_mark.xml",
        lambda data: data.replace(b'pathData="M', b'pathData="M1e308,1e308A1e308 1e-308 1e308 1 0 1e308 0M'),
    ),
    "a plate cut short": (f"{RES}/drawable-night-xxhdpi/rivelt_imprint.png", lambda data: data[: len(data) // 2]),
}


@pytest.mark.parametrize("what", CORRUPT)
def test_spoilt_native_files_are_proved_and_judged_all_the_same(
    applied: Path, tmp_path: Path, rivelt: Command, what: str
) -> None:
    root = tmp_path / "a/b/skerryline"
    path, corrupt = CORRUPT[what]
    target = path.partition("/")[0]
    for part in ("art", target):
        shutil.copytree(applied / part, root / part)
    for file in ("rivelt.toml", "rivelt.lock"):
        shutil.copy(applied / file, root / file)
    before = (root / path).read_bytes()
    (root / path).write_bytes(corrupt(before))
    assert (root / path).read_bytes() != before
    for command in (("proof", "--now", "--out", "p.png"), ("check", "--json"), ("apply", "--dry-run")):
        done = rivelt(*command, "--only", target, cwd=root)
        assert done.code in {0, 1, 2, 3}, done.err
        assert "bug of Rivelt" not in done.err
    assert (root / "p.png").stat().st_size > 10_000
