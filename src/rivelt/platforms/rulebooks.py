"""All rules: those of the platforms, and those that no platform owns."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cache
from typing import Any

from rivelt.brief.model import Brief, CheckTable
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.platforms import TARGETS, platform
from rivelt.rules.books import ART, DRIFT, LAUNCHES, SITES
from rivelt.rules.report import chosen_codes
from rivelt.rules.rulebook import Rule, Rulebook
from rivelt.rules.runner import Choice

_CODE = regex(r"([A-Za-z]{2,4})[ _-]?0*(\d{1,2})")


def rulebooks() -> tuple[Rulebook[Any], ...]:
    """Return the rules by what they are about."""
    return (*(platform(target).rules for target in TARGETS), SITES, ART, DRIFT, LAUNCHES)


@cache
def catalogue() -> Mapping[str, Rule[Any]]:
    """Return every rule by its code, sorted."""
    found = {code: rule for book in rulebooks() for code, rule in book.rules.items()}
    return dict(sorted(found.items()))


def explain(code: str) -> Rule[Any]:
    """Return one rule, with its words.

    Raises:
        BadInput: there is no such rule.
    """
    known = catalogue()
    if code.upper() in known:
        return known[code.upper()]
    raise _no_rule(code)


def _no_rule(word: str, place: Place | None = None) -> BadInput:
    near = nearest_code(word, catalogue())
    hint = f"Did you mean {near}?" if near else "`rivelt explain` lists them."
    return BadInput(f"there is no rule {word}", place=place, hint=hint)


def nearest_code(word: str, known: Iterable[str]) -> str | None:
    """Return the code that a word probably means: "and8" is AND08; else the one that it is most like."""
    codes = list(known)
    if (found := _CODE.fullmatch(word)) and (exact := f"{found[1].upper()}{int(found[2]):02d}") in codes:
        return exact
    return next(iter(difflib.get_close_matches(word.upper(), codes, n=1)), None)


def brief_problems(brief: Brief) -> Iterator[RiveltError]:
    """Yield an error for each rule that a brief leaves out or weighs, and that does not exist."""
    table = brief.check
    for key, words in (("ignore", table.ignore), ("severity", table.severity)):
        for word in words:
            if not any(code.startswith(word.upper()) for code in catalogue()):
                yield _no_rule(word, brief.places.get(f"check.{key}.{word}") or brief.place(f"check.{key}"))


def choose(table: CheckTable | None, select: Sequence[str] = (), ignore: Sequence[str] = ()) -> Choice:
    """Return the rules that are wanted: those that a brief leaves on, narrowed by some words.

    Args:
        table: the brief's table [check], if there is a brief.
        select: codes of rules, or what they begin with; all when empty.
        ignore: those that are left out.

    Raises:
        BadInput: a word fits no rule.
    """
    ignored = table.ignore if table is not None else {}
    severities = table.severity if table is not None else {}
    try:
        chosen_codes(catalogue(), tuple(severities), ())
        return Choice(chosen_codes(catalogue(), select, (*ignore, *ignored)), severities)
    except ValueError as error:
        raise _no_rule(str(error)) from error
