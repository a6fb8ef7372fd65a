"""What the live page says of the art itself: how well the mark stands out, and the backdrop as a picture to point at."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from rivelt.art.contrast import outline_contrast
from rivelt.errors import RiveltError
from rivelt.pixels.canvas import draw
from rivelt.pixels.encode import shown_png
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    from rivelt.editions import Edition
    from rivelt.job import Job
    from rivelt.layout.context import PlanContext
    from rivelt.live.shots import Gallery
    from rivelt.picture import Art

_LONGER_SIDE = 480  # px


def contrasts(job: Job, edition: str) -> dict[str, dict[str, float]]:
    """Return how well the mark stands out in each look: the median ratio along its outline, that of its weakest stretch, and the share that reaches 3:1."""
    found: dict[str, dict[str, float]] = {}
    for one, context in _contexts(job, edition):
        for (look, role), art in context.art.items():
            if role != "mark":
                continue
            pixels, unit = art.sample
            ratios = outline_contrast(pixels, one.brief.looks[look].behind_mark, unit)
            if ratios is not None:
                found[look] = {
                    "median": round(ratios.median, 2),
                    "weakest": round(ratios.weakest_ratio, 2),
                    "share": round(ratios.share, 3),
                }
    return found


def backdrop_picture(job: Job, edition: str, gallery: Gallery) -> str | None:
    """Return the name of the light backdrop's picture, drawn small; None without one."""
    for one, context in _contexts(job, edition):
        art = context.backdrops.get("light")
        if art is not None:
            name = one.files.once(("backdrop", art), lambda art=art: gallery.keep(_drawn(art)))  # type: ignore[misc]
            return name if gallery.picture(name) is not None else gallery.keep(_drawn(art))
    return None


def _contexts(job: Job, edition: str) -> Iterator[tuple[Edition, PlanContext]]:
    """The edition with its art; none where that cannot be used, which is told elsewhere."""
    for one in job.editions:
        if one.name == edition:
            try:
                yield one, one.context
            except RiveltError:
                continue


def _drawn(art: Art) -> bytes:
    scale = _LONGER_SIDE / art.size.longer
    size = PixelSize(max(1, round(art.size.width * scale)), max(1, round(art.size.height * scale)))
    return shown_png(draw(art, size, Rect(0, 0, *size)).numpy())
