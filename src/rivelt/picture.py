"""Pictures as values: a source file that is placed on plates (`Art`), and an image as a screen shows it (`ImageFile`).

Nothing here draws or decodes; see `rivelt.pixels` for that and `rivelt.art.source` for reading and vetting.
"""

from __future__ import annotations

import hashlib
from collections.abc import Hashable
from functools import cached_property
from threading import Lock
from typing import TYPE_CHECKING, Any, Literal, TypeAlias

from msgspec import Struct

from rivelt.units import PixelSize, Rect, Size
from rivelt.xmltext import quoted

if TYPE_CHECKING:
    from rivelt.colour import Colour
    from rivelt.plainpng import OpaquePng

Kind: TypeAlias = Literal["SVG", "PNG", "JPEG", "WebP"]
Attributes: TypeAlias = tuple[tuple[str, str], ...]

MAX_PIXELS = 100_000_000
"""The largest bitmap that is decoded, in pixels: about 400 MB of memory."""

_PNG_HEAD = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR"
_PNG_END = b"\0\0\0\0IEND\xaeB`\x82"

SVG_NAMESPACE = "http://www.w3.org/2000/svg"


class SvgDocument(Struct, frozen=True):
    """An SVG that has been vetted: the text of its root element, and its natural size in CSS pixels.

    `tags` are the elements it is made of, `tag` the root's own name. `is_plain`: whether it is surely drawn at once.
    `fonts`: the font families that its text asks for first. `is_animated`: whether it moves where animations are played.
    """

    size: Size
    attributes: Attributes
    content: str
    tags: frozenset[str] = frozenset()
    tag: str = "svg"
    is_plain: bool = True
    fonts: tuple[str, ...] = ()
    is_animated: bool = False

    def whole(self) -> str:
        """Return it as a file of its own."""
        shown = "".join(f" {name}={quoted(value)}" for name, value in self.attributes)
        return f"<{self.tag}{shown}>{self.content}</{self.tag}>"

    def nested(self) -> str:
        """Return the root as an inner `<svg>` of exactly its natural size, to be put into another SVG's viewBox."""
        kept = [(name, value) for name, value in self.attributes if name not in {"width", "height", "x", "y"}]
        shown = "".join(f" {name}={quoted(value)}" for name, value in kept)
        size = f'width="{self.size.width!r}" height="{self.size.height!r}"'
        return f"<{self.tag}{shown} {size}>{self.content}</{self.tag}>"

    def on_canvas(self, width: int, height: int, box: Rect) -> str:
        """Return a whole SVG of `width` x `height` px on which this one fills `box` (px, its aspect ratio kept)."""
        scale = box.width / self.size.width
        view = Rect(-box.x / scale, -box.y / scale, width / scale, height / scale)
        return (
            f'<svg xmlns="{SVG_NAMESPACE}" width="{width}" height="{height}" preserveAspectRatio="none" '
            f'viewBox="{" ".join(repr(float(value)) for value in view)}">{self.nested()}</svg>'
        )


class Art(Struct, frozen=True, eq=False, dict=True):
    """One source image.

    `size` is in art units: CSS pixels (1/96 in) of an SVG, upright pixels of a bitmap. `svg` is set for vectors only.
    `frames` is more than 1 for a moving picture, of which only the first frame is ever drawn.
    Two pieces of art with the same bytes are equal.
    """

    name: str
    kind: Kind
    data: bytes
    size: Size
    svg: SvgDocument | None = None
    frames: int = 1

    @cached_property
    def digest(self) -> str:
        """SHA-256 of the file's bytes, in hex."""
        return hashlib.sha256(self.data).hexdigest()

    @cached_property
    def levels(self) -> dict[int, Any]:
        """A large bitmap at smaller sizes, for who draws it: by how many times each is smaller."""
        return {}

    @cached_property
    def drawing(self) -> Lock:
        """Held while a level is made."""
        return Lock()

    @property
    def may_be_transparent(self) -> bool:
        """Whether something behind it can show through."""
        return self.kind != "JPEG"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Art) and self.digest == other.digest

    def __hash__(self) -> int:
        return hash(self.digest)


class PlannedFile:
    """A file that is not made yet: its bytes come when they are asked for."""

    @property
    def data(self) -> bytes:
        """The file's bytes."""
        raise NotImplementedError


class ImageFile:
    """An image as a screen shows it: the bytes of a bitmap or an SVG. Two with the same content are equal.

    What its header says is read once. `PlannedImage` (in `rivelt.pixels.planned`) knows the same of a plate that is not rendered yet.
    """

    def __init__(self, data: bytes) -> None:
        self._data = data

    @property
    def key(self) -> Hashable:
        """What makes two images equal."""
        return self._data

    @property
    def data(self) -> bytes:
        """The file's bytes."""
        return self._data

    @cached_property
    def is_vector(self) -> bool:
        """Whether it is an SVG."""
        return self.data[:64].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<")

    @property
    def is_png(self) -> bool:
        """Whether it is a PNG, whatever its file is called."""
        return self.data.startswith(b"\x89PNG\r\n\x1a\n")

    @cached_property
    def size(self) -> PixelSize | None:
        """Its size in pixels; None for a vector, and for what is not a readable bitmap."""
        if self.is_vector:
            return None
        data = self.data
        if data.startswith(_PNG_HEAD) and data.endswith(
            _PNG_END
        ):  # a library for this would take longer to load than a survey
            width, height = (int.from_bytes(data[at : at + 4]) for at in (16, 20))
            if width and height:
                return PixelSize(width, height)
        import pyvips

        try:
            header = pyvips.Image.new_from_buffer(self.data, "", access="sequential")
        except pyvips.Error:
            return None
        return PixelSize(header.width, header.height)

    @cached_property
    def opaque(self) -> OpaquePng | None:
        """What is known of it without decoding it, where it is surely a sound and opaque PNG; None for all others."""
        from rivelt.plainpng import opaque_png

        return opaque_png(self.data) if self.is_png else None

    @cached_property
    def corner(self) -> Colour | None:
        """The one opaque colour that all four corners have; None when they differ, or cannot be read."""
        if self.opaque is not None and self.opaque.corners is not None:
            return next(iter(self.opaque.corners)) if len(self.opaque.corners) == 1 else None
        import pyvips

        from rivelt.colour import Colour

        try:
            image = pyvips.Image.new_from_buffer(self.data, "")
            if image.width * image.height > MAX_PIXELS:
                return None
            image = image.colourspace("srgb")
            image = (image if image.hasalpha() else image.addalpha()).cast("uchar")
            corners = {tuple(image.getpoint(x, y)) for x in (0, image.width - 1) for y in (0, image.height - 1)}
        except pyvips.Error:
            return None
        colour = Colour(*(int(value) for value in corners.pop()))
        return colour if not corners and colour.is_opaque else None

    def __eq__(self, other: object) -> bool:
        return isinstance(other, ImageFile) and self.key == other.key

    def __hash__(self) -> int:
        return hash(self.key)
