"""Which declaration counts for each property of an element (CSS Cascade 4), with custom properties put in (CSS Variables 1)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from typing import Any

import tinycss2

from rivelt.art.styled.refusal import Unresolved
from rivelt.art.styled.sheets import Declaration, Sheets, declarations
from rivelt.art.styled.values import is_valid

_LONGEST = 20_000
_ATTRIBUTES, _SHEETS, _STYLE = range(3)
_BRACKETS = {"() block": ("(", ")"), "[] block": ("[", "]"), "{} block": ("{", "}")}
_SAME = {"background": "background-color"}
_FROM_PARENT = frozenset({"unset", "revert", "revert-layer"})

Custom = Mapping[str, tuple[Any, ...]]
"""Custom properties, by their names, as tokens."""


class _Invalid(Exception):
    """A value turns out to be invalid once its custom properties are put in: the property is as if it were unset."""


def cascaded(wrapped: Any, presentation: Mapping[str, str], sheets: Sheets) -> dict[str, tuple[Any, ...]]:
    """Return the tokens of the declaration that counts, by property; `presentation`: the attributes that stand for properties."""
    ranked: list[tuple[tuple[Any, ...], Declaration]] = []
    for name, value in presentation.items():
        tokens = tuple(tinycss2.parse_component_value_list(value))
        ranked.append(((False, _ATTRIBUTES, (0, 0, 0), 0, 0), Declaration(name, tokens, is_important=False)))
    for specificity, order, _pseudo, found in sheets.matcher.match(wrapped):
        for index, one in enumerate(found):
            ranked.append(((one.is_important, _SHEETS, specificity, order, index), one))
    for index, one in enumerate(declarations(wrapped.etree_element.get("style") or "")):
        ranked.append(((one.is_important, _STYLE, (0, 0, 0), 0, index), one))
    ranked.sort(key=lambda pair: pair[0])
    # Of a shorthand and the property that it sets, the later one counts.
    return {_SAME.get(one.name, one.name): one.tokens for _, one in ranked if is_valid(one.name, one.tokens)}


class Variables:
    """Puts custom properties in; `most`: how many references it follows at the most in the whole drawing."""

    def __init__(self, most: int = 20_000) -> None:
        self._left = most

    def inherited_by(self, own: Mapping[str, tuple[Any, ...]], parents: Custom) -> Custom:
        """Return the custom properties of an element, from its declarations and those of its parent; what refers to itself has no value."""
        given = {name: tokens for name, tokens in own.items() if name.startswith("--")}
        result = dict(parents)
        for name, tokens in given.items():
            try:
                text = self._text(tokens, {**parents, **given}, (name,), given)
            except _Invalid:
                result.pop(name, None)
                continue
            word = text.strip().lower()
            if word == "initial":
                result.pop(name, None)
            elif word not in _FROM_PARENT | {"inherit"}:
                result[name] = tuple(tinycss2.parse_component_value_list(text))
        return result

    def computed(self, own: Mapping[str, tuple[Any, ...]], custom: Custom) -> dict[str, str]:
        """Return the properties of an element as text, custom properties put in; one that is unset is not there."""
        result = {}
        for name, tokens in own.items():
            if name.startswith("--"):
                continue
            with suppress(_Invalid):
                text = self._text(tokens, custom, (), {}).strip()
                if text and text.lower() not in _FROM_PARENT:
                    result[name] = text
        return result

    def _text(self, tokens: Sequence[Any], custom: Custom, open_ones: tuple[str, ...], given: Custom) -> str:
        """Tokens as text, with every `var()` in place of its value; `given`: custom properties that may themselves hold some."""
        parts: list[str] = []
        for token in tokens:
            if token.type == "function" and token.lower_name == "var":
                parts.append(self._value(token, custom, open_ones, given))
            elif token.type == "function":
                parts.append(f"{token.name}({self._text(token.arguments, custom, open_ones, given)})")
            elif token.type in _BRACKETS:
                left, right = _BRACKETS[token.type]
                parts.append(left + self._text(token.content, custom, open_ones, given) + right)
            else:
                parts.append(token.serialize())
        if sum(map(len, parts)) > _LONGEST:
            raise Unresolved("its custom properties grow beyond all measure")
        return "".join(parts)

    def _value(self, token: Any, custom: Custom, open_ones: tuple[str, ...], given: Custom) -> str:
        self._left -= 1
        if self._left < 0:
            raise Unresolved("its custom properties refer to each other too often")
        arguments = token.arguments
        names = [one for one in arguments if one.type not in {"whitespace", "comment"}]
        if not names or names[0].type != "ident" or not names[0].value.startswith("--"):
            raise _Invalid
        name = names[0].value
        comma = next((index for index, one in enumerate(arguments) if one == ","), None)
        if name in open_ones:
            raise _Invalid
        if name in custom:
            try:
                inner = (*open_ones, name) if name in given else open_ones
                return self._text(custom[name], custom, inner, given) if name in given else _plain(custom[name])
            except _Invalid:
                if comma is None:
                    raise
        if comma is None:
            raise _Invalid
        return self._text(arguments[comma + 1 :], custom, open_ones, given)


def _plain(tokens: Sequence[Any]) -> str:
    return str(tinycss2.serialize(tokens))
