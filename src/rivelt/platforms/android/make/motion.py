"""An animated vector given by the person: checked, and its length worked out.

https://developer.android.com/reference/android/graphics/drawable/AnimatedVectorDrawable
"""

from __future__ import annotations

from msgspec import Struct

from rivelt.edit.xml import Node, parse_xml
from rivelt.errors import BadInput, Place
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.motion import ANIMATORS, Animators
from rivelt.platforms.android.native.resources import Resources
from rivelt.project.project import Project


class Motion(Struct, frozen=True):
    """A checked animated vector: its file, and how long it runs, in ms."""

    data: bytes
    length_ms: int


def read_motion(data: bytes, path: str, project: Project, resources: Resources, given_ms: int | None = None) -> Motion:
    """Check an animated vector drawable.

    Args:
        data: the file.
        path: what messages call it.
        project: the project, for what the file refers to.
        resources: the module's resources.
        given_ms: how long it is shown, where the brief says so; None for as long as its file says.

    Raises:
        BadInput: it is not an animated vector, not square, without an end or longer than the system shows, or refers to what is not there.
    """
    document = parse_xml(data, path)
    root = document.root
    if root.local != "animated-vector":
        message = f"{path} is a <{root.local}>, and no <animated-vector>"
        raise BadInput(message, place=document.place(root), hint="Export it as an animated vector drawable.")
    reader = Animators(path, project, resources)
    vector = reader.inline_or_referred(root, "drawable")
    if vector is None or vector.local != "vector":
        raise BadInput(
            "it animates no <vector>",
            place=document.place(root),
            hint='Put it into <aapt:attr name="android:drawable">.',
        )
    _refuse_oblong(vector, path)
    for node in root.walk():
        reader.refuse_missing(node)
    names = {attribute(node, "name") for node in vector.walk()}
    length = 0.0
    for target in root.all("target"):
        name = attribute(target, "name")
        if name not in names:
            raise BadInput(
                f"it animates {name!r}, which its vector does not have",
                place=document.place(target),
                hint="Correct the name.",
            )
        animator = reader.inline_or_referred(target, "animation")
        if animator is None or animator.local not in ANIMATORS:
            raise BadInput(
                f"the animation of {name!r} is not there", place=document.place(target), hint="Put it into the file."
            )
        length = max(length, reader.length(animator))
    if given_ms is not None:
        return Motion(data, given_ms)
    longest = android_facts().motion.longest_ms
    if length > longest:
        shown = "without end" if length == float("inf") else f"{length:g} ms"
        message = f"the motion runs {shown}; the system shows {longest} ms of it"
        raise BadInput(message, place=document.place(root), hint="Shorten its durations, delays and repeats.")
    if length <= 0:
        raise BadInput(
            "nothing moves in it", place=document.place(root), hint="Leave `motion` out, or give it a <target>."
        )
    return Motion(data, round(length))


def _refuse_oblong(vector: Node, path: str) -> None:
    width, height = attribute(vector, "width"), attribute(vector, "height")
    ports = attribute(vector, "viewportWidth"), attribute(vector, "viewportHeight")
    if width is None or width != height or ports[0] is None or ports[0] != ports[1]:
        message = f"the vector of the motion is not square ({width} x {height}): it would be cropped or stretched"
        raise BadInput(
            message, place=Place(path, vector.line), hint="Give it equal sides, 288dp, and an equal viewport."
        )
