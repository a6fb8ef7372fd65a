"""Text of strangers in Markdown: it shows as it is, and means nothing more; and tables that end before a comment is full."""

from __future__ import annotations

import re
from collections.abc import Sequence

from rivelt.patterns import regex
from rivelt.shown import harmless

MOST = 60_000
"""How long a comment on a pull request may be, in characters, with room to spare (GitHub: 65,536)."""

_MARKS = regex(r"([\\`*_\[\]<>|~&]|:(?=\w+:))")
_REFERENCES = regex(r"([@#]|://|www)(?=\S)", re.IGNORECASE)


def plain(text: str) -> str:
    """Return text that Markdown takes for nothing else: no markup, no HTML, no address, no person and no issue that it would point to."""
    shown = _MARKS.sub(r"\\\1", harmless(text.replace("\n", " ")))
    return _REFERENCES.sub(r"\1<!-- -->", shown)


def code(text: str) -> str:
    """Return text as a code span that fits into a cell of a table."""
    shown = harmless(text.replace("\n", " "))
    ticks = "`" * (max((len(run) for run in re.findall("`+", shown)), default=0) + 1)
    pad = " " if shown.startswith("`") or shown.endswith("`") else ""
    return f"{ticks}{pad}{shown}{pad}{ticks}".replace("|", r"\|")


def table(lines: list[str], headers: Sequence[str], rows: Sequence[Sequence[str]], most: int, rest: str = "") -> int:
    """Add a table of as many rows as fit into `most` characters; returns how many characters are left.

    Args:
        lines: what it is added to.
        headers: what stands above the columns.
        rows: their cells, as Markdown.
        most: how many characters there is room for.
        rest: where the rows are that do not fit, such as "`rivelt check` prints them all".
    """
    if not rows:
        return most
    lines += [f"| {' | '.join(headers)} |", f"|{'---|' * len(headers)}"]
    for number, row in enumerate(rows):
        line = f"| {' | '.join(row)} |"
        if len(line) > most:
            lines += ["", f"{len(rows) - number} more are left out here{f'; {rest}' if rest else ''}."]
            break
        most -= len(line) + 1
        lines.append(line)
    lines.append("")
    return most
