"""Frameworks whose activity is not the app's: `frameworks.toml` as values, and which one an app is made with."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING, NamedTuple

from msgspec import Struct

from rivelt.platforms.facts import load_facts
from rivelt.project.project import Project
from rivelt.project.snapshot import join

if TYPE_CHECKING:
    from rivelt.platforms.android.native.activity import ActivitySource


class Framework(Struct, frozen=True):
    """One of `frameworks.toml`, where each field is explained."""

    name: str
    classes: tuple[str, ...]
    theme_meta: str = ""
    picture_meta: str = ""
    has_own_view: bool = False
    generated: str = ""
    kept: str = ""
    lines: tuple[str, ...] = ()


class FrameworkTable(Struct, frozen=True):
    """All of `frameworks.toml`."""

    frameworks: tuple[Framework, ...]


@cache
def framework_table() -> FrameworkTable:
    """Return the table, read once."""
    return load_facts("rivelt.platforms.android", FrameworkTable, "frameworks.toml")


def framework_of(activity: str, source: ActivitySource | None) -> Framework | None:
    """Return the framework whose activity starts the app: named in the manifest, or what the app's class inherits from.

    Args:
        activity: the full name of the launcher's class.
        source: its source, where the project has it.
    """
    names = {activity, source.base if source is not None else ""}
    simple = source.base if source is not None and "." not in source.base else None
    for framework in framework_table().frameworks:
        if names & set(framework.classes) or (simple and any(one.endswith(f".{simple}") for one in framework.classes)):
            return framework
    return None


class Regenerated(NamedTuple):
    """A folder that a framework's tool regenerates, the file or folder of the app that survives, and the framework."""

    folder: str
    kept: str
    framework: Framework


def regenerated(project: Project, module: str, framework: Framework | None) -> Regenerated | None:
    """Return the folder that a framework's tool regenerates, and the file that survives; None where the module is the app's own."""
    known = [framework] if framework is not None else list(framework_table().frameworks)
    for one in known:
        if not one.generated:
            continue
        before, found, _ = f"{module}/".partition(f"{one.generated}/")
        if found and (not before or before.endswith("/")):
            root = before.rstrip("/")
            kept = next(
                (path for path in (join(root, one.kept), join(root, "app", one.kept)) if _is_there(project, path)), None
            )
            if kept is not None:
                return Regenerated(join(root, one.generated), kept, one)
    return None


def _is_there(project: Project, path: str) -> bool:
    return path in project or bool(project.below(path))
