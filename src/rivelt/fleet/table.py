"""Tables of brands: what marketing keeps in a spreadsheet, read into rows of cells. The file comes from strangers."""

from __future__ import annotations

import io
import math
import zipfile
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec import Struct

from rivelt.brief.find import shown_path
from rivelt.disk.tree import read_file
from rivelt.errors import BadInput, Place

if TYPE_CHECKING:
    import pandas as pd

MOST_ROWS = 200_000
_MOST_COLUMNS = 500
_MOST_BYTES = 200_000_000
_MOST_UNPACKED = 1_000_000_000
_MOST_CELL = 10_000  # characters
_SEPARATORS = ",;\t"
_NAMES = ".csv, .xlsx, .parquet or .json"
_EXACT = 2**53


class Row(Struct, frozen=True):
    """One row: its number, as a spreadsheet counts (the names of the columns are row 1), and its cells that are not empty, by column."""

    number: int
    cells: Mapping[str, Any]


class Table(Struct, frozen=True):
    """A table: its path as people see it, its columns in their order, and its rows that are not empty."""

    path: str
    columns: tuple[str, ...]
    rows: tuple[Row, ...]

    def place(self, row: int, column: str = "") -> Place:
        """Return the place of a cell: its row, and the number of its column from 1."""
        return Place(self.path, row, self.columns.index(column) + 1 if column in self.columns else None)


def read_table(path: Path) -> Table:
    """Read a table.

    Args:
        path: a CSV file (comma, semicolon or tab), the first sheet of an XLSX file, a Parquet file, or a JSON file with a list of objects.

    Raises:
        BadInput: it cannot be read, has no rows, two columns of one name, or far too much of anything.
    """
    shown = shown_path(path)
    readers = {".csv": _csv, ".tsv": _csv, ".xlsx": _xlsx, ".parquet": _parquet, ".json": _json}
    reader = readers.get(path.suffix.lower())
    if reader is None:
        raise BadInput(f"{path.name} is no table that can be read", place=Place(shown), hint=f"Give a {_NAMES} file.")
    try:
        data = read_file(path, _MOST_BYTES)
    except FileNotFoundError as error:
        raise BadInput("there is no such table", place=Place(shown), hint=f"Give a {_NAMES} file.") from error
    except OSError as error:
        raise BadInput(f"the table cannot be read: {error.strerror or error}", place=Place(shown)) from error
    try:
        columns, rows = reader(data, shown)
    except BadInput:
        raise
    except Exception as error:
        # Each library has errors of its own for files that are broken: whatever it says, the file is to blame.
        reason = " ".join(str(error).split())[:200] or type(error).__name__
        hint = "Export it again from the program that wrote it."
        raise BadInput(f"the table is broken: {reason}", place=Place(shown), hint=hint) from error
    return _checked(shown, columns, rows)


def _checked(shown: str, columns: Sequence[str], rows: Iterable[Mapping[str, Any]]) -> Table:
    names = tuple(name.strip() for name in columns)
    if len(names) > _MOST_COLUMNS:
        raise BadInput(f"the table has more than {_MOST_COLUMNS} columns", place=Place(shown))
    twice = [name for name, count in Counter(names).items() if count > 1 and name]
    if twice:
        raise BadInput(f"two columns are called {twice[0]!r}", place=Place(shown, 1), hint="Take one of them out.")
    found = tuple(
        Row(number, cells)
        for number, row in enumerate(rows, 2)
        if (cells := {name.strip(): kept for name, value in row.items() if (kept := _cell(value)) is not None})
    )
    for row in found:
        if (
            long := next((name for name, value in row.cells.items() if len(str(value)) > _MOST_CELL), None)
        ) is not None:
            message = f"`{long}` has more than {_MOST_CELL} characters"
            raise BadInput(message, place=Place(shown, row.number, names.index(long) + 1), hint="Shorten it.")
    if not found:
        hint = "Give it a row for each brand, under a row with the names of the columns."
        raise BadInput("the table has no brands", place=Place(shown), hint=hint)
    return Table(shown, names, found)


def _cell(value: Any) -> Any:
    """A cell as a plain value; None for an empty one. A whole number that a spreadsheet keeps as a fraction is whole again."""
    if value is None or (isinstance(value, float) and math.isnan(value)):
        return None
    if hasattr(value, "item"):
        value = value.item()
    if isinstance(value, str):
        return value.strip() or None
    if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT:
        return int(value)
    return value if isinstance(value, bool | int | float | list | dict) else str(value)


Content = tuple[Sequence[str], Iterable[Mapping[str, Any]]]


def _csv(data: bytes, shown: str) -> Content:
    import pandas as pd

    try:
        is_wide = data[:2] in {b"\xff\xfe", b"\xfe\xff"}  # what spreadsheets call Unicode text
        text = data.decode("utf-16" if is_wide else "utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise BadInput("the table is not UTF-8", place=Place(shown, line), hint="Save it as CSV UTF-8.") from error
    header = text.partition("\n")[0]
    separator = max(_SEPARATORS, key=header.count)
    frame = pd.read_csv(
        io.StringIO(text),
        sep=separator,
        header=None,
        dtype=str,
        keep_default_na=False,
        skip_blank_lines=False,
        nrows=MOST_ROWS + 2,
    )
    return _headed(frame, shown)


def _xlsx(data: bytes, shown: str) -> Content:
    import pandas as pd

    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        if sum(member.file_size for member in archive.infolist()) > _MOST_UNPACKED:
            raise BadInput("the table is far too large when it is unpacked", place=Place(shown))
    frame = pd.read_excel(
        io.BytesIO(data), header=None, dtype=object, keep_default_na=False, engine="openpyxl", nrows=MOST_ROWS + 2
    )
    return _headed(frame, shown)


def _headed(frame: pd.DataFrame, shown: str) -> Content:
    """A frame whose first row holds the names of the columns."""
    _refuse_long(len(frame) - 1, shown)
    if not len(frame):
        return (), ()
    columns = ["" if _cell(name) is None else str(name) for name in frame.iloc[0]]
    return columns, _rows(columns, frame.iloc[1:].itertuples(index=False, name=None))


def _rows(columns: Sequence[str], rows: Iterable[Sequence[Any]]) -> Iterator[Mapping[str, Any]]:
    for row in rows:
        yield dict(zip(columns, row, strict=True))


def _parquet(data: bytes, shown: str) -> Content:
    import pyarrow.parquet as pq

    file = pq.ParquetFile(io.BytesIO(data))
    meta = file.metadata
    _refuse_long(meta.num_rows, shown)
    if sum(meta.row_group(number).total_byte_size for number in range(meta.num_row_groups)) > _MOST_UNPACKED:
        raise BadInput("the table is far too large when it is unpacked", place=Place(shown))
    read = file.read()
    columns = [str(name) for name in read.column_names]
    return columns, read.to_pylist()


def _json(data: bytes, shown: str) -> Content:
    found = msgspec.json.decode(data)
    if not isinstance(found, list) or not all(isinstance(row, dict) for row in found):
        hint = 'Write [{"name": "...", "light.ground": "..."}, ...].'
        raise BadInput("the table must be a list of objects, one for each brand", place=Place(shown), hint=hint)
    _refuse_long(len(found), shown)
    return tuple(dict.fromkeys(key for row in found for key in row)), found


def _refuse_long(rows: int, shown: str) -> None:
    if rows > MOST_ROWS:
        hint = "Split it into several tables."
        raise BadInput(f"the table has more than {MOST_ROWS} rows", place=Place(shown), hint=hint)
