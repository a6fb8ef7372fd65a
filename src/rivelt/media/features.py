"""The features of media queries, and their values on a device (W3C, "Media Queries Level 4" and "5", sections 4 to 12)."""

from __future__ import annotations

import math
import operator
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar, TypeAlias

import tinycss2
from msgspec import Struct, field

from rivelt.units import CSS_LENGTHS, Look, Size
from rivelt.values import Keyed

Token: TypeAlias = Any
"""A node of tinycss2, which has no types."""

_EM = 16.0  # px: the initial font size, which media queries count in
_LENGTHS: Mapping[str, float] = {**CSS_LENGTHS, "em": _EM, "rem": _EM}
_RESOLUTIONS: Mapping[str, float] = {"dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}


def _is_near(one: float, other: float) -> bool:
    return math.isclose(one, other, rel_tol=1e-6, abs_tol=1e-6)


_COMPARED: Mapping[str, Callable[[float, float], bool]] = {
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
    "=": _is_near,
}
_TURNED = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "=": "="}

# What a browser knows, and nobody knows of a device by its screen alone: a pointer, a preference, a setting.
_OPEN = {
    "hover": {"none", "hover"},
    "any-hover": {"none", "hover"},
    "pointer": {"none", "coarse", "fine"},
    "any-pointer": {"none", "coarse", "fine"},
    "prefers-reduced-motion": {"no-preference", "reduce"},
    "prefers-reduced-transparency": {"no-preference", "reduce"},
    "prefers-contrast": {"no-preference", "more", "less", "custom"},
    "forced-colors": {"none", "active"},
    "inverted-colors": {"none", "inverted"},
    "color-gamut": {"srgb", "p3", "rec2020"},
    "dynamic-range": {"standard", "high"},
    "update": {"none", "slow", "fast"},
    "scripting": {"none", "initial-only", "enabled"},
    "overflow-block": {"none", "scroll", "paged"},
    "overflow-inline": {"none", "scroll"},
}


class Either(Struct, frozen=True):
    """A feature that may have this value or not: the screen alone does not decide it."""

    name: str
    value: str


Answer: TypeAlias = bool | None
"""Whether a feature holds; None: CSS does not know it."""


class Feature(Struct, frozen=True):
    """What stands in one pair of brackets, such as `min-width: 400px`."""

    text: str


class Device(Keyed, frozen=True):
    """What is asked of a device: ranges by the names of their features, with their kinds of value; and words by theirs.

    `answers`: what it has answered so far, by the texts of the features.
    """

    ranges: Mapping[str, tuple[str, float]]
    words: Mapping[str, tuple[str, frozenset[str]]]
    answers: dict[str, Answer | Either] = field(default_factory=dict)
    not_in_key: ClassVar[frozenset[str]] = frozenset({"answers"})

    @classmethod
    def of(cls, view: Size, whole: Size, scale: float, look: Look, display: str = "standalone") -> Device:
        """Return what a page answers: of a size in CSS pixels, on a device of another, with `scale` pixels to one, in an installed app."""
        ranges = {
            "width": ("length", view.width),
            "height": ("length", view.height),
            "device-width": ("length", whole.width),
            "device-height": ("length", whole.height),
            "aspect-ratio": ("ratio", view.width / view.height),
            "device-aspect-ratio": ("ratio", whole.width / whole.height),
            "resolution": ("resolution", scale),
            "-webkit-device-pixel-ratio": ("number", scale),
            "color": ("integer", 8.0),
            "color-index": ("integer", 0.0),
            "monochrome": ("integer", 0.0),
        }
        orientation = "landscape" if view.width > view.height else "portrait"
        words = {
            "orientation": (orientation, frozenset({"portrait", "landscape"})),
            "prefers-color-scheme": (look, frozenset({"light", "dark"})),
            "display-mode": (
                display,
                frozenset(
                    {
                        "fullscreen",
                        "standalone",
                        "minimal-ui",
                        "browser",
                        "window-controls-overlay",
                        "picture-in-picture",
                    }
                ),
            ),
        }
        return cls(ranges, {name: (str(value), known) for name, (value, known) in words.items()})


