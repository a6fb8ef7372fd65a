"""A source file as a value: what kind it is, how large, and safe to draw."""

from __future__ import annotations

import zlib
from pathlib import PurePath

from rivelt.errors import BadInput
from rivelt.picture import MAX_PIXELS, Art, Kind, SvgDocument
from rivelt.units import Rect, Size

MAX_UNZIPPED = 64 * 1024 * 1024
"""The most that a gzipped SVG may hold, in bytes: more is a decompression bomb."""

MAX_BYTES = 256 * 1024 * 1024
"""The largest source file that is read, in bytes."""

_POINTER = b"version https://git-lfs.github.com/spec/"
_GZIP = b"\x1f\x8b"
_SUFFIXES: dict[str, Kind] = {
    ".svg": "SVG",
    ".svgz": "SVG",
    ".png": "PNG",
    ".jpg": "JPEG",
    ".jpeg": "JPEG",
    ".webp": "WebP",
}


def read_art(data: bytes, name: str) -> Art:
    """Recognise a source file by its content, and refuse what cannot be drawn safely.

    Raises:
        BadInput: not a picture, mislabelled, broken, too large, or with parts that lead outside the file.
    """
    suffix = PurePath(name).suffix.lower()
    if suffix not in _SUFFIXES:
        raise BadInput(f"{name} is not art that Rivelt reads", hint="Use an SVG, PNG, JPEG or WebP file.")
    art = read_picture(data, name, _SUFFIXES[suffix])
    if art.kind != _SUFFIXES[suffix]:
        raise BadInput(f"{name} is really a {art.kind} file", hint=f"Rename it, so that its ending says {art.kind}.")
    return art


def read_picture(data: bytes, name: str, expected: str = "picture") -> Art:
    """Recognise a picture by its content alone, whatever its name says, and refuse what cannot be drawn safely.

    Raises:
        BadInput: not a picture, broken, too large, or with parts that lead outside the file.
    """
    if not data:
        raise BadInput(f"{name} is empty", hint="Export it again.")
    if data.startswith(_GZIP):
        data = _unzipped(data, name)
    if len(data) > MAX_BYTES:
        raise BadInput(f"{name} is larger than {MAX_BYTES >> 20} MB", hint="Export it smaller.")
    kind = _sniff(data)
    if data.startswith(_POINTER):
        raise BadInput(f"{name} is a Git LFS pointer, not the file itself", hint="Fetch it with: git lfs pull")
    if kind is None:
        raise BadInput(f"{name} is not a {expected} file", hint="Export it again, or give another file.")
    if kind == "SVG":
        from rivelt.art.svg import read_svg

        document = read_svg(data, name)
        art = Art(name, kind, data, document.size, document)
        if not document.is_plain:
            _refuse_slow(art, document)
        return art
    size, frames = _bitmap_header(data, name)
    return Art(name, kind, data, size, frames=frames)


def _refuse_slow(art: Art, document: SvgDocument) -> None:
    from rivelt.art.trial import SIDE, refuse_slow

    scale = SIDE / max(art.size)
    width, height = (max(1, round(side * scale)) for side in art.size)
    refuse_slow(
        document.on_canvas(width, height, Rect(0, 0, art.size.width * scale, art.size.height * scale)),
        art.digest,
        art.name,
    )


def _unzipped(data: bytes, name: str) -> bytes:
    """The content of a gzipped file (.svgz), but never more than `MAX_UNZIPPED` bytes."""
    inflater = zlib.decompressobj(wbits=31)
    try:
        content = inflater.decompress(data, MAX_UNZIPPED)
    except zlib.error as error:
        raise BadInput(f"{name} is broken: it cannot be unzipped", hint="Export it again.") from error
    if inflater.unconsumed_tail or not inflater.eof:
        hint = "Export it again, without embedded pictures."
        raise BadInput(f"{name} holds more than {MAX_UNZIPPED >> 20} MB, or is cut short", hint=hint)
    return content


def _sniff(data: bytes) -> Kind | None:
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        return "PNG"
    if data.startswith(b"\xff\xd8\xff"):
        return "JPEG"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "WebP"
    head = data[:4].lstrip(b"\xef\xbb\xbf\xfe\xff\x00 \t\r\n")
    return "SVG" if head.startswith(b"<") or not head else None


def _bitmap_header(data: bytes, name: str) -> tuple[Size, int]:
    """The upright size of a bitmap and its number of frames, from its header alone."""
    import pyvips

    try:
        header = pyvips.Image.new_from_buffer(data, "", access="sequential")
    except pyvips.Error as error:
        raise BadInput(f"{name} is broken: its header cannot be read", hint="Export it again.") from error
    width, height = header.width, header.height
    if width * height > MAX_PIXELS:
        message = f"{name} has {width} x {height} pixels, more than {MAX_PIXELS // 1_000_000} million"
        raise BadInput(message, hint="Export it smaller; launch screens need 5000 pixels at the very most.")
    turned = header.get_typeof("orientation") != 0 and header.get("orientation") in range(5, 9)
    frames = header.get("n-pages") if header.get_typeof("n-pages") != 0 else 1
    return Size(height, width) if turned else Size(width, height), int(frames)
