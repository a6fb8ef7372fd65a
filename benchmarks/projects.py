"""Projects of any size for the benchmarks: made-up apps of the island ferries, the same on every machine.

Usage: python benchmarks/projects.py MAKER VALUE    makes one in the current folder
"""

from __future__ import annotations

import random
import subprocess
import sys
from pathlib import Path

import numpy as np
import pyvips

MARK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="80"><path fill="#1F6E7D" d="M5 60h90l-14 15h-62z"/>'
    '<path fill="#C8452F" d="M48 5v50H12z"/><path fill="#12414F" d="M54 15v40h32z"/></svg>'
)
BRIEF = '[app]\nname = "Skerryline"\n{app}\n[light]\nground = "#F3EBDD"\nmark = "{mark}"\n{light}\n[dark]\nground = "#13212B"\n\n{more}\n'
GRADLE = """plugins {{ id("com.android.application"); id("org.jetbrains.kotlin.android") }}

android {{
    namespace = "example.skerryline.m{number}"
    compileSdk = 35
    defaultConfig {{ applicationId = "example.skerryline.m{number}"; minSdk = 24; targetSdk = 35 }}
}}
"""
MANIFEST = """<manifest xmlns:android="http://schemas.android.com/apk/res/android">
    <application android:label="Skerryline" android:theme="@style/Theme.Skerryline">
        <activity android:name=".MainActivity" android:exported="true">
            <intent-filter>
                <action android:name="android.intent.action.MAIN" />
                <category android:name="android.intent.category.LAUNCHER" />
            </intent-filter>
        </activity>
    </application>
</manifest>
"""
THEMES = '<resources>\n    <style name="Theme.Skerryline" parent="@android:style/Theme.Material.Light.NoActionBar" />\n</resources>\n'
ACTIVITY = """package example.skerryline.m{number}

import android.app.Activity
import android.os.Bundle

class MainActivity : Activity() {{
    override fun onCreate(savedInstanceState: Bundle?) {{
        super.onCreate(savedInstanceState)
    }}
}}
"""
_WORDS = [a + b for a in ("Ferry", "Pier", "Ticket", "Tide", "Buoy", "Crew") for b in ("View", "Model", "Store", "Row")]


def write(root: Path, path: str, text: str | bytes) -> None:
    file = root / path
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_bytes(text if isinstance(text, bytes) else text.encode())


def brief(root: Path, *, mark: str = "mark.svg", app: str = "", light: str = "", more: str = "") -> None:
    write(root, "rivelt.toml", BRIEF.format(mark=mark, app=app, light=light, more=more))
    if mark == "mark.svg":
        write(root, mark, MARK)


def module(root: Path, number: int) -> None:
    source = f"app{number}/src/main"
    write(root, f"app{number}/build.gradle.kts", GRADLE.format(number=number))
    write(root, f"{source}/AndroidManifest.xml", MANIFEST)
    write(root, f"{source}/res/values/themes.xml", THEMES)
    write(root, f"{source}/java/example/skerryline/m{number}/MainActivity.kt", ACTIVITY.format(number=number))


def source(number: int) -> str:
    chance = random.Random(number)
    functions = "".join(
        f"    fun {chance.choice(_WORDS).lower()}{index}(value: Int): Int = value * {index} + {number}\n"
        for index in range(40)
    )
    return f"package example.skerryline\n\nclass {chance.choice(_WORDS)}{number} {{\n{functions}}}\n"


def app(root: Path, _value: int = 0) -> None:
    """One Android app, and its brief."""
    module(root, 0)
    brief(root, app='targets = ["android"]')


def files(root: Path, count: int) -> None:
    """An app among many files, a tenth of them sources."""
    app(root)
    for number in range(count):
        folder = f"app0/src/main/java/example/skerryline/p{number // 100}"
        is_source = number % 10 == 0
        write(
            root,
            f"{folder}/{'C' if is_source else 'n'}{number}.{'kt' if is_source else 'txt'}",
            source(number) if is_source else "tide",
        )


def modules(root: Path, count: int) -> None:
    """Apps side by side, each with 400 sources."""
    for number in range(count):
        module(root, number)
        for index in range(400):
            folder = f"app{number}/src/main/java/example/skerryline/m{number}/p{index // 40}"
            write(root, f"{folder}/C{index}.kt", source(index))
    brief(root, app='targets = ["android"]', more='[android]\nmodule = ["app*"]\n')


