"""Notes on a plan for the person: sizes, limits of systems, and what could not be read."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.art.measure import measured
from rivelt.layout.context import PlanContext
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.code import unknown_name
from rivelt.platforms.android.make.launch_theme import Theme
from rivelt.platforms.android.make.mark import Marks
from rivelt.platforms.android.moving import moving_art
from rivelt.platforms.android.options import AndroidTable
from rivelt.platforms.android.site import AndroidSite
from rivelt.project.project import Project

_SAME_SIZE = 0.15


def plan_notes(context: PlanContext, project: Project, site: AndroidSite, theme: Theme, mark: Marks) -> Iterator[str]:
    """Yield the notes on a plan for a site, each a plain sentence without its full stop."""
    yield from _sizes(context, site, mark)
    yield from _limits(context, site, theme)
    options = context.brief.table("android", AndroidTable)
    source, condition = site.source, options.hold_while
    if source is not None and source.problem is None and condition is not None:
        name = unknown_name(project, source, condition)
        if name:
            yield f"`android.hold_while` begins with {name}, which the activity neither declares nor imports: see that it compiles"
    if not any(folder.has_system_screen for folder in theme.folders()):
        level = site.compile_sdk
        yield (
            f"compileSdk is {level}: what Android 12 and later show can be set from compileSdk 31 on"
            if level is not None
            else "compileSdk is unknown, so that what Android 12 and later show is left out; say it: compile_sdk = 35 under [android]"
        )


def _sizes(context: PlanContext, site: AndroidSite, mark: Marks) -> Iterator[str]:
    for look in context.looks("mark"):
        icon = android_facts().geometry(has_disc=context.brief.looks[look].disc is not None, device=site.device)
        if note := context.mark_note(look, icon.mask):
            yield note
    yield from mark.notes
    yield from _sizes_of_motion(context)


def _sizes_of_motion(context: PlanContext) -> Iterator[str]:
    """Where a moving icon is of another size than the still mark, which older systems show."""
    moments = moving_art(context)
    if not moments or not context.has("mark"):
        return
    longest = max(measured(art).extent.bounds.size.longer for art in moments)
    wanted = context.mark_size
    if wanted == "fit":
        wanted = context.art["light", "mark"].extent.bounds.size.longer * context.mark_scale("light")
    if abs(longest - wanted) > _SAME_SIZE * wanted:
        yield f"the moving icon is up to {longest:.0f} dp long, and the still mark {wanted:.0f} dp: both are seen, on different systems"


def _limits(context: PlanContext, site: AndroidSite, theme: Theme) -> Iterator[str]:
    """What some devices and systems show in another way."""
    facts = android_facts()
    if site.device == "watch":
        for look in context.brief.shown_looks:
            ground = context.brief.looks[look].ground
            if max(ground[:3]) > 0:
                yield f"{site.name} is made for watches, for which a black ground is recommended; the {look} one is {ground.hex}"
    if theme.has_window and theme.min_sdk < facts.levels.sized_layers:
        yield f'Android 5 (API {theme.min_sdk} to {facts.levels.sized_layers - 1}) shows bitmaps at the size of their density, and white icons on its bars: `rivelt proof --screens "API 21"` shows it'
    if theme.motion_ms and theme.min_sdk < facts.levels.system_launch_screen:
        last = facts.levels.system_launch_screen - 1
        yield f"up to Android 11 (API {theme.min_sdk} to {last}) the mark stands still: neither the system nor the compatibility library moves it there"
    if context.backdrops:
        yield "Android 12 and later show no picture behind the mark: there the ground is flat; up to Android 11 the backdrop is shown"
