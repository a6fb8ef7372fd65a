"""Which of the sites that a survey found a brief means."""

from __future__ import annotations

from collections.abc import Sequence
from fnmatch import fnmatchcase
from typing import TypeVar

from rivelt.brief.model import Brief
from rivelt.errors import BadInput, RiveltError, raise_all
from rivelt.scene.site import Site

S = TypeVar("S", bound=Site)
_MOST_NAMES = 8


def chosen(sites: Sequence[S], brief: Brief, target: str, *, noun: str, takes_all: bool) -> list[S | Site]:
    """Return the sites of a target that a brief means.

    Args:
        sites: all that are there.
        brief: the brief, which names some or none.
        target: the target.
        noun: what such a site is called: "app module".
        takes_all: whether a brief that names none means all; otherwise there must be one, or a stand-in says that there are several.

    Raises:
        BadInput: the brief names one that is not there; `Problems` for several.
    """
    key, patterns = brief.options[target].chosen if target in brief.options else ("", ())
    if patterns:
        _refuse_missing(sites, brief, f"{target}.{key}", patterns, noun)
        return [site for site in sites if any(_fits(site, pattern) for pattern in patterns)]
    usual = [site for site in sites if not site.is_aside] or list(sites)
    left = [site for site in usual if not _is_of_an_edition(site, brief, target)]
    if takes_all or len(left) <= 1:
        return list(left)
    known = [site for site in left if site.names]
    if len(known) <= 1:
        return list(left)
    return [_several(known, target, key, noun), *(site for site in left if not site.names)]


def listed(names: Sequence[str]) -> str:
    """Return names in one line: all of a few, the first of many and how many more there are."""
    shown = ", ".join(names[:_MOST_NAMES])
    return shown if len(names) <= _MOST_NAMES else f"{shown} and {len(names) - _MOST_NAMES} more"


def best_names(sites: Sequence[Site]) -> list[str]:
    """Return the shortest name of each site that no other one has."""
    taken = [name for site in sites for name in dict.fromkeys(site.names)]
    return [
        next((name for name in site.names if taken.count(name) == 1), site.names[-1]) for site in sites if site.names
    ]


def _fits(site: Site, pattern: str) -> bool:
    return any(name == pattern or fnmatchcase(name, pattern) for name in site.names)


def _is_of_an_edition(site: Site, brief: Brief, target: str) -> bool:
    """Whether an edition of the brief names the whole site."""
    for edition in brief.editions:
        key, patterns = edition.options[target].chosen
        is_whole = f"{target}.{key}" in edition.given and not edition.options[target].is_part_of_site
        if is_whole and any(_fits(site, pattern) for pattern in patterns):
            return True
    return False


def _refuse_missing(sites: Sequence[Site], brief: Brief, key: str, patterns: Sequence[str], noun: str) -> None:
    problems: list[RiveltError] = []
    for pattern in patterns:
        if not any(_fits(site, pattern) for site in sites):
            names = listed(best_names(sites))
            hint = f"There are: {names}." if names else f"No {noun} was found."
            problems.append(BadInput(f"there is no {noun} {pattern}", place=brief.place(key), hint=hint))
    raise_all(problems)


def _several(sites: Sequence[Site], target: str, key: str, noun: str) -> Site:
    """One stand-in for several sites among which nothing chooses."""
    names = best_names(sites)
    message = f"there are several {noun}s: {listed(names)}; the brief does not say which"
    hint = f'Choose under [{target}]: {key} = "{names[0]}", or a list of names and patterns.'
    return Site(target, f"{len(names)} {noun}s", blocked=BadInput(message, hint=hint), path=sites[0].path)
