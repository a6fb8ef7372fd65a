"""What the harnesses share: spoiling bytes, and running cases in batches, each in a process of its own."""

from __future__ import annotations

import random
import resource
import subprocess
import sys
import time
import traceback
from collections.abc import Callable

BATCH = 50
SECONDS_PER_CASE = 10.0
MEMORY = 1 << 30
_TOKENS = [
    b"<",
    b">",
    b'"',
    b"&",
    b"%",
    b"e9",
    b"-1",
    b"1e308",
    b"nan",
    b"url(#a)",
    b"<svg>",
    b"</g>",
    b"data:",
    b"\x00",
    b"\xff\xff\xff\xff",
]


def mutated(data: bytes, dice: random.Random) -> bytes:
    """Some bytes changed, cut, doubled, or replaced by troublesome ones."""
    result = bytearray(data)
    for _ in range(dice.choice((1, 1, 2, 5, 20))):
        if not result:
            break
        at = dice.randrange(len(result))
        match dice.randrange(6):
            case 0:
                result[at] = dice.randrange(256)
            case 1:
                result[at] ^= 1 << dice.randrange(8)
            case 2:
                del result[at : at + dice.randrange(1, 40)]
            case 3:
                result[at:at] = result[at : at + dice.randrange(1, 40)]
            case 4:
                result[at : at + dice.randrange(4)] = dice.choice(_TOKENS)
            case _:
                del result[at:]
    return bytes(result)


Case = Callable[[random.Random], tuple[str, Callable[[], None]]]
"""Given dice, what a case is called and what it does."""


def run_batch(first: int, count: int, case: Case) -> int:
    """Run cases in this process; returns how many went wrong, each told on stderr with its seed."""
    bad = 0
    for seed in range(first, first + count):
        label, action = case(random.Random(seed))
        began = time.perf_counter()
        try:
            action()
        except Exception:
            bad += 1
            sys.stderr.write(f"case {seed} ({label}):\n{traceback.format_exc()}\n")
        took = time.perf_counter() - began
        if took > SECONDS_PER_CASE:
            bad += 1
            sys.stderr.write(f"case {seed} ({label}) took {took:.1f} s\n")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    if peak > MEMORY:
        bad += 1
        sys.stderr.write(f"cases {first} to {first + count} needed {peak >> 20} MB\n")
    return bad


def run_all(script: str, case: Case) -> int:
    """Run the cases that the command line asks for; the exit code is 1 when something was found.

    `script` calls itself for each batch, so that a crash of a decoder or a hang is told with its seeds.
    """
    if "--batch" in sys.argv:
        return min(1, run_batch(int(sys.argv[2]), int(sys.argv[3]), case))
    cases = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    start = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    bad = 0
    for first in range(start, start + cases, BATCH):
        command = [sys.executable, script, "--batch", str(first), str(min(BATCH, start + cases - first))]
        try:
            done = subprocess.run(command, capture_output=True, text=True, timeout=SECONDS_PER_CASE * BATCH)
        except subprocess.TimeoutExpired:
            bad += 1
            print(f"cases from {first} did not end")
            continue
        if done.returncode != 0:
            bad += 1
            print(f"cases from {first}: exit {done.returncode}\n{done.stderr}")
    print(f"{cases} cases, {bad} batches with trouble")
    return 1 if bad else 0
