"""Stopped at any moment: the tree is old, or new, or made old by undo."""

from __future__ import annotations

import os
import re
import resource
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import BRIEF, MARK, Command, read_tree, small_android, write_tree
from rivelt.errors import Refused
from rivelt.workspace import history
from rivelt.workspace.commit import undo
from rivelt.workspace.lock import exclusive

MANIFEST = (
    '<Package xmlns:u="urn:u"><Applications><Application><u:VisualElements/></Application></Applications></Package>'
)


def project(tmp_path: Path) -> Path:
    """A small project with an edit, new folders and removals in it."""
    files = small_android(brief=BRIEF + "[windows]\nhigh_contrast = true\n")
    return write_tree(tmp_path / "tern", {**files, "win/Package.appxmanifest": MANIFEST, "mark.svg": MARK})


def own(root: Path) -> dict[str, bytes]:
    return {path: content for path, content in read_tree(root).items() if not path.startswith(".rivelt/")}


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
        # On a slow machine the signal may come before a line of Rivelt's has run: then Python answers it itself.
        assert running.returncode in (0, 130, -signal.SIGINT), told
        assert running.returncode != 130 or re.fullmatch(r"error: stopped; [^\n]*\n", told)
        if history.applies(root):
            undo(root)
        assert own(root) == old
