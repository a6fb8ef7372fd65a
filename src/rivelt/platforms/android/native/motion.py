"""Animated vectors: what moves in one, when, and how far; and the vector as it is at a moment.

https://developer.android.com/reference/android/graphics/drawable/AnimatedVectorDrawable; the interpolators are those of
android.view.animation.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import pairwise

from msgspec import Struct

from rivelt.edit.xml import Node
from rivelt.errors import BadInput, Place, RiveltError
from rivelt.patterns import regex
from rivelt.platforms.android.facts import BASE_DPI, android_facts
from rivelt.platforms.android.native.manifest import ANDROID, attribute
from rivelt.platforms.android.native.qualifiers import Device
from rivelt.platforms.android.native.resources import Resources, android_colour, split_reference
from rivelt.platforms.android.native.theme import ICON, theme_items
from rivelt.project.project import Project
from rivelt.scene.model import Screen
from rivelt.values import replace

AAPT = "http://schemas.android.com/aapt"
ANIMATORS = frozenset({"objectAnimator", "animator", "set"})
MOMENTS = 24
"""At how many times of a motion it is looked at."""
_MOMENT = " motion "
_DEEPEST = 20
_OVERSHOOT = 2.0
_NUMBER = regex(r"-?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")


def _bounce(t: float) -> float:
    t *= 1.1226
    for until, centre, height in ((0.3535, 0.0, 0.0), (0.7408, 0.54719, 0.7), (0.9644, 0.8526, 0.9)):
        if t < until:
            return 8 * (t - centre) ** 2 + height
    return 8 * (t - 1.0435) ** 2 + 0.95


_INTERPOLATORS: dict[str, Callable[[float], float]] = {
    "linear": lambda t: t,
    "accelerate": lambda t: t * t,
    "accelerate_quad": lambda t: t * t,
    "accelerate_cubic": lambda t: t**3,
    "decelerate": lambda t: 1 - (1 - t) ** 2,
    "decelerate_quad": lambda t: 1 - (1 - t) ** 2,
    "decelerate_cubic": lambda t: 1 - (1 - t) ** 3,
    "accelerate_decelerate": lambda t: math.cos((t + 1) * math.pi) / 2 + 0.5,
    "overshoot": lambda t: (t - 1) ** 2 * ((_OVERSHOOT + 1) * (t - 1) + _OVERSHOOT) + 1,
    "anticipate": lambda t: t * t * ((_OVERSHOOT + 1) * t - _OVERSHOOT),
    "bounce": _bounce,
    "fast_out_slow_in": lambda t: _cubic(t, 0.4, 0.0, 0.2, 1.0),
    "fast_out_linear_in": lambda t: _cubic(t, 0.4, 0.0, 1.0, 1.0),
    "linear_out_slow_in": lambda t: _cubic(t, 0.0, 0.0, 0.2, 1.0),
}


def _cubic(t: float, x1: float, y1: float, x2: float, y2: float) -> float:
    """The height of the curve from (0, 0) to (1, 1) with two control points, at a time."""
    lower, upper = 0.0, 1.0
    for _ in range(40):
        middle = (lower + upper) / 2
        x = 3 * (1 - middle) ** 2 * middle * x1 + 3 * (1 - middle) * middle**2 * x2 + middle**3
        lower, upper = (middle, upper) if x < t else (lower, middle)
    return 3 * (1 - lower) ** 2 * lower * y1 + 3 * (1 - lower) * lower**2 * y2 + lower**3


class Frame(Struct, frozen=True):
    """A keyframe: the share of the time (0 to 1) at which a property has a value (None: its own), and how it gets there."""

    share: float
    value: str | None
    interpolator: str = "linear"


class Track(Struct, frozen=True):
    """One property of one part of a vector, moving from a time on to another (ms) from keyframe to keyframe."""

    target: str
    name: str
    start: float
    end: float
    frames: tuple[Frame, ...]
    interpolator: str


class Animators:
    """The animators of one file."""

    def __init__(self, path: str, project: Project, resources: Resources) -> None:
        self._path = path
        self._project = project
        self._resources = resources

    def inline_or_referred(self, node: Node, name: str) -> Node | None:
        """Return what an attribute holds: an element inside `<aapt:attr>`, or the root of the file that it refers to."""
        for inline in node.all("attr"):
            if inline.tag == f"{{{AAPT}}}attr" and inline.get("name") == f"android:{name}":
                return next(iter(inline.children), None)
        reference = split_reference(attribute(node, name) or "")
        entries = self._resources.defined(*reference) if reference else []
        path = next((entry.path for entry in entries if entry.node is None and entry.path.endswith(".xml")), None)
        return self._project.xml(path).root if path else None

    def refuse_missing(self, node: Node) -> None:
        """Refuse references to resources of the app's that do not exist, and colours that are not Android's."""
        for value in node.attributes.values():
            _refuse_bad_colour(value, Place(self._path, node.line))
            reference = split_reference(value)
            if reference and ":" not in reference[0] and not self._resources.defined(*reference):
                raise BadInput(
                    f"{value} is not in the project", place=Place(self._path, node.line), hint="Write the value out."
                )

    def length(self, animator: Node, depth: int = 0) -> float:
        """Return how long an animator runs in ms, its delay and repeats included; infinite when it never ends."""
        if depth > _DEEPEST:
            raise BadInput("animators are nested too deeply", place=Place(self._path, animator.line))
        if animator.local == "set":
            parts = [self.length(child, depth + 1) for child in animator.children if child.local in ANIMATORS]
            in_turn = attribute(animator, "ordering") == "sequentially"
            return sum(parts) if in_turn else max(parts, default=0.0)
        delay = self._milliseconds(animator, "startOffset", 0)
        duration = self._milliseconds(animator, "duration", android_facts().motion.default_ms)
        repeats = attribute(animator, "repeatCount") or "0"
        if repeats in {"infinite", "-1"}:
            return float("inf")
        return delay + duration * (1 + self._number(animator, "repeatCount", repeats))

    def tracks(self, root: Node) -> list[Track]:
        """Return all that moves in an `<animated-vector>`.

        Raises:
            BadInput: something in it is not understood.
        """
        found: list[Track] = []
        for target in root.all("target"):
            animator = self.inline_or_referred(target, "animation")
            if animator is not None:
                found += self._tracks(animator, attribute(target, "name") or "", 0.0, 0)
        return found

    def _tracks(self, animator: Node, target: str, start: float, depth: int) -> Iterator[Track]:
        if depth > _DEEPEST:
            raise BadInput("animators are nested too deeply", place=Place(self._path, animator.line))
        if animator.local == "set":
            at = start
            for child in animator.children:
                if child.local in ANIMATORS:
                    yield from self._tracks(child, target, at, depth + 1)
                    at += self.length(child) if attribute(animator, "ordering") == "sequentially" else 0.0
            return
        begin = start + self._milliseconds(animator, "startOffset", 0)
        end = begin + self._milliseconds(animator, "duration", android_facts().motion.default_ms)
        interpolator = _interpolator_of(animator)
        holders = animator.all("propertyValuesHolder") or [animator]
        for holder in holders:
            frames = tuple(self._frames(holder))
            is_plain = attribute(animator, "repeatCount") in {None, "0"} and not attribute(animator, "propertyXName")
            names = {interpolator, *(frame.interpolator for frame in frames)}
            if not frames or not is_plain or not names <= _INTERPOLATORS.keys():
                reason = "how something moves in it is not understood"
                raise BadInput(
                    reason,
                    place=Place(self._path, animator.line),
                    hint="Write valueFrom and valueTo, or keyframes, and a plain interpolator.",
                )
            for frame in frames:
                _refuse_bad_colour(frame.value or "", Place(self._path, holder.line))
            name = attribute(holder, "propertyName") or ""
            yield Track(target, name, begin, end, frames, interpolator)

    def _frames(self, holder: Node) -> Iterator[Frame]:
        """The keyframes of a holder of values, in their order; of one without, its two ends; none where they are not understood."""
        keyframes = holder.all("keyframe")
        if not keyframes:
            if (last := attribute(holder, "valueTo")) is not None and not holder.children:
                yield from (Frame(0.0, attribute(holder, "valueFrom")), Frame(1.0, last))
            return
        found = [(attribute(node, "fraction"), attribute(node, "value"), node) for node in keyframes]
        shares = [float(share) for share, _, _ in found if share is not None and _NUMBER.fullmatch(share)]
        is_whole = len(shares) == len(found) == len(holder.children) and len(found) > 1 and shares == sorted(shares)
        if not is_whole or shares[0] != 0 or shares[-1] != 1 or any(value is None for _, value, _ in found):
            return  # the system would fill in ends that are left out
        for share, (_, value, node) in zip(shares, found, strict=True):
            yield Frame(share, value, _interpolator_of(node, "linear"))

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
                f"android:{name} is not a whole number: {value}",
                place=at,
                hint="Write it in milliseconds, or as a count.",
            )
        return int(value)


def _interpolator_of(node: Node, default: str = "accelerate_decelerate") -> str:
    return (attribute(node, "interpolator") or default).rpartition("/")[2].removesuffix("_interpolator")


def _refuse_bad_colour(value: str, place: Place) -> None:
    try:
        if value.startswith("#"):
            android_colour(value)
    except ValueError:
        raise BadInput(f"{value} is not an Android colour", place=place, hint="Write #RRGGBB or #AARRGGBB.") from None


def vector_at(vector: Node, tracks: Sequence[Track], time: float) -> Node:
    """Return a `<vector>` as it is at a time, in ms from the start of its motion."""
    attributes = dict(vector.attributes)
    name = attribute(vector, "name")
    for track in sorted((track for track in tracks if track.target == name and name), key=lambda track: track.start):
        if time >= track.start:
            key = f"{{{ANDROID}}}{track.name}"
            attributes[key] = _value_at(track, time, attributes.get(key, _DEFAULTS.get(track.name, "0")))
    return replace(
        vector, attributes=attributes, children=[vector_at(child, tracks, time) for child in vector.children]
    )


_DEFAULTS = {"scaleX": "1", "scaleY": "1", "fillAlpha": "1", "strokeAlpha": "1", "alpha": "1", "trimPathEnd": "1"}


def _value_at(track: Track, time: float, own: str) -> str:
    """The value of a property at a time (android.animation.KeyframeSet); `own`: what it is before it moves."""
    length = track.end - track.start
    share = _INTERPOLATORS[track.interpolator](min(1.0, (time - track.start) / length)) if length > 0 else 1.0
    ends = list(pairwise(track.frames))
    before, after = next(((one, two) for one, two in ends if share < two.share), ends[-1])
    wide = after.share - before.share
    within = _INTERPOLATORS[after.interpolator]((share - before.share) / wide) if wide > 0 else 1.0
    return _between(before.value if before.value is not None else own, after.value or own, within)


def _between(first: str, last: str, share: float) -> str:
    """A value on the way from one to another; outside of them where the share is not from 0 to 1."""
    if first.startswith("#") and last.startswith("#"):
        channels = (
            round(a + (b - a) * min(1.0, max(0.0, share)))
            for a, b in zip(android_colour(first), android_colour(last), strict=True)
        )
        red, green, blue, alpha = channels
        return f"#{alpha:02X}{red:02X}{green:02X}{blue:02X}"
    before, after = (_NUMBER.findall(text) for text in (first, last))
    if len(before) != len(after):
        return last if share >= 1 else first
    values = iter([float(a) + (float(b) - float(a)) * share for a, b in zip(before, after, strict=True)])
    return _NUMBER.sub(lambda _: f"{next(values):.6g}", last)


def moments(
    project: Project, resources: Resources, theme: str | None, versions: Mapping[str, str]
) -> tuple[Screen, ...]:
    """Return a phone at evenly spaced times of the motion of a launch theme's icon; none where nothing moves."""
    level = android_facts().levels.system_launch_screen
    known = [screen.for_target("android") for screen in android_facts().screens if screen.proved]
    phone = known[-1]
    for is_night in (False, True):
        device = Device(level, is_night, round(phone.scale * BASE_DPI), phone.width, phone.height)
        item = theme_items(resources, theme or "", device, versions).item(f"android:{ICON}")
        reference = split_reference(item[0]) if item is not None else None
        entry = resources.best(*reference, device) if reference is not None else None
        if entry is not None and entry.node is None and entry.path.endswith(".xml") and _moves(project, entry.path):
            length = _length(project, resources, entry.path)
            shares = (step / MOMENTS for step in range(1, MOMENTS + 1))
            return tuple(
                replace(
                    phone,
                    name=f"{phone.name}, {share:.0%} of the motion",
                    variant=f"{_MOMENT}{share}",
                    moment_ms=None if length is None else share * length,
                )
                for share in shares
            )
    return ()


def _length(project: Project, resources: Resources, path: str) -> float | None:
    """How long an animated vector moves, in ms; None where that is not understood."""
    try:
        return max(
            (track.end for track in Animators(path, project, resources).tracks(project.xml(path).root)), default=None
        )
    except RiveltError:
        return None


def _moves(project: Project, path: str) -> bool:
    try:
        return project.xml(path).root.local == "animated-vector"
    except RiveltError:
        return False


def moment_of(screen: Screen) -> float:
    """Return how much of a motion has passed on a screen, from 0 to 1."""
    return float(screen.variant.removeprefix(_MOMENT)) if screen.variant.startswith(_MOMENT) else 0.0
