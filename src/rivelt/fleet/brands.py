"""Rows of a table as brands: each is an overlay of the brief, whose problems are all known with their cells."""

from __future__ import annotations

import copy
import hashlib
import tomllib
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, get_type_hints

import msgspec
from msgspec import Struct

from rivelt.brief.faults import nearest
from rivelt.brief.find import narrowed, shown_path
from rivelt.brief.load import understand
from rivelt.brief.model import DERIVE, EDITION_NAME, TABLES, THE_BRIEF, Brief
from rivelt.brief.places import key_places
from rivelt.briefs import judged
from rivelt.disk.tree import relative_to
from rivelt.edit.toml import read_toml
from rivelt.errors import BadInput, Place, RiveltError, raise_all
from rivelt.fleet.table import Row, Table
from rivelt.platforms import TARGETS, platform_tables
from rivelt.project.files import DISK, Files
from rivelt.project.ignore import repository_top
from rivelt.units import LOOKS
from rivelt.values import replace

NAME = "name"
"""The column that names the brands."""

_STANDS_FOR_NAME = f"${NAME}"
_ART_KEYS = ("mark", "imprint", "backdrop")


class Brand(Struct, frozen=True):
    """One brand: its name, its row, its brief, and the SHA-256 of each file that this names, by the path in the brief.

    `base`: the brief that its row is laid over.
    """

    name: str
    row: int
    brief: Brief
    inputs: Mapping[str, str]
    base: Path

    @property
    def alone(self) -> Brief:
        """Its brief as that of the only brand in a project. Where it names no app of its own, it stands in for the brief that it is laid over."""
        options = self.brief.options
        keys = {f"{target}.{one.chosen[0]}" for target, one in options.items() if one.chosen[0]}
        has_own = bool(keys & self.brief.given) or any(one.is_part_of_site for one in options.values())
        return self.brief if has_own else replace(self.brief, path=self.base, edition="")


class Brands(Struct, frozen=True):
    """The brands of a table that can be made, in its order; and what is wrong with the others, each with its cell."""

    good: tuple[Brand, ...]
    problems: tuple[RiveltError, ...]
    bad: Mapping[int, str]
    """The rows that cannot be made, with what they call themselves."""


class BaseBrief:
    """The brief that rows are laid over: it need not be complete by itself."""

    def __init__(self, file: Path, only: Sequence[str] = (), files: Files = DISK) -> None:
        """Read a brief.

        Args:
            file: the brief, resolved.
            only: the targets that are wanted; all when empty.
            files: where it is, with its art.

        Raises:
            BadInput: it is not TOML.
        """
        from rivelt.briefs import bytes_of

        self.file = file
        self.shown = shown_path(file)
        data = bytes_of(file, files)
        whole = read_toml(data, self.shown)
        self.table = {key: value for key, value in whole.items() if key != "edition"}
        self.editions = tuple(whole.get("edition", ()))
        self.places = key_places(data.decode("utf-8-sig"), self.shown)
        self.only = tuple(only)
        self.source = _Inputs(file.parent, files)


class _Inputs:
    """The files that briefs name: each read once, and kept as its SHA-256; small ones that hold colours as they are."""

    def __init__(self, folder: Path, files: Files) -> None:
        self.files = files
        self._folder = folder
        self._digests: dict[str, str | RiveltError] = {}
        self._tokens: dict[str, bytes] = {}

    def _read(self, name: str) -> bytes:
        from rivelt.art.files import ArtFiles

        return ArtFiles(self._folder, repository_top(self._folder) or self._folder, files=self.files).data(name)

    def tokens(self, name: str) -> bytes:
        """Return the bytes of a file of design tokens."""
        if name not in self._tokens:
            self._tokens[name] = self._read(name)
        return self._tokens[name]

    def digest(self, name: str) -> str:
        """Return the SHA-256 of a file, in hex.

        Raises:
            BadInput: it cannot be read.
        """
        if name not in self._digests:
            try:
                data = self._tokens[name] if name in self._tokens else self._read(name)
                self._digests[name] = hashlib.sha256(data).hexdigest()
            except RiveltError as error:
                self._digests[name] = error
        found = self._digests[name]
        if isinstance(found, RiveltError):
            raise BadInput(found.message, hint=found.hint)
        return found


