"""The values that shells complete, asked for as the shells ask."""

from __future__ import annotations

import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import rivelt as package
from conftest import BRIEF, Command, small_android, write_tree
from rivelt.platforms import TARGETS
from rivelt.platforms.rulebooks import catalogue

EDITIONS = '\n[edition.festival.light]\nground = "#2B1640"\n[edition.winter.light]\nground = "#FFFFFF"\n'


@pytest.fixture(scope="module")
def project(tmp_path_factory: pytest.TempPathFactory) -> Path:
    root = write_tree(tmp_path_factory.mktemp("tern"), small_android())
    package.apply(package.open(root).changes())
    (root / "rivelt.toml").write_text(BRIEF + EDITIONS)
    return root


CASES = {
    "rivelt explain AND0": [code for code in catalogue() if code.startswith("AND0")],
    "rivelt explain and0": [code for code in catalogue() if code.startswith("AND0")],
    "rivelt check --select WE": ["WEB", *(code for code in catalogue() if code.startswith("WEB"))],
    "rivelt check --ignore NET0": [code for code in catalogue() if code.startswith("NET0")],
    "rivelt apply --only ": list(TARGETS),
    "rivelt proof --edition ": ["main", "festival", "winter"],
    "rivelt check --format ma": ["markdown"],
    "rivelt check --fail-on ": ["error", "warning", "note", "never"],
    "rivelt undo ": ["1"],
    "rivelt pl": ["plates"],
}


@pytest.mark.parametrize("line", CASES)
@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_values_are_offered(project: Path, shell: str, line: str) -> None:
    assert offered(project, shell, line) == CASES[line]


def offered(project: Path, shell: str, line: str) -> list[str]:
    words = shlex.split(line) + ([""] if line.endswith(" ") else [])
    env = {
        "_RIVELT_COMPLETE": f"complete_{shell}",
        "_TYPER_COMPLETE_ARGS": line,
        "_TYPER_COMPLETE_FISH_ACTION": "get-args",
    }
    env |= {"COMP_WORDS": line, "COMP_CWORD": str(len(words) - 1)}
    run = "import sys; from rivelt.__main__ import start; sys.argv = ['rivelt']; start()"
    done = subprocess.run([sys.executable, "-c", run], cwd=project, env=env, capture_output=True, text=True, timeout=60)
    assert (done.returncode, done.stderr) == (0, "")
    if shell == "zsh":
        return [value.split('"')[1] for value in done.stdout.partition("((")[2].splitlines()]
    return [value.partition("\t")[0] for value in done.stdout.splitlines() if value]


def test_screens_can_be_put_on_the_line_as_they_are_offered(project: Path, rivelt: Command) -> None:
    found = offered(project, "bash", r"rivelt proof --screens iPad\ Air")
    assert len(found) > 3
    (name,) = shlex.split(found[0])
    assert name.startswith("iPad Air ")
    assert "API" not in offered(project, "fish", "rivelt proof --screens Windows")[0]
    refused = rivelt("proof", "--screens", name, "--edition", "main", cwd=project)
    assert "no screen is called" in refused.err, "the project has no iOS app; the name is one that is known"


def test_nothing_is_offered_where_nothing_can_be_read(tmp_path: Path) -> None:
    write_tree(tmp_path, {"rivelt.toml": "[[["})
    assert offered(tmp_path, "bash", "rivelt apply --edition ") == []
    assert offered(tmp_path, "bash", "rivelt undo ") == []


@pytest.mark.skipif(shutil.which("bash") is None, reason="bash is not installed")
def test_the_script_for_bash_is_one_that_bash_takes(tmp_path: Path) -> None:
    run = [sys.executable, "-m", "rivelt", "--show-completion", "bash"]
    script = subprocess.run(run, capture_output=True, text=True, cwd=tmp_path, timeout=60).stdout
    assert "_RIVELT_COMPLETE=complete_bash" in script
    assert subprocess.run(["bash", "-n"], input=script, text=True, timeout=60).returncode == 0
