"""A mutated file in the sample project, through survey, plan and scenes: only `RiveltError` may come out.

Usage: python fuzz/mutate_projects.py [CASES] [SEED]
"""

from __future__ import annotations

import random
import sys
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from mutation import mutated, run_all
from samples import JOURNAL, context, projects

if TYPE_CHECKING:
    from rivelt.project.project import Project

CORRUPT = (
    ".xml",
    ".plist",
    ".pbxproj",
    ".storyboard",
    ".json",
    ".toml",
    ".lock",
    ".gradle",
    ".kts",
    ".kt",
    ".swift",
    ".mm",
    ".yml",
    ".java",
    ".xcconfig",
    ".html",
    ".webmanifest",
    ".appxmanifest",
    ".csproj",
    ".9.png",
    ".png",
)


def run_case(project: str, path: str, data: bytes) -> None:
    """Everything that reads the corrupt file: as brief, lock file or journal, or through the rooms of its platform."""
    from rivelt.brief.load import read_brief
    from rivelt.errors import RiveltError
    from rivelt.platforms import TARGETS, platform_tables
    from rivelt.project.project import Project
    from rivelt.workspace.edits import without_edits
    from rivelt.workspace.lockfile import read_lock

    with suppress(RiveltError):
        if path == "rivelt.toml":
            read_brief(data, Path("rivelt.toml"), shown_path=path, platform_tables=platform_tables())
        elif path == "rivelt.lock":
            lock = read_lock(data)
            without_edits(Project.of_files(projects()[project]), lock, lock.owners)
        elif path == JOURNAL:
            read_journal(data)
    target = path.partition("/")[0]
    if target in TARGETS:
        run_platform(target, Project.of_files({**projects()[project], path: data}))


def read_journal(data: bytes) -> None:
    """Read a journal from a folder of its own."""
    import tempfile

    from rivelt.disk.tree import Tree
    from rivelt.workspace import journal

    with tempfile.TemporaryDirectory() as folder, Tree.opened(Path(folder)) as tree:
        file = Path(folder, JOURNAL)
        file.parent.mkdir(parents=True)
        file.write_bytes(data)
        journal.read(tree, 1)


def run_platform(target: str, project: Project) -> None:
    """Survey, scenes, plan and rules of one platform."""
    from rivelt.errors import RiveltError
    from rivelt.evidence import Evidence
    from rivelt.platforms import platform
    from rivelt.rules.runner import Choice

    found = platform(target)
    sites = found.survey(project)
    evidence = Evidence(project, sites)
    list(evidence.judge(evidence.sites, Choice()))
    for site in sites:
        if site.blocked is None:
            with suppress(RiveltError):
                found.plan(context(), project, site)


def case(dice: random.Random) -> tuple[str, Callable[[], None]]:
    """One corrupt file of a project; each kind of file as often as any other."""
    kind = dice.choice(CORRUPT)
    found = [(project, path) for project, files in projects().items() for path in sorted(files) if path.endswith(kind)]
    project, path = dice.choice(found)
    data = mutated(projects()[project][path], dice)
    return path, lambda: run_case(project, path, data)


if __name__ == "__main__":
    sys.exit(run_all(__file__, case))
