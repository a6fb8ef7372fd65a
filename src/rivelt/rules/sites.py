"""The rules on sites as such: whether they can be handled, and what their images weigh."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.errors import Place
from rivelt.rules.books import SITES
from rivelt.rules.rulebook import Said, Subject, broken, unknown
from rivelt.scene.site import Site


@SITES.rule("SIT01")
def site_can_be_handled(subject: Subject[Site]) -> Iterator[Said]:
    """A site that cannot be read or decided is left untouched."""
    problem = subject.site.blocked
    if problem is not None:
        yield broken(problem.message, problem.hint or "", problem.place)


@SITES.rule("SIT02")
def images_are_within_their_budget(subject: Subject[Site]) -> Iterator[Said]:
    """The images of a launch screen weigh no more than the brief allows."""
    brief = subject.evidence.brief_of(subject.site)
    most = brief.check.most_bytes.get(subject.site.target) if brief is not None else None
    if brief is None or most is None:
        return
    images = subject.evidence.made_images(subject.site)
    at = brief.place(f"check.most_bytes.{subject.site.target}") or brief.place("check.most_bytes")
    if not images:
        yield unknown("nothing has been applied yet, so that what the launch images weigh is unknown", at)
        return
    total = sum(images.values())
    if total > most:
        heaviest = max(images, key=lambda path: (images[path], path))
        message = (
            f"the launch images weigh {total:,} bytes, {total - most:,} more than the {most:,} of the brief; "
            f"the heaviest of {len(images)} weighs {images[heaviest]:,}"
        )
        yield broken(
            message, "Store them smaller, use simpler art, or raise most_bytes under [check].", Place(heaviest)
        )
