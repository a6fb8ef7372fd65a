"""A layout for the app's own first moment, equal to the launch screen, with a progress indicator."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.layout.context import PlanContext
from rivelt.plan.model import ManualStep, WriteFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.site import AndroidSite
from rivelt.templating import Templates
from rivelt.units import Look

_TEMPLATES = Templates("rivelt.platforms.android")
_GAP, _BAR = 16.0, 32.0
"""Dp between the mark (or its disc) and the indicator, and the indicator's side."""


def waiting(context: PlanContext, names: Names) -> Iterator[WriteFile]:
    """Yield the layout, and the disc as a shape if a look has one."""
    discs = {look: context.brief.looks[look].disc is not None for look in context.brief.shown_looks}
    looks: tuple[Look, ...] = (
        context.looks("mark") if len(context.looks("mark")) > 1 or len(set(discs.values())) > 1 else ("light",)
    )
    for look in looks:
        folder = "layout-night" if look == "dark" else "layout"
        yield WriteFile(
            f"{folder}/{names.waiting}.xml", _layout(context, names, look).encode(), "the app's first moment"
        )
    if any(discs.values()):
        yield WriteFile(
            f"drawable/{names.disc}.xml", _TEMPLATES.render("disc.xml.j2", names=names).encode(), "the disc as a shape"
        )


def _layout(context: PlanContext, names: Names, look: Look) -> str:
    has_disc = context.brief.looks[look].disc is not None
    icon = android_facts().geometry(has_disc=has_disc)
    return _TEMPLATES.render(
        "waiting.xml.j2",
        names=names,
        disc=f"{icon.mask:g}" if has_disc else None,
        side=f"{icon.side:g}",
        bar=f"{_BAR:g}",
        has_mark=context.has("mark"),
        below=f"{(icon.mask / 2 if has_disc else _reach_below(context, look)) + _GAP + _BAR / 2:.1f}",
    )


def _reach_below(context: PlanContext, look: Look) -> float:
    """How far the visible mark reaches below the middle, in dp."""
    if not context.has("mark"):
        return 0.0
    icon = android_facts().icon
    found = context.art[look, "mark"]
    (placement,) = context.mark_in_circle(look, icon.side, icon.mask, 1.0).placed
    scale = placement.box.height / found.art.size.height
    return placement.box.y + found.extent.bounds.bottom * scale - icon.side / 2


def show_step(site: AndroidSite, names: Names) -> ManualStep:
    """Return how the layout is shown."""
    semicolon = ";" if site.source is not None and site.source.language == "Java" else ""
    title = f"While the app loads, show its first moment in {site.activity}, after super.onCreate(...)"
    return ManualStep(
        title, site.source.path if site.source else None, (f"setContentView(R.layout.{names.waiting}){semicolon}",)
    )
