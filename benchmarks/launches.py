"""How often random launches are read rightly: kinds, borders, flashes found and flashes that are none.

Usage: python benchmarks/launches.py [COUNT] [FIRST SEED]
"""

from __future__ import annotations

import os
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from rivelt.recordings.chance import Fault, launch_by_chance, mistakes
from rivelt.recordings.moments import Film, moments
from rivelt.recordings.recording import open_recording
from rivelt.recordings.seen import small_size


def tried(seed: int) -> tuple[int, Fault, bool, list[str]]:
    """One launch: whether a flash was read, and what was read wrongly."""
    chance = launch_by_chance(seed)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "launch.mp4"
        path.write_bytes(chance.played.data)
        recording = open_recording(path)
        film = Film(recording.frames(small_size(recording.size)))
        read = moments(film, recording.end)
    return seed, chance.fault, any(one.kind == "flash" for one in read), mistakes(chance, read)


def main() -> None:
    """Count."""
    count, first = (int(one) for one in (*sys.argv[1:], *("500", "0")[len(sys.argv) - 1 :]))
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        found = list(pool.map(tried, range(first, first + count)))
    flashes = [is_read for _, fault, is_read, _ in found if "flash" in fault]
    false = sum(is_read for _, fault, is_read, _ in found if "flash" not in fault)
    wrong = [(seed, fault, what) for seed, fault, _, what in found if what]
    kinds = sum(what[0].startswith("kinds") for _, _, what in wrong)
    print(
        f"{count} launches: {kinds} with wrong kinds, {len(wrong) - kinds} with borders off by more than a frame and 20 ms"
    )
    print(f"flashes: {sum(flashes)} of {len(flashes)} found, {false} false alarms in {count - len(flashes)}")
    for seed, fault, what in wrong:
        print(f"  seed {seed} ({fault}): {'; '.join(what)}")


if __name__ == "__main__":
    main()
