"""What `apply`, `undo` and `remove` print."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.documents.base import Bytes, Count, Document, Edition, Part, Problem, RelativePath, Root, SiteName, Target


class ChangeItem(Part, frozen=True, kw_only=True):
    """What happens to one file."""

    action: Literal["create", "edit", "delete"]
    path: RelativePath
    bytes: Annotated[Bytes, Meta(description="afterwards")]
    why: str


class ChangesSummary(Part, frozen=True, kw_only=True):
    """How many files are concerned, and what is left for a person."""

    created: Count
    edited: Count
    removed: Count
    manual_steps: Count
    left_alone: Count


class StepItem(Part, frozen=True, kw_only=True):
    """Something that only a person can do."""

    title: str
    path: RelativePath | None
    lines: Annotated[list[str], Meta(description="to be copied")]


class WeightItem(Part, frozen=True, kw_only=True):
    """How many images a site has, and what they weigh together."""

    site: Annotated[str, Meta(description='target and name, such as "android android/app"')]
    images: Count
    bytes: Bytes


class LeftAlone(Part, frozen=True, kw_only=True):
    """A site that is not touched."""

    target: Target
    site: SiteName
    reason: Problem


class ApplyDocument(Document, frozen=True, kw_only=True):
    """What `rivelt apply` prints; with --watch one document each time."""

    schema: Literal["rivelt.apply/1"] = "rivelt.apply/1"
    root: Annotated[Root, Meta(description="with several projects, the folder that holds them all")]
    summary: ChangesSummary
    applied: Annotated[bool, Meta(description="false where nothing was written, as with --dry-run")]
    changes: list[ChangeItem]
    manual_steps: list[StepItem]
    left_alone: list[LeftAlone]
    notes: list[str]
    weights: list[WeightItem]
    unused: Annotated[list[RelativePath], Meta(description="old launch images that --prune would remove")]
    proof: RelativePath | None


class UndoSummary(Part, frozen=True, kw_only=True):
    """How many applies were taken back, and how many files that concerned."""

    applies: Count
    restored: Count


class UndoDocument(Document, frozen=True, kw_only=True):
    """What `rivelt undo` prints."""

    schema: Literal["rivelt.undo/1"] = "rivelt.undo/1"
    root: Root
    summary: UndoSummary
    restored: list[RelativePath]


class AppliedItem(Part, frozen=True, kw_only=True):
    """An apply that can be taken back."""

    number: int
    when: Annotated[str, Meta(description="ISO 8601, in UTC", pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ$")]
    created: Count
    edited: Count
    removed: Count
    done: Annotated[bool, Meta(description="false for one that was stopped halfway")]


class HistorySummary(Part, frozen=True, kw_only=True):
    """How many applies can be taken back."""

    applies: Count


class HistoryDocument(Document, frozen=True, kw_only=True):
    """What `rivelt undo --list` prints, the last apply first."""

    schema: Literal["rivelt.history/1"] = "rivelt.history/1"
    root: Root
    summary: HistorySummary
    applies: list[AppliedItem]


class MadeBy(Part, frozen=True, kw_only=True):
    """Who made what is taken out."""

    brief: Annotated[RelativePath, Meta(description='"" for one that an old lock file does not name')]
    edition: Edition
    site: Annotated[str, Meta(description='target and name, such as "android android/app"')]


class LeftItem(Part, frozen=True, kw_only=True):
    """What stays because a person has changed it since."""

    path: RelativePath
    reason: str


class RemoveSummary(Part, frozen=True, kw_only=True):
    """How many files are concerned."""

    edited: Count
    removed: Count
    left: Count


class RemoveDocument(Document, frozen=True, kw_only=True):
    """What `rivelt remove` prints."""

    schema: Literal["rivelt.remove/1"] = "rivelt.remove/1"
    root: Root
    summary: RemoveSummary
    removed: Annotated[bool, Meta(description="false where nothing was written, as with --dry-run")]
    owners: list[MadeBy]
    changes: list[ChangeItem]
    left: list[LeftItem]
    shared: Annotated[list[RelativePath], Meta(description="files in which others still need edits")]
