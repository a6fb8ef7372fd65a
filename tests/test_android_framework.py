"""Our reading of Android's resources against the platform's own framework, at several API levels."""

from __future__ import annotations

import json
import re
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import pyvips
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import aapt
from android_framework import tables, trees
from android_framework.judge import (
    DRAWN_FROM,
    LEVELS,
    RELEASES,
    Drawing,
    Framework,
    Linker,
    Phone,
    Question,
    level_jar,
    levels,
    missing,
)
from conftest import BRIEF, small_android, write_tree
from rivelt import opening
from rivelt.demo.layout import sample_files
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources
from rivelt.platforms.android.native.theme import theme_items
from rivelt.platforms.android.options import MANNERS, Manner
from rivelt.platforms.android.reader.drawables import Drawables
from rivelt.project.project import Project
from rivelt.scene.draw import draw_scene
from rivelt.scene.model import Scene, Screen, Unknown
from rivelt.units import Rect

pytestmark = [
    pytest.mark.slow,
    pytest.mark.skipif(missing() is not None, reason=missing() or ""),
]
EXAMPLES = settings(
    max_examples=30,
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)
NS = f'xmlns:android="{aapt.NAMESPACE}"'
Files = dict[str, str | bytes]


@pytest.fixture(scope="session")
def framework(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Framework]:
    base = tmp_path_factory.getbasetemp()
    shared = base.parent if base.name.startswith("popen") else base
    found = Framework(shared / "android-framework")
    yield found
    found.close()


@pytest.fixture(scope="session")
def linker(tmp_path_factory: pytest.TempPathFactory) -> Linker:
    return Linker(tmp_path_factory.mktemp("packages"))


def device_of(phone: Phone, level: int) -> Device:
    """The same device in our words."""
    modes = {1: "", 2: "desk", 3: "car", 4: "television", 6: "watch"}
    return Device(
        level, phone.night, phone.density, phone.width, phone.height, phone.locale, modes[phone.mode], phone.round
    )


@dataclass(frozen=True)
class Ours:
    """Our reading of a `res` folder on one device."""

    drawables: Drawables

    @classmethod
    def of(cls, files: Mapping[str, str | bytes], device: Device, theme: str = "", moment: float = 0.0) -> Ours:
        project = Project.of_files(
            {f"res/{path}": text.encode() if isinstance(text, str) else text for path, text in files.items()}
        )
        resources = Resources.of_folder(project, "res")
        items = dict(theme_items(resources, theme, device, {}).items) if theme else {}
        return cls(Drawables(project, resources, device, items, moment=moment))

    def drawn(self, value: str, width: int, height: int) -> tuple[np.ndarray[Any, Any], list[str]]:
        """A drawable in a frame (px), with alpha; and what is reported to be unknown of it."""
        pixel = self.drawables.values.pixel
        screen = Screen("android", "", "", width * pixel, height * pixel, 1 / pixel, self.drawables.device.version)
        layers = self.drawables.layers(value, Rect(0, 0, width * pixel, height * pixel), "")
        unknown = [layer.reason for layer in layers if isinstance(layer, Unknown)]
        scene = Scene(screen, "light", tuple(layers), "")
        return draw_scene(scene, 1 / pixel).astype(float), unknown


def apart(one: np.ndarray[Any, Any], two: np.ndarray[Any, Any]) -> float:
    """The mean difference of two pictures with alpha, of 255."""
    shown = []
    for picture in (one, two):
        alpha = picture[:, :, 3:] / 255
        shown.append(np.concatenate([picture[:, :, :3] * alpha, picture[:, :, 3:]], axis=2))
    return float(np.abs(shown[0] - shown[1]).mean())


def picture(path: Path) -> np.ndarray[Any, Any]:
    image = pyvips.Image.new_from_file(str(path)).colourspace("srgb")
    return np.asarray((image if image.hasalpha() else image.addalpha()).numpy().astype(float))


# The best match

