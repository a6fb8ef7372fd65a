"""A review as Markdown for a pull request, with thumbnails as files beside it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from rivelt.markdown import MOST, code, plain, table
from rivelt.pixels.encode import shown_png
from rivelt.platforms import platform
from rivelt.progress import Progress, no_progress
from rivelt.review.model import Change, Review
from rivelt.review.picture import triples
from rivelt.review.sheet import counted
from rivelt.rules.formats import findings_table

if TYPE_CHECKING:
    from numpy.typing import NDArray

_TALL = 200  # px of each picture
_WIDE = 260
_GAP = 8
_PAPER = 255
_MOST_NAMED = 20


def thumbnails(review: Review, on_progress: Progress = no_progress) -> dict[str, bytes]:
    """Return a PNG for each change, by its name: before, after and the difference side by side."""
    changes = review.changes
    scales = [min(_TALL / change.screen.height, _WIDE / change.screen.width) for change in changes]
    names = names_of(changes)
    return {
        names[index]: shown_png(_beside(list(pictures)))
        for index, pictures in triples(list(zip(changes, scales, strict=True)), review.pictures, on_progress)
    }


def names_of(changes: tuple[Change, ...]) -> list[str]:
    """Return a file name for the thumbnail of each change: its number, target, screen and look, in letters that no shell minds."""
    return [
        f"{number:02}-{_plain(f'{change.site.target} {change.screen.system} {change.look}')}.png"
        for number, change in enumerate(changes, start=1)
    ]


def _plain(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:60]


def _beside(pictures: list[NDArray[np.uint8] | None]) -> NDArray[np.uint8]:
    """Pictures side by side, on transparent paper; a missing one leaves its place empty."""
    height, width = next(picture.shape[:2] for picture in pictures if picture is not None)
    found = np.zeros((height, 3 * width + 2 * _GAP, 4), np.uint8)
    found[..., :3] = _PAPER
    for index, picture in enumerate(pictures):
        if picture is not None:
            left = index * (width + _GAP)
            found[:, left : left + width] = picture
    return found


def as_markdown(review: Review, pictures: str | None) -> str:
    """Return the review as Markdown, never longer than a comment may be.

    Args:
        review: what is shown.
        pictures: the folder of the thumbnails, as links are to name it; None leaves them out.
    """
    between = f"{code(review.since)} → {code(review.at) if review.at else 'the working tree'}"
    lines = [f"### Launch screens: {counted(review)}", "", between, ""]
    lines += [*(f"> {plain(note)}" for note in review.notes), *([""] if review.notes else [])]
    rest = MOST - 2_000 - sum(map(len, lines))
    headers: Sequence[str] = ("screen", "before, after, difference", "what is different")
    cells = zip(review.changes, names_of(review.changes), strict=True)
    rows: list[Sequence[str]] = [_row(change, name, pictures) for change, name in cells]
    if pictures is None:
        headers, rows = headers[::2], [row[::2] for row in rows]
    rest = table(lines, headers, rows, rest * 2 // 3, "the sheet shows them all") + rest - rest * 2 // 3
    weights = [
        (plain(platform(target).title), _bytes(one.before), _bytes(one.after), f"{one.after - one.before:+,}")
        for target, one in review.weights.items()
    ]
    rest = table(lines, ("launch images", "before", "after", "bytes"), weights, rest)
    if review.added is not None and review.new_findings:
        lines += ["**Findings added**", ""]
        rest = findings_table(lines, review.added, review.new_findings, rest)
    if review.added is not None and review.gone:
        lines += [f"<details><summary>{len(review.gone)} findings are gone</summary>", ""]
        rest = findings_table(lines, review.added, review.gone, rest)
        lines += ["</details>", ""]
    _paths(lines, "Other bytes, the same pixels", review.repacked, rest)
    _paths(lines, "Different, and shown on none of these screens", review.elsewhere, rest)
    lines += [f"- unknown: {plain(reason)}" for reason in review.unknown[:_MOST_NAMED]]
    lines += [f"- unknown, as before: {plain(reason)}" for reason in review.still_unknown[:_MOST_NAMED]]
    return _cut("\n".join(lines).rstrip("\n"))


def _row(change: Change, name: str, pictures: str | None) -> tuple[str, str, str]:
    look = change.look if len(change.screen.looks) > 1 else "always"
    where = f"{plain(change.screen.system)}, {look}<br>{plain(change.site.heading)}<br>{change.state}"
    picture = f"![{plain(f'{change.screen.system}, {look}')}]({pictures}/{name})" if pictures is not None else ""
    grounds = [
        f"{word} {code(scene.ground_in_words)}"
        for word, scene in (("before", change.before), ("after", change.after))
        if scene is not None
    ]
    codes = [
        *(f"+ {code(one)}" for one in change.codes_after if one not in change.codes_before),
        *(f"- {code(one)}" for one in change.codes_before if one not in change.codes_after),
    ]
    return where, picture, "<br>".join((*map(plain, change.in_words), *grounds, *codes))


def _bytes(count: int) -> str:
    return f"{count:,}"


def _paths(lines: list[str], title: str, paths: tuple[str, ...], rest: int) -> None:
    if paths and rest > 0:
        more = f", and {len(paths) - _MOST_NAMED} more" if len(paths) > _MOST_NAMED else ""
        lines += [f"{title}: {', '.join(map(code, paths[:_MOST_NAMED]))}{more}.", ""]


def _cut(text: str) -> str:
    """Text without the last lines that there is no room for."""
    if len(text) < MOST:
        return text
    return text[: MOST - 40].rpartition("\n")[0] + "\n\nThe rest is left out here."