def targets(root: Path, count: int) -> None:
    """An Xcode project of several apps, each with its own Info.plist and catalog, built from a list of objects."""
    objects: list[str] = []
    names = [f"Ferry{number}" for number in range(count)]
    for number, name in enumerate(names):
        settings = f"INFOPLIST_FILE = {name}/Info.plist; IPHONEOS_DEPLOYMENT_TARGET = 15.0; PRODUCT_NAME = {name}; SDKROOT = iphoneos;"
        objects += [
            f'T{number} = {{isa = PBXNativeTarget; name = {name}; productName = {name}; productType = "com.apple.product-type.application"; buildConfigurationList = L{number}; buildPhases = (R{number}, ); }};',
            f"R{number} = {{isa = PBXResourcesBuildPhase; buildActionMask = 2147483647; files = (B{number}, ); }};",
            f"B{number} = {{isa = PBXBuildFile; fileRef = A{number}; }};",
            f'A{number} = {{isa = PBXFileReference; lastKnownFileType = folder.assetcatalog; path = Assets.xcassets; sourceTree = "<group>"; }};',
            f'G{number} = {{isa = PBXGroup; children = (A{number}, ); path = {name}; sourceTree = "<group>"; }};',
            f"L{number} = {{isa = XCConfigurationList; buildConfigurations = (C{number}, ); }};",
            f"C{number} = {{isa = XCBuildConfiguration; name = Release; buildSettings = {{ {settings} }}; }};",
        ]
        write(
            root,
            f"ios/{name}/Info.plist",
            '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n<dict>\n\t<key>CFBundleName</key>\n\t<string>$(PRODUCT_NAME)</string>\n</dict>\n</plist>\n',
        )
        write(root, f"ios/{name}/Assets.xcassets/Contents.json", '{ "info" : { "author" : "xcode", "version" : 1 } }\n')
    listed, groups = (", ".join(f"{letter}{number}" for number in range(count)) for letter in "TG")
    objects += [
        f'MAIN = {{isa = PBXGroup; children = ({groups}, ); sourceTree = "<group>"; }};',
        "CL = {isa = XCConfigurationList; buildConfigurations = (CC, ); };",
        "CC = {isa = XCBuildConfiguration; name = Release; buildSettings = { }; };",
        f"P = {{isa = PBXProject; buildConfigurationList = CL; mainGroup = MAIN; targets = ({listed}, ); }};",
    ]
    lines = "\n".join(f"\t\t{line}" for line in objects)
    write(
        root,
        "ios/Ferries.xcodeproj/project.pbxproj",
        f"// !$*UTF8*$!\n{{\n\tarchiveVersion = 1;\n\tobjectVersion = 56;\n\tobjects = {{\n{lines}\n\t}};\n\trootObject = P;\n}}\n",
    )
    quoted = ", ".join(f'"{name}"' for name in names)
    brief(root, app='targets = ["ios"]', more=f"[ios]\ntarget = [{quoted}]\n")


def paths(root: Path, count: int) -> None:
    """A drawing of many small shapes."""
    chance = random.Random(count)

    def near() -> str:
        return f"{chance.uniform(-9, 9):.1f} {chance.uniform(-9, 9):.1f}"

    shapes = (
        f'<path fill="#{chance.randrange(1 << 24):06x}" d="M{chance.uniform(0, 1000):.1f} {chance.uniform(0, 1000):.1f}c{near()} {near()} {near()}l{near()}z"/>'
        for _ in range(count)
    )
    app(root)
    write(
        root, "mark.svg", f'<svg xmlns="http://www.w3.org/2000/svg" width="1000" height="1000">{"".join(shapes)}</svg>'
    )


def picture(root: Path, name: str, width: int, height: int) -> None:
    """A picture of soft waves with a little grain."""
    x, y = pyvips.Image.xyz(width, height).bandsplit()
    waves = [((x * (0.01 + band / 500)).sin() * (y / (2.0 + band)).cos() * 90 + 128) for band in range(3)]
    grain = pyvips.Image.gaussnoise(width, height, sigma=4, mean=0, seed=7)
    image = pyvips.Image.bandjoin(waves[0], waves[1:]) + grain
    image.cast("uchar").copy(interpretation="srgb").write_to_file(str(root / name))


def pixels(root: Path, side: int) -> None:
    """A bitmap as the mark."""
    module(root, 0)
    picture(root, "mark.png", side, side)
    brief(root, mark="mark.png", app='targets = ["android"]')


def backdrop(root: Path, megapixels: int) -> None:
    """A picture behind the mark."""
    module(root, 0)
    width = round(float(np.sqrt(megapixels * 1e6 * 4 / 3)))
    picture(root, "backdrop.jpg", width, width * 3 // 4)
    brief(root, app='targets = ["android"]', light='backdrop = "backdrop.jpg"')


def uploads(root: Path, count: int) -> None:
    """Finished images of many sizes."""
    sizes = ", ".join(f'"{1000 + number}x{1600 + number}"' for number in range(count))
    brief(root, app='targets = ["uploads"]', more=f"[uploads]\nsizes = [{sizes}]\n")


def demo(root: Path, _value: int) -> None:
    """The sample app that ships with Rivelt, with its launch screens."""
    subprocess.run([sys.executable, "-m", "rivelt", "demo", "--quiet", "demo"], cwd=root, check=True)
    for found in (root / "demo").iterdir():
        found.rename(root / found.name)


if __name__ == "__main__":
    globals()[sys.argv[1]](Path(), int(sys.argv[2]))
