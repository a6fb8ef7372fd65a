"""Pictures and pages onto disk, outside of any project."""

from __future__ import annotations

from pathlib import Path

from rivelt.errors import BadInput, Place


def write_png(out: Path, data: bytes) -> Path:
    """Write a PNG file.

    Raises:
        BadInput: `out` is not the name of a PNG file, or cannot be written.
    """
    if out.suffix.lower() != ".png":
        raise BadInput(f"the picture is a PNG file; {out.name} is not one's name", hint=f"Name it {out.stem}.png")
    return write_file(out, data)


def write_file(out: Path, data: bytes) -> Path:
    """Write a file, its folder too where that is missing.

    Raises:
        BadInput: it cannot be written.
    """
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        out.write_bytes(data)
    except OSError as error:
        at = Place(str(out))
        raise BadInput(
            f"cannot be written: {error.strerror}", place=at, hint="Give another file with --out."
        ) from error
    return out