PARTS = (
    ("", "de", "en", "en-rUS", "de-rAT", "ar", "ar-rEG", "zh-rTW", "b+zh+Hant", "b+sr+Latn"),
    ("", "ldrtl", "ldltr"),
    ("", "sw320dp", "sw360dp", "sw600dp"),
    ("", "w360dp", "w400dp", "w820dp"),
    ("", "h480dp", "h700dp", "h800dp"),
    ("", "small", "normal", "large", "xlarge"),
    ("", "long", "notlong"),
    ("", "round", "notround"),
    ("", "land", "port"),
    ("", "car", "watch", "television", "desk"),
    ("", "night", "notnight"),
    ("", "ldpi", "mdpi", "tvdpi", "hdpi", "xhdpi", "420dpi", "xxxhdpi", "nodpi", "anydpi"),
    ("", "finger", "notouch"),
    ("", "keysexposed", "keyssoft", "keyshidden"),
    ("", "nokeys", "qwerty"),
    ("", "nonav", "dpad"),
    ("", "v23", "v26", "v29", "v31", "v34"),
)


@st.composite
def folders(draw: st.DrawFn) -> list[str]:
    """The qualifiers of folders that compete: all of the same few kinds, in their order."""
    kinds = sorted(draw(st.lists(st.integers(0, len(PARTS) - 1), min_size=1, max_size=3, unique=True)))
    names = st.tuples(*(st.sampled_from(PARTS[kind]) for kind in kinds))
    found = {"-".join(part for part in name if part) for name in draw(st.lists(names, min_size=2, max_size=9))}
    return sorted(found - {""})


PHONES = st.builds(
    Phone,
    night=st.booleans(),
    density=st.sampled_from([120, 160, 213, 240, 280, 320, 400, 420, 480, 560, 640]),
    width=st.sampled_from([320, 360, 411, 600, 800, 1280]),
    height=st.sampled_from([426, 470, 480, 640, 731, 800, 1280]),
    locale=st.sampled_from(["en-US", "en-GB", "de-DE", "de-AT", "ar-EG", "zh-TW", "zh-CN", "sr-RS", "fr-FR"]),
    mode=st.sampled_from([1, 1, 1, 3, 4, 6]),
    round=st.booleans(),
)


@settings(parent=EXAMPLES, max_examples=60)
@given(names=folders(), phones=st.lists(PHONES, min_size=6, max_size=6))
def test_the_best_match(framework: Framework, linker: Linker, names: list[str], phones: list[Phone]) -> None:
    texts = {f"values-{name}": f"#FF{index:06X}" for index, name in enumerate(names)} | {"values": "#FFABCDEF"}
    files: Files = {f"{k}/c.xml": f'<resources><color name="c">{v}</color></resources>' for k, v in texts.items()}
    package = linker.link(files)
    asked = [
        Question(package, level, phone, values=["@color/c"])
        for phone, level in zip(phones, (23, 28, 30, 31, 33, 34), strict=True)
    ]
    for question, answer in zip(asked, framework.ask(asked), strict=True):
        ours = Ours.of(files, device_of(question.device, question.level)).drawables.colour("@color/c")
        expected = answer["values"]["@color/c"]["colour"]
        got = ours[0].hex.upper() if ours else None
        assert got == "#" + expected[3:], (names, question.device, question.level)


# Themes

STYLES = ("Launch", "Launch.Dark", "Base", "Base.Launch")
PARENTS = (
    "@android:style/Theme.Black.NoTitleBar",
    "@android:style/Theme.Material.Light.NoActionBar",
    "@android:style/Theme.Holo.Light",
    "@android:style/Theme.Translucent.NoTitleBar",
    "@android:style/Theme.Material",
)
ITEMS = {
    "android:windowBackground": ("#FF112233", "@color/ground", "?attr/tone", "@android:color/holo_blue_dark"),
    "android:statusBarColor": ("#FF445566", "@color/ground", "?android:attr/colorBackground"),
    "android:navigationBarColor": ("#FF445577", "@android:color/white"),
    "android:windowIsTranslucent": ("true", "false"),
    "tone": ("#FF778899", "@color/ground", "@android:color/background_dark"),
}


