"""The plot: how well each brand's mark stands out in each look, and what its plates weigh."""

from __future__ import annotations

import io
from collections.abc import Sequence
from importlib.resources import as_file, files
from typing import TYPE_CHECKING, Any

from rivelt.art.contrast import ENOUGH
from rivelt.documents.fleet import BrandItem
from rivelt.proof.style import ACCENT, HAIRLINE, INK, PAPER, SOFT_INK

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_NAMED = 60
"""So many brands have their names at the axis."""

_INKS = (INK, "#7A8B94", "#B9AF9C", "#8C6D46", "#44624A", ACCENT)
_MEGA = 1e6


def draw_plot(items: Sequence[BrandItem]) -> bytes | None:
    """Return the plot as a PNG; None where nothing was measured. The same results give the same bytes."""
    measured = [item for item in items if "contrast_dark" in item.values or "contrast_light" in item.values]
    if not measured:
        return None
    import matplotlib as mpl
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure
    from matplotlib.font_manager import fontManager

    with as_file(files("rivelt.pixels").joinpath("typefaces", "DejaVuSans.ttf")) as font:
        fontManager.addfont(str(font))
    measured.sort(key=lambda item: float(item.values.get("contrast_dark", item.values.get("contrast_light", 0.0))))
    with mpl.rc_context(
        {"font.family": "DejaVu Sans", "font.size": 8.5, "text.color": INK, "axes.edgecolor": HAIRLINE}
    ):
        figure = Figure(figsize=(12.8, 8), dpi=100, facecolor=PAPER, layout="constrained")
        FigureCanvasAgg(figure)
        figure.get_layout_engine().set(w_pad=0.3, h_pad=0.25)  # type: ignore[union-attr,call-arg]
        upper, lower = figure.subplots(2, 1, sharex=True, height_ratios=(3, 2))
        _contrast(upper, measured)
        _weight(lower, measured)
        buffer = io.BytesIO()
        figure.savefig(buffer, format="png", metadata={"Software": None})
    return buffer.getvalue()


def _contrast(axes: Axes, items: Sequence[BrandItem]) -> None:
    axes.axhline(ENOUGH, color=ACCENT, linewidth=1)
    axes.text(0.998, ENOUGH, "3:1 ", color=ACCENT, va="bottom", ha="right", transform=axes.get_yaxis_transform())
    for look, face, edge in (("light", PAPER, INK), ("dark", INK, INK)):
        points = [(index, item.values.get(f"contrast_{look}")) for index, item in enumerate(items)]
        known = [(index, float(value)) for index, value in points if value is not None]
        size = 36 if len(items) <= _NAMED else 9
        xs, ys = [index for index, _ in known], [value for _, value in known]
        axes.scatter(xs, ys, s=size, facecolors=face, edgecolors=edge, linewidths=1, label=look, zorder=3)
    axes.set_yscale("log")
    axes.set_ylim(1, 22)
    axes.set_yticks([1, 2, 3, 5, 10, 21], labels=["1", "2", "3", "5", "10", "21"])
    axes.minorticks_off()
    axes.set_title("Contrast of the mark to its ground (median along its outline)", loc="left", fontsize=11, color=INK)
    axes.legend(frameon=False, loc="upper left", ncols=2)
    _quiet(axes)


def _weight(axes: Axes, items: Sequence[BrandItem]) -> None:
    targets = sorted({name for item in items for name in item.values if name.startswith("bytes_")})
    bottom = [0.0] * len(items)
    for ink, name in zip(_INKS * len(targets), targets, strict=False):
        heights = [float(item.values.get(name, 0)) / _MEGA for item in items]
        wide = 0.8 if len(items) <= _NAMED else 1.0
        axes.bar(range(len(items)), heights, wide, bottom=bottom, color=ink, label=name.removeprefix("bytes_"))
        bottom = [one + other for one, other in zip(bottom, heights, strict=True)]
    axes.set_title("Weight of the plates (MB)", loc="left", fontsize=11, color=INK)
    if targets:
        axes.legend(frameon=False, loc="upper left", ncols=len(targets))
        axes.set_ylim(0, max([*bottom, 1e-6]) * 1.25)
    if len(items) <= _NAMED:
        axes.set_xticks(range(len(items)), labels=[item.brand for item in items], rotation=60, ha="right")
    else:
        axes.set_xlabel(f"{len(items)} brands, from the least contrast in the dark", color=SOFT_INK)
    _quiet(axes)


def _quiet(axes: Any) -> None:
    axes.set_facecolor(PAPER)
    axes.grid(axis="y", color=HAIRLINE, linewidth=0.6)
    axes.set_axisbelow(True)
    axes.tick_params(colors=SOFT_INK, length=0)
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
