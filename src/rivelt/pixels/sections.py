"""Sections of Deflate streams (RFC 1951) that plates share: rows that look alike are compressed once.

Startup images of screens that are equally wide have the same rows of art; only how much ground is between them differs.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from threading import Lock
from typing import TYPE_CHECKING, TypeAlias

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Bytes: TypeAlias = bytes | NDArray[np.uint8]

Pack: TypeAlias = "Callable[[Sequence[Bytes], int], bytes]"
"""A function like `compressed`, which is also given the Adler-32 of all parts together."""

_EFFORT, _LESS_EFFORT, _MOST_MEMORY = 9, 8, 9  # zlib-ng's levels
# Of a line of text, the highest effort saves a tenth. Of a tall mark it takes two and a half times as long for a twentieth.
_MANY_ROWS = 240
_FEWEST_BYTES = 1000  # a smaller section is compressed as fast as it is looked up


class Sections:
    """Sections that several plates share, each compressed once; from any number of threads."""

    def __init__(self) -> None:
        self._made: defaultdict[tuple[int, int], list[bytes]] = defaultdict(list)
        self._locks: defaultdict[tuple[int, int], Lock] = defaultdict(Lock)
        self._lock = Lock()

    def packed(self, parts: Sequence[Bytes], checksum: int) -> bytes:
        """Return the parts as `compressed` compresses them. What was compressed before is recognised by its content, not by the checksum alone."""
        size = size_of(parts)
        if size < _FEWEST_BYTES:
            return compressed(parts, checksum)
        key = checksum, size
        with self._lock:
            lock, made = self._locks[key], self._made[key]
        with lock:  # another thread may be about to compress the same
            found = next((one for one in made if _holds(one, parts, size)), None)
            if found is None:
                found = compressed(parts, checksum)
                made.append(found)
            return found


def compressed(parts: Sequence[Bytes], _checksum: int = 0) -> bytes:
    """Return whole bytes of a Deflate stream that can stand anywhere in one but at its end.

    By zlib-ng, whose bytes are the same on every machine: what is part of Python differs from system to system.
    """
    from zlib_ng import zlib_ng

    effort = _EFFORT if max(len(part) for part in parts if not isinstance(part, bytes)) <= _MANY_ROWS else _LESS_EFFORT
    packer = zlib_ng.compressobj(effort, zlib_ng.DEFLATED, -zlib_ng.MAX_WBITS, _MOST_MEMORY)
    return b"".join([*(packer.compress(part) for part in parts), packer.flush(zlib_ng.Z_SYNC_FLUSH)])


def _holds(section: bytes, parts: Sequence[Bytes], size: int) -> bool:
    """Whether a section is one of these parts."""
    from zlib_ng import zlib_ng

    held = np.frombuffer(zlib_ng.decompressobj(-zlib_ng.MAX_WBITS).decompress(section, size + 1), np.uint8)
    start = 0
    for part in parts:
        wanted = np.frombuffer(part, np.uint8) if isinstance(part, bytes) else part.reshape(-1)
        if not np.array_equal(held[start : start + len(wanted)], wanted):
            return False
        start += len(wanted)
    return start == len(held)


def size_of(parts: Sequence[Bytes]) -> int:
    """Return how many bytes parts have together."""
    return sum(len(part) if isinstance(part, bytes) else part.nbytes for part in parts)
