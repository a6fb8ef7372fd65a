"""Stopped at any moment: the tree is old, or new, or made old by undo."""

from __future__ import annotations

import os
import re
import resource
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from conftest import BRIEF, MARK, Command, quick_sample, read_tree, small_android, write_tree
from rivelt import job
from rivelt.errors import Refused
from rivelt.workspace import commit, history
from rivelt.workspace.commit import undo
from rivelt.workspace.lock import exclusive

POINTS = (
    (os, "fsync"),
    (os, "replace"),
    (os, "rename"),
    (os, "unlink"),
    (os, "mkdir"),
    (os, "rmdir"),
    (os, "open"),
    (os, "chmod"),
)
MANIFEST = (
    '<Package xmlns:u="urn:u"><Applications><Application><u:VisualElements/></Application></Applications></Package>'
)


def project(tmp_path: Path) -> Path:
    """A small project with an edit, new folders and removals in it."""
    files = small_android(brief=BRIEF + "[windows]\nhigh_contrast = true\n")
    return write_tree(tmp_path / "tern", {**files, "win/Package.appxmanifest": MANIFEST, "mark.svg": MARK})


@pytest.fixture(params=["a small project", "the sample app"])
def stopped(request: pytest.FixtureRequest, tmp_path: Path) -> tuple[Path, int]:
    """A project, and the distance of the points at which it is stopped: of the sample app every one when the environment asks for it."""
    if request.param == "a small project":
        return project(tmp_path), 1
    return write_tree(tmp_path / "skerryline", quick_sample()), 1 if os.environ.get("RIVELT_EVERY_POINT") else 29


def own(root: Path) -> dict[str, bytes]:
    return {path: content for path, content in read_tree(root).items() if not path.startswith(".rivelt/")}


def killed_at(number: int, work: Callable[[], object]) -> bool:
    """Do some work in a child that is killed right before its n-th call that changes the disk, or after it; whether it was."""
    child = os.fork()
    if child == 0:
        count = 0

        def counting(real: Callable[..., Any]) -> Callable[..., Any]:
            def call(*arguments: Any, **options: Any) -> Any:
                nonlocal count
                count += 1
                if count == number:
                    os.kill(os.getpid(), signal.SIGKILL)
                return real(*arguments, **options)

            return call

        for module, name in POINTS:
            setattr(module, name, counting(getattr(module, name)))
        try:
            work()
        finally:
            os._exit(0)
    _, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)


@pytest.mark.slow
def test_an_apply_killed_at_any_point_can_be_taken_back(stopped: tuple[Path, int]) -> None:
    root, distance = stopped
    old = own(root)
    changes = job.open_brief(root).changes()
    number = 1
    while killed_at(number, lambda: commit.apply(changes)):
        assert not [path for path in own(root) if path.startswith(".rivelt/")]
        if history.applies(root):
            undo(root)
        assert own(root) == old, number
        number += distance
    assert number > 60, "the apply has many points at which it can be stopped"
    new = own(root)
    assert new != old
    undo(root)
    assert read_tree(root) == old


@pytest.mark.slow
def test_an_undo_killed_at_any_point_can_be_finished(stopped: tuple[Path, int], tmp_path: Path) -> None:
    root, distance = stopped
    old = own(root)
    commit.apply(job.open_brief(root).changes())
    kept = tmp_path / "kept"
    shutil.copytree(root, kept)
    number = 1
    while killed_at(number, lambda: undo(root)):
        if history.applies(root):
            undo(root)
        assert own(root) == old, number
        shutil.rmtree(root)
        shutil.copytree(kept, root)
        number += distance
    assert number > 40
    assert own(root) == old


@pytest.mark.slow
def test_the_next_command_says_what_happened(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path)
    changes = job.open_brief(root).changes()
    number = 1
    while not (history.applies(root) and not history.applies(root)[0].is_done and own(root) != own(tmp_path)):
        assert killed_at(number, lambda: commit.apply(changes))
        number += 10
        if number < 60 and history.applies(root):
            undo(root)
    told = rivelt("apply", cwd=root)
    assert told.code == 3
    assert "an earlier apply was stopped halfway" in told.err
    assert "stopped halfway" in rivelt("undo", "--list", cwd=root).out
    for command in ("survey", "proof", "check"):
        assert "an earlier apply was stopped halfway" in rivelt(command, cwd=root).err
    (root / "proof.png").unlink(missing_ok=True)
    assert rivelt("undo", cwd=root).code == 0
    assert rivelt("apply", cwd=root).code == 0


