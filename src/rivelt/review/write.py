"""Reviews, drawn and written."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import quote

from rivelt.errors import BadInput
from rivelt.progress import Progress, no_progress
from rivelt.workspace.output import write_file, write_files, write_png

if TYPE_CHECKING:
    from rivelt.disk.tree import AnyPath
    from rivelt.review.model import Review

MARKDOWN = (".md", ".markdown")
_PAGE = (".html", ".htm")


def check_review_name(out: Path) -> None:
    """Refuse a name that says neither sheet, page nor Markdown, before anything is done for it.

    Raises:
        BadInput: `out` ends neither in .png, .html nor .md.
    """
    if out.suffix.lower() not in {".png", *_PAGE, *MARKDOWN}:
        hint = f"Name it {out.stem}.png, {out.stem}.html or {out.stem}.md"
        raise BadInput(f"a review is a sheet (.png), a page (.html) or Markdown (.md); {out.name} is none", hint=hint)


def write_review(review: Review, out: AnyPath, *, on_progress: Progress = no_progress) -> tuple[Path, ...]:
    """Draw a review as a PNG sheet, or as its name says as a page or as Markdown with thumbnails beside it; return what was written.

    Raises:
        BadInput: `out` is no such file's name, or cannot be written.
    """
    out = Path(out)
    check_review_name(out)
    if out.suffix.lower() in MARKDOWN:
        return _write_markdown(review, out, on_progress)
    if out.suffix.lower() in _PAGE:
        from rivelt.review.page import draw_review_page

        return (write_file(out, draw_review_page(review, on_progress).encode()),)
    return (write_png(out, review_png(review, on_progress)),)


def review_png(review: Review, on_progress: Progress = no_progress) -> bytes:
    """Return a review drawn as a PNG sheet."""
    from rivelt.review.sheet import draw_review

    return draw_review(review, on_progress)


def _write_markdown(review: Review, out: Path, on_progress: Progress) -> tuple[Path, ...]:
    from rivelt.review.markdown import as_markdown, thumbnails

    pictures = thumbnails(review, on_progress)
    folder = out.with_suffix("")
    if pictures:
        write_files(folder, pictures)
    write_file(out, f"{as_markdown(review, quote(folder.name))}\n".encode())
    return (out, *((folder / name) for name in pictures))
