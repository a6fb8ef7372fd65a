"""Reading the art of a brief: measured, and derived where the brief leaves that to Rivelt."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.art.extent import box_extent, extent_of
from rivelt.art.source import Art, read_art
from rivelt.brief.model import DERIVE, ROLES, Brief, Role
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.pixels.sample import recoloured_bitmap, sampled
from rivelt.pixels.visible import visible_outline
from rivelt.plan.context import MeasuredArt, PlanContext
from rivelt.units import LOOKS, Look, Point

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


def gather(brief: Brief, masks: Mapping[Look, tuple[float, ...]]) -> PlanContext:
    """Read and measure the art of a brief, each file once, on all cores; derive what the brief leaves to Rivelt.

    Args:
        brief: the brief.
        masks: the diameters, in dp, of the circles that platforms cut the mark of each look with.

    Raises:
        BadInput: a file cannot be used, with the place in the brief that names it; `Problems` for several.
    """
    wanted = {(look, role): path for look in LOOKS for role in ROLES if (path := brief.looks[look].art(role))}
    files = {key: path for key, path in wanted.items() if path != DERIVE}
    with ThreadPoolExecutor() as pool:
        futures = {path: pool.submit(brief_art, brief, path) for path in dict.fromkeys(files.values())}
    found = _collected(files, futures, lambda look, role: brief.place(f"{look}.{role}"))
    art = {
        (look, role): found[look, role] if path != DERIVE else _derived(found["light", role], brief, look)
        for (look, role), path in wanted.items()
    }
    pictures: dict[str, Art] = {}
    backdrops: dict[Look, Art] = {}
    for look in LOOKS:
        if path := brief.looks[look].backdrop:
            pictures[path] = backdrops[look] = pictures.get(path) or backdrop_art(brief, look)
    return PlanContext(brief, art, masks, backdrops, _platform_files(brief))


def inputs_of(brief: Brief) -> dict[str, str]:
    """The SHA-256 of every file that a brief names, by its path in the brief; files that cannot be read are left out."""
    looks = [brief.looks[look] for look in LOOKS]
    named = [*(look.art(role) for look in looks for role in ROLES), *(look.backdrop for look in looks)]
    named += [path for options in brief.options.values() for path in options.files().values()]
    found: dict[str, str] = {}
    for path in sorted({path for path in named if path and path != DERIVE}):
        with suppress(RiveltError):
            found[path] = hashlib.sha256(_read(_confined(brief, path), path)).hexdigest()
    return found


def _platform_files(brief: Brief) -> dict[str, bytes]:
    """The files that the tables of the platforms name, by key."""
    found: dict[str, bytes] = {}
    problems: list[RiveltError] = []
    for target, options in brief.options.items():
        for key, path in options.files().items():
            try:
                found[f"{target}.{key}"] = _read(_confined(brief, path), path)
            except RiveltError as error:
                problems.append(_blamed(error, brief.place(f"{target}.{key}")))
    raise_all(problems)
    return found


def _collected(
    files: Mapping[tuple[Look, Role], str],
    futures: Mapping[str, Future[MeasuredArt]],
    place_of: Callable[[Look, Role], Place | None],
) -> dict[tuple[Look, Role], MeasuredArt]:
    problems: dict[str, RiveltError] = {}
    found: dict[tuple[Look, Role], MeasuredArt] = {}
    for (look, role), path in files.items():
        error = futures[path].exception()
        if error is None:
            found[look, role] = futures[path].result()
        elif isinstance(error, RiveltError):
            problems.setdefault(path, _blamed(error, place_of(look, role)))
        else:
            raise error
    raise_all(list(problems.values()))
    return found


def _blamed(error: RiveltError, place: Place | None) -> RiveltError:
    """The error with the line of the brief that led to it; a place inside the art goes into the message."""
    if error.place is None or place is None:
        return error.at(place)
    return type(error)(f"{error.place}: {error.message}", place=place, hint=error.hint)


def brief_art(brief: Brief, name: str) -> MeasuredArt:
    """The art that a brief names, measured; it must lie in the project or beside the brief."""
    found = measured(read_art_file(_confined(brief, name), name), trim=brief.layout.trim)
    return replace(found, mass=centre_of_mass(*sampled(found.art))) if brief.layout.centre == "mass" else found


def _confined(brief: Brief, name: str) -> Path:
    """The path of a file that a brief names.

    Raises:
        BadInput: it lies neither in the project nor beside the brief.
    """
    path = (brief.folder / name).resolve()
    homes = (brief.folder.resolve(), brief.project)
    if not any(path.is_relative_to(home) for home in homes):
        hint = "Copy it next to the brief: the project must build on every machine."
        raise BadInput(f"{name} lies outside the project", hint=hint)
    return path


def read_art_file(path: Path, name: str) -> Art:
    """Read a source file; `name` is what messages call it.

    Raises:
        BadInput: it cannot be read, or is no art that can be used.
    """
    return read_art(_read(path, name), name)


def _read(path: Path, name: str) -> bytes:
    try:
        return path.read_bytes()
    except FileNotFoundError as error:
        raise BadInput(f"{name} does not exist", hint="Mend the path.") from error
    except OSError as error:
        raise BadInput(f"{name} cannot be read: {error.strerror}", hint="Give a file that can be read.") from error


def measured(art: Art, *, trim: bool = True) -> MeasuredArt:
    """Measure where the visible part of the art lies; without `trim` the whole file counts as visible.

    Raises:
        BadInput: nothing of it is visible, or it turns out to be broken when it is drawn.
    """
    extent = extent_of(visible_outline(art))
    if extent is None:
        raise BadInput(
            f"{art.name} shows nothing: every pixel is transparent", hint="Export it again with its drawing."
        )
    return MeasuredArt(art, extent if trim else box_extent(art.size))


def _derived(light: MeasuredArt, brief: Brief, look: Look) -> MeasuredArt:
    """The light art recoloured for the ground of another look; itself where it stands out already."""
    from rivelt.art.contrast import outline_palette
    from rivelt.art.derive import DERIVED, curve_for, recoloured_svg

    palette = outline_palette(sampled(light.art)[0])
    if len(palette) == 0:
        return light
    curve = curve_for(palette, brief.looks[look].behind_mark)
    if curve.is_identity:
        return light
    if light.art.svg is not None:
        return replace(light, art=recoloured_svg(light.art, curve))
    data = recoloured_bitmap(light.art, curve)
    return replace(light, art=Art(f"{light.art.name}{DERIVED}", "PNG", data, light.art.size))


def with_grounds(brief: Brief) -> Brief:
    """The brief with the grounds that it leaves to its backdrops: the colour of each picture's border.

    Raises:
        BadInput: a backdrop cannot be used.
    """
    from rivelt.art.backdrop import border_colour

    missing = [look for look in LOOKS if not brief.looks[look].is_ground_given]
    looks = dict(brief.looks)
    for look in missing:
        pixels, _ = sampled(backdrop_art(brief, look))
        looks[look] = replace(looks[look], ground=border_colour(pixels))
    return replace(brief, looks=looks) if missing else brief


def backdrop_art(brief: Brief, look: Look) -> Art:
    """The picture behind everything in one look.

    Raises:
        BadInput: it cannot be used, with the place in the brief that names it.
    """
    path = brief.looks[look].backdrop
    assert path is not None
    try:
        return brief_art(brief, path).art
    except RiveltError as error:
        raise _blamed(error, brief.place(f"{look}.backdrop")) from None


def centre_of_mass(pixels: NDArray[np.uint8], unit: float) -> Point:
    """The centre of mass of what is painted, in art units; `unit`: art units per pixel."""
    import numpy as np

    alpha = pixels[..., 3].astype(float)
    total = alpha.sum()
    y, x = np.arange(alpha.shape[0]) + 0.5, np.arange(alpha.shape[1]) + 0.5
    return Point(float(alpha.sum(axis=0) @ x / total * unit), float(alpha.sum(axis=1) @ y / total * unit))
