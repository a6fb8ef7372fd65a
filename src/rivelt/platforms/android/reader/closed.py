"""What the reader of drawables understands: any other attribute or element may change what is drawn, and makes its part unknown.

Attributes: frameworks/base, core/res/res/values/attrs.xml.
"""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.edit.xml import Node
from rivelt.platforms.android.native.manifest import ANDROID

_HARMLESS = frozenset(
    {"id", "name", "contentDescription", "antialias", "dither", "mipMap", "opacity", "shareInterpolator"}
)
"""Names, quality, and hints that change nothing which is seen."""
_STATES = "state_"
_GRADIENT = frozenset(
    [
        "type",
        "angle",
        "startColor",
        "centerColor",
        "endColor",
        "centerX",
        "centerY",
        "gradientRadius",
        "useLevel",
        "startX",
        "startY",
        "endX",
        "endY",
        "tileMode",
    ]
)
_READ: dict[str, frozenset[str]] = {
    name: frozenset(words.split())
    for name, words in {
        "bitmap": "src gravity tileMode tileModeX tileModeY tint tintMode alpha autoMirrored",
        "nine-patch": "src tint tintMode alpha autoMirrored",
        "color": "color",
        "layer-list": "paddingMode autoMirrored",
        "transition": "paddingMode autoMirrored",
        "ripple": "color radius paddingMode autoMirrored",
        "selector": "constantSize variablePadding autoMirrored enterFadeDuration exitFadeDuration",
        "animated-selector": "constantSize variablePadding autoMirrored enterFadeDuration exitFadeDuration",
        "level-list": "variablePadding autoMirrored constantSize",
        "animation-list": "oneshot variablePadding autoMirrored constantSize",
        "item": "drawable color alpha lStar left top right bottom start end width height gravity minLevel maxLevel duration offset",
        "inset": "drawable inset insetLeft insetTop insetRight insetBottom",
        "rotate": "drawable fromDegrees toDegrees pivotX pivotY",
        "animated-rotate": "drawable pivotX pivotY frameDuration framesCount",
        "scale": "drawable scaleWidth scaleHeight scaleGravity level useIntrinsicSizeAsMinimum",
        "clip": "drawable clipOrientation gravity",
        "shape": "shape useLevel innerRadius innerRadiusRatio thickness thicknessRatio tint tintMode",
        "size": "width height",
        "padding": "left top right bottom",
        "corners": "radius topLeftRadius topRightRadius bottomLeftRadius bottomRightRadius",
        "stroke": "width color dashWidth dashGap",
        "solid": "color",
        "vector": "width height viewportWidth viewportHeight tint tintMode alpha autoMirrored",
        "group": "rotation pivotX pivotY scaleX scaleY translateX translateY",
        "path": "pathData fillColor fillAlpha fillType strokeColor strokeWidth strokeAlpha strokeLineCap strokeLineJoin "
        "strokeMiterLimit trimPathStart trimPathEnd trimPathOffset",
        "clip-path": "pathData",
        "animated-vector": "drawable",
        "target": "animation",
        "adaptive-icon": "",
        "background": "drawable",
        "foreground": "drawable",
        "monochrome": "drawable",
    }.items()
} | {"gradient": _GRADIENT}
"""The attributes that are read of each element; those that name colours, sizes and pictures are reported to be unknown where they are so."""

_OWN_PARTS = {
    "shape": frozenset({"size", "padding", "corners", "stroke", "solid", "gradient"}),
    "vector": frozenset({"group", "path", "clip-path", "attr", "gradient", "item"}),
}
"""The elements that may stand inside these, which are read with them."""


def unread(root: Node) -> str | None:
    """Return what of a drawable's element is not understood ("android:opticalInsetLeft of <vector>"); None when all of it is.

    The drawables that it holds are looked at when they are drawn.
    """
    return next(_unread(root), None)


_VIEW = frozenset(
    [
        "background",
        "src",
        "scaleType",
        "adjustViewBounds",
        "visibility",
        "gravity",
        "translationX",
        "translationY",
        "layout_width",
        "layout_height",
        "layout_gravity",
        "layout_margin",
        "layout_marginLeft",
        "layout_marginTop",
        "layout_marginRight",
        "layout_marginBottom",
        "layout_marginStart",
        "layout_marginEnd",
        "padding",
        "paddingLeft",
        "paddingTop",
        "paddingRight",
        "paddingBottom",
        "paddingStart",
        "paddingEnd",
        "clickable",
        "focusable",
        "importantForAccessibility",
        "tag",
        "keepScreenOn",
    ]
)


def unread_of_view(node: Node) -> str | None:
    """Return the attribute of a picture or a frame in a layout that is not understood; None when all are."""
    for key in node.attributes:
        name = key.rpartition("}")[2]
        if key.startswith(f"{{{ANDROID}}}") and name not in _VIEW and name not in _HARMLESS:
            return f"android:{name} of <{node.local}>"
    return None


def _unread(root: Node) -> Iterator[str]:
    yield from _of(root)
    parts = _OWN_PARTS.get(root.local)
    if parts is not None:
        for node in root.walk():
            if node is not root:
                if node.local not in parts:
                    yield f"<{node.local}> in <{root.local}>"
                yield from _of(node)
    else:
        for item in root.children:
            if item.local in {"item", "background", "foreground", "monochrome", "target"}:
                yield from _of(item)


def _of(node: Node) -> Iterator[str]:
    known = _READ.get(node.local)
    if known is None:
        return
    for key in node.attributes:
        if key.startswith(f"{{{ANDROID}}}"):
            name = key.rpartition("}")[2]
            if name not in known and name not in _HARMLESS and not name.startswith(_STATES):
                yield f"android:{name} of <{node.local}>"
