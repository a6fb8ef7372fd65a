"""Pictures, plates and pages onto disk, outside of any project."""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from pathlib import Path

from rivelt.errors import BadInput, Place
from rivelt.plan.model import Recipe
from rivelt.progress import Progress, no_progress


def write_png(out: Path, data: bytes) -> Path:
    """Write a PNG file.

    Raises:
        BadInput: `out` is not the name of a PNG file, or cannot be written.
    """
    if out.suffix.lower() != ".png":
        raise BadInput(f"the picture is a PNG file; {out.name} is not one's name", hint=f"Name it {out.stem}.png")
    return write_file(out, data)


def write_file(out: Path, data: bytes) -> Path:
    """Write a file, its folder too where that is missing.

    Raises:
        BadInput: it cannot be written.
    """
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        out.write_bytes(data)
    except OSError as error:
        at = Place(str(out))
        raise BadInput(
            f"cannot be written: {error.strerror}", place=at, hint="Give another file with --out."
        ) from error
    return out


def write_plates(
    plates: Iterable[tuple[str, Recipe]], out: Path, *, is_small: bool, on_progress: Progress = no_progress
) -> dict[str, int]:
    """Render plates, each by its path, and write them to `out`: a folder or, if it ends in .zip, a ZIP file.

    Returns:
        The bytes of each image, by its path in `out`.

    Raises:
        BadInput: the art turns out to be broken, or `out` cannot be written.
    """
    from rivelt.pixels.archive import zipped
    from rivelt.pixels.render import render_all

    made = list(plates)
    done, different = itertools.count(1), len({recipe for _, recipe in made})
    recipes = (recipe for _, recipe in made)
    rendered = render_all(recipes, is_small=is_small, on_done=lambda: on_progress(next(done), different))
    files = {path: rendered[recipe] for path, recipe in made}
    if out.suffix.lower() == ".zip":
        write_file(out, zipped(files))
    else:
        for path, content in files.items():
            write_file(out / path, content)
    return {path: len(content) for path, content in files.items()}
