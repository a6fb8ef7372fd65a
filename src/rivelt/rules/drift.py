"""Rules on what was generated: whether it is what the brief makes, and as it was written."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from rivelt.errors import Place
from rivelt.rules.books import DRIFT
from rivelt.rules.rulebook import BriefSubject, Said, broken, unknown


@dataclass(frozen=True)
class Drift:
    """How a project differs from what its brief makes.

    `edited`: generated files that a person has changed since. `inputs`: files of art that have changed since the last apply. `changes`:
    what apply would do to files, each with its action, path and reason. `unused`: launch images that nothing uses. `problem`: why (a
    part of) it is unknown.
    """

    edited: Sequence[str] = ()
    inputs: Sequence[str] = ()
    changes: Sequence[tuple[str, str, str]] = ()
    unused: Sequence[str] = ()
    problem: str | None = None


@DRIFT.rule("DRF01")
def generated_files_are_current(subject: BriefSubject) -> Iterator[Said]:
    """Apply would change nothing."""
    drift = subject.evidence.drift
    for name in drift.inputs:
        yield broken("this file has changed since the last apply", "Run `rivelt apply`.", Place(name))
    for action, path, why in drift.changes:
        yield broken(f"apply would {action} this file: {why}", "Run `rivelt apply`.", Place(path))
    if drift.problem is not None:
        yield unknown(drift.problem)


@DRIFT.rule("DRF02")
def generated_files_are_not_edited(subject: BriefSubject) -> Iterator[Said]:
    """Generated files are as they were written."""
    drift = subject.evidence.drift
    for path in drift.edited:
        yield broken("a person has edited this generated file", "Move the edit elsewhere.", Place(path))
    if drift.problem is not None and not drift.edited:
        yield unknown(drift.problem)


@DRIFT.rule("DRF03")
def no_unused_launch_images(subject: BriefSubject) -> Iterator[Said]:
    """No launch image is left that nothing uses."""
    drift = subject.evidence.drift
    for path in drift.unused:
        yield broken("nothing uses this launch image", "Run `rivelt apply --prune`.", Place(path))
    if drift.problem is not None:
        yield unknown(drift.problem)
