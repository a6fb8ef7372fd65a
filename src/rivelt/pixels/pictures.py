"""The bitmaps of a command, each decoded once and resized once for each size.

Most of a launch image is ground: a decoded bitmap is kept as the part that is not, and only that part is ever resized. The pixels are
those that resizing the whole of it gives.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from functools import cache, partial
from threading import Lock
from typing import TYPE_CHECKING, Any, Generic, NamedTuple, TypeVar, cast

import numpy as np
import pyvips
from msgspec import Struct, field

from rivelt.errors import BadInput
from rivelt.picture import Art, ImageFile
from rivelt.pixels.canvas import (
    SHRINKING,
    decoded,
    fill,
    from_linear,
    in_linear,
    opaque_from_linear,
    rasterised,
    with_alpha,
)
from rivelt.pixels.planned import PlannedImage
from rivelt.pixels.shrink import shrunk
from rivelt.plainpng import PlainPng, plain_png
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

T = TypeVar("T")
V = TypeVar("V")
K = TypeVar("K", bound=Hashable)
P = TypeVar("P", np.uint8, np.uint32)

_MOST_DECODED, _MOST_RESIZED, _MOST_FOUND, _MOST_DRAWN = 64_000_000, 64_000_000, 64_000_000, 48_000_000
# Bytes of each kind that are kept; what was used longest ago goes first.
_MOST_SEARCHED = 30_000_000  # pixels: larger bitmaps are streamed, and never held whole
_MOST_AS_FLOATS = 4_000_000  # pixels of content on ground: larger ones are streamed
_MOST_CONTENT = 0.7  # of all pixels: where more is not ground, nothing is gained
_REACH = 4  # pixels that Lanczos' filter of three lobes looks to each side, of the smaller image; and one
_ROWS = 128
_LEAST = 500  # bytes that anything found of an image takes at least


class Bitmap(NamedTuple):
    """A decoded bitmap: upright 8-bit sRGB of 3 or 4 bands.

    `content`: the part of it (from `x`, `y` on) that is not `ground`; all of it where that is None. An array where it is held in memory:
    Python warns when it frees an image of libvips together with the pixels that this has borrowed. `is_visible`: whether anything of it
    is not fully transparent; None where its pixels were not looked at yet.
    """

    size: PixelSize
    content: NDArray[np.uint8] | pyvips.Image
    x: int = 0
    y: int = 0
    ground: tuple[int, ...] | None = None
    is_visible: bool | None = None

    @property
    def weight(self) -> int:
        """The bytes of its pixels."""
        if isinstance(self.content, np.ndarray):
            return self.content.nbytes
        return int(self.content.width * self.content.height * self.content.bands)

    @property
    def image(self) -> pyvips.Image:
        """The content, for libvips."""
        return _image(self.content) if isinstance(self.content, np.ndarray) else self.content

    def at(self, size: PixelSize) -> NDArray[np.uint8]:
        """Return it at a size, height x width x 4 in sRGB with straight alpha.

        It is shrunk in linear light, and enlarged as devices do it, between four pixels each, so that it is as blurred as there.
        """
        if size == self.size:
            return self._framed(with_alpha(self.image), self.size, self.x, self.y)
        if self._is_light and size.width <= self.size.width and size.height <= self.size.height:
            return self._shrunk(size)
        is_larger = size.width >= self.size.width and size.height >= self.size.height
        before, after = (_in_premultiplied, _from_premultiplied) if is_larger else (in_linear, from_linear)
        part, left, top = self._resized(size, before, "linear" if is_larger else SHRINKING)
        return self._framed(after(part), size, left, top)

    @property
    def _is_light(self) -> bool:
        """Whether its content, on ground, takes little memory as floats."""
        return self.ground is not None and self.image.width * self.image.height <= _MOST_AS_FLOATS

    def _shrunk(self, size: PixelSize) -> NDArray[np.uint8]:
        """It at a smaller size, of which its content alone is worked out."""
        assert self.ground is not None
        ground = np.asarray(_behind(self.ground, in_linear), np.float32)
        part, left, top = shrunk(in_linear(self.image).numpy(), ground, (self.x, self.y), self.size, size)
        light = pyvips.Image.new_from_array(np.ascontiguousarray(part, np.float32), interpretation="scrgb")
        # The frame has the alpha of opaque ones.
        back = opaque_from_linear if light.bands == 3 else from_linear
        return self._framed(back(light), size, left, top)

    def _resized(
        self, size: PixelSize, before: Callable[[pyvips.Image], pyvips.Image], kernel: str
    ) -> tuple[pyvips.Image, int, int]:
        """The content at the scale of a size, with what it has a say in around it, and where that is.

        libvips makes whole rows when it changes the height. So the height is changed first, of the columns of the content alone, and
        then the width: the order in which libvips does both, and so the same numbers.
        """
        across, down = size.width / self.size.width, size.height / self.size.height
        content = before(self.image)
        how = {
            "kernel": kernel,
            "gap": 0,
        }  # the filter alone: by default libvips averages whole blocks of pixels before it
        if self.ground is None:
            return content.resize(across, vscale=down, **how), 0, 0
        behind = {"extend": "background", "background": _behind(self.ground, before)}
        left, right = _reached(self.x, content.width, across, size.width)
        top, bottom = _reached(self.y, content.height, down, size.height)
        tall = content.embed(0, self.y, content.width, self.size.height, **behind)
        tall = tall.resize(1, vscale=down, **how).crop(0, top, content.width, bottom - top)
        wide = tall.embed(self.x, 0, self.size.width, bottom - top, **behind)
        return wide.resize(across, vscale=1, **how).crop(left, 0, right - left, bottom - top), left, top

    def _framed(self, part: pyvips.Image, size: PixelSize, x: int, y: int) -> NDArray[np.uint8]:
        """A part with the ground around it."""
        pixels: NDArray[np.uint8] = part.numpy()
        if self.ground is None:
            return pixels
        whole = np.empty((size.height, size.width, 4), np.uint8)
        fill(whole, (*self.ground, 255)[:4])
        whole[y : y + part.height, x : x + part.width, : part.bands] = pixels
        return whole


def _reached(start: int, length: int, share: float, side: int) -> tuple[int, int]:
    """The pixels from and up to which a part of an image has a say, once the image is resized to `side`."""
    margin = math.ceil(_REACH * max(1.0, share))
    return max(0, math.floor(start * share) - margin), min(side, math.ceil((start + length) * share) + margin)


def _behind(ground: tuple[int, ...], before: Callable[[pyvips.Image], pyvips.Image]) -> Sequence[float]:
    """A ground as `before` makes it."""
    if before is in_linear and len(ground) == 3:
        return [_linear_values()[band] for band in ground]
    is_nothing = len(ground) == 4 and not any(ground)
    return [0.0] * 4 if is_nothing else list(before(_dot(ground)).getpoint(0, 0))


@cache
def _linear_values() -> Sequence[float]:
    """The 256 values of a band of 8 bits in linear light."""
    ramp = np.repeat(np.arange(256, dtype=np.uint8), 3).reshape(1, 256, 3)
    values: Sequence[float] = in_linear(_image(ramp)).numpy()[0, :, 0].tolist()
    return values


def _dot(colour: Sequence[int]) -> pyvips.Image:
    """One pixel of a colour, of 3 or 4 bands."""
    return (pyvips.Image.black(1, 1, bands=len(colour)) + list(colour)).cast("uchar").copy(interpretation="srgb")


def _in_premultiplied(image: pyvips.Image) -> pyvips.Image:
    return with_alpha(image).premultiply()


def _from_premultiplied(image: pyvips.Image) -> pyvips.Image:
    return image.unpremultiply().rint().cast("uchar").copy(interpretation="srgb")


class Pictures:
    """Decoded and resized bitmaps, and vectors that were read: by content, from any number of threads.

    Nothing is kept by an image itself: one that is planned knows the whole state of a project that it is planned in.
    """

    def __init__(self) -> None:
        self.keeps_drawn = False
        """Whether what is drawn of them is kept as well, for who draws the same again and again."""
        self._bitmaps: _Kept[Bitmap] = _Kept(_MOST_DECODED, lambda one: one.weight)
        self._shown: _Kept[NDArray[np.uint8]] = _Kept(_MOST_RESIZED, lambda one: one.nbytes)
        self._found: _Kept[Any] = _Kept(_MOST_FOUND, _weight)
        self._drawn: _Kept[NDArray[Any]] = _Kept(_MOST_DRAWN, lambda one: one.nbytes)
        self._vectors: _Kept[Art] = _Kept(_MOST_FOUND, lambda one: len(one.data))

    def vector(self, image: ImageFile, read: Callable[[bytes, str], Art]) -> Art:
        """Return a vector as `read` gives it for its bytes and a name."""
        return self._vectors.get(image.key, lambda: read(image.data, "vector.svg"))

    def bitmap(self, image: ImageFile) -> Bitmap:
        """Return a bitmap, decoded.

        Raises:
            BadInput: it is broken, or far too large.
        """
        size = image.size
        if size is not None and size.width * size.height > _MOST_SEARCHED:
            return Bitmap(size, _pixels_of(image))  # read once, from top to bottom
        return self._bitmaps.get(image.key, lambda: _bitmap(image))

    def shows(self, image: ImageFile) -> bool:
        """Return whether anything of a bitmap is visible.

        Raises:
            BadInput: it is broken, or far too large.
        """
        if image.opaque is not None:
            return True
        found = self.bitmap(image)
        if found.is_visible is not None:
            return found.is_visible
        try:
            # Of one that is not held in memory every pixel is decoded for this, so that a broken one is not taken for a sound one.
            highest = found.image[found.image.bands - 1].max()
        except pyvips.Error as error:
            raise _broken() from error
        return bool(found.image.bands == 3 or highest > 0)

    def at(self, image: ImageFile, size: PixelSize) -> NDArray[np.uint8]:
        """Return a bitmap at a size, as `Bitmap.at` gives it.

        Raises:
            BadInput: it is broken, or far too large.
        """
        return self._shown.get((image.key, size), lambda: _at(self.bitmap(image), size))

    def shape(self, svg: str, size: PixelSize) -> NDArray[np.uint8]:
        """Return an SVG as `rivelt.pixels.canvas.rasterised` draws it, such as the corner that many screens have. Not to be drawn into."""
        return self._shown.get((svg, size), lambda: np.asarray(rasterised(svg, size).numpy()))

    def found(self, what: Hashable, image: ImageFile, find: Callable[[], V]) -> V:
        """Return what `find` gives for an image, such as its outline; it is found once. `what`: what is looked for."""
        value: V = self._found.get((what, image.key), find)
        return value

    def once(self, key: Hashable, draw: Callable[[], NDArray[P]]) -> NDArray[P]:
        """Return what `draw` gives; with `keeps_drawn`, it is not drawn again for the same key. Not to be drawn into."""
        return self._drawn.get(key, draw) if self.keeps_drawn else draw()

    def all_once(
        self, keys: Iterable[K], draw: Callable[[Iterable[K]], Mapping[K, NDArray[P]]]
    ) -> Mapping[K, NDArray[P]]:
        """Return what `draw` gives for several keys at once, as `once` does for each: what is kept is left out."""
        kept = {key: self._drawn.known(key) for key in keys}
        new = draw([key for key, drawn in kept.items() if drawn is None])
        return {
            key: self.once(key, partial(new.__getitem__, key)) if drawn is None else drawn
            for key, drawn in kept.items()
        }


def _weight(found: object) -> int:
    """The bytes of what is found of an image, roughly."""
    parts = found if isinstance(found, tuple) else (found,)
    return _LEAST + sum(part.nbytes for part in parts if isinstance(part, np.ndarray))


def _broken() -> BadInput:
    return BadInput("the image is broken: it cannot be decoded", hint="Export it again.")


def _at(bitmap: Bitmap, size: PixelSize) -> NDArray[np.uint8]:
    try:
        return bitmap.at(size)
    except pyvips.Error as error:
        raise _broken() from error


def _bitmap(image: ImageFile) -> Bitmap:
    is_made = not isinstance(image, PlannedImage)
    if is_made and image.is_png and (plain := plain_png(image.data)) is not None:
        return _of_plain(plain)
    found = _pixels_of(image)
    size = PixelSize(found.width, found.height)
    try:
        pixels: NDArray[np.uint8] = found.numpy()
    except pyvips.Error as error:
        raise _broken() from error
    x, y, width, height = _content(pixels)
    content = pixels[y : y + height, x : x + width]
    is_visible = pixels.shape[2] == 3 or bool(pixels[0, 0, 3] or content[..., 3].any())
    if width * height > _MOST_CONTENT * size.width * size.height:
        return Bitmap(size, pixels, is_visible=is_visible)
    return Bitmap(size, content.copy(), x, y, tuple(int(band) for band in pixels[0, 0]), is_visible)


def _of_plain(plain: PlainPng) -> Bitmap:
    """The bitmap of a PNG that needs no decoder, of which the content alone is made pixels of."""
    x, first, width, count = _content(plain.rows)
    y, end = int(plain.starts[first]), int(plain.starts[first + count])
    is_content = width * (end - y) <= _MOST_CONTENT * plain.size.width * plain.size.height
    if not is_content:
        x, y, width, end, first, count = 0, 0, plain.size.width, plain.size.height, 0, len(plain.rows)
    part = plain.coloured(plain.rows[first : first + count, x : x + width])
    content = np.repeat(part, np.diff(plain.starts[first : first + count + 1]), axis=0)
    ground = tuple(int(band) for band in plain.coloured(plain.rows[0, 0]))
    is_visible = plain.bands == 3 or bool(ground[3] or content[..., 3].any())
    return Bitmap(plain.size, content, x, y, ground if is_content else None, is_visible)


def _image(pixels: NDArray[np.uint8]) -> pyvips.Image:
    return pyvips.Image.new_from_array(np.ascontiguousarray(pixels), interpretation="srgb")


def _pixels_of(image: ImageFile) -> pyvips.Image:
    """The pixels of an image; of a plate that is not rendered yet, without encoding it where that loses nothing."""
    if isinstance(image, PlannedImage) and image.is_exact:
        from rivelt.pixels.render import unencoded

        return unencoded(image.recipe)
    try:
        return decoded(image.data)
    except pyvips.Error as error:
        raise _broken() from error


def _content(pixels: NDArray[np.uint8]) -> tuple[int, int, int, int]:
    """The part (x, y, width, height) of an image outside of which all pixels are as the first one; one pixel where all are."""
    height, width, bands = pixels.shape
    rows = pixels.reshape(height, width * bands)
    ground = np.tile(pixels[0, 0], width)
    if bands == 4:  # compared pixel by pixel
        rows, ground, bands = rows.view(np.uint32), ground.view(np.uint32), 1
    across = np.zeros(width * bands, bool)
    down = np.zeros(height, bool)
    for top in range(0, height, _ROWS):  # a few rows at a time, which the processor's cache holds
        differs = rows[top : top + _ROWS] != ground
        here = down[top : top + _ROWS] = differs.any(axis=1)
        if here.any():
            across |= differs[here].any(axis=0)
    ys = np.flatnonzero(down)
    if not len(ys):
        return 0, 0, 1, 1
    shown = across.reshape(width, bands).any(axis=1)
    columns = np.flatnonzero(shown)
    return int(columns[0]), int(ys[0]), int(columns[-1] - columns[0] + 1), int(ys[-1] - ys[0] + 1)


class _Entry(Struct, Generic[T]):
    """A value, or its place while one thread makes it and others wait."""

    lock: Lock = field(default_factory=Lock)
    value: T | None = None
    weight: int = 0
    is_made: bool = False


class _Kept(Generic[T]):
    """Values by key, up to a weight in bytes: what was used longest ago goes first."""

    def __init__(self, most: int, weigh: Callable[[T], int]) -> None:
        self._most = most
        self._weigh = weigh
        self._entries: OrderedDict[Hashable, _Entry[T]] = OrderedDict()
        self._lock = Lock()
        self._weight = 0

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return the value of a key; made by one thread only, and not kept where `make` fails."""
        with self._lock:
            entry = self._entries.setdefault(key, _Entry())
            self._entries.move_to_end(key)
        with entry.lock:
            if not entry.is_made:
                entry.value = make()
                entry.weight, entry.is_made = self._weigh(entry.value), True
                self._add(key, entry)
            return cast(T, entry.value)

    def known(self, key: Hashable) -> T | None:
        """Return the value of a key; None for one that is not made."""
        with self._lock:
            if key not in self._entries:
                return None
            self._entries.move_to_end(key)
            return self._entries[key].value

    def _add(self, key: Hashable, entry: _Entry[T]) -> None:
        with self._lock:
            if self._entries.get(key) is not entry:
                return  # it went while it was made
            self._weight += entry.weight
            while self._weight > self._most and len(self._entries) > 1:
                self._weight -= self._entries.popitem(last=False)[1].weight