@st.composite
def style_files(draw: st.DrawFn) -> Files:
    """Styles in several folders, each with a parent by name, by its dots, or with none; all are defined once without qualifiers."""
    files: Files = {
        "values/common.xml": '<resources><attr name="tone" format="color|reference"/><color name="ground">#FFF3EBDD</color></resources>',
        "values-night/common.xml": '<resources><color name="ground">#FF13212B</color></resources>',
    }
    for folder in ("values", *draw(st.sets(st.sampled_from(["values-night", "values-v29", "values-night-v31"])))):
        parts = []
        for index, name in enumerate(STYLES):
            if folder != "values" and draw(st.booleans()):
                continue
            implied = "." in name and draw(st.booleans())
            parent = "" if implied else f' parent="{draw(st.sampled_from(("", *PARENTS, *STYLES[index + 1 :])))}"'
            items = draw(st.dictionaries(st.sampled_from(sorted(ITEMS)), st.integers(0, 3), max_size=3))
            shown = "".join(
                f'<item name="{key}">{ITEMS[key][at % len(ITEMS[key])]}</item>' for key, at in items.items()
            )
            parts.append(f'<style name="{name}"{parent}>{shown}</style>')
        files[f"{folder}/styles.xml"] = f"<resources>{''.join(parts)}</resources>"
    return files


@settings(parent=EXAMPLES, max_examples=25)
@given(files=style_files(), nights=st.lists(st.booleans(), min_size=5, max_size=5))
def test_themes(framework: Framework, linker: Linker, files: Files, nights: list[bool]) -> None:
    package = linker.link(files)
    names = {name: f"?{'' if ':' in name else 'attr/'}{name.replace(':', ':attr/')}" for name in ITEMS}
    asked = [
        Question(package, level, Phone(night=night), f"@style/{style}", list(names.values()))
        for level, night in zip((23, 28, 30, 31, levels()[-1]), nights, strict=True)
        for style in STYLES
    ]
    for question, answer in zip(asked, framework.ask(asked), strict=True):
        drawables = Ours.of(files, device_of(question.device, question.level), question.theme).drawables
        for name, reference in names.items():
            theirs = answer["values"][reference] or {}
            ours = drawables.theme.get(name)
            if name == "android:windowIsTranslucent":
                assert (ours is not None and ours[0] == "true") == bool(theirs.get("number")), (files, question)
            elif "colour" in theirs:
                colour = drawables.colour(reference)
                shown = f"#{colour[0].alpha:02X}{colour[0].hex[1:7].upper()}" if colour else None
                assert shown == theirs["colour"], (files, question, name)
            elif not theirs:
                assert ours is None or drawables.colour(reference) is None, (files, question, name)


def test_what_the_table_says_of_the_platforms_own_themes(framework: Framework, linker: Linker, tmp_path: Path) -> None:
    package = linker.link({"values/a.xml": '<resources><color name="a">#FFF</color></resources>'})
    some = (23, 28, 31, levels()[-1])
    found = tables.asked(framework, package, tmp_path, every=7, at=some)
    written = json.loads(tables.OUT.read_text())
    for kind in ("themes", "colours"):
        for level in some:
            for name, expected in found[kind].items():
                assert tables.at_level(written[kind][name], level) == tables.at_level(expected, level), (name, level)


def test_when_attributes_came() -> None:
    """The table of attributes, and the numbers that our stand-in for the system gives them, against the systems themselves."""
    since = {**android_facts().attributes, **aapt.NEWER}
    assert since == {**aapt.NEWER, **android_facts().attributes}
    for level in LEVELS:
        jar = level_jar(RELEASES[level])
        with zipfile.ZipFile(jar) as opened:
            table = opened.read("resources.arsc")
        for name, first in since.items():
            entry = bytes([len(name)] * 2) + name.encode() + b"\0"  # of a string pool in UTF-8
            assert (entry in table) == (first <= level), (name, level)


# Drawables


