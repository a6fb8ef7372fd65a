"""An animated vector given by the person: checked, and its length worked out.

https://developer.android.com/reference/android/graphics/drawable/AnimatedVectorDrawable
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from rivelt.edit.xml import Node, parse_xml
from rivelt.errors import BadInput, Place
from rivelt.platforms.android.facts import android_facts
from rivelt.platforms.android.native.manifest import attribute
from rivelt.platforms.android.native.resources import Resources, split_reference
from rivelt.project.project import Project

_AAPT = "http://schemas.android.com/aapt"
_DEEPEST = 20
_ANIMATORS = frozenset({"objectAnimator", "animator", "set"})


@dataclass(frozen=True)
class Motion:
    """A checked animated vector: its file, and how long it runs, in ms."""

    data: bytes
    length_ms: int


def read_motion(data: bytes, path: str, project: Project, resources: Resources) -> Motion:
    """Check an animated vector drawable.

    Args:
        data: the file.
        path: what messages call it.
        project: the project, for what the file refers to.
        resources: the module's resources.

    Raises:
        BadInput: it is no animated vector, not square, without an end or longer than the system shows, or refers to what is not there.
    """
    document = parse_xml(data, path)
    root = document.root
    if root.local != "animated-vector":
        message = f"{path} is a <{root.local}>, and no <animated-vector>"
        raise BadInput(message, place=document.place(root), hint="Export it as an animated vector drawable.")
    reader = _Reader(path, project, resources)
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
        if animator is None or animator.local not in _ANIMATORS:
            raise BadInput(
                f"the animation of {name!r} is not there", place=document.place(target), hint="Put it into the file."
            )
        length = max(length, reader.length(animator))
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


class _Reader:
    def __init__(self, path: str, project: Project, resources: Resources) -> None:
        self._path = path
        self._project = project
        self._resources = resources

    def inline_or_referred(self, node: Node, name: str) -> Node | None:
        """What an attribute holds: an element inside `<aapt:attr>`, or the root of the file that it refers to."""
        for inline in node.all("attr"):
            if inline.tag == f"{{{_AAPT}}}attr" and inline.get("name") == f"android:{name}":
                return next(iter(inline.children), None)
        reference = split_reference(attribute(node, name) or "")
        entries = self._resources.defined(*reference) if reference else []
        path = next((entry.path for entry in entries if entry.node is None and entry.path.endswith(".xml")), None)
        return self._project.xml(path).root if path else None

    def refuse_missing(self, node: Node) -> None:
        """Refuse references to resources of the app's that do not exist."""
        for value in node.attributes.values():
            reference = split_reference(value)
            if reference and ":" not in reference[0] and not self._resources.defined(*reference):
                raise BadInput(
                    f"{value} is not in the project", place=Place(self._path, node.line), hint="Write the value out."
                )

    def length(self, animator: Node, depth: int = 0) -> float:
        """How long an animator runs in ms, its delay and repeats included; infinite when it never ends."""
        if depth > _DEEPEST:
            raise BadInput("animators are nested too deeply", place=Place(self._path, animator.line))
        if animator.local == "set":
            parts = [self.length(child, depth + 1) for child in animator.children if child.local in _ANIMATORS]
            in_turn = attribute(animator, "ordering") == "sequentially"
            return sum(parts) if in_turn else max(parts, default=0.0)
        delay = self._milliseconds(animator, "startOffset", 0)
        duration = self._milliseconds(animator, "duration", android_facts().motion.default_ms)
        repeats = attribute(animator, "repeatCount") or "0"
        if repeats in {"infinite", "-1"}:
            return float("inf")
        return delay + duration * (1 + self._number(animator, "repeatCount", repeats))

    def _milliseconds(self, node: Node, name: str, default: int) -> int:
        value = attribute(node, name)
        if value is None:
            return default
        if value.startswith("@integer/"):
            entries = self._resources.defined("integer", value.removeprefix("@integer/"))
            value = entries[0].node.text.strip() if entries and entries[0].node else value
        elif value.startswith("@android:integer/"):
            value = str(android_facts().motion.named_ms.get(value.removeprefix("@android:integer/"), value))
        return self._number(node, name, value)

    def _number(self, node: Node, name: str, value: str) -> int:
        if not re.fullmatch(r"\d{1,9}", value):
            at = Place(self._path, node.line)
            raise BadInput(
                f"android:{name} is no whole number: {value}", place=at, hint="Write it in milliseconds, or as a count."
            )
        return int(value)
