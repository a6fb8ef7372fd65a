"""Bitmaps as layers of a scene: where one is, and how it is repeated, tinted or mirrored.

Rules: frameworks/base, android.graphics.drawable.BitmapDrawable.
"""

from __future__ import annotations

from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.platforms.android.facts import BASE_DPI
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.resources import Entry
from rivelt.platforms.android.reader.geometry import Natural, by_gravity, gravity_words
from rivelt.platforms.android.reader.nine_patch import nine_patch_svg
from rivelt.platforms.android.reader.values import Values
from rivelt.scene.model import Layer, Picture, Tile, TileMode, Unknown
from rivelt.units import Rect, Size, round_half_up

ENDINGS = (".png", ".webp", ".jpg", ".jpeg", ".gif")
_TILES: dict[str, TileMode] = {"clamp": "clamp", "repeat": "repeat", "mirror": "mirror"}


def bitmap_size(values: Values, entry: Entry) -> Size | None:
    """Return the size of a bitmap on the device, in dp that are whole pixels; None when it is not readable."""
    pixels = values.project.image(entry.path).size
    if pixels is None:
        return None
    density = entry.density or values.device.density
    sides = (side * values.device.density for side in pixels)
    return Size(*((side + density // 2) // density * values.pixel for side in sides))


def natural_bitmap(values: Values, entry: Entry | None) -> Natural:
    """Return the natural size of a bitmap; without its border for a nine-patch."""
    if entry is None:
        return Natural()
    if entry.path.endswith(".9.png"):
        pixels = values.project.image(entry.path).size
        density = entry.density or values.device.density
        if pixels is None:
            return Natural()
        sides = (round_half_up((side - 2) * values.device.density / density) * values.pixel for side in pixels)
        return Natural(*sides)
    size = bitmap_size(values, entry) if entry.path.endswith(ENDINGS) else None
    return Natural(*size) if size else Natural()


def bitmap(values: Values, entry: Entry, frame: Rect) -> list[Layer]:
    """Return a bitmap file that fills a frame."""
    if entry.path.endswith(".9.png"):
        return _nine_patch(values, entry, frame)
    image = values.project.image(entry.path)
    if image.size is None:
        return [Unknown(frame, f"{entry.path} is not a readable bitmap")]
    return [Picture(frame, image, entry.path, clip=frame)]


def bitmap_node(values: Values, node: Node, frame: Rect, source: str) -> list[Layer]:
    """Return a `<bitmap>` or `<nine-patch>` element."""
    entry = values.entry(attribute(node, "src") or "")
    if entry is None or not entry.path.endswith(ENDINGS):
        what = "is not a bitmap, which crashes the app" if entry is not None else "is not in the project"
        return [Unknown(frame, f"the bitmap of {source} {what}")]
    size = bitmap_size(values, entry)
    opacity = values.number(attribute(node, "alpha"), 1.0)
    tint = values.colour(attribute(node, "tint") or "")
    is_odd = attribute(node, "tint") is not None and (
        tint is None or attribute(node, "tintMode") not in {None, "src_in"}
    )
    if size is None or opacity is None or is_odd:
        return [
            Unknown(
                frame, f"{entry.path} is not a readable bitmap" if size is None else f"the tint of {source} is unknown"
            )
        ]
    if node.local == "nine-patch" or entry.path.endswith(".9.png"):
        return _nine_patch(values, entry, frame)
    tile = _tile(node, size)
    is_rtl = values.device.is_right_to_left
    words = gravity_words(attribute(node, "gravity") or "fill", is_right_to_left=is_rtl)
    if tile and min(frame.size) <= 0:
        return []
    rect = frame if tile else by_gravity(*size, frame, words, values.trimmed)
    if min(rect.size) <= 0:
        return []
    is_mirrored = is_rtl and attribute(node, "autoMirrored") == "true"
    if is_mirrored and tile:
        return [Unknown(frame, f"the tiles of {source}, turned round for a language from right to left, are not drawn")]
    if is_mirrored:
        rect = Rect(
            -rect.x, rect.y, *rect.size
        )  # BitmapDrawable.draw turns it round the edge of the canvas, not round its own
    return [
        Picture(
            rect,
            values.project.image(entry.path),
            entry.path,
            clip=None if tile else rect,
            tile=tile,
            tint=tint[0] if tint else None,
            opacity=min(1.0, max(0.0, opacity)),
            is_mirrored=is_mirrored,
        )
    ]


def _tile(node: Node, size: Size) -> Tile | None:
    """How a bitmap is repeated; a direction that is not named keeps its edge, where the other one is."""
    both = attribute(node, "tileMode")
    modes = [_TILES.get(attribute(node, name) or both or "") for name in ("tileModeX", "tileModeY")]
    if not any(modes):
        return None
    return Tile(size, modes[0] or "clamp", modes[1] or "clamp")


def _nine_patch(values: Values, entry: Entry, frame: Rect) -> list[Layer]:
    data = values.project.read(entry.path)
    try:
        svg = nine_patch_svg(data, frame, (entry.density or values.device.density) / BASE_DPI)
    except BadInput as problem:
        return [Unknown(frame, f"{entry.path}: {problem.message}")]
    if svg is None:
        return [Unknown(frame, f"{entry.path} is not a nine-patch: nothing marks what stretches")]
    return [Picture(frame, ImageFile(svg.encode()), entry.path, clip=frame)]
