"""A stand-in for a device: it plays a launch as a recording, so that it is known what was shown when.

A home screen that is touched, the opening that grows out of an icon, the launch screen, whatever goes wrong then, and the app's first screen; a status bar
whose clock changes, noise, cross-fades, and a real H.264 file at a constant or a variable rate.
"""

from __future__ import annotations

import math
import random
from collections.abc import Iterator, Sequence
from fractions import Fraction
from io import BytesIO
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec import Struct

from rivelt.colour import Colour
from rivelt.picture import SVG_NAMESPACE
from rivelt.pixels.canvas import rasterised
from rivelt.pixels.type import text_svg
from rivelt.scene.draw import draw_scene
from rivelt.scene.launch import Kind
from rivelt.units import PixelSize, Rect
from rivelt.values import replace

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.pixels.pictures import Pictures
    from rivelt.scene.model import Scene

_ICON = 0.15  # of the width
_BAR = 0.035  # of the height
_TOUCH_MS = 160.0


class Part(Struct, frozen=True):
    """A moment that is played: what it is, how long (ms), its picture, and for how long it fades in over the one before (ms).

    `spins`: whether something turns under the middle, as while an app loads.
    """

    kind: Kind
    length: float
    picture: NDArray[np.uint8] | None = None
    fade: float = 0.0
    spins: bool = False


class Played(Struct, frozen=True):
    """A recording, and what it really shows: each kind with its start and end in ms."""

    data: bytes
    truth: tuple[tuple[Kind, float, float], ...]


def play(
    parts: Sequence[Part],
    size: PixelSize,
    *,
    rate: float = 60.0,
    bits: int | None = None,
    jitter: float = 0.0,
    noise: float = 0.0,
    seed: int = 0,
    form: str = "mp4",
) -> Played:
    """Play moments as a recording.

    Args:
        parts: the moments; an "opening" lies between the home screen and what it opens.
        size: of a frame, in px, even on both sides.
        rate: frames a second.
        bits: bits a second; None: of a constant quality.
        jitter: how far a frame's time strays, as a share of the time between two, so that the rate varies.
        noise: the strength of the sensor's noise, of 255.
        seed: of all that is random.
        form: the container: mp4, mov or webm.
    """
    chance = random.Random(seed)
    times = list(_times(sum(part.length for part in parts), rate, jitter, chance))
    data = _encoded(_frames(parts, size, times, noise, seed), times, size, rate, bits, form)
    truth: list[tuple[Kind, float, float]] = []
    start = 0.0
    for part in parts:
        if truth and truth[-1][0] == part.kind:
            truth[-1] = (part.kind, truth[-1][1], start + part.length)
        else:
            truth.append((part.kind, start, start + part.length))
        start += part.length
    return Played(data, tuple(truth))


def _times(length: float, rate: float, jitter: float, chance: random.Random) -> Iterator[float]:
    step = 1000 / rate
    count = math.ceil(length / step - 1e-9)
    for index in range(count):
        yield index * step + (chance.uniform(0, jitter) * step if index else 0.0)


def _frames(
    parts: Sequence[Part], size: PixelSize, times: Sequence[float], noise: float, seed: int
) -> Iterator[NDArray[np.uint8]]:
    grain = np.random.default_rng(seed)
    for time in times:
        frame = _frame_at(parts, size, time)
        _status_bar(frame, time)
        if noise:
            strayed = frame + grain.normal(0, noise, frame.shape)
            frame = np.clip(np.rint(strayed), 0, 255).astype(np.uint8)
        yield frame


def _frame_at(parts: Sequence[Part], size: PixelSize, time: float) -> NDArray[np.uint8]:
    start = 0.0
    for index, part in enumerate(parts):
        if time < start + part.length or index == len(parts) - 1:
            into = time - start
            if part.kind == "opening":
                return _opening(_still(parts[index - 1]), _still(parts[index + 1]), size, into / part.length)
            frame = _still(part).copy()
            if part.kind == "home" and index + 1 < len(parts) and parts[index + 1].kind == "opening":
                _touch(frame, part.length - into)
            if part.spins:
                _spinner(frame, into)
            if part.fade and into < part.fade and index:
                share = np.float32((into + 1) / (part.fade + 1))
                under = _still(parts[index - 1]).astype(np.float32)
                frame = np.rint(under * (1 - share) + frame * share).astype(np.uint8)
            return frame
        start += part.length
    raise ValueError(time)


