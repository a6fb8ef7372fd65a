"""What the harnesses share: corrupting bytes, and running cases in batches, each in a process of its own."""

from __future__ import annotations

import os
import random
import re
import resource
import subprocess
import sys
import time
import traceback
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

BATCH = 50
SECONDS_PER_CASE = 10.0
"""Of processor time, so that a busy machine is not a finding; a batch that hangs is ended after as many real seconds for each case."""
MEMORY = 1 << 30
_TOKENS = (
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
)
_VALUES = (
    b"",
    b"-1",
    b"0",
    b"1e308",
    b"nan",
    b"99999999999",
    b"0x",
    b"\xf0\x9f\x9b\xb3",
    b"../../up",
    b"/etc/passwd",
    b"a\nb",
    b"@drawable/rivelt_mark",
    b"@style/Theme",
    b"?attr/colorPrimary",
    b"#GGGGGG",
    b"#12345678",
    b"$(SRCROOT)",
    b"${x}",
    b"&lol;",
    b"%1$s",
    b"*",
    b"true",
    b"-0.5dp",
)
_VALUE = re.compile(rb'"[^"\n]*"|(?<=>)[^<>\n]+(?=<)|(?<== )[^;\n]+(?=;)')
_DEPTHS = (3, 60, 5000)
_MOST_BYTES = 1 << 20  # what repeated repetition may make of a file


def mutated(data: bytes, dice: random.Random) -> bytes:
    """What a careless or a hostile hand would make of a file: corrupt in its values and lines, or in its bytes."""
    return _other_values(data, dice) if dice.randrange(2) else _other_bytes(data, dice)


def _other_bytes(data: bytes, dice: random.Random) -> bytes:
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


def _other_values(data: bytes, dice: random.Random) -> bytes:
    """Still well formed, as a rule: values given another one's value or a troublesome one; lines doubled, moved, lost, or nested deep."""
    for _ in range(dice.choice((1, 1, 2, 5))):
        values = list(_VALUE.finditer(data))
        lines = data.splitlines(keepends=True)
        match dice.randrange(6):
            case 0 | 1 | 2 if values:
                spot = dice.choice(values)
                quote = b'"' if spot[0].startswith(b'"') else b""
                other = dice.choice(values)[0].strip(b'"') if dice.randrange(2) else dice.choice(_VALUES)
                data = data[: spot.start()] + quote + other + quote + data[spot.end() :]
            case 3 if lines:
                at = dice.randrange(len(lines))
                data = b"".join(lines[:at] + lines[at : at + dice.randrange(1, 9)] + lines[at:])
            case 4 if lines:
                at = dice.randrange(len(lines))
                data = b"".join(lines[:at] + lines[at + dice.randrange(1, 4) :])
            case _ if lines:
                at = dice.randrange(len(lines))
                depth = min(dice.choice(_DEPTHS), 1 + _MOST_BYTES // len(data))
                data = b"".join((*lines[:at], *lines[at : at + 1] * depth, *lines[at + 1 :]))
    return data


Case = Callable[[random.Random], tuple[str, Callable[[], None]]]
"""Given dice, what a case is called and what it does."""


def run_batch(first: int, count: int, case: Case) -> int:
    """Run cases in this process; returns how many went wrong, each told on stderr with its seed."""
    bad = 0
    for seed in range(first, first + count):
        label, action = case(random.Random(seed))
        began = time.process_time()
        try:
            action()
        except Exception:
            bad += 1
            sys.stderr.write(f"case {seed} ({label}):\n{traceback.format_exc()}\n")
        took = time.process_time() - began
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

    `script` calls itself for each batch, so that a crash of a decoder or a hang is reported with its seeds.
    """
    if "--batch" in sys.argv:
        return min(1, run_batch(int(sys.argv[2]), int(sys.argv[3]), case))
    cases = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    start = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    batches = [(first, min(BATCH, start + cases - first)) for first in range(start, start + cases, BATCH)]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        bad = sum(pool.map(lambda batch: _apart(script, *batch), batches))
    print(f"{cases} cases, {bad} batches with trouble")
    return 1 if bad else 0


def _apart(script: str, first: int, count: int) -> bool:
    """Run a batch in a process of its own; whether something was found, which is reported."""
    command = [sys.executable, script, "--batch", str(first), str(count)]
    try:
        done = subprocess.run(command, capture_output=True, text=True, timeout=SECONDS_PER_CASE * count)
    except subprocess.TimeoutExpired:
        print(f"cases from {first} did not end")
        return True
    if done.returncode != 0:
        print(f"cases from {first}: exit {done.returncode}\n{done.stderr}", flush=True)
    return done.returncode != 0
