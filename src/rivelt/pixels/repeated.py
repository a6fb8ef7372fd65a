"""Rows that repeat the one above, as a block of a Deflate stream (RFC 1951): most of what a launch image holds, in as few bits as there can be.

Filtered by the row above, such a row is its filter byte and zeros. Deflate copies at most 258 bytes at once. So all is copied by that
many: from the byte before where they are zeros, which takes two bits, and from a row before where a filter byte is among them.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

SHORTEST, LONGEST = 300, 32768
"""The lengths of a row (bytes) that can be copied like this: longer than what is copied at once, and within the window."""

_COPIED = 258
# Where the ranges of the symbols for lengths and for distances begin (RFC 1951, 3.2.5).
_LENGTHS = [*range(3, 11), *(3 + (4 + part << bits) for bits in range(1, 6) for part in range(4)), _COPIED]
_DISTANCES = [1, 2, *(1 + (2 + part << bits) for bits in range(14) for part in range(2))]

# The codes of the block, as their bits are written: of symbols for lengths and bytes, and of the two distances.
_WHOLE, _ZERO, _END_OF_BLOCK, _REST = "0", "10", "110", "111"
_BYTE_BEFORE, _ROW_BEFORE = "0", "1"
_EMPTY_BLOCK = b"\0\0\xff\xff"  # stored, without a byte: what comes after it begins with a byte


def repeated(count: int, length: int) -> bytes:
    """Return whole bytes of a Deflate stream for rows of zeros that each begin with the same filter byte, which come after such a row.

    Args:
        count: how many rows.
        length: the bytes of each, from `SHORTEST` to `LONGEST`.
    """
    copies, rest = divmod(count * length, _COPIED)
    length_code, length_bits = _coded(max(rest, 3), _LENGTHS)
    distance_code, distance_bits = _coded(length, _DISTANCES)
    from_row = _from_row(count, length)
    if rest < 3:
        end = _ZERO * rest
    else:
        end = _REST + length_bits + (_ROW_BEFORE + distance_bits if from_row[-1] == copies else _BYTE_BEFORE)
    bits = np.concatenate(
        [
            _bits(_head(257 + length_code, distance_code)),
            _copied(copies, from_row[from_row < copies], _bits(_WHOLE + _ROW_BEFORE + distance_bits)),
            _bits(end + _END_OF_BLOCK + "000"),
        ]
    )
    return np.packbits(bits, bitorder="little").tobytes() + _EMPTY_BLOCK


def _from_row(count: int, length: int) -> NDArray[np.intp]:
    """Which copies the first byte of a row is among: one of the bytes from the one before the first that is copied to the last one."""
    firsts = np.arange(count) * length
    return np.unique(np.concatenate([firsts // _COPIED, (firsts + 1) // _COPIED]))


def _copied(copies: int, from_row: NDArray[np.intp], code: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The bits of all whole copies; those that copy `from_row` have a code, all bits of the others are zeros."""
    width = len(_WHOLE + _BYTE_BEFORE)
    longer = len(code) - width
    bits = np.zeros(copies * width + len(from_row) * longer, np.uint8)
    starts = from_row * width + np.arange(len(from_row)) * longer
    bits[(starts[:, None] + np.flatnonzero(code)).ravel()] = 1
    return bits


def _head(length_symbol: int, distance_symbol: int) -> str:
    """The head of a block with dynamic codes (RFC 1951, 3.2.7): it says how many bits the code of each symbol has.

    `length_symbol`: the one that `_REST` stands for. `distance_symbol`: the one that `_ROW_BEFORE` stands for.
    """
    codes = {1: "00", 18: "01", 0: "100", 2: "101", 3: "110", 17: "111"}  # for numbers of bits, and for runs of zeros
    order = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1]
    first_distance = 286
    found = [
        (0, _ZERO),
        (256, _END_OF_BLOCK),
        (length_symbol, _REST),
        (285, _WHOLE),
        (first_distance, _BYTE_BEFORE),
        (first_distance + distance_symbol, _ROW_BEFORE),
    ]
    parts = [
        "0",
        _number(2, 2),
        _number(first_distance - 257, 5),
        _number(distance_symbol, 5),
        _number(len(order) - 4, 4),
    ]
    parts += [_number(len(codes.get(symbol, "")), 3) for symbol in order]
    place = 0
    for symbol, code in found:
        parts += [_zeros(symbol - place, codes), codes[len(code)]]
        place = symbol + 1
    return "".join(parts)


def _zeros(count: int, codes: dict[int, str]) -> str:
    """A run of symbols that do not occur."""
    if count < 3:
        return codes[0] * count
    if count < 11:
        return codes[17] + _number(count - 3, 3)
    now = min(count, 138)
    return codes[18] + _number(now - 11, 7) + _zeros(count - now, codes)


def _coded(value: int, bases: list[int]) -> tuple[int, str]:
    """Which of the ranges that begin with `bases` a value is in, and the bits that say where in it."""
    code = max(index for index, base in enumerate(bases) if base <= value)
    following = bases[code + 1] if code + 1 < len(bases) else 2 * bases[code] - bases[code - 1]
    return code, _number(value - bases[code], max(0, following - bases[code] - 1).bit_length())


def _number(value: int, width: int) -> str:
    """A number as bits, the lowest first."""
    return "".join(str(value >> place & 1) for place in range(width))


def _bits(text: str) -> NDArray[np.uint8]:
    return np.frombuffer(text.encode(), np.uint8) & np.uint8(1)
