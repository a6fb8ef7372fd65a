"""The same plates as `rivelt plates` makes of the demo, by pyvips and nothing else: what a careful script would do.

Usage: python benchmarks/plain_loop.py ART_FOLDER OUT_FOLDER
"""

from __future__ import annotations

import sys
from pathlib import Path

import pyvips

# Name, source, and for each file: canvas width and height, the width of the drawn art, all in px.
ANDROID = {"mdpi": 1, "hdpi": 1.5, "xhdpi": 2, "xxhdpi": 3, "xxxhdpi": 4}


def plate(source: Path, width: float, canvas: tuple[int, int], out: Path) -> None:
    natural = pyvips.Image.svgload(str(source)).width
    image = pyvips.Image.svgload(str(source), scale=width / natural)
    x, y = (canvas[0] - image.width) // 2, (canvas[1] - image.height) // 2
    placed = image.embed(x, y, *canvas, extend="background", background=[0, 0, 0, 0])
    placed.pngsave(str(out), compression=6, filter="none", keep="none")


def main() -> None:
    art, out = Path(sys.argv[1]), Path(sys.argv[2])
    out.mkdir(parents=True, exist_ok=True)
    for look in ("", "-dark"):
        for name, factor in ANDROID.items():
            mark, imprint = art / f"mark{look}.svg", art / f"imprint{look}.svg"
            side = round(288 * factor)
            plate(mark, 132 * factor, (side, side), out / f"mark{look}-{name}.png")
            plate(imprint, 200 * factor, (round(200 * factor), round(80 * factor)), out / f"imprint{look}-{name}.png")
        for scale in (1, 2, 3):
            plate(art / f"mark{look}.svg", 132 * scale, (132 * scale, 106 * scale), out / f"mark{look}@{scale}x.png")
            plate(
                art / f"imprint{look}.svg", 200 * scale, (200 * scale, 47 * scale), out / f"imprint{look}@{scale}x.png"
            )


if __name__ == "__main__":
    main()
