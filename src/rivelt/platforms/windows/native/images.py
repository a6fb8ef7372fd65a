"""Images with qualifiers: which file a name in the manifest stands for, at one scale and in one theme."""

from __future__ import annotations

from msgspec import Struct

from rivelt.patterns import regex
from rivelt.platforms.windows.facts import Kind
from rivelt.project.project import Project
from rivelt.project.snapshot import join
from rivelt.units import Look

_SCALE = regex(r"\bscale-(\d{2,4})\b")
_LANGUAGE = regex(r"[a-z]{2,3}(?:-[a-z0-9]{2,8})*")
_QUALIFIERS = frozenset(
    {"scale", "contrast", "theme", "targetsize", "lang", "language", "altform", "config", "layoutdir"}
)
_PERCENT = 100
_TYPES = (".png", ".jpg", ".jpeg")


class Variant(Struct, frozen=True):
    """One file that a name stands for: for which scale (percent), high-contrast theme, theme and language ("": none or all)."""

    path: str
    scale: int
    contrast: str
    theme: str = ""
    language: str = ""


def image_path(folder: str, name: str) -> str | None:
    """Return the path that a manifest in `folder` names; None when it is not a file of the package."""
    if ":" in name:  # ms-resource:, ms-appx:
        return None
    path = join(folder, *name.replace("\\", "/").lstrip("/").split("/"))
    return None if path.startswith("../") or path == ".." else path


def variants(project: Project, folder: str, name: str) -> list[Variant]:
    """Return the files that a name stands for: with qualifiers in the file's name, in that of a folder, or with none (which is 100 %).

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
    known = dict(part.split("-", 1) for part in parts if part.partition("-")[0] in _QUALIFIERS and "-" in part)
    others = [part for part in parts if part.partition("-")[0] not in _QUALIFIERS]
    if "targetsize" in known or not all(_LANGUAGE.fullmatch(part) for part in others):
        return None  # of icons at a size of their own, or in a folder that is none
    language = known.get("lang") or known.get("language") or next(iter(others), "")
    scale = known.get("scale", "100")
    contrast = known.get("contrast", "").replace("standard", "")
    return Variant(path, int(scale), contrast, known.get("theme", ""), language) if scale.isdecimal() else None


def launch_sized(project: Project, folder: str, kind: Kind) -> list[str]:
    """Return the images in a folder, or below it, that have exactly the size of a launch image at their scale."""
    found = []
    for path in project.below(folder):
        if path.lower().endswith(_TYPES):
            scale = int(qualifier[1]) if (qualifier := _SCALE.search(path.lower())) else _PERCENT
            if project.image(path).size == kind.size.pixels(scale / _PERCENT):
                found.append(path)
    return found


def best(found: list[Variant], scale: int, contrast: str, look: Look = "light") -> Variant | None:
    """Return the file for a scale (percent), a high-contrast theme and a look: the theme decides first, then the nearest scale, a larger first.

    Files for one language alone are left out: which one is taken depends on the person.
    """
    plain = [variant for variant in found if not variant.language and variant.theme in {"", look}]
    fitting = [variant for variant in plain if variant.contrast in {contrast, "high" if contrast else ""}]
    fitting = fitting or [variant for variant in plain if not variant.contrast]
    fitting = [variant for variant in fitting if variant.theme] or fitting
    return min(
        fitting, key=lambda variant: (variant.scale < scale, abs(variant.scale - scale), variant.path), default=None
    )
