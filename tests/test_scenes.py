"""What the platforms' own rules make of native files that Rivelt never wrote: the pixels."""

from __future__ import annotations

import io
from collections.abc import Mapping
from pathlib import Path

import pytest
from PIL import Image

from conftest import MANIFEST, MARK, write_tree
from rivelt import opening
from rivelt.edit.gradle import read_gradle
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.platforms import platform
from rivelt.project.project import Project
from rivelt.proof.drawn import common_windows
from rivelt.scene.draw import draw_scene
from rivelt.scene.model import Picture, Scene, Screen
from rivelt.units import Rect
from test_apple_projects import FILES, PLIST, project

OLD = Screen("android", "phone", "API 30", 400, 800, 2, 30)
NEW = Screen("android", "phone", "API 34", 400, 800, 2, 34)
RES = "app/src/main/res"
HEAD = 'xmlns:android="http://schemas.android.com/apk/res/android"'
RED, BLUE, WHITE, BLACK = (255, 0, 0), (0, 0, 255), (255, 255, 255), (0, 0, 0)
Spots = Mapping[tuple[int, int], tuple[int, int, int]]


def flat(colour: tuple[int, int, int], size: tuple[int, int]) -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", size, colour).save(buffer, "PNG")
    return buffer.getvalue()


def snapshot_of(files: Mapping[str, str | bytes]) -> Project:
    return Project.of_files(
        {path: content if isinstance(content, bytes) else content.encode() for path, content in files.items()}
    )


def android(background: str, files: Mapping[str, str | bytes], screen: Screen = OLD, items: str = "") -> Scene:
    style = f'<style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">{background}</item>{items}</style>'
    manifest = MANIFEST.replace("<application", '<application android:icon="@mipmap/icon"')
    tree: dict[str, str | bytes] = {
        "app/src/main/AndroidManifest.xml": manifest,
        f"{RES}/values/s.xml": f"<resources>{style}</resources>",
        **{f"{RES}/{path}": content for path, content in files.items()},
    }
    snapshot = snapshot_of(tree)
    (site,) = platform("android").survey(snapshot)
    assert site.blocked is None
    return platform("android").scene(snapshot, site, screen, "light")


def check(scene: Scene, spots: Spots) -> None:
    assert not scene.unknowns
    image = draw_scene(scene, 1)
    for (x, y), colour in spots.items():
        assert [int(channel) for channel in image[y, x, :3]] == pytest.approx(colour, abs=3), (x, y)


def layers(*items: str) -> str:
    return f"<layer-list {HEAD}>{''.join(items)}</layer-list>"


BLUE_ITEM = '<item android:drawable="#0000FF"/>'
VECTOR = (
    f'<vector {HEAD} android:width="100dp" android:height="100dp" android:viewportWidth="10" android:viewportHeight="10">'
    '<group android:pivotX="5" android:pivotY="5" android:rotation="90"><path android:pathData="M0,0h10v5h-10z" android:fillColor="?attr/hull"/></group></vector>'
)
DRAWABLES: dict[str, tuple[str, Mapping[str, str | bytes], Spots]] = {
    "shape with a line": (
        "@drawable/d",
        {
            "drawable/d.xml": f'<shape {HEAD}><solid android:color="#0000FF"/><stroke android:width="10dp" android:color="#F00"/></shape>'
        },
        {(3, 400): RED, (200, 400): BLUE},
    ),
    "oval in a sized layer": (
        "@drawable/d",
        {
            "drawable/d.xml": layers(
                BLUE_ITEM,
                f'<item android:gravity="bottom|right" android:width="100dp" android:height="50dp"><shape {HEAD} android:shape="oval"><solid android:color="#FF0000"/></shape></item>',
            )
        },
        {(350, 775): RED, (303, 753): BLUE, (50, 775): BLUE},
    ),
    "gradient from the foot up": (
        "@drawable/d",
        {
            "drawable/d.xml": f'<shape {HEAD}><gradient android:angle="90" android:startColor="#FF0000" android:endColor="#0000FF"/></shape>'
        },
        {(200, 798): RED, (200, 1): BLUE, (10, 400): (127, 0, 127)},
    ),
    "tiles": (
        "@drawable/d",
        {
            "drawable/d.xml": f'<bitmap {HEAD} android:src="@drawable/t" android:tileMode="repeat"/>',
            "drawable-mdpi/t.png": flat(RED, (150, 150)),
        },
        {(0, 0): RED, (399, 799): RED, (160, 310): RED},
    ),
    "selector, inset and colour": (
        "@drawable/d",
        {
            "drawable/d.xml": f'<selector {HEAD}><item android:state_pressed="true" android:drawable="#00FF00"/><item><inset android:inset="20dp" android:drawable="#FF0000"/></item></selector>'
        },
        {(200, 400): RED},
    ),
    "vector by theme attribute, at its own size": (
        "@drawable/d",
        {
            "drawable/d.xml": layers(BLUE_ITEM, '<item android:gravity="center" android:drawable="@drawable/v"/>'),
            "drawable/v.xml": VECTOR,
        },
        {(225, 400): RED, (175, 400): BLUE, (225, 340): BLUE},
    ),
    "colour by theme attribute": ("?attr/hull", {}, {(200, 400): RED}),
    "stretched bitmap": ("@drawable/d", {"drawable-nodpi/d.png": flat(RED, (20, 20))}, {(1, 1): RED, (398, 798): RED}),
    "centred bitmap, larger than the screen": (
        "@drawable/d",
        {
            "drawable/d.xml": f'<bitmap {HEAD} android:src="@drawable/b" android:gravity="center"/>',
            "drawable-mdpi/b.png": flat(BLUE, (900, 900)),
        },
        {(1, 1): BLUE, (399, 799): BLUE},
    ),
}


