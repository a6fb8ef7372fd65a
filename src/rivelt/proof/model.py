"""A proof as data: which scenes are shown, and of what."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from msgspec import Struct, field

from rivelt.brief.find import placed_in
from rivelt.documents import scenes as documents
from rivelt.documents.base import Box, Circle, Dimensions, FindingItem, Problem
from rivelt.documents.work import LeftAlone
from rivelt.errors import RiveltError
from rivelt.findings import Finding
from rivelt.scene.handoff import Handoff
from rivelt.scene.model import Fill, Layer, Picture, Scene, TextBox, Unknown
from rivelt.scene.site import Site
from rivelt.units import Circle as CircleShape
from rivelt.units import Look, Rect

if TYPE_CHECKING:
    from rivelt.pixels.pictures import Pictures


class Mark(Struct, frozen=True):
    """A place on a screen (dp or pt) where something is wrong, with the codes of the findings."""

    rect: Rect
    codes: tuple[str, ...]


class Motion(Struct, frozen=True):
    """What moves on a launch screen of a site in one look: the scenes at evenly spaced times; the last is at its end."""

    site: Site
    look: Look
    scenes: tuple[Scene, ...]

    @property
    def length_ms(self) -> float | None:
        """How long it moves; None where that is not known."""
        return self.scenes[-1].screen.moment_ms


class Proof(Struct, frozen=True, eq=False):
    """The scenes of a project by site and screen, the looks of one screen next to each other.

    `brief` is its path as people see it. `is_planned`: the project as apply would leave it. `blocked`: sites that cannot be shown.
    `before`: the same screens as the project is now, if they are wanted. `clearance`: the free ring inside a mask, as a share of its
    diameter; 0 when no brief says it. `handoffs`: one for each site and look. `motions`: the same where something moves. `marks`: what is wrong where, by the `id` of a scene.
    `findings`: what the marks are about, most severe first. `pictures`: what has decoded the bitmaps of the scenes. `root`: the folder of the
    project. `is_all`: each screen is drawn, also those that look the same.
    """

    name: str
    brief: str
    is_planned: bool
    scenes: tuple[tuple[Site, Scene], ...]
    blocked: Mapping[Site, RiveltError]
    before: tuple[tuple[Site, Scene], ...] = ()
    clearance: float = 0.0
    handoffs: tuple[Handoff, ...] = ()
    motions: tuple[Motion, ...] = ()
    marks: Mapping[int, tuple[Mark, ...]] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    pictures: Pictures | None = None
    root: Path = Path()
    is_all: bool = False

    def marks_of(self, scene: Scene) -> tuple[Mark, ...]:
        """Return what is wrong on a scene of this proof."""
        return self.marks.get(id(scene), ())

    def codes_of(self, scene: Scene) -> tuple[str, ...]:
        """Return the codes of what is wrong on a scene of this proof, each once."""
        return tuple(sorted({code for mark in self.marks_of(scene) for code in mark.codes}))

    def document(self, written: tuple[str, ...] = ()) -> documents.ProofDocument:
        """Return the proof as `rivelt proof --json` prints it; `written`: what was drawn, relative to the root."""
        return documents.ProofDocument(
            root=str(self.root),
            summary=documents.ProofSummary(
                scenes=len(self.scenes),
                unknown=sum(bool(scene.unknowns) for _, scene in self.scenes),
                findings=len(self.findings),
                flashes=sum(step.is_flash for handoff in self.handoffs for step in handoff.steps),
                left_alone=len(self.blocked),
            ),
            planned=self.is_planned,
            written=list(written),
            scenes=[self._item(site, scene) for site, scene in self.scenes],
            before=[self._item(site, scene) for site, scene in self.before],
            handoffs=list(map(_handoff_item, self.handoffs)),
            motions=[
                documents.MotionItem(
                    target=found.site.target,
                    site=found.site.name,
                    edition=found.site.edition,
                    look=found.look,
                    length_ms=found.length_ms,
                    unknown=list(dict.fromkeys(reason for scene in found.scenes for reason in scene.unknowns)),
                )
                for found in self.motions
            ],
            findings=list(map(FindingItem.of, self.findings)),
            left_alone=[
                LeftAlone(
                    target=site.target, site=site.name, reason=Problem.of(reason, placed_in(self.root, [site.brief]))
                )
                for site, reason in self.blocked.items()
            ],
        )

    def to_dict(self) -> dict[str, Any]:
        """Return the proof as plain data, as `rivelt proof --json` prints it."""
        return self.document().to_dict()

    def _item(self, site: Site, scene: Scene) -> documents.SceneItem:
        screen = scene.screen
        return documents.SceneItem(
            target=site.target,
            site=site.name,
            edition=site.edition,
            variants=list(site.variants),
            screen=screen.name,
            system=screen.system,
            device=documents.DeviceItem(
                width=screen.width,
                height=screen.height,
                scale=screen.scale,
                corner=screen.corner,
                safe_area=Box.of(screen.safe_area),
                version=screen.version,
            ),
            look=scene.look,
            ground=scene.ground.hex if scene.ground else None,
            mask=Circle.of(scene.mask) if scene.mask is not None else None,
            shows=scene.title,
            sources=list(dict.fromkeys(source for layer in scene.layers if (source := getattr(layer, "source", "")))),
            unknown=list(scene.unknowns),
            findings=list(self.codes_of(scene)),
            marks=[documents.MarkItem(rect=Box.of(mark.rect), codes=list(mark.codes)) for mark in self.marks_of(scene)],
            layers=list(map(_layer_item, scene.layers)),
        )


def _layer_item(layer: Layer) -> documents.LayerItem:
    picture = layer if isinstance(layer, Picture) else None
    text = layer if isinstance(layer, TextBox) else None
    clip = picture.clip if picture is not None else None
    tile = picture.tile if picture is not None else None
    colour = picture.tint if picture is not None else getattr(layer, "colour", None)
    kinds: dict[type[Layer], Literal["fill", "picture", "text", "unknown"]] = {
        Fill: "fill",
        Picture: "picture",
        TextBox: "text",
        Unknown: "unknown",
    }
    return documents.LayerItem(
        kind=kinds[type(layer)],
        rect=Box.of(layer.rect),
        round=isinstance(layer, Fill | Unknown) and layer.is_round,
        colour=colour.hex if colour is not None else None,
        source=getattr(layer, "source", None),
        clip_rect=Box.of(clip) if clip is not None and not isinstance(clip, CircleShape) else None,
        clip_circle=Circle.of(clip) if isinstance(clip, CircleShape) else None,
        tile=None
        if tile is None
        else documents.TileItem(width=tile.size.width, height=tile.size.height, across=tile.across, down=tile.down),
        opacity=picture.opacity if picture is not None else 1.0,
        mirrored=picture is not None and picture.is_mirrored,
        pixels=None
        if picture is None or (size := picture.image.size) is None
        else Dimensions(width=size.width, height=size.height),
        text=text.text if text is not None else None,
        font_size=text.font_size if text is not None else None,
        reason=layer.reason if isinstance(layer, Unknown) else None,
    )


def _handoff_item(handoff: Handoff) -> documents.HandoffItem:
    return documents.HandoffItem(
        target=handoff.site.target,
        site=handoff.site.name,
        edition=handoff.site.edition,
        look=handoff.look,
        steps=[
            documents.MomentItem(
                moment=step.ground.moment,
                ground=step.ground.colour.hex if step.ground.colour else None,
                source=step.ground.source,
                difference=None if step.difference is None else round(step.difference, 1),
                flash=step.is_flash,
            )
            for step in handoff.steps
        ],
    )
