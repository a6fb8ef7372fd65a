"""The files that a brief names."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable, Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from rivelt.errors import BadInput
from rivelt.project.files import DISK, Files

if TYPE_CHECKING:
    from rivelt.picture import Art


T = TypeVar("T")

_MOST_KEPT = 64  # pieces of art that were measured, or derived for a ground, in a long watch


class ArtFiles:
    """The files that a brief names, each read once. They must be in its repository, in the project, or beside the brief.

    `source`: where they are read from.
    """

    def __init__(self, *homes: Path, files: Files = DISK) -> None:
        self.source = files
        self._homes = tuple(files.real(home) for home in homes)
        self._read: dict[str, bytes] = {}
        self._art: dict[str, Art] = {}
        self._known: dict[bytes, Art] = {}
        self._worked_out: dict[Hashable, Any] = {}

    def allow(self, home: Path) -> None:
        """Let files be in one more folder."""
        self._homes = (*self._homes, self.source.real(home))

    def data(self, name: str) -> bytes:
        """Return the bytes of a file; `name` is its path relative to the first home.

        Raises:
            BadInput: it cannot be read, or is in none of the homes.
        """
        if name not in self._read:
            path = self.source.real(self._homes[0] / name)
            if not any(path.is_relative_to(home) for home in self._homes):
                hint = "Copy it into the repository: the project must build on every machine."
                raise BadInput(f"{name} is outside the project and its repository", hint=hint)
            self._read[name] = read_file(path, name, self.source)
        return self._read[name]

    def art(self, name: str) -> Art:
        """Return a file as art.

        Raises:
            BadInput: it cannot be read, or is not art that can be used.
        """
        if name not in self._art:
            from rivelt.art.source import read_art

            data = self.data(name)
            known = self._known.get(data)
            self._art[name] = known if known is not None and known.name == name else read_art(data, name)
        return self._art[name]

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return what `make` gave for a key of some art: it is called once, here and in those that `follow` this one."""
        if key not in self._worked_out:
            self._worked_out[key] = make()
        found: T = self._worked_out[key]
        return found

    def follow(self, earlier: ArtFiles) -> None:
        """Take over what was worked out of files of the same content when they were read before."""
        self._known = {**earlier._known, **{art.data: art for art in earlier._art.values()}}
        self._worked_out = dict(list(earlier._worked_out.items())[-_MOST_KEPT:])

    def hold_the_same_as(self, others: ArtFiles) -> bool:
        """Return whether all files that others have read hold the same here; False where one cannot be read any more."""
        try:
            return all(self.data(name) == data for name, data in others._read.items())
        except BadInput:  # said with its place in the brief by whoever needs the file
            return False

    def digests_of(self, names: Iterable[str]) -> Mapping[str, str]:
        """Return the SHA-256, in hex, of each of some files, by name; sorted.

        Raises:
            BadInput: one cannot be read.
        """
        return {name: hashlib.sha256(self.data(name)).hexdigest() for name in sorted(names)}


def read_file(path: Path, name: str, files: Files = DISK) -> bytes:
    """Return the bytes of a file; `name` is what messages call it.

    Raises:
        BadInput: it cannot be read.
    """
    try:
        return files.read(path)
    except FileNotFoundError as error:
        raise BadInput(f"{name} does not exist", hint="Correct the path.") from error
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or error
        raise BadInput(f"{name} cannot be read: {reason}", hint="Give a file that can be read.") from error
