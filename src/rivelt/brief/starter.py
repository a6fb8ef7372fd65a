"""The commented starter brief."""

from __future__ import annotations

from dataclasses import dataclass

from rivelt.templating import Templates

_TEMPLATES = Templates("rivelt.brief")


@dataclass(frozen=True)
class Starter:
    """What a starter brief is filled with; None leaves a commented line in its place.

    Paths are relative to the brief; colours are CSS text.
    """

    name: str
    project: str
    targets: tuple[str, ...]
    mark: str
    ground: str
    imprint: str | None = None
    dark_ground: str | None = None
    dark_mark: str | None = None
    dark_imprint: str | None = None


def starter_text(starter: Starter) -> str:
    """The text of the starter brief."""
    return _TEMPLATES.render("rivelt.toml.j2", brief=starter)
