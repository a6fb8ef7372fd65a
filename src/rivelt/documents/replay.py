"""What `replay` prints: the moments of recorded launches, and how they differ from the proof."""

from __future__ import annotations

from typing import Annotated, Literal, TypeAlias

from msgspec import Meta

from rivelt.documents.base import Box, Colour, Count, Document, FindingItem, LookName, Part, Root, SiteName, Target

Kind: TypeAlias = Literal["home", "opening", "launch", "flash", "second", "waiting", "first", "unknown"]


class ChangeOfMark(Part, frozen=True, kw_only=True):
    """How a mark differs from that of an earlier moment."""

    across: Annotated[float, Meta(description="how far its middle moved to the right, in px of the recording")]
    down: float
    scaled: Annotated[float, Meta(description="how many times it is as wide")]


class ReplayMomentItem(Part, frozen=True, kw_only=True):
    """One moment of a launch."""

    kind: Kind
    start_ms: Annotated[float, Meta(ge=0)]
    end_ms: Annotated[float, Meta(ge=0)]
    frames: Count
    ground: Annotated[Colour, Meta(description="what fills most of it; of the clearest frame while it moves")] | None
    mark: Annotated[Box, Meta(description="what stands in the middle, in px of the recording")] | None
    mark_points: Annotated[Box, Meta(description="the same in dp or points; null where the screen is not known")] | None
    change: Annotated[ChangeOfMark, Meta(description="to the mark of the moment before that has one")] | None


class ComparedItem(Part, frozen=True, kw_only=True):
    """The recorded launch screen held against the proof. Lengths in dp or points."""

    ground_difference: Annotated[float, Meta(description="CIEDE2000")] | None
    across: Annotated[float, Meta(description="how far the mark is to the right of where it should be")] | None
    down: float | None
    wide: Annotated[float, Meta(description="how many times it is as wide as it should be")] | None
    high: float | None
    mark_missing: bool
    imprint_missing: bool
    pixels: Annotated[float, Meta(ge=0, le=1, description="share of the pixels that differ clearly")]


class ScreenItem(Part, frozen=True, kw_only=True):
    """The screen that a recording is of."""

    target: Target
    site: SiteName
    system: str
    name: str
    unit: str


class RecordingItem(Part, frozen=True, kw_only=True):
    """One recording."""

    recording: Annotated[str, Meta(description="its file's or folder's name")]
    width: Count
    height: Count
    length_ms: Annotated[float, Meta(ge=0)]
    moments: list[ReplayMomentItem]
    screen: ScreenItem | None
    look: LookName | None
    compared: ComparedItem | None
    findings: list[FindingItem]
    notes: Annotated[list[str], Meta(description="what was converted, or not read")]


class LengthItem(Part, frozen=True, kw_only=True):
    """How long the launch screen was shown in several recordings, in ms."""

    median: float
    least: float
    most: float


class ReplaySummary(Part, frozen=True, kw_only=True):
    """How many recordings there are, and what is wrong."""

    recordings: Count
    broken: Count
    unknown: Count
    launch_ms: LengthItem | None


class ReplayDocument(Document, frozen=True, kw_only=True):
    """What `rivelt replay --json` prints. The keys of the first recording are at the top as well, for who has only one."""

    schema: Literal["rivelt.replay/1"] = "rivelt.replay/1"
    root: Root
    summary: ReplaySummary
    moments: list[ReplayMomentItem]
    screen: ScreenItem | None
    look: LookName | None
    findings: list[FindingItem]
    recordings: list[RecordingItem]
