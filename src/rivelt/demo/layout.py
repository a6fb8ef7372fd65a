"""Laying the sample app out in a folder."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from importlib.resources import files
from importlib.resources.abc import Traversable
from pathlib import Path

from rivelt.disk.tree import read_file
from rivelt.errors import Refused
from rivelt.workspace.history import applies, undo
from rivelt.workspace.output import write_files

_MARKER = "# The brief of the Skerryline demo"


def sample_files() -> Mapping[str, bytes]:
    """Return the files of the sample app by their POSIX path."""
    return dict(_walk(files("rivelt.demo") / "skerryline", ""))


def _walk(folder: Traversable, prefix: str) -> Iterator[tuple[str, bytes]]:
    for child in sorted(folder.iterdir(), key=lambda child: child.name):
        path = f"{prefix}{child.name}"
        if child.is_dir():
            yield from _walk(child, f"{path}/")
        elif not child.name.startswith("__init__"):
            yield path, child.read_bytes()


def lay_out(folder: Path) -> None:
    """Write the sample app to an empty or new folder, or make an earlier demo fresh again.

    Raises:
        Refused: the folder holds something else, or a demo that a person has changed.
        BadInput: it cannot be written.
    """
    sample = sample_files()
    if folder.exists() and not folder.is_dir():
        raise Refused(f"{folder} is a file", hint="Give a folder that does not exist yet: rivelt demo DIR")
    if folder.is_dir() and any(folder.iterdir()):
        _make_fresh(folder, sample)
    write_files(folder, {path: content for path, content in sample.items() if not (folder / path).exists()})


def _make_fresh(folder: Path, sample: Mapping[str, bytes]) -> None:
    """Take back what earlier demos applied; refuse where a person has changed something."""
    brief = folder / "rivelt.toml"
    if not brief.is_file() or not read_file(brief).startswith(_MARKER.encode()):
        raise Refused(f"{folder} is not empty", hint="Give a folder that does not exist yet: rivelt demo DIR")
    if applied := len(applies(folder)):
        undo(folder, times=applied)
    changed = [
        path for path, content in sample.items() if (folder / path).is_file() and read_file(folder / path) != content
    ]
    if changed:
        hint = "Keep this demo as it is, and give another folder: rivelt demo DIR"
        raise Refused(f"the demo in {folder} was changed: {', '.join(changed)}", hint=hint)
