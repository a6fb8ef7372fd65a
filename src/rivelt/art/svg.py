"""SVG files: their size, and the form in which they can be placed on a canvas of any size."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TypeAlias
from xml.parsers import expat

from rivelt.art import css
from rivelt.art.budget import LIMITS, Budget
from rivelt.art.styled.asks import element_asks, style_asks
from rivelt.art.unlike import reason
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex
from rivelt.picture import SVG_NAMESPACE, Attributes, SvgDocument
from rivelt.units import CSS_LENGTHS, Size
from rivelt.values import replace
from rivelt.xmltext import escaped, quoted

AttributeRewriter: TypeAlias = Callable[[str, Attributes], Attributes]
"""From a tag and its attributes, in order, to those that are to be written."""
TextRewriter: TypeAlias = Callable[[str], str]

_FLATTEN = "Expand its appearance into plain paths in the drawing program, or export it as a PNG file."
_ANIMATIONS = frozenset({"animate", "animateTransform", "animateMotion", "set"})
_XLINK = "http://www.w3.org/1999/xlink"
_MAX_DEPTH = 200
_LEAST_SIDE, _LARGEST_SIDE = 0.01, 1e6  # in CSS pixels: beyond them numbers lose their meaning
_DEFAULT_SIZE = Size(300, 150)  # CSS 2.2, section 10.3.2: a replaced element with no size of its own

# In CSS pixels; em and ex at the initial font size of 16 px.
_UNITS = {"": 1.0, **CSS_LENGTHS, "em": 16.0, "rem": 16.0, "ex": 8.0}
_LENGTH = regex(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*", re.IGNORECASE)


def rewritten(document: SvgDocument, attributes: AttributeRewriter, style: TextRewriter) -> SvgDocument:
    """Return a document with every element's attributes, and the text of every style sheet, put through functions."""
    found = read_svg(document.nested().encode(), "derived", attributes, style, is_resolved=True)
    return replace(found, fonts=document.fonts, is_animated=document.is_animated)


class _Refusal(Exception):
    """Raised inside a parser callback: the reason, and what to do."""


def read_svg(
    data: bytes,
    name: str,
    attributes: AttributeRewriter | None = None,
    style: TextRewriter | None = None,
    *,
    is_resolved: bool = False,
) -> SvgDocument:
    """Read and vet an SVG, and resolve the style that the renderer does not read, unless that is done (`is_resolved`).

    `attributes` and `style` may rewrite what they are given.

    Raises:
        BadInput: not well-formed, not SVG, of zero size, with entities, scripts or references to outside, or with something that would
            be drawn otherwise than browsers draw it.
    """
    scan = _Scan(name, attributes, style)
    try:
        scan.parser.Parse(data, True)
    except expat.ExpatError as error:
        at = Place(name, error.lineno, error.offset + 1)
        raise BadInput(
            f"not well-formed XML: {expat.ErrorString(error.code)}", place=at, hint="Export it again."
        ) from error
    except _Refusal as refusal:
        message, hint = refusal.args
        raise BadInput(message, place=scan.place, hint=hint) from None
    except (ValueError, LookupError) as error:
        raise BadInput(f"{name} has a text encoding that cannot be read", hint="Save it as UTF-8.") from error
    root_tag, root_attributes = scan.root
    if root_tag.rpartition(":")[2] != "svg":
        raise BadInput(f"{name} is XML, but its root element is <{root_tag}>, not <svg>", hint="Export it as SVG.")
    if excess := scan.budget.excess():
        hint = "Flatten its effects and repeated parts in the drawing program, or export it as a PNG file."
        raise BadInput(f"{name} takes too long to draw: it asks for {excess}", hint=hint)
    size = _natural_size(dict(root_attributes), name)
    is_animated = bool(scan.tags & _ANIMATIONS)
    document = SvgDocument(
        size, root_attributes, scan.content(), scan.tags, root_tag, scan.budget.is_plain, is_animated=is_animated
    )
    return _resolved(document, name) if scan.asks_for_style and not is_resolved else document


