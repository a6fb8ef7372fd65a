"""Drawings of which plates are made, and those that plates share: the same art at the same size and place is drawn once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from threading import Lock
from typing import TYPE_CHECKING, Generic, NamedTuple, TypeAlias, TypeVar

from rivelt.colour import Colour
from rivelt.pixels.canvas import draw
from rivelt.pixels.ink import inked
from rivelt.plan.model import Ink, Placement
from rivelt.units import PixelSize

if TYPE_CHECKING:
    import pyvips


class Drawing(NamedTuple):
    """Art placed on a canvas (px), the last on top; in one colour where there is an ink. On a ground it is opaque, else transparent."""

    canvas: PixelSize
    placed: tuple[Placement, ...]
    ink: Ink | None = None
    ground: Colour | None = None


Draw: TypeAlias = "Callable[[Drawing], pyvips.Image]"

_Key = TypeVar("_Key")
_Value = TypeVar("_Value")


def drawn(drawing: Drawing) -> pyvips.Image:
    """Return an sRGB image of 8 bits, made in memory: 3 bands, or 4 with an alpha that is not premultiplied.

    Raises:
        BadInput: art turns out to be broken when it is decoded.
    """
    return _composited(drawing, lambda placement: _alone(drawing.canvas, placement))


class Drawings:
    """Drawings that several plates share, each made once and kept until the last of them has it; from any number of threads.

    A mark has the same size on most startup images, whatever the size of the screen. Drawings that differ in ground alone share their art.
    """

    def __init__(self, wanted: Iterable[Drawing]) -> None:
        """Take every drawing that will be asked for, repeated as often as it will be."""
        wanted = list(wanted)
        alone = ((one.canvas, placement) for one in dict.fromkeys(wanted) for placement in one.placed)
        self._alone = _Shared(lambda key: _alone(*key), alone)
        self._drawings = _Shared(self._drawn, wanted)

    def drawn(self, drawing: Drawing) -> pyvips.Image:
        """Return a drawing as the function `drawn` makes it."""
        return self._drawings.get(drawing)

    def _drawn(self, drawing: Drawing) -> pyvips.Image:
        return _composited(drawing, lambda placement: self._alone.get((drawing.canvas, placement)))


def _alone(canvas: PixelSize, placement: Placement) -> pyvips.Image:
    return draw(placement.art, canvas, placement.box)


def _composited(drawing: Drawing, drawn_alone: Callable[[Placement], pyvips.Image]) -> pyvips.Image:
    import pyvips

    layers = [drawn_alone(placement) for placement in drawing.placed]
    if drawing.ink is not None:
        layers = [inked(layer, drawing.ink) for layer in layers]
    image = layers[0] if layers else pyvips.Image.black(*drawing.canvas, bands=4).copy(interpretation="srgb")
    for layer in layers[1:]:
        image = image.composite2(layer, "over").cast("uchar")
    if drawing.ground is not None:
        image = image.flatten(background=list(drawing.ground[:3]))
    return image.copy_memory()


class _Shared(Generic[_Key, _Value]):
    """Values that are made once, and kept until each has been asked for as often as it is wanted."""

    def __init__(self, make: Callable[[_Key], _Value], wanted: Iterable[_Key]) -> None:
        self._make = make
        self._left = Counter(wanted)
        self._locks = {key: Lock() for key, count in self._left.items() if count > 1}
        self._made: dict[_Key, _Value] = {}

    def get(self, key: _Key) -> _Value:
        lock = self._locks.get(key)
        if lock is None:
            return self._make(key)
        with lock:
            value = self._made[key] if key in self._made else self._make(key)
            self._left[key] -= 1
            if self._left[key] > 0:
                self._made[key] = value
            else:
                self._made.pop(key, None)
            return value
