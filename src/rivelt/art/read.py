"""The art of a brief: each file read once, confined, measured, and derived where the brief leaves that to Rivelt."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor

from msgspec import Struct, field

from rivelt.art import measure
from rivelt.art.files import ArtFiles
from rivelt.art.measure import MeasuredArt
from rivelt.art.sample import recoloured_bitmap, sampled
from rivelt.brief.model import DERIVE, ROLES, Brief, Role
from rivelt.cores import threads
from rivelt.errors import Place, RiveltError, raise_all
from rivelt.picture import Art
from rivelt.units import LOOKS, Look
from rivelt.values import replace


class BriefArt(Struct, frozen=True):
    """What a brief's art is: measured, by look and role; the backdrops of the looks that have one; and other files by key.

    `files`: what the tables of the platforms name ("android.motion"). `inputs`: the SHA-256 of each file by its path in the brief.
    """

    art: Mapping[tuple[Look, Role], MeasuredArt]
    backdrops: Mapping[Look, Art] = field(default_factory=dict)
    files: Mapping[str, bytes] = field(default_factory=dict)
    inputs: Mapping[str, str] = field(default_factory=dict)


def read_brief_art(brief: Brief, files: ArtFiles) -> BriefArt:
    """Read and measure the art of a brief on all cores; derive what the brief leaves to Rivelt.

    Raises:
        BadInput: a file cannot be used, with the place in the brief that names it; `Problems` for several.
    """
    wanted = {(look, role): path for look in LOOKS for role in ROLES if (path := brief.looks[look].art(role))}
    given = {key: path for key, path in wanted.items() if path != DERIVE}
    with ThreadPoolExecutor(threads()) as pool:
        tasks = {key: (path, key[1]) for key, path in given.items()}
        futures = {task: pool.submit(_measured, brief, files, *task) for task in dict.fromkeys(tasks.values())}
    found = _collected(tasks, futures, lambda look, role: brief.place(f"{look}.{role}"))
    art = {
        (look, role): found[look, role] if path != DERIVE else _recoloured(found["light", role], brief, look, files)
        for (look, role), path in wanted.items()
    }
    backdrops = {look: backdrop_art(brief, files, look) for look in LOOKS if brief.looks[look].backdrop}
    others = _platform_files(brief, files)
    return BriefArt(art, backdrops, others, files.digests_of(brief.named_files))


def art_problems(brief: Brief, files: ArtFiles) -> Iterator[RiveltError]:
    """Yield what is wrong with each file of art that a brief names, which may have other problems."""
    for look in LOOKS:
        shown = brief.looks[look]
        for role in (*ROLES, "backdrop"):
            name = getattr(shown, role)
            if name is None or name == DERIVE:
                continue
            try:
                measure.measured(files.art(name))
            except RiveltError as error:
                yield from (_blamed(part, brief.place(f"{look}.{role}")) for part in error.parts)


def _measured(brief: Brief, files: ArtFiles, name: str, role: Role) -> MeasuredArt:
    art = files.art(name)
    trim = brief.layout.trims(role, art.size)
    return files.once((art, art.name, trim), lambda: measure.measured(art, trim=trim))


def _platform_files(brief: Brief, files: ArtFiles) -> dict[str, bytes]:
    """The files that the tables of the platforms name, by key."""
    found: dict[str, bytes] = {}
    problems: list[RiveltError] = []
    for target, options in brief.options.items():
        for key, path in options.files().items():
            try:
                found[f"{target}.{key}"] = files.data(path)
            except RiveltError as error:
                problems.append(_blamed(error, brief.place(f"{target}.{key}")))
    raise_all(problems)
    return found


def _collected(
    tasks: Mapping[tuple[Look, Role], tuple[str, Role]],
    futures: Mapping[tuple[str, Role], Future[MeasuredArt]],
    place_of: Callable[[Look, Role], Place | None],
) -> dict[tuple[Look, Role], MeasuredArt]:
    problems: dict[str, RiveltError] = {}
    found: dict[tuple[Look, Role], MeasuredArt] = {}
    for (look, role), task in tasks.items():
        error = futures[task].exception()
        if error is None:
            found[look, role] = futures[task].result()
        elif isinstance(error, RiveltError):
            problems.setdefault(task[0], _blamed(error, place_of(look, role)))
        else:
            raise error
    raise_all(list(problems.values()))
    return found


def _blamed(error: RiveltError, place: Place | None) -> RiveltError:
    """The error with the line of the brief that led to it; a place inside the art goes into the message."""
    if error.place is None or place is None:
        return error.at(place)
    return type(error)(f"{error.place}: {error.message}", place=place, hint=error.hint)


def _recoloured(light: MeasuredArt, brief: Brief, look: Look, files: ArtFiles) -> MeasuredArt:
    key = (light.art, light.extent, brief.looks[look].behind_mark)
    return files.once(key, lambda: _derived(light, brief, look))


def _derived(light: MeasuredArt, brief: Brief, look: Look) -> MeasuredArt:
    """The light art recoloured for the ground of another look; itself where it stands out already."""
    from rivelt.art.contrast import outline_palette
    from rivelt.art.derive import DERIVED, curve_for, recoloured_svg

    palette = outline_palette(light.sample[0])
    if len(palette) == 0:
        return light
    curve = curve_for(palette, brief.looks[look].behind_mark)
    if curve.is_identity:
        return light
    if light.art.svg is not None:
        return MeasuredArt(recoloured_svg(light.art, curve), light.extent)
    data = recoloured_bitmap(light.art, curve)
    return MeasuredArt(Art(f"{light.art.name}{DERIVED}", "PNG", data, light.art.size), light.extent)


def with_grounds(brief: Brief, files: ArtFiles) -> Brief:
    """Return the brief with the grounds that it leaves to its backdrops: the colour of each picture's border.

    Raises:
        BadInput: a backdrop cannot be used.
    """
    missing = [look for look in LOOKS if not brief.looks[look].is_ground_given]
    if not missing:
        return brief
    from rivelt.art.border import border_colour

    looks = dict(brief.looks)
    for look in missing:
        pixels, _ = sampled(backdrop_art(brief, files, look))
        looks[look] = replace(looks[look], ground=border_colour(pixels))
    return replace(brief, looks=looks)


def backdrop_art(brief: Brief, files: ArtFiles, look: Look) -> Art:
    """Return the picture behind everything in one look.

    Raises:
        BadInput: it cannot be used, with the place in the brief that names it.
    """
    path = brief.looks[look].backdrop
    assert path is not None
    try:
        return measure.measured(files.art(path)).art
    except RiveltError as error:
        raise _blamed(error, brief.place(f"{look}.backdrop")) from None