@pytest.mark.slow
def test_a_full_disk_leaves_the_old_tree(tmp_path: Path) -> None:
    """Files may not grow beyond a limit: the system's answer is that of a disk without room."""
    root = project(tmp_path)
    old = own(root)
    for limit in (200, 2_000, 5_000):
        done = subprocess.run(
            [sys.executable, "-m", "rivelt", "apply"],
            cwd=root,
            capture_output=True,
            text=True,
            preexec_fn=lambda limit=limit: resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit)),  # type: ignore[misc]
            env={**os.environ, "PYTHONDONTWRITEBYTECODE": "1"},
        )
        assert done.returncode == 2, done.stderr
        assert "cannot be written: File too large" in done.stderr or "cannot write to the project" in done.stderr
        assert own(root) == old


def test_of_two_applies_at_once_one_is_refused(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path)
    with exclusive(root):
        refused = rivelt("apply", cwd=root)
        assert (refused.code, "another rivelt is changing tern right now" in refused.err) == (3, True)
        with pytest.raises(Refused):
            undo(root)
    assert rivelt("apply", cwd=root).code == 0
    # A process that holds the lock and dies holds it no longer.
    held = subprocess.Popen(
        [
            sys.executable,
            "-c",
            f"from rivelt.workspace.lock import exclusive\nfrom pathlib import Path\nimport time\nwith exclusive(Path({str(root)!r})):\n    print('held', flush=True); time.sleep(60)",
        ],
        stdout=subprocess.PIPE,
    )
    assert held.stdout is not None
    held.stdout.readline()
    assert rivelt("undo", cwd=root).code == 3
    held.kill()
    held.communicate()
    assert rivelt("undo", cwd=root).code == 0


def test_several_levels_are_listed_and_taken_back(tmp_path: Path, rivelt: Command) -> None:
    root = project(tmp_path)
    trees = [own(root)]
    for colour in ("#111111", "#222222", "#333333"):
        brief = root / "rivelt.toml"
        brief.write_text(BRIEF.replace("#F3EBDD", colour))
        assert rivelt("apply", cwd=root).code == 0
        trees.append(own(root))
    listed = rivelt("undo", "--list", "--json", cwd=root).json["applies"]
    assert [one["number"] for one in listed] == [3, 2, 1]
    assert rivelt("undo", "4", cwd=root).code == 2
    assert rivelt("undo", "0", cwd=root).code == 2
    assert rivelt("undo", "2", cwd=root).code == 0
    without_brief = {path: content for path, content in own(root).items() if path != "rivelt.toml"}
    assert without_brief == {path: content for path, content in trees[1].items() if path != "rivelt.toml"}
    assert rivelt("undo", cwd=root).code == 0
    assert "There is no apply" in rivelt("undo", "--list", cwd=root).out
    lost = rivelt("undo", "nowhere", cwd=root)
    assert (lost.code, "there is no folder" in lost.err) == (2, True)


@pytest.mark.slow
def test_ctrl_c_leaves_nothing_half_done(tmp_path: Path) -> None:
    root = project(tmp_path)
    old = own(root)
    for wait in (0.2, 0.4, 0.7, 1.0):
        running = subprocess.Popen(
            [sys.executable, "-m", "rivelt", "apply", "-q"], cwd=root, stderr=subprocess.PIPE, text=True
        )
        time.sleep(wait)
        running.send_signal(signal.SIGINT)
        _, told = running.communicate(timeout=60)
        # On a slow machine the signal may come before a line of ours has run: then Python answers it itself.
        assert running.returncode in (0, 130, -signal.SIGINT), told
        assert running.returncode != 130 or re.fullmatch(r"error: stopped; [^\n]*\n", told)
        if history.applies(root):
            undo(root)
        assert own(root) == old
