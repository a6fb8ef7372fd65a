"""Names that every platform and file system takes: what a person asks for, made safe the same way everywhere."""

from __future__ import annotations

import re
import unicodedata

from msgspec import Struct

from rivelt.edit.source.keywords import JAVA_KEYWORDS
from rivelt.patterns import regex

_DEVICES = frozenset({"con", "prn", "aux", "nul", *(f"{name}{n}" for name in ("com", "lpt") for n in range(1, 10))})
_SPELLED = str.maketrans(
    {"ß": "ss", "æ": "ae", "Æ": "Ae", "ø": "o", "Ø": "O", "œ": "oe", "Œ": "Oe", "đ": "d", "ł": "l", "Ł": "L"}
)


class NameRule(Struct, frozen=True):
    """What names a platform takes. `refused`: a pattern of what it does not; each run of it becomes `joint`.

    `start`: what stands before a name that does not begin with a letter. `who`: who refuses, for messages.
    """

    who: str
    refused: re.Pattern[str]
    joint: str
    start: str
    is_lower: bool = False
    is_capital: bool = False
    reserved: frozenset[str] = frozenset()


RESOURCE = NameRule("Android", regex(r"[^a-z0-9_]+"), "_", "r", is_lower=True, reserved=JAVA_KEYWORDS)
"""Android's resource names: `[a-z][a-z0-9_]*`, no Java keyword."""

ASSET = NameRule("Xcode", regex(r"[^A-Za-z0-9]+"), "", "R", is_capital=True)
"""Names of assets and storyboards that are Swift names too: letters and digits, a capital letter first."""

FILE = NameRule("Windows or the web", regex(r"[^A-Za-z0-9_-]+"), "-", "f", reserved=_DEVICES)
"""Names of files that every file system, URL and shell takes as they are."""


def safe_name(wanted: str, rule: NameRule) -> str:
    """Return the nearest name to `wanted` that the rule allows: accents go, what is refused is joined up. The same name always gives the same."""
    plain = unicodedata.normalize("NFKD", wanted.translate(_SPELLED))
    plain = "".join(letter for letter in plain if not unicodedata.combining(letter))
    plain = plain.lower() if rule.is_lower else plain
    # What a prefix ends with keeps it apart from what follows.
    last = rule.refused.sub(rule.joint, plain[-1:])
    trailing = last if last and not last.isalnum() else ""
    name = rule.refused.sub(rule.joint, plain).strip("-_ ") + trailing
    if not name or not name[0].isalpha():
        name = rule.start + name
    if rule.is_capital:
        name = name[0].upper() + name[1:]
    return f"{name}_" if name.lower() in rule.reserved else name


def renamed(wanted: str, rule: NameRule, key: str) -> str | None:
    """Return a sentence that says how a name was changed and for whom; None when it stays as it is."""
    name = safe_name(wanted, rule)
    return None if name == wanted else f"`{key}`: {wanted!r} is written as {name!r}, because {rule.who} would refuse it"


_UNSAFE = regex(r'[<>:"|?*\\\x00-\x1f\x7f-\x9f\u200b-\u200f\u202a-\u202e\u2066-\u2069\ufeff\ud800-\udfff]+')
_LONGEST_NAME = 60  # letters: at most 240 of the 255 bytes that file systems have room for


def safe_path(wanted: str) -> str:
    """Return the nearest POSIX path to `wanted` whose every name all file systems take: what one of them refuses, or takes for another, goes.

    Letters of all scripts stay; `.` and `..` are left to who knows where the path begins.
    """
    return "/".join(part if part in {".", ".."} else _safe_part(part) for part in wanted.split("/") if part)


def _safe_part(part: str) -> str:
    plain = _UNSAFE.sub("-", unicodedata.normalize("NFC", part)).strip(" ").rstrip(". ")
    stem, dot, ending = plain.partition(".")
    stem = f"{stem}_" if stem.strip().lower() in _DEVICES else stem
    if len(plain) > _LONGEST_NAME:
        stem, _, ending = plain.rpartition(".") if len(plain.rpartition(".")[2]) <= 8 else (plain, "", "")
        dot = "." if ending else ""
        stem = stem[: _LONGEST_NAME - len(dot + ending)].rstrip(". ")
    return f"{stem}{dot}{ending}" or "_"
