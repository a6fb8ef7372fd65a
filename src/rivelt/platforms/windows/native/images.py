"""Images with qualifiers: which file a name in the manifest stands for, at one scale and in one theme."""

from __future__ import annotations

import re
from dataclasses import dataclass

from rivelt.platforms.windows.facts import windows_facts
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.units import Size

_SCALE = re.compile(r"\bscale-(\d{2,4})\b")
_PERCENT = 100
_TYPES = (".png", ".jpg", ".jpeg")


@dataclass(frozen=True)
class Variant:
    """One file that a name stands for: for which scale (percent), and for which high-contrast theme ("": none)."""

    path: str
    scale: int
    contrast: str


def image_path(folder: str, name: str) -> str | None:
    """The path that a manifest in `folder` names; None when it is no file of the package."""
    if ":" in name:  # ms-resource:, ms-appx:
        return None
    path = join(folder, *name.replace("\\", "/").lstrip("/").split("/"))
    return None if path.startswith("../") or path == ".." else path


def variants(project: Project, folder: str, name: str) -> list[Variant]:
    """The files that a name stands for: with qualifiers in the file's name, in that of a folder, or with none (which is 100 %).

    As on Windows, upper and lower case are the same.
    """
    wanted = image_path(folder, name)
    if wanted is None:
        return []
    home, _, file = wanted.rpartition("/")
    stem, _, kind = file.lower().rpartition(".")
    found = []
    for path in project.below(home):
        if path.lower().endswith(_TYPES):
            variant = _variant(path, home, stem, f".{kind}")
            if variant is not None:
                found.append(variant)
    return found


def _variant(path: str, home: str, stem: str, kind: str) -> Variant | None:
    below = path[len(home) + 1 :].lower() if home else path.lower()
    *folders, file = below.split("/")
    name, dot, qualifiers = file.removesuffix(kind).partition(".")
    if not file.endswith(kind) or name != stem:
        return None
    parts = [*(part for folder in folders for part in folder.split("_")), *(qualifiers.split("_") if dot else [])]
    known = dict(part.split("-", 1) for part in parts if "-" in part)
    if set(known) - {"scale", "contrast"} or any("-" not in part for part in parts):
        return None
    scale = known.get("scale", "100")
    return Variant(path, int(scale), known.get("contrast", "").replace("standard", "")) if scale.isdecimal() else None


def launch_sized(project: Project, folder: str) -> list[str]:
    """The images in a folder, or below it, that have exactly the size of a launch image at their scale."""
    facts = windows_facts()
    found = []
    for path in project.below(folder):
        if path.lower().endswith(_TYPES):
            scale = int(qualifier[1]) if (qualifier := _SCALE.search(path.lower())) else _PERCENT
            if project.image(path).size == Size(facts.width, facts.height).pixels(scale / _PERCENT):
                found.append(path)
    return found


def best(found: list[Variant], scale: int, contrast: str) -> Variant | None:
    """The file for a scale (percent) and a high-contrast theme: the theme decides first, then the nearest scale, a larger one first."""
    fitting = [variant for variant in found if variant.contrast in {contrast, "high" if contrast else ""}]
    fitting = fitting or [variant for variant in found if not variant.contrast]
    return min(
        fitting, key=lambda variant: (variant.scale < scale, abs(variant.scale - scale), variant.path), default=None
    )