def answer(feature: Feature, device: Device) -> Answer | Either:
    """Return what a device answers to a feature; worked out once for all that have the same text."""
    if feature.text not in device.answers:
        device.answers[feature.text] = _answer(without_spaces(tokens_of(feature.text)), device)
    return device.answers[feature.text]


def tokens_of(text: str) -> list[Token]:
    """Return the tokens of a text without its comments.

    Raises:
        ValueError: a number has thousands of digits.
    """
    return list(tinycss2.parse_component_value_list(text, skip_comments=True))


def without_spaces(tokens: Sequence[Token]) -> list[Token]:
    """Return the tokens that are not white space."""
    return [token for token in tokens if token.type != "whitespace"]


def _answer(tokens: Sequence[Token], device: Device) -> Answer | Either:
    if len(tokens) == 1 and tokens[0].type == "ident":
        return _alone(tokens[0].lower_value, device)
    if len(tokens) > 2 and tokens[0].type == "ident" and tokens[1] == ":":
        return _with_value(tokens[0].lower_value, tokens[2:], device)
    return _range(tokens, device)


def _alone(name: str, device: Device) -> Answer | Either:
    """A feature without a value: whether it has one that is not "none"."""
    if name in device.ranges:
        return device.ranges[name][1] != 0
    if name in device.words:
        return True
    if name in _OPEN:
        return Either(name, "")
    return False if name == "grid" else None


def _with_value(name: str, tokens: Sequence[Token], device: Device) -> Answer | Either:
    if name in device.words:
        value, known = device.words[name]
        word = _only_word(tokens)
        return word == value if word in known else None
    if name in _OPEN:
        word = _only_word(tokens)
        return Either(name, word) if word is not None and word in _OPEN[name] else None
    if name == "grid":
        value_ = _value_of("integer", tokens)
        return value_ == 0 if value_ in {0, 1} else None
    bound, plain = _bound(name)
    if plain not in device.ranges:
        return None
    kind, actual = device.ranges[plain]
    given = _value_of(kind, tokens)
    return None if given is None else _COMPARED[bound](actual, given)


def _bound(name: str) -> tuple[str, str]:
    """The comparison that a prefix stands for, and the feature: "min-width", "-webkit-min-device-pixel-ratio"."""
    vendor = "-webkit-" if name.startswith("-webkit-") else ""
    rest = name.removeprefix(vendor)
    for prefix, sign in (("min-", ">="), ("max-", "<=")):
        if rest.startswith(prefix):
            return sign, vendor + rest.removeprefix(prefix)
    return "=", name


def _only_word(tokens: Sequence[Token]) -> str | None:
    return tokens[0].lower_value if len(tokens) == 1 and tokens[0].type == "ident" else None


# Ranges: (400px <= width < 800px)


def _range(tokens: Sequence[Token], device: Device) -> Answer:
    parts, signs = _split(tokens)
    if not signs or len(signs) > 2 or any(not part for part in parts):
        return None
    names = [_only_word(part) for part in parts]
    if len(signs) == 2:
        is_chain = "=" not in signs and signs[0][0] == signs[1][0]
        first = _compared(names[1], _TURNED[signs[0]], parts[0], device) if is_chain else None
        second = _compared(names[1], signs[1], parts[2], device) if is_chain else None
        return None if first is None or second is None else first and second
    if names[0] in device.ranges:
        return _compared(names[0], signs[0], parts[1], device)
    return _compared(names[1], _TURNED[signs[0]], parts[0], device)


def _split(tokens: Sequence[Token]) -> tuple[list[list[Token]], list[str]]:
    parts: list[list[Token]] = [[]]
    signs: list[str] = []
    last: Token | None = None
    for token in tokens:
        if token.type == "literal" and token.value in {"<", ">", "=", "<=", ">="}:
            # The two signs of `<=` stand together, with no space between them.
            is_second = token.value == "=" and last is not None and _are_together(last, token)
            last = token if token.value != "=" else None
            if is_second:
                signs[-1] += "="
                continue
            signs.append(token.value)
            parts.append([])
        else:
            parts[-1].append(token)
    return parts, signs


