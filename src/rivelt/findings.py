"""Findings: what a rule says about the art or a project, as data."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

from rivelt.errors import Place

Severity: TypeAlias = Literal["error", "warning", "note"]


@dataclass(frozen=True)
class Finding:
    """One result of a rule.

    `code` names the rule and never changes. `message` says what is wrong, `hint` how to mend it.
    """

    code: str
    severity: Severity
    message: str
    hint: str = ""
    place: Place | None = None
