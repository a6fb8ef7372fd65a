"""Launch images for every brand of a CSV table, as one ZIP file each: python brands.py brands.csv OUT.

Columns: name, mark, ground, dark_ground. Paths of marks are relative to the table. A row that cannot be used is reported, and the others continue.
"""

import csv
import sys
from pathlib import Path

import rivelt


def main(table: Path, out: Path) -> int:
    """Make the images of each row, and return how many rows could not be used."""
    out.mkdir(exist_ok=True)
    failed = 0
    with table.open(encoding="utf-8", newline="") as lines:
        for number, row in enumerate(csv.DictReader(lines), start=2):
            try:
                brief = rivelt.Brief.from_dict(
                    {
                        "app": {"name": row["name"], "targets": ["android", "ios"]},
                        "light": {"ground": row["ground"], "mark": row["mark"]},
                        "dark": {"ground": row["dark_ground"], "mark": "derive"},
                    },
                    folder=table.parent,
                )
                written = rivelt.open(brief).plates(out / f"{row['name']}.zip")
            except rivelt.RiveltError as error:
                failed += 1
                print(f"{table.name}:{number}: {error}", file=sys.stderr)
            else:
                print(f"{row['name']}: {len(written)} images, {sum(written.values()) / 1000:.0f} kB")
    return failed


if __name__ == "__main__":
    sys.exit(1 if main(Path(sys.argv[1]), Path(sys.argv[2])) else 0)
