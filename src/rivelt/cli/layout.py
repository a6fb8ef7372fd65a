"""Text laid out for a terminal: lines broken between words with a hanging indent, and tables that become records where they do not fit."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence

_GAP = 2
_NARROWEST = 8  # of a column whose words are shorter


def wrapped(line: str, width: int, hang: int = 2) -> list[str]:
    """Return a line broken between words into lines of at most a width.

    Args:
        line: the line; its own indent stays.
        width: how many characters fit. A longer word, such as a path, stays whole, so that it can be copied.
        hang: how much further the lines after the first one are indented.
    """
    if len(line) <= width:
        return [line]
    indent = len(line) - len(line.lstrip(" "))
    hanging = " " * min(indent + hang, max(width - 16, 0))
    broken = textwrap.wrap(
        line[indent:],
        width,
        initial_indent=" " * indent,
        subsequent_indent=hanging,
        break_long_words=False,
        break_on_hyphens=False,
    )
    return broken or [line]


def table(headers: Sequence[str], rows: Sequence[Sequence[str]], width: int) -> list[tuple[str, bool]]:
    """Return the lines of a table that fits into a width, each with whether it is a header.

    Cells are broken between words. Where even the longest words side by side do not fit, each row becomes a record: its first cell, and
    below it the others by their headers.
    """
    columns = list(zip(headers, *rows, strict=True))
    natural = [max(map(len, column)) for column in columns]
    least = [min(wide, max(_NARROWEST, _longest_word(column))) for wide, column in zip(natural, columns, strict=True)]
    room = width - _GAP * (len(columns) - 1)
    if sum(least) > room:
        return _records(headers, rows, width)
    widths = _shared(natural, least, room)
    lines = [(line, True) for line in (*_row(headers, widths), _joined(["─" * wide for wide in widths], widths))]
    return lines + [(line, False) for row in rows for line in _row(row, widths)]


def pairs(values: Sequence[tuple[str, str]], width: int | None) -> list[str]:
    """Return names and values, one below the other; a value of several lines, or one that is broken, stays in its column.

    `width`: that of the terminal, None where lines are not broken. Where the column would be narrow, values stand below their names.
    """
    column = max((len(name) for name, _ in values), default=0) + 4
    is_narrow = width is not None and width - column < 32
    lines: list[str] = []
    for name, value in values:
        parts = value.split("\n")
        if is_narrow and width is not None:
            lines.append(f"  {name}")
            lines += [line for part in parts for line in wrapped(f"    {part}", width)]
            continue
        for number, part in enumerate(parts):
            line = f"  {'' if number else name:<{column - 4}}  {part}"
            lines += [line] if width is None else wrapped(line, width, column - (len(line) - len(line.lstrip())))
    return lines


def _longest_word(column: Sequence[str]) -> int:
    return max((len(word) for cell in column for word in cell.split()), default=0)


def _shared(natural: Sequence[int], least: Sequence[int], room: int) -> list[int]:
    """The widths of columns: what they need, where that fits; else the room that narrower ones leave is shared among the wide ones."""
    widths = list(natural)
    while sum(widths) > room:
        wide = [number for number in range(len(widths)) if widths[number] > least[number]]
        widest = max(wide, key=lambda number: widths[number])
        widths[widest] -= 1
    return widths


def _row(row: Sequence[str], widths: Sequence[int]) -> list[str]:
    cells = [_cell(cell, wide) for cell, wide in zip(row, widths, strict=True)]
    return [
        _joined([cell[number] if number < len(cell) else "" for cell in cells], widths)
        for number in range(max(map(len, cells)))
    ]


def _cell(text: str, width: int) -> list[str]:
    return textwrap.wrap(text, width, break_long_words=True, break_on_hyphens=False) or [""]


def _joined(cells: Sequence[str], widths: Sequence[int]) -> str:
    return (" " * _GAP).join(cell.ljust(wide) for cell, wide in zip(cells, widths, strict=True)).rstrip()


def _records(headers: Sequence[str], rows: Sequence[Sequence[str]], width: int) -> list[tuple[str, bool]]:
    lines: list[tuple[str, bool]] = []
    for row in rows:
        head, *rest = [(header, cell) for header, cell in zip(headers, row, strict=True) if cell] or [("", "")]
        lines += [(line, False) for line in wrapped(head[1], width)]
        for header, cell in rest:
            lines += [(line, False) for line in wrapped(f"  {header}: {cell}", width)]
    return lines
