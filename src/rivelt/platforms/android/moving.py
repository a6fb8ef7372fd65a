"""The moving icon of a brief as still pictures, for measuring."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress

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
    """Return the moving icon of each look that has one, measured at every frame; none that needs the app's resources, or is not understood."""
    options = context.brief.table("android", AndroidTable)
    found: list[MotionReport] = []
    for look in LOOKS:
        key, value = options.motion_of(look)
        is_as_in_light = look == "dark" and key == "motion"
        if value is None or (is_as_in_light and (value not in MANNERS or look not in context.looks("mark"))):
            continue
        disc = context.brief.looks[look].disc is not None
        radius = android_facts().geometry(has_disc=disc, device="").mask / 2
        with suppress(RiveltError):  # apply says what is wrong with it
            data = _made(context, look, value, options) if value in MANNERS else context.files[f"android.{key}"]
            moments, length = _measured(data, value)
            mark = context.art[look, "mark"].art.name if context.has("mark") else value
            name = f"{mark}: {value}" if value in MANNERS else value
            found.append(MotionReport(name, look, length, radius, moments))
    return tuple(found)


def _made(context: PlanContext, look: Look, manner: str, options: AndroidTable) -> bytes:
    from rivelt.platforms.android.make.mark import moving_mark
    from rivelt.platforms.android.make.moving_mark import LENGTH_MS

    chosen = next(one for one in MANNERS if one == manner)
    return moving_mark(context, look, chosen, "", options.motion_ms or LENGTH_MS, None)


def _measured(data: bytes, path: str) -> tuple[tuple[MomentReport, ...], float]:
    """Where a moving icon is at every frame, and how long it moves."""
    project, resources = Project.of_files({path: data}), Resources()
    root = parse_xml(data, path).root
    animators = Animators(path, project, resources)
    vector = animators.inline_or_referred(root, "drawable")
    tracks = animators.tracks(root)
    if vector is None or not tracks:
        raise BadInput(f"nothing moves in {path}")
    length = max(track.end for track in tracks)
    drawables = Drawables(project, resources, device_at(android_facts().levels.system_launch_screen, is_night=False))
    frames = round(length * FRAMES_A_SECOND / 1000)
    times = [*(index * 1000 / FRAMES_A_SECOND for index in range(frames)), length]

    def moment(time: float) -> MomentReport:
        still = drawables.read_vector(vector_at(vector, tracks, time), path)
        extent = extent_of(visible_outline(read_picture(still.svg.encode(), path)))
        if extent is None:
            return MomentReport(time, None, 0.0)
        middle = (still.size.width / 2, still.size.height / 2)
        return MomentReport(time, extent.bounds, max(math.dist(middle, point) for point in extent.hull))

    with ThreadPoolExecutor(threads()) as pool:
        return tuple(pool.map(moment, times)), length


def _stills(data: bytes, path: str) -> list[Art]:
    project, resources = Project.of_files({path: data}), Resources()
    root = parse_xml(data, path).root
    animators = Animators(path, project, resources)
    vector = animators.inline_or_referred(root, "drawable")
    tracks = animators.tracks(root)
    if vector is None or not tracks:
        return []
    length = max(track.end for track in tracks)
    drawables = Drawables(project, resources, device_at(android_facts().levels.system_launch_screen, is_night=False))
    stills = (
        (name, drawables.read_vector(vector_at(vector, tracks, share * length), path)) for name, share in _MOMENTS
    )
    return [read_picture(still.svg.encode(), f"{path}, {name}") for name, still in stills]
