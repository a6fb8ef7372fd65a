"""What came of a run, written: the table, the contact sheet, the page and the plot."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from rivelt.documents.fleet import BrandItem
from rivelt.fleet.run import RESULTS, Outcome
from rivelt.workspace.output import write_files

if TYPE_CHECKING:
    import pandas as pd

    from rivelt.progress import Progress

_FIRST = ("brand", "row", "status", "problem", "plates", "bytes")
_LAST = (
    "errors",
    "warnings",
    "notes",
    "unknown",
    "worst",
    "codes",
    "ground_light",
    "ground_dark",
    "contrast_light",
    "contrast_dark",
    "readable_light",
    "readable_dark",
    "mark_dp",
    "fit",
    "screens",
    "screens_unknown",
    "changes",
    "manual_steps",
    "applied",
    "shown_from",
    "seconds",
)
_TEXT = {"worst", "brand", "status", "problem", "codes", "ground_light", "ground_dark", "shown_from"}
_SHARES = {"contrast_light", "contrast_dark", "readable_light", "readable_dark", "mark_dp", "fit", "seconds"}


def write_results(outcome: Outcome, on_progress: Progress | None = None) -> tuple[str, ...]:
    """Write what came of a run into its folder, and return the names of the files.

    Raises:
        BadInput: one cannot be written.
    """
    from rivelt.fleet.page import draw_fleet_page
    from rivelt.fleet.plot import draw_plot
    from rivelt.fleet.sheet import draw_contact_sheet

    items = outcome.items
    frame = table_of(items)
    packed = io.BytesIO()
    frame.to_parquet(packed, index=False)
    files = {
        f"{RESULTS}.csv": frame.to_csv(index=False, lineterminator="\n").encode(),
        f"{RESULTS}.parquet": packed.getvalue(),
        f"{RESULTS}.png": draw_contact_sheet(items, outcome.out, outcome.table.path, on_progress),
        f"{RESULTS}.html": draw_fleet_page(items, outcome.out, outcome.table.path).encode(),
    }
    if (plot := draw_plot(items)) is not None:
        files[f"{RESULTS}-plot.png"] = plot
    write_files(outcome.out, files)
    return tuple(files)


def table_of(items: Sequence[BrandItem]) -> pd.DataFrame:
    """Return the table of results: a row for each row of the table of brands, with what was made and measured."""
    import pandas as pd

    weights = sorted({name for item in items for name in item.values if name.startswith("bytes_")})
    rows = [_row(item) for item in items]
    columns = [*_FIRST, *weights, *_LAST]
    frame = pd.DataFrame(rows, columns=pd.Index(columns), dtype=object)
    for name in columns:
        kind = (
            "string" if name in _TEXT else "Float64" if name in _SHARES else "boolean" if name == "applied" else "Int64"
        )
        frame[name] = frame[name].astype(kind)
    return frame


def _row(item: BrandItem) -> Mapping[str, Any]:
    problem = "; ".join(one.message for one in item.problems)
    # What begins like a formula would be one where the table is opened in a spreadsheet.
    name = f"'{item.brand}" if item.brand[:1] in "=+-@\t\r" else item.brand
    status = "made" if item.status == "kept" else item.status  # how many runs it took is no result
    return {**item.values, "brand": name, "row": item.row, "status": status, "problem": problem or None}
