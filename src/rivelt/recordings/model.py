"""Recorded launches as data."""

from __future__ import annotations

import statistics
from collections import Counter
from collections.abc import Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from rivelt.documents.base import Box, FindingItem
from rivelt.documents.replay import (
    ChangeOfMark,
    ComparedItem,
    LengthItem,
    RecordingItem,
    ReplayDocument,
    ReplayMomentItem,
    ReplaySummary,
    ScreenItem,
)
from rivelt.findings import Finding
from rivelt.scene.launch import Launch, Moment
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from rivelt.recordings.match import Match
    from rivelt.recordings.recording import Recording


class Replay(Struct, frozen=True, eq=False, dict=True):
    """One recording, read. `stills`: the clearest frame of each moment, by its number. `match`: the scene that it was held against."""

    name: str
    size: PixelSize
    end: float
    launch: Launch
    findings: tuple[Finding, ...]
    notes: tuple[str, ...] = ()
    match: Match | None = None
    stills: dict[int, NDArray[np.uint8]] = field(default_factory=dict)
    recording: Recording | None = None

    @cached_property
    def strip(self) -> list[tuple[float, bytes]]:
        """Frames of the recording with their times in ms, as JPEG files no higher than 560 px: all from before the launch to after it, or every so many."""
        if self.recording is None:
            return []
        from rivelt.recordings.recording import strip_of

        inner = [one for one in self.launch.moments if one.kind not in {"home", "first"}]
        start = inner[0].start - 200 if inner else 0.0
        stop = inner[-1].end + 400 if inner else self.end
        return strip_of(self.recording, start, stop)

    @property
    def broken(self) -> tuple[Finding, ...]:
        """What is wrong."""
        return tuple(one for one in self.findings if one.verdict == "broken")

    @property
    def unknown(self) -> tuple[Finding, ...]:
        """What cannot be judged."""
        return tuple(one for one in self.findings if one.verdict == "unknown")

    @property
    def launch_ms(self) -> float | None:
        """How long the launch screen was shown; None where none was."""
        return next((one.length for one in self.launch.of("launch")), None)

    def mark_points(self, moment: Moment) -> Rect | None:
        """Return where the mark of a moment is, in dp or points; None without one, or where the screen is not known."""
        if self.match is None or moment.mark is None:
            return None
        return moment.mark.scaled(self.match.scene.screen.width / self.size.width)

    def _change(self, moment: Moment) -> ChangeOfMark | None:
        """How the mark differs from that of the last moment before that has one."""
        earlier = [one.mark for one in self.launch.moments if one.start < moment.start and one.mark is not None]
        if moment.mark is None or not earlier:
            return None
        before, after = earlier[-1], moment.mark
        return ChangeOfMark(
            across=round(after.centre.x - before.centre.x, 1),
            down=round(after.centre.y - before.centre.y, 1),
            scaled=round(after.width / before.width, 3),
        )

    def _ground(self, moment: Moment) -> str | None:
        """The colour that fills most of a moment; of one that moves, of its clearest frame."""
        if moment.ground is not None:
            return moment.ground.hex[:7]
        still = self.stills.get(moment.clearest)
        if still is None:
            return None
        from rivelt.recordings.seen import seen

        return seen(still).ground.hex[:7]

    @property
    def item(self) -> RecordingItem:
        """The recording for a document."""
        against = self.launch.against
        return RecordingItem(
            recording=self.name,
            width=self.size.width,
            height=self.size.height,
            length_ms=round(self.end, 1),
            moments=[
                ReplayMomentItem(
                    kind=one.kind,
                    start_ms=round(one.start, 1),
                    end_ms=round(one.end, 1),
                    frames=one.frames,
                    ground=self._ground(one),
                    mark=Box.of(one.mark) if one.mark is not None else None,
                    mark_points=None if (points := self.mark_points(one)) is None else Box.of(points),
                    change=self._change(one),
                )
                for one in self.launch.moments
            ],
            screen=None if self.match is None else _screen(self.match),
            look=against.look if against is not None else None,
            compared=None
            if against is None
            else ComparedItem(
                ground_difference=against.ground,
                across=None if against.moved is None else round(against.moved.x, 2),
                down=None if against.moved is None else round(against.moved.y, 2),
                wide=None if against.wide is None else round(against.wide, 3),
                high=None if against.high is None else round(against.high, 3),
                mark_missing=against.is_missing,
                imprint_missing=against.is_imprint_missing,
                pixels=round(against.share, 5),
            ),
            findings=list(map(FindingItem.of, self.findings)),
            notes=list(self.notes),
        )


def _screen(match: Match) -> ScreenItem:
    screen = match.scene.screen
    unit = match.against.unit
    return ScreenItem(target=match.site.target, site=match.site.name, system=screen.system, name=screen.name, unit=unit)


class Replays(Struct, frozen=True):
    """Several recordings of one app. `root`: the folder of the project."""

    replays: tuple[Replay, ...]
    root: Path = Path()

    @property
    def lengths(self) -> tuple[float, ...]:
        """How long the launch screen was shown in each recording that has one, in ms."""
        return tuple(one.launch_ms for one in self.replays if one.launch_ms is not None)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, each once."""
        return tuple(dict.fromkeys(finding for one in self.replays for finding in one.findings))

    def document(self) -> ReplayDocument:
        """Return them as `rivelt replay --json` prints them."""
        items = [one.item for one in self.replays]
        verdicts = Counter(finding.verdict for finding in self.findings)
        return ReplayDocument(
            root=str(self.root),
            summary=ReplaySummary(
                recordings=len(items),
                broken=verdicts["broken"],
                unknown=verdicts["unknown"],
                launch_ms=_length(self.lengths),
            ),
            moments=items[0].moments,
            screen=items[0].screen,
            look=items[0].look,
            findings=list(map(FindingItem.of, self.findings)),
            recordings=items,
        )

    def to_dict(self) -> dict[str, Any]:
        """Return them as plain data, as `rivelt replay --json` prints them."""
        return self.document().to_dict()


def _length(lengths: Sequence[float]) -> LengthItem | None:
    if not lengths:
        return None
    median = statistics.median(lengths)
    return LengthItem(median=round(median, 1), least=round(min(lengths), 1), most=round(max(lengths), 1))
