"""Proofs and charts, drawn and written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.disk.tree import AnyPath
from rivelt.errors import BadInput
from rivelt.progress import Progress, no_progress
from rivelt.workspace.output import write_file, write_png

if TYPE_CHECKING:
    from rivelt.brief.model import Brief
    from rivelt.layout.report import ArtReport, BackdropReport
    from rivelt.proof.model import Proof


def is_page(out: Path) -> bool:
    """Return whether a name is that of a page rather than a sheet."""
    return out.suffix.lower() in {".html", ".htm"}


def check_proof_name(out: Path) -> None:
    """Refuse a name that says neither sheet nor page, before anything is done for it.

    Raises:
        BadInput: `out` ends neither in .png nor in .html.
    """
    if not is_page(out) and out.suffix.lower() != ".png":
        hint = f"Name it {out.stem}.png or {out.stem}.html"
        raise BadInput(f"a proof is a sheet (.png) or a page (.html); {out.name} is neither", hint=hint)


def write_proof(proof: Proof, out: AnyPath, *, guides: bool = False, on_progress: Progress = no_progress) -> Path:
    """Draw a proof as a PNG sheet or, if `out` ends in .html, as a page, and return its path; `guides` adds key lines to a sheet.

    Raises:
        BadInput: `out` is no such file's name, or cannot be written.
    """
    out = Path(out)
    check_proof_name(out)
    if is_page(out):
        from rivelt.proof.page import draw_page

        return write_file(out, draw_page(proof, on_progress).encode())
    return write_png(out, draw_sheet_bytes(proof, guides=guides, on_progress=on_progress))


def draw_sheet_bytes(proof: Proof, *, guides: bool = False, on_progress: Progress = no_progress) -> bytes:
    """Return a proof drawn as a PNG sheet; `guides` adds key lines."""
    from rivelt.proof.sheet import draw_sheet

    return draw_sheet(proof, guides=guides, on_progress=on_progress)


def write_chart(
    reports: Sequence[ArtReport],
    out: AnyPath,
    brief: Brief | None = None,
    backdrops: Sequence[BackdropReport] = (),
) -> Path:
    """Draw measured art as a PNG chart, on the grounds of its brief, and the backdrops after it; return its path.

    Raises:
        BadInput: `out` is not the name of a PNG file, or cannot be written.
    """
    return write_png(Path(out), chart_bytes(reports, brief, backdrops))


def chart_bytes(
    reports: Sequence[ArtReport], brief: Brief | None = None, backdrops: Sequence[BackdropReport] = ()
) -> bytes:
    """Return measured art drawn as a PNG chart, on the grounds of its brief, and the backdrops after it."""
    from rivelt.proof.chart import draw_chart

    if brief is None:
        return draw_chart(reports, backdrops, "Art", "no brief", 0.0)
    return draw_chart(reports, backdrops, brief.name, brief.path.name, brief.layout.clearance)
