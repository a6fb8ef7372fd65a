"""The folder of results: a folder for each brand, with a record of what it was made from, so that a run can be continued."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path
from typing import Any, Literal

import msgspec
from msgspec import Struct

from rivelt.disk.tree import read_file
from rivelt.documents.base import Problem
from rivelt.fleet.brands import Brand
from rivelt.fleet.make import KINDS, Kind, Made
from rivelt.fleet.versions import versions
from rivelt.project.snapshot import join
from rivelt.values import replace
from rivelt.workspace.output import remove_files, write_files

RECORD = "brand.json"
"""The record of a brand, in its folder; it is written last."""

_LARGEST_RECORD = 10_000_000  # bytes
_OF_PROJECT: frozenset[Kind] = frozenset({"check", "proof", "patch", "look"})


class Kept(Struct, frozen=True):
    """One kind of what was made: the digest of what it was made from, the SHA-256 of each file, and its values in the table."""

    made_from: str
    files: Mapping[str, str]
    values: Mapping[str, Any]


class Record(Struct, frozen=True):
    """What is there of a brand. `seconds`: what making it took, in all. `problems`: why something could not be made."""

    name: str
    parts: Mapping[Kind, Kept] = {}
    problems: tuple[Problem, ...] = ()
    seconds: float = 0.0
    schema: Literal["rivelt.brand/1"] = "rivelt.brand/1"

    @property
    def values(self) -> dict[str, Any]:
        """All values in the table of results, by column."""
        return {key: value for kind in KINDS if kind in self.parts for key, value in self.parts[kind].values.items()}


class Shelf:
    """The folder of results.

    `out`: the folder. `digests`: of each project, with all its files.
    """

    def __init__(self, out: Path, digests: Mapping[Path, str], *, is_zip: bool) -> None:
        self.out = out
        self._digests = digests
        self._is_zip = is_zip

    def record(self, name: str) -> Record:
        """Return the record of a brand, or an empty one if it cannot be read."""
        try:
            data = read_file(self.out / name / RECORD, _LARGEST_RECORD)
            found = msgspec.json.decode(data, type=Record)
        except (OSError, ValueError, msgspec.MsgspecError):
            return Record(name)
        paths = [path for kept in found.parts.values() for path in kept.files]
        is_ours = found.name == name and all(path == join(path) and not path.startswith(("/", "..")) for path in paths)
        return found if is_ours else Record(name)

    def made_from(self, brand: Brand, kind: Kind) -> str:
        """Return a digest of all that one kind of a brand is made from."""
        parts = [
            versions(),
            kind,
            brand.brief.source,
            [brand.name, brand.alone.path.name, brand.alone.edition, brand.brief.targets],
            dict(brand.inputs),
            self._digests.get(brand.brief.project, "") if kind in _OF_PROJECT else "",
            self._is_zip and kind == "plates",
        ]
        return hashlib.sha256(msgspec.json.encode(parts, order="sorted", enc_hook=str)).hexdigest()

    def current(self, brand: Brand, kinds: tuple[Kind, ...], record: Record) -> Record:
        """Return a record with some kinds alone, and of those what is made from the brand as it is now: nothing older is passed off as it."""
        return replace(
            record, parts={kind: kept for kind in kinds if (kept := self._kept(brand, kind, record)) is not None}
        )

    def _kept(self, brand: Brand, kind: Kind, record: Record) -> Kept | None:
        kept = record.parts.get(kind)
        return kept if kept is not None and kept.made_from == self.made_from(brand, kind) else None

    def missing(self, brand: Brand, kinds: tuple[Kind, ...], record: Record) -> tuple[Kind, ...]:
        """Return the kinds that are not there as they would be made."""
        return tuple(kind for kind in kinds if not self._is_there(brand, kind, record))

    def _is_there(self, brand: Brand, kind: Kind, record: Record) -> bool:
        kept = self._kept(brand, kind, record)
        return kept is not None and all(self._digest(brand.name, path) == digest for path, digest in kept.files.items())

    def _digest(self, name: str, path: str) -> str | None:
        try:
            return hashlib.sha256(read_file(self.out / name / path)).hexdigest()
        except (OSError, ValueError):
            return None

    def put(self, brand: Brand, made: Made) -> Record:
        """Write what was made of a brand, and return its record.

        Raises:
            BadInput: a file cannot be written.
        """
        before = self.record(brand.name)
        parts = dict(before.parts)
        files: dict[str, bytes] = {}
        for kind, part in made.parts.items():
            digests = {path: hashlib.sha256(data).hexdigest() for path, data in part.files.items()}
            parts[kind] = Kept(self.made_from(brand, kind), digests, part.values)
            files |= part.files
        old = {path: digest for kept in before.parts.values() for path, digest in kept.files.items()}
        there = {path for kept in parts.values() for path in kept.files}
        gone = [path for path, digest in old.items() if path not in there and self._digest(brand.name, path) == digest]
        record = Record(brand.name, parts, made.problems, round(before.seconds + made.seconds, 3))
        data = msgspec.json.format(msgspec.json.encode(record), indent=1) + b"\n"
        write_files(self.out, {f"{brand.name}/{path}": content for path, content in (*files.items(), (RECORD, data))})
        remove_files(self.out, [f"{brand.name}/{path}" for path in gone])
        return record
