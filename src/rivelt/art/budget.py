"""What an SVG would cost to draw, estimated from its elements alone: references are followed as drawing follows them, but nothing is drawn.

A kilobyte can ask for billions of elements, or for hours of blurring. What asks for far more than any logo is refused by numbers that are
the same on every machine; what asks for more than a plain logo is drawn once, small, in a process with a limit (`rivelt.art.trial`).
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

from msgspec import Struct, field

from rivelt.patterns import regex
from rivelt.picture import Attributes

_REFERENCE = regex(r"url\(\s*[\"']?\s*#([^\"')\s]+)")
_NUMBER = regex(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?", re.IGNORECASE)
_DASH = regex(r"stroke-dasharray\s*:\s*([^;}]*)", re.IGNORECASE)
_DRAWN = frozenset(
    {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan", "image", "use", "g"}
)
_PAINT = frozenset({"lineargradient", "radialgradient"})
_DEFINITIONS = frozenset({"defs", "symbol", "clippath", "mask", "pattern", "marker", "filter", *_PAINT})
_OWN_SURFACE = regex(r"(?:^|[;\s])(?:mask|clip-path|mix-blend-mode|isolation|opacity)\s*:")
_SURFACES = frozenset({"mask", "clip-path", "mix-blend-mode", "isolation", "opacity"})
_BLURS = frozenset({"fegaussianblur", "fedropshadow", "fediffuselighting", "fespecularlighting"})
_PARTS_OF_STEPS = ("fefunc", "femergenode", "fedistantlight", "fepointlight", "fespotlight")
_USUAL_DIAGONAL = 1000.0
_MOST = 1e12  # of anything: larger numbers say nothing more


class Cost(NamedTuple):
    """What drawing asks for.

    Elements, bytes of outlines, letters, surfaces in between, filter steps that each touch every pixel (a blur counts 1), and dashes.
    """

    elements: float = 0
    outline: float = 0
    letters: float = 0
    surfaces: float = 0
    filters: float = 0
    dashes: float = 0

    def plus(self, other: Cost, times: float = 1) -> Cost:
        """Return the sum; the other one counts some times."""
        if other == _NOTHING:
            return self
        return Cost(*[own + times * its if own < _MOST else _MOST for own, its in zip(self, other, strict=True)])


_NOTHING = Cost()
_ELEMENT = Cost(elements=1)

LIMITS = Cost(elements=100_000, outline=8_000_000, letters=5_000, surfaces=1_000, filters=16, dashes=200_000)
"""Beyond any logo: a drawing that asks for more of anything is refused."""

PLAIN = Cost(elements=2_000, outline=200_000, letters=500, surfaces=50, filters=0, dashes=1_000)
"""What is drawn at once on every machine."""

_WORDS = (
    "elements",
    "bytes of outlines",
    "letters of text",
    "masks and transparent groups",
    "filter steps",
    "dashes",
)


class _Element(Struct):
    tag: str
    own: Cost
    references: tuple[str, ...]
    repeated: tuple[tuple[str, float], ...] = ()
    children: list[int] = field(default_factory=list)


class Budget:
    """The elements of one drawing, as they are read."""

    def __init__(self) -> None:
        self._elements: list[_Element] = []
        self._open: list[int] = []
        self._by_id: dict[str, int] = {}
        self._styles: list[str] = []
        self._style_dash = ""
        self._diagonal = _USUAL_DIAGONAL
        self._has_picture = False

    @property
    def count(self) -> int:
        """How many elements there are so far."""
        return len(self._elements)

    def start(self, tag: str, attributes: Attributes) -> None:
        """Take an element; `tag` and the names of the attributes are without prefixes and in lower case."""
        values = dict(attributes)
        index = len(self._elements)
        if index == 0:
            self._diagonal = _diagonal(values)
        references = [found for value in values.values() if "#" in value for found in _REFERENCE.findall(value)]
        repeated: tuple[tuple[str, float], ...] = ()
        if references:
            markers = (values[key] for key in values if key.startswith("marker"))
            repeated = tuple((found, _vertices(values)) for value in markers for found in _REFERENCE.findall(value))
        href = values.get("href", "").strip()
        if href.startswith("#") and tag != "a":
            references.append(href[1:])
        self._has_picture |= tag in {"image", "feimage"}
        self._elements.append(_Element(tag, self._own(tag, values), tuple(references), repeated))
        if self._open:
            self._elements[self._open[-1]].children.append(index)
        if "id" in values:
            self._by_id.setdefault(values["id"], index)
        self._open.append(index)

    def _own(self, tag: str, values: Mapping[str, str]) -> Cost:
        """What an element asks for itself."""
        style = values.get("style", "")
        outline = len(values.get("d", "")) + len(values.get("points", ""))
        is_surface = not _SURFACES.isdisjoint(values) or bool(style and _OWN_SURFACE.search(style))
        dash = values.get("stroke-dasharray") or next(iter(_DASH.findall(style)), self._style_dash)
        weight = _filter_weight(tag, values) if tag.startswith("fe") else 0.0
        if not (outline or is_surface or dash or weight):
            return _ELEMENT if tag in _DRAWN else _NOTHING
        period = _period(dash)
        dashes = min(_MOST, self._diagonal * _vertices(values) / period) if period else 0.0
        return Cost(float(tag in _DRAWN), outline, 0, float(is_surface), weight, dashes)

    def end(self) -> None:
        """The last open element ends."""
        self._open.pop()

    def text(self, text: str) -> None:
        """Take text of the open element."""
        element = self._elements[self._open[-1]]
        if element.tag in _DRAWN and (letters := len(text.strip())):
            element.own = element.own.plus(Cost(letters=letters))

    def style_sheet(self, text: str) -> None:
        """Take a style sheet: what it refers to may be referred to by every element."""
        self._styles += _REFERENCE.findall(text)
        self._style_dash = min((self._style_dash, *_DASH.findall(text)), key=lambda dash: _period(dash) or _MOST)

    @cached_property
    def cost(self) -> Cost:
        """What drawing the whole asks for."""
        known: dict[int, Cost] = {}
        for index in self._in_order():
            known[index] = self._cost_of(index, known)
        return known.get(0, _NOTHING)

    def _in_order(self) -> Sequence[int]:
        """The elements, each after all that it needs; of a circle, which drawing refuses to follow, one link is left out."""
        done: list[int] = []
        seen: set[int] = set()
        stack: list[tuple[int, bool]] = [(0, False)] if self._elements else []
        while stack:
            index, is_left = stack.pop()
            if is_left:
                done.append(index)
            elif index not in seen:
                seen.add(index)
                stack.append((index, True))
                stack.extend((needed, False) for needed in self._needed(index))
        return done

    def _needed(self, index: int) -> list[int]:
        element = self._elements[index]
        named = (*element.references, *self._styles) if self._styles else element.references
        return (
            element.children + [self._by_id[name] for name in named if name in self._by_id]
            if named
            else element.children
        )

    def _cost_of(self, index: int, known: Mapping[int, Cost]) -> Cost:
        element = self._elements[index]
        total = element.own
        for child in element.children:
            # What stands in definitions is drawn where it is referred to, and only there.
            if self._elements[child].tag not in _DEFINITIONS or element.tag in _DEFINITIONS:
                total = total.plus(known.get(child, _NOTHING))
        styles = self._styles if element.tag in _DRAWN else ()
        for name, times in (*((name, 1.0) for name in (*element.references, *styles)), *element.repeated):
            target = self._by_id.get(name)
            if target is not None and self._elements[target].tag not in _PAINT:
                total = total.plus(known.get(target, _NOTHING), times)
        return total

    def excess(self) -> str | None:
        """Return in words what the drawing asks for beyond all limits; None when that is nothing."""
        for asked, limit, words in zip(self.cost, LIMITS, _WORDS, strict=True):
            if asked > limit:
                much = "more than a billion" if asked > 1e9 else f"{asked:,.0f}"
                return f"{much} {words}, more than the {limit:,.0f} that are drawn"
        return None

    @property
    def is_plain(self) -> bool:
        """Whether it is surely drawn at once."""
        return not self._has_picture and all(asked <= limit for asked, limit in zip(self.cost, PLAIN, strict=True))


def _diagonal(root: Mapping[str, str]) -> float:
    """The longest straight line in the drawing, in its own unit; a usual one where it does not say its size."""
    box = [float(found) for found in _NUMBER.findall(root.get("viewbox", ""))]
    sides = [float(found) for key in ("width", "height") for found in _NUMBER.findall(root.get(key, ""))[:1]]
    length = math.hypot(*box[2:]) if len(box) == 4 else math.hypot(*sides)
    return min(_MOST, length) if length > 0 else _USUAL_DIAGONAL


def _period(dash: str) -> float:
    """The length of a dash and its gap; 0 where nothing is dashed."""
    return min(_MOST, sum(abs(float(found)) for found in _NUMBER.findall(dash))) if dash else 0.0


def _vertices(values: Mapping[str, str]) -> float:
    """About how many corners an outline has; four, as rectangles and circles have, where it has no numbers."""
    outline = f"{values.get('d', '')} {values.get('points', '')}"
    return len(_NUMBER.findall(outline)) / 2 if outline != " " else 4.0


def _filter_weight(tag: str, values: Mapping[str, str]) -> float:
    """How much a filter step costs, as against a blur; measured with the renderer."""
    if tag.startswith(_PARTS_OF_STEPS):
        return 0.0
    text = " ".join(values.get(key, "") for key in ("order", "radius", "numoctaves"))
    largest = min(1e5, max((abs(float(found)) for found in _NUMBER.findall(text)), default=0.0))
    if tag == "feconvolvematrix":
        return max(1.0, largest**2 / 10)
    if tag in {"femorphology", "feturbulence"}:
        return 1.0 + largest / 4
    return 1.0 if tag in _BLURS else 0.2
