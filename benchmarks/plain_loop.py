"""The same plates as `rivelt plates` makes of the demo, by pyvips on all cores and nothing else: what a careful script would do.

Usage: python benchmarks/plain_loop.py ART_FOLDER PLATES_FOLDER OUT_FOLDER

The sizes and kinds of the plates are those of PLATES_FOLDER, which `rivelt plates` has written before.
"""

from __future__ import annotations

import os
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pyvips

GROUNDS = {"light": [0xF3, 0xEB, 0xDD], "dark": [0x13, 0x21, 0x2B]}


def art(source: Path, width: float) -> pyvips.Image:
    natural = pyvips.Image.svgload(str(source)).width
    return pyvips.Image.svgload(str(source), scale=width / natural)


def plate(sources: Path, like: Path, out: Path) -> None:
    """One plate: what it shows is reported by its name, how large it is by the file that Rivelt made."""
    header = pyvips.Image.new_from_file(str(like))
    width, height = header.width, header.height
    name = str(like).lower()
    look = "dark" if "dark" in name or "night" in name else "light"
    suffix = "-dark" if look == "dark" else ""
    shorter = min(width, height)
    if "imprint" in name:
        parts = [(sources / f"imprint{suffix}.svg", width * 1.0, 0.5)]
    elif "start-" in name or "uploads" in name:
        parts = [
            (sources / f"mark{suffix}.svg", shorter * 0.35, 0.5),
            (sources / f"imprint{suffix}.svg", shorter * 0.5, 0.9),
        ]
    else:
        parts = [(sources / f"mark{suffix}.svg", shorter * 0.46, 0.5)]
    is_whole = header.bands == 3
    ground = GROUNDS[look]
    image = header
    if is_whole:
        dot = (pyvips.Image.black(1, 1, bands=3) + ground).cast("uchar").copy(interpretation="srgb")
        image = dot.embed(0, 0, width, height, extend="copy")
    for source, side, middle in parts:
        drawn = art(source, side)
        x, y = (width - drawn.width) // 2, int(height * middle - drawn.height / 2)
        if is_whole:
            image = image.insert(drawn.flatten(background=ground), x, y)
        else:
            image = drawn.embed(x, y, width, height, extend="background", background=[0, 0, 0, 0])
    out.parent.mkdir(parents=True, exist_ok=True)
    image.pngsave(str(out), compression=6, filter="none", keep="none")


def main() -> None:
    sources, likes, out = map(Path, sys.argv[1:])
    paths = sorted(path.relative_to(likes) for path in likes.rglob("*.png"))
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(lambda path: plate(sources, likes / path, out / path), paths))
    print(f"{len(paths)} plates")


if __name__ == "__main__":
    main()
