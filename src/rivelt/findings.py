"""Findings: the results of rules, as data."""

from __future__ import annotations

from typing import Any, Literal, TypeAlias

from msgspec import Struct

from rivelt.errors import Place

Severity: TypeAlias = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")
"""Sorted by severity, most severe first."""

Verdict: TypeAlias = Literal["holds", "broken", "unknown"]


class Finding(Struct, frozen=True):
    """One result of a rule.

    `code` names the rule and never changes. `verdict`: whether the rule holds, is broken, or cannot be judged ("unknown", with the
    reason as `message`; it never counts as fine). `message` says what is wrong, `fix` how to fix it. `path`, `line` and `column`
    (1-based) say where. `site`: the site it is about ("android android/app"), "" for art and for the brief. `screen` and `look`: those
    that show it, "" where that does not matter.
    """

    code: str
    severity: Severity
    verdict: Verdict
    message: str = ""
    fix: str = ""
    path: str | None = None
    line: int | None = None
    column: int | None = None
    site: str = ""
    screen: str = ""
    look: str = ""

    @property
    def place(self) -> Place | None:
        """Where it is, or None when no file is to blame."""
        return Place(self.path, self.line, self.column) if self.path is not None else None

    @property
    def about(self) -> str:
        """What the rule looked at: a site, or a file."""
        return self.site or self.path or ""

    def to_dict(self) -> dict[str, Any]:
        """Return the finding as plain data, one key for each field."""
        return {name: getattr(self, name) for name in self.__struct_fields__}
