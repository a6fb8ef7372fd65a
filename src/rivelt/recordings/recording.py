"""Screen recordings as frames: videos, animations, and numbered pictures; read one by one, never all held.

Every frame is upright sRGB, with the time at which it is shown.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Collection, Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from rivelt.disk.tree import read_file
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

MOST_SECONDS = 120.0
"""How much of a recording is read: a launch is over long before."""

_MOST_SIDE = 8192  # px
_MOST_FRAMES = 20_000
_MANY_THREADS = 4096  # px
_STRIP_SIDE, _MOST_IN_STRIP = 560, 400  # px, and frames
_STILL_MS = 1000 / 60  # between two numbered pictures
_FORMATS = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,gif,avi"
_PICTURES = (".png", ".jpg", ".jpeg", ".webp")
_NUMBER = regex(r"\d+")
_PQ, _HLG = 16, 18  # transfer functions (ITU-T H.273): SMPTE ST 2084 and ARIB STD-B67
_BT2020 = {9, 10}


class Frame(NamedTuple):
    """One frame: its number, the time in ms at which it is shown, and its pixels (height x width x 3, sRGB)."""

    number: int
    time: float
    pixels: NDArray[np.uint8]


class Recording(ABC):
    """A recording of one launch. `path`: its file or folder. `size`: of a frame, upright, in px. `notes`: what was converted, or left out."""

    def __init__(self, path: Path, size: PixelSize) -> None:
        self.path = path
        self.name = path.name
        self.size = size
        self.notes: list[str] = []
        self.end = 0.0
        """When the last frame that was read ends, in ms; known once all are read."""

    @abstractmethod
    def frames(self, size: PixelSize, wanted: Collection[int] | None = None) -> Iterator[Frame]:
        """Yield the frames drawn at a size, or some of them by their numbers.

        Raises:
            BadInput: the file turns out to be broken before anything could be read.
        """


def open_recording(path: Path) -> Recording:
    """Return a recording: a video or an animation, or a folder of numbered pictures.

    Raises:
        BadInput: there is none, or it cannot be read.
    """
    if path.is_dir():
        return _Stills(path, [one for one in sorted(path.iterdir()) if one.suffix.lower() in _PICTURES])
    if path.suffix.lower() in _PICTURES:
        return _Stills(path, [path])
    if not path.is_file():
        raise BadInput(f"there is no recording {path}", hint="Give a video, or a folder of numbered pictures.")
    return _Video(path)


def stills(paths: Sequence[Path]) -> Recording:
    """Return numbered pictures as one recording.

    Raises:
        BadInput: there are none, or one cannot be read.
    """
    return _Stills(paths[0].parent, paths)


def is_picture(path: Path) -> bool:
    """Return whether a name is that of a picture, not of a video."""
    return path.suffix.lower() in _PICTURES


def strip_of(recording: Recording, start: float, stop: float) -> list[tuple[float, bytes]]:
    """Return the frames between two times (ms) as small JPEG files; where there are very many, every so many of them."""
    import pyvips

    scale = min(1.0, _STRIP_SIDE / max(recording.size))
    size = PixelSize(*(max(1, round(side * scale)) for side in recording.size))
    found: list[tuple[float, bytes]] = []
    every = 1
    for frame in recording.frames(size):
        if start <= frame.time <= stop and frame.number % every == 0:
            height, width = frame.pixels.shape[:2]
            image = pyvips.Image.new_from_memory(np.ascontiguousarray(frame.pixels).data, width, height, 3, "uchar")
            found.append((frame.time, image.write_to_buffer(".jpg", Q=80)))
            if len(found) > _MOST_IN_STRIP:
                found, every = found[::2], every * 2
        if frame.time > stop:
            break
    return found


class _Stills(Recording):
    """Numbered pictures, in the order of their numbers, at 60 a second."""

    def __init__(self, path: Path, paths: Sequence[Path]) -> None:
        self._paths = sorted(paths, key=_by_number)[:_MOST_FRAMES]
        if not self._paths:
            raise BadInput(f"{path} holds no pictures", hint="Give a video, or a folder of numbered PNG files.")
        first = _decoded(self._paths[0])
        super().__init__(path, PixelSize(first.shape[1], first.shape[0]))
        self.notes.append("numbered pictures: taken as 60 a second")

    def frames(self, size: PixelSize, wanted: Collection[int] | None = None) -> Iterator[Frame]:
        """Yield the pictures."""
        for number, path in enumerate(self._paths):
            if wanted is None or number in wanted:
                pixels = _decoded(path)
                if pixels.shape[:2] != (self.size.height, self.size.width):
                    raise BadInput(
                        "it is of another size than the first", place=Place(path.name), hint="Give one size."
                    )
                yield Frame(number, number * _STILL_MS, shrunk(pixels, size))
        self.end = len(self._paths) * _STILL_MS


def _by_number(path: Path) -> tuple[list[int], str]:
    return [int(number) for number in _NUMBER.findall(path.stem)[-1:]], path.name


def _decoded(path: Path) -> NDArray[np.uint8]:
    import pyvips

    from rivelt.pixels.canvas import decoded

    try:
        image = decoded(read_file(path))
        if image.width > _MOST_SIDE or image.height > _MOST_SIDE:
            raise BadInput(f"it is larger than {_MOST_SIDE} px", place=Place(path.name), hint="Give a smaller one.")
        bands = image.flatten(background=[0, 0, 0]) if image.hasalpha() else image
        return np.asarray(bands[0:3].numpy())
    except (OSError, pyvips.Error) as error:
        raise BadInput("the picture cannot be read", place=Place(path.name), hint="Export it again.") from error


def shrunk(pixels: NDArray[np.uint8], size: PixelSize) -> NDArray[np.uint8]:
    """Return a picture (height x width x 3) at another size."""
    import pyvips

    height, width = pixels.shape[:2]
    if (width, height) == size:
        return pixels
    image = pyvips.Image.new_from_memory(np.ascontiguousarray(pixels).data, width, height, 3, "uchar")
    return np.asarray(image.resize(size.width / width, vscale=size.height / height, kernel="linear").numpy())


class _Video(Recording):
    """A video or an animation, decoded by FFmpeg's libraries."""

    def __init__(self, path: Path) -> None:
        self._path = path
        with _container(path) as container:
            stream = _stream(container, path)
            if max(stream.codec_context.width, stream.codec_context.height) > _MOST_SIDE:
                raise _broken(path, f"its frames are larger than {_MOST_SIDE} px")
            turned = _rotation(stream)
            width, height = stream.codec_context.width, stream.codec_context.height
            if not (0 < width <= _MOST_SIDE and 0 < height <= _MOST_SIDE):
                raise _broken(path, f"its frames are {width} x {height} px")
            self._turned = turned
            super().__init__(path, PixelSize(height, width) if turned % 180 else PixelSize(width, height))
        if turned:
            self.notes.append(f"turned by {turned} degrees, as its flag says")

    def frames(self, size: PixelSize, wanted: Collection[int] | None = None) -> Iterator[Frame]:
        """Yield the frames, by their time stamps."""
        import av

        last = max(wanted) if wanted else None
        inner = PixelSize(size.height, size.width) if self._turned % 180 else size
        before = -math.inf
        count = 0
        with _container(self._path) as container:
            stream = _stream(container, self._path)
            # A thread for each frame would hold many of the largest ones at once.
            stream.thread_type = "AUTO" if max(self.size) <= _MANY_THREADS else "SLICE"
            start: float | None = None
            length = 1000 / float(stream.average_rate or 60)
            try:
                for frame in container.decode(stream):
                    if (
                        frame.width != stream.codec_context.width
                        or frame.width > _MOST_SIDE
                        or frame.height > _MOST_SIDE
                    ):
                        raise _broken(self._path, "its frames are not of one size")
                    at = float(frame.time) * 1000 if frame.time is not None else before + length
                    start = at if start is None else start
                    time = max(at - start, 0.0)
                    if time <= before:  # stamps out of order, or twice the same
                        continue
                    if time > 1000 * MOST_SECONDS or count >= _MOST_FRAMES:
                        self._note(f"only the first {MOST_SECONDS:.0f} seconds were read")
                        break
                    length = time - before if before >= 0 else length
                    before = time
                    if wanted is None or count in wanted:
                        yield Frame(count, time, self._pixels(frame, inner))
                    count += 1
                    if last is not None and count > last:
                        return
            except (av.error.FFmpegError, ValueError, MemoryError) as error:
                if not count:
                    raise _broken(self._path, str(error)) from error
                self._note("the file ends in the middle: what could be read was read")
        if not count:
            raise _broken(self._path, "it holds no frame")
        self.end = before + min(length, 100.0)

    def _note(self, note: str) -> None:
        if note not in self.notes:
            self.notes.append(note)

    def _pixels(self, frame: Any, size: PixelSize) -> NDArray[np.uint8]:
        """A frame as upright sRGB."""
        transfer = int(getattr(frame, "color_trc", 2) or 2)
        is_wide = int(getattr(frame, "color_primaries", 2) or 2) in _BT2020
        space, reach = int(frame.colorspace or 2), int(frame.color_range or 0)
        drawn = frame.reformat(
            width=size.width,
            height=size.height,
            format="rgb48le" if transfer in {_PQ, _HLG} else "rgb24",
            src_colorspace=space if space in {1, 4, 5, 6, 7, 9} else None,
            src_color_range=reach if reach in {1, 2} else None,
            interpolation="AREA",
        ).to_ndarray()
        if transfer in {_PQ, _HLG}:
            self._note(f"high dynamic range ({'PQ' if transfer == _PQ else 'HLG'}), converted to sRGB")
            drawn = _to_srgb(drawn.astype(np.float32) / 65535, is_pq=transfer == _PQ, is_wide=is_wide)
        if reach == 2:
            self._note("full range, as its flag says")
        return np.rot90(drawn, self._turned // 90) if self._turned else drawn


def _to_srgb(signal: NDArray[np.float32], *, is_pq: bool, is_wide: bool) -> NDArray[np.uint8]:
    """Light of high dynamic range as sRGB: reference white (203 cd/m2, ITU-R BT.2408) becomes white, what is brighter is cut."""
    if is_pq:  # SMPTE ST 2084
        power = np.power(np.maximum(signal, 0), 1 / 78.84375)
        light = np.power(np.maximum(power - 0.8359375, 0) / (18.8515625 - 18.6875 * power), 1 / 0.1593017578125)
        light = light * 10_000 / 203
    else:  # ARIB STD-B67, inverse OETF; 75 % of the signal is reference white
        low, high = signal * signal / 3, (np.exp((signal - 0.55991073) / 0.17883277) + 0.28466892) / 12
        light = np.where(signal <= 0.5, low, high)
        light = light / float((np.exp((0.75 - 0.55991073) / 0.17883277) + 0.28466892) / 12)
    if is_wide:  # BT.2020 to BT.709 primaries (ITU-R BT.2087)
        matrix = np.array(
            [[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]], np.float32
        )
        light = light @ matrix.T
    light = np.clip(light, 0, 1)
    shown = np.where(light <= 0.0031308, light * 12.92, 1.055 * np.power(light, 1 / 2.4) - 0.055)
    found: NDArray[np.uint8] = np.rint(shown * 255).astype(np.uint8)
    return found


def _container(path: Path) -> Any:
    import av

    try:
        # What is no recording is not opened: a playlist could name addresses and other files.
        options = {"protocol_whitelist": "file", "format_whitelist": _FORMATS}
        return av.open(str(path), options=options, metadata_errors="ignore")
    except (av.error.FFmpegError, OSError, ValueError) as error:
        raise _broken(path, getattr(error, "strerror", None) or str(error)) from error


def _stream(container: Any, path: Path) -> Any:
    if not container.streams.video:
        raise _broken(path, "it has sound alone" if container.streams.audio else "it has no pictures")
    return container.streams.video[0]


def _rotation(stream: Any) -> int:
    """By how many degrees counterclockwise the frames must be turned to be upright: 0, 90, 180 or 270."""
    import av

    try:
        first = next(iter(stream.container.decode(stream)), None)
    except (av.error.FFmpegError, ValueError, MemoryError):
        return 0
    turned = int(getattr(first, "rotation", 0) or 0) if first is not None else 0
    return turned % 360 if turned % 90 == 0 else 0


def _broken(path: Path, reason: str) -> BadInput:
    return BadInput(f"the recording cannot be read: {reason}", place=Place(path.name), hint="Record it again.")
