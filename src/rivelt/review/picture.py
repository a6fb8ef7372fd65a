"""The three pictures of a change: before, after, and what differs between them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING

import numpy as np

from rivelt.colour import Colour
from rivelt.cores import threads
from rivelt.pixels.pictures import Pictures
from rivelt.progress import Progress
from rivelt.proof.drawn import drawn_scene
from rivelt.review.model import Change

if TYPE_CHECKING:
    from numpy.typing import NDArray

MARKED = Colour.parse("#C2402B")
"""The colour of pixels that differ."""

_FADED = 0.72  # how far what is the same goes towards white
_SLIGHT = 0.35  # the least share of the colour where anything differs, so that one level of 255 is seen


def triples(
    changes: Sequence[tuple[Change, float]], pictures: Pictures | None, on_progress: Progress
) -> Iterator[tuple[int, tuple[NDArray[np.uint8] | None, NDArray[np.uint8] | None, NDArray[np.uint8] | None]]]:
    """Yield for each change, in order, its place and the pictures before, after and of the difference; None where there is none.

    Args:
        changes: each with the px for each dp or pt.
        pictures: what decodes the bitmaps.
        on_progress: called with how many changes are drawn.
    """
    shared = pictures or Pictures()
    with ThreadPoolExecutor(threads()) as pool:
        jobs = [pool.submit(_triple, change, scale, shared) for change, scale in changes]
        for index, job in enumerate(jobs):
            yield index, job.result()
            on_progress(index + 1, len(jobs))


def _triple(
    change: Change, scale: float, pictures: Pictures
) -> tuple[NDArray[np.uint8] | None, NDArray[np.uint8] | None, NDArray[np.uint8] | None]:
    before, after = (
        None if scene is None else drawn_scene(scene, scale, pictures) for scene in (change.before, change.after)
    )
    return before, after, None if before is None or after is None else marked(before, after)


def marked(before: NDArray[np.uint8], after: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return the later picture faded, with what differs painted over it, the more strongly the more it differs."""
    apart = np.abs(before.astype(np.int16) - after).max(axis=-1)
    share = np.where(apart > 0, np.maximum(_SLIGHT, np.minimum(1, apart / 96)), 0)[..., None]
    faded = after[..., :3] + (255 - after[..., :3].astype(np.float32)) * _FADED
    found = np.empty_like(after)
    found[..., :3] = np.rint(faded * (1 - share) + np.array(MARKED[:3], np.float32) * share)
    found[..., 3] = np.maximum(before[..., 3], after[..., 3])
    return found
