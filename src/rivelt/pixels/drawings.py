"""Drawings that plates share: the same art at the same size and place in its window is drawn once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from threading import Lock
from typing import TYPE_CHECKING, TypeAlias

from rivelt.picture import Art
from rivelt.pixels.canvas import draw
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    import pyvips

Drawing: TypeAlias = tuple[Art, PixelSize, Rect]
"""What `rivelt.pixels.canvas.draw` takes: art, a canvas, and the box on it that the art fills."""

Draw: TypeAlias = "Callable[[Art, PixelSize, Rect], pyvips.Image]"


class Drawings:
    """Drawings that several plates share, each made once and kept until the last of them has it; from any number of threads.

    A mark has the same size on most startup images, whatever the size of the screen.
    """

    def __init__(self, wanted: Iterable[Drawing]) -> None:
        """Take every drawing that will be asked for, repeated as often as it will be."""
        self._left = Counter(wanted)
        self._shared = {drawing: Lock() for drawing, count in self._left.items() if count > 1}
        self._made: dict[Drawing, pyvips.Image] = {}

    def draw(self, art: Art, canvas: PixelSize, box: Rect) -> pyvips.Image:
        """Return what `rivelt.pixels.canvas.draw` does."""
        drawing = art, canvas, box
        lock = self._shared.get(drawing)
        if lock is None:
            return draw(*drawing)
        with lock:
            image = self._made[drawing] if drawing in self._made else draw(*drawing)
            self._left[drawing] -= 1
            if self._left[drawing] > 0:
                self._made[drawing] = image
            else:
                self._made.pop(drawing, None)
            return image
