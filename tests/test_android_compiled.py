"""What Android's own resource compiler makes of the resources after apply."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from aapt import SYSTEM_ATTRIBUTES, Table, compile_app
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources, android_colour
from rivelt.project.project import Project

BACKGROUND, NAVIGATION_BAR, SPLASH_IMPRINT = (
    SYSTEM_ATTRIBUTES[name][0]
    for name in (
        "windowBackground",
        "navigationBarColor",
        "windowSplashScreenBrandingImage",
    )
)
LOOKS = {"light": ("#fff3ebdd", ""), "dark": ("#ff13212b", "night-")}


@pytest.fixture(scope="module")
def compiled(applied: Path, tmp_path_factory: pytest.TempPathFactory, stubs: tuple[Path, Path]) -> Table:
    main = applied / "android/app/src/main"
    return compile_app(main / "res", main / "AndroidManifest.xml", tmp_path_factory.mktemp("aapt"), stubs, 23)


@pytest.mark.parametrize("look", LOOKS)
@pytest.mark.parametrize("version", [23, 24, 28, 30, 31, 34, 35])
def test_every_level_and_look_has_the_right_ground_and_plate(compiled: Table, look: str, version: int) -> None:
    ground, night = LOOKS[look]
    is_night = look == "dark"
    style = compiled.style("rivelt_launch", night=is_night, version=version)
    assert style["postSplashScreenTheme"] == "@style/Theme.Skerryline"
    assert style["windowSplashScreenBackground"] == "@color/rivelt_ground"
    assert style["windowSplashScreenAnimatedIcon"] == "@drawable/rivelt_mark"
    if version < 31:
        assert style[BACKGROUND] == "@drawable/rivelt_window"
    else:
        assert style[SPLASH_IMPRINT] == "@drawable/rivelt_imprint"
    assert compiled.resolve("color/rivelt_ground", night=is_night, version=version) == ground
    bar = compiled.resolve(style[NAVIGATION_BAR][1:], night=is_night, version=version)
    assert bar == (
        ground if version >= 27 or is_night else "#ff000000"
    )  # white icons, which old systems draw, must be seen
    for density, name in ((160, "mdpi"), (320, "xhdpi"), (640, "xxxhdpi")):
        plate = compiled.resolve("drawable/rivelt_mark", night=is_night, version=version, density=density)
        assert plate is not None
        assert f"/drawable-{night}{'anydpi' if version >= 24 else name}-" in plate


@pytest.mark.parametrize("look", LOOKS)
@pytest.mark.parametrize("version", [23, 30, 31, 34])
def test_our_reader_resolves_like_the_compiled_table(applied: Path, compiled: Table, look: str, version: int) -> None:
    resources = Resources.of_folder(Project.of_folder(applied), "android/app/src/main/res")
    for density in (160, 240, 480):
        device = Device(version, look == "dark", density, 411, 891)
        for kind, name in (("drawable", "rivelt_mark"), ("drawable", "rivelt_imprint"), ("mipmap", "ic_launcher")):
            entry = resources.best(kind, name, device)
            theirs = compiled.resolve(f"{kind}/{name}", night=look == "dark", version=version, density=density)
            assert entry is not None
            assert theirs is not None
            assert entry.path.split("/")[-2] == re.sub("-v[48]$", "", theirs.split("/")[-2])
        for name in ("rivelt_ground", "page", "hull"):
            ours = resources.colour(f"@color/{name}", device)
            assert ours is not None
            assert ours[0] == android_colour(
                compiled.resolve(f"color/{name}", night=look == "dark", version=version) or ""
            )
