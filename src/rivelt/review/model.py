"""A review as data: which screens a change makes different, and by how much."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal, NamedTuple, TypeAlias

from msgspec import Struct, field

from rivelt.documents.base import FindingItem
from rivelt.documents.review import ChangeItem, ReviewDocument, ReviewSummary, ShiftItem, WeightItem
from rivelt.findings import Finding
from rivelt.scene.model import Scene, Screen
from rivelt.scene.site import Site
from rivelt.units import Look, Point

if TYPE_CHECKING:
    from rivelt.pixels.pictures import Pictures
    from rivelt.rules.report import Report

Kind: TypeAlias = Literal["changed", "added", "gone"]
State: TypeAlias = Literal["as it is", "as apply would leave it"]


class Shift(Struct, frozen=True):
    """How the mark differs: by how much its middle moved (dp or pt, right and down), and how many times it is as large."""

    moved: Point
    scaled: float


class Difference(Struct, frozen=True):
    """How two scenes of one screen differ, measured on the device's own pixels.

    `share`: of the screen's pixels, 0 to 1. `ground`: the colour difference of the grounds (CIEDE2000); None where one is no flat colour.
    `shift`: how the mark differs; None where one scene has none, or where it lies on a picture.
    """

    share: float
    ground: float | None = None
    shift: Shift | None = None


class Change(Struct, frozen=True):
    """One screen in one look that a change makes different. `before` or `after` is None where the screen was, or is, not there."""

    site: Site
    state: State
    before: Scene | None
    after: Scene | None
    difference: Difference | None = None
    codes_before: tuple[str, ...] = ()
    codes_after: tuple[str, ...] = ()

    @property
    def scene(self) -> Scene:
        """The later scene, or the only one."""
        shown = self.after or self.before
        if shown is None:
            raise ValueError(self)
        return shown

    @property
    def screen(self) -> Screen:
        """The screen."""
        return self.scene.screen

    @property
    def look(self) -> Look:
        """The look."""
        return self.scene.look

    @property
    def kind(self) -> Kind:
        """Whether the screen is different, new, or gone."""
        return "added" if self.before is None else "gone" if self.after is None else "changed"

    @property
    def in_words(self) -> tuple[str, ...]:
        """What is different, in a few words each: "ground ΔE 12.3", "mark moved 4.0 right", "mark 1.25 times as large"."""
        if self.difference is None:
            return ("a new screen",) if self.before is None else ("not shown any more",)
        found = self.difference
        words = [] if not found.ground else [f"ground ΔE {found.ground:.1f}"]
        if found.shift is not None:
            words += _shift_in_words(found.shift)
        words.append(f"{100 * found.share:.1f} % of the pixels" if found.share >= 0.0005 else "a few pixels")
        return tuple(words)


def _shift_in_words(shift: Shift) -> list[str]:
    across, down = shift.moved
    words = []
    if across:
        words.append(f"mark moved {abs(across):.1f} {'right' if across > 0 else 'left'}")
    if down:
        words.append(f"mark moved {abs(down):.1f} {'down' if down > 0 else 'up'}")
    if shift.scaled != 1:
        words.append(f"mark {shift.scaled:.2f} times as large")
    return words


class Weight(NamedTuple):
    """What the launch images of one target weigh before and after, in bytes, and how many there are."""

    before: int
    after: int
    images_before: int
    images_after: int


class Review(Struct, frozen=True, eq=False):
    """What is different between two states of a project.

    `since` and `at`: the revisions, as the person calls them; `at` is "" for the working tree. `same`: how many screens are the same.
    `repacked`: images whose bytes differ and whose pixels do not; `elsewhere`: those that differ and that no screen shown here uses. `unknown`: why parts of the screens are unknown that were not so before; `still_unknown`: those that were. `weights`: by
    target. `added`: what the rules say of the later state and did not say of the earlier; `gone`: the other way round.
    `notes`: what must be known to read it. `root`: the folder of the project.
    """

    name: str
    since: str
    at: str
    changes: tuple[Change, ...]
    same: int
    repacked: tuple[str, ...] = ()
    elsewhere: tuple[str, ...] = ()
    unknown: tuple[str, ...] = ()
    still_unknown: tuple[str, ...] = ()
    weights: Mapping[str, Weight] = field(default_factory=dict)
    added: Report | None = None
    gone: tuple[Finding, ...] = ()
    notes: tuple[str, ...] = ()
    pictures: Pictures | None = None
    root: Path = Path()

    @property
    def later(self) -> str:
        """What the later state is called."""
        return self.at or "the working tree"

    @property
    def new_findings(self) -> tuple[Finding, ...]:
        """What is broken now and was not before."""
        return self.added.findings if self.added is not None else ()

    @property
    def is_clean(self) -> bool:
        """Whether nothing is different, and nothing unknown that was not so before."""
        return not (self.changes or self.unknown or self.new_findings)

    def document(self, written: tuple[str, ...] = ()) -> ReviewDocument:
        """Return the review as `rivelt proof --since --json` prints it; `written`: what was drawn, relative to the root."""
        kinds = [change.kind for change in self.changes]
        return ReviewDocument(
            root=str(self.root),
            summary=ReviewSummary(
                changed=kinds.count("changed"),
                added=kinds.count("added"),
                gone=kinds.count("gone"),
                same=self.same,
                unknown=len(self.unknown),
                findings_added=len(self.new_findings),
                findings_gone=len(self.gone),
            ),
            since=self.since,
            at=self.at or None,
            written=list(written),
            screens=[_item(change) for change in self.changes],
            repacked=list(self.repacked),
            elsewhere=list(self.elsewhere),
            unknown=list(self.unknown),
            still_unknown=list(self.still_unknown),
            weights=[WeightItem(target=target, **weight._asdict()) for target, weight in self.weights.items()],
            findings_added=list(map(FindingItem.of, self.new_findings)),
            findings_gone=list(map(FindingItem.of, self.gone)),
            notes=list(self.notes),
        )

    def to_dict(self) -> dict[str, Any]:
        """Return the review as plain data, as `rivelt proof --since --json` prints it."""
        return self.document().to_dict()


def _item(change: Change) -> ChangeItem:
    found = change.difference
    shift = found.shift if found is not None else None
    before, after = (
        None if scene is None else scene.ground.hex if scene.ground else None for scene in (change.before, change.after)
    )
    return ChangeItem(
        kind=change.kind,
        target=change.site.target,
        site=change.site.name,
        edition=change.site.edition,
        screen=change.screen.name,
        system=change.screen.system,
        look=change.look,
        planned=change.state != "as it is",
        pixels=None if found is None else round(found.share, 6),
        ground_before=before,
        ground_after=after,
        ground_difference=None if found is None or found.ground is None else round(found.ground, 2),
        shift=None
        if shift is None
        else ShiftItem(across=round(shift.moved.x, 2), down=round(shift.moved.y, 2), scaled=round(shift.scaled, 4)),
        findings_before=list(change.codes_before),
        findings_after=list(change.codes_after),
    )
