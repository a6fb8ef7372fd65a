"""Recipes, plates, files, edits and manual steps: what a plan is made of."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from functools import cached_property
from typing import Any, Literal, TypeAlias

from msgspec import Struct, field

from rivelt.colour import Colour
from rivelt.picture import Art
from rivelt.units import Look, PixelSize, Rect

RECIPE_FORMAT = 1
"""Raised whenever the same recipe is to give other pixels, so that plates made before are made again."""


class Placement(Struct, frozen=True):
    """A whole piece of art laid on a canvas: `box` in px, its aspect ratio that of the art; parts outside are cropped."""

    art: Art
    box: Rect


class Ink(Struct, frozen=True):
    """Art painted in one colour: its alpha stays, its colours go, and what looks like `paper` becomes a hole."""

    colour: Colour
    paper: Colour


Form: TypeAlias = Literal["png", "jpeg", "webp", "lossy-webp"]
"""How the file of an image is stored."""


class Recipe(Struct, frozen=True, dict=True):
    """What a plate is made of: a canvas in px, a ground (None: transparent), and art placed in order, the last on top.

    `form`: how it is stored; "jpeg" is for photographs, and needs a ground; "webp" is lossless, and "lossy-webp" is that for photographs
    alone. `ink`: all art in one colour. `most_bytes`: what the file
    may weigh; to keep within it, its colours are reduced as far as it cannot be seen.
    """

    canvas: PixelSize
    placed: tuple[Placement, ...]
    ground: Colour | None = None
    form: Form = "png"
    ink: Ink | None = None
    most_bytes: int | None = None

    @cached_property
    def digest(self) -> str:
        """SHA-256, in hex, of everything that decides the pixels."""
        parts: list[Any] = [RECIPE_FORMAT, tuple(self.canvas), self.ground and self.ground.hex]
        parts += [self.form] if self.form != "png" else []
        parts += [self.ink.colour.hex, self.ink.paper.hex] if self.ink is not None else []
        parts += [self.most_bytes] if self.most_bytes is not None else []
        parts += [(placement.art.kind, placement.art.digest, tuple(placement.box)) for placement in self.placed]
        return hashlib.sha256(repr(parts).encode()).hexdigest()


class Plate(Struct, frozen=True):
    """One finished image: where it goes (a POSIX path), for which look, and what it is made of."""

    path: str
    look: Look
    recipe: Recipe


class Bundle(Struct, frozen=True):
    """Plates in one ZIP file; their paths are those inside it."""

    path: str
    plates: tuple[Plate, ...]

    @property
    def digest(self) -> str:
        """SHA-256, in hex, of everything that decides the file."""
        parts = [(plate.path, plate.recipe.digest) for plate in self.plates]
        return hashlib.sha256(repr(parts).encode()).hexdigest()


class WriteFile(Struct, frozen=True):
    """A whole generated file that Rivelt owns; `summary` says in a few words what it is.

    `is_fallback`: whether it only stands in, for variants that nobody else makes a launch screen for.
    """

    path: str
    content: bytes
    summary: str
    is_fallback: bool = False


class EditFile(Struct, frozen=True):
    """A change to a file that a person owns: its bytes as they were read, and as they are to be.

    `is_shared`: whether several owners need the same of this file, such as a dependency; an edit that changes nothing then says that this
    one needs it as well.
    """

    path: str
    before: bytes
    after: bytes
    summary: str
    is_shared: bool = False


class ManualStep(Struct, frozen=True):
    """Something only the person can do: why, where, and lines ready to be copied."""

    title: str
    path: str | None = None
    lines: tuple[str, ...] = ()


class Plan(Struct, frozen=True):
    """All that would be done to one site. `notes` are plain sentences on what was decided. Paths are the project's own.

    `unused`: launch images of the person's that nothing would use any more; they go only when that is asked for, and then
    `prune_edits` stand in place of the edits of the same files.
    """

    target: str
    site: str
    plates: tuple[Plate, ...] = ()
    files: tuple[WriteFile, ...] = ()
    edits: tuple[EditFile, ...] = ()
    manual_steps: tuple[ManualStep, ...] = ()
    notes: tuple[str, ...] = field(default=())
    unused: tuple[str, ...] = ()
    prune_edits: tuple[EditFile, ...] = ()
    bundles: tuple[Bundle, ...] = ()

    def generated_paths(self) -> Iterator[str]:
        """Yield the paths of everything in the plan that Rivelt owns."""
        yield from (plate.path for plate in self.plates)
        yield from (bundle.path for bundle in self.bundles)
        yield from (file.path for file in self.files)

    @property
    def all_plates(self) -> tuple[Plate, ...]:
        """Every plate, those in bundles too."""
        return (*self.plates, *(plate for bundle in self.bundles for plate in bundle.plates))
