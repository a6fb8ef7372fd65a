"""Mutated art through reading, measuring and rendering: only `RiveltError` may come out, in little time and memory.

Usage: python fuzz/mutate_art.py [CASES] [SEED]

Each batch runs in a process of its own, so that a crash of a decoder or a hang is reported with its seed. Exit code 1: something was found.
"""

from __future__ import annotations

import io
import random
import sys
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from pathlib import Path

from mutation import mutated, run_all
from PIL import Image, ImageDraw

_ART = Path(__file__).parent.parent / "src" / "rivelt" / "demo" / "skerryline" / "art"


@cache
def samples() -> dict[str, bytes]:
    """One small valid file of each kind."""
    image = Image.new("RGBA", (64, 48))
    ImageDraw.Draw(image).ellipse((4, 4, 50, 40), fill=(200, 60, 40, 200), outline="black")
    files = {"a.svg": (_ART / "mark.svg").read_bytes(), "b.svg": (_ART / "imprint.svg").read_bytes()}
    for name, form, mode, options in (
        ("a.png", "PNG", "RGBA", {}),
        ("b.png", "PNG", "P", {}),
        ("a.jpg", "JPEG", "RGB", {}),
        ("b.jpg", "JPEG", "CMYK", {"progressive": True}),
        ("a.webp", "WEBP", "RGBA", {"lossless": True}),
        ("b.webp", "WEBP", "RGB", {"quality": 50}),
    ):
        buffer = io.BytesIO()
        source = image.convert("RGB").convert(mode) if mode in {"P", "CMYK"} else image.convert(mode)
        source.save(buffer, form, **options)
        files[name] = buffer.getvalue()
    return files


def case(dice: random.Random) -> tuple[str, Callable[[], None]]:
    """One corrupt file, read, measured and drawn."""
    from rivelt.art.measure import measured
    from rivelt.art.outline.convert import outline_of
    from rivelt.art.source import read_art
    from rivelt.errors import RiveltError
    from rivelt.pixels.render import render
    from rivelt.plan.model import Placement, Recipe
    from rivelt.units import PixelSize, Rect

    name = dice.choice(sorted(samples()))
    data = mutated(samples()[name], dice)

    def action() -> None:
        with suppress(RiveltError):
            found = measured(read_art(data, name))
            if found.art.svg is not None:
                outline_of(found.art)
            render(Recipe(PixelSize(64, 64), (Placement(found.art, Rect(0, 0, 64, 64)),)))

    return name, action


if __name__ == "__main__":
    sys.exit(run_all(__file__, case))
