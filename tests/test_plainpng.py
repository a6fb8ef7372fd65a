"""PNGs that need no decoder, held against Pillow and libvips."""

from __future__ import annotations

import io
import struct
import zlib
from typing import NamedTuple

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from rivelt.colour import Colour
from rivelt.errors import BadInput
from rivelt.picture import ImageFile
from rivelt.pixels.pictures import Pictures
from rivelt.plainpng import opaque_png, plain_png
from rivelt.units import PixelSize

BANDS = {0: 1, 2: 3, 3: 1, 6: 4}


class Made(NamedTuple):
    """A PNG as it was drawn: its bytes, its kind, the filter of each row, and whether each row equals the one above."""

    data: bytes
    kind: int
    filters: tuple[int, ...]
    repeats: tuple[bool, ...]
    palette: int
    depth: int
    has_alphas: bool

    @property
    def is_plain(self) -> bool:
        """Whether every row is stored as it is, or repeats the one above."""
        return all(
            used == 0 or (used == 2 and repeats)
            for used, repeats in zip(self.filters, (False, *self.repeats[1:]), strict=True)
        )


def chunk(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))


def filtered(row: bytes, above: bytes, step: int, used: int) -> bytes:
    """A row as PNG, third edition, 9.2 filters it."""
    found = bytearray([used])
    for index, value in enumerate(row):
        left = row[index - step] if index >= step else 0
        corner = above[index - step] if index >= step else 0
        up = above[index]
        nearest = min((left, up, corner), key=lambda one: abs(left + up - corner - one))  # of equals the first one
        found.append((value - (0, left, up, (left + up) // 2, nearest)[used]) % 256)
    return bytes(found)


@st.composite
def pngs(draw: st.DrawFn) -> Made:
    kind = draw(st.sampled_from(sorted(BANDS)))
    depth = draw(st.sampled_from([1, 2, 4, 8])) if kind == 3 else 8
    width, height = draw(st.integers(1, 9)), draw(st.integers(1, 7))
    colours = draw(st.integers(1, 1 << min(depth, 4))) if kind == 3 else 256
    pixel = st.lists(
        st.integers(0, colours - 1) if kind == 3 else st.sampled_from([0, 7, 255]),
        min_size=BANDS[kind],
        max_size=BANDS[kind],
    )
    some = draw(st.lists(pixel, min_size=1, max_size=3))  # few colours: rows repeat, and there is ground
    rows: list[bytes] = []
    for _ in range(height):
        is_repeated = draw(st.booleans())
        if rows and is_repeated:
            rows.append(rows[-1])
            continue
        values = [
            value for one in draw(st.lists(st.sampled_from(some), min_size=width, max_size=width)) for value in one
        ]
        bits = "".join(f"{value:0{depth}b}" for value in values)
        rows.append(bytes(int(bits[at : at + 8].ljust(8, "0"), 2) for at in range(0, len(bits), 8)))
    is_simple = draw(st.booleans())
    repeats = tuple(index > 0 and rows[index - 1] == row for index, row in enumerate(rows))
    filters = tuple(
        draw(st.sampled_from([0, 2] if repeat else [0])) if is_simple else draw(st.integers(0, 4)) for repeat in repeats
    )
    step = max(1, BANDS[kind] * depth // 8)
    lines = zip(rows, [bytes(len(rows[0])), *rows], filters, strict=False)
    packed = zlib.compress(b"".join(filtered(row, above, step, used) for row, above, used in lines))
    cut = draw(st.integers(0, len(packed)))
    chunks = [chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, depth, kind, 0, 0, 0))]
    has_alphas = kind == 3 and draw(st.booleans())
    if kind == 3:
        chunks.append(chunk(b"PLTE", draw(st.binary(min_size=3 * colours, max_size=3 * colours))))
        chunks += [chunk(b"tRNS", draw(st.binary(min_size=1, max_size=colours)))] if has_alphas else []
    chunks += [chunk(b"IDAT", packed[:cut]), chunk(b"IDAT", packed[cut:]), chunk(b"IEND", b"")]
    return Made(b"\x89PNG\r\n\x1a\n" + b"".join(chunks), kind, filters, repeats, colours, depth, has_alphas)


@settings(max_examples=150, deadline=None)
@given(pngs())
def test_what_is_said_without_decoding_is_what_a_decoder_says(made: Made) -> None:
    pixels = np.asarray(Image.open(io.BytesIO(made.data)).convert("RGBA"))
    height, width = pixels.shape[:2]
    opaque, plain = opaque_png(made.data), plain_png(made.data)
    assert (plain is not None) == made.is_plain
    can_tell = made.kind != 3 or made.is_plain or made.palette == 1 << made.depth
    assert (opaque is not None) == (made.kind != 6 and not made.has_alphas and can_tell)
    if opaque is not None:
        assert opaque.size == (width, height)
        corners = {Colour(*map(int, pixels[y, x, :3])) for x in (0, -1) for y in (0, -1)}
        assert opaque.corners is not None or not made.is_plain
        assert opaque.corners in (None, corners)
        assert ImageFile(made.data).corner == (corners.pop() if len(corners) == 1 else None)
    bitmap = Pictures().at(ImageFile(made.data), PixelSize(width, height))
    assert (bitmap == pixels).all()
    assert Pictures().shows(ImageFile(made.data)) == bool(pixels[..., 3].any())


@settings(max_examples=100, deadline=None)
@given(pngs(), st.data())
def test_a_damaged_file_is_left_to_the_decoder(made: Made, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, 8 * len(made.data) - 1))
    damaged = bytearray(made.data)
    damaged[at // 8] ^= 1 << at % 8
    for found in (bytes(damaged), made.data[: at // 8], made.data + b"\0"):
        assert opaque_png(found) is None
        assert plain_png(found) is None


def test_a_place_outside_of_the_palette_is_left_to_the_decoder() -> None:
    header = chunk(b"IHDR", struct.pack(">IIBBBBB", 2, 1, 8, 3, 0, 0, 0))
    rows = chunk(b"IDAT", zlib.compress(b"\0\0\1"))
    for palette, is_sound in ((b"\1\2\3", False), (b"\1\2\3\4\5\6", True)):
        data = b"\x89PNG\r\n\x1a\n" + header + chunk(b"PLTE", palette) + rows + chunk(b"IEND", b"")
        assert (opaque_png(data) is not None, plain_png(data) is not None) == (is_sound, is_sound)


@pytest.mark.parametrize(
    ("width", "height", "packed"), [(60_000, 60_000, b"\0"), (100, 1, b"\0" * 5_000_000), (0, 1, b"\0")]
)
def test_a_header_that_promises_what_is_not_there_is_left_to_the_decoder(
    width: int, height: int, packed: bytes
) -> None:
    header = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    data = b"\x89PNG\r\n\x1a\n" + header + chunk(b"IDAT", zlib.compress(packed)) + chunk(b"IEND", b"")
    assert opaque_png(data) is None
    assert plain_png(data) is None
    if width * height > 100_000_000:
        with pytest.raises(BadInput, match="is not a launch image"):
            Pictures().bitmap(ImageFile(data))
