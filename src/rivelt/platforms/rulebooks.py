"""All rules: those of the platforms, and those that no platform owns."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Any

from rivelt.platforms import TARGETS, platform
from rivelt.rules.books import ART, DRIFT, SITES
from rivelt.rules.rulebook import Rule, Rulebook


def rulebooks() -> tuple[Rulebook[Any], ...]:
    """Return the rules by what they are about."""
    return (*(platform(target).rules for target in TARGETS), SITES, ART, DRIFT)


@cache
def catalogue() -> Mapping[str, Rule[Any]]:
    """Return every rule by its code, sorted."""
    found = {code: rule for book in rulebooks() for code, rule in book.rules.items()}
    return dict(sorted(found.items()))