def _still(part: Part) -> NDArray[np.uint8]:
    if part.picture is None:
        raise ValueError(part.kind)
    return part.picture


def _opening(home: NDArray[np.uint8], app: NDArray[np.uint8], size: PixelSize, share: float) -> NDArray[np.uint8]:
    """The app's window as it grows out of its icon, quickly at first."""
    eased = 1 - (1 - share) ** 2.2
    width, height = size
    side = _ICON * width
    left, top = (0.18 * width) * (1 - eased), (0.62 * height) * (1 - eased)
    wide, high = side + (width - side) * eased, side + (height - side) * eased
    frame = home.copy()
    x, y = round(left), round(top)
    w, h = max(1, min(width - x, round(wide))), max(1, min(height - y, round(high)))
    rows, columns = np.arange(h) * height // h, np.arange(w) * width // w
    frame[y : y + h, x : x + w] = app[rows][:, columns]
    return frame


def _touch(frame: NDArray[np.uint8], left: float) -> None:
    """The ripple of a touch on the icon, `left` ms before the app opens."""
    if not 0 <= left < _TOUCH_MS:
        return
    height, width = frame.shape[:2]
    radius = _ICON * width * (0.4 + 0.5 * (1 - left / _TOUCH_MS))
    x, y = 0.18 * width + _ICON * width / 2, 0.62 * height + _ICON * width / 2
    rows, columns = np.ogrid[:height, :width]
    inside = (columns - x) ** 2 + (rows - y) ** 2 < radius**2
    frame[inside] = (frame[inside].astype(np.uint16) * 7 + 255) // 8


