"""An edit as a record: what stood there before, what was put, and what is round it, so that it can be taken back from a file that went on changing."""

from __future__ import annotations

import base64
import hashlib
import itertools
import zlib
from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher

from msgspec import Struct

from rivelt.patterns import regex

_AROUND = 40  # characters of context on either side
_LONGEST_PUT = 400  # characters; of a longer text the lock file holds its beginning, its length and its hash
_HEAD = 60
_ENOUGH = 12  # characters of context by which a short text is known again
_WINDOW = 400  # lines in which two versions of a file must come together again
_WORD = frozenset("_@/.:-$")
_TOKENS = regex(r"\w+|\s+|[^\w\s]")
_FARTHEST = 2000  # characters that an insertion may be moved by
_MOST_TOKENS = 4000  # in lines that differ; more are recorded as a whole
_MOST_WHOLE = 1_000_000  # bytes of a file that is not text, kept in the lock file


class Put(Struct, frozen=True):
    """What an edit put into a file: its text; or of a long text its `head`, its `length` in characters and its SHA-256."""

    text: str | None = None
    head: str = ""
    length: int = 0
    sha256: str = ""

    @classmethod
    def of(cls, text: str) -> Put:
        """Return a text as what was put."""
        if len(text) <= _LONGEST_PUT:
            return cls(text)
        return cls(None, text[:_HEAD], len(text), hashlib.sha256(text.encode()).hexdigest())

    def found_in(self, text: str) -> Iterator[tuple[int, int]]:
        """Yield where it stands in a text, as start and end."""
        needle = self.head if self.text is None else self.text
        length = self.length if self.text is None else len(self.text)
        at = text.find(needle) if needle else -1
        while at >= 0:
            if self.text is not None or _digest(text[at : at + length]) == self.sha256:
                yield at, at + length
            at = text.find(needle, at + 1)


def _digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()


class Record(Struct, frozen=True):
    """One edit of one file.

    `before`: the text that stood there. `put`: what stands there now. `lead`, `tail`: what was round it. `is_whole`: the file is not text,
    such as a binary property list: then `before` is all of it (zlib, base64), and `put` the SHA-256 of what it became.
    """

    path: str
    before: str
    put: Put
    lead: str = ""
    tail: str = ""
    is_whole: bool = False

    @property
    def identity(self) -> tuple[str, str, Put]:
        """What it does, wherever in the file it stands."""
        return self.path, self.before, self.put


def records_of(path: str, before: bytes, after: bytes) -> tuple[Record, ...]:
    """Return what makes one content of a file out of another, in the order of the file; nothing where they are the same."""
    if before == after:
        return ()
    try:
        old, new = before.decode(), after.decode()
    except UnicodeDecodeError:
        return _whole(path, before, after)
    spans = list(_spans(old, new))
    for index, span in enumerate(spans):
        from_old, from_new = spans[index - 1][1::2] if index else (0, 0)
        to_old, to_new = spans[index + 1][::2] if index + 1 < len(spans) else (len(old), len(new))
        room = (min(span[0] - from_old, span[2] - from_new), min(to_old - span[1], to_new - span[3]))
        spans[index] = _slid(old, new, span, room)
    found = tuple(_record(path, old, new, *span) for span in spans)
    if taken_back(after, found) == (before, ()):
        return found
    # Among texts that repeat each other one span is safer than several small ones.
    single = (_record(path, old, new, *_trimmed(old, new, 0, len(old), 0, len(new))),)
    return single if taken_back(after, single) == (before, ()) else _whole(path, before, after)


def _whole(path: str, before: bytes, after: bytes) -> tuple[Record, ...]:
    """A record of a whole file; none of one that is far too large to be kept."""
    if len(before) > _MOST_WHOLE:
        return ()
    kept = base64.b64encode(zlib.compress(before, 9)).decode()
    return (Record(path, kept, Put(hashlib.sha256(after).hexdigest()), is_whole=True),)


def _record(path: str, old: str, new: str, old_at: int, old_end: int, at: int, end: int) -> Record:
    return Record(
        path,
        old[old_at:old_end],
        Put.of(new[at:end]),
        new[max(0, at - _AROUND) : at],
        new[end : end + _AROUND],
    )


