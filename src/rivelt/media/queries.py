"""Media queries: their grammar and logic (W3C, "Media Queries Level 4", sections 2 and 3).

What a browser does not know is "unknown" in CSS, which in the end does not match. What a browser knows and Rivelt does not (a pointer, a
preference of the person) may be either: the answer is then None, unless it makes no difference.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from enum import Enum, auto
from typing import TypeAlias

import tinycss2
from msgspec import Struct

from rivelt.media.features import Answer, Device, Either, Feature, Token, answer, tokens_of, without_spaces
from rivelt.patterns import regex

_RESERVED = frozenset({"only", "not", "and", "or", "layer"})
_SHOWN = frozenset({"all", "screen"})
_MOST_EITHER = 6
_MAX_DEPTH = 30

# Most queries of a page say of some features that each has a value. A page has hundreds of them, which need not be taken apart into tokens.
_BRACKETS = regex(r"\(([a-z-]+: ?[0-9a-z-]{1,20})\)")
_PLAIN = regex(rf"(?:(all|screen) and )?{_BRACKETS.pattern}(?: and {_BRACKETS.pattern})*")


class Logic(Enum):
    """How the parts of a condition go together."""

    ALL = auto()
    ANY = auto()
    NOT = auto()


class Condition(Struct, frozen=True):
    """Several parts, or the opposite of one."""

    logic: Logic
    parts: tuple[Condition | Feature, ...]


class Query(Struct, frozen=True):
    """One query of a list: a media type (None: any), what else must hold, and whether all of it is turned round."""

    kind: str | None
    condition: Condition | Feature | None
    is_not: bool = False


Queries: TypeAlias = tuple[Query | None, ...]
"""A list of media queries, parsed; None for each that does not follow the grammar."""


class _Malformed(Exception):
    """A query does not follow the grammar: it never matches."""


def fits(queries: str | Queries, device: Device) -> bool | None:
    """Return whether a device fits a list of media queries; None where that depends on what is not known of it."""
    verdicts = [_decided(one, device) for one in (parsed(queries) if isinstance(queries, str) else queries)]
    if True in verdicts:
        return True
    return None if None in verdicts else False


def parsed(query: str) -> Queries:
    """Return the queries of a list; None for each that does not follow the grammar."""
    if plain := _PLAIN.fullmatch(query):
        kind, features = plain[1], [Feature(text) for text in _BRACKETS.findall(query)]
        return (Query(kind, features[0] if len(features) == 1 else Condition(Logic.ALL, tuple(features))),)
    try:
        tokens = tokens_of(query)
    except ValueError:  # a number of thousands of digits
        return (None,)
    lists: list[list[Token]] = [[]]
    for token in tokens:
        if token == ",":
            lists.append([])
        else:
            lists[-1].append(token)
    if len(lists) == 1 and not without_spaces(lists[0]):
        return (Query(None, None),)  # an empty list matches
    return tuple(_query(without_spaces(one)) for one in lists)


def _query(tokens: list[Token]) -> Query | None:
    try:
        return _read_query(tokens)
    except _Malformed:
        return None


def _read_query(tokens: list[Token]) -> Query:
    words = [_word(token) for token in tokens[:2]]
    is_not = words[:1] == ["not"] and len(words) > 1 and words[1] is not None
    if words[:1] == ["only"] or is_not:
        kind, rest = words[1] if len(words) > 1 else None, tokens[2:]
        if kind is None:
            raise _Malformed
    elif words and words[0] is not None and words[0] != "not":
        kind, rest = words[0], tokens[1:]
    else:
        return Query(None, _condition(tokens, 0, with_or=True))
    if kind in _RESERVED:
        raise _Malformed
    if not rest:
        return Query(kind, None, is_not)
    if _word(rest[0]) != "and":
        raise _Malformed
    return Query(kind, _condition(rest[1:], 0, with_or=False), is_not)


def _word(token: Token) -> str | None:
    return str(token.lower_value) if token.type == "ident" else None


def _condition(tokens: list[Token], depth: int, *, with_or: bool) -> Condition | Feature:
    """A condition: `not x`, or parts in brackets that are joined by `and`, or by `or`."""
    if depth > _MAX_DEPTH or not tokens:
        raise _Malformed
    if _word(tokens[0]) == "not":
        if len(tokens) != 2:
            raise _Malformed
        return Condition(Logic.NOT, (_in_brackets(tokens[1], depth),))
    parts = [_in_brackets(tokens[0], depth)]
    joints = {_word(token) for token in tokens[1::2]}
    if not joints:
        return parts[0]
    if joints not in ({"and"}, {"or"}) or len(tokens) % 2 == 0 or (joints == {"or"} and not with_or):
        raise _Malformed
    parts += [_in_brackets(token, depth) for token in tokens[2::2]]
    return Condition(Logic.ALL if joints == {"and"} else Logic.ANY, tuple(parts))


def _in_brackets(token: Token, depth: int) -> Condition | Feature:
    """What stands in brackets: a condition, a feature, or something that CSS does not know (yet)."""
    if token.type == "function":
        return Feature(token.serialize())
    if token.type != "() block":
        raise _Malformed
    inside = without_spaces(token.content)
    if inside and (inside[0].type == "() block" or _word(inside[0]) == "not"):
        try:
            return _condition(inside, depth + 1, with_or=True)
        except _Malformed:
            pass  # brackets with anything else in them are unknown, and not malformed
    return Feature(tinycss2.serialize(token.content))


# Deciding


def _decided(query: Query | None, device: Device) -> bool | None:
    """Whether a query matches; None where it depends on what is not known of the device."""
    if query is None or _fails_at_once(query, device):
        return False
    open_ones: dict[Either, None] = {}
    for feature in _features(query.condition):
        found = answer(feature, device)
        if isinstance(found, Either):
            open_ones[found] = None
    if len(open_ones) > _MOST_EITHER:
        return None
    results = {
        _holds(query, device, dict(zip(open_ones, chosen, strict=True)))
        for chosen in itertools.product((False, True), repeat=len(open_ones))
    }
    return results.pop() if len(results) == 1 else None


def _fails_at_once(query: Query, device: Device) -> bool:
    """Whether one of several features that must all hold does not: most queries of a page are for another screen."""
    whole = query.condition
    if query.is_not or not isinstance(whole, Condition) or whole.logic is not Logic.ALL:
        return False
    return any(isinstance(part, Feature) and answer(part, device) is False for part in whole.parts)


def _features(part: Condition | Feature | None) -> list[Feature]:
    if part is None:
        return []
    return [part] if isinstance(part, Feature) else [one for inner in part.parts for one in _features(inner)]


def _holds(query: Query, device: Device, chosen: dict[Either, bool]) -> bool:
    is_kind = query.kind is None or query.kind in _SHOWN
    verdict: Answer = True if query.condition is None else _value(query.condition, device, chosen)
    whole = _all([is_kind, verdict])
    if query.is_not:
        whole = None if whole is None else not whole
    return whole is True


def _value(part: Condition | Feature, device: Device, chosen: dict[Either, bool]) -> bool | None:
    """A part's value; None: CSS does not know it."""
    if isinstance(part, Feature):
        found = answer(part, device)
        return chosen[found] if isinstance(found, Either) else found
    values = [_value(one, device, chosen) for one in part.parts]
    if part.logic is Logic.NOT:
        return None if values[0] is None else not values[0]
    if part.logic is Logic.ALL:
        return _all(values)
    return True if True in values else None if None in values else False


def _all(values: Sequence[Answer]) -> bool | None:
    return False if False in values else None if None in values else True
