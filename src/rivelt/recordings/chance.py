"""Random launches, played by the stand-in device, so that it can be counted how often they are read rightly."""

from __future__ import annotations

import random
from typing import Literal, TypeAlias

from msgspec import Struct

from rivelt.colour import Colour
from rivelt.recordings.device import Part, Played, app_picture, blank_picture, home_picture, mark_picture, play
from rivelt.scene.launch import Kind, Moment
from rivelt.units import PixelSize, Rect

Fault: TypeAlias = Literal["none", "flash", "short flash", "second", "waiting"]

SIZE = PixelSize(270, 600)
_LIGHT = ("#F3EBDD", "#FFFFFF", "#D8E3EE", "#FFEEFF", "#FFC800")
_DARK = ("#13212B", "#000000", "#1B0F2A", "#202020")
_MARKS = {True: ("#E86A4A", "#6FD0C8", "#FFFFFF"), False: ("#1F6E7D", "#000000", "#C2402B")}
_OTHERS = ("#FFFFFF", "#336699", "#222222", "#88AA33")
_SEEN = 12.0  # CIEDE2000: less is no other ground


class Chance(Struct, frozen=True):
    """A random launch: the recording, its frames a second, and what is wrong with it."""

    played: Played
    rate: float
    fault: Fault


def launch_by_chance(seed: int) -> Chance:
    """Return the launch of a seed: 20 to 3,000 ms of launch screen, 24 to 120 frames a second, three bit rates, light and dark, with noise, fades and a rate that varies."""
    chance = random.Random(seed)
    rate = chance.choice([24.0, 30.0, 60.0, 60.0, 90.0, 120.0])
    frame = 1000 / rate
    is_dark = chance.random() < 0.4
    ground = chance.choice(_DARK if is_dark else _LIGHT)
    wide = chance.uniform(0.2, 0.6)
    high = wide * SIZE.width / SIZE.height * chance.uniform(0.5, 1.2)
    box = Rect(0.5 - wide / 2, 0.5 - high / 2, wide, high)
    launch = mark_picture(SIZE, ground, chance.choice(_MARKS[is_dark]), box)
    length = chance.uniform(20, 3000) if chance.random() < 0.5 else chance.uniform(60, 800)
    parts = [
        Part("home", chance.uniform(150, 1500), home_picture(SIZE, seed)),
        Part("opening", chance.uniform(120, 400)),
        Part("launch", max(length, 2.2 * frame), launch),
    ]
    faults: tuple[Fault, ...] = ("none", "none", "flash", "short flash", "second", "waiting")
    fault = chance.choice(faults)
    if fault in {"flash", "short flash"}:
        other = "#FFFFFF" if _apart(ground, "#FFFFFF") > _SEEN else "#000000"
        shown = 2 * frame + 0.5 if fault == "short flash" else max(2 * frame + 0.5, chance.uniform(33, 400))
        parts.append(Part("flash", shown, blank_picture(SIZE, other)))
    elif fault == "second":
        other = next(one for one in chance.sample(_OTHERS, len(_OTHERS)) if _apart(one, ground) > _SEEN)
        second = mark_picture(SIZE, other, "#FF00AA", Rect(0.3, 0.42, 0.4, 0.16))
        parts.append(Part("second", chance.uniform(100, 1500), second))
    elif fault == "waiting":
        parts.append(Part("waiting", chance.uniform(200, 1500), launch, spins=True))
    first = app_picture(SIZE, chance.choice(["#FFFFFF", "#FAFAFA", "#101418", "#F3EBDD"]), seed)
    parts.append(Part("first", chance.uniform(500, 2000), first, fade=chance.choice([0, 0, 150, 300])))
    played = play(
        parts,
        SIZE,
        rate=rate,
        bits=chance.choice([None, 400_000, 1_500_000]),
        jitter=chance.choice([0, 0, 0.6]),
        noise=chance.choice([0, 0, 2]),
        seed=seed,
    )
    return Chance(played, rate, fault)


def _apart(one: str, other: str) -> float:
    return Colour.parse(one).difference(Colour.parse(other))


def mistakes(chance: Chance, read: tuple[Moment, ...]) -> list[str]:
    """Return what was read wrongly of a launch: the kinds, or a border that is off by more than a frame and 20 ms."""
    truth = chance.played.truth
    kinds: list[Kind] = [one.kind for one in read]
    if kinds != [kind for kind, _, _ in truth]:
        return [f"kinds {kinds}, not {[kind for kind, _, _ in truth]}"]
    most = 1000 / chance.rate * (1 + 0.6) + 20  # the rate may vary by as much
    return [
        f"{kind} begins at {one.start:.0f} ms, not at {start:.0f}"
        for one, (kind, start, _) in zip(read, truth, strict=True)
        if abs(one.start - start) > most
    ]