@pytest.mark.parametrize(("background", "files", "spots"), DRAWABLES.values(), ids=DRAWABLES)
def test_window_backgrounds_are_drawn_as_android_draws_them(
    background: str, files: Mapping[str, str | bytes], spots: Spots
) -> None:
    items = '<item name="hull">#FF0000</item>'
    check(android(background, files, items=items), spots)


def test_bars_take_the_themes_colours() -> None:
    screen = Screen("android", "phone", "API 30", 400, 800, 2, 30, top=24, bottom=48)
    items = '<item name="android:statusBarColor">#FF0000</item><item name="android:navigationBarColor">#000000</item>'
    check(android("#0000FF", {}, screen, items), {(200, 10): RED, (200, 400): BLUE, (200, 790): BLACK})


BARS = '<item name="android:statusBarColor">#FF0000</item><item name="android:navigationBarColor">#000000</item>'
TRUE = '<item name="android:{}">true</item>'
CONTENT = '<item name="android:windowSplashscreenContent">@drawable/box</item>'


@pytest.mark.parametrize(
    ("items", "version", "spots"),
    [
        (BARS + TRUE.format("windowFullscreen"), 30, {(200, 10): BLUE, (200, 790): BLUE}),
        (BARS + TRUE.format("windowTranslucentStatus"), 30, {(200, 10): BLUE, (200, 790): BLACK}),
        (CONTENT, 30, {(200, 10): BLACK, (200, 30): RED, (200, 740): RED, (200, 790): BLACK}),
        (CONTENT + TRUE.format("windowFullscreen"), 26, {(200, 10): RED, (200, 790): BLUE}),
        (CONTENT, 25, {(200, 400): BLUE}),
    ],
)
def test_what_the_window_of_a_theme_shows_more(items: str, version: int, spots: Spots) -> None:
    screen = Screen("android", "phone", "Android", 400, 800, 2, version, top=24, bottom=48)
    box = {"drawable/box.xml": layers('<item android:drawable="#FF0000"/>')}
    check(android("#0000FF", box, screen, items), spots)


@pytest.mark.parametrize("flag", ["windowIsTranslucent", "windowIsFloating", "windowDisablePreview", "windowNoDisplay"])
def test_themes_without_a_launch_screen(flag: str) -> None:
    for screen in (OLD, NEW):
        scene = android("#0000FF", {}, screen, TRUE.format(flag))
        assert not scene.layers
        assert scene.ground_in_words == "nothing"
        assert f"android:{flag} is true in {RES}/values/s.xml" in scene.title
        assert not draw_scene(scene, 1).any()


