"""The brief as a value: every default filled in, every colour and key understood."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, TypeAlias

from rivelt.colour import Colour
from rivelt.errors import Place
from rivelt.findings import Severity
from rivelt.units import LOOKS, Look

Role: TypeAlias = Literal["mark", "imprint"]
ROLES: tuple[Role, ...] = ("mark", "imprint")

Centre: TypeAlias = Literal["circle", "box", "mass"]

DERIVE = "derive"
"""In place of a path under [dark]: the light art, recoloured for the dark ground."""


NO_DISC = "none"
"""In place of a colour: no disc in this look, although the other has one."""


@dataclass(frozen=True)
class LookBrief:
    """What the screen shows in one look: an opaque ground, and art as paths relative to the brief.

    `disc`: the colour of a circle under the mark, or None. `is_ground_given`: whether the brief says the ground; if not, it is
    to be taken from the backdrop. `ground_name`: the CSS name of the ground, where the brief gives it by name.
    """

    ground: Colour
    mark: str
    imprint: str | None = None
    backdrop: str | None = None
    disc: Colour | None = None
    is_ground_given: bool = True
    ground_name: str | None = field(default=None, compare=False)

    @property
    def behind_mark(self) -> Colour:
        """The flat colour that the mark stands on."""
        return self.disc or self.ground

    def art(self, role: Role) -> str | None:
        """The path of the art that plays `role`, or None."""
        return self.mark if role == "mark" else self.imprint


@dataclass(frozen=True)
class Layout:
    """How large and how far from the edges.

    `mark_size`: dp or pt, the longer side of the visible mark, or "fit": as large as every mask allows.
    `clearance`: the width of the free ring inside a circular mask, as a share of the mask's diameter (0 to 0.4).
    `centre`: what of the mark is centred; None: its circle under a round mask, its box elsewhere.
    `focus`: the point of the backdrop, as shares of its width and height, that should be seen on every screen.
    `trim`: whether transparent margins of the art are left out. `enlarge`: whether a bitmap may be enlarged more than twice.
    """

    mark_size: float | Literal["fit"] = "fit"
    clearance: float = 0.06
    centre: Centre | None = None
    focus: tuple[float, float] = (0.5, 0.5)
    trim: bool = True
    enlarge: bool = False


@dataclass(frozen=True)
class Brief:
    """Everything the person decides.

    `folder` holds the brief; art paths are relative to it. `project` is where the native projects are.
    `targets` is None when the survey is to say. `first_grounds`: the ground of the app's first screen, for the looks in which the brief
    says it. `options` holds the table of each platform, by target. `ignored_rules`: codes of rules to leave out, with the reasons; `severities`:
    how grave others are. `places` maps keys ("light.ground") to where they stand in the file.
    """

    path: Path
    name: str
    project: Path
    targets: tuple[str, ...] | None
    looks: Mapping[Look, LookBrief]
    layout: Layout
    small_files: bool = False
    first_grounds: Mapping[Look, Colour] = field(default_factory=dict)
    options: Mapping[str, Any] = field(default_factory=dict)
    ignored_rules: Mapping[str, str] = field(default_factory=dict)
    severities: Mapping[str, Severity] = field(default_factory=dict)
    places: Mapping[str, Place] = field(default_factory=dict, repr=False, compare=False)

    @property
    def folder(self) -> Path:
        """The folder that holds the brief."""
        return self.path.parent

    @property
    def shown_looks(self) -> tuple[Look, ...]:
        """Both looks, or only light when dark would show the very same."""
        return LOOKS if self.looks["dark"] != self.looks["light"] else ("light",)

    def place(self, key: str) -> Place | None:
        """Where `key` stands in the file; for a dark key that was left out, where its light one stands."""
        found = self.places.get(key)
        return found or self.places.get(key.replace("dark.", "light.", 1))
