"""The window's background up to Android 11: ground, backdrop, disc, mark and imprint in layers."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt.layout.context import PlanContext
from rivelt.plan.model import Plate, WriteFile
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.make.plates import disc_plates, drawable_folder
from rivelt.platforms.android.names import Names
from rivelt.platforms.android.options import AndroidTable
from rivelt.templating import Templates
from rivelt.units import Look

_TEMPLATES = Templates("rivelt.platforms.android")


def window(
    context: PlanContext, options: AndroidTable, names: Names, min_sdk: int, *, has_vector: bool
) -> tuple[list[WriteFile], list[Plate]]:
    """Return the layer list in each folder it is needed in, and the plates that it alone needs.

    From API 23 a layer has a size of its own; before, only a bitmap keeps one.
    """
    sized = android_facts().levels.sized_layers
    discs = {look: context.brief.looks[look].disc is not None for look in context.brief.shown_looks}
    needs_sizes = has_vector or any(discs.values())
    files: list[WriteFile] = []
    plates: list[Plate] = []
    looks: tuple[Look, ...] = context.brief.shown_looks if len(set(discs.values())) > 1 else ("light",)
    for look in looks:
        variants = [("", needs_sizes and min_sdk >= sized)]
        if needs_sizes and min_sdk < sized:
            variants.append((f"v{sized}", True))
        for qualifier, is_sized in variants:
            text = _layers(context, names, has_disc=discs[look], is_sized=is_sized)
            path = f"{drawable_folder(look, qualifier)}/{names.window}.xml"
            files.append(WriteFile(path, text.encode(), "the window's background up to Android 11"))
    if min_sdk < sized:
        plates += _discs(context, options, names)
    return files, plates


def _discs(context: PlanContext, options: AndroidTable, names: Names) -> Iterator[Plate]:
    for look in context.brief.shown_looks:
        if context.brief.looks[look].disc is not None:
            yield from disc_plates(context, options, names, look)


def _layers(context: PlanContext, names: Names, *, has_disc: bool, is_sized: bool) -> str:
    facts = android_facts()
    return _TEMPLATES.render(
        "window.xml.j2",
        names=names,
        has_backdrop=bool(context.backdrops),
        has_disc=has_disc,
        has_mark=context.has("mark"),
        has_imprint=context.has("imprint"),
        is_sized=is_sized,
        side=f"{facts.geometry(has_disc=has_disc).side:g}",
        disc=f"{facts.icon_on_disc.mask:g}",
        foot=f"{facts.imprint.foot:g}",
    )
