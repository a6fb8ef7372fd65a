"""Which kind of launch screen a target is given, and why."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from rivelt.errors import BadInput
from rivelt.layout.context import PlanContext
from rivelt.platforms.ios.facts import ios_facts
from rivelt.platforms.ios.options import IosTable
from rivelt.platforms.ios.site import IosSite


class Decision(Struct, frozen=True):
    """The kind of launch screen. `why`: a sentence on a choice that a person may wonder about, else None."""

    screen: Literal["storyboard", "plist"]
    why: str | None = None


def decide(context: PlanContext, site: IosSite, options: IosTable) -> Decision:
    """Return the kind of launch screen that the brief asks for, or with "auto" the one that suits the target.

    Raises:
        BadInput: the brief asks for one that the oldest system of the target does not know.
    """
    first = ios_facts().levels.dictionary
    is_too_old = site.oldest is not None and site.oldest < first
    if options.screen == "plist":
        if is_too_old:
            message = f"target {site.target_name} runs from iOS {site.oldest} on, and UILaunchScreen is read from iOS {first} on"
            hint = 'Use screen = "storyboard" under [ios].'
            raise BadInput(message, place=context.brief.place("ios.screen"), hint=hint)
        return Decision("plist")
    if options.screen == "storyboard" or not site.other_platforms:
        return Decision("storyboard")
    others = ", ".join(site.other_platforms)
    lost = [name for name in ("imprint", "backdrop") if _has(context, name)]
    if lost or is_too_old:
        reason = (
            f"UILaunchScreen cannot show the {' and the '.join(lost)}"
            if lost
            else f"iOS {site.oldest} has no UILaunchScreen"
        )
        return Decision(
            "storyboard",
            f"{site.target_name} is also built for {others}: the storyboard is for iOS alone, because {reason}",
        )
    return Decision(
        "plist",
        f"{site.target_name} is also built for {others}, where a storyboard does not compile: UILaunchScreen shows all of it",
    )


def _has(context: PlanContext, name: str) -> bool:
    return bool(context.backdrops) if name == "backdrop" else context.has("imprint")
