"""All rules: those of the platforms, and those that no platform owns."""

from __future__ import annotations

import difflib
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

from rivelt.brief.model import CheckTable
from rivelt.errors import BadInput
from rivelt.platforms import TARGETS, platform
from rivelt.rules.books import ART, DRIFT, SITES
from rivelt.rules.report import chosen_codes
from rivelt.rules.rulebook import Rule, Rulebook
from rivelt.rules.runner import Choice


def rulebooks() -> tuple[Rulebook[Any], ...]:
    """Return the rules by what they are about."""
    return (*(platform(target).rules for target in TARGETS), SITES, ART, DRIFT)


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
    near = difflib.get_close_matches(code.upper(), list(known), n=1)
    hint = f"Did you mean {near[0]}?" if near else "`rivelt explain` lists them."
    raise BadInput(f"there is no rule {code}", hint=hint)


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
        raise BadInput(f"no rule is called {error}", hint="`rivelt explain` lists them.") from error
