"""The screens of a proof, drawn and encoded by pyvips one by one and nothing else: the least that a proof of them can take.

Usage: python benchmarks/plain_screens.py BRIEF SCENES    writes what the screens of a project show into the folder SCENES
       python benchmarks/plain_screens.py SCENES          draws them from there
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import pyvips

SCALE = 0.63  # px per dp or pt, as on the sheet


def prepare(brief: Path, folder: Path) -> None:
    """Write the pictures of all scenes, and where they are."""
    import rivelt
    from rivelt.scene.model import Fill, Picture

    folder.mkdir(exist_ok=True)
    screens: list[Any] = []
    names: dict[bytes, str] = {}
    for _, scene in rivelt.open(brief).prove(now=True).scenes:
        layers: list[Any] = []
        for layer in scene.layers:
            if isinstance(layer, Picture):
                data = layer.image.data
                name = names.setdefault(data, f"{len(names)}.{'svg' if layer.image.is_vector else 'png'}")
                (folder / name).write_bytes(data)
                layers.append({"rect": list(layer.rect), "file": name})
            elif isinstance(layer, Fill):
                layers.append({"rect": list(layer.rect), "colour": list(layer.colour[:3])})
        screens.append({"size": [scene.screen.width, scene.screen.height], "layers": layers})
    (folder / "scenes.json").write_text(json.dumps(screens))


def picture(file: Path, width: int, height: int) -> pyvips.Image:
    if file.suffix == ".svg":
        return pyvips.Image.svgload(str(file), scale=width / pyvips.Image.svgload(str(file)).width)
    image = pyvips.Image.new_from_file(str(file), access="sequential")
    image = image.resize(width / image.width, vscale=height / image.height)
    return image if image.hasalpha() else image.addalpha()


def screen(found: Any, folder: Path) -> pyvips.Image:
    width, height = (round(side * SCALE) for side in found["size"])
    image = (pyvips.Image.black(width, height, bands=4) + 255).cast("uchar").copy(interpretation="srgb")
    for layer in found["layers"]:
        x, y, wide, tall = (round(side * SCALE) for side in layer["rect"])
        if "file" in layer:
            part = picture(folder / layer["file"], max(1, wide), max(1, tall))
        else:
            dot = (pyvips.Image.black(1, 1, bands=3) + layer["colour"]).cast("uchar").copy(interpretation="srgb")
            part = dot.addalpha().embed(0, 0, max(1, wide), max(1, tall), extend="copy")
        image = image.composite2(part, "over", x=x, y=y).cast("uchar")
    return image


def main() -> None:
    if len(sys.argv) == 3:
        prepare(Path(sys.argv[1]), Path(sys.argv[2]))
        return
    folder = Path(sys.argv[1])
    for index, found in enumerate(json.loads((folder / "scenes.json").read_text())):
        screen(found, folder).pngsave(str(folder / f"screen-{index}.png"), compression=6, filter="none")


if __name__ == "__main__":
    main()
