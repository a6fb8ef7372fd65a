"""Printing never decides what is done: whoever listens, the work is done and the exit code is true."""

from __future__ import annotations

import io
import json
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import pytest
from PIL import Image

from conftest import BRIEF, Command, read_tree, small_android, valid, write_tree
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
        "check --json --fail-on never",
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


@pytest.mark.parametrize(
    ("command", "begins"),
    [
        (("proof", "--screens", "API 34", "--out", "-"), b"\x89PNG\r\n\x1a\n"),
        (("measure", "--chart", "-"), b"\x89PNG\r\n\x1a\n"),
        (("plates", "--only", "android", "--out", "-"), b"PK\x03\x04"),
    ],
)
def test_a_file_on_stdout_is_that_file_and_nothing_else(
    tmp_path: Path, command: tuple[str, ...], begins: bytes
) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    before = read_tree(root)
    run = [sys.executable, "-m", "rivelt", *command]
    done = subprocess.run(run, cwd=root, capture_output=True, timeout=60)
    assert (done.returncode, done.stderr) == (0, b"")
    assert done.stdout.startswith(begins)
    if begins.startswith(b"PK"):
        with zipfile.ZipFile(io.BytesIO(done.stdout)) as archive:
            assert archive.testzip() is None
    else:
        with Image.open(io.BytesIO(done.stdout)) as image:
            image.load()
    assert read_tree(root) == before
    refused = subprocess.run([*run, "--json"], cwd=root, capture_output=True, timeout=60)
    told = valid(json.loads(refused.stdout))
    assert (refused.returncode, told["schema"], told["summary"]["exit_code"]) == (2, "rivelt.error/1", 2)


@pytest.mark.parametrize(
    "command", ["proof --out no/such/p.png", "plates --out no/such/plates", "measure --chart no/c.png"]
)
def test_no_folder_is_made_silently(tmp_path: Path, rivelt: Command, command: str) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    refused = rivelt(*command.split(), cwd=root)
    assert (refused.code, "there is no folder no" in refused.err, "mkdir -p no" in refused.err) == (2, True, True)
    assert not (root / "no").exists()


@pytest.mark.parametrize(
    "command",
    [
        "apply nope",
        "check --select XYZ",
        "proof --screens abacus",
        "undo 99",
        "explain AND8x",
        "chek",
        "check --fromat x",
    ],
)
def test_errors_are_documents_too_and_keep_their_exit_code(tmp_path: Path, rivelt: Command, command: str) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    plain, machine = rivelt(*command.split(), cwd=root), rivelt(*command.split(), "--json", cwd=root)
    assert (machine.code, plain.code) == (2, 2)
    assert machine.json["summary"] == {"errors": 1, "exit_code": 2}
    assert machine.json["errors"][0]["message"] in plain.err
    assert machine.err == plain.err, "messages go to stderr all the same"


def test_several_projects_are_one_document(tmp_path: Path, rivelt: Command) -> None:
    for name in ("tern", "gull"):
        write_tree(tmp_path / "apps" / name, small_android())
    done = rivelt("apply", "apps/tern", "apps/gull", "--json")
    assert done.code == 0, done.err
    told = done.json
    assert told["root"] == str(tmp_path / "apps")
    assert {one["path"].partition("/")[0] for one in told["changes"]} == {"tern", "gull"}
    assert told["summary"]["created"] == sum(one["action"] == "create" for one in told["changes"])
    assert {one["site"] for one in told["weights"]} == {"android tern/app", "android gull/app"}


def test_a_proof_that_cannot_be_drawn_is_refused_before_anything_is_applied(tmp_path: Path, rivelt: Command) -> None:
    root = write_tree(tmp_path / "tern", small_android())
    before = read_tree(root)
    for name in ("-", "proof.pdf"):
        assert rivelt("apply", "--proof", name, cwd=root).code == 2
        assert read_tree(root) == before


def test_paths_in_errors_are_relative_to_the_root_that_is_stated(tmp_path: Path, rivelt: Command) -> None:
    files = small_android(brief=BRIEF.replace("#F3EBDD", "sandy"))
    root = write_tree(tmp_path / "tern", files)
    (tmp_path / "beside").mkdir()
    for here in (root, tmp_path, tmp_path / "beside"):
        told = rivelt("check", root / "rivelt.toml", "--json", cwd=here).json
        assert (Path(told["root"]) / told["errors"][0]["path"]).resolve() == root / "rivelt.toml"
        told = rivelt("survey", root, "--json", cwd=here).json
        assert (told["root"], told["problems"][0]["path"]) == (str(root), "rivelt.toml")
