"""What Android's own resource compiler makes of the resources after apply."""

from __future__ import annotations

from pathlib import Path

import pytest

from aapt import SYSTEM_ATTRIBUTES, Table, compile_app, frameworks
from rivelt.platforms.android.resources import Device, Resources, android_colour
from rivelt.project.snapshot import Snapshot

BACKGROUND, SPLASH_GROUND, SPLASH_ICON, SPLASH_IMPRINT = (
    SYSTEM_ATTRIBUTES[name][0]
    for name in (
        "windowBackground",
        "windowSplashScreenBackground",
        "windowSplashScreenAnimatedIcon",
        "windowSplashScreenBrandingImage",
    )
)
LOOKS = {"light": ("#fff3ebdd", ""), "dark": ("#ff13212b", "night-")}


@pytest.fixture(scope="module")
def compiled(applied: Path, tmp_path_factory: pytest.TempPathFactory) -> Table:
    main = applied / "android/app/src/main"
    work = tmp_path_factory.mktemp("aapt")
    return compile_app(main / "res", main / "AndroidManifest.xml", work / "app", frameworks(work / "stubs"))


@pytest.mark.parametrize("look", LOOKS)
@pytest.mark.parametrize("version", [21, 23, 28, 30, 31, 34, 35])
def test_every_level_and_look_has_the_right_ground_and_plate(compiled: Table, look: str, version: int) -> None:
    ground, night = LOOKS[look]
    is_night = look == "dark"
    style = compiled.style("rivelt_launch", night=is_night, version=version)
    assert style["colorPrimary"] == "@color/deep_water"  # what the app's own theme says stays in force
    if version < 31:
        assert style[BACKGROUND] == "@drawable/rivelt_window"
        assert SPLASH_ICON not in style
    else:
        assert style[SPLASH_GROUND] == "@color/rivelt_ground"
        assert style[SPLASH_ICON] == "@drawable/rivelt_mark"
        assert style[SPLASH_IMPRINT] == "@drawable/rivelt_imprint"
    assert compiled.resolve("color/rivelt_ground", night=is_night, version=version) == ground
    for density, name in ((160, "mdpi"), (320, "xhdpi"), (640, "xxxhdpi")):
        plate = compiled.resolve("drawable/rivelt_mark", night=is_night, version=version, density=density)
        assert plate is not None
        assert f"/drawable-{night}{name}-" in plate


@pytest.mark.parametrize("look", LOOKS)
@pytest.mark.parametrize("version", [23, 30, 31, 34])
def test_our_reader_resolves_like_the_compiled_table(applied: Path, compiled: Table, look: str, version: int) -> None:
    resources = Resources.of_folder(Snapshot.of_folder(applied), "android/app/src/main/res")
    for density in (160, 240, 480):
        device = Device(version, look == "dark", density, 411, 891)
        for kind, name in (("drawable", "rivelt_mark"), ("drawable", "rivelt_imprint"), ("mipmap", "ic_launcher")):
            entry = resources.best(kind, name, device)
            theirs = compiled.resolve(f"{kind}/{name}", night=look == "dark", version=version, density=density)
            assert entry is not None
            assert theirs is not None
            assert entry.path.split("/")[-2] == theirs.split("/")[-2].rpartition("-")[0]
        for name in ("rivelt_ground", "page", "hull"):
            ours = resources.colour(f"@color/{name}", device)
            assert ours is not None
            assert ours[0] == android_colour(
                compiled.resolve(f"color/{name}", night=look == "dark", version=version) or ""
            )
