"""Printing never decides what is done: whoever listens, the work is done and the exit code is true."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import BRIEF, read_tree, small_android, write_tree
from rivelt.workspace import commit, history

# How a shell ends a command's line, and whether its standard error is heard.
ENDS = {
    "a reader who has had enough": ("| head -c 1 >/dev/null", True),
    "a reader who never reads": ("| true", True),
    "standard output closed": (">&-", True),
    "standard error closed": ("2>&-", False),
    "all closed": (">&- 2>&- <&-", False),
    "a full device": (">/dev/full", True),
    "both on a full device": (">/dev/full 2>&1", False),
}


def shell(line: str, cwd: Path) -> tuple[int, str]:
    """Run a command of Rivelt's in a shell; its own exit code, whatever it is piped into, and what it said on standard error."""
    script = f"set -o pipefail; {sys.executable} -m rivelt {line}; exit ${{PIPESTATUS[0]}}"
    done = subprocess.run(["bash", "-c", script], cwd=cwd, capture_output=True, text=True, timeout=120)
    return done.returncode, done.stderr


QUICK = ("a reader who has had enough", "all closed", "a full device")


@pytest.mark.parametrize("end", [end if end in QUICK else pytest.param(end, marks=pytest.mark.slow) for end in ENDS])
def test_the_work_is_done_whoever_listens(tmp_path: Path, end: str) -> None:
    tail, is_heard = ENDS[end]
    root = write_tree(tmp_path / "tern", small_android())
    before = read_tree(root)
    code, said = shell(f"apply {tail}", root)
    assert (code, (root / "rivelt.lock").is_file()) == (0, True), said
    assert not said or "what was to be printed could not be written: No space left on device" in said
    assert is_heard or not said
    assert shell(f"undo {tail}", root)[0] == 0
    assert read_tree(root) == before


@pytest.mark.slow
@pytest.mark.parametrize(
    "command",
    [
        "--help",
        "--version",
        "explain",
        "survey",
        "survey --json",
        "plates --out p.zip",
        "check --json",
        "apply nowhere",
    ],
)
def test_every_command_survives_its_streams(tmp_path: Path, command: str) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    for tail in (">&-", ">/dev/full", ">&- 2>&-"):
        code, said = shell(f"{command} {tail}", root)
        assert code == 2 if command == "apply nowhere" else code in {0, 2 if command == "--help" else 0}, said
        assert "Traceback" not in said


def test_a_folder_that_is_gone_is_said(tmp_path: Path) -> None:
    for command in ("survey", "apply"):
        script = f"mkdir gone && cd gone && rmdir ../gone && {sys.executable} -m rivelt {command}"
        done = subprocess.run(["bash", "-c", script], cwd=tmp_path, capture_output=True, text=True, timeout=60)
        assert (done.returncode, "the current folder is not there any more" in done.stderr) == (2, True), done.stderr


def test_a_narrow_encoding_is_enough(tmp_path: Path) -> None:
    root = write_tree(tmp_path / "tern", small_android(brief=BRIEF.replace("Tern", "Überfahrt ⛴")))
    done = subprocess.run(
        [sys.executable, "-m", "rivelt", "apply"],
        cwd=root,
        capture_output=True,
        timeout=60,
        env={**os.environ, "PYTHONIOENCODING": "ascii"},
    )
    assert done.returncode == 0, done.stderr


@pytest.mark.slow
def test_a_watch_that_is_killed_leaves_what_one_undo_sets_right(tmp_path: Path) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    before = {path: content for path, content in read_tree(root).items() if path != "rivelt.toml"}
    for turn in range(6):
        (root / "rivelt.toml").write_text(BRIEF)
        command = [sys.executable, "-m", "rivelt", "apply", "--watch", "-q"]
        running = subprocess.Popen(command, cwd=root, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        deadline = time.monotonic() + 30
        while not (root / "rivelt.lock").exists() and time.monotonic() < deadline:
            time.sleep(0.02)
        time.sleep(0.5)
        for shade in range(4):
            (root / "rivelt.toml").write_text(BRIEF.replace("#F3EBDD", f"#11{turn}{shade}33"))
            time.sleep(0.15 + 0.07 * turn)
        running.send_signal(signal.SIGKILL)
        running.wait()
        while applied := history.applies(root):
            commit.undo(root)
            assert len(history.applies(root)) == len(applied) - 1
        own = {path: content for path, content in read_tree(root).items() if path != "rivelt.toml"}
        assert {path for path in own if not path.startswith(".rivelt/")} == set(before)
        assert {path: own[path] for path in before} == before
        shutil.rmtree(root / ".rivelt", ignore_errors=True)


@pytest.mark.slow
def test_a_folder_of_far_too_many_files_is_refused_in_time(tmp_path: Path) -> None:
    """Two hundred thousand files: a monorepo is read, the home folder of a person is not."""
    root = write_tree(tmp_path / "tern", small_android())
    for number in range(200):
        folder = root / f"docs/{number}"
        folder.mkdir(parents=True)
        for name in range(1000):
            os.close(os.open(folder / f"{name}.txt", os.O_CREAT | os.O_WRONLY))
    command = [sys.executable, "-m", "rivelt", "survey", "--json"]
    refused = subprocess.run(command, cwd=root, capture_output=True, text=True, timeout=120)
    assert (refused.returncode, "holds more than 200000 files" in refused.stderr) == (2, True)
    shutil.rmtree(root / "docs/0")
    done = subprocess.run(command, cwd=root, capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr
