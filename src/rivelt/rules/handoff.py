"""Rules on what comes after the launch screen."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.rules.books import SITES
from rivelt.rules.rulebook import Said, Subject, broken, once, unknown
from rivelt.scene.model import Scene
from rivelt.scene.site import Site

JUMP = 1.0
"""How far a picture may move from screen to screen, in dp or points."""


@SITES.rule("HND01")
def no_flash(subject: Subject[Site]) -> Iterator[Said]:
    """The ground does not change visibly from the launch screen to the first screen."""
    for handoff in subject.handoffs:
        for step in handoff.steps:
            ground = step.ground
            if ground.colour is None:
                yield unknown(f"the ground of the {ground.moment} is unknown: {ground.source}", look=handoff.look)
            elif step.is_flash:
                message = (
                    f"a flash ({handoff.look}): the {ground.moment} is {ground.colour.hex[:7]}, "
                    f"a colour difference of {step.difference:.0f} from what comes before"
                )
                yield broken(message, ground.fix or "Give both the same ground.", ground.place, look=handoff.look)


@SITES.rule("HND02")
def nothing_jumps(subject: Subject[Site]) -> Iterator[Said]:
    """The pictures of a waiting screen are where the launch screen has them."""
    said = (one for launch, waiting in subject.waiting for one in _jumps(launch, waiting, subject.unit))
    yield from once(said)


def _jumps(launch: Scene, waiting: Scene, unit: str) -> Iterator[Said]:
    reasons = (*launch.unknowns, *waiting.unknowns)
    if reasons:
        yield unknown(reasons[0])
        return
    before = {picture.source: picture.rect for picture in launch.pictures}
    for picture in waiting.pictures:
        if picture.source in before:
            moved = max(abs(a - b) for a, b in zip(before[picture.source], picture.rect, strict=True))
            if moved > JUMP:
                name = picture.source.rpartition("/")[2]
                message = f"{name} jumps by {moved:.0f} {unit} when the waiting screen appears, on {launch.screen.name}"
                fix = "Run `rivelt apply`, which lays both out in the same way."
                yield broken(message, fix, screen=launch.screen.name, look=launch.look)
