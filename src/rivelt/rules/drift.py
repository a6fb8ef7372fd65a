"""Rules on what was generated: whether it is what the brief makes, and as it was written."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct, field

from rivelt.errors import Place
from rivelt.rules.books import DRIFT
from rivelt.rules.rulebook import BriefSubject, Said, broken, unknown


class Difference(Struct, frozen=True):
    """What apply would do to one file for one site."""

    site: str
    action: str
    path: str
    why: str


class Drift(Struct, frozen=True):
    """How a project differs from what its brief makes.

    `edited`: generated files that a person has changed since. `inputs`: by site ("ios App"), the files of art that have changed since the
    last apply. `changes`: what apply would do to files. `unused`: launch images that nothing uses. `problem`: why (a part of) it is
    unknown.
    """

    edited: Sequence[str] = ()
    inputs: Mapping[str, Sequence[str]] = field(default_factory=dict)
    changes: Sequence[Difference] = ()
    unused: Sequence[str] = ()
    problem: str | None = None


@DRIFT.rule("DRF01")
def generated_files_are_current(subject: BriefSubject) -> Iterator[Said]:
    """Apply would change nothing."""
    drift = subject.drift
    by_site: dict[str, list[Difference]] = {}
    for one in drift.changes:
        by_site.setdefault(one.site, []).append(one)
    for site, names in drift.inputs.items():
        for name in names:
            count = len(by_site.pop(site, ()))
            more = f"; apply would change {count} file{'s' * (count != 1)} of {site}" if count else f": {site}"
            message = f"{name} has changed since the last apply{more}"
            yield broken(message, "Run `rivelt apply`.", _place_of_art(subject, name))
    for site, changes in by_site.items():
        first = changes[0]
        if len(changes) == 1:
            message = f"apply would {first.action} this file: {first.why}"
            yield broken(message, "Run `rivelt apply`.", Place(first.path))
        else:
            message = f"apply would change {len(changes)} files of {site}: {first.path} ({first.why}) and {len(changes) - 1} more"
            yield broken(message, "Run `rivelt apply`; see them with: rivelt apply --dry-run", Place(first.path))
    if drift.problem is not None:
        yield unknown(drift.problem)


def _place_of_art(subject: BriefSubject, name: str) -> Place | None:
    """The line of the brief that names a file."""
    brief = subject.brief
    for look, shown in brief.looks.items():
        for key in ("mark", "imprint", "backdrop"):
            if getattr(shown, key) == name and (place := brief.place(f"{look}.{key}")) is not None:
                return place
    for target, options in brief.options.items():
        for key, path in options.files().items():
            if path == name:
                return brief.place(f"{target}.{key}")
    return Place(name)


@DRIFT.rule("DRF02")
def generated_files_are_not_edited(subject: BriefSubject) -> Iterator[Said]:
    """Generated files are as they were written."""
    drift = subject.drift
    for path in drift.edited:
        yield broken("a person has edited this generated file", "Move the edit elsewhere.", Place(path))
    if drift.problem is not None and not drift.edited:
        yield unknown(drift.problem)


@DRIFT.rule("DRF03")
def no_unused_launch_images(subject: BriefSubject) -> Iterator[Said]:
    """No launch image is left that nothing uses."""
    drift = subject.drift
    for path in drift.unused:
        yield broken("nothing uses this launch image", "Run `rivelt apply --prune`.", Place(path))
    if drift.problem is not None:
        yield unknown(drift.problem)
