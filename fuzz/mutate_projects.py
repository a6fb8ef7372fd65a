"""A mutated file in the sample project, through survey, plan and scenes: only `RiveltError` may come out.

Usage: python fuzz/mutate_projects.py [CASES] [SEED]
"""

from __future__ import annotations

import random
import sys
from collections.abc import Callable
from functools import cache
from pathlib import Path

from mutation import mutated, run_all

_TEXTS = (".xml", ".plist", ".pbxproj", ".storyboard", ".json", ".toml", ".lock", ".kts", ".kt")


@cache
def applied_files() -> dict[str, bytes]:
    """The sample project, applied, as path -> bytes."""
    import tempfile

    from rivelt import job
    from rivelt.demo.layout import lay_out

    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        lay_out(root)
        job.apply(job.changes_of(job.prepare(job.load_brief(root))))
        files = {path.relative_to(root).as_posix(): path.read_bytes() for path in root.rglob("*") if path.is_file()}
    return {path: content for path, content in files.items() if not path.startswith(".rivelt/")}


@cache
def context() -> object:
    """The measured art of the sample brief."""
    import tempfile

    from rivelt import job
    from rivelt.demo.layout import lay_out

    with tempfile.TemporaryDirectory() as folder:
        lay_out(Path(folder))
        return job.context_of(job.load_brief(Path(folder)))


def run_case(path: str, data: bytes) -> None:
    """Everything that reads native files, on the project with one file spoilt."""
    from rivelt.brief.load import read_brief
    from rivelt.errors import RiveltError
    from rivelt.platforms import TARGETS, platform, platform_tables
    from rivelt.project.snapshot import Snapshot
    from rivelt.units import LOOKS
    from rivelt.workspace.lockfile import read_lock

    snapshot = Snapshot({**applied_files(), path: data})
    try:
        if path == "rivelt.toml":
            read_brief(data, Path("rivelt.toml"), shown_path=path, platform_tables=platform_tables())
        elif path == "rivelt.lock":
            read_lock(data)
        for target in TARGETS:
            for site in platform(target).survey(snapshot):
                for screen in platform(target).screens():
                    for look in LOOKS:
                        platform(target).scene(snapshot, site, screen, look)
                if site.blocked is None:
                    platform(target).plan(context(), snapshot, site)  # type: ignore[arg-type]
    except RiveltError:
        pass


def case(dice: random.Random) -> tuple[str, Callable[[], None]]:
    """One spoilt file of the project."""
    path = dice.choice(sorted(path for path in applied_files() if path.endswith(_TEXTS)))
    data = mutated(applied_files()[path], dice)
    return path, lambda: run_case(path, data)


if __name__ == "__main__":
    sys.exit(run_all(__file__, case))
