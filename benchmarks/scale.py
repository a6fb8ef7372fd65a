"""How Rivelt's cost grows: brands, files, modules, targets, paths, pixels, upload sizes and screens, each as a curve of CPU seconds.

Usage: python benchmarks/scale.py [--out FILE.png] [--runs N] [--most SHARE] [CURVE ...]

Every point is a whole process on a project made for it; the points of a curve are run in turn, `--runs` times, and their medians are
drawn, with the peak memory below. `--most 0.1` leaves out points beyond a tenth of the largest. Beside each curve stands its growth:
how many times as much the last point takes as the first, for how many times as much work.
"""

from __future__ import annotations

import argparse
import gc
import json
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from cpu import Cost, medians


class Curve(NamedTuple):
    """One thing that grows: its values; what makes the project for one of them (a function of `projects`), and the command in it."""

    title: str
    unit: str
    values: Sequence[int]
    maker: str
    command: Sequence[str]


_ANDROID_PLATES = ("plates", "-q", "--only", "android", "--out", "plates")
_SCREENS = {12: ("--screens", "API 34"), 33: (), 287: ("--all",)}  # about so many scenes of the demo

CURVES = {
    "brands": Curve("brands in one process: plates", "brands", (1, 10, 100, 1000), "app", ()),
    "files": Curve("files: survey", "files", (10, 100, 1000, 10_000, 100_000), "files", ("survey", "-q")),
    "modules": Curve(
        "app modules, 400 sources each: apply", "modules", (1, 5, 10, 25), "modules", ("apply", "-q", "--dry-run")
    ),
    "targets": Curve("targets in Xcode: apply", "targets", (1, 5, 10, 20), "targets", ("apply", "-q", "--dry-run")),
    "paths": Curve("paths: measure", "paths", (10, 100, 1000, 10_000, 50_000), "paths", ("measure", "-q")),
    "path plates": Curve("paths: Android plates", "paths", (10, 100, 1000, 10_000, 50_000), "paths", _ANDROID_PLATES),
    "pixels": Curve("a bitmap's side: plates", "px", (512, 1024, 2048, 4096, 9984), "pixels", _ANDROID_PLATES),
    "backdrop": Curve("a backdrop: plates", "Mpx", (1, 4, 10, 40), "backdrop", _ANDROID_PLATES),
    "uploads": Curve("upload sizes: plates", "sizes", (1, 10, 50, 200), "uploads", ("plates", "-q", "--out", "plates")),
    "screens": Curve("the demo's scenes: proof", "scenes", tuple(_SCREENS), "demo", ("proof", "-q", "--out", "p.png")),
}


def command_of(name: str, value: int) -> list[str]:
    if name == "brands":
        return [sys.executable, str(Path(__file__).resolve()), "--brands", str(value)]
    more = _SCREENS[value] if name == "screens" else ()
    return [sys.executable, "-m", "rivelt", *CURVES[name].command, *more]


def run_brands(count: int) -> None:
    """Make the plates of `count` brands: each has a ground of its own; say what each cost, and how memory grew."""
    import rivelt

    brief = Path("rivelt.toml")
    text = brief.read_text(encoding="utf-8")
    began, peaks = time.process_time(), []
    for brand in range(count):
        brief.write_text(text.replace("#F3EBDD", f"#F3EB{brand % 256:02X}"), encoding="utf-8")
        rivelt.open(brief).plates(Path("plates"))
        if brand in {0, 9, count - 1}:
            gc.collect()
            peaks.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000)
    each = (time.process_time() - began) / count
    Path("brands.json").write_text(json.dumps({"seconds": each, "megabytes": peaks}), encoding="utf-8")


