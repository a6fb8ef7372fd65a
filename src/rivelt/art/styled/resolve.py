"""A vetted drawing with all its style resolved: one attribute for each property, in notations that every renderer draws alike."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Mapping
from typing import Any

import cssselect2
import tinycss2
from msgspec import Struct

from rivelt.art.outline.model import Matrix
from rivelt.art.styled.boxes import fill_box
from rivelt.art.styled.cascade import Custom, Variables, cascaded
from rivelt.art.styled.gradients import spread_out
from rivelt.art.styled.properties import BOX_ATTRIBUTES, GEOMETRY, INITIAL, LENGTHS, PRESENTATION, vet
from rivelt.art.styled.refusal import Unresolved
from rivelt.art.styled.sheets import Sheets
from rivelt.art.styled.transforms import PROPERTIES, matrix_of
from rivelt.art.styled.values import PAINTS, Lengths, font_size, paint, with_plain_colours
from rivelt.patterns import regex
from rivelt.picture import SVG_NAMESPACE
from rivelt.units import Rect, Size

_XLINK = "http://www.w3.org/1999/xlink"
_MOST_WORK = 5_000_000  # comparisons of an element with a part of a selector
_ROOT_FONT = 16.0  # px: the initial font size of browsers
_GRADIENTS = frozenset({"linearGradient", "radialGradient", "pattern"})
_PATH = regex(r"path\(\s*(?:\w+\s*,\s*)?([\"'])(.*)\1\s*\)", re.DOTALL | re.IGNORECASE)
_NUMBER = regex(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?", re.IGNORECASE)
_WIDE = regex(r"\s*(?:ok)?l(?:ab|ch)\(|\s*color\(", re.IGNORECASE)
_OWN_FONT = regex(r"\d(?:em|lh)\b", re.IGNORECASE)
_FONT = regex(r"(\d[\w.%]*)(?:\s*/\s*\S+)?\s+(.+)")
ET.register_namespace("", SVG_NAMESPACE)
ET.register_namespace("xlink", _XLINK)


class Resolved(Struct, frozen=True):
    """The text of the drawing, the font families that its text asks for first, and whether it moves."""

    text: str
    fonts: tuple[str, ...]
    is_animated: bool


class _Around(Struct, frozen=True):
    """What an element has from those around it."""

    custom: Custom
    font: float
    root_font: float
    family: str
    view: Rect


def resolved(text: str, size: Size) -> Resolved:
    """Return a whole SVG with its style resolved; `size`: its natural size in CSS pixels.

    Raises:
        Unresolved: something in it cannot be decided, or would be drawn otherwise than browsers draw it.
    """
    try:
        root = ET.fromstring(text)
    except ET.ParseError as error:
        raise Unresolved(f"a prefix in it is not declared ({error})") from error
    return _Resolver(root, size).run()


class _Resolver:
    def __init__(self, root: ET.Element, size: Size) -> None:
        self._root = root
        self._size = size
        self._sheets = Sheets()
        self._variables = Variables()
        self._fonts: dict[str, None] = {}
        self._is_animated = False
        self._wide: dict[ET.Element, str] = {}
        self._is_repeated = any(element.get("spreadMethod", "").strip() == "repeat" for element in root.iter())
        self._own: Mapping[ET.Element, Mapping[str, tuple[Any, ...]]] = {}
        for sheet in root.iter():
            if _local(sheet) == "style":
                self._sheets.add("".join(sheet.itertext()), sheet.get("type", ""), sheet.get("media", ""))
        if self._sheets.work(*_extent(root)) > _MOST_WORK:
            raise Unresolved("its style has too many selectors for so many elements")

    def run(self) -> Resolved:
        wrapped = cssselect2.ElementWrapper.from_xml_root(self._root)
        around = _Around({}, _ROOT_FONT, _ROOT_FONT, "", _view_of(self._root, Rect(0, 0, *self._size)))
        # Selectors look at attributes: all of them match before any is written.
        self._own = {one.etree_element: self._declared(one) for one in wrapped.iter_subtree()}
        self._refuse_variables_through_use()
        self._element(wrapped, around)
        for parent in list(self._root.iter()):
            for child in [one for one in parent if _local(one) == "style"]:
                parent.remove(child)
        return Resolved(ET.tostring(self._root, encoding="unicode"), tuple(self._fonts), self._is_animated)

    def _declared(self, wrapped: Any) -> Mapping[str, tuple[Any, ...]]:
        element = wrapped.etree_element
        names = PRESENTATION | BOX_ATTRIBUTES.get(_local(element), frozenset())
        given = {name: value for name in names if (value := element.get(name)) is not None and value.strip()}
        return cascaded(wrapped, given, self._sheets)

    def _refuse_variables_through_use(self) -> None:
        """What a `<use>` shows inherits from there, so that each place may show it otherwise."""
        if not any(_local(one) == "use" for one in self._root.iter()):
            return
        others = [own for element, own in self._own.items() if element is not self._root]
        if any("font-size" in own or "font" in own for own in others) and any(
            name in LENGTHS and _OWN_FONT.search(tinycss2.serialize(tokens))
            for own in others
            for name, tokens in own.items()
        ):
            raise Unresolved("its lengths in em may differ between the places where a <use> shows the same part")
        for element, own in self._own.items():
            if element is not self._root and any(name.startswith("--") for name in own):
                raise Unresolved(
                    "its custom properties may differ between the places where a <use> shows the same part"
                )

    def _element(self, wrapped: Any, around: _Around) -> None:
        element = wrapped.etree_element
        if not isinstance(element.tag, str) or _local(element) == "style":
            return
        tag = _local(element)
        own = self._own[element]
        custom = self._variables.inherited_by(own, around.custom)
        properties = self._variables.computed(own, custom)
        size = font_size(_font_size_of(properties), around.font, around.root_font, self._size)
        root_font = size if element is self._root else around.root_font
        lengths = Lengths(size, root_font, self._size)
        family = _family(properties) or around.family
        if tag in {"text", "tspan", "textPath"} and "".join(element.itertext()).strip() and family:
            self._fonts[family] = None
        if tag == "stop" and _WIDE.match(properties.get("stop-color", "")):
            self._wide[element] = properties["stop-color"]
        self._is_animated |= any(name.startswith("animation") for name in properties)
        vet(properties, is_root=element is self._root)
        self._write(element, tag, {key: _plain(key, value, lengths) for key, value in properties.items()}, size)
        inside = _Around(custom, size, root_font, family, _view_of(element, around.view))
        for child in wrapped.iter_children():
            self._element(child, inside)
        if tag in {"linearGradient", "radialGradient"}:
            spread_out(element, self._wide, is_repeated=self._is_repeated)
        self._transform(element, tag, properties, lengths, around.view)

    def _write(self, element: ET.Element, tag: str, properties: dict[str, str], size: float) -> None:
        geometry = BOX_ATTRIBUTES.get(tag, frozenset()) if element is not self._root else frozenset()
        for name in [*PRESENTATION, *geometry, "style"]:
            if name not in {"transform"}:
                element.attrib.pop(name, None)
        style = []
        for name, value in properties.items():
            if name in PROPERTIES or name.startswith(("animation", "background")) or name == "font-size":
                continue
            if name in GEOMETRY:
                if name in geometry and value != "auto":
                    element.set(name, _path_of(value) if name == "d" else value)
            elif name in PRESENTATION:
                element.set(name, value)
            else:
                style.append(f"{name}:{value}")
        if "font-size" in properties or element is self._root:
            element.set("font-size", f"{size:.6g}")
        if style:
            element.set("style", ";".join(style))
        if element is self._root:
            self._ground(properties)

    def _ground(self, properties: dict[str, str]) -> None:
        """What is painted behind everything: browsers do so for the root element."""
        colour = properties.get("background-color")
        if not colour or colour in {"none", "transparent", "inherit", "initial"}:
            return
        box = [float(found) for found in _NUMBER.findall(self._root.get("viewBox", ""))]
        x, y, width, height = box if len(box) == 4 else (0.0, 0.0, *self._size)
        if (
            self._root.get("preserveAspectRatio", "").strip() != "none"
            and abs(width * self._size.height - height * self._size.width) > 1e-3 * width * self._size.height
        ):
            raise Unresolved("the background of its root element is wider or higher than its viewBox")
        given = {"x": f"{x:g}", "y": f"{y:g}", "width": f"{width:g}", "height": f"{height:g}", "fill": paint(colour)}
        self._root.insert(0, ET.Element(f"{{{SVG_NAMESPACE}}}rect", {**given, "stroke": "none", "opacity": "1"}))

    def _transform(
        self, element: ET.Element, tag: str, properties: dict[str, str], lengths: Lengths, view: Rect
    ) -> None:
        asked = {name: value for name, value in properties.items() if name in PROPERTIES}
        key = "transform"
        if tag == "symbol" and asked:
            raise Unresolved("a <symbol> is transformed")
        if tag in _GRADIENTS:
            key = "patternTransform" if tag == "pattern" else "gradientTransform"
            asked.setdefault("transform", element.get(key, "none"))
        if not asked or (
            set(asked) == {"transform"} and element.get(key) == asked["transform"] and element is not self._root
        ):
            return
        if tag in _GRADIENTS and set(asked) == {"transform"} and asked["transform"] == "none":
            return
        if tag in _GRADIENTS and set(asked) - {"transform"}:
            raise Unresolved("a gradient or pattern is transformed round an origin")
        matrix = matrix_of(asked, lengths, view, lambda: fill_box(element))
        element.attrib.pop(key, None)
        if matrix is None:
            return
        if element is self._root and matrix != Matrix():
            raise Unresolved("its root element is transformed")
        element.set(key, "matrix({})".format(" ".join(f"{value:.9g}" for value in matrix)))


def _plain(name: str, value: str, lengths: Lengths) -> str:
    """A property's value in a notation that every renderer knows."""
    if value.strip().lower() == "initial":
        if name not in INITIAL:
            raise Unresolved(f"{name}: initial is not understood")
        return INITIAL[name]
    if name in PAINTS:
        return paint(value)
    if name == "filter":
        return with_plain_colours(value)
    return lengths.plain(value) if name in LENGTHS else value


