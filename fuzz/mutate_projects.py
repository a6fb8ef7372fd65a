"""A mutated file in the sample project, through survey, plan and scenes: only `RiveltError` may come out.

Usage: python fuzz/mutate_projects.py [CASES] [SEED]
"""

from __future__ import annotations

import random
import sys
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from mutation import mutated, run_all
from samples import JOURNAL, context, projects

SPOILT = (
    ".xml", ".plist", ".pbxproj", ".storyboard", ".json", ".toml", ".lock", ".gradle", ".kts", ".kt", ".java", ".xcconfig",
    ".html", ".webmanifest", ".appxmanifest", ".csproj", ".9.png", ".png",
)  # fmt: skip


def run_case(project: str, path: str, data: bytes) -> None:
    """Everything that reads the spoilt file: as brief, lock file or journal, or through the rooms of its platform."""
    from rivelt.brief.load import read_brief
    from rivelt.errors import RiveltError
    from rivelt.platforms import TARGETS, platform_tables
    from rivelt.project.snapshot import Snapshot
    from rivelt.workspace.lockfile import read_lock

    with suppress(RiveltError):
        if path == "rivelt.toml":
            read_brief(data, Path("rivelt.toml"), shown_path=path, platform_tables=platform_tables())
        elif path == "rivelt.lock":
            read_lock(data)
        elif path == JOURNAL:
            read_journal(data)
    target = path.partition("/")[0]
    if target in TARGETS:
        run_platform(target, Snapshot({**projects()[project], path: data}))


def read_journal(data: bytes) -> None:
    """Read a journal from a folder of its own."""
    import tempfile

    from rivelt.workspace import journal

    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder, ".rivelt/0001/journal.json")
        file.parent.mkdir(parents=True)
        file.write_bytes(data)
        journal.read(Path(folder), 1)


def run_platform(target: str, snapshot: object) -> None:
    """Survey, scenes, plan and rules of one platform."""
    from rivelt.rules.catalogue import catalogue
    from rivelt.rules.pictures import check_pictures, check_waiting
    from rivelt.errors import RiveltError
    from rivelt.platforms import platform
    from rivelt.rules.rulebook import Subject

    rooms = platform(target)
    for site in rooms.survey(snapshot):  # type: ignore[arg-type]
        scenes = [
            (site, rooms.scene(snapshot, site, screen, look))  # type: ignore[arg-type]
            for screen in rooms.screens()
            for look in screen.looks
        ]
        list(check_pictures(scenes, frozenset(catalogue()), {}))
        list(check_waiting(snapshot, scenes, {}))  # type: ignore[arg-type]
        if site.blocked is not None:
            continue
        for check in rooms.rules().values():
            with suppress(RiveltError):
                list(check(Subject(snapshot, site)))  # type: ignore[arg-type]
        with suppress(RiveltError):
            rooms.plan(context(), snapshot, site)  # type: ignore[arg-type]


def case(dice: random.Random) -> tuple[str, Callable[[], None]]:
    """One spoilt file of a project; each kind of file as often as any other."""
    kind = dice.choice(SPOILT)
    found = [(project, path) for project, files in projects().items() for path in sorted(files) if path.endswith(kind)]
    project, path = dice.choice(found)
    data = mutated(projects()[project][path], dice)
    return path, lambda: run_case(project, path, data)


if __name__ == "__main__":
    sys.exit(run_all(__file__, case))
