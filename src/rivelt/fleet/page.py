"""The page: all brands with what was measured, to be filtered and sorted. Pictures are read from the folders beside it, as they come into view."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from rivelt import __version__
from rivelt.documents.fleet import BrandItem
from rivelt.fleet.run import has_findings, is_unreadable
from rivelt.proof.page import press_css
from rivelt.templating import Templates
from rivelt.units import LOOKS

_TEMPLATES = Templates("rivelt.fleet")
_PARTS = (
    ("proof.png", "proof", "screens"),
    ("check.json", "findings", "errors"),
    ("apply.patch", "patch", "changes"),
    ("plates.zip", "plates", "plates"),
    ("plates", "plates", "plates"),
)
"""Each file with the word of its link, and the value that a brand has where it was made now."""


def draw_fleet_page(items: Sequence[BrandItem], out: Path, table: str) -> str:
    """Return the page as HTML that needs the folders beside it, and no network. The same results give the same text."""
    return _TEMPLATES.render(
        "fleet.html.j2",
        css=press_css(),
        version=__version__,
        table=table.rpartition("/")[2],
        brands=[_brand(item, out) for item in items],
        dark=sum(is_unreadable(item.values, "dark") for item in items),
    )


def _brand(item: BrandItem, out: Path) -> dict[str, Any]:
    values, is_bad_row = item.values, item.status == "bad"
    folder = out / item.brand
    codes = str(values.get("codes") or "").split()
    hard = {look: is_unreadable(values, look) for look in LOOKS}
    words = {
        "wrong": bool(item.problems),
        "findings": has_findings(values),
        "light": hard["light"],
        "dark": hard["dark"],
    }
    return {
        "name": item.brand,
        "row": item.row,
        "is": " ".join(word for word, holds in words.items() if holds),
        "pictures": [] if is_bad_row else [look for look in LOOKS if (folder / f"{look}.png").is_file()],
        "unreadable": hard,
        "contrast": {look: values.get(f"contrast_{look}") for look in LOOKS},
        "ground": {look: values.get(f"ground_{look}") for look in LOOKS},
        "bytes": values.get("bytes"),
        "weight": _weight(values.get("bytes") or 0),
        "codes": codes,
        "counts": {name: values.get(name) for name in ("errors", "warnings", "notes", "unknown") if values.get(name)},
        "problems": [(one.message, one.hint or "") for one in item.problems],
        "links": [(name, word) for name, word, made in _PARTS if made in values and (folder / name).exists()],
    }


def _weight(size: int) -> str:
    return f"{size / 1e6:.1f} MB" if size >= 1e6 else f"{size / 1e3:.0f} kB"
