"""What `fleet` prints: what was made of each brand of a table."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from msgspec import Meta

from rivelt.documents.base import Bytes, Count, Document, Part, Problem, RelativePath, Root


class BrandItem(Part, frozen=True, kw_only=True):
    """One row of the table."""

    brand: Annotated[str, Meta(description="its name; as the table has it, where that is no name")]
    row: Annotated[int, Meta(ge=2, description="as a spreadsheet counts: the names of the columns are row 1")]
    status: Annotated[
        Literal["made", "kept", "failed", "bad"],
        Meta(description="kept: all was there as it would be made; failed: something could not be made; bad: the row"),
    ]
    values: Annotated[dict[str, Any], Meta(description="the columns of fleet.csv that it has")]
    problems: list[Problem]


class FleetSummary(Part, frozen=True, kw_only=True):
    """How many brands there are, and how it went."""

    brands: Count
    made: Count
    kept: Count
    failed: Count
    bad: Count
    with_findings: Annotated[int, Meta(ge=0, description="brands of which a rule is broken or unknown")]
    unreadable_dark: Annotated[int, Meta(ge=0, description="brands whose mark is hard to see in the dark")]
    bytes: Annotated[Bytes, Meta(description="of all plates")]


class FleetDocument(Document, frozen=True, kw_only=True):
    """What `rivelt fleet --json` prints."""

    schema: Literal["rivelt.fleet/1"] = "rivelt.fleet/1"
    root: Root
    summary: FleetSummary
    brands: list[BrandItem]
    problems: Annotated[list[Problem], Meta(description="of the table: its bad cells, with row and column")]
    notes: Annotated[list[str], Meta(description="what was left out")]
    written: Annotated[list[RelativePath], Meta(description="the table, the contact sheet, the page and the plot")]
    applied: Annotated[int, Meta(ge=0, description="files of the project that apply changed")]
