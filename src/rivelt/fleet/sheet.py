"""The contact sheet: the launch screens of all brands in both looks, as large as their number allows. Lengths are in sheet units."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from rivelt import __version__
from rivelt.colour import Colour
from rivelt.documents.fleet import BrandItem
from rivelt.fleet.run import has_findings, is_unreadable
from rivelt.fleet.thumbs import thumbs
from rivelt.pixels.compose import Sheet
from rivelt.pixels.type import Face, shortened
from rivelt.proof.style import ACCENT, HAIRLINE, INK, MARGIN, PAPER, PIXELS_PER_UNIT, SOFT_INK, block, line, text
from rivelt.proof.style import SHEET_WIDTH as WIDTH
from rivelt.units import Rect, Size, round_half_up

if TYPE_CHECKING:
    from pathlib import Path

    from rivelt.progress import Progress

_TOP = 104
_FOOT = 44
_SIZES = (200, 170, 144, 120, 100, 84, 70, 58, 48, 40)
"""How tall a screen may be: the largest with which the sheet is not far taller than wide."""

_TALLEST = 3 * WIDTH
_SIDES = 0.47  # of a screen: its width for its height
_CAPTION = 30
_SHORT_CAPTION = 17
_BETWEEN = 22
_SMALL = 90  # screens lower than this have one line below them
_LETTERS: tuple[tuple[float, float, Face], ...] = ((_SMALL, 10, "bold"), (58, 8, "bold"), (0, 6.5, "sans"))
"""The size and the face of a brand's name, for screens that are at least so tall."""


class _Grid(Struct, frozen=True):
    """Where the brands are."""

    tall: float
    columns: int
    rows: int

    @property
    def wide(self) -> float:
        return self.tall * _SIDES

    @property
    def caption(self) -> float:
        return _CAPTION if self.tall >= _SMALL else _SHORT_CAPTION

    @property
    def cell(self) -> float:
        return (WIDTH - 2 * MARGIN + _BETWEEN) / self.columns

    @property
    def row(self) -> float:
        return self.tall + self.caption + 14

    def at(self, index: int) -> tuple[float, float]:
        """Return the top left corner of a brand."""
        down, across = divmod(index, self.columns)
        return MARGIN + across * self.cell, _TOP + down * self.row


