"""What `proof --since` prints: the screens that a change makes different, in numbers."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.documents.base import (
    Code,
    Colour,
    Count,
    Document,
    Edition,
    FindingItem,
    LookName,
    Part,
    RelativePath,
    Root,
    SiteName,
    Target,
)


class ShiftItem(Part, frozen=True, kw_only=True):
    """How the mark differs."""

    across: Annotated[float, Meta(description="how far its middle moved to the right, in dp or points")]
    down: Annotated[float, Meta(description="how far its middle moved down, in dp or points")]
    scaled: Annotated[float, Meta(description="how many times it is as large")]


class ChangeItem(Part, frozen=True, kw_only=True):
    """One screen in one look that is different."""

    kind: Literal["changed", "added", "gone"]
    target: Target
    site: SiteName
    edition: Edition
    screen: Annotated[str, Meta(description="name of the screen")]
    system: Annotated[str, Meta(description="name of the system, such as Android 12 and later")]
    look: LookName
    planned: Annotated[bool, Meta(description="as apply would leave the project, not as it is")]
    pixels: Annotated[float, Meta(ge=0, le=1, description="share of the device's pixels that differ")] | None
    ground_before: Colour | None
    ground_after: Colour | None
    ground_difference: Annotated[float, Meta(description="CIEDE2000; null where a ground is no flat colour")] | None
    shift: Annotated[ShiftItem, Meta(description="null where one has no mark, or it lies on a picture")] | None
    findings_before: list[Code]
    findings_after: list[Code]


class WeightItem(Part, frozen=True, kw_only=True):
    """What the launch images of a platform weigh, as the project is."""

    target: Target
    before: Annotated[Count, Meta(description="bytes")]
    after: Annotated[Count, Meta(description="bytes")]
    images_before: Count
    images_after: Count


class ReviewSummary(Part, frozen=True, kw_only=True):
    """How many screens are different, and how many findings come and go."""

    changed: Count
    added: Count
    gone: Count
    same: Count
    unknown: Annotated[
        Count, Meta(description="reasons for which parts of the screens are unknown that were not so before")
    ]
    findings_added: Count
    findings_gone: Count


class ReviewDocument(Document, frozen=True, kw_only=True):
    """What `rivelt proof --since REV --json` prints. It draws nothing unless --out is given."""

    schema: Literal["rivelt.review/1"] = "rivelt.review/1"
    root: Root
    summary: ReviewSummary
    since: Annotated[str, Meta(description="the earlier revision, as it was given")]
    at: Annotated[str, Meta(description="the later revision; null for the working tree")] | None
    written: Annotated[list[RelativePath], Meta(description="what --out asked for")]
    screens: Annotated[list[ChangeItem], Meta(description="those that are different")]
    repacked: Annotated[list[str], Meta(description="images whose bytes differ and whose pixels do not")]
    elsewhere: Annotated[
        list[str], Meta(description="images that differ, and that none of the screens that are different shows")
    ]
    unknown: Annotated[list[str], Meta(description="why parts of the screens are unknown that were not so before")]
    still_unknown: Annotated[list[str], Meta(description="the same of what was unknown before as well")]
    weights: list[WeightItem]
    findings_added: list[FindingItem]
    findings_gone: list[FindingItem]
    notes: list[str]