def _resolved(document: SvgDocument, name: str) -> SvgDocument:
    """The drawing with style that the renderer does not read put into attributes that it does."""
    from rivelt.art.styled.refusal import Unresolved
    from rivelt.art.styled.resolve import resolved

    try:
        found = resolved(document.whole(), document.size)
    except (RecursionError, ValueError, ArithmeticError) as error:
        message = f"{name} has style that is nested too deeply or holds an invalid number"
        raise BadInput(message, hint=_FLATTEN) from error
    except Unresolved as error:
        raise BadInput(f"{name} cannot be drawn as browsers draw it: {error}", hint=_FLATTEN) from error
    again = read_svg(found.text.encode(), name, is_resolved=True)
    moves = document.is_animated or found.is_animated
    return replace(again, size=document.size, fonts=found.fonts, is_animated=moves)


class _Scan:
    """One pass over the file: vets every element and writes the root's content again as plain UTF-8 text.

    Writing again (rather than slicing the bytes) leaves out the DOCTYPE, processing instructions and comments, and takes care of
    any encoding. Prefixes are kept as they stand: the root carries their declarations.
    """

    def __init__(self, name: str, attributes: AttributeRewriter | None, style: TextRewriter | None) -> None:
        self.name = name
        self._rewrite_attributes = attributes or (lambda _tag, given: given)
        self._rewrite_style = style or (lambda text: text)
        self._tags: set[str] = set()
        self.budget = Budget()
        self.asks_for_style = False
        self.place: Place | None = None
        self.root: tuple[str, Attributes] = ("", ())
        self._parts: list[str] = []
        self._open: list[str] = []
        self._style: list[str] = []
        parser = self.parser = expat.ParserCreate()
        parser.ordered_attributes = True
        parser.buffer_text = True
        parser.StartElementHandler = self._start
        parser.EndElementHandler = self._end
        parser.CharacterDataHandler = self._text
        parser.EntityDeclHandler = self._entity
        parser.SetParamEntityParsing(expat.XML_PARAM_ENTITY_PARSING_NEVER)

    def content(self) -> str:
        """Return what stands inside the root element."""
        return "".join(self._parts)

    @property
    def tags(self) -> frozenset[str]:
        """The elements, without prefixes."""
        return frozenset(self._tags)

    def _refuse(self, message: str, hint: str) -> None:
        self.place = Place(self.name, self.parser.CurrentLineNumber, self.parser.CurrentColumnNumber + 1)
        raise _Refusal(message, hint)

    def _entity(self, entity: str, *_: object) -> None:
        self._refuse(f"the SVG declares an entity ({entity})", "Export it again as plain SVG, without entities.")

    def _start(self, tag: str, flat: list[str]) -> None:
        attributes = tuple(zip(flat[::2], flat[1::2], strict=True))
        local = _local(tag)
        if len(self._open) >= _MAX_DEPTH:
            self._refuse(
                f"elements are nested more than {_MAX_DEPTH} deep", "Flatten the groups in the drawing program."
            )
        plain = tuple((_local(key), value) for key, value in attributes)
        if local == "script" or any(key.startswith("on") or _is_script(value) for key, value in plain):
            self._refuse("the SVG holds a script", "Export it again without scripts.")
        for key, value in plain:
            self._vet_reference(local, key, value)
        if unlike := reason(local, dict(plain)):
            self._refuse(f"it holds {unlike}, which is not drawn as browsers draw it", _FLATTEN)
        is_moved_root = not self._open and any(key == "transform" for key, _ in plain)
        self.asks_for_style = self.asks_for_style or is_moved_root or element_asks(local, plain)
        self.budget.start(local, plain)
        if self.budget.count > LIMITS.elements:
            self._refuse(
                f"it holds more than {LIMITS.elements:,.0f} elements", "Simplify it, or export it as a PNG file."
            )
        attributes = self._rewrite_attributes(tag, attributes)
        self._tags.add(tag.rpartition(":")[2])
        if not self._open:
            self.root = (tag, _with_namespace(tag, attributes))
        else:
            shown = "".join(f" {key}={quoted(value)}" for key, value in attributes)
            self._parts.append(f"<{tag}{shown}>")
        self._open.append(tag)

    def _vet_reference(self, local: str, key: str, value: str) -> None:
        hint = "Embed the picture, or export the drawing without links to other files."
        target = _squeezed(value)
        is_link = (key == "href" and local != "a") or key == "base"
        if is_link and target.startswith("data:image/svg"):
            self._refuse("a drawing is embedded in the drawing as a picture", "Place its parts in the drawing itself.")
        if is_link and target and not target.startswith(_INSIDE):
            self._refuse(f"<{local}> refers to something outside the file: {value.strip()[:60]}", hint)
        if key == "attributename" and target.endswith("href"):
            self._refuse("an animation changes what the drawing refers to", hint)
        if "(" in value or "\\" in value:
            self._vet_css(value, hint)

    def _vet_css(self, text: str, hint: str) -> None:
        for target in css.outside(text):
            if target == "@import":
                self._refuse("a style sheet is imported from outside the file", hint)
            self._refuse(f"url({target[:60]}) refers to something outside the file", hint)

    def _end(self, tag: str) -> None:
        if self._style:
            sheet = "".join(self._style)
            self._style.clear()
            self._vet_css(sheet, "Export the drawing without links to other files.")
            self.asks_for_style = self.asks_for_style or style_asks(sheet)
            self.budget.style_sheet(sheet)
            self._parts.append(escaped(self._rewrite_style(sheet)))
        self._open.pop()
        self.budget.end()
        if self._open:
            self._parts.append(f"</{tag}>")

    def _text(self, text: str) -> None:
        if not self._open:
            return
        if _local(self._open[-1]) == "style":
            self._style.append(text)
            return
        self.budget.text(text)
        self._parts.append(escaped(text))


