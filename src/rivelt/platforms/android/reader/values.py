"""What the values of attributes come to on one device: references, theme attributes, colours and lengths.

Rules: frameworks/base, android.content.res (ColorStateList) and android.util.TypedValue.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from msgspec import Struct, field

from rivelt.colour import Colour
from rivelt.edit.xml import Node
from rivelt.errors import BadInput
from rivelt.patterns import regex
from rivelt.platforms.android.facts import BASE_DPI
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.platform import platform_colour
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Entry, Resources, android_colour, split_reference
from rivelt.project.project import Project

_ENDLESS = 1e6  # dp: no screen is larger
_LONGEST = 20  # references, one leading to the next
_THEME_ATTRIBUTE = regex(r"\?(?:[\w.]+:)?(?:attr/)?(?:[\w.]+:)?(\w+)")
_DIMENSION = regex(r"\s*(-?[\d.]+)\s*(dp|dip|px|sp|pt|in|mm)\s*")
_FRACTION = regex(r"\s*(-?[\d.]+)\s*%(p?)\s*")
_UNITS = {"dp": 1.0, "dip": 1.0, "sp": 1.0, "pt": BASE_DPI / 72, "in": float(BASE_DPI), "mm": BASE_DPI / 25.4}
"""dp to a unit, on a screen as dense as it says and letters of the usual size."""


class Values(Struct, frozen=True):
    """The values of an app on one device. `theme`: the items that `?` references lead to, each with its file."""

    project: Project
    resources: Resources
    device: Device
    theme: Mapping[str, tuple[str, str]] = field(default_factory=dict)

    @property
    def pixel(self) -> float:
        """The size of a pixel of the device in dp."""
        return BASE_DPI / self.device.density

    def resolved(self, value: str) -> str:
        """Return a value with its theme attributes (`?attr/colorPrimary`, `?android:colorBackground`) looked up as far as they are set."""
        for _ in range(_LONGEST):
            found = _THEME_ATTRIBUTE.fullmatch(value.strip())
            prefix = "android:" if "android:" in value else ""
            item = self.theme.get(f"{prefix}{found[1]}") if found else None
            if item is None:
                return value
            value = item[0]
        return value

    def entry(self, value: str) -> Entry | None:
        """Return the file that a reference leads to, aliases followed; None for a value that is not a file, or is not in the project."""
        entry = self._definition(value)
        return entry if entry is not None and entry.node is None else None

    def _definition(self, value: str) -> Entry | None:
        """What a reference leads to in the end: a file, or the element of a values file that holds no reference."""
        found: Entry | None = None
        for _ in range(_LONGEST):
            reference = split_reference(self.resolved(value))
            if reference is None:
                return found
            found = self.resources.best(*reference, self.device)
            if found is None or found.node is None:
                return found
            value = found.node.text.strip()
        return None

    def colour(self, value: str, depth: int = 0) -> tuple[Colour, str] | None:
        """Return a colour value, reference or theme attribute as a colour and the file it comes from; None when it is unknown."""
        source = ""
        if depth > _LONGEST:
            return None
        for _ in range(_LONGEST):
            value = self.resolved(value).strip()
            if value.startswith("#"):
                try:
                    return android_colour(value), source
                except ValueError:
                    return None
            reference = split_reference(value)
            if reference is None:
                return None
            if reference[0] == "android:color":
                known = platform_colour(reference[1], self.device.version)
                return (android_colour(known), source or value) if known else None
            entry = self.resources.best(*reference, self.device) if reference[0] in {"color", "drawable"} else None
            if entry is None:
                return None
            source = entry.path
            if entry.node is None:
                return self._of_states(entry, depth)
            value = entry.node.text
        return None

    def _of_states(self, entry: Entry, depth: int) -> tuple[Colour, str] | None:
        """The colour of a colour state list in a window that nobody touches."""
        root = self.root(entry)
        if (
            root is None
            or root.local != "selector"
            or not entry.path.rpartition("/")[0].rpartition("/")[2].startswith("color")
        ):
            return None
        item = at_rest(root)
        alpha = self.number(attribute(item, "alpha"), 1.0) if item is not None else None
        colour = self.colour(attribute(item, "color") or "", depth + 1) if item is not None else None
        if colour is None or alpha is None or attribute(item, "lStar") is not None:
            return None
        shown = max(0, min(255, math.floor(colour[0].alpha * alpha + 0.5)))
        return Colour(colour[0].red, colour[0].green, colour[0].blue, shown), entry.path

    def root(self, entry: Entry) -> Node | None:
        """Return the root of an XML file; None for any other file."""
        if not entry.path.endswith(".xml"):
            return None
        try:
            return self.project.xml(entry.path).root
        except BadInput:
            return None

    def text(self, value: str, kinds: set[str]) -> str:
        """Return a value with references to simple values of some kinds ("dimen", "string") followed."""
        for _ in range(_LONGEST):
            value = self.resolved(value).strip()
            reference = split_reference(value)
            if reference is None or reference[0] not in kinds:
                return value
            entry = self.resources.best(*reference, self.device)
            if entry is None or entry.node is None:
                return value
            value = entry.node.text
        return value

    def number(self, value: str | None, default: float) -> float | None:
        """Return a plain number; `default` when it is left out, None when it is unknown."""
        if value is None:
            return default
        text = self.text(value, {"dimen", "integer", "item", "fraction"})
        try:
            number = float(text)
        except ValueError:
            return None
        return number if abs(number) < _ENDLESS else None

    def flag(self, value: str | None, *, default: bool) -> bool | None:
        """Return a boolean; `default` when it is left out, None when it is unknown."""
        text = self.text(value, {"bool"}) if value is not None else str(default).lower()
        return {"true": True, "false": False}.get(text)

    def share(self, value: str | None) -> tuple[float, bool] | None:
        """Return a fraction ("50%", "50%p") as a number and whether it is one of the parent; None for anything else."""
        found = _FRACTION.fullmatch(self.text(value, {"dimen", "fraction"})) if value is not None else None
        try:
            return (float(found[1]) / 100, bool(found[2])) if found else None
        except ValueError:
            return None

    def exact(self, value: str | None) -> float | None:
        """Return a dimension in dp, not rounded: 0 when it is left out, None when it is unknown."""
        if value is None:
            return 0.0
        found = _DIMENSION.fullmatch(self.text(value, {"dimen"}))
        try:
            length = float(found[1]) * (self.pixel if found[2] == "px" else _UNITS[found[2]]) if found else None
        except ValueError:
            return None
        return length if length is not None and abs(length) < _ENDLESS else None

    def length(self, value: str | None) -> float | None:
        """Return an inset or a padding in dp, cut to whole pixels (`getDimensionPixelOffset`)."""
        length = self.exact(value)
        return None if length is None else math.trunc(_tidy(length / self.pixel)) * self.pixel

    def side(self, value: str | None) -> float | None:
        """Return a width or height in dp, rounded to whole pixels and never to nothing (`getDimensionPixelSize`)."""
        length = self.exact(value)
        if length is None or length == 0:
            return length
        pixels = math.floor(_tidy(abs(length) / self.pixel) + 0.5) or 1
        return math.copysign(pixels, length) * self.pixel

    def trimmed(self, length: float) -> float:
        """Return a length in dp cut to whole pixels, as a division of whole numbers does."""
        return math.trunc(_tidy(length / self.pixel)) * self.pixel


def _tidy(pixels: float) -> float:
    """A number of pixels without the errors of counting in dp."""
    return round(pixels, 6)


def at_rest(root: Node) -> Node | None:
    """Return the item of a selector that shows in an enabled window without focus that nobody touches: the first whose states hold."""
    return next((item for item in root.all("item") if all(_holds(name, value) for name, value in _states(item))), None)


def _states(item: Node) -> list[tuple[str, str]]:
    names = ((name.rpartition("}")[2], value) for name, value in item.attributes.items())
    return [(name, value) for name, value in names if name.startswith("state_")]


def _holds(name: str, value: str) -> bool:
    return (value == "true") == (name == "state_enabled")
