"""Screens that look the same: of one site, whose pictures are as large and stand in the same place, seen from the middle or an edge."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from typing import TYPE_CHECKING, TypeAlias

import numpy as np

from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.proof.collect import family_of
from rivelt.scene.model import Fill, Layer, Picture, Scene, TextBox, Unknown
from rivelt.units import PixelSize, Rect

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from rivelt.pixels.pictures import Pictures
    from rivelt.proof.model import Proof

_Stretch: TypeAlias = tuple[float, float, float]

_TOLERANCE = 1.0  # dp or pt
_SHARE = 0.02  # of the width
_SAMPLE = PixelSize(32, 32)
_SEEN = 4.0  # of 255, on average over a picture drawn small: the same drawing at two densities differs by less


def grouped(proof: Proof, pairs: Sequence[Sequence[Scene]], pictures: Pictures) -> list[list[int]]:
    """Return the screens of one site in groups that look the same, each by its place among them; the first stands for the others.

    Args:
        proof: what they are shown in: screens on which other things are wrong are not the same.
        pairs: each screen in its looks.
        pictures: what decodes their pictures.
    """
    groups: list[list[int]] = []
    samples: dict[ImageFile, NDArray[np.uint8] | None] = {}
    for index, pair in enumerate(pairs):
        for group in groups:
            if _are_alike(proof, pairs[group[0]], pair, pictures, samples):
                group.append(index)
                break
        else:
            groups.append([index])
    return groups


def _are_alike(
    proof: Proof,
    ones: Sequence[Scene],
    others: Sequence[Scene],
    pictures: Pictures,
    samples: dict[ImageFile, NDArray[np.uint8] | None],
) -> bool:
    return len(ones) == len(others) and all(
        _key(proof, one) == _key(proof, other)
        and len(one.layers) == len(other.layers)
        and all(
            _is_alike(first, one, second, other) and _shows_the_same(first, second, pictures, samples)
            for first, second in zip(one.layers, other.layers, strict=True)
        )
        for one, other in zip(ones, others, strict=True)
    )


def _key(proof: Proof, scene: Scene) -> Hashable:
    """What must be equal: the family of the device, its look, and what is wrong."""
    return family_of(scene.screen), scene.look, scene.title, scene.mask is None, proof.codes_of(scene)


def _is_alike(one: Layer, on: Scene, other: Layer, its: Scene) -> bool:
    """Whether two layers are of one kind and as large, and stand in the same place seen from the middle or from an edge."""
    if type(one) is not type(other):
        return False
    match one, other:
        case (Fill(), Fill()):
            if (one.colour, one.is_round) != (other.colour, other.is_round):
                return False
        case (TextBox(), TextBox()):
            if (one.text, one.colour) != (other.text, other.colour):
                return False
        case (Unknown(), Unknown()):
            if one.reason != other.reason:
                return False
    is_scaled = not on.screen.is_device
    return _stands_alike(one.rect, on.screen.frame, other.rect, its.screen.frame, is_scaled=is_scaled)


def _stands_alike(one: Rect, frame: Rect, other: Rect, its: Rect, *, is_scaled: bool) -> bool:
    if one.covers(frame) and other.covers(its):
        return True
    if is_scaled:  # the same picture, larger
        shares = zip(_share(one, frame), _share(other, its), strict=True)
        return all(abs(first - second) <= _SHARE for first, second in shares)
    across = (one.x, one.width, frame.width), (other.x, other.width, its.width)
    down = (one.y, one.height, frame.height), (other.y, other.height, its.height)
    return _is_along(*across) and _is_along(*down)


def _is_along(one: _Stretch, other: _Stretch) -> bool:
    """Whether two stretches (start, length, length of the screen) span both screens, or are as long and as far from the middle or an edge."""
    start, length, whole = one
    its_start, its_length, its_whole = other
    if _near(length, whole) and _near(its_length, its_whole):
        return True
    from_end = _near(whole - start - length, its_whole - its_start - its_length)
    from_middle = _near(start + length / 2 - whole / 2, its_start + its_length / 2 - its_whole / 2)
    return _near(length, its_length) and (from_middle or from_end or _near(start, its_start))


def _share(rect: Rect, frame: Rect) -> tuple[float, float, float, float]:
    """A rectangle in widths of the screen, seen from its middle."""
    across, down = rect.centre.x - frame.centre.x, rect.centre.y - frame.centre.y
    return across / frame.width, down / frame.width, rect.width / frame.width, rect.height / frame.width


def _near(one: float, other: float) -> bool:
    return abs(one - other) <= _TOLERANCE


def _shows_the_same(
    one: Layer, other: Layer, pictures: Pictures, samples: dict[ImageFile, NDArray[np.uint8] | None]
) -> bool:
    """Whether the pictures of two layers are one, drawn at whatever density."""
    if not (isinstance(one, Picture) and isinstance(other, Picture)):
        return True
    if (one.tint, one.opacity, one.is_mirrored, one.tile is None) != (
        other.tint,
        other.opacity,
        other.is_mirrored,
        other.tile is None,
    ):
        return False
    if one.image == other.image:
        return True
    if one.image.is_vector or other.image.is_vector:
        return False
    first, second = (_sample(layer.image, pictures, samples) for layer in (one, other))
    if first is None or second is None:
        return False
    return float(np.abs(first.astype(np.int16) - second).mean()) < _SEEN


def _sample(
    image: ImageFile, pictures: Pictures, samples: dict[ImageFile, NDArray[np.uint8] | None]
) -> NDArray[np.uint8] | None:
    if image not in samples:
        try:
            samples[image] = pictures.at(image, _SAMPLE)
        except BadInput:
            samples[image] = None
    return samples[image]
