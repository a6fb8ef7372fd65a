"""What `measure` and `plates` print."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.documents.base import (
    Box,
    Bytes,
    Circle,
    Colour,
    Count,
    Dimensions,
    Document,
    FindingItem,
    LookName,
    Part,
    Point,
    RelativePath,
    Root,
)


class Stroke(Part, frozen=True, kw_only=True):
    """The thinnest stroke of a drawing: `width` is null if it has no strokes, `shown` if the size at which it is shown is unknown."""

    width: Annotated[float, Meta(description="in art units")] | None
    shown: Annotated[float, Meta(description="in dp or points")] | None


class MaskFit(Part, frozen=True, kw_only=True):
    """How large the visible part may be under a circular mask, in dp."""

    mask: Annotated[float, Meta(description="diameter")]
    width: float
    height: float


class ContrastItem(Part, frozen=True, kw_only=True):
    """Contrast ratios (1 to 21) along the outline of the art on the ground of a look."""

    share: Annotated[float, Meta(ge=0, le=1, description="the part of the outline that reaches 3:1")]
    least: float
    tenth: Annotated[float, Meta(description="a tenth of the outline is below this")]
    median: float
    weakest: Annotated[Box, Meta(description="where it is weakest, in art units")]
    weakest_ratio: float


class SharpnessItem(Part, frozen=True, kw_only=True):
    """Up to which plate a bitmap is sharp."""

    largest: Annotated[float, Meta(description="the most plate pixels there are for one of its own")]
    sharp: Annotated[list[str], Meta(description="the plates that do not enlarge it")]
    enlarged: Annotated[dict[str, float], Meta(description="the plates that do, each with its factor")]
    wanted: Annotated[Dimensions, Meta(description="the size that would be sharp everywhere, in px")]


class OutlineItem(Part, frozen=True, kw_only=True):
    """Whether a vector can be held as plain outlines."""

    faithful: bool
    shapes: Count
    difference: Annotated[float, Meta(description="mean difference to the source when drawn back, of 255")]
    unsupported: Annotated[list[str], Meta(description="what outlines cannot hold")]


class ArtItem(Part, frozen=True, kw_only=True):
    """One file of art: lengths are in its own units (CSS pixels of an SVG, pixels of a bitmap) unless it says otherwise."""

    file: RelativePath
    role: Annotated[str, Meta(description="mark or imprint")] | None
    looks: list[LookName]
    kind: Annotated[str, Meta(description="SVG, PNG, JPEG or WebP")]
    width: float
    height: float
    frames: Annotated[int, Meta(description="more than 1 for a moving picture, of which only the first frame is used")]
    bounds: Annotated[Box, Meta(description="of what is visible")]
    hull: Annotated[list[Point], Meta(description="the convex hull of what is visible")]
    circle: Annotated[Circle, Meta(description="the smallest one round what is visible")]
    mass: Annotated[Point, Meta(description="the centre of mass of its paint")]
    thinnest: Stroke
    fits: list[MaskFit]
    contrast: Annotated[dict[str, ContrastItem], Meta(description="by look")]
    sharpness: SharpnessItem | None
    outline: OutlineItem | None


class BackdropItem(Part, frozen=True, kw_only=True):
    """A backdrop, and how it covers every screen of the targets."""

    file: RelativePath
    looks: list[LookName]
    width: float
    height: float
    common: Annotated[Box, Meta(description="the part that every screen shows, in its own pixels")]
    focus: Point
    screens: Count
    cut: Annotated[list[str], Meta(description="the screens that do not show the focus")]
    enlarged: float
    ground: Annotated[Colour, Meta(description="taken from its border where the brief has none")] | None


class MeasureSummary(Part, frozen=True, kw_only=True):
    """How many files were measured, and how many findings there are of each severity."""

    art: Count
    backdrops: Count
    errors: Count
    warnings: Count
    notes: Count


class MotionMoment(Part, frozen=True, kw_only=True):
    """A moving icon at one time."""

    after_ms: Annotated[float, Meta(ge=0)]
    bounds: Annotated[Box, Meta(description="of what is seen, in dp from the icon's upper left corner")] | None
    reach: Annotated[float, Meta(ge=0, description="how far it reaches from the middle of the icon, in dp")]


class MotionItem(Part, frozen=True, kw_only=True):
    """A mark that moves, at every frame."""

    name: Annotated[str, Meta(description="what it is made from")]
    look: LookName
    length_ms: Annotated[float, Meta(ge=0)]
    radius: Annotated[float, Meta(description="of the circle that the system cuts, in dp")]
    farthest: Annotated[float, Meta(ge=0, description="the largest reach, in dp; null where unknown")] | None
    cut: Annotated[bool, Meta(description="whether the circle cuts it at some time; null where unknown")] | None
    unknown: Annotated[str, Meta(description="why it could not be measured")]
    moments: list[MotionMoment]


class MeasureDocument(Document, frozen=True, kw_only=True):
    """What `rivelt measure` prints: numbers about the art."""

    schema: Literal["rivelt.measure/1"] = "rivelt.measure/1"
    root: Root
    summary: MeasureSummary
    art: list[ArtItem]
    backdrops: list[BackdropItem]
    motions: list[MotionItem]
    findings: Annotated[list[FindingItem], Meta(description="the path of each is the file of the art")]


class PlateItem(Part, frozen=True, kw_only=True):
    """An image that was written."""

    path: RelativePath
    bytes: Bytes


class PlatesSummary(Part, frozen=True, kw_only=True):
    """How many images were written, and what they weigh together."""

    plates: Count
    bytes: Bytes


class PlatesDocument(Document, frozen=True, kw_only=True):
    """What `rivelt plates` prints. Its root is the folder, or the ZIP file, that was written."""

    schema: Literal["rivelt.plates/1"] = "rivelt.plates/1"
    root: Root
    summary: PlatesSummary
    plates: list[PlateItem]
