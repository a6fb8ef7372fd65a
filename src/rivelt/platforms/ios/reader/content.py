"""What a view of a launch screen holds: images, colours and text, found and laid into the view's frame."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.edit.xml import Document, Node
from rivelt.picture import ImageFile
from rivelt.pixels.slices import Band, sliced_svg
from rivelt.platforms.ios.native.catalog import CatalogImage, Slices, find_colour, find_image, find_loose, image_size
from rivelt.platforms.ios.native.colours import storyboard_colour, system_colour
from rivelt.platforms.ios.reader.traits import Traits
from rivelt.platforms.ios.reader.views import View
from rivelt.project.project import Project
from rivelt.scene.model import Fill, Layer, Picture, Screen, TextBox, Unknown
from rivelt.units import Look, Point, Rect, Size, centred, contain

_DEFAULT_FONT_SIZE, _LARGEST_FONT_SIZE = 17.0, 1000.0  # points; 17 is what UIKit gives a label
_LINE = 1.193  # the line height of the system font, in font sizes
_ENDS = {"left": 0.0, "right": 1.0, "top": 0.0, "bottom": 1.0}


class Resources(Struct, frozen=True):
    """The app's own images and colours, as one screen in one look is given them."""

    project: Project
    catalogs: Sequence[str]
    members: Collection[str]
    screen: Screen
    look: Look

    def image(self, name: str) -> tuple[CatalogImage, Size] | str:
        """Return an image and its size in points, or why it is unknown."""
        found = find_image(self.project, self.catalogs, name, self.screen, self.look)
        found = found or find_loose(self.members, name, self.screen)
        if found is None:
            return f"image {name} is in no asset catalog of the target"
        if found.path not in self.project:
            return f"{found.path} is not there"
        size = image_size(self.project, found)
        return (found, size) if size is not None else f"{found.path} cannot be read"

    def colour(self, name: str) -> tuple[Colour, str] | None:
        """Return a named colour and the file that it stands in."""
        return find_colour(self.project, self.catalogs, name, self.screen, self.look)


class Contents(Struct, frozen=True):
    """What the views of one document hold."""

    document: Document
    resources: Resources
    traits: Traits

    def colour(self, node: Node) -> tuple[Colour, str] | None:
        """Return the colour of a `<color>`, and the file that it stands in; None when it is unknown."""
        look, screen, path = self.resources.look, self.resources.screen, self.document.path
        if name := node.get("name"):
            return self.resources.colour(name)
        if system := node.get("systemColor") or node.get("cocoaTouchSystemColor"):
            known = system_colour(system, look, screen.version)
            if known is None and look == "light":  # the file keeps what Xcode knew of it
                known = self._noted(system)
        else:
            known = storyboard_colour(node)
        return (known, path) if known is not None else None

    def _noted(self, system: str) -> Colour | None:
        for resources in self.document.root.all("resources"):
            for noted in resources.all("systemColor"):
                if noted.get("name") == system and (value := noted.first("color")) is not None:
                    return storyboard_colour(value)
        return None

    def background(self, view: View) -> Node | None:
        """Return the element of a view's background colour."""
        return next((child for child in view.node.all("color") if child.get("key") == "backgroundColor"), None)

    def fill(self, node: Node, frame: Rect) -> Layer:
        """Return a colour over a frame."""
        known = self.colour(node)
        if known is not None:
            return Fill(frame, *known)
        name = node.get("name") or node.get("systemColor") or "of an unknown space"
        return Unknown(frame, f"the colour {name} in {self.document.path} is unknown")

    def image_name(self, view: View) -> str:
        """Return the name of the image that an image view shows."""
        return self.traits.attribute(view.node, "image") or ""

    def image(self, view: View, frame: Rect) -> Layer | None:
        """Return the image of an image view in its frame; None where it shows none."""
        name = self.image_name(view)
        if not name:
            return None
        if view.node.get("catalog") == "system":
            return Unknown(frame, f"the system's symbol {name} is not drawn")
        if view.node.get("highlighted") == "YES" and view.node.get("highlightedImage"):
            return Unknown(frame, f"an image view that is highlighted shows {view.node.get('highlightedImage')}")
        found = self.resources.image(name)
        if isinstance(found, str):
            return Unknown(frame, found)
        image, size = found
        mode = self.traits.attribute(view.node, "contentMode") or "scaleToFill"
        rect = placed(mode, size, frame)
        if rect is None:
            return Unknown(frame, f"content mode {mode} is not known")
        if image.is_pdf:
            return Unknown(rect, f"{image.path} is a PDF, which is not drawn")
        clip = frame if view.node.get("clipsSubviews") == "YES" else None
        return self._drawn(view, image, rect, size, clip)

    def _drawn(self, view: View, image: CatalogImage, rect: Rect, size: Size, clip: Rect | None) -> Layer:
        file, tint = self.resources.project.image(image.path), None
        if image.is_template:
            tint = self._tint(view)
            if tint is None:
                return Unknown(rect, "the tint colour is unknown")
        if file.size == (1, 1) and file.corner is not None and tint is None:
            return Fill(rect, file.corner, image.path)  # one pixel, stretched
        if image.slices is not None and rect.size != size:
            if image.scale is None or image.slices.is_tiled or not file.is_png:
                return Unknown(rect, f"{image.path} is sliced in a way that is not drawn")
            file = ImageFile(_sliced(file, image.slices, rect.size, image.scale).encode())
        return Picture(rect, file, image.path, clip=clip, tint=tint)

    def _tint(self, view: View) -> Colour | None:
        """The tint colour of a view: its own, else that of the nearest view it is in, else the system's blue."""
        holder: View | None = view
        while holder is not None:
            node = next((child for child in holder.node.all("color") if child.get("key") == "tintColor"), None)
            if node is not None:
                known = self.colour(node)
                return known[0] if known else None
            holder = holder.parent
        return system_colour("systemBlueColor", self.resources.look, self.resources.screen.version)

    def label(self, view: View, frame: Rect) -> Layer:
        """Return a label's text in its frame."""
        node = next((child for child in view.node.all("color") if child.get("key") == "textColor"), None)
        known = self.colour(node) if node is not None else None
        colour = known[0] if known else system_colour("labelColor", self.resources.look, self.resources.screen.version)
        assert colour is not None
        return TextBox(frame, view.node.get("text") or "", font_size(view.node), colour, self.document.path)

    def natural(self, view: View, advance: float) -> Size | None:
        """Return the size in points that a view has by its content; None for one without.

        The system's font is not here: a label's text is taken to be `advance` font sizes wide a letter.
        """
        if view.kind == "label":
            size = font_size(view.node)
            return Size(len(view.node.get("text") or "") * size * advance, size * _LINE)
        if view.kind != "imageView" or view.node.get("catalog") == "system":
            return None
        name = self.image_name(view)
        found = self.resources.image(name) if name else ""
        return None if isinstance(found, str) else found[1]


