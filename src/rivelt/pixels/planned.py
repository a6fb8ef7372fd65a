"""A plate that is not rendered yet, as an image: its size and colours come from its recipe."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from functools import cached_property
from typing import TYPE_CHECKING

from rivelt.picture import ImageFile, PlannedFile
from rivelt.plan.model import Recipe
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    from rivelt.colour import Colour


class PlannedImage(ImageFile):
    """A plate. `render` gives its bytes, and is called at most once, when something wants its pixels."""

    def __init__(self, recipe: Recipe, render: Callable[[Recipe], bytes]) -> None:
        super().__init__(b"")
        self.recipe = recipe
        self._render = render

    @property
    def is_png(self) -> bool:
        """Whether it is to be a PNG."""
        return self.recipe.form == "png"

    @property
    def is_exact(self) -> bool:
        """Whether its file will hold the very pixels that are drawn: it loses none to its form or to a limit of bytes."""
        return self.recipe.form in {"png", "webp"} and self.recipe.most_bytes is None

    @property
    def key(self) -> Hashable:
        """What makes two images equal: the recipe decides every pixel."""
        return self.recipe

    @cached_property
    def _rendered(self) -> bytes:
        return self._render(self.recipe)

    @property
    def data(self) -> bytes:
        """The file's bytes; rendered when they are first asked for."""
        return self._rendered

    @cached_property
    def is_vector(self) -> bool:
        """No plate is a vector."""
        return False

    @cached_property
    def size(self) -> PixelSize | None:
        """The size of the recipe's canvas."""
        return self.recipe.canvas

    @cached_property
    def corner(self) -> Colour | None:
        """The recipe's ground, where no art is on a corner; else what the rendered corners have."""
        recipe = self.recipe
        if recipe.ground is None:
            return None
        right, bottom = recipe.canvas.width - 1, recipe.canvas.height - 1
        corners = [Rect(x - 1, y - 1, 3, 3) for x in (0, right) for y in (0, bottom)]
        if any(placement.box.overlaps(corner) for placement in recipe.placed for corner in corners):
            return ImageFile(self.data).corner
        return recipe.ground


class PlannedArchive(PlannedFile):
    """A ZIP file that is not written yet: its images by their paths in it, and its bytes when they are asked for."""

    def __init__(self, images: Mapping[str, PlannedImage]) -> None:
        self.images = images

    @property
    def data(self) -> bytes:
        """The file's bytes; its images are rendered for it."""
        return self._zipped

    @cached_property
    def _zipped(self) -> bytes:
        from rivelt.pixels.archive import zipped

        return zipped({path: image.data for path, image in self.images.items()})