def _path_of(value: str) -> str:
    found = _PATH.fullmatch(value.strip())
    if found:
        return found[2]
    return "" if value.strip().lower() == "none" else value


def _family(properties: dict[str, str]) -> str:
    """The family that text asks for first; empty where it names none."""
    text = properties.get("font-family", "")
    if not text and (found := _FONT.search(properties.get("font", ""))):
        text = found[2]
    return text.split(",")[0].strip().strip("\"'")


def _font_size_of(properties: dict[str, str]) -> str | None:
    """The font size that an element declares, by itself or in the shorthand; None where it inherits its parent's.

    Raises:
        Unresolved: the shorthand has a size that is not understood.
    """
    if "font-size" in properties:
        return properties["font-size"]
    shorthand = properties.get("font", "inherit")
    if found := _FONT.search(shorthand):
        return found[1]
    if shorthand.strip().lower() != "inherit":
        raise Unresolved(f"the size in font: {shorthand[:40]} is not understood")
    return None


def _view_of(element: ET.Element, outer: Rect) -> Rect:
    """The reference box that an element gives to those inside of it: the size of its viewBox, at the origin."""
    if _local(element) not in {"svg", "symbol"}:
        return outer
    box = [float(found) for found in _NUMBER.findall(element.get("viewBox", ""))]
    if len(box) == 4:
        return Rect(0, 0, box[2], box[3])
    sides = [element.get(key, "") for key in ("width", "height")]
    found = [float(text.removesuffix("px")) if _NUMBER.fullmatch(text.removesuffix("px")) else None for text in sides]
    return _with_sides(outer, *found)


def _with_sides(outer: Rect, width: float | None, height: float | None) -> Rect:
    return Rect(0, 0, outer.width if width is None else width, outer.height if height is None else height)


def _extent(root: ET.Element) -> tuple[int, int, int]:
    """How many elements there are, how deep they are nested, and how many children one has at the most."""
    count, depth, most = 0, 0, 1
    level = [root]
    while level:
        count, depth = count + len(level), depth + 1
        most = max(most, *(len(element) for element in level))
        level = [child for element in level for child in element]
    return count, depth, most


def _local(element: Any) -> str:
    tag = element.tag
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""