def _spans(old: str, new: str) -> Iterator[tuple[int, int, int, int]]:
    """Where two texts differ, as (start, end) in the old one and in the new one, whole words."""
    a, b = _lines(old), _lines(new)
    old_at = at = 0
    i = j = 0
    while True:
        same = _alike(a, b, i, j)
        length = sum(map(len, a[i : i + same]))
        old_at, at, i, j = old_at + length, at + length, i + same, j + same
        if i == len(a) and j == len(b):
            return
        k, m = _together(a, b, i, j)
        old_end, end = old_at + sum(map(len, a[i:k])), at + sum(map(len, b[j:m]))
        if a[i:k] != b[j:m]:
            yield from _parts(old, new, old_at, old_end, at, end)
        old_at, at, i, j = old_end, end, k, m


def _lines(text: str) -> list[str]:
    """The lines of a text, each with the newline that ends it."""
    *whole, rest = text.split("\n")
    return [f"{line}\n" for line in whole] + ([rest] if rest else [])


def _alike(a: Sequence[str], b: Sequence[str], i: int, j: int) -> int:
    """How many lines are the same from `i` and `j` on: compared in runs that grow as long as they are the same, and halved after."""
    most, same, step = min(len(a) - i, len(b) - j), 0, 1
    while step and same < most:
        if a[i + same : i + same + step] == b[j + same : j + same + step]:
            same = min(most, same + step)
            step *= 2
        else:
            step //= 2
    return same


def _together(a: Sequence[str], b: Sequence[str], i: int, j: int) -> tuple[int, int]:
    """Where two lists of lines are the same again after they differ at `i` and `j`: the nearest place with two equal lines."""
    for distance in range(1, _WINDOW):
        for step in range(distance + 1):
            k, m = i + step, j + distance - step
            if k <= len(a) and m <= len(b) and a[k : k + 2] == b[m : m + 2] and (k < len(a)) == (m < len(b)):
                return k, m
    return len(a), len(b)


def _parts(old: str, new: str, old_at: int, old_end: int, at: int, end: int) -> Iterator[tuple[int, int, int, int]]:
    """The words that differ in lines that differ; changes with little between them are one."""
    was, now = _TOKENS.findall(old[old_at:old_end]), _TOKENS.findall(new[at:end])
    if not was or not now or len(was) + len(now) > _MOST_TOKENS:
        yield _trimmed(old, new, old_at, old_end, at, end)
        return
    starts, new_starts = _offsets(was, old_at), _offsets(now, at)
    spans: list[tuple[int, int, int, int]] = []
    for kind, i, k, j, m in SequenceMatcher(None, was, now, autojunk=False).get_opcodes():
        if kind == "equal":
            continue
        span = (starts[i], starts[k], new_starts[j], new_starts[m])
        between = new[spans[-1][3] : span[2]] if spans else ""
        if spans and "\n" not in between and len(between.strip()) < _ENOUGH:
            span = (spans[-1][0], span[1], spans[-1][2], span[3])
            spans.pop()
        spans.append(span)
    for span in spans:
        yield _trimmed(old, new, *span)


def _offsets(tokens: Sequence[str], start: int) -> list[int]:
    """Where each token begins, and where the last one ends."""
    return list(itertools.accumulate(map(len, tokens), initial=start))


def _trimmed(old: str, new: str, old_at: int, old_end: int, at: int, end: int) -> tuple[int, int, int, int]:
    """A span without what is the same at its beginning and its end; cut between words, not in them."""
    was, now = old[old_at:old_end], new[at:end]
    head = _common(was, now)
    foot = _common(was[head:][::-1], now[head:][::-1])
    # A pure insertion or deletion has no half words: it stays as it is.
    if head + foot < len(was) and head + foot < len(now):
        while head and _is_word(was[head - 1]):
            head -= 1
        while foot and _is_word(was[len(was) - foot]):
            foot -= 1
    return old_at + head, old_end - foot, at + head, end - foot


