"""The head of a page: the lines between two comments that are Rivelt's, and the tags of others."""

from __future__ import annotations

import re

from rivelt.edit.html import Page, Tag
from rivelt.errors import BadInput, Place
from rivelt.patterns import regex

OPENING = "rivelt: launch screen, from rivelt.toml; apply replaces what stands between these two comments"
CLOSING = "rivelt: end of the launch screen"
_ORIGIN = regex(r"^(?:[a-z][a-z0-9+.-]*:|//)", re.IGNORECASE)
_OPENING_START = "rivelt: launch screen"


def own_lines(page: Page) -> tuple[int, int] | None:
    """Return where the lines of Rivelt's stand: from the start of the opening comment to the end of the closing one; None when there are none.

    Raises:
        BadInput: one of the comments is missing.
    """
    comments = [(page.comment(tag), tag) for tag in page.tags if tag.name == "!--"]
    opening = next((tag for text, tag in comments if text.startswith(_OPENING_START)), None)
    closing = next((tag for text, tag in comments if text == CLOSING), None)
    if opening is None and closing is None:
        return None
    if opening is None or closing is None or closing.start < opening.start:
        lost = opening or closing
        assert lost is not None
        line = page.place(lost).line
        hint = "Remove the comment and the lines that belong to it; apply writes them anew."
        raise BadInput(
            "one of the two comments round Rivelt's lines is missing", place=Place(page.path, line), hint=hint
        )
    return opening.start, closing.end


def foreign_tags(page: Page) -> list[Tag]:
    """Return the live tags that are not between the two comments."""
    own = own_lines(page)
    return [tag for tag in page.live if own is None or not own[0] <= tag.start < own[1]]


def href_of(page: Page, tag: Tag) -> str:
    """Return what a link of a page means: its `href`, or where that is relative, what `<base href>` makes of it."""
    href = tag.get("href").strip()
    base = next((one.get("href").strip() for one in page.live if one.name == "base" and one.get("href")), "")
    if not base or not href or href.startswith(("/", "#", "?")) or _ORIGIN.match(href) or _ORIGIN.match(base):
        return href
    return f"{base.rpartition('/')[0]}/{href.removeprefix('./')}"
