"""What `proof` prints: every scene as data, exact enough to draw it."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from rivelt.documents.base import (
    Box,
    Circle,
    Code,
    Colour,
    Count,
    Dimensions,
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
from rivelt.documents.work import LeftAlone


class TileItem(Part, frozen=True, kw_only=True):
    """One of the images that fill a rectangle, side by side, and how each direction continues."""

    width: float
    height: float
    across: Literal["clamp", "repeat", "mirror"]
    down: Literal["clamp", "repeat", "mirror"]


class LayerItem(Part, frozen=True, kw_only=True):
    """One layer of a scene, from the back to the front. What its kind does not have is null."""

    kind: Literal["fill", "picture", "text", "unknown"]
    rect: Annotated[Box, Meta(description="in dp or points")]
    round: Annotated[bool, Meta(description="the ellipse inside the rectangle, not all of it")]
    colour: Annotated[Colour, Meta(description="of a fill and of a text; the tint of a picture")] | None
    source: Annotated[str, Meta(description="the file, or the resource, that it comes from")] | None
    clip_rect: Annotated[Box, Meta(description="what is outside is not shown")] | None
    clip_circle: Annotated[Circle, Meta(description="what is outside is not shown")] | None
    tile: TileItem | None
    opacity: Annotated[float, Meta(ge=0, le=1)]
    mirrored: Annotated[bool, Meta(description="left and right are changed")]
    pixels: Annotated[Dimensions, Meta(description="size of the picture in px; null for a vector")] | None
    text: str | None
    font_size: float | None
    reason: Annotated[str, Meta(description="why it is unknown")] | None


class DeviceItem(Part, frozen=True, kw_only=True):
    """A screen, in its current orientation: lengths in dp or points."""

    width: float
    height: float
    scale: Annotated[float, Meta(description="pixels per dp or point")]
    corner: Annotated[float, Meta(description="radius of its corners")]
    safe_area: Box
    version: Annotated[int, Meta(description="API level, or major version of the system")]


class MarkItem(Part, frozen=True, kw_only=True):
    """A place on a screen where something is wrong."""

    rect: Box
    codes: list[Code]


class SceneItem(Part, frozen=True, kw_only=True):
    """What one screen shows at launch in one look."""

    target: Target
    site: SiteName
    edition: Edition
    variants: list[str]
    screen: Annotated[str, Meta(description="name of the screen")]
    system: Annotated[str, Meta(description="name of the system, such as Android 12 and later")]
    device: DeviceItem
    look: LookName
    ground: Annotated[Colour, Meta(description="what fills the screen behind everything, if one colour does")] | None
    mask: Annotated[Circle, Meta(description="the one that the system cuts the mark with")] | None
    shows: Annotated[str, Meta(description="in words")]
    sources: Annotated[list[str], Meta(description="the files that it was worked out from")]
    unknown: Annotated[list[str], Meta(description="why parts of it are unknown")]
    findings: Annotated[list[Code], Meta(description="codes of what is wrong on it")]
    marks: list[MarkItem]
    layers: list[LayerItem]


class MomentItem(Part, frozen=True, kw_only=True):
    """One moment of the start."""

    moment: str
    ground: Colour | None
    source: str
    difference: Annotated[float, Meta(description="CIEDE2000 to the moment before")] | None
    flash: bool


class HandoffItem(Part, frozen=True, kw_only=True):
    """What a person sees from the launch screen to the app's first screen."""

    target: Target
    site: SiteName
    edition: Edition
    look: LookName
    steps: list[MomentItem]


class MotionItem(Part, frozen=True, kw_only=True):
    """A mark that moves on the launch screen."""

    target: Target
    site: SiteName
    edition: Edition
    look: LookName
    length_ms: Annotated[float, Meta(ge=0, description="how long it moves; null where that is not known")] | None
    unknown: Annotated[list[str], Meta(description="why moments of it are not shown")]


class ProofSummary(Part, frozen=True, kw_only=True):
    """How many scenes there are, and what is wrong."""

    scenes: Count
    unknown: Annotated[Count, Meta(description="scenes of which a part is unknown")]
    findings: Count
    flashes: Count
    left_alone: Count


class ProofDocument(Document, frozen=True, kw_only=True):
    """What `rivelt proof --json` prints. It draws nothing unless --out is given."""

    schema: Literal["rivelt.proof/1"] = "rivelt.proof/1"
    root: Root
    summary: ProofSummary
    planned: Annotated[bool, Meta(description="as apply would leave the project, not as it is")]
    written: Annotated[list[RelativePath], Meta(description="the sheet or the page, if --out asked for one")]
    scenes: list[SceneItem]
    before: Annotated[list[SceneItem], Meta(description="the same screens as the project is, with --beside")]
    handoffs: list[HandoffItem]
    motions: list[MotionItem]
    findings: Annotated[list[FindingItem], Meta(description="what the marks on the scenes are about")]
    left_alone: list[LeftAlone]
