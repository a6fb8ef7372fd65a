"""What a person sees on a terminal: every command ends there, lines break between words, and colours are as they are asked for."""

from __future__ import annotations

import fcntl
import os
import pty
import re
import struct
import subprocess
import sys
import termios
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import quick_sample, write_tree
from rivelt.cli.layout import pairs, table, wrapped

STYLES = re.compile(r"\x1b\[[0-9;?]*[A-Za-z]")
COMMANDS = (
    ("survey",), ("measure",), ("plates", "--out", "made"), ("proof", "--screens", "API 34"), ("proof", "--out", "p.html"),
    ("apply", "--dry-run"), ("apply", "--diff"), ("check",), ("check", "--planned"), ("explain",), ("explain", "AND08"),
    ("apply",), ("apply",), ("undo", "--list"), ("remove", "--dry-run"), ("undo",), ("--help",), ("check", "-h"), ("nope",),
    ("brief", "--mark", "art/mark.svg", "--out", "-"),
)  # fmt: skip


@pytest.fixture(scope="module")
def project(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write_tree(tmp_path_factory.mktemp("skerryline"), quick_sample())


def on_a_terminal(cwd: Path, *command: str, width: int = 100, **env: str) -> str:
    """What a terminal of a width is sent, escape sequences and all."""
    ours, theirs = pty.openpty()
    fcntl.ioctl(theirs, termios.TIOCSWINSZ, struct.pack("HHHH", 40, width, 0, 0))
    kept = {
        name: value for name, value in os.environ.items() if name not in {"COLUMNS", "CI", "NO_COLOR", "FORCE_COLOR"}
    }
    process = subprocess.Popen(
        [sys.executable, "-m", "rivelt", *command],
        cwd=cwd,
        stdin=subprocess.DEVNULL,
        stdout=theirs,
        stderr=theirs,
        env={**kept, "TERM": "xterm-256color", **env},
    )
    os.close(theirs)
    seen = b""
    try:
        while chunk := os.read(ours, 65536):
            seen += chunk
            assert len(seen) < 3_000_000, "it prints without end"
    except OSError:  # the other end is closed
        pass
    assert process.wait(60) in {0, 1, 2}
    os.close(ours)
    return seen.decode().replace("\r\n", "\n")


@pytest.mark.slow
@pytest.mark.parametrize("width", [40, 80])
def test_every_command_ends_and_breaks_lines_between_words(project: Path, width: int) -> None:
    for command in COMMANDS:
        seen = on_a_terminal(project, *command, width=width)
        assert "Traceback" not in seen, seen
        text = STYLES.sub("", seen.rpartition("\r")[2] if "\r" in seen else seen)
        for line in text.splitlines():
            if command[-1] == "-" or (
                width < 50 and {"-h", "--help"} & set(command)
            ):  # a file; the columns of options are the library's
                continue
            is_whole = (
                len(line.split()) <= 2
                or line.lstrip().startswith(("$", "+", "-", "@", "<", "Usage"))
                or "--diff" in command
            )
            assert len(line) <= width or is_whole, (command, line)


@pytest.mark.slow
def test_colours_and_progress_are_as_they_are_asked_for(project: Path) -> None:
    assert "\x1b[" in on_a_terminal(project, "survey")
    assert "\x1b[3" not in on_a_terminal(project, "survey", NO_COLOR="1")
    assert "plates" in on_a_terminal(project, "plates", "-q") + on_a_terminal(project, "plates", "--out", "made")
    assert "━" not in on_a_terminal(project, "plates", "--out", "made", CI="true")
    assert "━" not in on_a_terminal(project, "plates", "--out", "made", TERM="dumb")
    run = [sys.executable, "-m", "rivelt", "check"]
    for env, is_coloured in (({}, False), ({"FORCE_COLOR": "1"}, True), ({"FORCE_COLOR": ""}, False)):
        plain = {name: value for name, value in os.environ.items() if name not in {"NO_COLOR", "FORCE_COLOR"}}
        piped = subprocess.run(run, cwd=project, env={**plain, **env}, capture_output=True, text=True, timeout=60)
        assert ("\x1b[" in piped.stdout) == is_coloured
        assert piped.stderr == ""


WORDS = st.lists(st.text("abcdefgh/.-", min_size=1, max_size=30), min_size=1, max_size=20)


@given(words=WORDS, indent=st.integers(0, 6), width=st.integers(20, 120))
def test_a_broken_line_has_its_words_and_fits(words: list[str], indent: int, width: int) -> None:
    line = " " * indent + " ".join(words)
    lines = wrapped(line, width)
    assert " ".join(lines).split() == words
    assert all(len(one) <= width or len(one.split()) == 1 for one in lines)
    assert all(one.startswith(" " * min(indent + 2, width - 16)) for one in lines[1:])


@given(st.data(), st.integers(20, 160))
def test_a_table_says_everything_in_any_width(data: st.DataObject, width: int) -> None:
    count = data.draw(st.integers(1, 5))
    cell = st.lists(st.text("abcd", min_size=1, max_size=18), max_size=6).map(" ".join)
    rows = data.draw(st.lists(st.lists(cell, min_size=count, max_size=count), min_size=1, max_size=4))
    headers = [f"h{number}" for number in range(count)]
    lines = [line for line, _ in table(headers, rows, width)]
    assert all(len(line) <= width or len(line.split()) <= 2 for line in lines)
    letters = sorted(letter for row in rows for text in row for letter in text if letter != " ")
    rule = next((number for number, line in enumerate(lines) if line.startswith("─")), -1)
    said = "".join([line.partition(": ")[2] or line for line in lines] if rule < 0 else lines[rule + 1 :])
    assert sorted(letter for letter in said if letter in "abcd") == letters


def test_pairs_stay_in_their_columns() -> None:
    values = [("manifest", "a/b/c.xml"), ("build", "one\ntwo three four five six seven eight nine ten")]
    assert pairs(values, None) == [
        "  manifest  a/b/c.xml",
        "  build     one",
        "            two three four five six seven eight nine ten",
    ]
    assert pairs(values, 44)[2:] == ["            two three four five six seven", "            eight nine ten"]
    assert pairs(values, 30)[:2] == ["  manifest", "    a/b/c.xml"]
