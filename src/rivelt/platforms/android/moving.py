"""The moving icon of a brief as still pictures, for measuring."""

from __future__ import annotations

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from rivelt.art.extent import extent_of
from rivelt.art.source import read_picture
from rivelt.art.visible import visible_outline
from rivelt.cores import threads
from rivelt.edit.xml import parse_xml
from rivelt.errors import BadInput, RiveltError
from rivelt.layout.context import PlanContext
from rivelt.layout.motion import FRAMES_A_SECOND, MomentReport, MotionReport
from rivelt.picture import Art
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.motion import Animators, vector_at
from rivelt.platforms.android.native.resources import Resources
from rivelt.platforms.android.native.theme import device_at
from rivelt.platforms.android.options import MANNERS, AndroidTable
from rivelt.platforms.android.reader.drawables import Drawables
from rivelt.platforms.android.reader.vector import VectorPicture
from rivelt.project.project import Project
from rivelt.units import LOOKS, Look

_MOMENTS = (("first", 0.0), ("in the middle", 0.5), ("last", 1.0))


def moving_art(context: PlanContext) -> tuple[Art, ...]:
    """Return each moving icon at three moments; none of one that needs the app's resources, or is not understood."""
    options = context.brief.table("android", AndroidTable)
    found: list[Art] = []
    for key, path in options.files().items():
        try:
            found += _stills(context.files[f"android.{key}"], path)
        except RiveltError:
            continue  # apply says what is wrong with it
    return tuple(found)


def motions(context: PlanContext) -> tuple[MotionReport, ...]:
    """Return the moving icon of each look that has one, measured at every frame; of one that is not understood, why."""
    options = context.brief.table("android", AndroidTable)
    found: list[MotionReport] = []
    for look in LOOKS:
        key, value = options.motion_of(look)
        is_as_in_light = look == "dark" and key == "motion"
        if value is None or (is_as_in_light and (value not in MANNERS or look not in context.looks("mark"))):
            continue
        disc = context.brief.looks[look].disc is not None
        radius = android_facts().geometry(has_disc=disc, device="").mask / 2
        mark = context.art[look, "mark"].art.name if context.has("mark") else "no mark"
        name = f"{mark}: {value}" if value in MANNERS else value
        try:
            data = _made(context, look, value, options) if value in MANNERS else context.files[f"android.{key}"]
            moments, length = _measured(data, value)
            found.append(MotionReport(name, look, length, radius, moments))
        except RiveltError as error:
            found.append(MotionReport(name, look, 0.0, radius, (), unknown=error.message))
    return tuple(found)


def _made(context: PlanContext, look: Look, manner: str, options: AndroidTable) -> bytes:
    from rivelt.platforms.android.make.mark import moving_mark
    from rivelt.platforms.android.make.moving_mark import LENGTH_MS

    chosen = next(one for one in MANNERS if one == manner)
    return moving_mark(context, look, chosen, "", options.motion_ms or LENGTH_MS, None)


def _measured(data: bytes, path: str) -> tuple[tuple[MomentReport, ...], float]:
    """Where a moving icon is at every frame, and how long it moves."""
    length, still_at = _opened(data, path)
    frames = round(length * FRAMES_A_SECOND / 1000)
    times = [*(index * 1000 / FRAMES_A_SECOND for index in range(frames)), length]

    def moment(time: float) -> MomentReport:
        still = still_at(time)
        extent = extent_of(visible_outline(read_picture(still.svg.encode(), path)))
        if extent is None:
            return MomentReport(time, None, 0.0)
        middle = (still.size.width / 2, still.size.height / 2)
        return MomentReport(time, extent.bounds, max(math.dist(middle, point) for point in extent.hull))

    with ThreadPoolExecutor(threads()) as pool:
        return tuple(pool.map(moment, times)), length


def _stills(data: bytes, path: str) -> list[Art]:
    length, still_at = _opened(data, path)
    return [read_picture(still_at(share * length).svg.encode(), f"{path}, {name}") for name, share in _MOMENTS]


def _opened(data: bytes, path: str) -> tuple[float, Callable[[float], VectorPicture]]:
    """How long an animated vector moves, in ms, and what gives it as it is at a time.

    Raises:
        BadInput: nothing moves in it, it needs the app's resources, or it is not understood.
    """
    project, resources = Project.of_files({path: data}), Resources()
    root = parse_xml(data, path).root
    animators = Animators(path, project, resources)
    vector = animators.inline_or_referred(root, "drawable")
    tracks = animators.tracks(root)
    if vector is None or not tracks:
        raise BadInput(f"nothing moves in {path} that needs no resource of the app's")
    drawables = Drawables(project, resources, device_at(android_facts().levels.system_launch_screen, is_night=False))
    return max(track.end for track in tracks), lambda time: drawables.read_vector(vector_at(vector, tracks, time), path)