def _slid(old: str, new: str, span: tuple[int, int, int, int], room: tuple[int, int]) -> tuple[int, int, int, int]:
    """An insertion or a deletion moved to the ends of lines: what is put or taken between equal texts may begin in several places.

    `room`: how far it may be moved to the left and to the right.
    """
    old_at, old_end, at, end = span
    if (old_at == old_end) == (at == end):
        return old_at, old_end, at, end
    text, start, stop = (new, at, end) if old_at == old_end else (old, old_at, old_end)
    left = 0
    while left < min(_FARTHEST, room[0]) and text[start - left - 1] == text[stop - left - 1]:
        left += 1
    right = 0
    while right < min(_FARTHEST, room[1]) and text[start + right] == text[stop + right]:
        right += 1
    best = max(range(-left, right + 1), key=lambda shift: (_beginning(text, start + shift, stop + shift), -abs(shift)))
    return old_at + best, old_end + best, at + best, end + best


def _beginning(text: str, start: int, stop: int) -> int:
    """How well a span begins and ends: whole lines best, then whole words."""
    is_line = start == 0 or text[start - 1] == "\n"
    is_word = start == 0 or not (_is_word(text[start - 1]) and _is_word(text[start]))
    is_whole = is_line and text[stop - 1] == "\n"
    return 6 * is_whole + 3 * (text[start] == "\n") + (text[stop : stop + 1] in "\n") + is_word


def _common(one: str, other: str) -> int:
    """How many letters at their beginning two texts share."""
    if one.startswith(other) or other.startswith(one):
        return min(len(one), len(other))
    return next(index for index, pair in enumerate(zip(one, other, strict=False)) if pair[0] != pair[1])


def _is_word(letter: str) -> bool:
    return letter.isalnum() or letter in _WORD


def taken_back(data: bytes, records: Sequence[Record]) -> tuple[bytes, tuple[Record, ...]]:
    """Return a file's content without some edits, and those of them that do not stand there any more."""
    if any(record.is_whole for record in records):
        return _whole_back(data, records)
    try:
        text = data.decode()
    except UnicodeDecodeError:
        return data, tuple(records)
    spots: list[tuple[int, int, Record]] = []
    lost: list[Record] = []
    for record in records:
        taken = [(at, end) for at, end, _ in spots]
        spot = _gap(text, record) if record.put.text == "" else _spot(text, record, taken)
        if spot is None:
            lost.append(record)
        else:
            spots.append((*spot, record))
    for at, end, record in sorted(spots, key=lambda one: one[:2], reverse=True):
        text = text[:at] + record.before + text[end:]
    return text.encode(), tuple(lost)


def _whole_back(data: bytes, records: Sequence[Record]) -> tuple[bytes, tuple[Record, ...]]:
    """The content before edits of a file that is not text."""
    lost: list[Record] = []
    for record in reversed(records):
        before = _inflated(record.before) if record.is_whole else None
        if before is None or hashlib.sha256(data).hexdigest() != record.put.text:
            lost.append(record)
        else:
            data = before
    return data, tuple(reversed(lost))


def _inflated(kept: str) -> bytes | None:
    try:
        inflate = zlib.decompressobj()
        before = inflate.decompress(base64.b64decode(kept), _MOST_WHOLE)
    except (ValueError, zlib.error):
        return None
    return before if inflate.eof else None


def _spot(text: str, record: Record, taken: Sequence[tuple[int, int]]) -> tuple[int, int] | None:
    """Where what was put stands: of several places the one whose surroundings are most like those of then."""
    found = [
        (_likeness(text, at, end, record), at, end)
        for at, end in record.put.found_in(text)
        if not any(at < other_end and other < end for other, other_end in taken)
    ]
    if not found:
        return None
    likeness, at, end = max(found, key=lambda one: (one[0], -one[1]))
    is_known = end - at >= _ENOUGH and len(found) == 1
    return (at, end) if is_known or likeness >= min(_ENOUGH, len(record.lead) + len(record.tail)) else None


def _likeness(text: str, at: int, end: int, record: Record) -> int:
    before = _common(text[max(0, at - _AROUND) : at][::-1], record.lead[::-1])
    return before + _common(text[end : end + _AROUND], record.tail)


def _gap(text: str, record: Record) -> tuple[int, int] | None:
    """Where something was taken away: between what was before it and what came after it."""
    for width in (_AROUND, _AROUND // 2, _ENOUGH):
        lead, tail = record.lead[-width:], record.tail[:width]
        if text.count(lead + tail) == 1 and lead + tail:
            at = text.index(lead + tail) + len(lead)
            return at, at
    return None
