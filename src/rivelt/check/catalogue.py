"""The catalogue of rules: their words, read from the files in `catalogue/`."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files

import msgspec

from rivelt.findings import Severity
from rivelt.platforms import TARGETS

_FAMILIES = {
    "AND": ("platforms.android", ("android",)),
    "IOS": ("platforms.ios", ("ios",)),
    "WIN": ("platforms.windows", ("windows",)),
    "WEB": ("platforms.web", ("web",)),
    "UPL": ("platforms.uploads", ("uploads",)),
    "SIT": ("platforms", TARGETS),
    "ART": ("artwork", TARGETS),
    "SCN": ("scene", TARGETS),
    "HND": ("proof", TARGETS),
    "DRF": ("workspace", TARGETS),
}


class Rule(msgspec.Struct, frozen=True):
    """One rule. `owner`: the package that judges it. `means`, `sees`, `why`, `mend`: its explanation, a paragraph each."""

    code: str
    title: str
    severity: Severity
    targets: tuple[str, ...]
    owner: str
    means: str
    sees: str
    why: str
    mend: str


@cache
def catalogue() -> dict[str, Rule]:
    """Every rule by its code, sorted."""
    found: dict[str, Rule] = {}
    for file in files("rivelt.check").joinpath("catalogue").iterdir():
        if file.name.endswith(".toml"):
            for code, words in tomllib.loads(file.read_text(encoding="utf-8")).items():
                owner, targets = _FAMILIES[code[:3]]
                found[code] = msgspec.convert({"code": code, "owner": owner, "targets": targets, **words}, Rule)
    return dict(sorted(found.items()))
