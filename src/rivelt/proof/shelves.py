"""Boxes packed on shelves, as little of the sheet as possible left empty: columns side by side, low boxes on top of each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct

_WIDER = 1.25  # how much wider than the others of its column a box may be


class Box(Struct, frozen=True):
    """What is to be placed, and the group that it must be found with: groups keep their order, and share shelves."""

    group: str
    width: float
    height: float


class Spot(Struct, frozen=True):
    """Where a box is: its top left corner.

    `index`: which box it is. `room`: how wide the name of its group may be; 0 where it is not the first of its group on its shelf.
    """

    index: int
    x: float
    y: float
    room: float


class _Column:
    def __init__(self, group: str) -> None:
        self.group = group
        self.width = 0.0
        self.height = 0.0
        self.boxes: list[tuple[int, float]] = []


class _Shelf:
    def __init__(self) -> None:
        self.columns: list[_Column] = []

    def height(self) -> float:
        return max((column.height for column in self.columns), default=0.0)

    def width(self, gap: float) -> float:
        return sum(column.width for column in self.columns) + gap * max(0, len(self.columns) - 1)


def shelved(boxes: Sequence[Box], width: float, gap: float, heading: float) -> tuple[list[Spot], float]:
    """Return where each box goes, and the height of all shelves.

    Args:
        boxes: what is placed. The groups keep their order as far as there is no room for a later one on an earlier shelf.
        width: how wide a shelf is.
        gap: the least space between two columns, and between two boxes of a column.
        heading: the space above each shelf, for the names of the groups on it.
    """
    tries = (_filled(boxes, order, width, gap) for order in _ORDERS)
    shelves = min(tries, key=lambda found: sum(shelf.height() + heading + gap for shelf in found))
    spots: list[Spot] = []
    top = 0.0
    for shelf in shelves:
        top += heading
        spots += _spots(shelf, top, width, gap)
        top += shelf.height() + gap
    return spots, top - gap


_ORDERS: tuple[Callable[[Box], float], ...] = (
    lambda box: -box.height,
    lambda _: 0,
    lambda box: -box.width,
    lambda box: box.height,
)
"""In what order the boxes of a group may be placed: what needs the least space is taken."""


def _filled(boxes: Sequence[Box], order: Callable[[Box], float], width: float, gap: float) -> list[_Shelf]:
    shelves: list[_Shelf] = [_Shelf()]
    for group in dict.fromkeys(box.group for box in boxes):
        its = [index for index, box in enumerate(boxes) if box.group == group]
        for index in sorted(its, key=lambda index: order(boxes[index])):
            _place(shelves, boxes[index], index, width, gap)
    return shelves


def _place(shelves: list[_Shelf], box: Box, index: int, width: float, gap: float) -> None:
    """Put a box into a column of its group where there is room beneath, else beside, else on a new shelf."""
    for shelf in shelves:
        for column in shelf.columns:
            is_low = column.height + gap + box.height <= shelf.height() + gap / 2
            if column.group == box.group and is_low and box.width <= column.width * _WIDER:
                wider = max(0.0, box.width - column.width)
                if shelf.width(gap) + wider <= width:
                    column.boxes.append((index, column.height + gap))
                    column.width += wider
                    column.height += gap + box.height
                    return
    last = shelves[-1]
    fits = [
        shelf
        for shelf in shelves
        if shelf.columns
        and shelf.width(gap) + gap + box.width <= width
        and (shelf is last or box.height <= shelf.height())
    ]
    shelf = fits[0] if fits else last if not last.columns else _Shelf()
    if shelf not in shelves:
        shelves.append(shelf)
    column = _Column(box.group)
    column.width, column.height, column.boxes = box.width, box.height, [(index, 0.0)]
    shelf.columns.append(column)


def _spots(shelf: _Shelf, top: float, width: float, gap: float) -> list[Spot]:
    """Where the boxes of a shelf are; its columns move apart a little, so that they end where the sheet does."""
    count = len(shelf.columns)
    spare = width - shelf.width(0)
    between = min(gap * 2, spare / (count - 1)) if count > 1 else 0.0
    lefts = [sum(column.width + between for column in shelf.columns[:number]) for number in range(count)]
    firsts: dict[str, int] = {}
    for number, column in enumerate(shelf.columns):
        firsts.setdefault(column.group, number)
    ends = {
        number: min((lefts[one] - gap / 2 for one in firsts.values() if one > number), default=width)
        for number in range(count)
    }
    return [
        Spot(
            index,
            lefts[number],
            top + down,
            ends[number] - lefts[number] if firsts[column.group] == number and not down else 0.0,
        )
        for number, column in enumerate(shelf.columns)
        for index, down in column.boxes
    ]