THEMES: list[tuple[str, str, tuple[int, int, int] | None, tuple[int, int, int] | None]] = [
    # parent, version of Material Components, ground in light and in dark, None for unknown
    ("Theme.AppCompat.DayNight.NoActionBar", "", (250, 250, 250), (48, 48, 48)),
    ("Base.V7.Theme.AppCompat.Light", "", (250, 250, 250), (250, 250, 250)),
    ("Theme.MaterialComponents.DayNight", "1.12.0", (255, 255, 255), (18, 18, 18)),
    ("Theme.MaterialComponents.Light.Bridge", "1.12.0", None, None),
    ("Theme.Material3.DayNight.NoActionBar", "1.8.0", (255, 251, 254), (28, 27, 31)),
    ("Theme.Material3.DayNight.NoActionBar", "1.12.0-alpha02", (254, 247, 255), (20, 18, 24)),
    ("Theme.Material3.DayNight.NoActionBar", "", None, None),
    ("Theme.Material3.Dark", "1.9.0", (20, 18, 24), (20, 18, 24)),
    ("Theme.Material3.DynamicColors.Light", "1.12.0", None, None),
    ("Theme.AppCompat.Light.Dialog", "", None, None),
    ("@android:style/Theme.Material.Light.NoActionBar", "", (250, 250, 250), (250, 250, 250)),
    ("@android:style/Theme.DeviceDefault", "", None, None),
    ("Theme.Maker", "", None, None),
]


@pytest.mark.parametrize(("parent", "version", "light", "dark"), THEMES)
def test_what_known_libraries_themes_are(
    parent: str, version: str, light: tuple[int, int, int] | None, dark: tuple[int, int, int] | None
) -> None:
    gradle = f"// com.android.application\ndependencies {{ implementation 'com.google.android.material:material:{version}' }}"
    style = f'<resources><style name="Tern" parent="{parent}"/></resources>'
    tree = {
        "app/src/main/AndroidManifest.xml": MANIFEST.replace("<application", '<application android:icon="#FF0000"'),
        f"{RES}/values/s.xml": style,
        "app/build.gradle": gradle,
    }
    project = snapshot_of(tree)
    (site,) = platform("android").survey(project)
    for look, ground in (("light", light), ("dark", dark)):
        for screen in (OLD, NEW):
            scene = platform("android").scene(project, site, screen, "dark" if look == "dark" else "light")
            assert (scene.ground[:3] if scene.ground else None) == ground
            # A theme of which nothing is known may set the icon and the image at the foot too.
            unknown = 0 if ground else 3 if parent == "Theme.Maker" and screen == NEW else 1
            assert len(scene.unknowns) == unknown, scene.unknowns