def wrapped(view: View, natural: Size, width: float) -> Size:
    """Return the size of a label that may have several lines, in a width."""
    most = view.node.get("numberOfLines") or "1"
    if most == "1" or natural.width <= width + 0.5 or width <= 0:
        return natural
    lines = math.ceil(natural.width / width)
    return Size(width, natural.height * (min(lines, int(most)) if most.isdigit() and int(most) else lines))


def placed(mode: str, size: Size, frame: Rect) -> Rect | None:
    """Return where content of a size is in a view's frame (UIView.ContentMode); None for a mode that is not known."""
    match mode:
        case "scaleAspectFit":
            return centred(contain(size, frame.size), frame)
        case "scaleAspectFill":
            return centred(size.scaled(max(frame.width / size.width, frame.height / size.height)), frame)
        case "scaleToFill" | "redraw":
            return frame
        case "center" | "left" | "right" | "top" | "bottom" | "topLeft" | "topRight" | "bottomLeft" | "bottomRight":
            words = mode.replace("Left", " left").replace("Right", " right").split()
            share = Point(
                next((_ENDS[word] for word in words if word in {"left", "right"}), 0.5),
                next((_ENDS[word] for word in words if word in {"top", "bottom"}), 0.5),
            )
            left, top = (frame.width - size.width) * share.x, (frame.height - size.height) * share.y
            return Rect(frame.x + left, frame.y + top, *size)
        case _:
            return None


def _sliced(file: ImageFile, slices: Slices, size: Size, scale: int) -> str:
    """An SVG of a bitmap that keeps its caps and stretches between them."""
    assert file.size is not None
    bitmap = Size(*file.size)
    columns = _bands(bitmap.width, slices.left, slices.right, is_cut=slices.stretches_across)
    rows = _bands(bitmap.height, slices.top, slices.bottom, is_cut=slices.stretches_down)
    return sliced_svg(file.data, bitmap, columns, rows, size, scale)


def _bands(length: float, before: float, after: float, *, is_cut: bool) -> list[Band]:
    middle = length - before - after
    if not is_cut or middle <= 0:
        return [Band(0, length, stretches=True)]
    bands = [
        Band(0, before, stretches=False),
        Band(before, middle, stretches=True),
        Band(length - after, after, stretches=False),
    ]
    return [band for band in bands if band.length > 0]


def font_size(label: Node) -> float:
    """Return a label's font size in points; what is not a size is UIKit's own."""
    description = label.first("fontDescription")
    try:
        size = float((description.get("pointSize") if description is not None else None) or _DEFAULT_FONT_SIZE)
    except ValueError:
        return _DEFAULT_FONT_SIZE
    return size if 0 < size <= _LARGEST_FONT_SIZE else _DEFAULT_FONT_SIZE
