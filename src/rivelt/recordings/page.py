"""Recorded launches as one page, on which one steps through the frames with the arrow keys."""

from __future__ import annotations

import base64
from typing import TYPE_CHECKING, Any

import numpy as np

from rivelt import __version__
from rivelt.proof.page import image_source, press_css
from rivelt.recordings.recording import shrunk
from rivelt.recordings.strip import NAMES, difference
from rivelt.templating import Templates
from rivelt.units import PixelSize

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.recordings.model import Replay, Replays
    from rivelt.scene.launch import Moment

_TALL = 560  # px
_TEMPLATES = Templates("rivelt.recordings")


def draw_replay_page(replays: Replays) -> str:
    """Return the page as HTML that needs nothing else, and no network. The same recordings give the same text."""
    broken = sum(len(one.broken) for one in replays.replays)
    return _TEMPLATES.render(
        "replay.html.j2",
        css=press_css(),
        version=__version__,
        counted=f"{broken} finding{'s' * (broken != 1)}" if broken else "no findings",
        launches=[_launch(one) for one in replays.replays],
    )


def _launch(one: Replay) -> dict[str, Any]:
    return {
        "name": one.name,
        "size": f"{one.size.width} x {one.size.height} px, {one.end:.0f} ms",
        "end": f"{max(one.end, 1.0):.1f}",
        "times": " ".join(f"{time:.1f}" for time, _ in one.strip),
        "frames": ["data:image/jpeg;base64," + base64.b64encode(data).decode() for _, data in one.strip],
        "moments": [_moment(moment, max(one.end, 1.0)) for moment in one.launch.moments],
        "pictures": list(_pictures(one)),
        "findings": one.broken,
    }


def _moment(moment: Moment, end: float) -> dict[str, Any]:
    ground = moment.ground
    return {
        "kind": NAMES[moment.kind],
        "start": f"{moment.start:.0f}",
        "length": f"{moment.length:.0f}",
        "left": f"{100 * moment.start / end:.3f}",
        "width": f"{100 * moment.length / end:.3f}",
        "ground": ground.hex[:7] if ground is not None else None,
        "ink": "#1e2a30" if ground is None or ground.luminance > 0.3 else "#fbf7ef",
        "bad": moment.kind in {"flash", "second"},
        "words": f"{NAMES[moment.kind]}, {moment.start:.0f} to {moment.end:.0f} ms",
    }


def _pictures(one: Replay) -> list[dict[str, str]]:
    """The recorded launch screen, the proof's, and the difference."""
    launch = next((moment for moment in one.launch.of("launch") if moment.clearest in one.stills), None)
    if one.match is None or launch is None:
        return []
    recorded, proof = one.stills[launch.clearest], one.match.drawn
    pictures = (("recorded", recorded), ("the proof", proof), ("difference", difference(proof, recorded)))
    return [{"word": word, "source": image_source(_opaque(_fitted(pixels)))} for word, pixels in pictures]


def _fitted(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    high, wide = pixels.shape[:2]
    scale = min(1.0, _TALL / high)
    return shrunk(pixels, PixelSize(max(1, round(wide * scale)), max(1, round(high * scale))))


def _opaque(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.concatenate([pixels, np.full((*pixels.shape[:2], 1), 255, np.uint8)], axis=-1)