@pytest.mark.parametrize(
    ("drawable", "items", "reason"),
    [
        (f'<vector {HEAD} android:width="9dp" android:height="9dp" android:viewportWidth="9" android:viewportHeight="9"><path android:pathData="M0,0h9v9h-9z" android:fillColor="#F00" android:blendMode="add"/></vector>', "", "android:blendMode of <path>"),
        (f'<vector {HEAD} android:width="9dp" android:height="9dp" android:viewportWidth="9" android:viewportHeight="9"><blur/></vector>', "", "<blur> in <vector>"),
        (f'<shape {HEAD} android:opticalInsetLeft="3dp"><solid android:color="#F00"/></shape>', "", "android:opticalInsetLeft of <shape>"),
        (f'<layer-list {HEAD}><item android:drawable="#F00" android:insetAll="3dp"/></layer-list>', "", "android:insetAll of <item>"),
        (f'<layer-list {HEAD} android:paddingTop="9dp"><item android:drawable="#F00"/></layer-list>', "", "android:paddingTop of <layer-list>"),
        (f'<shape {HEAD}><solid android:color="#F00"/></shape>', '<item name="android:windowFrame">@drawable/d</item>', "android:windowFrame"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_unknown(drawable: str, items: str, reason: str) -> None:
    scene = android("@drawable/d", {"drawable/d.xml": drawable}, OLD, items)
    assert any(reason in found for found in scene.unknowns), scene.unknowns


@pytest.mark.parametrize("screen", [OLD, NEW], ids=["old", "new"])
def test_the_librarys_theme_without_an_icon_shows_the_systems_own(screen: Screen) -> None:
    style = '<style name="Tern" parent="Theme.SplashScreen"><item name="windowSplashScreenBackground">#0000FF</item></style>'
    tree = {"app/src/main/AndroidManifest.xml": MANIFEST, f"{RES}/values/s.xml": f"<resources>{style}</resources>"}
    project = snapshot_of(tree)
    (site,) = platform("android").survey(project)
    scene = platform("android").scene(project, site, screen, "light")
    assert scene.ground is not None
    assert scene.ground[:3] == BLUE
    assert any("sym_def_app_icon" in reason for reason in scene.unknowns), scene.unknowns


@pytest.mark.parametrize(
    ("screen", "disc", "reach"),
    # The library draws the icon on 240 dp whatever the disc's colour; the system only where a disc is seen.
    [(OLD, "#00000000", 80), (NEW, "#00000000", 96), (NEW, "#0000FF", 96), (NEW, "#FFFFFF", 80)],
)
def test_the_size_of_an_icon_on_a_disc(screen: Screen, disc: str, reach: int) -> None:
    items = "".join(
        f'<item name="windowSplashScreen{name}">{value}</item>'
        for name, value in (("Background", "#0000FF"), ("AnimatedIcon", "@drawable/i"), ("IconBackgroundColor", disc))
    )
    style = f'<style name="Tern" parent="Theme.SplashScreen.IconBackground">{items}</style>'
    tree = {
        "app/src/main/AndroidManifest.xml": MANIFEST,
        f"{RES}/values/s.xml": f"<resources>{style}</resources>",
        f"{RES}/drawable/i.xml": layers('<item android:drawable="#FF0000"/>'),
    }
    project = snapshot_of(tree)
    (site,) = platform("android").survey(project)
    check(
        platform("android").scene(project, site, screen, "light"),
        {(200, 400 - reach + 3): RED, (200, 400 - reach - 3): BLUE},
    )


def test_the_window_of_a_platform_theme_flashes_in_the_dark(tmp_path: Path) -> None:
    """The usual template of a Compose app: a dark launch screen, and a light window after it."""
    files = {
        "app/src/main/AndroidManifest.xml": MANIFEST,
        f"{RES}/values/s.xml": '<resources><style name="Tern" parent="android:Theme.Material.Light.NoActionBar"/></resources>',
        "app/build.gradle": "// com.android.application\nandroid { compileSdk 35 }\n",
        "rivelt.toml": '[light]\nground = "#F3EBDD"\nmark = "mark.svg"\n[dark]\nground = "#13212B"\n',
        "mark.svg": MARK,
    }
    root = write_tree(tmp_path / "tern", files)
    found = [one for one in opening.open(root).check(select=["HND01"], planned=True).results if one.verdict == "broken"]
    assert [one.look for one in found] == ["dark"]
    assert "a flash (dark): the window of Tern is #FAFAFA" in found[0].message


def test_a_flag_that_is_a_reference() -> None:
    """One that leads to true hides the launch screen, one to false does not; one that is not in the project is unknown."""
    item = '<item name="android:windowIsTranslucent">@bool/{}</item>'
    files = {"values/b.xml": '<resources><bool name="yes">true</bool><bool name="no">false</bool></resources>'}
    assert android("#0000FF", files, OLD, item.format("yes")).ground_in_words == "nothing"
    assert android("#0000FF", files, OLD, item.format("no")).ground is not None
    (reason,) = android("#0000FF", files, OLD, item.format("elsewhere")).unknowns
    assert "android:windowIsTranslucent" in reason


ADAPTIVE = f'<adaptive-icon {HEAD}><background android:drawable="#FF0000"/><foreground android:drawable="@drawable/f"/></adaptive-icon>'


@pytest.mark.parametrize(
    ("files", "spots"),
    [
        # The layers are 240 dp, seen through a circle of 160: the foreground's middle third is blue.
        (
            {
                "mipmap-anydpi-v26/icon.xml": ADAPTIVE,
                "drawable/f.xml": layers(
                    '<item android:left="80dp" android:right="80dp" android:top="80dp" android:bottom="80dp" android:drawable="#0000FF"/>'
                ),
            },
            {(200, 400): BLUE, (200, 350): RED, (130, 330): WHITE, (200, 310): WHITE},
        ),
        ({"mipmap-xhdpi/icon.png": flat(RED, (96, 96))}, {(200, 400): RED, (125, 325): RED, (110, 310): WHITE}),
    ],
    ids=["adaptive", "bitmap"],
)
def test_without_an_icon_of_its_own_the_launcher_icon_is_shown(files: Mapping[str, str], spots: Spots) -> None:
    check(android("#FFFFFF", files, NEW), spots)


def adaptive(background: str, box: str = "#0000FF", inset: int = 80) -> dict[str, str]:
    sides = " ".join(f'android:{side}="{inset}dp"' for side in ("left", "right", "top", "bottom"))
    return {
        "mipmap-anydpi-v26/icon.xml": ADAPTIVE.replace("#FF0000", background),
        "drawable/f.xml": layers(f'<item {sides} android:drawable="{box}"/>'),
    }


GREY = (34, 34, 34)


@pytest.mark.parametrize(
    ("background", "files", "spots"),
    [
        # The background is like the ground: the foreground alone, and its layer larger (288 dp for 240), as it fills a ninth of it.
        ("#FFFFFF", adaptive("#F8F4F0"), {(200, 400): BLUE, (200, 340): BLUE, (200, 332): WHITE, (200, 320): WHITE}),
        # A foreground that fills more than four ninths is as large as with its background.
        ("#FFFFFF", adaptive("#F8F4F0", inset=30), {(200, 400): BLUE, (200, 325): BLUE, (200, 315): WHITE}),
        # Grey, and a foreground that stands out: alone too.
        ("#222222", adaptive("#FFFFFF", "#FF0000"), {(200, 400): RED, (200, 340): RED, (200, 332): GREY}),
        # Grey, and a foreground that does not stand out.
        ("#222222", adaptive("#FFFFFF", "#303030"), {(200, 370): (48, 48, 48), (200, 340): WHITE}),
        # A colour that is not the ground's.
        ("#FFFFFF", adaptive("#FF0000"), {(200, 400): BLUE, (200, 340): RED, (200, 310): WHITE}),
    ],
)
def test_an_adaptive_icon_on_a_ground_like_its_background(
    background: str, files: Mapping[str, str], spots: Spots
) -> None:
    check(android(background, files, NEW), spots)


def test_an_alias_has_an_icon_of_its_own() -> None:
    activity = MANIFEST[MANIFEST.index("<intent-filter") : MANIFEST.index("</activity>")]
    alias = f'<activity-alias android:name=".A" android:targetActivity=".Main" android:icon="@mipmap/blue">{activity}</activity-alias>'
    manifest = MANIFEST.replace(activity, "").replace("</application>", f"{alias}</application>")
    tree: dict[str, str | bytes] = {
        f"{RES}/values/s.xml": '<resources><style name="Tern" parent="@android:style/Theme.Material"/></resources>',
        f"{RES}/mipmap-xhdpi/blue.png": flat(BLUE, (96, 96)),
        f"{RES}/mipmap-xhdpi/red.png": flat(RED, (96, 96)),
    }
    manifest = manifest.replace('.Main">', '.Main" android:icon="@mipmap/red">', 1)
    for text, colour in ((manifest, BLUE), (manifest.replace(' android:icon="@mipmap/blue"', ""), RED)):
        project = snapshot_of({**tree, "app/src/main/AndroidManifest.xml": text})
        (site,) = platform("android").survey(project)
        check(platform("android").scene(project, site, NEW, "light"), {(200, 400): colour})


PHONE = Screen("ios", "phone", "iOS", 400, 800, 2, 17, top=50, bottom=30)
VIEW = (
    '<document launchScreen="YES"><scenes><scene><objects><viewController id="c"><layoutGuides><viewControllerLayoutGuide type="top" id="T"/>'
    '<viewControllerLayoutGuide type="bottom" id="B"/></layoutGuides>{}</viewController></objects></scene></scenes></document>'
)
PLAIN = '<view key="view" id="V"><rect key="frame" x="0" y="0" width="320" height="480"/><subviews>{}</subviews><color key="backgroundColor" red="0" green="0" blue="1"/>{}</view>'
BOX = '<view id="X" {}><rect key="frame" x="{}" y="{}" width="{}" height="{}"/>{}<color key="backgroundColor" red="1" green="0" blue="0"/></view>'
SIZE = '<constraints><constraint firstAttribute="width" constant="100" id="w"/><constraint firstAttribute="height" constant="60" id="h"/></constraints>'
NO = 'translatesAutoresizingMaskIntoConstraints="NO"'
NIB = f"<document launchScreen='YES'><objects>{PLAIN.format('', '')}</objects></document>".replace(' key="view"', "")
STORYBOARDS: dict[str, tuple[str, str, Spots]] = {
    "kept in the middle by its mask": (
        "Launch.storyboard",
        VIEW.format(
            PLAIN.format(
                BOX.format(
                    "",
                    110,
                    210,
                    100,
                    60,
                    '<autoresizingMask key="autoresizingMask" flexibleMinX="YES" flexibleMaxX="YES" flexibleMinY="YES" flexibleMaxY="YES"/>',
                ),
                "",
            )
        ),
        {(200, 400): RED, (152, 372): RED, (148, 400): BLUE, (200, 433): BLUE},
    ),
    "stretched by its mask": (
        "Launch.storyboard",
        VIEW.format(
            PLAIN.format(
                BOX.format(
                    "",
                    10,
                    400,
                    300,
                    80,
                    '<autoresizingMask key="autoresizingMask" widthSizable="YES" flexibleMinY="YES"/>',
                ),
                "",
            )
        ),
        {(12, 799): RED, (388, 722): RED, (5, 780): BLUE, (395, 780): BLUE, (200, 715): BLUE},
    ),
    "old layout guides": (
        "Launch.storyboard",
        VIEW.format(
            PLAIN.format(
                BOX.format(NO, 0, 0, 10, 10, SIZE),
                '<constraints><constraint firstItem="X" firstAttribute="top" secondItem="T" secondAttribute="bottom" id="1"/>'
                '<constraint firstItem="X" firstAttribute="leading" secondItem="V" secondAttribute="leading" id="2"/></constraints>',
            )
        ),
        {(2, 52): RED, (98, 108): RED, (50, 45): BLUE, (50, 112): BLUE},
    ),
    "a nib": (
        "Launch.xib",
        NIB,
        {(200, 400): BLUE},
    ),
}


@pytest.mark.parametrize(("name", "text", "spots"), STORYBOARDS.values(), ids=STORYBOARDS)
def test_storyboards_and_nibs_of_others_are_laid_out(name: str, text: str, spots: Spots) -> None:
    files = {
        **FILES,
        "App/Info.plist": PLIST.format("<key>UILaunchStoryboardName</key><string>Launch</string>"),
        "X.xcodeproj/project.pbxproj": project(
            files="B1, B2",
            more=f'B2 = {{isa = PBXBuildFile; fileRef = F9; }}; F9 = {{isa = PBXFileReference; path = {name}; sourceTree = "<group>"; }};',
        ).replace("(F1, F2)", "(F1, F2, F9)"),
        f"App/{name}": text,
    }
    snapshot = snapshot_of(files)
    (site,) = platform("ios").survey(snapshot)
    check(platform("ios").scene(snapshot, site, PHONE, "light"), spots)


def test_an_app_that_declares_nothing_runs_letterboxed() -> None:
    snapshot = snapshot_of(FILES)
    (site,) = platform("ios").survey(snapshot)
    scene = platform("ios").scene(snapshot, site, PHONE, "light")
    assert "letterboxed" in scene.title
    check(scene, {(200, 400): BLACK})


def nine_patch() -> bytes:
    """10 x 10 pixels in a border: blue, its middle two rows and columns red; those stretch."""
    image = Image.new("RGBA", (12, 12))
    image.paste((*BLUE, 255), (1, 1, 11, 11))
    image.paste((*RED, 255), (5, 5, 7, 7))
    for place in (5, 6):
        image.putpixel((place, 0), (0, 0, 0, 255))
        image.putpixel((0, place), (0, 0, 0, 255))
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    return buffer.getvalue()


def test_a_nine_patch_stretches_only_where_it_is_marked() -> None:
    scene = android("@drawable/d", {"drawable-mdpi/d.9.png": nine_patch()})
    check(scene, {(200, 400): RED, (10, 400): RED, (390, 790): RED, (1, 400): BLUE, (200, 2): BLUE, (398, 798): BLUE})


LIBRARY = (
    '<style name="Tern" parent="Theme.SplashScreen{}"><item name="windowSplashScreenBackground">#FFFFFF</item>'
    '<item name="windowSplashScreenAnimatedIcon">@drawable/i</item><item name="windowSplashScreenIconBackgroundColor">#0000FF</item>'
    '<item name="postSplashScreenTheme">@android:style/Theme</item></style>'
)


@pytest.mark.parametrize("screen", [OLD, NEW])
@pytest.mark.parametrize(
    ("parent", "spots"),
    [
        ("", {(200, 400): RED, (290, 400): RED, (265, 335): RED, (299, 400): WHITE, (120, 320): WHITE}),
        (".IconBackground", {(200, 400): RED, (275, 400): RED, (283, 400): WHITE}),
    ],
)
def test_the_librarys_screen_masks_like_the_systems(screen: Screen, parent: str, spots: Spots) -> None:
    files: dict[str, str | bytes] = {
        f"{RES}/values/s.xml": f"<resources>{LIBRARY.format(parent)}</resources>",
        f"{RES}/drawable-nodpi/i.png": flat(RED, (300, 300)),
        "app/src/main/AndroidManifest.xml": MANIFEST,
    }
    snapshot = snapshot_of(files)
    (site,) = platform("android").survey(snapshot)
    check(platform("android").scene(snapshot, site, screen, "light"), spots)


def test_a_night_style_hides_what_stands_in_v31() -> None:
    icon = '<item name="android:windowSplashScreenAnimatedIcon">@drawable/i</item>'
    plain = '<resources><style name="Tern" parent="@android:style/Theme"><item name="android:windowBackground">{}</item>{}</style></resources>'
    files: dict[str, str | bytes] = {
        "app/src/main/AndroidManifest.xml": MANIFEST.replace(
            "<application", '<application android:icon="@mipmap/icon"'
        ),
        f"{RES}/values/s.xml": plain.format("#FFFFFF", ""),
        f"{RES}/values-v31/s.xml": plain.format("#FFFFFF", icon),
        f"{RES}/values-night/s.xml": plain.format("#000000", ""),
        f"{RES}/drawable-nodpi/i.png": flat(RED, (300, 300)),
        f"{RES}/mipmap-xhdpi/icon.png": flat(BLUE, (96, 96)),
    }
    snapshot = snapshot_of(files)
    (site,) = platform("android").survey(snapshot)
    check(platform("android").scene(snapshot, site, NEW, "light"), {(200, 400): RED, (5, 5): WHITE})
    check(platform("android").scene(snapshot, site, NEW, "dark"), {(200, 400): BLUE, (5, 5): BLACK})


def test_the_common_window_is_what_every_screen_shows_of_a_backdrop() -> None:
    tall, wide = Screen("android", "a", "A", 400, 800, 2, 30), Screen("android", "b", "B", 600, 800, 2, 30)
    data = flat(RED, (10, 10))
    scenes = [
        Scene(
            tall,
            "light",
            (
                Picture(Rect(-200, 0, 800, 800), ImageFile(data), "x.jpg"),
                Picture(Rect(10, 10, 5, 5), ImageFile(data), "y.png"),
            ),
            "",
        ),
        Scene(wide, "light", (Picture(Rect(-100, -50, 800, 900), ImageFile(data), "x.jpg"),), ""),
        Scene(wide, "dark", (Picture(Rect(10, 10, 5, 5), ImageFile(data), "y.png"),), ""),
    ]
    windows = common_windows(scenes)
    assert windows.keys() == {id(scenes[0]), id(scenes[1])}
    assert windows[id(scenes[0])] == pytest.approx((0, 800 * 50 / 900, 400, 800 * 800 / 900))
    assert windows[id(scenes[1])] == pytest.approx((100, 0, 400, 800))


HOSTILE = {
    "an angle that is none": f'<shape {HEAD}><gradient android:angle="x" android:startColor="#F00" android:endColor="#00F"/></shape>',
    "a ring without a ratio": '<shape xmlns:android="http://schemas.android.com/apk/res/android" android:shape="ring" android:useLevel="false" android:thicknessRatio="0"><solid android:color="#FFF"/></shape>',
    "itself, twice": layers('<item android:drawable="@drawable/d"/>' * 2),
    "a layer without room": layers(
        f'<item android:left="300dp" android:right="300dp"><shape {HEAD} android:shape="oval"><solid android:color="#F00"/></shape></item>'
    ),
    "a vector that is not": VECTOR.replace("M0,0h10v5h-10z", "&lt;/svg&gt;").replace("?attr/hull", "?attr/lost"),
}


@pytest.mark.parametrize("text", HOSTILE.values(), ids=HOSTILE)
def test_broken_drawables_are_told_and_never_end_in_a_crash_or_without_end(text: str) -> None:
    scene = android("@drawable/d", {"drawable/d.xml": text})
    assert len(scene.layers) < 300
    draw_scene(scene, 0.2)


def test_build_files_nested_without_end_are_refused() -> None:
    for data in (b"a {" * 5000 + b"}" * 5000, b'"${' * 5000):
        with pytest.raises(BadInput, match="cannot be understood"):
            read_gradle(data, "build.gradle")