_INSIDE = ("#", *(f"data:image/{kind}" for kind in ("png", "jpeg", "jpg", "webp", "gif")))
"""What a reference may begin with: a part of the file itself, or a picture of pixels in it."""


def _local(name: str) -> str:
    """A name without its prefix, in lower case: lenient readers care for neither."""
    return name.rpartition(":")[2].lower()


def _squeezed(value: str) -> str:
    """A reference as browsers read it: blanks and control characters do not count, nor does case."""
    return "".join(letter for letter in value if letter > " " and letter != "\x7f").lower()


def _is_script(value: str) -> bool:
    return ":" in value and _squeezed(value).startswith(("javascript:", "vbscript:", "data:text/html"))


def _with_namespace(tag: str, attributes: Attributes) -> Attributes:
    """The root's attributes, with the namespaces that lenient programs leave out declared."""
    names = {key for key, _ in attributes}
    added: list[tuple[str, str]] = []
    if "xmlns" not in names and ":" not in tag:
        added.append(("xmlns", SVG_NAMESPACE))
    if "xmlns:xlink" not in names:
        added.append(("xmlns:xlink", _XLINK))
    return (*added, *attributes)


def _natural_size(attributes: dict[str, str], name: str) -> Size:
    """The size in CSS pixels: width and height, completed by the viewBox's aspect ratio (CSS Images 3, section 4)."""
    width, height = css_length(attributes.get("width")), css_length(attributes.get("height"))
    box = [
        float(value) for value in re.findall(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?", attributes.get("viewBox", ""))
    ]
    if len(box) == 4:
        box_width, box_height = box[2:]
        if box_width <= 0 or box_height <= 0:
            raise BadInput(f"{name} has an empty viewBox", hint="Export it again; its page has no size.")
        if width is None and height is None:
            width, height = box_width, box_height
        width = height * box_width / box_height if width is None and height is not None else width
        height = width * box_height / box_width if height is None and width is not None else height
    size = Size(_DEFAULT_SIZE.width if width is None else width, _DEFAULT_SIZE.height if height is None else height)
    if size.width <= 0 or size.height <= 0:
        raise BadInput(f"{name} has zero size", hint="Give its root element a width and a height above 0.")
    if not all(_LEAST_SIDE <= side <= _LARGEST_SIDE for side in size):
        message = f"{name} has a size that no drawing has: {size.width:g} x {size.height:g}"
        raise BadInput(message, hint="Give its root element a width and a height of some hundred pixels.")
    return size


def css_length(text: str | None) -> float | None:
    """Return a CSS length in pixels; None when absent, relative (%) or not understood."""
    found = _LENGTH.fullmatch(text or "")
    factor = _UNITS.get(found[2].lower()) if found else None
    return float(found[1]) * factor if found and factor else None
