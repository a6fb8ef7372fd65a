"""Art that has been measured, and what the rules say of it."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from rivelt.brief.model import Brief
from rivelt.disk.tree import AnyPath
from rivelt.documents.art import MeasureDocument, MeasureSummary
from rivelt.documents.base import FindingItem
from rivelt.errors import RiveltError, raise_all
from rivelt.findings import Finding
from rivelt.layout.motion import MotionReport
from rivelt.layout.report import ArtReport, BackdropReport, report_art
from rivelt.rules.books import ART
from rivelt.rules.report import by_severity, counted
from rivelt.rules.rulebook import ArtSubject, broken
from rivelt.rules.runner import Choice, judge
from rivelt.values import replace


class Measured(Struct, frozen=True):
    """The art, the backdrops, and what is wrong with them, by the name of the file. `root`: the folder that those names are relative to.

    `motions`: marks that move.
    """

    art: Sequence[ArtReport]
    backdrops: Sequence[BackdropReport]
    findings_of: Mapping[str, Sequence[Finding]]
    root: Path = Path()
    motions: Sequence[MotionReport] = ()

    @property
    def findings(self) -> Sequence[Finding]:
        """All that is wrong, most severe first."""
        return by_severity(one for found in self.findings_of.values() for one in found)

    @property
    def document(self) -> MeasureDocument:
        """What was measured, as `rivelt measure --json` prints it."""
        named = [replace(one, path=name) for name, found in self.findings_of.items() for one in found]
        return MeasureDocument(
            root=str(self.root.resolve()),
            summary=MeasureSummary(art=len(self.art), backdrops=len(self.backdrops), **counted(named)),
            art=[one.item for one in self.art],
            backdrops=[one.item for one in self.backdrops],
            motions=[one.item for one in self.motions],
            findings=list(map(FindingItem.of, by_severity(named))),
        )

    def to_dict(self) -> dict[str, Any]:
        """Return what was measured as plain data, as `rivelt measure --json` prints it."""
        return self.document.to_dict()


def measured(
    art: Sequence[ArtReport], backdrops: Sequence[BackdropReport], choice: Choice, brief: Brief | None = None
) -> Measured:
    """Return art with what the wanted rules find wrong with it."""
    found: dict[str, list[Finding]] = {}
    for name, one in _judged(art, backdrops, choice, brief):
        if one.verdict == "broken":
            found.setdefault(name, []).append(one)
    return Measured(art, backdrops, found, brief.folder if brief is not None else Path())


def joined(parts: Iterable[Measured]) -> Measured:
    """Return what was measured for several editions as one: what they share is there once."""
    art: list[ArtReport] = []
    backdrops: list[BackdropReport] = []
    found: dict[str, dict[Finding, None]] = {}
    motions: list[MotionReport] = []
    root = Path()
    for part in parts:
        root = part.root
        motions += [one for one in part.motions if one not in motions]
        art += [one for one in part.art if one not in art]
        backdrops += [one for one in part.backdrops if one not in backdrops]
        for name, its in part.findings_of.items():
            found.setdefault(name, {}).update(dict.fromkeys(its))
    return Measured(art, backdrops, {name: tuple(its) for name, its in found.items()}, root, motions)


def judged(
    art: Iterable[ArtReport], backdrops: Iterable[BackdropReport], choice: Choice, brief: Brief | None
) -> Iterator[Finding]:
    """Yield what the wanted rules say of art."""
    return (one for _, one in _judged(art, backdrops, choice, brief))


def _judged(
    art: Iterable[ArtReport], backdrops: Iterable[BackdropReport], choice: Choice, brief: Brief | None
) -> Iterator[tuple[str, Finding]]:
    """What the wanted rules say of art, each with the name of the file."""
    subjects = [(piece.art.name, ArtSubject(art=piece, brief=brief)) for piece in art]
    subjects += [(backdrop.art.name, ArtSubject(backdrop=backdrop, brief=brief)) for backdrop in backdrops]
    for name, subject in subjects:
        path = name if brief is not None else None  # alone, the message names it
        yield from ((name, one) for one in judge(ART, subject, choice, path=path))


def unusable(error: RiveltError, choice: Choice, brief: Brief) -> Iterator[Finding]:
    """Yield what the wanted rules say of art that cannot be used."""
    for part in error.parts:
        said = broken(part.message, part.hint or "", part.place)
        yield from judge(ART, ArtSubject(problem=said, brief=brief), choice, path=brief.path.name)


def measure_files(paths: Iterable[AnyPath]) -> Measured:
    """Measure art that no brief names, and judge it by all rules.

    Raises:
        BadInput: a file cannot be used; `Problems` for several.
    """
    from rivelt.art.files import read_file
    from rivelt.art.measure import measured as measure
    from rivelt.art.source import read_art

    problems: list[RiveltError] = []
    reports: list[ArtReport] = []
    for path in paths:
        try:
            name = os.fspath(path)
            reports.append(report_art(measure(read_art(read_file(Path(name), name), name))))
        except RiveltError as error:
            problems.append(error)
    raise_all(problems)
    return measured(reports, (), Choice())