def _status_bar(frame: NDArray[np.uint8], time: float) -> None:
    """A clock and a battery in the upper corners; the clock changes."""
    height, width = frame.shape[:2]
    bar = max(4, round(_BAR * height))
    dark = int(frame[bar, width // 2].mean()) > 128
    ink = 40 if dark else 220
    for number, wide in enumerate((0.03, 0.012, 0.03 if int(time / 700) % 2 else 0.02)):
        x = round(width * (0.06 + 0.04 * number))
        frame[bar // 3 : bar - bar // 4, x : x + max(1, round(width * wide))] = ink
    frame[bar // 3 : bar - bar // 3, round(width * 0.88) : round(width * 0.94)] = ink


def _spinner(frame: NDArray[np.uint8], time: float) -> None:
    height, width = frame.shape[:2]
    angle = time / 300 * math.tau
    side = max(2, round(width * 0.014))
    for step in range(12):  # an arc of a ring
        turned = angle + step * 0.2
        x, y = width / 2 + math.cos(turned) * width * 0.05, height * 0.7 + math.sin(turned) * width * 0.05
        frame[round(y) - side : round(y) + side, round(x) - side : round(x) + side] = 128


def _encoded(
    frames: Iterator[NDArray[np.uint8]],
    times: Sequence[float],
    size: PixelSize,
    rate: float,
    bits: int | None,
    form: str,
) -> bytes:
    import av

    out = BytesIO()
    with av.open(out, "w", format=form) as container:
        options = {"preset": "veryfast", "threads": "1"}  # the number of threads would change the bytes
        options |= {"crf": "20"} if bits is None else {}
        codec = "libvpx-vp9" if form == "webm" else "libx264"
        stream: Any = container.add_stream(codec, rate=Fraction(rate).limit_denominator(1001), options=options)
        stream.width, stream.height, stream.pix_fmt = size.width, size.height, "yuv420p"
        stream.codec_context.time_base = Fraction(1, 90_000)
        if bits is not None:
            stream.bit_rate = bits
        for pixels, time in zip(frames, times, strict=True):
            frame = av.VideoFrame.from_ndarray(pixels, format="rgb24")
            frame.time_base = Fraction(1, 90_000)
            frame.pts = round(time * 90)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return out.getvalue()


# Pictures


def home_picture(size: PixelSize, seed: int = 0) -> NDArray[np.uint8]:
    """Return a home screen: a background that changes its colour, icons in rows, a dock."""
    chance = random.Random(seed)
    width, height = size
    top, bottom = (f"hsl({chance.randrange(360)},40%,{chance.randrange(25, 75)}%)" for _ in range(2))
    parts = [
        (
            f'<defs><linearGradient id="g" x2="0.3" y2="1"><stop stop-color="{top}"/><stop offset="1" stop-color="{bottom}"/>'
            f'</linearGradient></defs><rect width="{width}" height="{height}" fill="url(#g)"/>'
        )
    ]
    side = _ICON * width
    for row in range(5):
        for column in range(4):
            x, y = width * (0.08 + 0.23 * column), height * (0.1 + 0.13 * row)
            fill = f"hsl({chance.randrange(360)},60%,55%)"
            parts.append(f'<rect x="{x}" y="{y}" width="{side}" height="{side}" rx="{side / 4}" fill="{fill}"/>')
            parts.append(text_svg("Abc", x + side / 2, y + side * 1.35, side * 0.2, "#FFFFFF", anchor="middle"))
    dock = f'<rect x="{width * 0.04}" y="{height * 0.86}" width="{width * 0.92}" height="{height * 0.1}" rx="20" fill="#ffffff" fill-opacity="0.3"/>'
    return picture([*parts, dock], size)


def app_picture(size: PixelSize, ground: str, seed: int = 0) -> NDArray[np.uint8]:
    """Return an app's first screen: a bar, a title, and a list of cards with lines of text."""
    chance = random.Random(seed)
    width, height = size
    ink = "#222222" if Colour.parse(ground).luminance > 0.3 else "#EEEEEE"
    accent = f"hsl({chance.randrange(360)},55%,45%)"
    parts = [
        f'<rect width="{width}" height="{height}" fill="{ground}"/>',
        f'<rect width="{width}" height="{height * 0.12}" fill="{accent}"/>',
        text_svg("Departures", width * 0.06, height * 0.095, width * 0.06, "#FFFFFF", "bold"),
    ]
    for row in range(7):
        y = height * (0.15 + 0.11 * row)
        parts.append(
            f'<rect x="{width * 0.05}" y="{y}" width="{width * 0.9}" height="{height * 0.09}" rx="12" fill="{ink}" fill-opacity="0.08"/>'
            f'<circle cx="{width * 0.14}" cy="{y + height * 0.045}" r="{width * 0.045}" fill="{accent}"/>'
        )
        words = "".join(chance.choice("abcdefghijklmnopqrst ") for _ in range(chance.randrange(8, 18)))
        parts.append(text_svg(words, width * 0.24, y + height * 0.04, width * 0.045, ink))
        parts.append(text_svg("12:30", width * 0.24, y + height * 0.07, width * 0.035, ink))
    return picture(parts, size)


def scene_picture(scene: Scene, size: PixelSize, pictures: Pictures) -> NDArray[np.uint8]:
    """Return what a screen of a project shows at launch, as large as a recording; without the device's round corners."""
    square = replace(scene, screen=replace(scene.screen, corner=0.0))
    drawn = draw_scene(square, size.width / scene.screen.width, pictures)[: size.height, : size.width, :3]
    found: NDArray[np.uint8] = np.empty((size.height, size.width, 3), np.uint8)
    found[:] = drawn[-1, 0]
    found[: drawn.shape[0], : drawn.shape[1]] = drawn
    return found


def blank_picture(size: PixelSize, ground: str) -> NDArray[np.uint8]:
    """Return a screen of one colour."""
    return picture([f'<rect width="{size.width}" height="{size.height}" fill="{ground}"/>'], size)


def mark_picture(size: PixelSize, ground: str, mark: str, box: Rect) -> NDArray[np.uint8]:
    """Return a launch screen: a mark of one colour on a ground; `box`: where it is, in shares of the frame."""
    x, y = box.x * size.width, box.y * size.height
    w, h = box.width * size.width, box.height * size.height
    parts = [
        f'<rect width="{size.width}" height="{size.height}" fill="{ground}"/>',
        f'<ellipse cx="{x + w / 2}" cy="{y + h / 2}" rx="{w / 2}" ry="{h / 2}" fill="{mark}"/>',
        f'<rect x="{x + w * 0.35}" y="{y + h * 0.3}" width="{w * 0.3}" height="{h * 0.4}" fill="{ground}"/>',
    ]
    return picture(parts, size)


def picture(parts: Sequence[str], size: PixelSize) -> NDArray[np.uint8]:
    """Return SVG elements drawn."""
    head = f'<svg xmlns="{SVG_NAMESPACE}" width="{size.width}" height="{size.height}">'
    found = rasterised(f"{head}{''.join(parts)}</svg>", size).numpy()
    return np.ascontiguousarray(found[..., :3])
