"""The rule on sites that cannot be handled."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.rules.books import SITES
from rivelt.rules.rulebook import Said, Subject, broken
from rivelt.scene.site import Site


@SITES.rule("SIT01")
def site_can_be_handled(subject: Subject[Site]) -> Iterator[Said]:
    """A site that cannot be read or decided is left untouched."""
    problem = subject.site.blocked
    if problem is not None:
        yield broken(problem.message, problem.hint or "", problem.place)
