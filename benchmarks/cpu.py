"""CPU seconds and peak memory of whole processes, interleaved, so that what else the machine does falls on all alike.

Usage: python benchmarks/cpu.py [--runs N] NAME=COMMAND ...

Prints the median of each command and its ratio to the first. What a command prints is dropped; one that fails with another exit code than
0 and 1 ends it all.
"""

from __future__ import annotations

import argparse
import os
import shlex
import statistics
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple


class Cost(NamedTuple):
    """What a process took: CPU seconds of all its threads and children, and its peak memory in MB."""

    seconds: float
    megabytes: float


def cost_of(command: Sequence[str], folder: Path | None = None) -> Cost:
    """Run a command to its end, and return what it took."""
    running = subprocess.Popen(
        command, cwd=folder, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
    )
    assert running.stderr is not None
    said = running.stderr.read()
    _, status, used = os.wait4(running.pid, 0)
    running.returncode = os.waitstatus_to_exitcode(status)
    if running.returncode not in {0, 1}:
        raise SystemExit(f"{shlex.join(command)} ended with {running.returncode}: {said.decode()[-500:]}")
    scale = 1e6 if sys.platform == "darwin" else 1e3  # macOS counts bytes, Linux kilobytes
    return Cost(used.ru_utime + used.ru_stime, used.ru_maxrss / scale)


def medians(commands: Sequence[Sequence[str]], runs: int, folder: Path | None = None) -> list[Cost]:
    """Run several commands in turn, `runs` times, and return the medians of each."""
    found: list[list[Cost]] = [[] for _ in commands]
    for _ in range(runs):
        for index, command in enumerate(commands):
            found[index].append(cost_of(command, folder))
    return [Cost(*(statistics.median(values) for values in zip(*costs, strict=True))) for costs in found]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.partition("\n")[0])
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("commands", nargs="+", metavar="NAME=COMMAND")
    given = parser.parse_args()
    names, commands = zip(*(one.split("=", 1) for one in given.commands), strict=True)
    found = medians([shlex.split(command) for command in commands], given.runs)
    for name, cost in zip(names, found, strict=True):
        print(f"{cost.seconds:8.3f} s  {cost.seconds / found[0].seconds:6.2f} x  {cost.megabytes:6.0f} MB  {name}")


if __name__ == "__main__":
    main()
