""".NET single projects: one item for all platforms, the activity as a C# attribute, and the Android resources beside it."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import MARK, Command, read_tree, write_tree
from rivelt.edit.xml import parse_xml

BRIEF = '[app]\nname = "Tern"\n[light]\nground = "#F3EBDD"\nmark = "mark.svg"\n{}[dark]\nground = "#13212B"\nmark = "derive"\n'
ITEM = '<MauiSplashScreen Include="Resources\\Splash\\splash.svg" Color="#512BD4" BaseSize="128,128" />'
PROJECT = """<Project Sdk="Microsoft.NET.Sdk">

    <PropertyGroup>
        <TargetFrameworks>net8.0-android;net8.0-ios</TargetFrameworks>
        <TargetFrameworks Condition="$([MSBuild]::IsOSPlatform('windows'))">$(TargetFrameworks);net8.0-windows10.0.19041.0</TargetFrameworks>
        <UseMaui>true</UseMaui>
        <SingleProject>true</SingleProject>
        <SupportedOSPlatformVersion Condition="$([MSBuild]::GetTargetPlatformIdentifier('$(TargetFramework)')) == 'android'">23.0</SupportedOSPlatformVersion>
    </PropertyGroup>

    <ItemGroup>
        <!-- App icon -->
        <MauiIcon Include="Resources\\AppIcon\\appicon.svg" Color="#512BD4" />
        {}
    </ItemGroup>

</Project>
"""
ACTIVITY = """using Android.App;
using Android.Content.PM;

namespace Tern;

[Activity(Theme = "@style/Maui.SplashTheme", MainLauncher = true, LaunchMode = LaunchMode.SingleTop)]
public class MainActivity : MauiAppCompatActivity
{
}
"""
MANIFEST = """<?xml version="1.0" encoding="utf-8"?>
<manifest xmlns:android="http://schemas.android.com/apk/res/android">
	<application android:allowBackup="true" android:icon="@mipmap/appicon" android:supportsRtl="true"></application>
</manifest>
"""
PACKAGE = """<?xml version="1.0" encoding="utf-8"?>
<Package xmlns="http://schemas.microsoft.com/appx/manifest/foundation/windows10" xmlns:uap="http://schemas.microsoft.com/appx/manifest/uap/windows10">
  <Applications><Application Id="App"><uap:VisualElements DisplayName="$placeholder$" Square150x150Logo="$placeholder$.png" BackgroundColor="transparent">
    <uap:SplashScreen Image="$placeholder$.png" />
  </uap:VisualElements></Application></Applications>