@pytest.mark.parametrize("seed", [1, 3, 6])
def test_drawables(framework: Framework, linker: Linker, tmp_path: Path, seed: int) -> None:
    """Random drawables, one in the other: their natural sizes are the same, and what is drawn is the same to less than 1 of 255."""
    drawer = trees.Drawer(seed)
    names = [f"drawable/d{number}.xml" for number in range(40)]
    files = {**trees.common(), **{name: drawer.file() for name in names}}
    package = linker.link(files)
    width, height = 300, 500
    asked = [
        Question(
            package,
            level,
            Phone(density=320, width=width // 2, height=height // 2, locale=locale),
            "@style/Launch",
            drawings=[
                Drawing(f"@{name[:-4]}", width, height, str(tmp_path / f"{level}-{number}.png"))
                for number, name in enumerate(names)
            ],
        )
        for level, locale in ((DRAWN_FROM, "en-US"), (31, "ar-EG"), (34, "de-DE"))
    ]
    known = 0
    for question, answer in zip(asked, framework.ask(asked), strict=True):
        for drawing, theirs in zip(question.drawings, answer["drawn"], strict=True):
            if "error" in theirs:  # the framework itself does not load it
                continue
            device = device_of(question.device, question.level)
            drawn, unknown = Ours.of(files, device, question.theme).drawn(drawing.value, width, height)
            if unknown:
                continue
            known += 1
            natural = Ours.of(files, device, question.theme).drawables.natural(drawing.value)
            pixels = [-1 if side is None else round(side * 2) for side in natural]
            where = (question.level, files[f"{drawing.value[1:]}.xml"])
            assert pixels == [theirs["width"], theirs["height"]], where
            assert apart(drawn, picture(Path(drawing.png))) < 1, where
    assert known > 0.8 * len(names) * len(asked)


def test_icons(framework: Framework, linker: Linker, tmp_path: Path) -> None:
    """Adaptive icons where no mask cuts them, and vectors that move, as they are before they do."""
    drawer, side = trees.Drawer(11), 216
    adaptive = {f"drawable/a{number}.xml": drawer.adaptive_icon() for number in range(24)}
    moving = {f"drawable/m{number}.xml": drawer.animated_vector() for number in range(24)}
    files = {**trees.common(), **adaptive, **moving}
    package = linker.link(files, min_sdk=26)
    y, x = np.mgrid[:side, :side] + 0.5 - side / 2
    everywhere = np.ones((side, side), bool)
    in_mask = np.hypot(x, y) < side / 2 - 2
    asked = [
        Question(
            package,
            level,
            Phone(density=320),
            "@style/Launch",
            drawings=[
                Drawing(f"@{name[:-4]}", side, side, str(tmp_path / f"{level}-{Path(name).stem}.png"))
                for name in (*adaptive, *moving)
            ],
        )
        for level in (DRAWN_FROM, 33)
    ]
    known = 0
    for question, answer in zip(asked, framework.ask(asked), strict=True):
        for drawing, theirs in zip(question.drawings, answer["drawn"], strict=True):
            ours = Ours.of(files, device_of(question.device, question.level), question.theme)
            drawn, unknown = ours.drawn(drawing.value, side, side)
            if unknown or "error" in theirs:
                continue
            known += 1
            text = files[f"{drawing.value[1:]}.xml"]
            natural = [-1 if one is None else round(one * 2) for one in ours.drawables.natural(drawing.value)]
            assert natural == [theirs["width"], theirs["height"]], text
            compared = in_mask if "/a" in drawing.value else everywhere
            assert apart(drawn * compared[..., None], picture(Path(drawing.png)) * compared[..., None]) < 1, (
                question.level,
                text,
            )
    assert known > 0.8 * len(asked[0].drawings) * len(asked)


MARKS = {
    "ferry": sample_files()["art/mark.svg"].decode(),
    "lantern": sample_files()["art/festival.svg"].decode(),
    "ring": sample_files()["fleet/art/Pellay.svg"].decode(),
    "gull": sample_files()["fleet/art/Lunsker.svg"].decode(),
    "pieces": """<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><defs><clipPath id="c"><circle cx="50" cy="50" r="30"/></clipPath>
      <radialGradient id="g" gradientTransform="scale(1 0.5)" gradientUnits="userSpaceOnUse" cx="50" cy="100" r="40"><stop stop-color="teal"/><stop offset="1" stop-color="#c42"/></radialGradient></defs>
      <path fill="none" stroke="#7a2b4b" stroke-width="5" d="M10 20H90M10 34H90M20 80Q50 40 80 80"/><rect clip-path="url(#c)" x="30" y="40" width="60" height="50" fill="url(#g)" fill-opacity=".8"/>
      <path fill="#246" fill-rule="evenodd" stroke="#fb3" stroke-width="2" d="M5 50H45V90H5ZM15 60H35V80H15Z"/></svg>""",
}


@pytest.mark.parametrize("manner", MANNERS)
def test_marks_that_move(framework: Framework, linker: Linker, tmp_path: Path, manner: Manner) -> None:
    """What is made of marks, as the system plays it: each frame at 60 Hz is in the circle and as we draw it; the last is the still mark."""
    side, length = 288, 800
    files: Files = {}
    for name, mark in MARKS.items():
        brief = BRIEF.replace(
            'mark = "mark.svg"', f'mark = "mark.svg"\n[layout]\nclearance = {0.06 if name != "gull" else 0}'
        )
        root = write_tree(tmp_path / name, small_android(brief=f'{brief}[android]\nmotion = "{manner}"\n', mark=mark))
        planned = opening.open(root).proposal.after
        for kind in ("motion", "mark"):
            (path,) = (path for path in planned.find(f"*/rivelt_{kind}.xml") if "night" not in path)
            files[f"drawable/{name}_{kind}.xml"] = planned.read(path)
    package = linker.link({**trees.common(), **files}, min_sdk=31)
    times = [round(frame * 1000 / 60) for frame in range(length * 60 // 1000)]
    shots = {
        (level, name, time): Drawing(
            f"@drawable/{name}_motion", side, side, str(tmp_path / f"{level}-{name}-{time}.png"), time
        )
        for level in (31, 34)
        for name in MARKS
        for time in ([*times, length] if level == 34 else [0, 250, 500, length])
    }
    still = {
        (level, name): Drawing(f"@drawable/{name}_mark", side, side, str(tmp_path / f"{level}-{name}.png"))
        for level in (31, 34)
        for name in MARKS
    }
    asked = [
        Question(
            package,
            level,
            Phone(),
            "@style/Launch",
            drawings=[one for key, one in (*shots.items(), *still.items()) if key[0] == level],
        )
        for level in (31, 34)
    ]
    for answer in framework.ask(asked):
        assert "error" not in answer, answer
        assert not [one["error"] for one in answer["drawn"] if "error" in one]
    y, x = np.mgrid[:side, :side] + 0.5 - side / 2
    outside = np.hypot(x, y) > 97  # a pixel more than the circle: edges are soft
    for (level, name, time), shot in shots.items():
        theirs = picture(Path(shot.png))
        assert theirs[..., 3][outside].max() == 0, (name, time)
        ours = Ours.of(files, device_of(Phone(), level), moment=time / length) if time else None
        if ours is not None and time % 3 == 0:
            drawn, unknown = ours.drawn(shot.value, side, side)
            assert not unknown
            assert apart(drawn, theirs) < 1, (name, time)
        if time == 0:
            assert theirs[..., 3].max() < 3, (name, "nothing is seen at first")
        if time == length:
            assert Path(shot.png).read_bytes() == Path(still[level, name].png).read_bytes(), name


@pytest.mark.parametrize(
    ("text", "level", "reason"),
    [
        ('<bitmap {} android:src="@drawable/d"/>', 34, "is not a bitmap"),
        ('<layer-list {}><item android:drawable="@drawable/d"/></layer-list>', 34, "refers to itself"),
        ('<layer-list {}><item android:drawable="@drawable/gone"/></layer-list>', 0, "is not in the project"),
        ('<selector {}><item android:color="@color/d"/></selector>', 34, ""),
    ],
)
def test_what_crashes_an_app_is_not_drawn(
    framework: Framework, linker: Linker, tmp_path: Path, text: str, level: int, reason: str
) -> None:
    kind = "color" if "@color/d" in text else "drawable"
    files: Files = {f"{kind}/d.xml": text.format(NS)}
    value = f"@{kind}/d"
    if level:
        question = Question(linker.link(files), level, drawings=[Drawing(value, 20, 20, str(tmp_path / "d.png"))])
        assert "error" in framework.ask([question])[0]["drawn"][0]
    _, unknown = Ours.of(files, Device(34, False, 320, 360, 800)).drawn(value, 20, 20)
    assert unknown
    assert reason in unknown[0]


# What apply writes

LIBRARY = f"""<resources>
  <attr name="windowSplashScreenBackground" format="color"/><attr name="windowSplashScreenAnimatedIcon" format="reference"/>
  <attr name="windowSplashScreenAnimationDuration" format="integer"/><attr name="postSplashScreenTheme" format="reference"/>
  <attr name="windowSplashScreenIconBackgroundColor" format="color"/>
  <style name="Theme.SplashScreen" parent="@android:style/Theme.Material.NoActionBar"/>
  <style name="Theme.SplashScreen.IconBackground" parent="Theme.SplashScreen"/>
  {"".join(f'<style name="{name}" parent="@android:style/Theme.Material.Light"/>' for name in aapt.LIBRARY_STYLES if "SplashScreen" not in name)}
  {"".join(f'<attr name="{name}" format="{kind}"/>' for name, kind in aapt.LIBRARY_ATTRIBUTES.items() if "plashScreen" not in name)}
</resources>"""


def test_the_demos_launch_screen(applied: Path, framework: Framework, linker: Linker, tmp_path: Path) -> None:
    """Every drawable of the launch theme, in both looks, from the same file and with the same pixels."""
    res = applied / "android/app/src/main/res"
    files: Files = {path.relative_to(res).as_posix(): path.read_bytes() for path in res.rglob("*") if path.is_file()}
    package = linker.link({**files, "values/library_stub.xml": LIBRARY})
    screen, side, imprint = (1080, 2400), (864, 864), (600, 240)
    asked = [
        Question(
            package,
            level,
            Phone(night=night),
            "@style/rivelt_launch",
            [value for value, _ in shown],
            [
                Drawing(value, *size, str(tmp_path / f"{level}{night}{number}.png"))
                for number, (value, size) in enumerate(shown)
            ],
        )
        for level in levels()[1:]
        for night in (False, True)
        for shown in [
            [
                ("@drawable/rivelt_mark", side),
                ("@drawable/rivelt_imprint", imprint),
                ("@color/rivelt_ground", (9, 9)),
                *([("?android:attr/windowBackground", screen)] if level < 31 else []),
                *([("?android:attr/windowSplashScreenBrandingImage", imprint)] if level >= 31 else []),
            ]
        ]
    ]
    compared = 0
    for question, answer in zip(asked, framework.ask(asked), strict=True):
        ours = Ours.of(files, device_of(question.device, question.level), question.theme).drawables
        for drawing, theirs in zip(question.drawings, answer["drawn"], strict=True):
            assert "error" not in theirs, (question, theirs)
            file = (answer["values"][drawing.value] or {}).get("file")
            entry = ours.values.entry(drawing.value)
            if file is not None and entry is not None:
                folder, name = file.split("/")[1:]
                assert entry.path.split("/")[1:] == [re.sub("-v([48]|13|17|21)$", "", folder), name], question
            drawn, unknown = Ours(ours).drawn(drawing.value, drawing.width, drawing.height)
            assert not unknown
            assert apart(drawn, picture(Path(drawing.png))) < 1, (question.level, drawing)
            compared += 1
    assert compared == len(asked) * 4
