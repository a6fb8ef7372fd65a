"""The uploads of a brief."""

from __future__ import annotations

from msgspec import Struct

from rivelt.scene.model import Screen
from rivelt.scene.site import Site
from rivelt.units import Look


class Upload(Struct, frozen=True):
    """One image: its path (in the project, or in the archive), what it is for, its size in px, and the look."""

    path: str
    target: str
    width: int
    height: int
    density: float
    look: Look

    def fits(self, screen: Screen, look: Look) -> bool:
        """Return whether it is the image of a screen in a look."""
        return look == self.look and screen.variant == self.target and screen.name == f"{self.width} x {self.height}"


class UploadsSite(Site, frozen=True):
    """All images that the brief asks for.

    `out`: the folder, or (`is_archive`) the ZIP file that holds them, relative to the project's root.
    """

    uploads: tuple[Upload, ...] = ()
    out: str = ""
    is_archive: bool = False