def _are_together(one: Token, other: Token) -> bool:
    return bool(one.source_line == other.source_line and one.source_column + 1 == other.source_column)


def _compared(name: str | None, sign: str, tokens: Sequence[Token], device: Device) -> Answer:
    if name is None or name not in device.ranges:
        return None
    kind, actual = device.ranges[name]
    given = _value_of(kind, tokens)
    return None if given is None else _COMPARED[sign](actual, given)


# Values


def _value_of(kind: str, tokens: Sequence[Token]) -> float | None:
    """A value of a kind: "length" in px, "resolution" in dppx, "ratio", "number", "integer"; None for one of another kind."""
    if kind == "ratio" and len(tokens) == 3 and tokens[1] == "/":
        above, below = (_single("number", token) for token in (tokens[0], tokens[2]))
        if above is None or below is None or above < 0 or below < 0:
            return None
        return above / below if below else math.inf if above else math.nan
    if len(tokens) != 1:
        return None
    found = _single("number" if kind == "ratio" else kind, tokens[0])
    return None if found is not None and kind == "ratio" and found < 0 else found


def _single(kind: str, token: Token) -> float | None:
    if token.type == "function" and token.lower_name == "calc":
        found = _sum([one for one in token.arguments if one.type != "comment"])
        if found is None or found[1] != ("number" if kind == "integer" else kind):
            return None
        return float(round(found[0])) if kind == "integer" else found[0]
    measured = _measured(token)
    if measured is None:
        return None
    value, its = measured
    if kind == "integer":
        return value if its == "number" and token.is_integer else None
    if kind == "length" and its == "number":
        return 0.0 if value == 0 else None  # a length needs a unit, unless it is 0
    return value if its == kind else None


def _measured(token: Token) -> tuple[float, str] | None:
    """A number with its kind."""
    if token.type == "number":
        return float(token.value), "number"
    if token.type == "dimension":
        unit = token.lower_unit
        for kind, units in (("length", _LENGTHS), ("resolution", _RESOLUTIONS)):
            if unit in units:
                return token.value * units[unit], kind
    return None


def _sum(tokens: Sequence[Token]) -> tuple[float, str] | None:
    """The value of a calculation, with its kind; None for one that is not valid."""
    total: tuple[float, str] | None = None
    sign, part = 1.0, list[Token]()
    for index, token in enumerate([*tokens, None]):
        # A sign of a sum stands between spaces.
        is_sign = (
            token is not None and token.type == "literal" and token.value in {"+", "-"} and _has_spaces(tokens, index)
        )
        if token is not None and not is_sign:
            part.append(token)
            continue
        value = _product([one for one in part if one.type != "whitespace"])
        if value is None or (total is not None and total[1] != value[1]):
            return None
        total = (value[0] * sign + (total[0] if total else 0), value[1])
        sign, part = (-1.0 if token is not None and token.value == "-" else 1.0), []
    return total


def _has_spaces(tokens: Sequence[Token], index: int) -> bool:
    return 0 < index < len(tokens) - 1 and tokens[index - 1].type == tokens[index + 1].type == "whitespace"


def _product(tokens: Sequence[Token]) -> tuple[float, str] | None:
    if len(tokens) % 2 == 0 or any(token not in ("*", "/") for token in tokens[1::2]):
        return None
    value = _factor(tokens[0])
    for sign, token in zip(tokens[1::2], tokens[2::2], strict=True):
        other = _factor(token)
        if value is None or other is None or (sign == "/" and other[1] != "number"):
            return None
        if sign == "/":
            value = (value[0] / other[0] if other[0] else math.copysign(math.inf, value[0]), value[1])
        elif "number" in {value[1], other[1]}:
            value = (value[0] * other[0], other[1] if value[1] == "number" else value[1])
        else:
            return None
    return value


def _factor(token: Token) -> tuple[float, str] | None:
    if token.type == "() block":
        return _sum(token.content)
    if token.type == "function" and token.lower_name == "calc":
        return _sum(token.arguments)
    return _measured(token)
