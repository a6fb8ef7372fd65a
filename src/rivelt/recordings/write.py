"""Recorded launches, drawn and written."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from rivelt.errors import BadInput
from rivelt.workspace.output import write_file, write_png

if TYPE_CHECKING:
    from rivelt.disk.tree import AnyPath
    from rivelt.recordings.model import Replays

_PAGE = (".html", ".htm")


def check_replay_name(out: Path) -> None:
    """Refuse a name that says neither strip nor page, before anything is done for it.

    Raises:
        BadInput: `out` ends neither in .png nor in .html.
    """
    if out.suffix.lower() not in {".png", *_PAGE}:
        hint = f"Name it {out.stem}.png or {out.stem}.html"
        raise BadInput(f"a launch is drawn as a strip (.png) or a page (.html); {out.name} is neither", hint=hint)


def write_replay(replays: Replays, out: AnyPath) -> Path:
    """Draw recorded launches as a PNG strip or, if `out` ends in .html, as a page; return its path.

    Raises:
        BadInput: `out` is no such file's name, or cannot be written.
    """
    out = Path(out)
    check_replay_name(out)
    if out.suffix.lower() in _PAGE:
        from rivelt.recordings.page import draw_replay_page

        return write_file(out, draw_replay_page(replays).encode())
    from rivelt.recordings.strip import draw_strip

    return write_png(out, draw_strip(replays))