def measured(name: str, values: Sequence[int], runs: int) -> list[Cost]:
    with tempfile.TemporaryDirectory() as temporary:
        projects = Path(__file__).with_name("projects.py").resolve()
        roots = [Path(temporary) / str(value) for value in values]
        commands = []
        for root, value in zip(roots, values, strict=True):
            root.mkdir()
            # In a process of its own: what it takes would count as memory of all that are started after it.
            subprocess.run([sys.executable, projects, CURVES[name].maker, str(value)], cwd=root, check=True)
            # The folder is part of the command, so that the points of a curve take turns.
            commands.append([sys.executable, "-c", _IN_FOLDER, str(root), *command_of(name, value)])
        found = medians(commands, runs)
        for root in roots:
            if (said := root / "brands.json").exists():
                one = json.loads(said.read_text(encoding="utf-8"))
                peaks = " -> ".join(f"{peak:.0f}" for peak in one["megabytes"])
                print(f"    {one['seconds']:.3f} s a brand; peak memory after the first, tenth and last: {peaks} MB")
            shutil.rmtree(root)
    return found


_IN_FOLDER = "import os, sys; os.chdir(sys.argv[1]); os.execv(sys.argv[2], sys.argv[2:])"


def draw(found: dict[str, tuple[Sequence[int], list[Cost]]], out: Path) -> None:
    import matplotlib as mpl

    mpl.use("agg")
    from matplotlib import pyplot as plt
    from matplotlib.ticker import LogLocator, NullLocator, ScalarFormatter

    columns = min(4, len(found))
    rows = -(-len(found) // columns)
    figure, axes = plt.subplots(rows, columns, figsize=(4 * columns, 3.2 * rows), squeeze=False, facecolor="#FBF7EF")
    for axis in axes.flat[len(found) :]:
        axis.set_visible(False)
    for axis, (name, (values, costs)) in zip(axes.flat, found.items(), strict=False):
        curve = CURVES[name]
        axis.set_facecolor("#FBF7EF")
        axis.plot(values, [cost.seconds for cost in costs], "o-", color="#C2402B", markersize=4)
        axis.set(xscale="log", yscale="log", title=curve.title, xlabel=curve.unit, ylabel="CPU s")
        axis.set_xticks(values, [f"{value:,}" for value in values], fontsize=7, minor=False)
        axis.xaxis.set_minor_locator(NullLocator())
        axis.yaxis.set_major_formatter(ScalarFormatter())
        axis.yaxis.set_major_locator(LogLocator(subs=(1, 2, 5)))
        axis.yaxis.set_minor_locator(NullLocator())
        axis.tick_params(axis="y", labelsize=7)
        axis.title.set_fontsize(9)
        memory = axis.twinx()
        memory.plot(values, [cost.megabytes for cost in costs], "s:", color="#6B6A63", markersize=3)
        memory.set_ylim(0, max(600.0, 1.2 * max(cost.megabytes for cost in costs)))
        memory.set_ylabel("peak MB", fontsize=8)
        axis.grid(color="#CFC6B4", linewidth=0.5)
    words = "full line: CPU seconds of the whole process, on the left; dotted line: its peak memory, on the right"
    figure.text(0.99, 0.02, words, ha="right", fontsize=9, color="#6B6A63")
    figure.tight_layout(rect=(0, 0.03, 1, 1))
    figure.savefig(out, dpi=80)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.partition("\n")[0])
    parser.add_argument("curves", nargs="*", choices=[[], *CURVES], metavar="CURVE")
    parser.add_argument("--out", type=Path)
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--most", type=float, default=1.0)
    parser.add_argument("--brands", type=int, help=argparse.SUPPRESS)
    given = parser.parse_args()
    if given.brands:
        run_brands(given.brands)
        return
    found: dict[str, tuple[Sequence[int], list[Cost]]] = {}
    for name in given.curves or CURVES:
        curve = CURVES[name]
        values = [value for value in curve.values if value <= given.most * max(curve.values)] or [min(curve.values)]
        print(curve.title)
        costs = measured(name, values, given.runs)
        for value, cost in zip(values, costs, strict=True):
            print(f"{value:>9} {curve.unit:8} {cost.seconds:8.2f} s {cost.megabytes:6.0f} MB")
        more, longer = values[-1] / values[0], costs[-1].seconds / costs[0].seconds
        print(f"    {longer:.1f} times as much for {more:.0f} times as many", flush=True)
        found[name] = (values, costs)
    if given.out is not None:
        draw(found, given.out)


if __name__ == "__main__":
    main()
