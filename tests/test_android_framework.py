"""Our reading of Android's resources against the platform's own framework, at several API levels."""

from __future__ import annotations

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
from android_framework.judge import Framework, Linker, Phone, Question, missing
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources
from rivelt.platforms.android.native.theme import theme_items
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
    def of(cls, files: Mapping[str, str | bytes], device: Device, theme: str = "") -> Ours:
        project = Project.of_files(
            {f"res/{path}": text.encode() if isinstance(text, str) else text for path, text in files.items()}
        )
        resources = Resources.of_folder(project, "res")
        items = dict(theme_items(resources, theme, device).items) if theme else {}
        return cls(Drawables(project, resources, device, items))

    def drawn(self, value: str, width: int, height: int) -> tuple[np.ndarray[Any, Any], list[str]]:
        """A drawable in a frame (px), with alpha; and what is said to be unknown of it."""
        pixel = self.drawables.values.pixel
        screen = Screen("android", "", "", width * pixel, height * pixel, 1 / pixel, self.drawables.device.version)
        layers = self.drawables.layers(value, Rect(0, 0, width * pixel, height * pixel), "")
        unknown = [layer.reason for layer in layers if isinstance(layer, Unknown)]
        scene = Scene(screen, "light", tuple(layers), "")
        return draw_scene(scene, 1 / pixel).numpy().astype(float), unknown


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
    ("", "de", "en", "en-rGB", "ar", "ar-rEG", "zh-rTW", "b+zh+Hant", "b+sr+Latn"),
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
def folders(draw: st.DrawFn) -> str:
    """The qualifiers of a folder: two or three of the kinds, in their order."""
    kinds = draw(st.lists(st.integers(0, len(PARTS) - 1), min_size=1, max_size=3, unique=True))
    return "-".join(draw(st.sampled_from(PARTS[kind][1:])) for kind in sorted(kinds))


PHONES = st.builds(
    Phone,
    night=st.booleans(),
    density=st.sampled_from([120, 160, 213, 240, 280, 320, 400, 420, 480, 560, 640]),
    width=st.sampled_from([320, 360, 411, 600, 800, 1280]),
    height=st.sampled_from([426, 470, 480, 640, 731, 800, 1280]),
    locale=st.sampled_from(["en-US", "en-GB", "de-DE", "ar-EG", "zh-TW", "zh-CN", "sr-RS", "fr-FR"]),
    mode=st.sampled_from([1, 1, 1, 3, 4, 6]),
    round=st.booleans(),
)


@settings(parent=EXAMPLES, max_examples=60)
@given(names=st.lists(folders(), min_size=1, max_size=9, unique=True), phones=st.lists(PHONES, min_size=6, max_size=6))
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