def brands_of(table: Table, base: BaseBrief, *, for_one_project: bool = False) -> Brands:
    """Return the brands of a table, laid over a brief; a bad row never stops the others.

    Args:
        table: the rows. Their columns are keys of the brief, such as `light.ground`; `name` names the brands. Columns that begin with # are notes.
        base: the brief. `$name` in a text of it, or of a cell, stands for the brand's name.
        for_one_project: all brands are written into one project, which then no row can choose.

    Raises:
        BadInput: a column is no key of a brief, or none is `name`; `Problems` for several.
    """
    kinds = _columns(table)
    good: list[Brand] = []
    problems: list[tuple[int, RiveltError]] = []
    taken: dict[str, int] = {}
    for row in table.rows:
        found = list(_name_problems(table, row, taken))
        name = str(row.cells.get(NAME, ""))
        if not found:
            taken[name.lower()] = row.number
        if for_one_project:
            found += _project_problems(table, row)
        if not found:
            try:
                good.append(_brand(table, row, name, kinds, base))
            except RiveltError as error:
                found += error.parts
        problems += [(row.number, one) for one in found]
    names = {row.number: str(row.cells.get(NAME, "")) for row in table.rows}
    bad = {number: names[number] for number, _ in problems}
    return Brands(tuple(good), tuple(_blamed(table, problems)), bad)


def _blamed(table: Table, problems: Sequence[tuple[int, RiveltError]]) -> Iterator[RiveltError]:
    """The problems, each at its cell: one of the brief's own, which every row has, once and in the brief."""
    rows = Counter((one.message, one.place) for _, one in problems)
    told: set[tuple[str, Place | None]] = set()
    for number, one in problems:
        key = (one.message, one.place)
        if one.place is not None and one.place.path == table.path:
            yield one
        elif rows[key] < len(table.rows):
            where = f" ({one.place})" if one.place is not None and one.place.path else ""
            yield BadInput(f"{one.message}{where}", place=table.place(number), hint=one.hint)
        elif key not in told:
            told.add(key)
            yield one


def _columns(table: Table) -> dict[str, Any]:
    """What the cells of each column may hold, by its name."""
    tables = {**TABLES, **platform_tables()}
    known = {
        f"{name}.{key}": hint
        for name, kind in tables.items()
        for key, hint in get_type_hints(kind, include_extras=True).items()
    }
    problems: list[RiveltError] = []
    for name in table.columns:
        if name and name not in known and name != NAME and not name.startswith("#"):
            near = nearest(name, [NAME, *known])
            hint = f"Did you mean {near}? " if near else ""
            hint += f"Put # before it if it is a note: #{name}"
            problems.append(
                BadInput(f"the column {name!r} is no key of a brief", place=table.place(1, name), hint=hint)
            )
    if NAME not in table.columns:
        hint = "Give each brand a short name of letters, digits, _ and -."
        problems.append(BadInput(f"the table has no column {NAME!r}", place=Place(table.path, 1), hint=hint))
    raise_all(problems)
    return known


def _name_problems(table: Table, row: Row, taken: Mapping[str, int]) -> Iterator[RiveltError]:
    at = table.place(row.number, NAME)
    name = row.cells.get(NAME)
    if name is None:
        yield BadInput("the brand has no name", place=at, hint="Give it one of letters, digits, _ and -.")
    elif not isinstance(name, str) or not EDITION_NAME.fullmatch(name) or name == THE_BRIEF:
        hint = "Use letters, digits, _ and -, beginning with a letter: it becomes a folder's name."
        yield BadInput(f"a brand cannot be called {name!r}", place=at, hint=hint)
    elif name.lower() in taken:
        message = f"{name} is the name of row {taken[name.lower()]} as well"
        yield BadInput(message, place=at, hint="Names differ by more than upper and lower case.")


def _project_problems(table: Table, row: Row) -> Iterator[RiveltError]:
    for key in ("app.project", "app.exclude"):
        if key in row.cells:
            hint = "Leave the cell empty; or make patches, for brands in repositories of their own."
            yield BadInput(
                f"a brand of one project cannot have an `{key}`", place=table.place(row.number, key), hint=hint
            )


