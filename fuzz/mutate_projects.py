"""A mutated file in the sample project, through survey, plan and scenes: only `RiveltError` may come out.

Usage: python fuzz/mutate_projects.py [CASES] [SEED]
"""

from __future__ import annotations

import random
import sys
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from pathlib import Path

from mutation import mutated, run_all

_SPOILT = (
    ".xml", ".plist", ".pbxproj", ".storyboard", ".json", ".toml", ".lock", ".kts", ".kt", ".java", ".xcconfig",
    ".html", ".webmanifest", ".appxmanifest", ".csproj", ".9.png",
)  # fmt: skip
_RES = "android/app/src/main/res"
_ANDROID = 'xmlns:android="http://schemas.android.com/apk/res/android"'
_PROJECT = "ios/Skerryline.xcodeproj/project.pbxproj"


def _troublesome(files: dict[str, bytes]) -> dict[str, bytes]:
    """What the sample does not hold: shapes, a nine-patch, other drawables, a configuration file; all of them in use."""
    import pyvips

    window = (
        f'<layer-list {_ANDROID}><item><shape android:shape="oval"><gradient android:angle="45" android:startColor="#FF0000" '
        'android:centerX="0.3" android:endColor="#0000FF"/><stroke android:width="3dp" android:color="#00FF00"/><corners android:radius="9dp"/>'
        '<size android:width="90dp" android:height="60dp"/></shape></item><item android:top="9dp" android:gravity="center|bottom" '
        'android:drawable="@drawable/frame"/><item><inset android:inset="12dp" android:drawable="@drawable/states"/></item></layer-list>'
    )
    states = f'<selector {_ANDROID}><item android:state_pressed="true" android:drawable="@drawable/frame"/><item android:drawable="@drawable/rivelt_mark"/></selector>'
    frame = pyvips.Image.black(14, 12, bands=4).linear([1] * 4, [9, 9, 9, 255]).cast("uchar").pngsave_buffer()
    settings = '#include "More.xcconfig"\nINFOPLIST_KEY_UIStatusBarStyle[sdk=iphoneos*] = UIStatusBarStyleDefault\nNAME = $(TARGET_NAME)\n'
    more = {
        f"{_RES}/drawable/rivelt_window.xml": window.encode(),
        f"{_RES}/drawable/states.xml": states.encode(),
        f"{_RES}/drawable/frame.9.png": bytes(frame),
        "ios/Base.xcconfig": settings.encode(),
        "ios/More.xcconfig": b"A = 1\n",
    }
    project = files[_PROJECT].replace(
        b"isa = XCBuildConfiguration;",
        b"isa = XCBuildConfiguration;\n\t\t\tbaseConfigurationReference = FACE00000000000000000001;",
        1,
    )
    return {**files, **more, _PROJECT: project}


@cache
def applied_files() -> dict[str, bytes]:
    """The sample project, applied, with troublesome files added, as path -> bytes."""
    import tempfile

    from rivelt import job
    from rivelt.demo.layout import lay_out

    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        lay_out(root)
        brief = root / "rivelt.toml"
        brief.write_bytes(brief.read_bytes().replace(b'screens = "all"', b'screens = ["iPhone 15"]'))
        job.apply(job.changes_of(job.prepare(job.load_brief(root))))
        files = {path.relative_to(root).as_posix(): path.read_bytes() for path in root.rglob("*") if path.is_file()}
    kept = {path: content for path, content in files.items() if not path.startswith(".rivelt/")}
    kept["journal.json"] = files[".rivelt/0001/journal.json"]
    return _troublesome(kept)


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
    """Everything that reads the spoilt file: as brief, lock file or journal, or through the rooms of its platform."""
    import tempfile

    from rivelt.brief.load import read_brief
    from rivelt.errors import RiveltError
    from rivelt.platforms import TARGETS, platform_tables
    from rivelt.project.snapshot import Snapshot
    from rivelt.workspace import journal
    from rivelt.workspace.lockfile import read_lock

    try:
        if path == "rivelt.toml":
            read_brief(data, Path("rivelt.toml"), shown_path=path, platform_tables=platform_tables())
        elif path == "rivelt.lock":
            read_lock(data)
        elif path == "journal.json":
            with tempfile.TemporaryDirectory() as folder:
                file = Path(folder, ".rivelt/0001/journal.json")
                file.parent.mkdir(parents=True)
                file.write_bytes(data)
                journal.read(Path(folder), 1)
    except RiveltError:
        pass
    target = path.partition("/")[0]
    if target in TARGETS:
        run_platform(target, Snapshot({**applied_files(), path: data}))


def run_platform(target: str, snapshot: object) -> None:
    """Survey, scenes, plan and rules of one platform."""
    from rivelt.errors import RiveltError
    from rivelt.platforms import platform
    from rivelt.platforms.rules import Subject

    rooms = platform(target)
    for site in rooms.survey(snapshot):  # type: ignore[arg-type]
        for screen in rooms.screens():
            for look in screen.looks:
                rooms.scene(snapshot, site, screen, look)  # type: ignore[arg-type]
        if site.blocked is not None:
            continue
        for check in rooms.rules().values():
            with suppress(RiveltError):
                list(check(Subject(snapshot, site)))  # type: ignore[arg-type]
        with suppress(RiveltError):
            rooms.plan(context(), snapshot, site)  # type: ignore[arg-type]


def case(dice: random.Random) -> tuple[str, Callable[[], None]]:
    """One spoilt file of the project."""
    path = dice.choice(sorted(path for path in applied_files() if path.endswith(_SPOILT)))
    data = mutated(applied_files()[path], dice)
    return path, lambda: run_case(path, data)


if __name__ == "__main__":
    sys.exit(run_all(__file__, case))
