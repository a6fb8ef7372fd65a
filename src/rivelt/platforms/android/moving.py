"""The moving icon of a brief as still pictures, for measuring."""

from __future__ import annotations

from rivelt.art.source import read_picture
from rivelt.edit.xml import parse_xml
from rivelt.errors import RiveltError
from rivelt.layout.context import PlanContext
from rivelt.picture import Art
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.motion import Animators, vector_at
from rivelt.platforms.android.native.resources import Resources
from rivelt.platforms.android.native.theme import device_at
from rivelt.platforms.android.options import AndroidTable
from rivelt.platforms.android.reader.drawables import Drawables
from rivelt.project.project import Project

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
