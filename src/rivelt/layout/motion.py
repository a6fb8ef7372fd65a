"""What is known of a mark that moves: where it is at every frame, and how near it comes to the edge of the mask."""

from __future__ import annotations

from msgspec import Struct

from rivelt.documents import art as documents
from rivelt.documents.base import Box
from rivelt.units import Look, Rect

FRAMES_A_SECOND = 60
_SOFT = 0.5  # dp: edges are soft


class MomentReport(Struct, frozen=True):
    """A moving icon at a time (ms): the bounds of what is seen (dp; None: nothing is), and how far that reaches from its middle."""

    after_ms: float
    bounds: Rect | None
    reach: float


class MotionReport(Struct, frozen=True):
    """A moving icon of one look. `name`: what it is made from. `length_ms`: how long it moves. `radius`: of the mask, in dp.

    `unknown`: why it could not be measured.
    """

    name: str
    look: Look
    length_ms: float
    radius: float
    moments: tuple[MomentReport, ...]
    unknown: str = ""

    @property
    def farthest(self) -> MomentReport | None:
        """The moment at which it reaches farthest; None where it could not be measured."""
        return max(self.moments, key=lambda moment: moment.reach, default=None)

    @property
    def is_cut(self) -> bool | None:
        """Whether the mask cuts it at some moment; None where it could not be measured."""
        farthest = self.farthest
        return None if farthest is None else farthest.reach > self.radius + _SOFT

    @property
    def item(self) -> documents.MotionItem:
        """What is known of it, for a document."""
        return documents.MotionItem(
            name=self.name,
            look=self.look,
            length_ms=self.length_ms,
            radius=self.radius,
            farthest=None if self.farthest is None else round(self.farthest.reach, 3),
            cut=self.is_cut,
            unknown=self.unknown,
            moments=[
                documents.MotionMoment(
                    after_ms=round(moment.after_ms, 3),
                    bounds=None if moment.bounds is None else Box.of(moment.bounds),
                    reach=round(moment.reach, 3),
                )
                for moment in self.moments
            ],
        )
