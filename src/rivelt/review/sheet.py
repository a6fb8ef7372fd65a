"""A review as a sheet: each screen that differs before, after, and with what differs marked. All lengths are in sheet units."""

from __future__ import annotations

from collections.abc import Iterator

from rivelt import __version__
from rivelt.colour import Colour
from rivelt.pixels.compose import Block, Sheet
from rivelt.pixels.type import shortened, text_width
from rivelt.platforms import platform
from rivelt.progress import Progress, no_progress
from rivelt.proof.frames import framed
from rivelt.proof.shelves import Box, shelved
from rivelt.proof.style import ACCENT, HAIRLINE, INK, MARGIN, PAPER, PIXELS_PER_UNIT, SOFT_INK, block, line, text
from rivelt.proof.style import SHEET_WIDTH as WIDTH
from rivelt.review.model import Change, Review
from rivelt.review.picture import triples
from rivelt.scene.draw import HATCH_PAPER
from rivelt.scene.model import Scene
from rivelt.units import Rect, Size, round_half_up

_UNITS_PER_POINT = 0.26
_TALLEST = 238.0
_TOP = 128
_GAP = 12
_BETWEEN = 30
_CAPTION = 84
_HEADING = 26
_LEAST = 104.0  # the width that a caption needs
_MOST_LINES = 12
_MOST_NAMED = 3


def draw_review(review: Review, on_progress: Progress = no_progress) -> bytes:
    """Return the sheet as a PNG. The same review gives the same bytes. `on_progress` is called with how many changes are drawn."""
    changes = review.changes
    scales = [_scale(change) for change in changes]
    boxes = [
        Box(_heading(change), _width(change, scale), change.screen.height * scale + _CAPTION)
        for change, scale in zip(changes, scales, strict=True)
    ]
    spots, height = shelved(boxes, WIDTH - 2 * MARGIN, _BETWEEN, _HEADING) if boxes else ([], 0.0)
    lines = notes_of(review)
    if len(lines) > _MOST_LINES:
        lines = [*lines[: _MOST_LINES - 1], f"and {len(lines) - _MOST_LINES + 1} more; --json has them all"]
    after = _TOP + height + 34
    bottom = after + 17 * len(lines) + 56
    sheet = Sheet(Size(WIDTH, bottom).pixels(PIXELS_PER_UNIT), Colour.parse(PAPER))
    at = {spot.index: spot for spot in spots}
    drawn = triples(
        [(change, scale * PIXELS_PER_UNIT) for change, scale in zip(changes, scales, strict=True)],
        review.pictures,
        on_progress,
    )
    for index, pictures in drawn:
        spot, change, scale = at[index], changes[index], scales[index]
        frames = _frames(change, scale, MARGIN + spot.x, _TOP + spot.y)
        for picture, rect in zip(pictures, frames, strict=True):
            if picture is not None:
                left, top = (round_half_up(side * PIXELS_PER_UNIT) for side in (rect.x, rect.y))
                sheet.lay(picture, left, top)
        if spot.room:
            words = shortened(_heading(change), spot.room, 11, "bold")
            above = Rect(frames[0].x, frames[0].y - 28, WIDTH - frames[0].x, 18)
            sheet.ink([block([text(words, frames[0].x, frames[0].y - 15, 11, face="bold")], above)])
        sheet.ink(_drawn_over(change, frames))
    sheet.ink([block(_header(review), Rect(0, 0, WIDTH, _TOP))])
    sheet.ink([block(_footer(review, lines, after, bottom), Rect(0, after - 20, WIDTH, bottom - after + 20))])
    return sheet.png()


def _heading(change: Change) -> str:
    return f"{platform(change.site.target).title}  ·  {change.site.heading}  ·  {change.state}"


def _scale(change: Change) -> float:
    """Sheet units for each dp or pt: one for all screens of devices, as long as the three pictures of two fit beside each other."""
    room = ((WIDTH - 2 * MARGIN - _BETWEEN) / 2 - 2 * _GAP) / 3
    return min(_UNITS_PER_POINT, _TALLEST / change.screen.height, room / change.screen.width)


def _width(change: Change, scale: float) -> float:
    return 3 * max(_LEAST, change.screen.width * scale) + 2 * _GAP


def _frames(change: Change, scale: float, x: float, y: float) -> tuple[Rect, Rect, Rect]:
    width, height = change.screen.width * scale, change.screen.height * scale
    step = max(_LEAST, width) + _GAP
    return Rect(x, y, width, height), Rect(x + step, y, width, height), Rect(x + 2 * step, y, width, height)


def _drawn_over(change: Change, frames: tuple[Rect, Rect, Rect]) -> Iterator[Block]:
    bottom = frames[0].bottom
    area = Rect(frames[0].x - 2, bottom + 8, 3 * max(_LEAST, frames[0].width) + 2 * _GAP + 4, _CAPTION)
    yield block(_captions(change, frames), area)
    for rect, scene in zip(frames, (change.before, change.after, None), strict=True):
        if scene is None and change.difference is None:
            missing = "not there" if rect != frames[2] else ""
            yield block(
                [_blank(rect), text(missing, rect.centre.x, rect.centre.y, 9.5, SOFT_INK, anchor="middle")], rect
            )
        else:
            yield from framed(scene or _plain(change), rect, [])


def _plain(change: Change) -> Scene:
    """A screen without anything on it, for its outline."""
    return Scene(change.screen, change.look, (), "")


