"""Windows packages: manifests of every age, project files of every manner."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import pytest
import pyvips

from conftest import BRIEF, MARK, Command, read_tree, write_tree

UAP = "http://schemas.microsoft.com/appx/manifest/uap/windows10"
HEAD = '<?xml version="1.0" encoding="utf-8"?>\n'
TEN = (
    HEAD
    + f"""<Package xmlns="http://schemas.microsoft.com/appx/manifest/foundation/windows10" xmlns:uap="{UAP}">
  <!-- Skerryline -->
  <Applications>
    <Application Id="App">
      <uap:VisualElements BackgroundColor="transparent" Square150x150Logo="Assets\\Tile.png">
        <uap:DefaultTile Wide310x150Logo="Assets\\Wide.png" />
        {{}}
      </uap:VisualElements>
    </Application>
  </Applications>
</Package>
"""
)
PROJECT = """<Project ToolsVersion="15.0" xmlns="http://schemas.microsoft.com/developer/msbuild/2003">
  <ItemGroup>
    <Compile Include="App.cs" />
    {}
  </ItemGroup>
</Project>
"""


def older(year: int, prefix: str) -> str:
    uri = f"http://schemas.microsoft.com/appx/{year}/manifest"
    name = f"{prefix}:" if prefix else ""
    space = f'xmlns:{prefix}="{uri}"' if prefix else ""
    root = "http://schemas.microsoft.com/appx/2010/manifest"
    return (
        f'<Package xmlns="{root}" {space}>\n\t<Applications>\n\t\t<Application>\n\t\t\t<{name}VisualElements Logo="images\\l.png">\n'
        f'\t\t\t\t<{name}SplashScreen Image="images\\splash.png"/>\n\t\t\t</{name}VisualElements>\n\t\t</Application>\n\t</Applications>\n</Package>'
    )


# The manifest; the folder of its images; the lines that change.
MANIFESTS: dict[str, tuple[bytes, str, dict[str, str]]] = {
    "colour before image": (
        TEN.format('<uap:SplashScreen BackgroundColor="white"   Image="Assets\\Start.png" />').encode(),
        "Assets",
        {'<uap:SplashScreen BackgroundColor="#F3EBDD"   Image="Assets\\RiveltLaunch.png" />': ""},
    ),
    "BOM, CRLF, no last line end": (
        b"\xef\xbb\xbf"
        + TEN.format('<uap:SplashScreen Image="Assets\\Start.png"/>').rstrip().replace("\n", "\r\n").encode(),
        "Assets",
        {'<uap:SplashScreen Image="Assets\\RiveltLaunch.png" BackgroundColor="#F3EBDD"/>': ""},
    ),
    "no launch element": (
        TEN.format("<uap:InitialRotationPreference />").encode(),
        "Assets",
        {'<uap:SplashScreen Image="Assets\\RiveltLaunch.png" BackgroundColor="#F3EBDD" />': "new"},
    ),
    "empty visual elements": (
        f'<Package xmlns="urn:x" xmlns:u="{UAP}"><Applications><Application><u:VisualElements/></Application></Applications></Package>'.encode(),
        "Assets",
        {'<u:SplashScreen Image="Assets\\RiveltLaunch.png" BackgroundColor="#F3EBDD"/>': "new"},
    ),
    "2013": (
        older(2013, "m2").encode(),
        "images",
        {'<m2:SplashScreen Image="images\\RiveltLaunch.png" BackgroundColor="#F3EBDD"/>': ""},
    ),
    "2014": (
        older(2014, "m3").encode(),
        "images",
        {'<m3:SplashScreen Image="images\\RiveltLaunch.png" BackgroundColor="#F3EBDD"/>': ""},
    ),
    "2010, no prefix": (
        older(2010, "").encode(),
        "images",
        {'<SplashScreen Image="images\\RiveltLaunch.png" BackgroundColor="#F3EBDD"/>': ""},
    ),
    "no namespace": (
        b"<Package><Applications><Application><VisualElements><SplashScreen/></VisualElements></Application></Applications></Package>",
        "Assets",
        {'<SplashScreen Image="Assets\\RiveltLaunch.png" BackgroundColor="#F3EBDD"/>': ""},
    ),
    "multi-line, slashes, the colour by another name": (
        TEN.format(
            "<uap:SplashScreen\n          Image='Media/x.png'\n          BackgroundColor='#f3ebdd'\n        />"
        ).encode(),
        "Media",
        {
            "<uap:SplashScreen\n          Image='Media/RiveltLaunch.png'\n          BackgroundColor='#f3ebdd'\n        />": ""
        },
    ),
}


EIGHT = {100: (620, 300), 140: (868, 420), 180: (1116, 540)}
SIZES = {
    "10": {100: (620, 300), 125: (775, 375), 150: (930, 450), 200: (1240, 600), 400: (2480, 1200)},
    "2013": EIGHT,
    "2010": EIGHT,
    "2014": {100: (480, 800), 140: (672, 1120), 240: (1152, 1920)},
}


def package(tmp_path: Path, manifest: bytes, brief: str = BRIEF, **files: str | bytes) -> Path:
    plain: dict[str, str | bytes] = {"rivelt.toml": brief, "mark.svg": MARK, "win/Package.appxmanifest": manifest}
    return write_tree(
        tmp_path / "tern", plain | {f"win/{name.replace('__', '.')}": text for name, text in files.items()}
    )


@pytest.mark.parametrize("shape", MANIFESTS)
def test_every_manifest_is_edited_in_place_once_and_back(tmp_path: Path, rivelt: Command, shape: str) -> None:
    manifest, folder, lines = MANIFESTS[shape]
    root = package(tmp_path, manifest)
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    after = (root / "win/Package.appxmanifest").read_bytes()
    for line in lines:
        assert after.count(line.replace("\n", "\r\n").encode() if b"\r\n" in manifest else line.encode()) == 1
    # Taking the line out again leaves what was there: no other byte has moved.
    launch = rb"\s*<(?:\w+:)?SplashScreen[^>]*>"
    if not manifest.count(b"VisualElements/>"):
        assert re.sub(launch, b"", after) == re.sub(launch, b"", manifest)
    ET.fromstring(after)
    sizes = SIZES.get(shape.partition(",")[0], SIZES["10"])
    assert len(list(root.glob(f"win/{folder}/RiveltLaunch.*"))) == len(sizes)
    for scale, size in sizes.items():
        path = root / f"win/{folder}/RiveltLaunch.scale-{scale}.png"
        image = pyvips.Image.new_from_file(str(path))
        assert (image.width, image.height, image.bands) == (*size, 4)
        assert path.stat().st_size < 200_000
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")
    shown = rivelt("proof", "--now", "--json", "--all", "--out", tmp_path / "p.png", cwd=root).json["scenes"]
    for scene in shown:
        if "contrast" not in scene["system"]:
            assert scene["ground"] == "#F3EBDD"
            frame, own = list(scene["layers"][0]["rect"].values())[2:], sizes[100]
            middle = [(frame[0] - own[0]) / 2, (frame[1] - own[1]) / 2, *own]
            assert list(scene["layers"][1]["rect"].values()) == middle, (
                "the image is shown at its own size in the middle"
            )
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


SISTER = '<Content Include="Assets\\Start.scale-200.png" />'
NEW = "Assets\\RiveltLaunch.scale-{}.png"
# Project files: name, what it lists, and the lines for a new image (None: none is added).
LISTS: dict[str, tuple[str, str, str | None]] = {
    "content": ("App.csproj", PROJECT.format(SISTER), f'    <Content Include="{NEW}" />'),
    "image": ("App.vcxproj", PROJECT.format(SISTER.replace("Content", "Image")), f'    <Image Include="{NEW}" />'),
    "filters": (
        "App.vcxproj.filters",
        PROJECT.format('<Image Include="Assets\\Start.png">\n      <Filter>Assets</Filter>\n    </Image>'),
        f'    <Image Include="{NEW}">\n      <Filter>Assets</Filter>\n    </Image>',
    ),
    "wildcard": ("App.csproj", PROJECT.format('<Content Include="Assets\\**\\*.png" />'), None),
    "plain wildcard": ("App.wapproj", PROJECT.format('<Content Include="Assets\\*" />'), None),
    "excluded from it": (
        "App.csproj",
        PROJECT.format('<Content Include="Assets\\*.png" Exclude="Assets\\Rivelt*" />'),
        f'    <Content Include="{NEW}" />',
    ),
    "the SDK lists them itself": ("App.csproj", '<Project Sdk="Microsoft.NET.Sdk">\n</Project>\n', None),
    "with a home": (
        "App.projitems",
        PROJECT.format('<Content Include="$(MSBuildThisFileDirectory)Assets\\Start.png" />'),
        f'    <Content Include="$(MSBuildThisFileDirectory){NEW}" />',
    ),
    "none yet": ("App.jsproj", PROJECT.format(""), f'    <Content Include="{NEW}" />'),
    "tied to another": (
        "App.csproj",
        PROJECT.format('<Content Include="Assets\\Start.png"><Link>x.png</Link></Content>'),
        f'    <Content Include="{NEW}" />',
    ),
}


@pytest.mark.parametrize("shape", LISTS)
def test_images_are_listed_the_way_the_project_lists_them(tmp_path: Path, rivelt: Command, shape: str) -> None:
    name, text, line = LISTS[shape]
    text = text.replace("\n", "\r\n")
    root = package(tmp_path, TEN.format('<uap:SplashScreen Image="Assets\\Start.png"/>').encode())
    (root / "win" / name).write_bytes(text.encode())
    before = read_tree(root)
    assert rivelt("apply", cwd=root).code == 0
    after = (root / "win" / name).read_bytes().decode()
    if line is None:
        assert after == text
    else:
        for scale in (100, 125, 150, 200, 400):
            assert after.count(line.format(scale).replace("\n", "\r\n")) == 1
        assert [kept for kept in after.split("\r\n") if "RiveltLaunch" not in kept][:3] == text.split("\r\n")[:3]
        ET.fromstring(after.encode())
    assert rivelt("apply", cwd=root).out.startswith("Nothing to do")
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


def test_high_contrast_the_other_look_names_and_pruning(tmp_path: Path, rivelt: Command) -> None:
    brief = (
        BRIEF.replace("#F3EBDD", "wheat")
        + '[dark]\nground = "navy"\n[windows]\nhigh_contrast = true\nlook = "dark"\nprefix = "Küste 1"\n'
    )
    project = PROJECT.format(SISTER)
    manifest = TEN.format('<uap:SplashScreen Image="Assets\\Start.png" BackgroundColor="Navy"/>').encode()
    start = pyvips.Image.black(1240, 600, bands=3).pngsave_buffer()
    root = package(tmp_path, manifest, brief)
    write_tree(root, {"win/App.csproj": project, "win/Assets/Start.scale-200.png": start})
    done = rivelt("apply", cwd=root)
    assert "'Küste 1' is written as 'Kuste-1'" in done.out
    assert "Windows knows no looks" in done.out
    assert "--prune removes them: win/Assets/Start.scale-200.png" in done.out
    assert b'BackgroundColor="Navy"' in (root / "win/Package.appxmanifest").read_bytes(), (
        "the same colour stays as it is written"
    )
    for theme, ground, ink in (("black", 0, 255), ("white", 255, 0)):
        image = pyvips.Image.new_from_file(
            str(root / f"win/Assets/Kuste-1Launch.scale-100_contrast-{theme}.png")
        ).colourspace("srgb")
        assert image.getpoint(0, 0)[:3] == [ground] * 3
        assert image.getpoint(310, 150)[:3] == [ink] * 3
    assert rivelt("apply", "--prune", cwd=root).code == 0
    assert not (root / "win/Assets/Start.scale-200.png").exists()
    assert "Start" not in (root / "win/App.csproj").read_text()
    # Without contrast again: the images and their entries go.
    (root / "rivelt.toml").write_text(brief.replace("high_contrast = true", ""))
    assert rivelt("apply", cwd=root).code == 0
    assert not list(root.glob("win/Assets/*contrast*"))
    assert "contrast" not in (root / "win/App.csproj").read_text()


def test_a_picture_that_cannot_be_light_enough_is_left_out_with_its_numbers(tmp_path: Path, rivelt: Command) -> None:
    noise = pyvips.Image.gaussnoise(900, 500, mean=128, sigma=70, seed=7).cast("uchar")
    mark = noise.bandjoin([noise.rot180(), noise.fliphor()]).copy(interpretation="srgb").pngsave_buffer()
    brief = BRIEF.replace("mark.svg", "mark.png") + "[layout]\nenlarge = true\n"
    root = package(tmp_path, TEN.format("").encode(), brief)
    write_tree(root, {"mark.png": mark, "win/App.csproj": PROJECT.format(SISTER)})
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert re.search(r"scale-400\.png is left out: it weighs \d+ kB, and more than 200 kB are refused", done.out)
    written = {path.name for path in root.glob("win/Assets/*.png")}
    listed = set(re.findall(r"RiveltLaunch\.scale-\d+\.png", (root / "win/App.csproj").read_text()))
    assert written == listed
    assert "RiveltLaunch.scale-400.png" not in written
    assert all(path.stat().st_size < 200_000 for path in root.glob("win/Assets/*.png"))


@pytest.mark.parametrize(
    ("manifest", "message"),
    [
        (
            b"<Package><Applications>",
            "win/Package.appxmanifest:1:24: windows win/Package.appxmanifest: not well-formed XML",
        ),
        (b"<Package/>", "no application in it has visual elements"),
        (b'<!DOCTYPE p [<!ENTITY e "x">]><p>&e;</p>', "the file declares an entity (e)"),
    ],
)
def test_a_manifest_that_cannot_be_edited_is_told_and_the_rest_goes_on(
    tmp_path: Path, rivelt: Command, manifest: bytes, message: str
) -> None:
    root = package(tmp_path, manifest)
    alone = rivelt("apply", cwd=root)
    assert alone.code == 2
    assert message in alone.err
    write_tree(root, {"two/Package.appxmanifest": TEN.format(""), "win/bin/x64/Debug/AppxManifest.xml": TEN.format("")})
    both = rivelt("apply", cwd=root)
    assert both.code == 1
    assert message.rpartition(": ")[2] in both.err
    assert "RiveltLaunch" in (root / "two/Package.appxmanifest").read_text()
    assert "RiveltLaunch" not in (root / "win/bin/x64/Debug/AppxManifest.xml").read_text()


START = '<uap:SplashScreen Image="Assets\\Start.png" BackgroundColor="#F3EBDD"/>'


def image(width: int, height: int) -> bytes:
    return bytes(pyvips.Image.black(width, height, bands=3).copy(interpretation="srgb").pngsave_buffer())


@pytest.mark.parametrize("year", [2010, 2013, 2014])
def test_older_windows_is_proved_at_its_own_scales_and_odd_ones_are_told(
    tmp_path: Path, rivelt: Command, year: int
) -> None:
    root = package(tmp_path, older(year, "m2").encode(), **{"Tern.csproj": PROJECT.format("")})
    assert rivelt("apply", cwd=root).code == 0
    scenes = rivelt("proof", "--now", "--json", "--all", "--out", tmp_path / "p.png", cwd=root).json["scenes"]
    scales = [140, 240] if year == 2014 else [140, 180]
    kind = "Windows Phone 8.1" if year == 2014 else "Windows 8.1"
    assert [scene["system"] for scene in scenes] == [f"{kind}, {scale} %" for scale in (100, *scales)]
    assert not any(scene["unknown"] for scene in scenes)
    assert rivelt("check", "--select", "WIN", cwd=root).code == 0
    (root / "win/images/RiveltLaunch.scale-125.png").write_bytes(image(775, 375))
    told = rivelt("check", "--select", "WIN02", cwd=root)
    assert (told.code, "does not know the scale 125" in told.out) == (1, True)


def test_optional_launch_screens_themes_and_languages_are_read(tmp_path: Path, rivelt: Command) -> None:
    uap5 = 'xmlns:uap5="http://schemas.microsoft.com/appx/manifest/uap/windows10/5"'
    optional = START.replace("/>", ' uap5:Optional="true"/>')
    manifest = TEN.format(optional).replace("<Package ", f"<Package {uap5} ")
    files: dict[str, Any] = {
        "Assets/Start.theme-dark_scale-200.png": image(1240, 600),
        "Assets/Start.theme-light_scale-200.png": image(1240, 600),
        "Assets/Start.targetsize-48.png": image(48, 48),
        "Assets/de-DE/Start.scale-200.png": image(9, 9),
    }
    root = package(tmp_path, manifest.encode(), **files)
    (site,) = rivelt("survey", "--json", cwd=root).json["sites"]
    assert site["facts"]["optional"] == "yes: the system may leave the launch screen out"
    assert "which the system may leave out" in site["today"]
    scenes = rivelt("proof", "--now", "--json", "--out", tmp_path / "p.png", cwd=root).json["scenes"]
    assert all(not scene["unknown"] for scene in scenes)
    alone = package(
        tmp_path / "alone",
        TEN.format(START).encode(),
        **dict[str, Any]({"Assets/de-DE/Start.scale-200.png": image(1240, 600)}),
    )
    scene = rivelt("proof", "--now", "--json", "--out", tmp_path / "q.png", cwd=alone).json["scenes"][0]
    assert any("for some languages or themes alone" in reason for reason in scene["unknown"])


def test_templates_and_placeholders_are_named_and_left(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(
        tmp_path / "template",
        {"rivelt.toml": BRIEF, "mark.svg": MARK, "win/Package.appxmanifest.in": TEN.format(START)},
    )
    refused = rivelt("apply", cwd=root)
    assert (refused.code, "this is a template, from which a build makes the package manifest" in refused.err) == (
        2,
        True,
    )
    placeholder = TEN.format('<uap:SplashScreen Image="$placeholder$.png" />').encode()
    root = package(tmp_path / "placeholder", placeholder)
    refused = rivelt("apply", cwd=root)
    assert (refused.code, "is a placeholder that a build fills in: $placeholder$.png" in refused.err) == (2, True)
    assert (root / "win/Package.appxmanifest").read_bytes() == placeholder


def test_images_that_no_project_file_lists_are_a_manual_step(tmp_path: Path, rivelt: Command) -> None:
    root = package(tmp_path, TEN.format(START).encode())
    done = rivelt("apply", cwd=root)
    assert '<Content Include="Assets\\RiveltLaunch.scale-200.png" />' in done.out
    assert "List the launch images in the project file" in done.out


def test_what_is_listed_and_not_there_is_an_error(tmp_path: Path, rivelt: Command) -> None:
    lost = PROJECT.format(
        '<Content Include="Assets\\Start.scale-200.png" />\n    <Content Include="Assets\\Other.png" />'
    )
    files: dict[str, Any] = {"Tern.csproj": lost, "Assets/Start.scale-100.png": image(620, 300)}
    root = package(tmp_path, TEN.format(START).encode(), **files)
    found = rivelt("check", "--select", "WIN07", "--json", cwd=root).json["findings"]
    assert [(one["path"], one["line"]) for one in found if one["verdict"] == "broken"] == [("win/Tern.csproj", 4)]


def test_a_shared_project_lists_for_those_that_import_it(tmp_path: Path, rivelt: Command) -> None:
    importing = PROJECT.format("").replace(
        "</Project>", '  <Import Project="..\\shared\\Shared.projitems" Label="Shared" />\n</Project>'
    )
    shared = PROJECT.format(
        '<Content Include="$(MSBuildThisFileDirectory)..\\win\\Assets\\**\\*.png" Exclude="$(MSBuildThisFileDirectory)..\\win\\Assets\\Old.png" />'
    )
    files: dict[str, Any] = {"Tern.csproj": importing, "Assets/Start.scale-200.png": image(1240, 600)}
    root = package(tmp_path, TEN.format(START).encode(), **files)
    write_tree(root, {"shared/Shared.projitems": shared})
    assert rivelt("check", "--select", "WIN05", cwd=root).code == 0
    before = (root / "shared/Shared.projitems").read_bytes()
    assert rivelt("apply", cwd=root).code == 0
    assert (root / "shared/Shared.projitems").read_bytes() == before
