"""What decides on the bytes that are made: the code of Rivelt, and the libraries that draw and encode."""

from __future__ import annotations

import hashlib
from functools import cache
from importlib.metadata import version
from importlib.resources import files
from importlib.resources.abc import Traversable

from rivelt import __version__

_LIBRARIES = ("pyvips", "numpy", "deflate", "zlib-ng")
_CODE = (".py", ".toml", ".j2")
_LEFT_OUT = {"__pycache__", "demo", "docs"}


@cache
def versions() -> dict[str, str]:
    """Return the versions that must be the same wherever brands of one run are made, by name."""
    import pyvips

    libvips = ".".join(str(pyvips.version(part)) for part in range(3))
    return {"rivelt": __version__, "code": _code(), "libvips": libvips, **{name: version(name) for name in _LIBRARIES}}


def _code() -> str:
    """A SHA-256 of the package's own files, shortened: two checkouts of one version may differ."""
    whole = hashlib.sha256()

    def walk(folder: Traversable, prefix: str) -> None:
        for child in sorted(folder.iterdir(), key=lambda child: child.name):
            if child.name in _LEFT_OUT:
                continue
            if child.is_dir():
                walk(child, f"{prefix}{child.name}/")
            elif child.name.endswith(_CODE):
                inside = hashlib.sha256(child.read_bytes()).hexdigest()
                whole.update(f"{prefix}{child.name}\0{inside}\n".encode())

    walk(files("rivelt"), "")
    return whole.hexdigest()[:16]