def _grid(count: int) -> _Grid:
    found = None
    for tall in _SIZES:
        columns = max(1, int((WIDTH - 2 * MARGIN + _BETWEEN) // (2 * tall * _SIDES + 6 + _BETWEEN)))
        found = _Grid(tall, columns, math.ceil(count / columns))
        if found.rows * found.row <= (_TALLEST if count > columns else WIDTH):
            break
    assert found is not None
    return found


def draw_contact_sheet(items: Sequence[BrandItem], out: Path, table: str, on_progress: Progress | None = None) -> bytes:
    """Return the contact sheet as a PNG; the same results give the same bytes.

    Args:
        items: the brands, in their order.
        out: the folder of results, which has their small launch screens.
        table: the name of the table.
        on_progress: called as screens are laid.
    """
    grid = _grid(max(1, len(items)))
    height = _TOP + grid.rows * grid.row + _FOOT
    sheet = Sheet(Size(WIDTH, height).pixels(PIXELS_PER_UNIT), Colour.parse(PAPER))
    index = {item.brand: number for number, item in enumerate(items) if item.status != "bad"}
    shown: dict[tuple[str, str], float] = {}
    names = [item.brand for item in items if item.status != "bad"]
    for done, (name, look, pixels) in enumerate(thumbs(out, names, round_half_up(grid.tall * PIXELS_PER_UNIT)), 1):
        x, y = grid.at(index[name])
        left = x + (grid.wide + 6) * (look == "dark")
        sheet.lay(pixels, *(round_half_up(side * PIXELS_PER_UNIT) for side in (left, y)))
        shown[name, look] = pixels.shape[1] / PIXELS_PER_UNIT
        if on_progress is not None:
            on_progress(done, 2 * len(names))
    for row in range(grid.rows):
        some = range(row * grid.columns, min(len(items), (row + 1) * grid.columns))
        parts = [part for number in some for part in _brand(items[number], grid, grid.at(number), shown)]
        sheet.ink([block(parts, Rect(0, _TOP + row * grid.row - 4, WIDTH, grid.row + 4))])
    sheet.ink([block(_header(items, table), Rect(0, 0, WIDTH, _TOP - 10))])
    sheet.ink([block(_footer(height), Rect(0, height - _FOOT, WIDTH, _FOOT))])
    return sheet.png()


def _brand(item: BrandItem, grid: _Grid, at: tuple[float, float], shown: dict[tuple[str, str], float]) -> Iterator[str]:
    x, y = at
    for number, look in enumerate(("light", "dark")):
        left = x + (grid.wide + 6) * number
        wide = shown.get((item.brand, look)) if item.status != "bad" else None
        is_bad = is_unreadable(item.values, look)
        stroke, thick = (ACCENT, 1.6) if is_bad or wide is None else (INK, 0.5)
        opacity = 1 if is_bad else 0.55
        round_ = grid.tall * 0.03 if wide is not None else 0
        yield (
            f'<rect x="{left:.2f}" y="{y:.2f}" width="{wide or grid.wide:.2f}" height="{grid.tall:.2f}" rx="{round_:.1f}" '
            f'fill="none" stroke="{stroke}" stroke-opacity="{opacity}" stroke-width="{thick}"/>'
        )
        if wide is None:
            yield line(left, y, left + grid.wide, y + grid.tall, ACCENT, 0.75)
    room = 2 * grid.wide + 6
    size, face = next((size, face) for least, size, face in _LETTERS if grid.tall >= least)
    is_wrong = bool(item.problems) or has_findings(item.values)
    base = y + grid.tall + size + 4
    told_wrong = is_wrong and grid.tall < _SMALL
    name = shortened(item.brand, room - (6 if told_wrong else 0), size, face)
    yield text(name, x, base, size, ACCENT if item.problems else INK, face)
    if grid.tall < _SMALL:
        if told_wrong:
            yield f'<circle cx="{x + room - 2:.1f}" cy="{base - size / 3:.1f}" r="2" fill="{ACCENT}"/>'
        return
    told = item.problems[0].message if item.problems else str(item.values.get("codes") or "")
    contrast = [item.values.get(f"contrast_{look}") for look in ("light", "dark")]
    numbers = "  ".join(f"{value:.1f}:1" for value in contrast if isinstance(value, int | float))
    yield text(shortened(told or numbers, room, 8), x, base + 12, 8, ACCENT if told else SOFT_INK)


def _header(items: Sequence[BrandItem], table: str) -> Iterator[str]:
    yield text("The fleet", MARGIN, 58, 28, face="serif")
    dark = sum(is_unreadable(item.values, "dark") for item in items)
    wrong = sum(bool(item.problems) for item in items)
    parts = [f"{len(items)} brand{'s' * (len(items) != 1)}"]
    parts += [f"{dark} hard to see in the dark"] if dark else []
    parts += [f"{wrong} not made"] if wrong else []
    yield text(" · ".join(parts), WIDTH - MARGIN, 56, 11, ACCENT if dark or wrong else SOFT_INK, anchor="end")
    yield line(MARGIN, 70, WIDTH - MARGIN, 70, INK, 1)
    told = f"{table.rpartition('/')[2]}; light and dark of a phone; framed where less than nine tenths of the mark's outline reaches 3:1"
    yield text(shortened(told, WIDTH - 2 * MARGIN, 9), MARGIN, 86, 9, SOFT_INK)


def _footer(height: float) -> Iterator[str]:
    foot = height - 18
    yield line(MARGIN, foot - 16, WIDTH - MARGIN, foot - 16, HAIRLINE)
    yield text(f"rivelt  ·  rules of rivelt {__version__}", MARGIN, foot, 9, SOFT_INK)