</Package>
"""
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="456" height="456"><rect width="456" height="456" fill="#fff"/></svg>'


def tree(brief: str = "", item: str = ITEM, home: str = "src/Tern/", **more: str | bytes) -> dict[str, str | bytes]:
    files = {
        "Tern.csproj": PROJECT.format(item),
        "Platforms/Android/MainActivity.cs": ACTIVITY,
        "Platforms/Android/AndroidManifest.xml": MANIFEST,
        "Platforms/Android/Resources/values/colors.xml": '<resources><color name="colorPrimary">#512BD4</color></resources>',
        "Platforms/iOS/Info.plist": '<?xml version="1.0"?><plist version="1.0"><dict><key>A</key><string>b</string></dict></plist>',
        "Platforms/Windows/Package.appxmanifest": PACKAGE,
        "Resources/Splash/splash.svg": SVG,
        "Resources/AppIcon/appicon.svg": SVG,
    }
    placed: dict[str, str | bytes] = {f"{home}{path}": text for path, text in files.items()}
    return {"rivelt.toml": BRIEF.format(brief), "mark.svg": MARK, **placed, **more}


def scenes(root: Path, rivelt: Command, *options: str) -> dict[tuple[str, str], dict[str, object]]:
    found = rivelt("proof", "--json", "--now", *options, cwd=root).json["scenes"]
    return {(scene["system"], scene["look"]): scene for scene in found}


@pytest.mark.parametrize("home", ["src/Tern/", ""])
def test_a_single_project_is_one_site_and_nothing_below_it_another(tmp_path: Path, rivelt: Command, home: str) -> None:
    root = write_tree(tmp_path, tree(home=home))
    (site,) = rivelt("survey", "--json", cwd=root).json["sites"]
    assert (site["target"], site["site"]) == ("dotnet", f"{home}Tern.csproj")
    assert site["facts"]["feeds"] == "Android, iOS, Windows"
    assert site["facts"]["picture"] == "Resources\\Splash\\splash.svg"
    assert (site["facts"]["colour"], site["facts"]["base size"]) == ("#512BD4", "128 x 128 dp")
    assert "Tern.MainActivity" in site["facts"]["Android activity"]
    assert "a placeholder, which the build fills in" in site["facts"]["Windows manifest"]


def test_apply_edits_the_item_and_the_attribute_and_adds_android_resources(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path, tree('imprint = "mark.svg"\n'))
    before = read_tree(root)
    now = scenes(root, rivelt)
    assert now['iPadOS, iPad 10.9"', "dark"]["ground"] == "#512BD4"
    assert now["Android 11 (API 30)", "light"]["ground"] == "#512BD4"
    assert now["Android 14 (API 34)", "light"]["unknown"]  # the framework's own choice
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    said = done.out + done.err
    assert "iOS and Windows cannot show the dark look, the imprint" in said
    assert "the package manifest stays as it is" in said
    text = (root / "src/Tern/Tern.csproj").read_text()
    node = next(one for one in parse_xml(text.encode(), "p").root.walk() if one.local == "MauiSplashScreen")
    assert (node.get("Include"), node.get("Color")) == ("Resources\\Splash\\rivelt_logo.svg", "#F3EBDD")
    width, height = (int(side) for side in (node.get("BaseSize") or "").split(","))
    assert 100 < width <= 192
    assert 100 < height <= 192
    assert text.replace(text[node.start : node.end], ITEM) == PROJECT.format(ITEM)
    activity = (root / "src/Tern/Platforms/Android/MainActivity.cs").read_text()
    assert activity == ACTIVITY.replace("Maui.SplashTheme", "rivelt_launch")
    res = root / "src/Tern/Platforms/Android/Resources"
    for folder in ("values", "values-night", "values-v31", "values-night-v31"):
        assert (res / folder / "rivelt_launch.xml").exists(), folder
    assert b'parent="@style/Maui.SplashTheme"' in (res / "values-v31/rivelt_launch.xml").read_bytes()
    for path in (
        "Platforms/Android/AndroidManifest.xml",
        "Platforms/Windows/Package.appxmanifest",
        "Platforms/iOS/Info.plist",
    ):
        assert (root / "src/Tern" / path).read_bytes() == before[f"src/Tern/{path}"]
    assert not (root / "src/Tern/Platforms/Android/build.gradle").exists()
    shown = scenes(root, rivelt)
    for system in ("Android 11 (API 30)", "Android 14 (API 34)"):
        assert not shown[system, "dark"]["unknown"]
        assert (shown[system, "light"]["ground"], shown[system, "dark"]["ground"]) == ("#F3EBDD", "#13212B")
    assert shown["iOS, iPhone 15", "dark"]["ground"] == "#F3EBDD"
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    broken = [one for one in rivelt("check", "--json", cwd=root).json["findings"] if one["verdict"] == "broken"]
    assert {one["code"] for one in broken if one["severity"] == "error"} == set()
    pruned = rivelt("apply", "--prune", cwd=root)
    assert pruned.code == 0
    assert not (root / "src/Tern/Resources/Splash/splash.svg").exists()
    while rivelt("undo", cwd=root).code == 0:
        pass
    assert not (root / "proof.png").exists(), "a proof as data draws nothing"
    assert read_tree(root) == before
    assert rivelt("apply", cwd=root).code == 0
    assert rivelt("remove", cwd=root).code == 0
    assert {
        path: data for path, data in read_tree(root).items() if not path.startswith((".rivelt", "proof."))
    } == before


# What differs; the edited item or attribute.
SHAPES: dict[str, tuple[dict[str, str], str, str]] = {
    "no item": (
        {"item": ""},
        "Tern.csproj",
        '<MauiSplashScreen Include="Resources\\Splash\\rivelt_logo.svg" Color="#F3EBDD" BaseSize=',
    ),
    "forward slashes": (
        {"item": ITEM.replace("\\", "/")},
        "Tern.csproj",
        '<MauiSplashScreen Include="Resources/Splash/rivelt_logo.svg" Color="#F3EBDD" BaseSize=',
    ),
    "on several lines": (
        {"item": '<MauiSplashScreen\n            Include="Resources\\Splash\\splash.svg" />'},
        "Tern.csproj",
        '<MauiSplashScreen\n            Include="Resources\\Splash\\rivelt_logo.svg"\n            Color="#F3EBDD"',
    ),
    "an attribute without a theme": (
        {"src/Tern/Platforms/Android/MainActivity.cs": ACTIVITY.replace('Theme = "@style/Maui.SplashTheme", ', "")},
        "Platforms/Android/MainActivity.cs",
        '[Activity(Theme = "@style/rivelt_launch", MainLauncher = true,',
    ),
    "another namespace": (
        {
            "src/Tern/Platforms/Android/MainActivity.cs": ACTIVITY.replace(
                "namespace Tern;", "namespace A.B {"
            ).replace("[Activity(", "[Android.App.ActivityAttribute(")
            + "}\n"
        },
        "Platforms/Android/MainActivity.cs",
        'ActivityAttribute(Theme = "@style/rivelt_launch"',
    ),
}


@pytest.mark.parametrize("shape", SHAPES)
def test_projects_of_other_hands(tmp_path: Path, rivelt: Command, shape: str) -> None:
    differs, path, text = SHAPES[shape]
    more = {key: value for key, value in differs.items() if key != "item"}
    root = write_tree(tmp_path, {**tree(item=differs.get("item", ITEM)), **more})
    before = read_tree(root)
    done = rivelt("apply", cwd=root)
    assert done.code == 0, done.err
    assert text in (root / "src/Tern" / path).read_text()
    assert "Nothing to do" in rivelt("apply", cwd=root).out
    assert rivelt("undo", cwd=root).code == 0
    assert read_tree(root) == before


BROKEN: dict[str, tuple[dict[str, str | bytes], str, str]] = {
    "a hyphen": (
        {
            "src/Tern/Tern.csproj": PROJECT.format(ITEM.replace("splash.svg", "ferry-logo.svg")),
            "src/Tern/Resources/Splash/ferry-logo.svg": SVG,
        },
        "NET02",
        "the picture's name ferry-logo is refused at build time",
    ),
    "upper case": (
        {
            "src/Tern/Tern.csproj": PROJECT.format(ITEM.replace("splash.svg", "Ferry.svg")),
            "src/Tern/Resources/Splash/Ferry.svg": SVG,
        },
        "NET02",
        "the picture's name Ferry is refused",
    ),
    "not there": (
        {"src/Tern/Tern.csproj": PROJECT.format(ITEM.replace("splash.svg", "lost.svg"))},
        "NET01",
        "is not there",
    ),
    "none": ({"src/Tern/Tern.csproj": PROJECT.format("")}, "NET01", "no MauiSplashScreen is in the project"),
    "two": ({"src/Tern/Tern.csproj": PROJECT.format(ITEM + ITEM)}, "NET01", "2 launch pictures are named"),
    "no colour": (
        {"src/Tern/Tern.csproj": PROJECT.format(ITEM.replace('Color="#512BD4" ', ""))},
        "NET03",
        "no colour is given",
    ),
    "no size": (
        {"src/Tern/Tern.csproj": PROJECT.format(ITEM.replace('"128,128"', '"big"'))},
        "NET03",
        "the base size big is not two numbers",
    ),
    "no theme": (
        {"src/Tern/Platforms/Android/MainActivity.cs": ACTIVITY.replace('Theme = "@style/Maui.SplashTheme", ', "")},
        "NET04",
        "MainActivity starts without a launch theme",
    ),
    "a lost theme": (
        {"src/Tern/Platforms/Android/MainActivity.cs": ACTIVITY.replace("Maui.SplashTheme", "Lost")},
        "NET04",
        "MainActivity starts with @style/Lost, which is in no resource",
    ),
}


@pytest.mark.parametrize("shape", BROKEN)
def test_rules_of_single_projects(tmp_path: Path, rivelt: Command, shape: str) -> None:
    files, code, message = BROKEN[shape]
    root = write_tree(tmp_path, {**tree(), **files})
    report = rivelt("check", "--select", "NET", "--json", cwd=root).json["findings"]
    broken = [one for one in report if one["verdict"] == "broken"]
    assert code in {one["code"] for one in broken}
    assert any(message in one["message"] for one in broken)
    assert rivelt("explain", code, cwd=root).code == 0
    sound = write_tree(tmp_path / "sound", tree())
    assert rivelt("check", "--select", "NET", cwd=sound).code == 0


def test_a_project_of_several_is_chosen_and_others_are_left(tmp_path: Path, rivelt: Command) -> None:
    files = {
        **tree(),
        **{
            f"second/{path.removeprefix('src/Tern/')}": text for path, text in tree().items() if path.startswith("src/")
        },
    }
    files["rivelt.toml"] = BRIEF.format("") + '[dotnet]\nproject = "second/Tern.csproj"\npicture = "tern_mark"\n'
    root = write_tree(tmp_path, files)
    assert rivelt("apply", cwd=root).code == 0
    assert (root / "src/Tern/Tern.csproj").read_text() == PROJECT.format(ITEM)
    assert "tern_mark.svg" in (root / "second/Tern.csproj").read_text()
    refused = root / "rivelt.toml"
    refused.write_text(refused.read_text().replace("tern_mark", "tern-mark"))
    said = rivelt("apply", cwd=root)
    assert (said.code, "dotnet.picture" in said.err) == (2, True)
