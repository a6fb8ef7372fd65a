"""What a brand of a fleet costs: CPU seconds and memory for growing tables, against `plates` of the same brands one by one.

Run: python benchmarks/fleet.py [COUNT...]. All is measured in one run, in processes of its own; start-up is taken off.
"""

from __future__ import annotations

import os
import resource
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

import rivelt

DEMO = Path(rivelt.__file__).parent / "demo/skerryline"
COUNTS = (1, 10, 100, 300, 1000)
_MOST_WHOLE = 100  # brands of which more than the plates is made: each takes a second of a core

ALONE = """
import sys, time
from pathlib import Path
from rivelt import cores, opening
from rivelt.briefs import Brief
import rivelt.pixels.render
cores.limit(1)
spent = []
for path in sys.argv[1:]:
    start = time.process_time()
    opening.open_brief(Path(path)).plates(Path(path).parent / "plates")
    spent.append(time.process_time() - start)
print(sum(spent[1:]) / len(spent[1:]))
"""


def table(folder: Path, count: int) -> Path:
    """Write a table of so many brands, each with a ground of its own."""
    rows = (DEMO / "fleet/brands.csv").read_text().splitlines()[1:]
    lines = ["name,light.ground,dark.ground,light.mark"]
    for number in range(count):
        name, light, dark, *_ = rows[number % len(rows)].split(",")
        tint = f"{light[:5]}{(int(light[5:], 16) - number // len(rows)) % 256:02X}"
        lines.append(f"{name}{number},{tint},{dark},art/{name}.svg")
    path = folder / "fleet/many.csv"
    path.write_text("\n".join(lines) + "\n")
    return path


def spent(*command: str) -> tuple[float, float]:
    """Return the CPU seconds of a command and its children, and the most memory that one process of them had (MB)."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, check=False, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime, after.ru_maxrss / 1000


def alone(folder: Path) -> float:
    """Return the CPU seconds that `plates` of a brand takes by itself, once everything is loaded."""
    briefs = []
    for row in (DEMO / "fleet/brands.csv").read_text().splitlines()[1:]:
        name, light, dark, *_ = row.split(",")
        home = folder / "alone" / name
        home.mkdir(parents=True)
        (home / "mark.svg").write_bytes((DEMO / f"fleet/art/{name}.svg").read_bytes())
        text = f'[app]\ntargets = ["android", "ios"]\n[light]\nmark = "mark.svg"\nground = "{light}"\n'
        (home / "rivelt.toml").write_text(f'{text}[dark]\nground = "{dark}"\nmark = "derive"\n')
        briefs.append(str(home / "rivelt.toml"))
    runs = [
        float(subprocess.run([sys.executable, "-c", ALONE, *briefs], check=True, capture_output=True, text=True).stdout)
        for _ in range(3)
    ]
    return statistics.median(runs)


def main() -> None:
    """Print a line for each number of brands."""
    counts = [int(word) for word in sys.argv[1:]] or COUNTS
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        import shutil

        shutil.copytree(DEMO, folder / "app")
        single = alone(folder)
        print(f"plates of a brand by itself: {single:.3f} CPU s")
        for wishes in ("plates", "plates,check,proof"):
            first = None
            for count in counts if wishes == "plates" else [one for one in counts if one <= _MOST_WHOLE]:
                path = table(folder / "app", count)
                out = folder / f"out-{wishes}-{count}"
                brief = str(folder / "app/fleet/brands.toml")
                rivelt_command = [
                    sys.executable,
                    "-m",
                    "rivelt",
                    "fleet",
                    str(path),
                    "--brief",
                    brief,
                    "--out",
                    str(out),
                ]
                used, memory = spent(*rivelt_command, "--make", wishes, "--jobs", str(os.cpu_count()))
                first = used if first is None else first
                each = (used - first) / max(1, count - counts[0])
                ratio = f", {each / single:.2f} times plates alone" if count > counts[0] and wishes == "plates" else ""
                print(
                    f"{wishes:20} {count:5} brands: {used:7.1f} CPU s, {each:.3f} each{ratio}; {memory:.0f} MB at most",
                    flush=True,
                )
                shutil.rmtree(out)


if __name__ == "__main__":
    main()
