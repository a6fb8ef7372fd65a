"""Random resources: drawables of every kind, one in the other, with the colours, lengths and bitmaps that they name."""

from __future__ import annotations

import random
from collections.abc import Sequence

import numpy as np
import pyvips
from numpy.typing import NDArray

import aapt

NS = f'xmlns:android="{aapt.NAMESPACE}" xmlns:aapt="http://schemas.android.com/aapt"'
_COLOURS = (
    "#F3EBDD",
    "#80C8452F",
    "#1F6E7D",
    "@color/ink",
    "@color/state",
    "@color/alias",
    "@android:color/black",
    "?attr/tone",
)
_GRAVITIES = (
    "center", "left", "right", "top", "bottom", "center_vertical", "center_horizontal", "fill", "fill_vertical",
    "fill_horizontal", "start", "end", "bottom|right", "top|end", "start|center_vertical", "clip_vertical|top",
)  # fmt: skip
_LENGTHS = ("0dp", "4dp", "7.5dp", "@dimen/gap", "@dimen/alias", "3px", "12dp", "2mm")


def _png(pixels: NDArray[np.uint8]) -> bytes:
    return bytes(pyvips.Image.new_from_array(pixels, interpretation="srgb").pngsave_buffer())


def _squares(width: int, height: int, shades: Sequence[tuple[int, int, int, int]]) -> bytes:
    """Four fields of colour, so that size, place and direction show."""
    pixels = np.zeros((height, width, 4), np.uint8)
    for index, shade in enumerate(shades):
        x, y = index % 2, index // 2
        pixels[y * height // 2 : (y + 1) * height // 2 or None, x * width // 2 : (x + 1) * width // 2] = shade
    return _png(pixels)


def _nine_patch() -> bytes:
    pixels = np.zeros((26, 34, 4), np.uint8)
    pixels[1:-1, 1:-1] = (200, 69, 47, 255)
    pixels[5:-5, 7:-7] = (243, 235, 221, 255)
    pixels[0, 12:22] = pixels[9:17, 0] = (0, 0, 0, 255)
    pixels[-1, 8:26] = pixels[6:20, -1] = (0, 0, 0, 255)
    return _png(pixels)


def common() -> dict[str, str | bytes]:
    """Return what the drawables name."""
    shades = [(31, 110, 125, 255), (243, 235, 221, 255), (200, 69, 47, 255), (20, 40, 60, 255)]
    values = """<resources>
      <color name="ink">#14283C</color><color name="alias">@color/ink</color>
      <item type="drawable" name="other">@drawable/dense</item><drawable name="plain">#3366CC</drawable>
      <dimen name="gap">6dp</dimen><dimen name="alias">@dimen/gap</dimen>
      <attr name="tone" format="color|reference"/><attr name="picture" format="reference"/>
      <style name="Launch" parent="@android:style/Theme.Material.Light">
        <item name="tone">@color/alias</item><item name="picture">@drawable/plain</item>
      </style></resources>"""
    states = f'<selector {NS}><item android:state_pressed="true" android:color="#F00"/>'
    states += '<item android:alpha="0.5" android:color="@color/ink"/></selector>'
    return {
        "values/values.xml": values,
        "color/state.xml": states,
        "drawable-mdpi/bitmap.png": _squares(41, 30, shades),
        "drawable-xhdpi/dense.png": _squares(96, 64, shades[::-1]),
        "drawable-nodpi/raw.png": _squares(150, 250, [(200, 69, 47, 120), *shades[1:]]),
        "drawable-xhdpi/patch.9.png": _nine_patch(),
    }


class Drawer:
    """Random drawables from one seed."""

    def __init__(self, seed: int) -> None:
        self._random = random.Random(seed)

    def _one(self, *choices: str) -> str:
        return self._random.choice(choices)

    def _maybe(self, name: str, *choices: str, chance: float = 0.4) -> str:
        return f' android:{name}="{self._one(*choices)}"' if self._random.random() < chance else ""

    def file(self) -> str:
        """Return the text of a drawable file."""
        return self.element(0, NS)

    def adaptive_icon(self) -> str:
        """Return the text of an adaptive icon."""
        (ground, below), (mark, inner) = self._held(1), self._held(1)
        layers = f"<background{ground}>{below}</background><foreground{mark}>{inner}</foreground>"
        return f"<adaptive-icon {NS}>{layers}</adaptive-icon>"

    def animated_vector(self) -> str:
        """Return the text of a vector that moves: a part of it turns from where it does not stand at rest."""
        vector = self._vector(1, "").replace("<path", '<path android:name="part"', 1)
        animator = '<objectAnimator android:duration="300" android:propertyName="fillAlpha" android:valueType="floatType" android:valueFrom="0" android:valueTo="1"/>'
        drawn = f'<aapt:attr name="android:drawable">{vector}</aapt:attr>'
        target = f'<target android:name="part"><aapt:attr name="android:animation">{animator}</aapt:attr></target>'
        return f"<animated-vector {NS}>{drawn}{target}</animated-vector>"

    def element(self, depth: int, head: str = "") -> str:
        """Return an element that draws something."""
        leaves = (self._shape, self._shape, self._bitmap, self._vector)
        nested = (self._layers, self._layers, self._layers, self._inset, self._chosen, self._wrapper)
        return self._random.choice(leaves if depth >= 2 else leaves + nested * 2)(depth, f" {head}" if head else "")

    def _held(self, depth: int) -> tuple[str, str]:
        """An attribute that names a drawable, or an element that is one."""
        if self._random.random() < 0.5:
            named = ("bitmap", "dense", "raw", "other", "patch", "plain")
            picked = self._one(*(f"@drawable/{name}" for name in named), "@color/ink", "?attr/picture")
            return f' android:drawable="{picked}"', ""
        return "", self.element(depth + 1)

    def _shape(self, _: int, head: str) -> str:
        kind = self._one("rectangle", "rectangle", "oval", "ring", "line")
        more = self._maybe("useLevel", "true", "false", chance=0.7 if kind == "ring" else 0.0)
        more += self._maybe("innerRadius", "10dp") + self._maybe("thicknessRatio", "5") if kind == "ring" else ""
        inner = ""
        if self._random.random() < 0.4:
            inner += f'<size android:width="{self._one("40dp", "61px")}" android:height="{self._one("30dp", "25dp")}"/>'
        if self._random.random() < 0.4:
            inner += f"<padding{self._maybe('left', *_LENGTHS)}{self._maybe('top', *_LENGTHS)}{self._maybe('right', *_LENGTHS)}/>"
        if kind == "rectangle" and self._random.random() < 0.5:
            inner += f"<corners{self._maybe('radius', '9dp', '80dp')}{self._maybe('topLeftRadius', '20dp')}{self._maybe('bottomRightRadius', '3dp')}/>"
        if self._random.random() < 0.4 or kind == "line":
            dashes = ' android:dashWidth="8dp" android:dashGap="5dp"' if kind == "oval" else ""
            inner += f'<stroke android:width="{self._one("1dp", "5dp", "3px")}" android:color="{self._one(*_COLOURS)}"{dashes}/>'
        if self._random.random() < 0.4:
            inner += self._gradient()
        else:
            inner += f'<solid android:color="{self._one(*_COLOURS)}"/>'
        return f'<shape{head} android:shape="{kind}"{more}>{inner}</shape>'

    def _gradient(self) -> str:
        kind = self._one("linear", "linear", "radial", "sweep")
        colours = [colour for colour in _COLOURS if kind != "radial" or "?" not in colour]  # with one it crashes
        text = f' android:type="{kind}" android:startColor="{self._one(*colours)}" android:endColor="{self._one(*colours)}"'
        text += self._maybe("centerColor", *colours)
        if kind == "linear":
            text += self._maybe("angle", "0", "45", "90", "135", "180", "225", "270", "315", chance=0.8)
        if kind == "radial":
            text += f' android:gradientRadius="{self._one("40dp", "30%", "60%p")}"'
        if self._random.random() < 0.5:
            text += f' android:centerX="{self._one("0.3", "70%")}" android:centerY="{self._one("0.4", "50%")}"'
        return f"<gradient{text}/>"

    def _bitmap(self, _: int, head: str) -> str:
        text = f' android:src="@drawable/{self._one("bitmap", "dense", "raw", "other")}"'
        text += self._maybe("gravity", *_GRAVITIES, chance=0.7)
        if "/bitmap" in text:  # enlarged, and each tile softened at its edges
            return f"<bitmap{head}{text}/>"
        text += self._maybe("tileMode", "repeat", "mirror", "clamp", "disabled", chance=0.15)
        text += self._maybe("tileModeX", "repeat", "mirror", chance=0.1) + self._maybe(
            "tileModeY", "repeat", "mirror", chance=0.1
        )
        text += self._maybe("tint", *_COLOURS, chance=0.15) + self._maybe("alpha", "0.5", chance=0.15)
        text += self._maybe("autoMirrored", "true", chance=0.2)
        return f"<bitmap{head}{text}/>"

    def _layers(self, depth: int, head: str) -> str:
        kind = self._one("layer-list", "layer-list", "layer-list", "transition") if depth else "layer-list"
        mode = self._maybe("paddingMode", "stack", "nest", chance=0.3)
        items = []
        for _ in range(self._random.randint(2, 3)):
            text = self._maybe("gravity", *_GRAVITIES) + self._maybe("width", "50dp", "77px", chance=0.3)
            text += self._maybe("height", "33dp", "@dimen/gap", chance=0.3)
            for side in ("left", "top", "right", "bottom", "start", "end"):
                text += self._maybe(side, *_LENGTHS, chance=0.12)
            attribute, child = self._held(depth)
            items.append(f"<item{text}{attribute}>{child}</item>")
        return f"<{kind}{head}{mode}>{''.join(items)}</{kind}>"

    def _inset(self, depth: int, head: str) -> str:
        text = self._maybe("inset", *_LENGTHS, "10%") if self._random.random() < 0.3 else ""
        for side in ("insetLeft", "insetTop", "insetRight", "insetBottom"):
            text += self._maybe(side, *_LENGTHS, "12%")
        attribute, child = self._held(depth)
        return f"<inset{head}{text}{attribute}>{child}</inset>"

    def _chosen(self, depth: int, head: str) -> str:
        kind = self._one("selector", "level-list", "animation-list")
        more = {
            "selector": [' android:state_pressed="true"', ' android:state_enabled="true"', ""],
            "level-list": [
                ' android:minLevel="3" android:maxLevel="9"',
                ' android:maxLevel="2"',
                ' android:maxLevel="0"',
            ],
            "animation-list": [' android:duration="100"'] * 3,
        }[kind]
        self._random.shuffle(more)
        items = []
        for states in more[:2] + ([""] if kind == "selector" else []):
            attribute, child = self._held(depth)
            items.append(f"<item{states}{attribute}>{child}</item>")
        return f"<{kind}{head}>{''.join(items)}</{kind}>"

    def _wrapper(self, depth: int, head: str) -> str:
        attribute, child = self._held(depth)
        kind = self._one("rotate", "scale", "clip")
        more = ""
        if kind == "scale":
            more = self._maybe("scaleWidth", "40%", "100%") + self._maybe("scaleHeight", "60%")
            more += self._maybe("scaleGravity", "center", "bottom|end", "top")
            if not depth and attribute:  # what it holds has no level of its own
                more += self._maybe("level", "5000", "1", chance=0.8)
        return f"<{kind}{head}{more}{attribute}>{child}</{kind}>"

    def _vector(self, _: int, head: str) -> str:
        size = self._one('android:width="40dp" android:height="24dp"', 'android:width="33.3dp" android:height="20dp"')
        more = (
            self._maybe("tint", *_COLOURS, chance=0.15)
            + self._maybe("alpha", "0.6", chance=0.15)
            + self._maybe("autoMirrored", "true", chance=0.2)
        )
        inner = "".join(self._part(2) for _ in range(self._random.randint(1, 3)))
        return f'<vector{head} {size} android:viewportWidth="60" android:viewportHeight="36"{more}>{inner}</vector>'

    def _part(self, depth: int) -> str:
        if depth and self._random.random() < 0.4:
            text = "".join(
                self._maybe(name, *choices)
                for name, choices in (
                    ("rotation", ("30", "-90")), ("pivotX", ("30",)), ("pivotY", ("18", "5")), ("scaleX", ("0.5", "-1")),
                    ("scaleY", ("1.2",)), ("translateX", ("7", "-5")), ("translateY", ("4",)),
                )
            )  # fmt: skip
            clip = '<clip-path android:pathData="M10,4h40v26h-40z"/>' if self._random.random() < 0.4 else ""
            return f"<group{text}>{clip}{self._part(depth - 1)}{self._part(depth - 1)}</group>"
        data = self._one(
            "M6,6h30v20h-30z M12,10h12v8h-12z",
            "M30,18m-14,0a14,14 0,1 1,28 0a14,14 0,1 1,-28 0",
            "M5,30C10,-10 30,50 55,8",
        )
        text = f' android:pathData="{data}"' + self._maybe("fillType", "evenOdd", chance=0.3)
        text += self._maybe("fillAlpha", "0.5", chance=0.2)
        if self._random.random() < 0.5:
            text += f' android:strokeColor="{self._one(*_COLOURS)}" android:strokeWidth="{self._one("2", "5")}"'
            text += self._maybe("strokeLineCap", "round", "square") + self._maybe("strokeLineJoin", "bevel", "round")
        if self._random.random() < 0.25:
            text += (
                self._maybe("trimPathStart", "0.2")
                + self._maybe("trimPathEnd", "0.7")
                + self._maybe("trimPathOffset", "0.5")
            )
        if self._random.random() < 0.3:
            kind = self._one("linear", "radial", "sweep")
            place = {
                "linear": 'android:startX="5" android:startY="5" android:endX="40" android:endY="30"',
                "radial": 'android:centerX="30" android:centerY="18" android:gradientRadius="20"',
                "sweep": 'android:centerX="30" android:centerY="18"',
            }[kind]
            stops = '<item android:offset="0" android:color="#C8452F"/><item android:offset="0.4" android:color="#80FFFFFF"/><item android:offset="1" android:color="@color/ink"/>'
            mode = self._maybe("tileMode", "repeat", "mirror", chance=0.3) if kind != "sweep" else ""
            gradient = f'<gradient android:type="{kind}" {place}{mode}>{stops}</gradient>'
            text = text.replace("?attr/tone", "#123456")  # with one the framework forgets the gradient
            return f'<path{text}><aapt:attr name="android:fillColor">{gradient}</aapt:attr></path>'
        return f'<path{text} android:fillColor="{self._one(*_COLOURS)}"/>'