def _value(cell: Any, kind: Any) -> Any:
    """A cell as what its key may hold: a text as it is where that is allowed, else as TOML writes values; as it is where it is neither."""
    text = cell if isinstance(cell, str) else None
    meant = [cell, str(cell)] if text is None else [text, *_as_toml(text)]
    if text is not None and text[0] in "{[":
        meant.reverse()
    for one in meant:
        try:
            msgspec.convert(one, type=kind, strict=True)
        except msgspec.ValidationError:
            continue
        return one
    return meant[-1] if text is not None else cell


def _as_toml(text: str) -> list[Any]:
    is_word = text.lower() in {"true", "false"}  # spreadsheets write TRUE
    try:
        return [tomllib.loads(f"value = {text.lower() if is_word else text}")["value"]] if "\n" not in text else []
    except (tomllib.TOMLDecodeError, RecursionError):
        return []


def _brand(table: Table, row: Row, name: str, kinds: Mapping[str, Any], base: BaseBrief) -> Brand:
    """The brand of a row.

    Raises:
        BadInput: its brief has a problem, or a file that it names cannot be read; `Problems` for several.
    """
    values = {key: _value(cell, kinds[key]) for key, cell in row.cells.items() if key in kinds}
    merged: dict[str, Any] = copy.deepcopy(base.table)
    for key, value in values.items():
        head, _, rest = key.partition(".")
        if not isinstance(merged.setdefault(head, {}), dict):
            raise BadInput(
                f"`{head}` must be a table", place=base.places.get(head), hint=f"Write [{head}] on a line of its own."
            )
        merged[head][rest] = value
    places = {**base.places, "edition": table.place(row.number, NAME)}
    for key in values:
        places[key] = places[f"{key}="] = table.place(row.number, key)
    brief = understand(
        _named(merged, name),
        # Its owner, in lock files, is the table; its art is found from the brief's folder.
        base.file.parent / Path(table.path).name,
        shown_path=base.shown,
        platform_tables=platform_tables(),
        places=places,
        read=base.source.tokens,
        judge=judged,
        art=lambda found: _missing(found, base),
        files=base.source.files,
    )
    brief = narrowed(replace(brief, edition=name, given=frozenset(values)), base.only, TARGETS)
    options = {target: options.for_edition(name, brief.given) for target, options in brief.options.items()}
    inputs = _inputs(brief, base)
    # From here on, places are relative to the project: they are read where there is another current folder, or another machine.
    shown = {base.shown: relative_to(base.file, brief.project), table.path: relative_to(brief.path, brief.project)}
    moved = {key: Place(shown.get(at.path, at.path), at.line, at.column) for key, at in brief.places.items()}
    return Brand(name, row.number, replace(brief, options=options, places=moved), inputs, base.file)


def _named(value: Any, name: str) -> Any:
    """A value with the brand's name in each of its texts."""
    if isinstance(value, str):
        return value.replace(_STANDS_FOR_NAME, name)
    if isinstance(value, dict):
        return {key: _named(one, name) for key, one in value.items()}
    return [_named(one, name) for one in value] if isinstance(value, list) else value


def _files_of(brief: Brief) -> dict[str, str]:
    """The files that a brief names, by key."""
    named = {f"{look}.{key}": getattr(brief.looks[look], key) for look in LOOKS for key in _ART_KEYS}
    for target, options in brief.options.items():
        named |= {f"{target}.{key}": path for key, path in options.files().items()}
    return {key: path for key, path in named.items() if path and path != DERIVE}


def _missing(brief: Brief, base: BaseBrief) -> Iterator[RiveltError]:
    """What is wrong with the files that a brief names: those that cannot be read."""
    told: set[str] = set()
    for key, path in _files_of(brief).items():
        try:
            base.source.digest(path)
        except RiveltError as error:
            if path not in told:
                yield error.at(brief.place(key))
            told.add(path)


def _inputs(brief: Brief, base: BaseBrief) -> dict[str, str]:
    """The files that a brief names, with their SHA-256.

    Raises:
        BadInput: one cannot be read; `Problems` for several.
    """
    raise_all(list(_missing(brief, base)))
    return {path: base.source.digest(path) for path in brief.named_files}