def _blank(rect: Rect) -> str:
    return (
        f'<rect x="{rect.x + 0.5}" y="{rect.y + 0.5}" width="{rect.width - 1}" height="{rect.height - 1}" '
        f'fill="none" stroke="{HAIRLINE}" stroke-width="0.75" stroke-dasharray="4 3"/>'
    )


def _captions(change: Change, frames: tuple[Rect, Rect, Rect]) -> Iterator[str]:
    left, bottom = frames[0].x, frames[0].bottom
    room = 3 * max(_LEAST, frames[0].width) + 2 * _GAP
    look = change.look if len(change.screen.looks) > 1 else "always"
    yield text(shortened(f"{change.screen.system}, {look}", room, 11, "bold"), left, bottom + 23, 11, face="bold")
    yield text(shortened(", ".join(change.in_words), room, 9.5), left, bottom + 37, 9.5, ACCENT)
    for rect, scene, word in zip(
        frames, (change.before, change.after, None), ("before", "after", "difference"), strict=True
    ):
        yield from _under(rect, scene, word, bottom + 44)
    codes = _codes(change)
    if codes:
        yield text(shortened(codes, room, 9), left, bottom + 70, 9, SOFT_INK)


def _under(rect: Rect, scene: Scene | None, word: str, y: float) -> Iterator[str]:
    x = rect.x
    if scene is not None:
        fill = scene.ground.hex if scene.ground else HATCH_PAPER
        yield f'<rect x="{x}" y="{y}" width="14" height="10" fill="{fill}" stroke="{HAIRLINE}" stroke-width="0.75"/>'
        x += 19
    yield text(word, x, y + 8.8, 9.5, INK)
    if scene is not None:
        x += 6 + text_width(word, 9.5)
        room = max(_LEAST, rect.width) - (x - rect.x)
        yield text(shortened(scene.ground_in_words, room, 9, "mono"), x, y + 8.8, 9, SOFT_INK, "mono")


def _codes(change: Change) -> str:
    new = [code for code in change.codes_after if code not in change.codes_before]
    gone = [code for code in change.codes_before if code not in change.codes_after]
    return "  ".join((*(f"+ {code}" for code in new), *(f"- {code}" for code in gone)))


def _header(review: Review) -> Iterator[str]:
    yield text(shortened(review.name, 700, 32, "serif"), MARGIN, 62, 32, face="serif")
    yield text("What a change does to the launch screens", WIDTH - MARGIN, 50, 12, face="bold", anchor="end")
    between = shortened(f"{review.since}  →  {review.later}", 500, 11)
    yield text(between, WIDTH - MARGIN, 66, 11, ACCENT, anchor="end")
    yield line(MARGIN, 78, WIDTH - MARGIN, 78, INK, 1)
    yield text(shortened(counted(review), WIDTH - 2 * MARGIN, 11.5), MARGIN, 100, 11.5)


def counted(review: Review) -> str:
    """Return how many screens differ, and how many findings come and go, in words."""
    kinds = [change.kind for change in review.changes]
    number = {"changed": "different", "added": "new", "gone": "gone"}
    told = [f"{kinds.count(kind)} {word}" for kind, word in number.items() if kind in kinds]
    screens = ", ".join(told) or "no screen is different"
    same = f"{review.same} the same"
    new = len(review.new_findings)
    findings = f"{new} finding{'s' * (new != 1)} added, {len(review.gone)} gone"
    return f"{screens}; {same}; {findings}"


def notes_of(review: Review) -> list[str]:
    """Return what is said in words under the pictures."""
    found = [f"note: {note}" for note in review.notes]
    for target, weight in review.weights.items():
        if weight.before != weight.after:
            change = f"{weight.before:,} to {weight.after:,} bytes"
            found.append(f"the launch images for {platform(target).title} go from {change}")
    found += _named("images with other bytes and the same pixels", review.repacked)
    found += _named("images that are different, and that none of these screens shows", review.elsewhere)
    found += [f"unknown: {reason}" for reason in review.unknown]
    found += [f"unknown, as before: {reason}" for reason in review.still_unknown]
    return found


def _named(what: str, paths: tuple[str, ...]) -> list[str]:
    """How many images something is said of, and which the first are."""
    if not paths:
        return []
    more = f" and {len(paths) - _MOST_NAMED} more" if len(paths) > _MOST_NAMED else ""
    return [f"{what}: {', '.join(paths[:_MOST_NAMED])}{more}"]


def _footer(review: Review, lines: list[str], top: float, height: float) -> Iterator[str]:
    for index, words in enumerate(lines):
        yield text(shortened(words, WIDTH - 2 * MARGIN, 10), MARGIN, top + 17 * index, 10)
    foot = height - 24
    yield line(MARGIN, foot - 16, WIDTH - MARGIN, foot - 16)
    slug = f"rivelt  ·  {review.name}  ·  {review.since} → {review.later}  ·  rules of rivelt {__version__}"
    yield text(shortened(slug, WIDTH - 2 * MARGIN - 250, 9), MARGIN, foot, 9, SOFT_INK)
    yield f'<rect x="{WIDTH - MARGIN - 172}" y="{foot - 8}" width="12" height="9" fill="{ACCENT}"/>'
    yield text("pixels that are different", WIDTH - MARGIN, foot, 9, SOFT_INK, anchor="end")
